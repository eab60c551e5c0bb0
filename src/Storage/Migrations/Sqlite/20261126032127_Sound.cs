using System;
using Microsoft.EntityFrameworkCore.Migrations;

#nullable disable

namespace ComeAboard.Storage.Migrations.Sqlite
{
    /// <inheritdoc />
    public partial class Sound : Migration
    {
        /// <inheritdoc />
        protected override void Up(MigrationBuilder migrationBuilder)
        {
            // Sessions were kept by a value that signs in; from now on only its hash is. Everybody signs in once more.
            migrationBuilder.Sql("DELETE FROM sessions;");

            migrationBuilder.DropIndex(
                name: "ix_deliveries_waiting",
                table: "deliveries");

            migrationBuilder.DropPrimaryKey(
                name: "pk_address_codes",
                table: "address_codes");

            migrationBuilder.AddColumn<string>(
                name: "secret_hash",
                table: "sessions",
                type: "TEXT",
                maxLength: 64,
                nullable: false,
                defaultValue: "");

            migrationBuilder.AddColumn<string>(
                name: "invited_as",
                table: "members",
                type: "TEXT",
                nullable: false,
                defaultValue: "");

            migrationBuilder.AddColumn<string>(
                name: "vouched_by_name",
                table: "members",
                type: "TEXT",
                nullable: false,
                defaultValue: "");

            migrationBuilder.AddColumn<string>(
                name: "came_as",
                table: "invitations",
                type: "TEXT",
                maxLength: 400,
                nullable: false,
                defaultValue: "");

            migrationBuilder.AddColumn<string>(
                name: "handed_by_name",
                table: "invitations",
                type: "TEXT",
                nullable: false,
                defaultValue: "");

            migrationBuilder.AddColumn<string>(
                name: "handed_secret_hash",
                table: "invitations",
                type: "TEXT",
                maxLength: 64,
                nullable: true);

            migrationBuilder.AddColumn<string>(
                name: "steps",
                table: "departures",
                type: "TEXT",
                nullable: false,
                defaultValue: "");

            migrationBuilder.AddColumn<string>(
                name: "lane",
                table: "deliveries",
                type: "TEXT",
                maxLength: 40,
                nullable: false,
                defaultValue: "");

            migrationBuilder.AddColumn<long>(
                name: "expires_at",
                table: "api_tokens",
                type: "INTEGER",
                nullable: false,
                defaultValue: 0L);

            migrationBuilder.AddColumn<string>(
                name: "address_key",
                table: "address_codes",
                type: "TEXT",
                nullable: false,
                defaultValue: "");

            migrationBuilder.AddPrimaryKey(
                name: "pk_address_codes",
                table: "address_codes",
                columns: new[] { "workspace_id", "invitation_id", "account_id", "address_key" });

            migrationBuilder.CreateTable(
                name: "account_links",
                columns: table => new
                {
                    secret_hash = table.Column<string>(type: "TEXT", maxLength: 64, nullable: false),
                    account_id = table.Column<Guid>(type: "TEXT", nullable: false),
                    purpose = table.Column<string>(type: "TEXT", maxLength: 16, nullable: false),
                    address_key = table.Column<string>(type: "TEXT", maxLength: 400, nullable: false),
                    expires_at = table.Column<long>(type: "INTEGER", nullable: false),
                    used_at = table.Column<long>(type: "INTEGER", nullable: true)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_account_links", x => x.secret_hash);
                    table.ForeignKey(
                        name: "fk_account_links_accounts_account_id",
                        column: x => x.account_id,
                        principalTable: "accounts",
                        principalColumn: "id",
                        onDelete: ReferentialAction.Cascade);
                });

            migrationBuilder.CreateTable(
                name: "budgets",
                columns: table => new
                {
                    key = table.Column<string>(type: "TEXT", maxLength: 200, nullable: false),
                    ends_at = table.Column<long>(type: "INTEGER", nullable: false),
                    count = table.Column<int>(type: "INTEGER", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_budgets", x => x.key);
                });

            migrationBuilder.CreateTable(
                name: "security_events",
                columns: table => new
                {
                    workspace_id = table.Column<Guid>(type: "TEXT", nullable: false),
                    id = table.Column<Guid>(type: "TEXT", nullable: false),
                    at = table.Column<long>(type: "INTEGER", nullable: false),
                    kind = table.Column<string>(type: "TEXT", maxLength: 40, nullable: false),
                    who = table.Column<string>(type: "TEXT", maxLength: 600, nullable: false),
                    network = table.Column<string>(type: "TEXT", maxLength: 60, nullable: false),
                    details = table.Column<string>(type: "TEXT", maxLength: 400, nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_security_events", x => new { x.workspace_id, x.id });
                });

            migrationBuilder.CreateIndex(
                name: "ix_sessions_secret_hash",
                table: "sessions",
                column: "secret_hash",
                unique: true);

            migrationBuilder.CreateIndex(
                name: "ix_invitations_handed_secret_hash",
                table: "invitations",
                column: "handed_secret_hash",
                unique: true,
                filter: "handed_secret_hash IS NOT NULL");

            migrationBuilder.CreateIndex(
                name: "ix_deliveries_waiting",
                table: "deliveries",
                columns: new[] { "lane", "due_at" },
                filter: "settled_at IS NULL");

            migrationBuilder.CreateIndex(
                name: "ix_account_links_account_id",
                table: "account_links",
                column: "account_id");

            migrationBuilder.CreateIndex(
                name: "ix_budgets_ends_at",
                table: "budgets",
                column: "ends_at");

            migrationBuilder.CreateIndex(
                name: "ix_security_events_at",
                table: "security_events",
                column: "at");

            // Whether the further link of an invitation was mailed by a reminder or handed over was not kept: from now on
            // it is taken as handed over, and whoever comes by it proves the mailbox with a code.
            migrationBuilder.Sql(
                "UPDATE invitations SET handed_secret_hash = extra_secret_hash, handed_by_name = invited_by_name, "
                    + "extra_secret_hash = NULL WHERE extra_secret_hash IS NOT NULL;"
            );
            migrationBuilder.Sql("UPDATE deliveries SET lane = '1-' || lower(replace(workspace_id, '-', ''));");
            migrationBuilder.Sql("UPDATE api_tokens SET expires_at = (unixepoch() + 90 * 86400) * 1000;");
        }

        /// <inheritdoc />
        protected override void Down(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.DropTable(
                name: "account_links");

            migrationBuilder.DropTable(
                name: "budgets");

            migrationBuilder.DropTable(
                name: "security_events");

            migrationBuilder.DropIndex(
                name: "ix_sessions_secret_hash",
                table: "sessions");

            migrationBuilder.DropIndex(
                name: "ix_invitations_handed_secret_hash",
                table: "invitations");

            migrationBuilder.DropIndex(
                name: "ix_deliveries_waiting",
                table: "deliveries");

            migrationBuilder.DropPrimaryKey(
                name: "pk_address_codes",
                table: "address_codes");

            migrationBuilder.DropColumn(
                name: "secret_hash",
                table: "sessions");

            migrationBuilder.DropColumn(
                name: "invited_as",
                table: "members");

            migrationBuilder.DropColumn(
                name: "vouched_by_name",
                table: "members");

            migrationBuilder.DropColumn(
                name: "came_as",
                table: "invitations");

            migrationBuilder.DropColumn(
                name: "handed_by_name",
                table: "invitations");

            migrationBuilder.DropColumn(
                name: "handed_secret_hash",
                table: "invitations");

            migrationBuilder.DropColumn(
                name: "steps",
                table: "departures");

            migrationBuilder.DropColumn(
                name: "lane",
                table: "deliveries");

            migrationBuilder.DropColumn(
                name: "expires_at",
                table: "api_tokens");

            migrationBuilder.DropColumn(
                name: "address_key",
                table: "address_codes");

            migrationBuilder.AddPrimaryKey(
                name: "pk_address_codes",
                table: "address_codes",
                columns: new[] { "workspace_id", "invitation_id", "account_id" });

            migrationBuilder.CreateIndex(
                name: "ix_deliveries_waiting",
                table: "deliveries",
                column: "due_at",
                filter: "settled_at IS NULL");
        }
    }
}
