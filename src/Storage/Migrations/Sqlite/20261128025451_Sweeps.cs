using System;
using Microsoft.EntityFrameworkCore.Migrations;

#nullable disable

namespace ComeAboard.Storage.Migrations.Sqlite
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
                type: "TEXT",
                nullable: false,
                defaultValue: "");

            migrationBuilder.AddColumn<long>(
                name: "sweep_at",
                table: "lanes",
                type: "INTEGER",
                nullable: true);

            migrationBuilder.AddColumn<long>(
                name: "swept_at",
                table: "lanes",
                type: "INTEGER",
                nullable: true);

            migrationBuilder.AddColumn<DateOnly>(
                name: "wanted_last_day",
                table: "accounts_there",
                type: "TEXT",
                nullable: true);

            migrationBuilder.CreateTable(
                name: "events_sent",
                columns: table => new
                {
                    workspace_id = table.Column<Guid>(type: "TEXT", nullable: false),
                    id = table.Column<Guid>(type: "TEXT", nullable: false),
                    connection_id = table.Column<Guid>(type: "TEXT", nullable: false),
                    member_id = table.Column<Guid>(type: "TEXT", nullable: false),
                    version = table.Column<int>(type: "INTEGER", nullable: false),
                    sentence = table.Column<string>(type: "TEXT", nullable: false),
                    at = table.Column<long>(type: "INTEGER", nullable: false),
                    body = table.Column<string>(type: "TEXT", nullable: false),
                    tries = table.Column<int>(type: "INTEGER", nullable: false),
                    tried_at = table.Column<long>(type: "INTEGER", nullable: true),
                    accepted_at = table.Column<long>(type: "INTEGER", nullable: true),
                    answer = table.Column<string>(type: "TEXT", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_events_sent", x => new { x.workspace_id, x.id });
                });

            migrationBuilder.CreateTable(
                name: "left_overs",
                columns: table => new
                {
                    workspace_id = table.Column<Guid>(type: "TEXT", nullable: false),
                    connection_id = table.Column<Guid>(type: "TEXT", nullable: false),
                    their_key = table.Column<string>(type: "TEXT", maxLength: 400, nullable: false),
                    sign_in_name = table.Column<string>(type: "TEXT", nullable: false),
                    name = table.Column<string>(type: "TEXT", nullable: false),
                    found_at = table.Column<long>(type: "INTEGER", nullable: false),
                    left_until = table.Column<DateOnly>(type: "TEXT", nullable: true),
                    left_reason = table.Column<string>(type: "TEXT", nullable: false),
                    left_by_name = table.Column<string>(type: "TEXT", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_left_overs", x => new { x.workspace_id, x.connection_id, x.their_key });
                });

            // Whatever is carried out to already is looked at soon.
            migrationBuilder.Sql("UPDATE lanes SET sweep_at = 0;");

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

            migrationBuilder.Sql(
                """
                INSERT INTO sqlite_stat1 (tbl, idx, stat) VALUES
                    ('left_overs', 'sqlite_autoindex_left_overs_1', '100000 5000 1000 1'),
                    ('events_sent', 'sqlite_autoindex_events_sent_1', '1000000 10000 1'),
                    ('events_sent', 'ix_events_sent_wish', '1000000 10000 5000 5 1'),
                    ('events_sent', 'ix_events_sent_at', '1000000 1'),
                    ('lanes', 'ix_lanes_sweep', '1000 1');
                ANALYZE sqlite_master;
                """
            );
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
