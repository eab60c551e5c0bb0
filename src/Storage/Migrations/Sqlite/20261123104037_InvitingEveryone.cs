using System;
using Microsoft.EntityFrameworkCore.Migrations;

#nullable disable

namespace ComeAboard.Storage.Migrations.Sqlite
{
    /// <inheritdoc />
    public partial class InvitingEveryone : Migration
    {
        /// <inheritdoc />
        protected override void Up(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.DropIndex(
                name: "ix_invitations_one_pending_per_address",
                table: "invitations");

            migrationBuilder.DropIndex(
                name: "ix_invitations_state_deadline",
                table: "invitations");

            migrationBuilder.RenameColumn(
                name: "sealed_letter",
                table: "deliveries",
                newName: "sealed");

            migrationBuilder.AddColumn<string>(
                name: "colour",
                table: "workspaces",
                type: "TEXT",
                maxLength: 7,
                nullable: true);

            migrationBuilder.AddColumn<string>(
                name: "rules",
                table: "workspaces",
                type: "TEXT",
                nullable: true);

            migrationBuilder.AddColumn<string>(
                name: "country",
                table: "members",
                type: "TEXT",
                nullable: false,
                defaultValue: "");

            migrationBuilder.AddColumn<string>(
                name: "department",
                table: "members",
                type: "TEXT",
                nullable: false,
                defaultValue: "");

            migrationBuilder.AddColumn<DateOnly>(
                name: "first_day",
                table: "members",
                type: "TEXT",
                nullable: true);

            migrationBuilder.AddColumn<Guid>(
                name: "host_id",
                table: "members",
                type: "TEXT",
                nullable: true);

            migrationBuilder.AddColumn<string>(
                name: "host_name",
                table: "members",
                type: "TEXT",
                nullable: false,
                defaultValue: "");

            migrationBuilder.AddColumn<Guid>(
                name: "link_id",
                table: "members",
                type: "TEXT",
                nullable: true);

            migrationBuilder.AddColumn<string>(
                name: "manager",
                table: "members",
                type: "TEXT",
                nullable: false,
                defaultValue: "");

            migrationBuilder.AddColumn<string>(
                name: "note",
                table: "members",
                type: "TEXT",
                nullable: false,
                defaultValue: "");

            migrationBuilder.AddColumn<string>(
                name: "organisation",
                table: "members",
                type: "TEXT",
                nullable: false,
                defaultValue: "");

            migrationBuilder.AddColumn<string>(
                name: "title",
                table: "members",
                type: "TEXT",
                nullable: false,
                defaultValue: "");

            migrationBuilder.AlterColumn<string>(
                name: "secret_hash",
                table: "invitations",
                type: "TEXT",
                maxLength: 64,
                nullable: true,
                oldClrType: typeof(string),
                oldType: "TEXT",
                oldMaxLength: 64);

            migrationBuilder.AddColumn<Guid>(
                name: "account_id",
                table: "invitations",
                type: "TEXT",
                nullable: true);

            migrationBuilder.AddColumn<Guid>(
                name: "batch_id",
                table: "invitations",
                type: "TEXT",
                nullable: true);

            migrationBuilder.AddColumn<string>(
                name: "country",
                table: "invitations",
                type: "TEXT",
                nullable: false,
                defaultValue: "");

            migrationBuilder.AddColumn<string>(
                name: "department",
                table: "invitations",
                type: "TEXT",
                nullable: false,
                defaultValue: "");

            migrationBuilder.AddColumn<string>(
                name: "extra_secret_hash",
                table: "invitations",
                type: "TEXT",
                maxLength: 64,
                nullable: true);

            migrationBuilder.AddColumn<string>(
                name: "family_name",
                table: "invitations",
                type: "TEXT",
                nullable: false,
                defaultValue: "");

            migrationBuilder.AddColumn<DateOnly>(
                name: "first_day",
                table: "invitations",
                type: "TEXT",
                nullable: true);

            migrationBuilder.AddColumn<string>(
                name: "given_name",
                table: "invitations",
                type: "TEXT",
                nullable: false,
                defaultValue: "");

            migrationBuilder.AddColumn<Guid>(
                name: "host_id",
                table: "invitations",
                type: "TEXT",
                nullable: true);

            migrationBuilder.AddColumn<string>(
                name: "host_name",
                table: "invitations",
                type: "TEXT",
                nullable: false,
                defaultValue: "");

            migrationBuilder.AddColumn<bool>(
                name: "is_pending",
                table: "invitations",
                type: "INTEGER",
                nullable: false,
                defaultValue: false);

            migrationBuilder.AddColumn<Guid>(
                name: "link_id",
                table: "invitations",
                type: "TEXT",
                nullable: true);

            migrationBuilder.AddColumn<string>(
                name: "manager",
                table: "invitations",
                type: "TEXT",
                nullable: false,
                defaultValue: "");

            migrationBuilder.AddColumn<bool>(
                name: "needs_approval",
                table: "invitations",
                type: "INTEGER",
                nullable: false,
                defaultValue: false);

            migrationBuilder.AddColumn<long>(
                name: "next_reminder_at",
                table: "invitations",
                type: "INTEGER",
                nullable: true);

            migrationBuilder.AddColumn<string>(
                name: "note",
                table: "invitations",
                type: "TEXT",
                nullable: false,
                defaultValue: "");

            migrationBuilder.AddColumn<string>(
                name: "organisation",
                table: "invitations",
                type: "TEXT",
                nullable: false,
                defaultValue: "");

            migrationBuilder.AddColumn<int>(
                name: "reminders",
                table: "invitations",
                type: "INTEGER",
                nullable: false,
                defaultValue: 0);

            migrationBuilder.AddColumn<string>(
                name: "title",
                table: "invitations",
                type: "TEXT",
                nullable: false,
                defaultValue: "");

            migrationBuilder.CreateTable(
                name: "batch_contents",
                columns: table => new
                {
                    workspace_id = table.Column<Guid>(type: "TEXT", nullable: false),
                    batch_id = table.Column<Guid>(type: "TEXT", nullable: false),
                    csv = table.Column<byte[]>(type: "BLOB", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_batch_contents", x => new { x.workspace_id, x.batch_id });
                });

            migrationBuilder.CreateTable(
                name: "batch_entries",
                columns: table => new
                {
                    workspace_id = table.Column<Guid>(type: "TEXT", nullable: false),
                    batch_id = table.Column<Guid>(type: "TEXT", nullable: false),
                    number = table.Column<int>(type: "INTEGER", nullable: false),
                    address = table.Column<string>(type: "TEXT", nullable: false),
                    wish = table.Column<string>(type: "TEXT", nullable: true),
                    verdict = table.Column<string>(type: "TEXT", maxLength: 16, nullable: false),
                    reason = table.Column<string>(type: "TEXT", nullable: true),
                    invitation_id = table.Column<Guid>(type: "TEXT", nullable: true)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_batch_entries", x => new { x.workspace_id, x.batch_id, x.number });
                });

            migrationBuilder.CreateTable(
                name: "batches",
                columns: table => new
                {
                    workspace_id = table.Column<Guid>(type: "TEXT", nullable: false),
                    id = table.Column<Guid>(type: "TEXT", nullable: false),
                    name = table.Column<string>(type: "TEXT", maxLength: 200, nullable: false),
                    format = table.Column<string>(type: "TEXT", maxLength: 8, nullable: false),
                    digest = table.Column<string>(type: "TEXT", maxLength: 64, nullable: false),
                    state = table.Column<string>(type: "TEXT", maxLength: 16, nullable: false),
                    defaults = table.Column<string>(type: "TEXT", nullable: false),
                    sends_at_once = table.Column<bool>(type: "INTEGER", nullable: false),
                    position = table.Column<int>(type: "INTEGER", nullable: false),
                    entries = table.Column<int>(type: "INTEGER", nullable: false),
                    total = table.Column<int>(type: "INTEGER", nullable: false),
                    done_at_start = table.Column<int>(type: "INTEGER", nullable: false),
                    counts = table.Column<string>(type: "TEXT", nullable: false),
                    unknown_columns = table.Column<string>(type: "TEXT", nullable: false),
                    fault = table.Column<string>(type: "TEXT", nullable: true),
                    created_by = table.Column<Guid>(type: "TEXT", nullable: false),
                    created_by_name = table.Column<string>(type: "TEXT", nullable: false),
                    created_at = table.Column<long>(type: "INTEGER", nullable: false),
                    started_at = table.Column<long>(type: "INTEGER", nullable: true),
                    finished_at = table.Column<long>(type: "INTEGER", nullable: true),
                    lease = table.Column<Guid>(type: "TEXT", nullable: true),
                    leased_until = table.Column<long>(type: "INTEGER", nullable: true)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_batches", x => new { x.workspace_id, x.id });
                });

            migrationBuilder.CreateTable(
                name: "bounced_addresses",
                columns: table => new
                {
                    workspace_id = table.Column<Guid>(type: "TEXT", nullable: false),
                    address_key = table.Column<string>(type: "TEXT", maxLength: 400, nullable: false),
                    address = table.Column<string>(type: "TEXT", maxLength: 400, nullable: false),
                    answer = table.Column<string>(type: "TEXT", maxLength: 500, nullable: false),
                    at = table.Column<long>(type: "INTEGER", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_bounced_addresses", x => new { x.workspace_id, x.address_key });
                });

            migrationBuilder.CreateTable(
                name: "join_links",
                columns: table => new
                {
                    workspace_id = table.Column<Guid>(type: "TEXT", nullable: false),
                    id = table.Column<Guid>(type: "TEXT", nullable: false),
                    label = table.Column<string>(type: "TEXT", maxLength: 100, nullable: false),
                    secret_hash = table.Column<string>(type: "TEXT", maxLength: 64, nullable: false),
                    kind = table.Column<string>(type: "TEXT", maxLength: 16, nullable: false),
                    role = table.Column<string>(type: "TEXT", nullable: false),
                    last_day = table.Column<DateOnly>(type: "TEXT", nullable: true),
                    stay_days = table.Column<int>(type: "INTEGER", nullable: true),
                    cap = table.Column<int>(type: "INTEGER", nullable: false),
                    uses = table.Column<int>(type: "INTEGER", nullable: false),
                    domains = table.Column<string>(type: "TEXT", nullable: false),
                    needs_approval = table.Column<bool>(type: "INTEGER", nullable: false),
                    expires_at = table.Column<long>(type: "INTEGER", nullable: false),
                    closed_at = table.Column<long>(type: "INTEGER", nullable: true),
                    message = table.Column<string>(type: "TEXT", nullable: false),
                    language = table.Column<string>(type: "TEXT", nullable: false),
                    created_by = table.Column<Guid>(type: "TEXT", nullable: false),
                    created_by_name = table.Column<string>(type: "TEXT", nullable: false),
                    created_at = table.Column<long>(type: "INTEGER", nullable: false),
                    version = table.Column<int>(type: "INTEGER", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_join_links", x => new { x.workspace_id, x.id });
                });

            migrationBuilder.CreateTable(
                name: "presets",
                columns: table => new
                {
                    workspace_id = table.Column<Guid>(type: "TEXT", nullable: false),
                    id = table.Column<Guid>(type: "TEXT", nullable: false),
                    name = table.Column<string>(type: "TEXT", nullable: false),
                    name_key = table.Column<string>(type: "TEXT", nullable: false),
                    kind = table.Column<string>(type: "TEXT", maxLength: 16, nullable: false),
                    role = table.Column<string>(type: "TEXT", nullable: false),
                    stay_days = table.Column<int>(type: "INTEGER", nullable: true),
                    organisation = table.Column<string>(type: "TEXT", nullable: false),
                    message = table.Column<string>(type: "TEXT", nullable: false),
                    language = table.Column<string>(type: "TEXT", nullable: true),
                    version = table.Column<int>(type: "INTEGER", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_presets", x => new { x.workspace_id, x.id });
                });

            migrationBuilder.CreateTable(
                name: "wordings",
                columns: table => new
                {
                    workspace_id = table.Column<Guid>(type: "TEXT", nullable: false),
                    letter = table.Column<string>(type: "TEXT", maxLength: 20, nullable: false),
                    language = table.Column<string>(type: "TEXT", maxLength: 20, nullable: false),
                    subject = table.Column<string>(type: "TEXT", nullable: false),
                    body = table.Column<string>(type: "TEXT", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_wordings", x => new { x.workspace_id, x.letter, x.language });
                });

            migrationBuilder.CreateIndex(
                name: "ix_members_link",
                table: "members",
                columns: new[] { "workspace_id", "link_id" },
                filter: "link_id IS NOT NULL");

            migrationBuilder.CreateIndex(
                name: "ix_invitations_batch",
                table: "invitations",
                columns: new[] { "workspace_id", "batch_id" },
                filter: "batch_id IS NOT NULL");

            migrationBuilder.CreateIndex(
                name: "ix_invitations_by_deadline",
                table: "invitations",
                columns: new[] { "workspace_id", "deadline", "id" });

            migrationBuilder.CreateIndex(
                name: "ix_invitations_by_last_step",
                table: "invitations",
                columns: new[] { "workspace_id", "last_step_at", "id" });

            migrationBuilder.CreateIndex(
                name: "ix_invitations_expiring",
                table: "invitations",
                column: "deadline",
                filter: "state IN ('queued', 'sent')");

            migrationBuilder.CreateIndex(
                name: "ix_invitations_extra_secret_hash",
                table: "invitations",
                column: "extra_secret_hash",
                unique: true,
                filter: "extra_secret_hash IS NOT NULL");

            migrationBuilder.CreateIndex(
                name: "ix_invitations_link",
                table: "invitations",
                columns: new[] { "workspace_id", "link_id" },
                filter: "link_id IS NOT NULL");

            migrationBuilder.CreateIndex(
                name: "ix_invitations_one_pending_per_address",
                table: "invitations",
                columns: new[] { "workspace_id", "address_key" },
                unique: true,
                filter: "state IN ('queued', 'sent', 'waiting')");

            migrationBuilder.CreateIndex(
                name: "ix_invitations_pending",
                table: "invitations",
                columns: new[] { "workspace_id", "id" },
                filter: "is_pending");

            migrationBuilder.CreateIndex(
                name: "ix_invitations_reminding",
                table: "invitations",
                column: "next_reminder_at",
                filter: "next_reminder_at IS NOT NULL");

            migrationBuilder.CreateIndex(
                name: "ix_batch_entries_open",
                table: "batch_entries",
                columns: new[] { "workspace_id", "batch_id", "verdict", "number" },
                filter: "invitation_id IS NULL");

            migrationBuilder.CreateIndex(
                name: "ix_batches_working",
                table: "batches",
                column: "state",
                filter: "state IN ('reading', 'sending')");

            migrationBuilder.CreateIndex(
                name: "ix_batches_workspace_id_digest",
                table: "batches",
                columns: new[] { "workspace_id", "digest" });

            migrationBuilder.CreateIndex(
                name: "ix_join_links_secret_hash",
                table: "join_links",
                column: "secret_hash",
                unique: true);

            migrationBuilder.CreateIndex(
                name: "ix_presets_workspace_id_name_key",
                table: "presets",
                columns: new[] { "workspace_id", "name_key" },
                unique: true);
        }

        /// <inheritdoc />
        protected override void Down(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.DropTable(
                name: "batch_contents");

            migrationBuilder.DropTable(
                name: "batch_entries");

            migrationBuilder.DropTable(
                name: "batches");

            migrationBuilder.DropTable(
                name: "bounced_addresses");

            migrationBuilder.DropTable(
                name: "join_links");

            migrationBuilder.DropTable(
                name: "presets");

            migrationBuilder.DropTable(
                name: "wordings");

            migrationBuilder.DropIndex(
                name: "ix_members_link",
                table: "members");

            migrationBuilder.DropIndex(
                name: "ix_invitations_batch",
                table: "invitations");

            migrationBuilder.DropIndex(
                name: "ix_invitations_by_deadline",
                table: "invitations");

            migrationBuilder.DropIndex(
                name: "ix_invitations_by_last_step",
                table: "invitations");

            migrationBuilder.DropIndex(
                name: "ix_invitations_expiring",
                table: "invitations");

            migrationBuilder.DropIndex(
                name: "ix_invitations_extra_secret_hash",
                table: "invitations");

            migrationBuilder.DropIndex(
                name: "ix_invitations_link",
                table: "invitations");

            migrationBuilder.DropIndex(
                name: "ix_invitations_one_pending_per_address",
                table: "invitations");

            migrationBuilder.DropIndex(
                name: "ix_invitations_pending",
                table: "invitations");

            migrationBuilder.DropIndex(
                name: "ix_invitations_reminding",
                table: "invitations");

            migrationBuilder.DropColumn(
                name: "colour",
                table: "workspaces");

            migrationBuilder.DropColumn(
                name: "rules",
                table: "workspaces");

            migrationBuilder.DropColumn(
                name: "country",
                table: "members");

            migrationBuilder.DropColumn(
                name: "department",
                table: "members");

            migrationBuilder.DropColumn(
                name: "first_day",
                table: "members");

            migrationBuilder.DropColumn(
                name: "host_id",
                table: "members");

            migrationBuilder.DropColumn(
                name: "host_name",
                table: "members");

            migrationBuilder.DropColumn(
                name: "link_id",
                table: "members");

            migrationBuilder.DropColumn(
                name: "manager",
                table: "members");

            migrationBuilder.DropColumn(
                name: "note",
                table: "members");

            migrationBuilder.DropColumn(
                name: "organisation",
                table: "members");

            migrationBuilder.DropColumn(
                name: "title",
                table: "members");

            migrationBuilder.DropColumn(
                name: "account_id",
                table: "invitations");

            migrationBuilder.DropColumn(
                name: "batch_id",
                table: "invitations");

            migrationBuilder.DropColumn(
                name: "country",
                table: "invitations");

            migrationBuilder.DropColumn(
                name: "department",
                table: "invitations");

            migrationBuilder.DropColumn(
                name: "extra_secret_hash",
                table: "invitations");

            migrationBuilder.DropColumn(
                name: "family_name",
                table: "invitations");

            migrationBuilder.DropColumn(
                name: "first_day",
                table: "invitations");

            migrationBuilder.DropColumn(
                name: "given_name",
                table: "invitations");

            migrationBuilder.DropColumn(
                name: "host_id",
                table: "invitations");

            migrationBuilder.DropColumn(
                name: "host_name",
                table: "invitations");

            migrationBuilder.DropColumn(
                name: "is_pending",
                table: "invitations");

            migrationBuilder.DropColumn(
                name: "link_id",
                table: "invitations");

            migrationBuilder.DropColumn(
                name: "manager",
                table: "invitations");

            migrationBuilder.DropColumn(
                name: "needs_approval",
                table: "invitations");

            migrationBuilder.DropColumn(
                name: "next_reminder_at",
                table: "invitations");

            migrationBuilder.DropColumn(
                name: "note",
                table: "invitations");

            migrationBuilder.DropColumn(
                name: "organisation",
                table: "invitations");

            migrationBuilder.DropColumn(
                name: "reminders",
                table: "invitations");

            migrationBuilder.DropColumn(
                name: "title",
                table: "invitations");

            migrationBuilder.RenameColumn(
                name: "sealed",
                table: "deliveries",
                newName: "sealed_letter");

            migrationBuilder.AlterColumn<string>(
                name: "secret_hash",
                table: "invitations",
                type: "TEXT",
                maxLength: 64,
                nullable: false,
                defaultValue: "",
                oldClrType: typeof(string),
                oldType: "TEXT",
                oldMaxLength: 64,
                oldNullable: true);

            migrationBuilder.CreateIndex(
                name: "ix_invitations_one_pending_per_address",
                table: "invitations",
                columns: new[] { "workspace_id", "address_key" },
                unique: true,
                filter: "state IN ('queued', 'sent')");

            migrationBuilder.CreateIndex(
                name: "ix_invitations_state_deadline",
                table: "invitations",
                columns: new[] { "state", "deadline" });
        }
    }
}
