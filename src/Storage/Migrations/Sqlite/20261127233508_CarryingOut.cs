using System;
using Microsoft.EntityFrameworkCore.Migrations;

#nullable disable

namespace ComeAboard.Storage.Migrations.Sqlite
{
    /// <inheritdoc />
    public partial class CarryingOut : Migration
    {
        /// <inheritdoc />
        protected override void Up(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.AddColumn<long>(
                name: "confirmed_at",
                table: "departures",
                type: "INTEGER",
                nullable: true);

            migrationBuilder.AddColumn<Guid>(
                name: "heir_id",
                table: "departures",
                type: "TEXT",
                nullable: true);

            migrationBuilder.AddColumn<string>(
                name: "receipt",
                table: "departures",
                type: "TEXT",
                nullable: false,
                defaultValue: "");

            migrationBuilder.CreateTable(
                name: "accounts_there",
                columns: table => new
                {
                    workspace_id = table.Column<Guid>(type: "TEXT", nullable: false),
                    connection_id = table.Column<Guid>(type: "TEXT", nullable: false),
                    member_id = table.Column<Guid>(type: "TEXT", nullable: false),
                    their_key = table.Column<string>(type: "TEXT", nullable: false),
                    is_ours = table.Column<bool>(type: "INTEGER", nullable: false),
                    wanted = table.Column<string>(type: "TEXT", maxLength: 16, nullable: false),
                    wanted_groups = table.Column<string>(type: "TEXT", nullable: false),
                    address = table.Column<string>(type: "TEXT", nullable: false),
                    name = table.Column<string>(type: "TEXT", nullable: false),
                    held = table.Column<string>(type: "TEXT", maxLength: 16, nullable: true),
                    held_groups = table.Column<string>(type: "TEXT", nullable: false),
                    state = table.Column<string>(type: "TEXT", maxLength: 16, nullable: false),
                    urgency = table.Column<int>(type: "INTEGER", nullable: false),
                    due_at = table.Column<long>(type: "INTEGER", nullable: true),
                    due_since = table.Column<long>(type: "INTEGER", nullable: true),
                    tries = table.Column<int>(type: "INTEGER", nullable: false),
                    answer = table.Column<string>(type: "TEXT", nullable: false),
                    confirmed_at = table.Column<long>(type: "INTEGER", nullable: true),
                    by_hand_name = table.Column<string>(type: "TEXT", nullable: false),
                    by_hand_reason = table.Column<string>(type: "TEXT", nullable: false),
                    departure_id = table.Column<Guid>(type: "TEXT", nullable: true),
                    version = table.Column<int>(type: "INTEGER", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_accounts_there", x => new { x.workspace_id, x.connection_id, x.member_id });
                });

            migrationBuilder.CreateTable(
                name: "connection_mapping",
                columns: table => new
                {
                    workspace_id = table.Column<Guid>(type: "TEXT", nullable: false),
                    connection_id = table.Column<Guid>(type: "TEXT", nullable: false),
                    id = table.Column<Guid>(type: "TEXT", nullable: false),
                    of = table.Column<string>(type: "TEXT", maxLength: 16, nullable: false),
                    subject_id = table.Column<Guid>(type: "TEXT", nullable: false),
                    least = table.Column<string>(type: "TEXT", maxLength: 16, nullable: false),
                    group_there = table.Column<string>(type: "TEXT", maxLength: 200, nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_connection_mapping", x => new { x.workspace_id, x.connection_id, x.id });
                });

            migrationBuilder.CreateTable(
                name: "lanes",
                columns: table => new
                {
                    workspace_id = table.Column<Guid>(type: "TEXT", nullable: false),
                    id = table.Column<Guid>(type: "TEXT", nullable: false),
                    state = table.Column<string>(type: "TEXT", maxLength: 16, nullable: false),
                    not_before = table.Column<long>(type: "INTEGER", nullable: true),
                    failures = table.Column<int>(type: "INTEGER", nullable: false),
                    answer = table.Column<string>(type: "TEXT", nullable: false),
                    down_since = table.Column<long>(type: "INTEGER", nullable: true),
                    confirmed_at = table.Column<long>(type: "INTEGER", nullable: true),
                    is_held = table.Column<bool>(type: "INTEGER", nullable: false),
                    compare_at = table.Column<long>(type: "INTEGER", nullable: true),
                    lease = table.Column<Guid>(type: "TEXT", nullable: true),
                    leased_until = table.Column<long>(type: "INTEGER", nullable: true),
                    started_at = table.Column<long>(type: "INTEGER", nullable: true),
                    position = table.Column<int>(type: "INTEGER", nullable: false),
                    done_at_start = table.Column<int>(type: "INTEGER", nullable: false),
                    tries = table.Column<int>(type: "INTEGER", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_lanes", x => new { x.workspace_id, x.id });
                });

            migrationBuilder.CreateTable(
                name: "receipt_keys",
                columns: table => new
                {
                    workspace_id = table.Column<Guid>(type: "TEXT", nullable: false),
                    id = table.Column<string>(type: "TEXT", maxLength: 43, nullable: false),
                    made_at = table.Column<long>(type: "INTEGER", nullable: false),
                    secret = table.Column<string>(type: "TEXT", nullable: false),
                    shown = table.Column<string>(type: "TEXT", nullable: false)
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

            migrationBuilder.Sql(
                """
                INSERT INTO sqlite_stat1 (tbl, idx, stat) VALUES
                    ('connection_mapping', 'sqlite_autoindex_connection_mapping_1', '10000 50 10 1'),
                    ('connection_mapping', 'ix_connection_mapping_once', '10000 50 10 5 2 2 1'),
                    ('lanes', 'sqlite_autoindex_lanes_1', '1000 5 1'),
                    ('lanes', 'ix_lanes_working', '50 25'),
                    ('lanes', 'ix_lanes_compare', '1000 1'),
                    ('accounts_there', 'sqlite_autoindex_accounts_there_1', '1000000 10000 5000 1'),
                    ('accounts_there', 'ix_accounts_there_due', '10000 100 50 25 1'),
                    ('accounts_there', 'ix_accounts_there_member', '1000000 10000 2'),
                    ('accounts_there', 'ix_accounts_there_departure', '100000 1000 2'),
                    ('departures', 'ix_departures_running', '1000 10 1'),
                    ('receipt_keys', 'sqlite_autoindex_receipt_keys_1', '1000 2 1');
                ANALYZE sqlite_master;
                """
            );
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
