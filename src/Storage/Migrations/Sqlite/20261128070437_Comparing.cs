using System;
using Microsoft.EntityFrameworkCore.Migrations;

#nullable disable

namespace ComeAboard.Storage.Migrations.Sqlite
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
                type: "TEXT",
                nullable: true);

            migrationBuilder.AddColumn<long>(
                name: "compared_version",
                table: "lanes",
                type: "INTEGER",
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
