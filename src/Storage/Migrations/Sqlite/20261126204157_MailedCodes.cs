using System;
using Microsoft.EntityFrameworkCore.Migrations;

#nullable disable

namespace ComeAboard.Storage.Migrations.Sqlite
{
    /// <inheritdoc />
    public partial class MailedCodes : Migration
    {
        /// <inheritdoc />
        protected override void Up(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.DropTable(
                name: "address_codes");

            migrationBuilder.CreateTable(
                name: "mailed_codes",
                columns: table => new
                {
                    purpose = table.Column<string>(type: "TEXT", maxLength: 16, nullable: false),
                    subject_id = table.Column<Guid>(type: "TEXT", nullable: false),
                    account_id = table.Column<Guid>(type: "TEXT", nullable: false),
                    address_key = table.Column<string>(type: "TEXT", maxLength: 400, nullable: false),
                    code_hash = table.Column<string>(type: "TEXT", maxLength: 64, nullable: false),
                    expires_at = table.Column<long>(type: "INTEGER", nullable: false),
                    asked_at = table.Column<long>(type: "INTEGER", nullable: false),
                    tries = table.Column<int>(type: "INTEGER", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_mailed_codes", x => new { x.purpose, x.subject_id, x.account_id, x.address_key });
                });

            migrationBuilder.Sql(
                "INSERT INTO sqlite_stat1 (tbl, idx, stat) VALUES ('mailed_codes', 'sqlite_autoindex_mailed_codes_1', '200000 100000 2 2 1');");
            migrationBuilder.Sql("ANALYZE sqlite_master;");
        }

        /// <inheritdoc />
        protected override void Down(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.DropTable(
                name: "mailed_codes");

            migrationBuilder.CreateTable(
                name: "address_codes",
                columns: table => new
                {
                    workspace_id = table.Column<Guid>(type: "TEXT", nullable: false),
                    invitation_id = table.Column<Guid>(type: "TEXT", nullable: false),
                    account_id = table.Column<Guid>(type: "TEXT", nullable: false),
                    address_key = table.Column<string>(type: "TEXT", nullable: false),
                    asked_at = table.Column<long>(type: "INTEGER", nullable: false),
                    code_hash = table.Column<string>(type: "TEXT", nullable: false),
                    expires_at = table.Column<long>(type: "INTEGER", nullable: false),
                    tries = table.Column<int>(type: "INTEGER", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_address_codes", x => new { x.workspace_id, x.invitation_id, x.account_id, x.address_key });
                });
        }
    }
}
