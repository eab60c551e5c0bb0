using System;
using Microsoft.EntityFrameworkCore.Migrations;

#nullable disable

namespace ComeAboard.Storage.Migrations.Sqlite
{
    /// <inheritdoc />
    public partial class Passkeys : Migration
    {
        /// <inheritdoc />
        protected override void Up(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.AddColumn<string>(
                name: "handle",
                table: "credentials",
                type: "TEXT",
                maxLength: 1400,
                nullable: false,
                defaultValue: "");

            migrationBuilder.CreateTable(
                name: "ceremonies",
                columns: table => new
                {
                    id = table.Column<Guid>(type: "TEXT", nullable: false),
                    account_id = table.Column<Guid>(type: "TEXT", nullable: false),
                    state = table.Column<string>(type: "TEXT", nullable: false),
                    expires_at = table.Column<long>(type: "INTEGER", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_ceremonies", x => x.id);
                });

            migrationBuilder.CreateIndex(
                name: "ix_credentials_handle",
                table: "credentials",
                column: "handle",
                unique: true,
                filter: "handle <> ''");

            migrationBuilder.Sql(
                """
                INSERT INTO sqlite_stat1 (tbl, idx, stat) VALUES
                ('ceremonies', 'sqlite_autoindex_ceremonies_1', '200000 1'),
                ('credentials', 'ix_credentials_handle', '200000 1');
                """);
            migrationBuilder.Sql("ANALYZE sqlite_master;");
        }

        /// <inheritdoc />
        protected override void Down(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.DropTable(
                name: "ceremonies");

            migrationBuilder.DropIndex(
                name: "ix_credentials_handle",
                table: "credentials");

            migrationBuilder.DropColumn(
                name: "handle",
                table: "credentials");
        }
    }
}
