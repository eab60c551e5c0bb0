using System;
using Microsoft.EntityFrameworkCore.Migrations;

#nullable disable

namespace ComeAboard.Storage.Migrations.Postgres
{
    /// <inheritdoc />
    public partial class PeopleHereTwice : Migration
    {
        /// <inheritdoc />
        protected override void Up(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.AddColumn<DateTimeOffset>(
                name: "match_due_at",
                table: "workspaces",
                type: "timestamp with time zone",
                nullable: false,
                defaultValue: new DateTimeOffset(new DateTime(1, 1, 1, 0, 0, 0, 0, DateTimeKind.Unspecified), new TimeSpan(0, 0, 0, 0, 0)));

            migrationBuilder.CreateTable(
                name: "duplicates",
                columns: table => new
                {
                    workspace_id = table.Column<Guid>(type: "uuid", nullable: false),
                    id = table.Column<Guid>(type: "uuid", nullable: false),
                    left_id = table.Column<Guid>(type: "uuid", nullable: false),
                    right_id = table.Column<Guid>(type: "uuid", nullable: false),
                    score = table.Column<int>(type: "integer", nullable: false),
                    reasons = table.Column<string>(type: "text", nullable: false),
                    found_at = table.Column<DateTimeOffset>(type: "timestamp with time zone", nullable: false),
                    distinct_at = table.Column<DateTimeOffset>(type: "timestamp with time zone", nullable: true),
                    distinct_by_id = table.Column<Guid>(type: "uuid", nullable: true),
                    distinct_by_name = table.Column<string>(type: "text", nullable: false),
                    distinct_reason = table.Column<string>(type: "text", nullable: false)
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
