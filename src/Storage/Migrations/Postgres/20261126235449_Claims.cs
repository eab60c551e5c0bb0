using System;
using Microsoft.EntityFrameworkCore.Migrations;

#nullable disable

namespace ComeAboard.Storage.Migrations.Postgres
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
                type: "uuid",
                nullable: true);

            migrationBuilder.AddColumn<DateTimeOffset>(
                name: "custody_since",
                table: "accounts",
                type: "timestamp with time zone",
                nullable: true);

            migrationBuilder.AddColumn<string>(
                name: "domain",
                table: "account_addresses",
                type: "character varying(255)",
                maxLength: 255,
                nullable: false,
                defaultValue: "");

            // What stands behind the last @ of the key.
            migrationBuilder.Sql("UPDATE account_addresses SET domain = substring(address_key from '[^@]*$');");

            migrationBuilder.CreateTable(
                name: "claims",
                columns: table => new
                {
                    workspace_id = table.Column<Guid>(type: "uuid", nullable: false),
                    id = table.Column<Guid>(type: "uuid", nullable: false),
                    account_id = table.Column<Guid>(type: "uuid", nullable: false),
                    address = table.Column<string>(type: "text", nullable: false),
                    address_key = table.Column<string>(type: "text", nullable: false),
                    state = table.Column<string>(type: "character varying(16)", maxLength: 16, nullable: false),
                    asked_at = table.Column<DateTimeOffset>(type: "timestamp with time zone", nullable: true),
                    deadline = table.Column<DateTimeOffset>(type: "timestamp with time zone", nullable: true),
                    silence = table.Column<string>(type: "character varying(16)", maxLength: 16, nullable: false),
                    mails = table.Column<int>(type: "integer", nullable: false),
                    decided_at = table.Column<DateTimeOffset>(type: "timestamp with time zone", nullable: true),
                    next_at = table.Column<DateTimeOffset>(type: "timestamp with time zone", nullable: true),
                    reason = table.Column<string>(type: "text", nullable: false),
                    asked_by_name = table.Column<string>(type: "text", nullable: false),
                    secret_hash = table.Column<string>(type: "character varying(64)", maxLength: 64, nullable: true),
                    other_workspaces = table.Column<int>(type: "integer", nullable: false),
                    version = table.Column<int>(type: "integer", nullable: false)
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
