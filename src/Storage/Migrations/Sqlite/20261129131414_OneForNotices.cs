using Microsoft.EntityFrameworkCore.Migrations;

#nullable disable

namespace ComeAboard.Storage.Migrations.Sqlite
{
    /// <inheritdoc />
    public partial class OneForNotices : Migration
    {
        /// <inheritdoc />
        protected override void Up(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.Sql(
                """
                UPDATE account_addresses SET takes_notices = FALSE WHERE takes_notices AND EXISTS (
                    SELECT 1 FROM account_addresses AS other
                    WHERE other.account_id = account_addresses.account_id AND other.takes_notices
                        AND other.address_key < account_addresses.address_key);
                """
            );

            migrationBuilder.CreateIndex(
                name: "ix_account_addresses_one_for_notices",
                table: "account_addresses",
                column: "account_id",
                unique: true,
                filter: "takes_notices");

            migrationBuilder.Sql(
                """
                INSERT INTO sqlite_stat1 (tbl, idx, stat) VALUES
                    ('account_addresses', 'ix_account_addresses_one_for_notices', '2000 1');
                ANALYZE sqlite_master;
                """
            );
        }

        /// <inheritdoc />
        protected override void Down(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.DropIndex(
                name: "ix_account_addresses_one_for_notices",
                table: "account_addresses");
        }
    }
}
