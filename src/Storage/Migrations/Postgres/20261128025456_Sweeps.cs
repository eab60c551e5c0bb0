using System;
using Microsoft.EntityFrameworkCore.Migrations;

#nullable disable

namespace ComeAboard.Storage.Migrations.Postgres
{
    /// <inheritdoc />
    public partial class Sweeps : Migration
    {
        /// <inheritdoc />
        protected override void Up(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.AddColumn<string>(
                name: "sweep_answer",
                table: "lanes",
                type: "text",
                nullable: false,
                defaultValue: "");

            migrationBuilder.AddColumn<DateTimeOffset>(
                name: "sweep_at",
                table: "lanes",
                type: "timestamp with time zone",
                nullable: true);

            migrationBuilder.AddColumn<DateTimeOffset>(
                name: "swept_at",
                table: "lanes",
                type: "timestamp with time zone",
                nullable: true);

            migrationBuilder.AddColumn<DateOnly>(
                name: "wanted_last_day",
                table: "accounts_there",
                type: "date",
                nullable: true);

            migrationBuilder.CreateTable(
                name: "events_sent",
                columns: table => new
                {
                    workspace_id = table.Column<Guid>(type: "uuid", nullable: false),
                    id = table.Column<Guid>(type: "uuid", nullable: false),
                    connection_id = table.Column<Guid>(type: "uuid", nullable: false),
                    member_id = table.Column<Guid>(type: "uuid", nullable: false),
                    version = table.Column<int>(type: "integer", nullable: false),
                    sentence = table.Column<string>(type: "text", nullable: false),
                    at = table.Column<DateTimeOffset>(type: "timestamp with time zone", nullable: false),
                    body = table.Column<string>(type: "text", nullable: false),
                    tries = table.Column<int>(type: "integer", nullable: false),
                    tried_at = table.Column<DateTimeOffset>(type: "timestamp with time zone", nullable: true),
                    accepted_at = table.Column<DateTimeOffset>(type: "timestamp with time zone", nullable: true),
                    answer = table.Column<string>(type: "text", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_events_sent", x => new { x.workspace_id, x.id });
                });

            migrationBuilder.CreateTable(
                name: "left_overs",
                columns: table => new
                {
                    workspace_id = table.Column<Guid>(type: "uuid", nullable: false),
                    connection_id = table.Column<Guid>(type: "uuid", nullable: false),
                    their_key = table.Column<string>(type: "character varying(400)", maxLength: 400, nullable: false),
                    sign_in_name = table.Column<string>(type: "text", nullable: false),
                    name = table.Column<string>(type: "text", nullable: false),
                    found_at = table.Column<DateTimeOffset>(type: "timestamp with time zone", nullable: false),
                    left_until = table.Column<DateOnly>(type: "date", nullable: true),
                    left_reason = table.Column<string>(type: "text", nullable: false),
                    left_by_name = table.Column<string>(type: "text", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_left_overs", x => new { x.workspace_id, x.connection_id, x.their_key });
                });

            // Whatever is carried out to already is looked at soon.
            migrationBuilder.Sql("UPDATE lanes SET sweep_at = '2000-01-01T00:00:00Z';");

            migrationBuilder.CreateIndex(
                name: "ix_lanes_sweep",
                table: "lanes",
                column: "sweep_at",
                filter: "sweep_at IS NOT NULL");

            migrationBuilder.CreateIndex(
                name: "ix_events_sent_at",
                table: "events_sent",
                column: "at");

            migrationBuilder.CreateIndex(
                name: "ix_events_sent_wish",
                table: "events_sent",
                columns: new[] { "workspace_id", "connection_id", "member_id", "version" });
        }

        /// <inheritdoc />
        protected override void Down(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.DropTable(
                name: "events_sent");

            migrationBuilder.DropTable(
                name: "left_overs");

            migrationBuilder.DropIndex(
                name: "ix_lanes_sweep",
                table: "lanes");

            migrationBuilder.DropColumn(
                name: "sweep_answer",
                table: "lanes");

            migrationBuilder.DropColumn(
                name: "sweep_at",
                table: "lanes");

            migrationBuilder.DropColumn(
                name: "swept_at",
                table: "lanes");

            migrationBuilder.DropColumn(
                name: "wanted_last_day",
                table: "accounts_there");
        }
    }
}
