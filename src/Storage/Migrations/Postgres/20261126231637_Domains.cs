using System;
using Microsoft.EntityFrameworkCore.Migrations;

#nullable disable

namespace ComeAboard.Storage.Migrations.Postgres
{
    /// <inheritdoc />
    public partial class Domains : Migration
    {
        /// <inheritdoc />
        protected override void Up(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.CreateTable(
                name: "domains",
                columns: table => new
                {
                    workspace_id = table.Column<Guid>(type: "uuid", nullable: false),
                    id = table.Column<Guid>(type: "uuid", nullable: false),
                    domain = table.Column<string>(type: "character varying(255)", maxLength: 255, nullable: false),
                    token = table.Column<string>(type: "character varying(64)", maxLength: 64, nullable: false),
                    added_at = table.Column<DateTimeOffset>(type: "timestamp with time zone", nullable: false),
                    proved_at = table.Column<DateTimeOffset>(type: "timestamp with time zone", nullable: true),
                    shown_at = table.Column<DateTimeOffset>(type: "timestamp with time zone", nullable: true),
                    missing_since = table.Column<DateTimeOffset>(type: "timestamp with time zone", nullable: true),
                    warned = table.Column<bool>(type: "boolean", nullable: false),
                    holds = table.Column<string>(type: "character varying(255)", maxLength: 255, nullable: true),
                    last_look = table.Column<string>(type: "character varying(16)", maxLength: 16, nullable: true),
                    looked_at = table.Column<DateTimeOffset>(type: "timestamp with time zone", nullable: true),
                    next_look_at = table.Column<DateTimeOffset>(type: "timestamp with time zone", nullable: false),
                    version = table.Column<int>(type: "integer", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_domains", x => new { x.workspace_id, x.id });
                });

            migrationBuilder.CreateIndex(
                name: "ix_domains_holds",
                table: "domains",
                column: "holds",
                unique: true,
                filter: "holds IS NOT NULL");

            migrationBuilder.CreateIndex(
                name: "ix_domains_next_look_at",
                table: "domains",
                column: "next_look_at");

            migrationBuilder.CreateIndex(
                name: "ix_domains_workspace_id_domain",
                table: "domains",
                columns: new[] { "workspace_id", "domain" },
                unique: true);
        }

        /// <inheritdoc />
        protected override void Down(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.DropTable(
                name: "domains");
        }
    }
}
