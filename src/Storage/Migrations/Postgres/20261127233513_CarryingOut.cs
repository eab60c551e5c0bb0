using System;
using Microsoft.EntityFrameworkCore.Migrations;

#nullable disable

namespace ComeAboard.Storage.Migrations.Postgres
{
    /// <inheritdoc />
    public partial class CarryingOut : Migration
    {
        /// <inheritdoc />
        protected override void Up(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.AddColumn<DateTimeOffset>(
                name: "confirmed_at",
                table: "departures",
                type: "timestamp with time zone",
                nullable: true);

            migrationBuilder.AddColumn<Guid>(
                name: "heir_id",
                table: "departures",
                type: "uuid",
                nullable: true);

            migrationBuilder.AddColumn<string>(
                name: "receipt",
                table: "departures",
                type: "text",
                nullable: false,
                defaultValue: "");

            migrationBuilder.CreateTable(
                name: "accounts_there",
                columns: table => new
                {
                    workspace_id = table.Column<Guid>(type: "uuid", nullable: false),
                    connection_id = table.Column<Guid>(type: "uuid", nullable: false),
                    member_id = table.Column<Guid>(type: "uuid", nullable: false),
                    their_key = table.Column<string>(type: "text", nullable: false),
                    is_ours = table.Column<bool>(type: "boolean", nullable: false),
                    wanted = table.Column<string>(type: "character varying(16)", maxLength: 16, nullable: false),
                    wanted_groups = table.Column<string>(type: "text", nullable: false),
                    address = table.Column<string>(type: "text", nullable: false),
                    name = table.Column<string>(type: "text", nullable: false),
                    held = table.Column<string>(type: "character varying(16)", maxLength: 16, nullable: true),
                    held_groups = table.Column<string>(type: "text", nullable: false),
                    state = table.Column<string>(type: "character varying(16)", maxLength: 16, nullable: false),
                    urgency = table.Column<int>(type: "integer", nullable: false),
                    due_at = table.Column<DateTimeOffset>(type: "timestamp with time zone", nullable: true),
                    due_since = table.Column<DateTimeOffset>(type: "timestamp with time zone", nullable: true),
                    tries = table.Column<int>(type: "integer", nullable: false),
                    answer = table.Column<string>(type: "text", nullable: false),
                    confirmed_at = table.Column<DateTimeOffset>(type: "timestamp with time zone", nullable: true),
                    by_hand_name = table.Column<string>(type: "text", nullable: false),
                    by_hand_reason = table.Column<string>(type: "text", nullable: false),
                    departure_id = table.Column<Guid>(type: "uuid", nullable: true),
                    version = table.Column<int>(type: "integer", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_accounts_there", x => new { x.workspace_id, x.connection_id, x.member_id });
                });

            migrationBuilder.CreateTable(
                name: "connection_mapping",
                columns: table => new
                {
                    workspace_id = table.Column<Guid>(type: "uuid", nullable: false),
                    connection_id = table.Column<Guid>(type: "uuid", nullable: false),
                    id = table.Column<Guid>(type: "uuid", nullable: false),
                    of = table.Column<string>(type: "character varying(16)", maxLength: 16, nullable: false),
                    subject_id = table.Column<Guid>(type: "uuid", nullable: false),
                    least = table.Column<string>(type: "character varying(16)", maxLength: 16, nullable: false),
                    group_there = table.Column<string>(type: "character varying(200)", maxLength: 200, nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_connection_mapping", x => new { x.workspace_id, x.connection_id, x.id });
                });

            migrationBuilder.CreateTable(
                name: "lanes",
                columns: table => new
                {
                    workspace_id = table.Column<Guid>(type: "uuid", nullable: false),
                    id = table.Column<Guid>(type: "uuid", nullable: false),
                    state = table.Column<string>(type: "character varying(16)", maxLength: 16, nullable: false),
                    not_before = table.Column<DateTimeOffset>(type: "timestamp with time zone", nullable: true),
                    failures = table.Column<int>(type: "integer", nullable: false),
                    answer = table.Column<string>(type: "text", nullable: false),
                    down_since = table.Column<DateTimeOffset>(type: "timestamp with time zone", nullable: true),
                    confirmed_at = table.Column<DateTimeOffset>(type: "timestamp with time zone", nullable: true),
                    is_held = table.Column<bool>(type: "boolean", nullable: false),
                    compare_at = table.Column<DateTimeOffset>(type: "timestamp with time zone", nullable: true),
                    lease = table.Column<Guid>(type: "uuid", nullable: true),
                    leased_until = table.Column<DateTimeOffset>(type: "timestamp with time zone", nullable: true),
                    started_at = table.Column<DateTimeOffset>(type: "timestamp with time zone", nullable: true),
                    position = table.Column<int>(type: "integer", nullable: false),
                    done_at_start = table.Column<int>(type: "integer", nullable: false),
                    tries = table.Column<int>(type: "integer", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_lanes", x => new { x.workspace_id, x.id });
                });

            migrationBuilder.CreateTable(
                name: "receipt_keys",
                columns: table => new
                {
                    workspace_id = table.Column<Guid>(type: "uuid", nullable: false),
                    id = table.Column<string>(type: "character varying(43)", maxLength: 43, nullable: false),
                    made_at = table.Column<DateTimeOffset>(type: "timestamp with time zone", nullable: false),
                    secret = table.Column<string>(type: "text", nullable: false),
                    shown = table.Column<string>(type: "text", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_receipt_keys", x => new { x.workspace_id, x.id });
                });

            migrationBuilder.CreateIndex(
                name: "ix_departures_running",
                table: "departures",
                columns: new[] { "workspace_id", "id" },
                filter: "state = 'running'");

            migrationBuilder.CreateIndex(
                name: "ix_accounts_there_departure",
                table: "accounts_there",
                columns: new[] { "workspace_id", "departure_id" },
                filter: "departure_id IS NOT NULL");

            migrationBuilder.CreateIndex(
                name: "ix_accounts_there_due",
                table: "accounts_there",
                columns: new[] { "workspace_id", "connection_id", "urgency", "due_at" },
                filter: "due_at IS NOT NULL");

            migrationBuilder.CreateIndex(
                name: "ix_accounts_there_member",
                table: "accounts_there",
                columns: new[] { "workspace_id", "member_id" });

            migrationBuilder.CreateIndex(
                name: "ix_connection_mapping_once",
                table: "connection_mapping",
                columns: new[] { "workspace_id", "connection_id", "of", "subject_id", "least", "group_there" },
                unique: true);

            migrationBuilder.CreateIndex(
                name: "ix_lanes_compare",
                table: "lanes",
                column: "compare_at",
                filter: "compare_at IS NOT NULL");

            migrationBuilder.CreateIndex(
                name: "ix_lanes_working",
                table: "lanes",
                column: "state",
                filter: "state = 'working'");
        }

        /// <inheritdoc />
        protected override void Down(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.DropTable(
                name: "accounts_there");

            migrationBuilder.DropTable(
                name: "connection_mapping");

            migrationBuilder.DropTable(
                name: "lanes");

            migrationBuilder.DropTable(
                name: "receipt_keys");

            migrationBuilder.DropIndex(
                name: "ix_departures_running",
                table: "departures");

            migrationBuilder.DropColumn(
                name: "confirmed_at",
                table: "departures");

            migrationBuilder.DropColumn(
                name: "heir_id",
                table: "departures");

            migrationBuilder.DropColumn(
                name: "receipt",
                table: "departures");
        }
    }
}
