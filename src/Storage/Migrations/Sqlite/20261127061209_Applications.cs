using System;
using Microsoft.EntityFrameworkCore.Migrations;

#nullable disable

namespace ComeAboard.Storage.Migrations.Sqlite
{
    /// <inheritdoc />
    public partial class Applications : Migration
    {
        /// <inheritdoc />
        protected override void Up(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.CreateTable(
                name: "applications",
                columns: table => new
                {
                    workspace_id = table.Column<Guid>(type: "TEXT", nullable: false),
                    id = table.Column<Guid>(type: "TEXT", nullable: false),
                    name = table.Column<string>(type: "TEXT", maxLength: 100, nullable: false),
                    name_key = table.Column<string>(type: "TEXT", maxLength: 100, nullable: false),
                    resource_id = table.Column<Guid>(type: "TEXT", nullable: true),
                    duties = table.Column<int>(type: "INTEGER", nullable: false),
                    acts_for_id = table.Column<Guid>(type: "TEXT", nullable: true),
                    sign_out_address = table.Column<string>(type: "TEXT", maxLength: 500, nullable: true),
                    added_at = table.Column<long>(type: "INTEGER", nullable: false),
                    added_by_name = table.Column<string>(type: "TEXT", maxLength: 100, nullable: false),
                    version = table.Column<int>(type: "INTEGER", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_applications", x => new { x.workspace_id, x.id });
                });

            migrationBuilder.CreateTable(
                name: "oauth_clients",
                columns: table => new
                {
                    id = table.Column<Guid>(type: "TEXT", nullable: false),
                    application_type = table.Column<string>(type: "TEXT", maxLength: 50, nullable: true),
                    client_id = table.Column<string>(type: "TEXT", maxLength: 100, nullable: true),
                    client_secret = table.Column<string>(type: "TEXT", nullable: true),
                    client_type = table.Column<string>(type: "TEXT", maxLength: 50, nullable: true),
                    concurrency_token = table.Column<string>(type: "TEXT", maxLength: 50, nullable: true),
                    consent_type = table.Column<string>(type: "TEXT", maxLength: 50, nullable: true),
                    display_name = table.Column<string>(type: "TEXT", nullable: true),
                    display_names = table.Column<string>(type: "TEXT", nullable: true),
                    json_web_key_set = table.Column<string>(type: "TEXT", nullable: true),
                    permissions = table.Column<string>(type: "TEXT", nullable: true),
                    post_logout_redirect_uris = table.Column<string>(type: "TEXT", nullable: true),
                    properties = table.Column<string>(type: "TEXT", nullable: true),
                    redirect_uris = table.Column<string>(type: "TEXT", nullable: true),
                    requirements = table.Column<string>(type: "TEXT", nullable: true),
                    settings = table.Column<string>(type: "TEXT", nullable: true)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_oauth_clients", x => x.id);
                });

            migrationBuilder.CreateTable(
                name: "oauth_keys",
                columns: table => new
                {
                    id = table.Column<Guid>(type: "TEXT", nullable: false),
                    signs = table.Column<bool>(type: "INTEGER", nullable: false),
                    secret = table.Column<string>(type: "TEXT", nullable: false),
                    made_at = table.Column<long>(type: "INTEGER", nullable: false),
                    used_from = table.Column<long>(type: "INTEGER", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_oauth_keys", x => x.id);
                });

            migrationBuilder.CreateTable(
                name: "oauth_scopes",
                columns: table => new
                {
                    id = table.Column<Guid>(type: "TEXT", nullable: false),
                    concurrency_token = table.Column<string>(type: "TEXT", maxLength: 50, nullable: true),
                    description = table.Column<string>(type: "TEXT", nullable: true),
                    descriptions = table.Column<string>(type: "TEXT", nullable: true),
                    display_name = table.Column<string>(type: "TEXT", nullable: true),
                    display_names = table.Column<string>(type: "TEXT", nullable: true),
                    name = table.Column<string>(type: "TEXT", maxLength: 200, nullable: true),
                    properties = table.Column<string>(type: "TEXT", nullable: true),
                    resources = table.Column<string>(type: "TEXT", nullable: true)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_oauth_scopes", x => x.id);
                });

            migrationBuilder.CreateTable(
                name: "oauth_sign_ons",
                columns: table => new
                {
                    id = table.Column<Guid>(type: "TEXT", nullable: false),
                    workspace_id = table.Column<Guid>(type: "TEXT", nullable: true),
                    member_id = table.Column<Guid>(type: "TEXT", nullable: true),
                    session_id = table.Column<Guid>(type: "TEXT", nullable: true),
                    sid = table.Column<Guid>(type: "TEXT", nullable: true),
                    ends_with_session = table.Column<bool>(type: "INTEGER", nullable: false),
                    session_ends_at = table.Column<long>(type: "INTEGER", nullable: true),
                    tell_at = table.Column<long>(type: "INTEGER", nullable: true),
                    tries = table.Column<int>(type: "INTEGER", nullable: false),
                    application_id = table.Column<Guid>(type: "TEXT", nullable: true),
                    concurrency_token = table.Column<string>(type: "TEXT", maxLength: 50, nullable: true),
                    creation_date = table.Column<DateTime>(type: "TEXT", nullable: true),
                    properties = table.Column<string>(type: "TEXT", nullable: true),
                    scopes = table.Column<string>(type: "TEXT", nullable: true),
                    status = table.Column<string>(type: "TEXT", maxLength: 50, nullable: true),
                    subject = table.Column<string>(type: "TEXT", maxLength: 400, nullable: true),
                    type = table.Column<string>(type: "TEXT", maxLength: 50, nullable: true)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_oauth_sign_ons", x => x.id);
                    table.ForeignKey(
                        name: "fk_oauth_sign_ons_oauth_clients_application_id",
                        column: x => x.application_id,
                        principalTable: "oauth_clients",
                        principalColumn: "id");
                    table.ForeignKey(
                        name: "fk_oauth_sign_ons_sessions_session_id",
                        column: x => x.session_id,
                        principalTable: "sessions",
                        principalColumn: "id",
                        onDelete: ReferentialAction.SetNull);
                });

            migrationBuilder.CreateTable(
                name: "oauth_tokens",
                columns: table => new
                {
                    id = table.Column<Guid>(type: "TEXT", nullable: false),
                    answered_at = table.Column<long>(type: "INTEGER", nullable: true),
                    asked_at = table.Column<long>(type: "INTEGER", nullable: true),
                    program = table.Column<string>(type: "TEXT", maxLength: 200, nullable: true),
                    network = table.Column<string>(type: "TEXT", maxLength: 60, nullable: true),
                    application_id = table.Column<Guid>(type: "TEXT", nullable: true),
                    authorization_id = table.Column<Guid>(type: "TEXT", nullable: true),
                    concurrency_token = table.Column<string>(type: "TEXT", maxLength: 50, nullable: true),
                    creation_date = table.Column<DateTime>(type: "TEXT", nullable: true),
                    expiration_date = table.Column<DateTime>(type: "TEXT", nullable: true),
                    payload = table.Column<string>(type: "TEXT", nullable: true),
                    properties = table.Column<string>(type: "TEXT", nullable: true),
                    redemption_date = table.Column<DateTime>(type: "TEXT", nullable: true),
                    reference_id = table.Column<string>(type: "TEXT", maxLength: 100, nullable: true),
                    status = table.Column<string>(type: "TEXT", maxLength: 50, nullable: true),
                    subject = table.Column<string>(type: "TEXT", maxLength: 400, nullable: true),
                    type = table.Column<string>(type: "TEXT", maxLength: 150, nullable: true)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_oauth_tokens", x => x.id);
                    table.ForeignKey(
                        name: "fk_oauth_tokens_oauth_clients_application_id",
                        column: x => x.application_id,
                        principalTable: "oauth_clients",
                        principalColumn: "id");
                    table.ForeignKey(
                        name: "fk_oauth_tokens_oauth_sign_ons_authorization_id",
                        column: x => x.authorization_id,
                        principalTable: "oauth_sign_ons",
                        principalColumn: "id");
                });

            migrationBuilder.CreateIndex(
                name: "ix_applications_id",
                table: "applications",
                column: "id",
                unique: true);

            migrationBuilder.CreateIndex(
                name: "ix_applications_workspace_id_name_key",
                table: "applications",
                columns: new[] { "workspace_id", "name_key" },
                unique: true);

            migrationBuilder.CreateIndex(
                name: "ix_oauth_clients_client_id",
                table: "oauth_clients",
                column: "client_id",
                unique: true);

            migrationBuilder.CreateIndex(
                name: "ix_oauth_scopes_name",
                table: "oauth_scopes",
                column: "name",
                unique: true);

            migrationBuilder.CreateIndex(
                name: "ix_oauth_sign_ons_application_id_status_subject_type",
                table: "oauth_sign_ons",
                columns: new[] { "application_id", "status", "subject", "type" });

            migrationBuilder.CreateIndex(
                name: "ix_oauth_sign_ons_session_ends_at",
                table: "oauth_sign_ons",
                column: "session_ends_at",
                filter: "session_id IS NULL AND session_ends_at IS NOT NULL");

            migrationBuilder.CreateIndex(
                name: "ix_oauth_sign_ons_session_id",
                table: "oauth_sign_ons",
                column: "session_id");

            migrationBuilder.CreateIndex(
                name: "ix_oauth_sign_ons_subject",
                table: "oauth_sign_ons",
                column: "subject");

            migrationBuilder.CreateIndex(
                name: "ix_oauth_sign_ons_tell_at",
                table: "oauth_sign_ons",
                column: "tell_at",
                filter: "tell_at IS NOT NULL");

            migrationBuilder.CreateIndex(
                name: "ix_oauth_sign_ons_workspace_id_member_id",
                table: "oauth_sign_ons",
                columns: new[] { "workspace_id", "member_id" });

            migrationBuilder.CreateIndex(
                name: "ix_oauth_tokens_application_id_status_subject_type",
                table: "oauth_tokens",
                columns: new[] { "application_id", "status", "subject", "type" });

            migrationBuilder.CreateIndex(
                name: "ix_oauth_tokens_authorization_id",
                table: "oauth_tokens",
                column: "authorization_id");

            migrationBuilder.CreateIndex(
                name: "ix_oauth_tokens_expiration_date",
                table: "oauth_tokens",
                column: "expiration_date");

            migrationBuilder.CreateIndex(
                name: "ix_oauth_tokens_reference_id",
                table: "oauth_tokens",
                column: "reference_id",
                unique: true);

            migrationBuilder.CreateIndex(
                name: "ix_oauth_tokens_subject",
                table: "oauth_tokens",
                column: "subject");
            migrationBuilder.Sql(
                """
                INSERT INTO sqlite_stat1 (tbl, idx, stat) VALUES
                ('applications', 'sqlite_autoindex_applications_1', '1000 10 1'),
                ('applications', 'ix_applications_id', '1000 1'),
                ('applications', 'ix_applications_workspace_id_name_key', '1000 10 1'),
                ('oauth_clients', 'sqlite_autoindex_oauth_clients_1', '1000 1'),
                ('oauth_clients', 'ix_oauth_clients_client_id', '1000 1'),
                ('oauth_keys', 'sqlite_autoindex_oauth_keys_1', '10 1'),
                ('oauth_scopes', 'sqlite_autoindex_oauth_scopes_1', '10 1'),
                ('oauth_scopes', 'ix_oauth_scopes_name', '10 1'),
                ('oauth_sign_ons', 'sqlite_autoindex_oauth_sign_ons_1', '100000 1'),
                ('oauth_sign_ons', 'ix_oauth_sign_ons_application_id_status_subject_type', '100000 1000 500 1 1'),
                ('oauth_sign_ons', 'ix_oauth_sign_ons_session_ends_at', '10 1'),
                ('oauth_sign_ons', 'ix_oauth_sign_ons_session_id', '100000 2'),
                ('oauth_sign_ons', 'ix_oauth_sign_ons_subject', '100000 4'),
                ('oauth_sign_ons', 'ix_oauth_sign_ons_tell_at', '10 1'),
                ('oauth_sign_ons', 'ix_oauth_sign_ons_workspace_id_member_id', '100000 10000 4'),
                ('oauth_tokens', 'sqlite_autoindex_oauth_tokens_1', '300000 1'),
                ('oauth_tokens', 'ix_oauth_tokens_application_id_status_subject_type', '300000 3000 1500 4 2'),
                ('oauth_tokens', 'ix_oauth_tokens_authorization_id', '300000 3'),
                ('oauth_tokens', 'ix_oauth_tokens_expiration_date', '300000 1'),
                ('oauth_tokens', 'ix_oauth_tokens_reference_id', '300000 1'),
                ('oauth_tokens', 'ix_oauth_tokens_subject', '300000 8');
                """);
            migrationBuilder.Sql("ANALYZE sqlite_master;");
        }

        /// <inheritdoc />
        protected override void Down(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.DropTable(
                name: "applications");

            migrationBuilder.DropTable(
                name: "oauth_keys");

            migrationBuilder.DropTable(
                name: "oauth_scopes");

            migrationBuilder.DropTable(
                name: "oauth_tokens");

            migrationBuilder.DropTable(
                name: "oauth_sign_ons");

            migrationBuilder.DropTable(
                name: "oauth_clients");
        }
    }
}
