using System;
using Microsoft.EntityFrameworkCore.Migrations;

#nullable disable

namespace ComeAboard.Storage.Migrations.Sqlite
{
    /// <inheritdoc />
    public partial class First : Migration
    {
        /// <inheritdoc />
        protected override void Up(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.CreateTable(
                name: "accounts",
                columns: table => new
                {
                    id = table.Column<Guid>(type: "TEXT", nullable: false),
                    name = table.Column<string>(type: "TEXT", maxLength: 100, nullable: false),
                    address = table.Column<string>(type: "TEXT", nullable: false),
                    password_hash = table.Column<string>(type: "TEXT", nullable: true),
                    security_stamp = table.Column<string>(type: "TEXT", nullable: false),
                    failed_tries = table.Column<int>(type: "INTEGER", nullable: false),
                    locked_until = table.Column<long>(type: "INTEGER", nullable: true),
                    language = table.Column<string>(type: "TEXT", nullable: false),
                    created_at = table.Column<long>(type: "INTEGER", nullable: false),
                    version = table.Column<int>(type: "INTEGER", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_accounts", x => x.id);
                });

            migrationBuilder.CreateTable(
                name: "address_codes",
                columns: table => new
                {
                    workspace_id = table.Column<Guid>(type: "TEXT", nullable: false),
                    invitation_id = table.Column<Guid>(type: "TEXT", nullable: false),
                    account_id = table.Column<Guid>(type: "TEXT", nullable: false),
                    code_hash = table.Column<string>(type: "TEXT", nullable: false),
                    expires_at = table.Column<long>(type: "INTEGER", nullable: false),
                    asked_at = table.Column<long>(type: "INTEGER", nullable: false),
                    tries = table.Column<int>(type: "INTEGER", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_address_codes", x => new { x.workspace_id, x.invitation_id, x.account_id });
                });

            migrationBuilder.CreateTable(
                name: "api_tokens",
                columns: table => new
                {
                    workspace_id = table.Column<Guid>(type: "TEXT", nullable: false),
                    id = table.Column<Guid>(type: "TEXT", nullable: false),
                    member_id = table.Column<Guid>(type: "TEXT", nullable: false),
                    account_id = table.Column<Guid>(type: "TEXT", nullable: false),
                    secret_hash = table.Column<string>(type: "TEXT", maxLength: 64, nullable: false),
                    label = table.Column<string>(type: "TEXT", maxLength: 100, nullable: false),
                    created_at = table.Column<long>(type: "INTEGER", nullable: false),
                    revoked_at = table.Column<long>(type: "INTEGER", nullable: true)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_api_tokens", x => new { x.workspace_id, x.id });
                });

            migrationBuilder.CreateTable(
                name: "deliveries",
                columns: table => new
                {
                    workspace_id = table.Column<Guid>(type: "TEXT", nullable: false),
                    id = table.Column<Guid>(type: "TEXT", nullable: false),
                    purpose = table.Column<string>(type: "TEXT", maxLength: 20, nullable: false),
                    invitation_id = table.Column<Guid>(type: "TEXT", nullable: true),
                    to_address = table.Column<string>(type: "TEXT", nullable: false),
                    message_id = table.Column<string>(type: "TEXT", maxLength: 300, nullable: false),
                    sealed_letter = table.Column<byte[]>(type: "BLOB", nullable: true),
                    state = table.Column<string>(type: "TEXT", maxLength: 16, nullable: false),
                    due_at = table.Column<long>(type: "INTEGER", nullable: false),
                    lease = table.Column<Guid>(type: "TEXT", nullable: true),
                    leased_until = table.Column<long>(type: "INTEGER", nullable: true),
                    tries = table.Column<int>(type: "INTEGER", nullable: false),
                    answer = table.Column<string>(type: "TEXT", maxLength: 500, nullable: true),
                    created_at = table.Column<long>(type: "INTEGER", nullable: false),
                    settled_at = table.Column<long>(type: "INTEGER", nullable: true)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_deliveries", x => new { x.workspace_id, x.id });
                });

            migrationBuilder.CreateTable(
                name: "departures",
                columns: table => new
                {
                    workspace_id = table.Column<Guid>(type: "TEXT", nullable: false),
                    id = table.Column<Guid>(type: "TEXT", nullable: false),
                    member_id = table.Column<Guid>(type: "TEXT", nullable: false),
                    member_name = table.Column<string>(type: "TEXT", nullable: false),
                    member_address = table.Column<string>(type: "TEXT", nullable: false),
                    state = table.Column<string>(type: "TEXT", maxLength: 16, nullable: false),
                    last_day = table.Column<DateOnly>(type: "TEXT", nullable: true),
                    requested_by = table.Column<string>(type: "TEXT", nullable: false),
                    requested_by_name = table.Column<string>(type: "TEXT", nullable: false),
                    requested_at = table.Column<long>(type: "INTEGER", nullable: false),
                    done_at = table.Column<long>(type: "INTEGER", nullable: true)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_departures", x => new { x.workspace_id, x.id });
                });

            migrationBuilder.CreateTable(
                name: "idempotency_keys",
                columns: table => new
                {
                    workspace_id = table.Column<Guid>(type: "TEXT", nullable: false),
                    member_id = table.Column<Guid>(type: "TEXT", nullable: false),
                    key = table.Column<string>(type: "TEXT", maxLength: 200, nullable: false),
                    request_digest = table.Column<string>(type: "TEXT", maxLength: 64, nullable: false),
                    answer = table.Column<string>(type: "TEXT", nullable: false),
                    created_at = table.Column<long>(type: "INTEGER", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_idempotency_keys", x => new { x.workspace_id, x.member_id, x.key });
                });

            migrationBuilder.CreateTable(
                name: "invitation_counts",
                columns: table => new
                {
                    workspace_id = table.Column<Guid>(type: "TEXT", nullable: false),
                    state = table.Column<string>(type: "TEXT", maxLength: 16, nullable: false),
                    count = table.Column<long>(type: "INTEGER", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_invitation_counts", x => new { x.workspace_id, x.state });
                });

            migrationBuilder.CreateTable(
                name: "invitations",
                columns: table => new
                {
                    workspace_id = table.Column<Guid>(type: "TEXT", nullable: false),
                    id = table.Column<Guid>(type: "TEXT", nullable: false),
                    address = table.Column<string>(type: "TEXT", maxLength: 400, nullable: false),
                    address_key = table.Column<string>(type: "TEXT", maxLength: 400, nullable: false),
                    name = table.Column<string>(type: "TEXT", maxLength: 100, nullable: false),
                    kind = table.Column<string>(type: "TEXT", maxLength: 16, nullable: false),
                    role = table.Column<string>(type: "TEXT", nullable: false),
                    last_day = table.Column<DateOnly>(type: "TEXT", nullable: true),
                    message = table.Column<string>(type: "TEXT", maxLength: 2000, nullable: false),
                    language = table.Column<string>(type: "TEXT", nullable: false),
                    state = table.Column<string>(type: "TEXT", maxLength: 16, nullable: false),
                    secret_hash = table.Column<string>(type: "TEXT", maxLength: 64, nullable: false),
                    deadline = table.Column<long>(type: "INTEGER", nullable: false),
                    answer_seconds = table.Column<long>(type: "INTEGER", nullable: false),
                    invited_by = table.Column<Guid>(type: "TEXT", nullable: false),
                    invited_by_name = table.Column<string>(type: "TEXT", nullable: false),
                    created_at = table.Column<long>(type: "INTEGER", nullable: false),
                    last_step_at = table.Column<long>(type: "INTEGER", nullable: false),
                    sent_at = table.Column<long>(type: "INTEGER", nullable: true),
                    seen_at = table.Column<long>(type: "INTEGER", nullable: true),
                    answered_at = table.Column<long>(type: "INTEGER", nullable: true),
                    resends = table.Column<int>(type: "INTEGER", nullable: false),
                    member_id = table.Column<Guid>(type: "TEXT", nullable: true),
                    version = table.Column<int>(type: "INTEGER", nullable: false),
                    search_text = table.Column<string>(type: "TEXT", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_invitations", x => new { x.workspace_id, x.id });
                });

            migrationBuilder.CreateTable(
                name: "members",
                columns: table => new
                {
                    workspace_id = table.Column<Guid>(type: "TEXT", nullable: false),
                    id = table.Column<Guid>(type: "TEXT", nullable: false),
                    account_id = table.Column<Guid>(type: "TEXT", nullable: false),
                    address = table.Column<string>(type: "TEXT", nullable: false),
                    address_key = table.Column<string>(type: "TEXT", maxLength: 400, nullable: false),
                    name = table.Column<string>(type: "TEXT", nullable: false),
                    kind = table.Column<string>(type: "TEXT", maxLength: 16, nullable: false),
                    role = table.Column<string>(type: "TEXT", maxLength: 40, nullable: false),
                    last_day = table.Column<DateOnly>(type: "TEXT", nullable: true),
                    joined_at = table.Column<long>(type: "INTEGER", nullable: false),
                    ended_at = table.Column<long>(type: "INTEGER", nullable: true),
                    invitation_id = table.Column<Guid>(type: "TEXT", nullable: true),
                    invited_by_name = table.Column<string>(type: "TEXT", nullable: true),
                    version = table.Column<int>(type: "INTEGER", nullable: false),
                    search_text = table.Column<string>(type: "TEXT", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_members", x => new { x.workspace_id, x.id });
                });

            migrationBuilder.CreateTable(
                name: "opt_outs",
                columns: table => new
                {
                    address_hash = table.Column<string>(type: "TEXT", nullable: false),
                    at = table.Column<long>(type: "INTEGER", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_opt_outs", x => x.address_hash);
                });

            migrationBuilder.CreateTable(
                name: "protection_keys",
                columns: table => new
                {
                    id = table.Column<int>(type: "INTEGER", nullable: false)
                        .Annotation("Sqlite:Autoincrement", true),
                    name = table.Column<string>(type: "TEXT", nullable: false),
                    xml = table.Column<string>(type: "TEXT", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_protection_keys", x => x.id);
                });

            migrationBuilder.CreateTable(
                name: "record",
                columns: table => new
                {
                    workspace_id = table.Column<Guid>(type: "TEXT", nullable: false),
                    sequence = table.Column<long>(type: "INTEGER", nullable: false),
                    at = table.Column<long>(type: "INTEGER", nullable: false),
                    actor = table.Column<string>(type: "TEXT", nullable: false),
                    via = table.Column<string>(type: "TEXT", nullable: false),
                    action = table.Column<string>(type: "TEXT", nullable: false),
                    subject = table.Column<string>(type: "TEXT", nullable: false),
                    details = table.Column<string>(type: "TEXT", nullable: true),
                    details_digest = table.Column<string>(type: "TEXT", nullable: false),
                    details_salt = table.Column<string>(type: "TEXT", nullable: false),
                    previous_hash = table.Column<string>(type: "TEXT", nullable: false),
                    hash = table.Column<string>(type: "TEXT", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_record", x => new { x.workspace_id, x.sequence });
                });

            migrationBuilder.CreateTable(
                name: "set_up_links",
                columns: table => new
                {
                    secret_hash = table.Column<string>(type: "TEXT", maxLength: 64, nullable: false),
                    workspace_id = table.Column<Guid>(type: "TEXT", nullable: false),
                    expires_at = table.Column<long>(type: "INTEGER", nullable: false),
                    used_at = table.Column<long>(type: "INTEGER", nullable: true)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_set_up_links", x => x.secret_hash);
                });

            migrationBuilder.CreateTable(
                name: "workspaces",
                columns: table => new
                {
                    id = table.Column<Guid>(type: "TEXT", nullable: false),
                    short_name = table.Column<string>(type: "TEXT", maxLength: 40, nullable: false),
                    name = table.Column<string>(type: "TEXT", maxLength: 100, nullable: false),
                    time_zone = table.Column<string>(type: "TEXT", nullable: false),
                    language = table.Column<string>(type: "TEXT", nullable: false),
                    sender_name = table.Column<string>(type: "TEXT", nullable: false),
                    reply_to = table.Column<string>(type: "TEXT", nullable: true),
                    answer_seconds = table.Column<long>(type: "INTEGER", nullable: false),
                    created_at = table.Column<long>(type: "INTEGER", nullable: false),
                    record_sequence = table.Column<long>(type: "INTEGER", nullable: false),
                    record_hash = table.Column<string>(type: "TEXT", maxLength: 64, nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_workspaces", x => x.id);
                });

            migrationBuilder.CreateTable(
                name: "account_addresses",
                columns: table => new
                {
                    account_id = table.Column<Guid>(type: "TEXT", nullable: false),
                    address_key = table.Column<string>(type: "TEXT", nullable: false),
                    address = table.Column<string>(type: "TEXT", nullable: false),
                    proved_at = table.Column<long>(type: "INTEGER", nullable: true)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_account_addresses", x => new { x.address_key, x.account_id });
                    table.ForeignKey(
                        name: "fk_account_addresses_accounts_account_id",
                        column: x => x.account_id,
                        principalTable: "accounts",
                        principalColumn: "id",
                        onDelete: ReferentialAction.Cascade);
                });

            migrationBuilder.CreateTable(
                name: "sessions",
                columns: table => new
                {
                    id = table.Column<Guid>(type: "TEXT", nullable: false),
                    account_id = table.Column<Guid>(type: "TEXT", nullable: false),
                    opened_at = table.Column<long>(type: "INTEGER", nullable: false),
                    expires_at = table.Column<long>(type: "INTEGER", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_sessions", x => x.id);
                    table.ForeignKey(
                        name: "fk_sessions_accounts_account_id",
                        column: x => x.account_id,
                        principalTable: "accounts",
                        principalColumn: "id",
                        onDelete: ReferentialAction.Cascade);
                });

            migrationBuilder.CreateIndex(
                name: "ix_account_addresses_account_id",
                table: "account_addresses",
                column: "account_id");

            migrationBuilder.CreateIndex(
                name: "ix_account_addresses_one_proof",
                table: "account_addresses",
                column: "address_key",
                unique: true,
                filter: "proved_at IS NOT NULL");

            migrationBuilder.CreateIndex(
                name: "ix_api_tokens_secret_hash",
                table: "api_tokens",
                column: "secret_hash",
                unique: true);

            migrationBuilder.CreateIndex(
                name: "ix_api_tokens_workspace_id_member_id",
                table: "api_tokens",
                columns: new[] { "workspace_id", "member_id" });

            migrationBuilder.CreateIndex(
                name: "ix_deliveries_waiting",
                table: "deliveries",
                column: "due_at",
                filter: "settled_at IS NULL");

            migrationBuilder.CreateIndex(
                name: "ix_deliveries_workspace_id_invitation_id",
                table: "deliveries",
                columns: new[] { "workspace_id", "invitation_id" });

            migrationBuilder.CreateIndex(
                name: "ix_departures_workspace_id_member_id_state",
                table: "departures",
                columns: new[] { "workspace_id", "member_id", "state" });

            migrationBuilder.CreateIndex(
                name: "ix_idempotency_keys_workspace_id_created_at",
                table: "idempotency_keys",
                columns: new[] { "workspace_id", "created_at" });

            migrationBuilder.CreateIndex(
                name: "ix_invitations_address",
                table: "invitations",
                columns: new[] { "workspace_id", "address_key" });

            migrationBuilder.CreateIndex(
                name: "ix_invitations_one_pending_per_address",
                table: "invitations",
                columns: new[] { "workspace_id", "address_key" },
                unique: true,
                filter: "state IN ('queued', 'sent')");

            migrationBuilder.CreateIndex(
                name: "ix_invitations_secret_hash",
                table: "invitations",
                column: "secret_hash",
                unique: true);

            migrationBuilder.CreateIndex(
                name: "ix_invitations_state_deadline",
                table: "invitations",
                columns: new[] { "state", "deadline" });

            migrationBuilder.CreateIndex(
                name: "ix_invitations_workspace_id_invited_by_state",
                table: "invitations",
                columns: new[] { "workspace_id", "invited_by", "state" });

            migrationBuilder.CreateIndex(
                name: "ix_invitations_workspace_id_state_id",
                table: "invitations",
                columns: new[] { "workspace_id", "state", "id" });

            migrationBuilder.CreateIndex(
                name: "ix_members_account_id",
                table: "members",
                column: "account_id");

            migrationBuilder.CreateIndex(
                name: "ix_members_ending",
                table: "members",
                column: "last_day",
                filter: "ended_at IS NULL");

            migrationBuilder.CreateIndex(
                name: "ix_members_one_capacity_per_account",
                table: "members",
                columns: new[] { "workspace_id", "account_id" },
                unique: true,
                filter: "ended_at IS NULL");

            migrationBuilder.CreateIndex(
                name: "ix_members_workspace_id_address_key",
                table: "members",
                columns: new[] { "workspace_id", "address_key" });

            migrationBuilder.CreateIndex(
                name: "ix_record_workspace_id_subject_sequence",
                table: "record",
                columns: new[] { "workspace_id", "subject", "sequence" });

            migrationBuilder.CreateIndex(
                name: "ix_sessions_account_id",
                table: "sessions",
                column: "account_id");

            migrationBuilder.CreateIndex(
                name: "ix_workspaces_short_name",
                table: "workspaces",
                column: "short_name",
                unique: true);
        }

        /// <inheritdoc />
        protected override void Down(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.DropTable(
                name: "account_addresses");

            migrationBuilder.DropTable(
                name: "address_codes");

            migrationBuilder.DropTable(
                name: "api_tokens");

            migrationBuilder.DropTable(
                name: "deliveries");

            migrationBuilder.DropTable(
                name: "departures");

            migrationBuilder.DropTable(
                name: "idempotency_keys");

            migrationBuilder.DropTable(
                name: "invitation_counts");

            migrationBuilder.DropTable(
                name: "invitations");

            migrationBuilder.DropTable(
                name: "members");

            migrationBuilder.DropTable(
                name: "opt_outs");

            migrationBuilder.DropTable(
                name: "protection_keys");

            migrationBuilder.DropTable(
                name: "record");

            migrationBuilder.DropTable(
                name: "sessions");

            migrationBuilder.DropTable(
                name: "set_up_links");

            migrationBuilder.DropTable(
                name: "workspaces");

            migrationBuilder.DropTable(
                name: "accounts");
        }
    }
}
