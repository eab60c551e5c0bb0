using System;
using Microsoft.EntityFrameworkCore.Migrations;

#nullable disable

namespace ComeAboard.Storage.Migrations.Sqlite
{
    /// <inheritdoc />
    public partial class Claims : Migration
    {
        /// <inheritdoc />
        protected override void Up(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.AddColumn<Guid>(
                name: "custody_id",
                table: "accounts",
                type: "TEXT",
                nullable: true);

            migrationBuilder.AddColumn<long>(
                name: "custody_since",
                table: "accounts",
                type: "INTEGER",
                nullable: true);

            migrationBuilder.AddColumn<string>(
                name: "domain",
                table: "account_addresses",
                type: "TEXT",
                maxLength: 255,
                nullable: false,
                defaultValue: "");

            // What stands behind the last @ of the key.
            migrationBuilder.Sql(
                "UPDATE account_addresses SET domain = replace(address_key, rtrim(address_key, replace(address_key, '@', '')), '');"
            );

            migrationBuilder.CreateTable(
                name: "claims",
                columns: table => new
                {
                    workspace_id = table.Column<Guid>(type: "TEXT", nullable: false),
                    id = table.Column<Guid>(type: "TEXT", nullable: false),
                    account_id = table.Column<Guid>(type: "TEXT", nullable: false),
                    address = table.Column<string>(type: "TEXT", nullable: false),
                    address_key = table.Column<string>(type: "TEXT", nullable: false),
                    state = table.Column<string>(type: "TEXT", maxLength: 16, nullable: false),
                    asked_at = table.Column<long>(type: "INTEGER", nullable: true),
                    deadline = table.Column<long>(type: "INTEGER", nullable: true),
                    silence = table.Column<string>(type: "TEXT", maxLength: 16, nullable: false),
                    mails = table.Column<int>(type: "INTEGER", nullable: false),
                    decided_at = table.Column<long>(type: "INTEGER", nullable: true),
                    next_at = table.Column<long>(type: "INTEGER", nullable: true),
                    reason = table.Column<string>(type: "TEXT", nullable: false),
                    asked_by_name = table.Column<string>(type: "TEXT", nullable: false),
                    secret_hash = table.Column<string>(type: "TEXT", maxLength: 64, nullable: true),
                    other_workspaces = table.Column<int>(type: "INTEGER", nullable: false),
                    version = table.Column<int>(type: "INTEGER", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_claims", x => new { x.workspace_id, x.id });
                    table.ForeignKey(
                        name: "fk_claims_accounts_account_id",
                        column: x => x.account_id,
                        principalTable: "accounts",
                        principalColumn: "id",
                        onDelete: ReferentialAction.Cascade);
                });

            migrationBuilder.CreateIndex(
                name: "ix_accounts_custody_id",
                table: "accounts",
                column: "custody_id",
                filter: "custody_id IS NOT NULL");

            migrationBuilder.CreateIndex(
                name: "ix_account_addresses_domain_account_id",
                table: "account_addresses",
                columns: new[] { "domain", "account_id" },
                filter: "proved_at IS NOT NULL");

            migrationBuilder.CreateIndex(
                name: "ix_claims_account_id",
                table: "claims",
                column: "account_id");

            migrationBuilder.CreateIndex(
                name: "ix_claims_next_at",
                table: "claims",
                column: "next_at",
                filter: "next_at IS NOT NULL");

            migrationBuilder.CreateIndex(
                name: "ix_claims_secret_hash",
                table: "claims",
                column: "secret_hash",
                unique: true,
                filter: "secret_hash IS NOT NULL");

            migrationBuilder.CreateIndex(
                name: "ix_claims_workspace_id_account_id",
                table: "claims",
                columns: new[] { "workspace_id", "account_id" },
                unique: true);

            migrationBuilder.CreateIndex(
                name: "ix_claims_workspace_id_address_key",
                table: "claims",
                columns: new[] { "workspace_id", "address_key" });

            migrationBuilder.Sql(
                """
                INSERT INTO sqlite_stat1 (tbl, idx, stat) VALUES
                ('accounts', 'ix_accounts_custody_id', '200000 1000'),
                ('account_addresses', 'ix_account_addresses_domain_account_id', '200000 100 1'),
                ('claims', 'sqlite_autoindex_claims_1', '20000 200 1'),
                ('claims', 'ix_claims_account_id', '20000 1'),
                ('claims', 'ix_claims_next_at', '20000 1'),
                ('claims', 'ix_claims_secret_hash', '20000 1'),
                ('claims', 'ix_claims_workspace_id_account_id', '20000 200 1'),
                ('claims', 'ix_claims_workspace_id_address_key', '20000 200 1');
                """);
            migrationBuilder.Sql("ANALYZE sqlite_master;");
        }

        /// <inheritdoc />
        protected override void Down(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.DropTable(
                name: "claims");

            migrationBuilder.DropIndex(
                name: "ix_accounts_custody_id",
                table: "accounts");

            migrationBuilder.DropIndex(
                name: "ix_account_addresses_domain_account_id",
                table: "account_addresses");

            migrationBuilder.DropColumn(
                name: "custody_id",
                table: "accounts");

            migrationBuilder.DropColumn(
                name: "custody_since",
                table: "accounts");

            migrationBuilder.DropColumn(
                name: "domain",
                table: "account_addresses");
        }
    }
}
