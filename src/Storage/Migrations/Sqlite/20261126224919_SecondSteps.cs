using Microsoft.EntityFrameworkCore.Migrations;

#nullable disable

namespace ComeAboard.Storage.Migrations.Sqlite
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
                type: "INTEGER",
                nullable: false,
                defaultValue: false);

            migrationBuilder.AddColumn<string>(
                name: "second_step",
                table: "sessions",
                type: "TEXT",
                maxLength: 16,
                nullable: true);

            migrationBuilder.AddColumn<long>(
                name: "last_step",
                table: "credentials",
                type: "INTEGER",
                nullable: false,
                defaultValue: 0L);

            migrationBuilder.CreateIndex(
                name: "ix_credentials_one_time_code",
                table: "credentials",
                column: "account_id",
                unique: true,
                filter: "kind = 'timecode'");

            migrationBuilder.Sql(
                """
                INSERT INTO sqlite_stat1 (tbl, idx, stat) VALUES
                ('credentials', 'ix_credentials_one_time_code', '200000 1');
                """);
            migrationBuilder.Sql("ANALYZE sqlite_master;");
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
