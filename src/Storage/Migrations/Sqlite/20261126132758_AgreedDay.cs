using System;
using Microsoft.EntityFrameworkCore.Migrations;

#nullable disable

namespace ComeAboard.Storage.Migrations.Sqlite
{
    /// <inheritdoc />
    public partial class AgreedDay : Migration
    {
        /// <inheritdoc />
        protected override void Up(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.AddColumn<DateOnly>(
                name: "agreed_day",
                table: "departures",
                type: "TEXT",
                nullable: true);

            migrationBuilder.AddColumn<bool>(
                name: "knows_agreed",
                table: "departures",
                type: "INTEGER",
                nullable: false,
                defaultValue: false);
        }

        /// <inheritdoc />
        protected override void Down(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.DropColumn(
                name: "agreed_day",
                table: "departures");

            migrationBuilder.DropColumn(
                name: "knows_agreed",
                table: "departures");
        }
    }
}
