using System;
using Microsoft.EntityFrameworkCore.Migrations;

#nullable disable

namespace ComeAboard.Storage.Migrations.Postgres
{
    /// <inheritdoc />
    public partial class Connections : Migration
    {
        /// <inheritdoc />
        protected override void Up(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.CreateTable(
                name: "connection_contents",
                columns: table => new
                {
                    workspace_id = table.Column<Guid>(type: "uuid", nullable: false),
                    connection_id = table.Column<Guid>(type: "uuid", nullable: false),
                    content = table.Column<byte[]>(type: "bytea", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_connection_contents", x => new { x.workspace_id, x.connection_id });
                });

            migrationBuilder.CreateTable(
                name: "connections",
                columns: table => new
                {
                    workspace_id = table.Column<Guid>(type: "uuid", nullable: false),
                    id = table.Column<Guid>(type: "uuid", nullable: false),
                    name = table.Column<string>(type: "character varying(100)", maxLength: 100, nullable: false),
                    name_key = table.Column<string>(type: "character varying(100)", maxLength: 100, nullable: false),
                    type = table.Column<string>(type: "character varying(8)", maxLength: 8, nullable: false),
                    place = table.Column<string>(type: "text", nullable: false),
                    settings = table.Column<string>(type: "text", nullable: false),
                    secret = table.Column<string>(type: "text", nullable: false),
                    newcomers = table.Column<string>(type: "character varying(8)", maxLength: 8, nullable: false),
                    defaults = table.Column<string>(type: "text", nullable: false),
                    wins = table.Column<string>(type: "text", nullable: false),
                    floor = table.Column<int>(type: "integer", nullable: false),
                    every_hours = table.Column<int>(type: "integer", nullable: false),
                    next_read_at = table.Column<DateTimeOffset>(type: "timestamp with time zone", nullable: true),
                    state = table.Column<string>(type: "character varying(16)", maxLength: 16, nullable: false),
                    is_believed = table.Column<bool>(type: "boolean", nullable: false),
                    last_read_at = table.Column<DateTimeOffset>(type: "timestamp with time zone", nullable: true),
                    fault = table.Column<string>(type: "text", nullable: true),
                    counts = table.Column<string>(type: "text", nullable: false),
                    asked_by_id = table.Column<Guid>(type: "uuid", nullable: true),
                    asked_by_name = table.Column<string>(type: "text", nullable: false),
                    added_at = table.Column<DateTimeOffset>(type: "timestamp with time zone", nullable: false),
                    added_by_name = table.Column<string>(type: "text", nullable: false),
                    position = table.Column<int>(type: "integer", nullable: false),
                    total = table.Column<int>(type: "integer", nullable: false),
                    done_to = table.Column<int>(type: "integer", nullable: false),
                    lease = table.Column<Guid>(type: "uuid", nullable: true),
                    leased_until = table.Column<DateTimeOffset>(type: "timestamp with time zone", nullable: true),
                    started_at = table.Column<DateTimeOffset>(type: "timestamp with time zone", nullable: true),
                    done_at_start = table.Column<int>(type: "integer", nullable: false),
                    tries = table.Column<int>(type: "integer", nullable: false),
                    version = table.Column<int>(type: "integer", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_connections", x => new { x.workspace_id, x.id });
                });

            migrationBuilder.CreateTable(
                name: "source_records",
                columns: table => new
                {
                    workspace_id = table.Column<Guid>(type: "uuid", nullable: false),
                    connection_id = table.Column<Guid>(type: "uuid", nullable: false),
                    number = table.Column<int>(type: "integer", nullable: false),
                    source_key = table.Column<string>(type: "character varying(500)", maxLength: 500, nullable: false),
                    fields = table.Column<string>(type: "text", nullable: false),
                    name = table.Column<string>(type: "text", nullable: false),
                    address = table.Column<string>(type: "text", nullable: false),
                    search_text = table.Column<string>(type: "text", nullable: false),
                    verdict = table.Column<string>(type: "character varying(16)", maxLength: 16, nullable: false),
                    score = table.Column<int>(type: "integer", nullable: false),
                    rank = table.Column<int>(type: "integer", nullable: false),
                    person_id = table.Column<Guid>(type: "uuid", nullable: true),
                    reasons = table.Column<string>(type: "text", nullable: false),
                    decision = table.Column<string>(type: "character varying(16)", maxLength: 16, nullable: true),
                    decided_person_id = table.Column<Guid>(type: "uuid", nullable: true),
                    decided_by_name = table.Column<string>(type: "text", nullable: false),
                    decided_at = table.Column<DateTimeOffset>(type: "timestamp with time zone", nullable: true),
                    state = table.Column<string>(type: "character varying(16)", maxLength: 16, nullable: false),
                    refusal = table.Column<string>(type: "text", nullable: true),
                    joined_id = table.Column<Guid>(type: "uuid", nullable: true),
                    invitation_id = table.Column<Guid>(type: "uuid", nullable: true),
                    gone_since = table.Column<DateTimeOffset>(type: "timestamp with time zone", nullable: true),
                    stays_at = table.Column<DateTimeOffset>(type: "timestamp with time zone", nullable: true),
                    stays_by_name = table.Column<string>(type: "text", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_source_records", x => new { x.workspace_id, x.connection_id, x.number });
                });

            migrationBuilder.CreateIndex(
                name: "ix_connections_due",
                table: "connections",
                column: "next_read_at",
                filter: "next_read_at IS NOT NULL");

            migrationBuilder.CreateIndex(
                name: "ix_connections_working",
                table: "connections",
                column: "state",
                filter: "state IN ('reading', 'doing')");

            migrationBuilder.CreateIndex(
                name: "ix_connections_workspace_id_name_key",
                table: "connections",
                columns: new[] { "workspace_id", "name_key" },
                unique: true);

            migrationBuilder.CreateIndex(
                name: "ix_source_records_gone",
                table: "source_records",
                columns: new[] { "workspace_id", "connection_id", "gone_since" },
                filter: "gone_since IS NOT NULL");

            migrationBuilder.CreateIndex(
                name: "ix_source_records_joined",
                table: "source_records",
                columns: new[] { "workspace_id", "connection_id", "joined_id" },
                filter: "joined_id IS NOT NULL");

            migrationBuilder.CreateIndex(
                name: "ix_source_records_table",
                table: "source_records",
                columns: new[] { "workspace_id", "connection_id", "rank", "number" });

            migrationBuilder.CreateIndex(
                name: "ix_source_records_workspace_id_connection_id_source_key",
                table: "source_records",
                columns: new[] { "workspace_id", "connection_id", "source_key" },
                unique: true);
        }

        /// <inheritdoc />
        protected override void Down(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.DropTable(
                name: "connection_contents");

            migrationBuilder.DropTable(
                name: "connections");

            migrationBuilder.DropTable(
                name: "source_records");
        }
    }
}
