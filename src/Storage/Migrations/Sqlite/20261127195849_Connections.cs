using System;
using Microsoft.EntityFrameworkCore.Migrations;

#nullable disable

namespace ComeAboard.Storage.Migrations.Sqlite
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
                    workspace_id = table.Column<Guid>(type: "TEXT", nullable: false),
                    connection_id = table.Column<Guid>(type: "TEXT", nullable: false),
                    content = table.Column<byte[]>(type: "BLOB", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_connection_contents", x => new { x.workspace_id, x.connection_id });
                });

            migrationBuilder.CreateTable(
                name: "connections",
                columns: table => new
                {
                    workspace_id = table.Column<Guid>(type: "TEXT", nullable: false),
                    id = table.Column<Guid>(type: "TEXT", nullable: false),
                    name = table.Column<string>(type: "TEXT", maxLength: 100, nullable: false),
                    name_key = table.Column<string>(type: "TEXT", maxLength: 100, nullable: false),
                    type = table.Column<string>(type: "TEXT", maxLength: 8, nullable: false),
                    place = table.Column<string>(type: "TEXT", nullable: false),
                    settings = table.Column<string>(type: "TEXT", nullable: false),
                    secret = table.Column<string>(type: "TEXT", nullable: false),
                    newcomers = table.Column<string>(type: "TEXT", maxLength: 8, nullable: false),
                    defaults = table.Column<string>(type: "TEXT", nullable: false),
                    wins = table.Column<string>(type: "TEXT", nullable: false),
                    floor = table.Column<int>(type: "INTEGER", nullable: false),
                    every_hours = table.Column<int>(type: "INTEGER", nullable: false),
                    next_read_at = table.Column<long>(type: "INTEGER", nullable: true),
                    state = table.Column<string>(type: "TEXT", maxLength: 16, nullable: false),
                    is_believed = table.Column<bool>(type: "INTEGER", nullable: false),
                    last_read_at = table.Column<long>(type: "INTEGER", nullable: true),
                    fault = table.Column<string>(type: "TEXT", nullable: true),
                    counts = table.Column<string>(type: "TEXT", nullable: false),
                    asked_by_id = table.Column<Guid>(type: "TEXT", nullable: true),
                    asked_by_name = table.Column<string>(type: "TEXT", nullable: false),
                    added_at = table.Column<long>(type: "INTEGER", nullable: false),
                    added_by_name = table.Column<string>(type: "TEXT", nullable: false),
                    position = table.Column<int>(type: "INTEGER", nullable: false),
                    total = table.Column<int>(type: "INTEGER", nullable: false),
                    done_to = table.Column<int>(type: "INTEGER", nullable: false),
                    lease = table.Column<Guid>(type: "TEXT", nullable: true),
                    leased_until = table.Column<long>(type: "INTEGER", nullable: true),
                    started_at = table.Column<long>(type: "INTEGER", nullable: true),
                    done_at_start = table.Column<int>(type: "INTEGER", nullable: false),
                    tries = table.Column<int>(type: "INTEGER", nullable: false),
                    version = table.Column<int>(type: "INTEGER", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_connections", x => new { x.workspace_id, x.id });
                });

            migrationBuilder.CreateTable(
                name: "source_records",
                columns: table => new
                {
                    workspace_id = table.Column<Guid>(type: "TEXT", nullable: false),
                    connection_id = table.Column<Guid>(type: "TEXT", nullable: false),
                    number = table.Column<int>(type: "INTEGER", nullable: false),
                    source_key = table.Column<string>(type: "TEXT", maxLength: 500, nullable: false),
                    fields = table.Column<string>(type: "TEXT", nullable: false),
                    name = table.Column<string>(type: "TEXT", nullable: false),
                    address = table.Column<string>(type: "TEXT", nullable: false),
                    search_text = table.Column<string>(type: "TEXT", nullable: false),
                    verdict = table.Column<string>(type: "TEXT", maxLength: 16, nullable: false),
                    score = table.Column<int>(type: "INTEGER", nullable: false),
                    rank = table.Column<int>(type: "INTEGER", nullable: false),
                    person_id = table.Column<Guid>(type: "TEXT", nullable: true),
                    reasons = table.Column<string>(type: "TEXT", nullable: false),
                    decision = table.Column<string>(type: "TEXT", maxLength: 16, nullable: true),
                    decided_person_id = table.Column<Guid>(type: "TEXT", nullable: true),
                    decided_by_name = table.Column<string>(type: "TEXT", nullable: false),
                    decided_at = table.Column<long>(type: "INTEGER", nullable: true),
                    state = table.Column<string>(type: "TEXT", maxLength: 16, nullable: false),
                    refusal = table.Column<string>(type: "TEXT", nullable: true),
                    joined_id = table.Column<Guid>(type: "TEXT", nullable: true),
                    invitation_id = table.Column<Guid>(type: "TEXT", nullable: true),
                    gone_since = table.Column<long>(type: "INTEGER", nullable: true),
                    stays_at = table.Column<long>(type: "INTEGER", nullable: true),
                    stays_by_name = table.Column<string>(type: "TEXT", nullable: false)
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

            migrationBuilder.Sql(
                """
                INSERT INTO sqlite_stat1 (tbl, idx, stat) VALUES
                    ('connections', 'sqlite_autoindex_connections_1', '1000 5 1'),
                    ('connections', 'ix_connections_workspace_id_name_key', '1000 5 1'),
                    ('connections', 'ix_connections_working', '5 3'),
                    ('connections', 'ix_connections_due', '500 1'),
                    ('connection_contents', 'sqlite_autoindex_connection_contents_1', '500 3 1'),
                    ('source_records', 'sqlite_autoindex_source_records_1', '1000000 10000 5000 1'),
                    ('source_records', 'ix_source_records_workspace_id_connection_id_source_key', '1000000 10000 5000 1'),
                    ('source_records', 'ix_source_records_table', '1000000 10000 5000 20 1'),
                    ('source_records', 'ix_source_records_joined', '500000 5000 2500 1'),
                    ('source_records', 'ix_source_records_gone', '10000 100 50 1');
                ANALYZE sqlite_master;
                """
            );
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
