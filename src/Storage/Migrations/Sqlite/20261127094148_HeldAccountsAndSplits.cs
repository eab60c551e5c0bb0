using System;
using Microsoft.EntityFrameworkCore.Migrations;

#nullable disable

namespace ComeAboard.Storage.Migrations.Sqlite
{
    /// <inheritdoc />
    public partial class HeldAccountsAndSplits : Migration
    {
        /// <inheritdoc />
        protected override void Up(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.AddColumn<bool>(
                name: "for_custody",
                table: "seats",
                type: "INTEGER",
                nullable: false,
                defaultValue: false);

            migrationBuilder.AddColumn<long>(
                name: "closed_at",
                table: "accounts",
                type: "INTEGER",
                nullable: true);

            migrationBuilder.AddColumn<long>(
                name: "paused_at",
                table: "accounts",
                type: "INTEGER",
                nullable: true);

            migrationBuilder.CreateTable(
                name: "account_splits",
                columns: table => new
                {
                    to_id = table.Column<Guid>(type: "TEXT", nullable: false),
                    from_id = table.Column<Guid>(type: "TEXT", nullable: false),
                    at = table.Column<long>(type: "INTEGER", nullable: false),
                    undone_at = table.Column<long>(type: "INTEGER", nullable: true)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_account_splits", x => x.to_id);
                    table.ForeignKey(
                        name: "fk_account_splits_accounts_from_id",
                        column: x => x.from_id,
                        principalTable: "accounts",
                        principalColumn: "id",
                        onDelete: ReferentialAction.Cascade);
                    table.ForeignKey(
                        name: "fk_account_splits_accounts_to_id",
                        column: x => x.to_id,
                        principalTable: "accounts",
                        principalColumn: "id",
                        onDelete: ReferentialAction.Cascade);
                });

            migrationBuilder.CreateIndex(
                name: "ix_account_splits_from_id",
                table: "account_splits",
                column: "from_id");

            migrationBuilder.Sql(
                """
                INSERT INTO sqlite_stat1 (tbl, idx, stat) VALUES
                    ('account_splits', 'ix_account_splits_from_id', '1000 1'),
                    ('account_splits', 'sqlite_autoindex_account_splits_1', '1000 1');
                ANALYZE sqlite_master;
                """
            );
        }

        /// <inheritdoc />
        protected override void Down(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.DropTable(
                name: "account_splits");

            migrationBuilder.DropColumn(
                name: "for_custody",
                table: "seats");

            migrationBuilder.DropColumn(
                name: "closed_at",
                table: "accounts");

            migrationBuilder.DropColumn(
                name: "paused_at",
                table: "accounts");
        }
    }
}
