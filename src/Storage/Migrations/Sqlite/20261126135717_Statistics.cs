using Microsoft.EntityFrameworkCore.Migrations;

#nullable disable

namespace ComeAboard.Storage.Migrations.Sqlite
{
    /// <inheritdoc />
    public partial class Statistics : Migration
    {
        /// <inheritdoc />
        protected override void Up(MigrationBuilder migrationBuilder)
        {
            // The planner knows nothing of an engine of rows that were never counted, and counts of a moment mislead it later.
            // These are of a large workspace beside another: how many rows there are, and how many share the first column
            // of an index, the first two, and so on. Plans made by them suit small ones as well.
            migrationBuilder.Sql("ANALYZE;");
            migrationBuilder.Sql("DELETE FROM sqlite_stat1;");
            foreach (
                var (table, index, counts) in new (string, string, string)[]
                {
                    ("access_changes", "sqlite_autoindex_access_changes_1", "200000 100000 50 10 1"),
                    ("account_addresses", "ix_account_addresses_account_id", "200000 2"),
                    ("account_addresses", "ix_account_addresses_one_proof", "200000 1"),
                    ("account_addresses", "sqlite_autoindex_account_addresses_1", "200000 2 1"),
                    ("account_links", "ix_account_links_account_id", "200000 2"),
                    ("account_links", "sqlite_autoindex_account_links_1", "200000 1"),
                    ("accounts", "sqlite_autoindex_accounts_1", "200000 1"),
                    ("address_codes", "sqlite_autoindex_address_codes_1", "200000 100000 2 2 1"),
                    ("api_tokens", "ix_api_tokens_secret_hash", "200000 1"),
                    ("api_tokens", "ix_api_tokens_workspace_id_member_id", "200000 100000 2"),
                    ("api_tokens", "sqlite_autoindex_api_tokens_1", "200000 100000 1"),
                    ("areas", "ix_areas_workspace_id_name_key", "200000 100000 1"),
                    ("areas", "sqlite_autoindex_areas_1", "200000 100000 1"),
                    ("batch_contents", "sqlite_autoindex_batch_contents_1", "200000 100000 1"),
                    ("batch_entries", "ix_batch_entries_open", "200000 100000 100 20 2"),
                    ("batch_entries", "sqlite_autoindex_batch_entries_1", "200000 100000 100 1"),
                    ("batches", "ix_batches_working", "200000 40000"),
                    ("batches", "ix_batches_workspace_id_digest", "200000 100000 2"),
                    ("batches", "sqlite_autoindex_batches_1", "200000 100000 1"),
                    ("bounced_addresses", "sqlite_autoindex_bounced_addresses_1", "200000 100000 1"),
                    ("budgets", "ix_budgets_ends_at", "200000 2"),
                    ("budgets", "sqlite_autoindex_budgets_1", "200000 1"),
                    ("contacts", "ix_contacts_workspace_id_organisation_id", "200000 100000 100"),
                    ("contacts", "sqlite_autoindex_contacts_1", "200000 100000 1"),
                    ("deliveries", "ix_deliveries_waiting", "200000 50 2"),
                    ("deliveries", "ix_deliveries_workspace_id_invitation_id", "200000 100000 2"),
                    ("deliveries", "sqlite_autoindex_deliveries_1", "200000 100000 1"),
                    ("departures", "ix_departures_workspace_id_member_id_state", "200000 100000 2 2"),
                    ("departures", "sqlite_autoindex_departures_1", "200000 100000 1"),
                    ("grants", "ix_grants_resource", "200000 100000 100"),
                    ("grants", "ix_grants_workspace_id_holder_kind_holder_id", "200000 100000 20000 2"),
                    ("grants", "ix_grants_workspace_id_role_id", "200000 100000 20000"),
                    ("grants", "sqlite_autoindex_grants_1", "200000 100000 1"),
                    ("group_members", "ix_group_members_workspace_id_member_id", "200000 100000 2"),
                    ("group_members", "sqlite_autoindex_group_members_1", "200000 100000 100 1"),
                    ("groups", "ix_groups_workspace_id_name_key", "200000 100000 1"),
                    ("groups", "sqlite_autoindex_groups_1", "200000 100000 1"),
                    ("idempotency_keys", "ix_idempotency_keys_workspace_id_created_at", "200000 100000 2"),
                    ("idempotency_keys", "sqlite_autoindex_idempotency_keys_1", "200000 100000 2 1"),
                    ("invitation_counts", "sqlite_autoindex_invitation_counts_1", "200000 100000 1"),
                    ("invitations", "ix_invitations_address", "200000 100000 2"),
                    ("invitations", "ix_invitations_batch", "200000 100000 100"),
                    ("invitations", "ix_invitations_by_deadline", "200000 100000 50 2"),
                    ("invitations", "ix_invitations_by_last_step", "200000 100000 50 2"),
                    ("invitations", "ix_invitations_expiring", "200000 2"),
                    ("invitations", "ix_invitations_extra_secret_hash", "200000 1"),
                    ("invitations", "ix_invitations_handed_secret_hash", "200000 1"),
                    ("invitations", "ix_invitations_link", "200000 100000 100"),
                    ("invitations", "ix_invitations_one_pending_per_address", "200000 100000 1"),
                    ("invitations", "ix_invitations_organisation", "200000 100000 100"),
                    ("invitations", "ix_invitations_pending", "200000 100000 2"),
                    ("invitations", "ix_invitations_reminding", "200000 2"),
                    ("invitations", "ix_invitations_secret_hash", "200000 1"),
                    ("invitations", "ix_invitations_workspace_id_invited_by_state", "200000 100000 100 20"),
                    ("invitations", "ix_invitations_workspace_id_state_id", "200000 100000 20000 2"),
                    ("invitations", "sqlite_autoindex_invitations_1", "200000 100000 1"),
                    ("join_links", "ix_join_links_secret_hash", "200000 1"),
                    ("join_links", "sqlite_autoindex_join_links_1", "200000 100000 1"),
                    ("members", "ix_members_account_id", "200000 2"),
                    ("members", "ix_members_ending", "200000 2"),
                    ("members", "ix_members_link", "200000 100000 100"),
                    ("members", "ix_members_one_capacity_per_account", "200000 100000 1"),
                    ("members", "ix_members_organisation", "200000 100000 100"),
                    ("members", "ix_members_workspace_id_address_key", "200000 100000 2"),
                    ("members", "sqlite_autoindex_members_1", "200000 100000 1"),
                    ("opt_outs", "sqlite_autoindex_opt_outs_1", "200000 1"),
                    ("organisations", "ix_organisations_workspace_id_name_key", "200000 100000 1"),
                    ("organisations", "sqlite_autoindex_organisations_1", "200000 100000 1"),
                    ("presets", "ix_presets_workspace_id_name_key", "200000 100000 1"),
                    ("presets", "sqlite_autoindex_presets_1", "200000 100000 1"),
                    ("record", "ix_record_by_actor", "200000 100000 100 2"),
                    ("record", "ix_record_workspace_id_subject_sequence", "200000 100000 50 2"),
                    ("record", "sqlite_autoindex_record_1", "200000 100000 1"),
                    ("resources", "ix_resources_owner", "200000 100000 100"),
                    ("resources", "ix_resources_workspace_id_name_key", "200000 100000 1"),
                    ("resources", "sqlite_autoindex_resources_1", "200000 100000 1"),
                    ("roles", "ix_roles_workspace_id_name_key", "200000 100000 1"),
                    ("roles", "sqlite_autoindex_roles_1", "200000 100000 1"),
                    ("seat_pools", "ix_seat_pools_workspace_id_name_key", "200000 100000 1"),
                    ("seat_pools", "sqlite_autoindex_seat_pools_1", "200000 100000 1"),
                    ("seat_reservations", "ix_seat_reservations_workspace_id_pool_id", "200000 100000 100"),
                    ("seat_reservations", "sqlite_autoindex_seat_reservations_1", "200000 100000 2 1"),
                    ("seats", "ix_seats_workspace_id_member_id", "200000 100000 2"),
                    ("seats", "sqlite_autoindex_seats_1", "200000 100000 100 1"),
                    ("security_events", "ix_security_events_at", "200000 2"),
                    ("security_events", "sqlite_autoindex_security_events_1", "200000 100000 1"),
                    ("sessions", "ix_sessions_account_id", "200000 2"),
                    ("sessions", "ix_sessions_secret_hash", "200000 1"),
                    ("sessions", "sqlite_autoindex_sessions_1", "200000 1"),
                    ("set_up_links", "sqlite_autoindex_set_up_links_1", "200000 1"),
                    ("switched_off", "ix_switched_off_workspace_id_resource_id", "200000 100000 100"),
                    ("switched_off", "sqlite_autoindex_switched_off_1", "200000 100000 2 1"),
                    ("wordings", "sqlite_autoindex_wordings_1", "200000 100000 20000 1"),
                    ("workspaces", "ix_workspaces_short_name", "200000 1"),
                    ("workspaces", "sqlite_autoindex_workspaces_1", "200000 1")
                }
            )
                migrationBuilder.Sql(
                    $"INSERT INTO sqlite_stat1 (tbl, idx, stat) VALUES ('{table}', '{index}', '{counts}');"
                );
            // What is open already takes them up.
            migrationBuilder.Sql("ANALYZE sqlite_master;");
        }

        /// <inheritdoc />
        protected override void Down(MigrationBuilder migrationBuilder) =>
            migrationBuilder.Sql("DELETE FROM sqlite_stat1;");
    }
}
