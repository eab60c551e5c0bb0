using Microsoft.EntityFrameworkCore.Migrations;

#nullable disable

namespace ComeAboard.Storage.Migrations.Postgres
{
    /// <inheritdoc />
    public partial class SecondSteps : Migration
    {
        /// <inheritdoc />
        protected override void Up(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.AddColumn<bool>(
                name: "awaits_step",
                table: "sessions",
                type: "boolean",
                nullable: false,
                defaultValue: false);

            migrationBuilder.AddColumn<string>(
                name: "second_step",
                table: "sessions",
                type: "character varying(16)",
                maxLength: 16,
                nullable: true);

            migrationBuilder.AddColumn<long>(
                name: "last_step",
                table: "credentials",
                type: "bigint",
                nullable: false,
                defaultValue: 0L);

            migrationBuilder.CreateIndex(
                name: "ix_credentials_one_time_code",
                table: "credentials",
                column: "account_id",
                unique: true,
                filter: "kind = 'timecode'");
        }

        /// <inheritdoc />
        protected override void Down(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.DropIndex(
                name: "ix_credentials_one_time_code",
                table: "credentials");

            migrationBuilder.DropColumn(
                name: "awaits_step",
                table: "sessions");

            migrationBuilder.DropColumn(
                name: "second_step",
                table: "sessions");

            migrationBuilder.DropColumn(
                name: "last_step",
                table: "credentials");
        }
    }
}
