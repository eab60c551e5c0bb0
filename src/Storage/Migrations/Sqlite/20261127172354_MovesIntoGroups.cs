using System;
using Microsoft.EntityFrameworkCore.Migrations;

#nullable disable

namespace ComeAboard.Storage.Migrations.Sqlite
{
    /// <inheritdoc />
    public partial class MovesIntoGroups : Migration
    {
        /// <inheritdoc />
        protected override void Up(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.CreateTable(
                name: "group_moves",
                columns: table => new
                {
                    workspace_id = table.Column<Guid>(type: "TEXT", nullable: false),
                    id = table.Column<Guid>(type: "TEXT", nullable: false),
                    group_id = table.Column<Guid>(type: "TEXT", nullable: false),
                    at = table.Column<long>(type: "INTEGER", nullable: false),
                    by_name = table.Column<string>(type: "TEXT", maxLength: 100, nullable: false),
                    undone_at = table.Column<long>(type: "INTEGER", nullable: true),
                    moved = table.Column<string>(type: "TEXT", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_group_moves", x => new { x.workspace_id, x.id });
                });

            migrationBuilder.CreateIndex(
                name: "ix_group_moves_workspace_id_group_id_id",
                table: "group_moves",
                columns: new[] { "workspace_id", "group_id", "id" });

            migrationBuilder.Sql(
                """
                INSERT INTO sqlite_stat1 (tbl, idx, stat) VALUES
                    ('group_moves', 'sqlite_autoindex_group_moves_1', '10000 100 1'),
                    ('group_moves', 'ix_group_moves_workspace_id_group_id_id', '10000 100 5 1');
                ANALYZE sqlite_master;
                """
            );
        }

        /// <inheritdoc />
        protected override void Down(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.DropTable(
                name: "group_moves");
        }
    }
}
