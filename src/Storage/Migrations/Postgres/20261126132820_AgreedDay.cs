using System;
using Microsoft.EntityFrameworkCore.Migrations;

#nullable disable

namespace ComeAboard.Storage.Migrations.Postgres
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
                type: "date",
                nullable: true);

            migrationBuilder.AddColumn<bool>(
                name: "knows_agreed",
                table: "departures",
                type: "boolean",
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
