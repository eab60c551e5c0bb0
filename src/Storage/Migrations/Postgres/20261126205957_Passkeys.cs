using System;
using Microsoft.EntityFrameworkCore.Migrations;

#nullable disable

namespace ComeAboard.Storage.Migrations.Postgres
{
    /// <inheritdoc />
    public partial class Passkeys : Migration
    {
        /// <inheritdoc />
        protected override void Up(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.AddColumn<string>(
                name: "handle",
                table: "credentials",
                type: "character varying(1400)",
                maxLength: 1400,
                nullable: false,
                defaultValue: "");

            migrationBuilder.CreateTable(
                name: "ceremonies",
                columns: table => new
                {
                    id = table.Column<Guid>(type: "uuid", nullable: false),
                    account_id = table.Column<Guid>(type: "uuid", nullable: false),
                    state = table.Column<string>(type: "text", nullable: false),
                    expires_at = table.Column<DateTimeOffset>(type: "timestamp with time zone", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_ceremonies", x => x.id);
                });

            migrationBuilder.CreateIndex(
                name: "ix_credentials_handle",
                table: "credentials",
                column: "handle",
                unique: true,
                filter: "handle <> ''");
        }

        /// <inheritdoc />
        protected override void Down(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.DropTable(
                name: "ceremonies");

            migrationBuilder.DropIndex(
                name: "ix_credentials_handle",
                table: "credentials");

            migrationBuilder.DropColumn(
                name: "handle",
                table: "credentials");
        }
    }
}
