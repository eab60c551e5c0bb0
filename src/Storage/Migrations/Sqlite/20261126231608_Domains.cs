using System;
using Microsoft.EntityFrameworkCore.Migrations;

#nullable disable

namespace ComeAboard.Storage.Migrations.Sqlite
{
    /// <inheritdoc />
    public partial class Domains : Migration
    {
        /// <inheritdoc />
        protected override void Up(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.CreateTable(
                name: "domains",
                columns: table => new
                {
                    workspace_id = table.Column<Guid>(type: "TEXT", nullable: false),
                    id = table.Column<Guid>(type: "TEXT", nullable: false),
                    domain = table.Column<string>(type: "TEXT", maxLength: 255, nullable: false),
                    token = table.Column<string>(type: "TEXT", maxLength: 64, nullable: false),
                    added_at = table.Column<long>(type: "INTEGER", nullable: false),
                    proved_at = table.Column<long>(type: "INTEGER", nullable: true),
                    shown_at = table.Column<long>(type: "INTEGER", nullable: true),
                    missing_since = table.Column<long>(type: "INTEGER", nullable: true),
                    warned = table.Column<bool>(type: "INTEGER", nullable: false),
                    holds = table.Column<string>(type: "TEXT", maxLength: 255, nullable: true),
                    last_look = table.Column<string>(type: "TEXT", maxLength: 16, nullable: true),
                    looked_at = table.Column<long>(type: "INTEGER", nullable: true),
                    next_look_at = table.Column<long>(type: "INTEGER", nullable: false),
                    version = table.Column<int>(type: "INTEGER", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_domains", x => new { x.workspace_id, x.id });
                });

            migrationBuilder.CreateIndex(
                name: "ix_domains_holds",
                table: "domains",
                column: "holds",
                unique: true,
                filter: "holds IS NOT NULL");

            migrationBuilder.CreateIndex(
                name: "ix_domains_next_look_at",
                table: "domains",
                column: "next_look_at");

            migrationBuilder.CreateIndex(
                name: "ix_domains_workspace_id_domain",
                table: "domains",
                columns: new[] { "workspace_id", "domain" },
                unique: true);

            migrationBuilder.Sql(
                """
                INSERT INTO sqlite_stat1 (tbl, idx, stat) VALUES
                ('domains', 'sqlite_autoindex_domains_1', '10000 10 1'),
                ('domains', 'ix_domains_workspace_id_domain', '10000 10 1'),
                ('domains', 'ix_domains_holds', '10000 1'),
                ('domains', 'ix_domains_next_look_at', '10000 1');
                """);
            migrationBuilder.Sql("ANALYZE sqlite_master;");
        }

        /// <inheritdoc />
        protected override void Down(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.DropTable(
                name: "domains");
        }
    }
}
