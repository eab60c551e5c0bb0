using System;
using Microsoft.EntityFrameworkCore.Migrations;

#nullable disable

namespace ComeAboard.Storage.Migrations.Sqlite
{
    /// <inheritdoc />
    public partial class AccountsMadeOne : Migration
    {
        /// <inheritdoc />
        protected override void Up(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.AddColumn<Guid>(
                name: "merged_into_id",
                table: "members",
                type: "TEXT",
                nullable: true);

            migrationBuilder.AddColumn<bool>(
                name: "is_on_purpose",
                table: "duplicates",
                type: "INTEGER",
                nullable: false,
                defaultValue: false);

            migrationBuilder.AddColumn<Guid>(
                name: "merged_into_id",
                table: "accounts",
                type: "TEXT",
                nullable: true);

            migrationBuilder.CreateTable(
                name: "account_merges",
                columns: table => new
                {
                    id = table.Column<Guid>(type: "TEXT", nullable: false),
                    kept_id = table.Column<Guid>(type: "TEXT", nullable: false),
                    gone_id = table.Column<Guid>(type: "TEXT", nullable: false),
                    at = table.Column<long>(type: "INTEGER", nullable: false),
                    by_workspace_id = table.Column<Guid>(type: "TEXT", nullable: true),
                    undone_at = table.Column<long>(type: "INTEGER", nullable: true),
                    forgotten_at = table.Column<long>(type: "INTEGER", nullable: true),
                    brought = table.Column<string>(type: "TEXT", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_account_merges", x => x.id);
                    table.ForeignKey(
                        name: "fk_account_merges_accounts_gone_id",
                        column: x => x.gone_id,
                        principalTable: "accounts",
                        principalColumn: "id",
                        onDelete: ReferentialAction.Cascade);
                    table.ForeignKey(
                        name: "fk_account_merges_accounts_kept_id",
                        column: x => x.kept_id,
                        principalTable: "accounts",
                        principalColumn: "id",
                        onDelete: ReferentialAction.Cascade);
                });

            migrationBuilder.CreateTable(
                name: "member_merges",
                columns: table => new
                {
                    workspace_id = table.Column<Guid>(type: "TEXT", nullable: false),
                    id = table.Column<Guid>(type: "TEXT", nullable: false),
                    kept_id = table.Column<Guid>(type: "TEXT", nullable: true),
                    kept_name = table.Column<string>(type: "TEXT", maxLength: 100, nullable: false),
                    kept_address = table.Column<string>(type: "TEXT", nullable: false),
                    gone_id = table.Column<Guid>(type: "TEXT", nullable: true),
                    gone_name = table.Column<string>(type: "TEXT", maxLength: 100, nullable: false),
                    gone_address = table.Column<string>(type: "TEXT", nullable: false),
                    at = table.Column<long>(type: "INTEGER", nullable: false),
                    by_name = table.Column<string>(type: "TEXT", maxLength: 100, nullable: false),
                    is_own = table.Column<bool>(type: "INTEGER", nullable: false),
                    undone_at = table.Column<long>(type: "INTEGER", nullable: true),
                    undone_by_name = table.Column<string>(type: "TEXT", maxLength: 100, nullable: false),
                    steps = table.Column<string>(type: "TEXT", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_member_merges", x => new { x.workspace_id, x.id });
                });

            migrationBuilder.CreateIndex(
                name: "ix_members_merged",
                table: "members",
                columns: new[] { "workspace_id", "merged_into_id" },
                filter: "merged_into_id IS NOT NULL");

            migrationBuilder.CreateIndex(
                name: "ix_account_merges_gone_id",
                table: "account_merges",
                column: "gone_id");

            migrationBuilder.CreateIndex(
                name: "ix_account_merges_kept_id",
                table: "account_merges",
                column: "kept_id");

            migrationBuilder.CreateIndex(
                name: "ix_account_merges_resting",
                table: "account_merges",
                column: "at",
                filter: "undone_at IS NULL AND forgotten_at IS NULL");

            migrationBuilder.CreateIndex(
                name: "ix_member_merges_id",
                table: "member_merges",
                column: "id");

            migrationBuilder.CreateIndex(
                name: "ix_member_merges_workspace_id_gone_id",
                table: "member_merges",
                columns: new[] { "workspace_id", "gone_id" });

            migrationBuilder.CreateIndex(
                name: "ix_member_merges_workspace_id_kept_id",
                table: "member_merges",
                columns: new[] { "workspace_id", "kept_id" });

            migrationBuilder.Sql(
                """
                INSERT INTO sqlite_stat1 (tbl, idx, stat) VALUES
                    ('members', 'ix_members_merged', '1000 100 1'),
                    ('account_merges', 'sqlite_autoindex_account_merges_1', '10000 1'),
                    ('account_merges', 'ix_account_merges_gone_id', '10000 1'),
                    ('account_merges', 'ix_account_merges_kept_id', '10000 2'),
                    ('account_merges', 'ix_account_merges_resting', '1000 1'),
                    ('member_merges', 'sqlite_autoindex_member_merges_1', '10000 100 1'),
                    ('member_merges', 'ix_member_merges_id', '10000 1'),
                    ('member_merges', 'ix_member_merges_workspace_id_gone_id', '10000 100 1'),
                    ('member_merges', 'ix_member_merges_workspace_id_kept_id', '10000 100 2');
                ANALYZE sqlite_master;
                """
            );
        }

        /// <inheritdoc />
        protected override void Down(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.DropTable(
                name: "account_merges");

            migrationBuilder.DropTable(
                name: "member_merges");

            migrationBuilder.DropIndex(
                name: "ix_members_merged",
                table: "members");

            migrationBuilder.DropColumn(
                name: "merged_into_id",
                table: "members");

            migrationBuilder.DropColumn(
                name: "is_on_purpose",
                table: "duplicates");

            migrationBuilder.DropColumn(
                name: "merged_into_id",
                table: "accounts");
        }
    }
}
