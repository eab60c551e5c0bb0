using System;
using Microsoft.EntityFrameworkCore.Migrations;

#nullable disable

namespace ComeAboard.Storage.Migrations.Sqlite
{
    /// <inheritdoc />
    public partial class PeopleHereTwice : Migration
    {
        /// <inheritdoc />
        protected override void Up(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.AddColumn<long>(
                name: "match_due_at",
                table: "workspaces",
                type: "INTEGER",
                nullable: false,
                defaultValue: 0L);

            migrationBuilder.CreateTable(
                name: "duplicates",
                columns: table => new
                {
                    workspace_id = table.Column<Guid>(type: "TEXT", nullable: false),
                    id = table.Column<Guid>(type: "TEXT", nullable: false),
                    left_id = table.Column<Guid>(type: "TEXT", nullable: false),
                    right_id = table.Column<Guid>(type: "TEXT", nullable: false),
                    score = table.Column<int>(type: "INTEGER", nullable: false),
                    reasons = table.Column<string>(type: "TEXT", nullable: false),
                    found_at = table.Column<long>(type: "INTEGER", nullable: false),
                    distinct_at = table.Column<long>(type: "INTEGER", nullable: true),
                    distinct_by_id = table.Column<Guid>(type: "TEXT", nullable: true),
                    distinct_by_name = table.Column<string>(type: "TEXT", nullable: false),
                    distinct_reason = table.Column<string>(type: "TEXT", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_duplicates", x => new { x.workspace_id, x.id });
                });

            migrationBuilder.CreateIndex(
                name: "ix_workspaces_match_due_at",
                table: "workspaces",
                column: "match_due_at");

            migrationBuilder.CreateIndex(
                name: "ix_deliveries_leased",
                table: "deliveries",
                column: "lease",
                filter: "settled_at IS NULL AND lease IS NOT NULL");

            migrationBuilder.CreateIndex(
                name: "ix_duplicates_open",
                table: "duplicates",
                columns: new[] { "workspace_id", "score" },
                filter: "distinct_at IS NULL");

            migrationBuilder.CreateIndex(
                name: "ix_duplicates_workspace_id_left_id_right_id",
                table: "duplicates",
                columns: new[] { "workspace_id", "left_id", "right_id" },
                unique: true);

            migrationBuilder.Sql(
                """
                INSERT INTO sqlite_stat1 (tbl, idx, stat) VALUES
                    ('duplicates', 'sqlite_autoindex_duplicates_1', '100000 1000 1'),
                    ('duplicates', 'ix_duplicates_open', '100000 1000 2'),
                    ('duplicates', 'ix_duplicates_workspace_id_left_id_right_id', '100000 1000 2 1'),
                    ('deliveries', 'ix_deliveries_leased', '1000 100'),
                    ('workspaces', 'ix_workspaces_match_due_at', '1000 1');
                ANALYZE sqlite_master;
                """
            );
        }

        /// <inheritdoc />
        protected override void Down(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.DropTable(
                name: "duplicates");

            migrationBuilder.DropIndex(
                name: "ix_workspaces_match_due_at",
                table: "workspaces");

            migrationBuilder.DropIndex(
                name: "ix_deliveries_leased",
                table: "deliveries");

            migrationBuilder.DropColumn(
                name: "match_due_at",
                table: "workspaces");
        }
    }
}
