using Microsoft.EntityFrameworkCore.Migrations;

#nullable disable

namespace ComeAboard.Storage.Migrations.Sqlite
{
    /// <inheritdoc />
    public partial class Search : Migration
    {
        /// <inheritdoc />
        protected override void Up(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.Sql("UPDATE invitations SET is_pending = state IN ('queued', 'sent');");
            // Rows are only ever added: whoever searches looks again at the invitation itself, so a text that was
            // changed leaves a row behind that finds nothing.
            migrationBuilder.Sql(
                """
                CREATE VIRTUAL TABLE invitation_search USING fts5(
                    search_text, id UNINDEXED, tokenize = 'trigram', detail = 'none', columnsize = 0);
                INSERT INTO invitation_search (search_text, id) SELECT search_text, id FROM invitations;
                CREATE TRIGGER invitation_search_new AFTER INSERT ON invitations BEGIN
                    INSERT INTO invitation_search (search_text, id) VALUES (new.search_text, new.id);
                END;
                CREATE TRIGGER invitation_search_changed AFTER UPDATE OF search_text ON invitations
                WHEN old.search_text <> new.search_text BEGIN
                    INSERT INTO invitation_search (search_text, id) VALUES (new.search_text, new.id);
                END;
                """
            );
        }

        /// <inheritdoc />
        protected override void Down(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.Sql(
                """
                DROP TRIGGER invitation_search_new;
                DROP TRIGGER invitation_search_changed;
                DROP TABLE invitation_search;
                """
            );
        }
    }
}
