using System;
using Microsoft.EntityFrameworkCore.Migrations;

#nullable disable

namespace ComeAboard.Storage.Migrations.Sqlite
{
    /// <inheritdoc />
    public partial class Proposals : Migration
    {
        /// <inheritdoc />
        protected override void Up(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.CreateTable(
                name: "proposals",
                columns: table => new
                {
                    workspace_id = table.Column<Guid>(type: "TEXT", nullable: false),
                    id = table.Column<Guid>(type: "TEXT", nullable: false),
                    account_id = table.Column<Guid>(type: "TEXT", nullable: false),
                    name = table.Column<string>(type: "TEXT", maxLength: 100, nullable: false),
                    address = table.Column<string>(type: "TEXT", nullable: false),
                    reason = table.Column<string>(type: "TEXT", nullable: false),
                    made_by_name = table.Column<string>(type: "TEXT", maxLength: 100, nullable: false),
                    made_at = table.Column<long>(type: "INTEGER", nullable: false),
                    lapses_at = table.Column<long>(type: "INTEGER", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_proposals", x => new { x.workspace_id, x.id });
                    table.ForeignKey(
                        name: "fk_proposals_accounts_account_id",
                        column: x => x.account_id,
                        principalTable: "accounts",
                        principalColumn: "id",
                        onDelete: ReferentialAction.Cascade);
                });

            migrationBuilder.CreateIndex(
                name: "ix_proposals_account_id",
                table: "proposals",
                column: "account_id");

            migrationBuilder.CreateIndex(
                name: "ix_proposals_workspace_id_account_id",
                table: "proposals",
                columns: new[] { "workspace_id", "account_id" },
                unique: true);

            migrationBuilder.Sql(
                """
                INSERT INTO sqlite_stat1 (tbl, idx, stat) VALUES
                ('proposals', 'sqlite_autoindex_proposals_1', '1000 10 1'),
                ('proposals', 'ix_proposals_account_id', '1000 1'),
                ('proposals', 'ix_proposals_workspace_id_account_id', '1000 10 1');
                """);
            migrationBuilder.Sql("ANALYZE sqlite_master;");
        }

        /// <inheritdoc />
        protected override void Down(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.DropTable(
                name: "proposals");
        }
    }
}
