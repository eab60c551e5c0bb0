using System;
using Microsoft.EntityFrameworkCore.Migrations;

#nullable disable

namespace ComeAboard.Storage.Migrations.Sqlite
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
                type: "TEXT",
                maxLength: 200,
                nullable: false,
                defaultValue: "");

            migrationBuilder.AddColumn<string>(
                name: "network",
                table: "sessions",
                type: "TEXT",
                maxLength: 60,
                nullable: false,
                defaultValue: "");

            migrationBuilder.AddColumn<string>(
                name: "opened_with",
                table: "sessions",
                type: "TEXT",
                maxLength: 16,
                nullable: false,
                defaultValue: "password");

            migrationBuilder.AddColumn<long>(
                name: "proved_at",
                table: "sessions",
                type: "INTEGER",
                nullable: false,
                defaultValue: 0L);

            migrationBuilder.AddColumn<long>(
                name: "seen_at",
                table: "sessions",
                type: "INTEGER",
                nullable: false,
                defaultValue: 0L);

            migrationBuilder.AddColumn<string>(
                name: "history_hash",
                table: "accounts",
                type: "TEXT",
                maxLength: 64,
                nullable: false,
                defaultValue: new string('0', 64));

            migrationBuilder.AddColumn<long>(
                name: "history_sequence",
                table: "accounts",
                type: "INTEGER",
                nullable: false,
                defaultValue: 0L);

            migrationBuilder.CreateTable(
                name: "account_history",
                columns: table => new
                {
                    account_id = table.Column<Guid>(type: "TEXT", nullable: false),
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
                    account_id = table.Column<Guid>(type: "TEXT", nullable: false),
                    id = table.Column<Guid>(type: "TEXT", nullable: false),
                    kind = table.Column<string>(type: "TEXT", maxLength: 16, nullable: false),
                    label = table.Column<string>(type: "TEXT", maxLength: 100, nullable: false),
                    secret = table.Column<string>(type: "TEXT", nullable: false),
                    made_at = table.Column<long>(type: "INTEGER", nullable: false),
                    last_used_at = table.Column<long>(type: "INTEGER", nullable: true)
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
            migrationBuilder.Sql(
                """
                INSERT INTO sqlite_stat1 (tbl, idx, stat) VALUES
                ('account_history', 'sqlite_autoindex_account_history_1', '200000 20 1'),
                ('credentials', 'ix_credentials_one_password', '200000 1'),
                ('credentials', 'sqlite_autoindex_credentials_1', '200000 2 1');
                """);
            migrationBuilder.Sql("ANALYZE sqlite_master;");
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
                type: "TEXT",
                nullable: true);
        }
    }
}
