using System;
using Microsoft.EntityFrameworkCore.Migrations;

#nullable disable

namespace ComeAboard.Storage.Migrations.Postgres
{
    /// <inheritdoc />
    public partial class AccountsDoor : Migration
    {
        /// <inheritdoc />
        protected override void Up(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.AddColumn<string>(
                name: "browser",
                table: "sessions",
                type: "character varying(200)",
                maxLength: 200,
                nullable: false,
                defaultValue: "");

            migrationBuilder.AddColumn<string>(
                name: "network",
                table: "sessions",
                type: "character varying(60)",
                maxLength: 60,
                nullable: false,
                defaultValue: "");

            migrationBuilder.AddColumn<string>(
                name: "opened_with",
                table: "sessions",
                type: "character varying(16)",
                maxLength: 16,
                nullable: false,
                defaultValue: "password");

            migrationBuilder.AddColumn<DateTimeOffset>(
                name: "proved_at",
                table: "sessions",
                type: "timestamp with time zone",
                nullable: false,
                defaultValue: new DateTimeOffset(new DateTime(1, 1, 1, 0, 0, 0, 0, DateTimeKind.Unspecified), new TimeSpan(0, 0, 0, 0, 0)));

            migrationBuilder.AddColumn<DateTimeOffset>(
                name: "seen_at",
                table: "sessions",
                type: "timestamp with time zone",
                nullable: false,
                defaultValue: new DateTimeOffset(new DateTime(1, 1, 1, 0, 0, 0, 0, DateTimeKind.Unspecified), new TimeSpan(0, 0, 0, 0, 0)));

            migrationBuilder.AddColumn<string>(
                name: "history_hash",
                table: "accounts",
                type: "character varying(64)",
                maxLength: 64,
                nullable: false,
                defaultValue: new string('0', 64));

            migrationBuilder.AddColumn<long>(
                name: "history_sequence",
                table: "accounts",
                type: "bigint",
                nullable: false,
                defaultValue: 0L);

            migrationBuilder.CreateTable(
                name: "account_history",
                columns: table => new
                {
                    account_id = table.Column<Guid>(type: "uuid", nullable: false),
                    sequence = table.Column<long>(type: "bigint", nullable: false),
                    at = table.Column<DateTimeOffset>(type: "timestamp with time zone", nullable: false),
                    actor = table.Column<string>(type: "text", nullable: false),
                    via = table.Column<string>(type: "text", nullable: false),
                    action = table.Column<string>(type: "text", nullable: false),
                    subject = table.Column<string>(type: "text", nullable: false),
                    details = table.Column<string>(type: "text", nullable: true),
                    details_digest = table.Column<string>(type: "text", nullable: false),
                    details_salt = table.Column<string>(type: "text", nullable: false),
                    previous_hash = table.Column<string>(type: "text", nullable: false),
                    hash = table.Column<string>(type: "text", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_account_history", x => new { x.account_id, x.sequence });
                    table.ForeignKey(
                        name: "fk_account_history_accounts_account_id",
                        column: x => x.account_id,
                        principalTable: "accounts",
                        principalColumn: "id",
                        onDelete: ReferentialAction.Cascade);
                });

            migrationBuilder.CreateTable(
                name: "credentials",
                columns: table => new
                {
                    account_id = table.Column<Guid>(type: "uuid", nullable: false),
                    id = table.Column<Guid>(type: "uuid", nullable: false),
                    kind = table.Column<string>(type: "character varying(16)", maxLength: 16, nullable: false),
                    label = table.Column<string>(type: "character varying(100)", maxLength: 100, nullable: false),
                    secret = table.Column<string>(type: "text", nullable: false),
                    made_at = table.Column<DateTimeOffset>(type: "timestamp with time zone", nullable: false),
                    last_used_at = table.Column<DateTimeOffset>(type: "timestamp with time zone", nullable: true)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_credentials", x => new { x.account_id, x.id });
                    table.ForeignKey(
                        name: "fk_credentials_accounts_account_id",
                        column: x => x.account_id,
                        principalTable: "accounts",
                        principalColumn: "id",
                        onDelete: ReferentialAction.Cascade);
                });

            migrationBuilder.CreateIndex(
                name: "ix_credentials_one_password",
                table: "credentials",
                column: "account_id",
                unique: true,
                filter: "kind = 'password'");

            // What was a column of an account is a row of its own, and an open sign-in rests on what opened it.
            migrationBuilder.Sql(
                "INSERT INTO credentials (account_id, id, kind, label, secret, made_at) "
                    + "SELECT id, id, 'password', '', password_hash, created_at FROM accounts WHERE password_hash IS NOT NULL;");
            migrationBuilder.Sql("UPDATE sessions SET proved_at = opened_at, seen_at = opened_at;");
            migrationBuilder.Sql("ALTER TABLE accounts DROP COLUMN password_hash;");
        }

        /// <inheritdoc />
        protected override void Down(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.DropTable(
                name: "account_history");

            migrationBuilder.DropTable(
                name: "credentials");

            migrationBuilder.DropColumn(
                name: "browser",
                table: "sessions");

            migrationBuilder.DropColumn(
                name: "network",
                table: "sessions");

            migrationBuilder.DropColumn(
                name: "opened_with",
                table: "sessions");

            migrationBuilder.DropColumn(
                name: "proved_at",
                table: "sessions");

            migrationBuilder.DropColumn(
                name: "seen_at",
                table: "sessions");

            migrationBuilder.DropColumn(
                name: "history_hash",
                table: "accounts");

            migrationBuilder.DropColumn(
                name: "history_sequence",
                table: "accounts");

            migrationBuilder.AddColumn<string>(
                name: "password_hash",
                table: "accounts",
                type: "text",
                nullable: true);
        }
    }
}
