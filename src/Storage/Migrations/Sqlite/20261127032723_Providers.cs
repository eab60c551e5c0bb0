using System;
using Microsoft.EntityFrameworkCore.Migrations;

#nullable disable

namespace ComeAboard.Storage.Migrations.Sqlite
{
    /// <inheritdoc />
    public partial class Providers : Migration
    {
        /// <inheritdoc />
        protected override void Up(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.AddColumn<Guid>(
                name: "provider_id",
                table: "domains",
                type: "TEXT",
                nullable: true);

            migrationBuilder.CreateTable(
                name: "providers",
                columns: table => new
                {
                    workspace_id = table.Column<Guid>(type: "TEXT", nullable: false),
                    id = table.Column<Guid>(type: "TEXT", nullable: false),
                    name = table.Column<string>(type: "TEXT", maxLength: 100, nullable: false),
                    name_key = table.Column<string>(type: "TEXT", maxLength: 100, nullable: false),
                    issuer = table.Column<string>(type: "TEXT", maxLength: 500, nullable: false),
                    client_id = table.Column<string>(type: "TEXT", maxLength: 500, nullable: false),
                    secret = table.Column<string>(type: "TEXT", maxLength: 4000, nullable: false),
                    join_link_id = table.Column<Guid>(type: "TEXT", nullable: true),
                    added_at = table.Column<long>(type: "INTEGER", nullable: false),
                    added_by_name = table.Column<string>(type: "TEXT", maxLength: 100, nullable: false),
                    version = table.Column<int>(type: "INTEGER", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_providers", x => new { x.workspace_id, x.id });
                });

            migrationBuilder.CreateIndex(
                name: "ix_domains_provider_id",
                table: "domains",
                column: "provider_id",
                filter: "provider_id IS NOT NULL");

            migrationBuilder.CreateIndex(
                name: "ix_providers_id",
                table: "providers",
                column: "id",
                unique: true);

            migrationBuilder.CreateIndex(
                name: "ix_providers_workspace_id_name_key",
                table: "providers",
                columns: new[] { "workspace_id", "name_key" },
                unique: true);

            migrationBuilder.Sql(
                """
                INSERT INTO sqlite_stat1 (tbl, idx, stat) VALUES
                ('providers', 'sqlite_autoindex_providers_1', '1000 10 1'),
                ('providers', 'ix_providers_id', '1000 1'),
                ('providers', 'ix_providers_workspace_id_name_key', '1000 10 1'),
                ('domains', 'ix_domains_provider_id', '1000 2');
                """);
            migrationBuilder.Sql("ANALYZE sqlite_master;");
        }

        /// <inheritdoc />
        protected override void Down(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.DropTable(
                name: "providers");

            migrationBuilder.DropIndex(
                name: "ix_domains_provider_id",
                table: "domains");

            migrationBuilder.DropColumn(
                name: "provider_id",
                table: "domains");
        }
    }
}
