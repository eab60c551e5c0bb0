using System;
using Microsoft.EntityFrameworkCore.Migrations;

#nullable disable

namespace ComeAboard.Storage.Migrations.Postgres
{
    /// <inheritdoc />
    public partial class Comparing : Migration
    {
        /// <inheritdoc />
        protected override void Up(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.AddColumn<DateOnly>(
                name: "compared_on",
                table: "lanes",
                type: "date",
                nullable: true);

            migrationBuilder.AddColumn<long>(
                name: "compared_version",
                table: "lanes",
                type: "bigint",
                nullable: false,
                defaultValue: 0L);
        }

        /// <inheritdoc />
        protected override void Down(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.DropColumn(
                name: "compared_on",
                table: "lanes");

            migrationBuilder.DropColumn(
                name: "compared_version",
                table: "lanes");
        }
    }
}
