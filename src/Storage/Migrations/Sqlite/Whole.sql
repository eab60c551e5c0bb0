CREATE TABLE IF NOT EXISTS "__EFMigrationsHistory" (
    "migration_id" TEXT NOT NULL CONSTRAINT "pk___ef_migrations_history" PRIMARY KEY,
    "product_version" TEXT NOT NULL
);

CREATE TABLE "accounts" (
    "id" TEXT NOT NULL CONSTRAINT "pk_accounts" PRIMARY KEY,
    "name" TEXT NOT NULL,
    "address" TEXT NOT NULL,
    "password_hash" TEXT NULL,
    "security_stamp" TEXT NOT NULL,
    "failed_tries" INTEGER NOT NULL,
    "locked_until" INTEGER NULL,
    "language" TEXT NOT NULL,
    "created_at" INTEGER NOT NULL,
    "version" INTEGER NOT NULL
);

CREATE TABLE "address_codes" (
    "workspace_id" TEXT NOT NULL,
    "invitation_id" TEXT NOT NULL,
    "account_id" TEXT NOT NULL,
    "code_hash" TEXT NOT NULL,
    "expires_at" INTEGER NOT NULL,
    "asked_at" INTEGER NOT NULL,
    "tries" INTEGER NOT NULL,
    CONSTRAINT "pk_address_codes" PRIMARY KEY ("workspace_id", "invitation_id", "account_id")
);

CREATE TABLE "api_tokens" (
    "workspace_id" TEXT NOT NULL,
    "id" TEXT NOT NULL,
    "member_id" TEXT NOT NULL,
    "account_id" TEXT NOT NULL,
    "secret_hash" TEXT NOT NULL,
    "label" TEXT NOT NULL,
    "created_at" INTEGER NOT NULL,
    "revoked_at" INTEGER NULL,
    CONSTRAINT "pk_api_tokens" PRIMARY KEY ("workspace_id", "id")
);

CREATE TABLE "deliveries" (
    "workspace_id" TEXT NOT NULL,
    "id" TEXT NOT NULL,
    "purpose" TEXT NOT NULL,
    "invitation_id" TEXT NULL,
    "to_address" TEXT NOT NULL,
    "message_id" TEXT NOT NULL,
    "sealed_letter" BLOB NULL,
    "state" TEXT NOT NULL,
    "due_at" INTEGER NOT NULL,
    "lease" TEXT NULL,
    "leased_until" INTEGER NULL,
    "tries" INTEGER NOT NULL,
    "answer" TEXT NULL,
    "created_at" INTEGER NOT NULL,
    "settled_at" INTEGER NULL,
    CONSTRAINT "pk_deliveries" PRIMARY KEY ("workspace_id", "id")
);

CREATE TABLE "departures" (
    "workspace_id" TEXT NOT NULL,
    "id" TEXT NOT NULL,
    "member_id" TEXT NOT NULL,
    "member_name" TEXT NOT NULL,
    "member_address" TEXT NOT NULL,
    "state" TEXT NOT NULL,
    "last_day" TEXT NULL,
    "requested_by" TEXT NOT NULL,
    "requested_by_name" TEXT NOT NULL,
    "requested_at" INTEGER NOT NULL,
    "done_at" INTEGER NULL,
    CONSTRAINT "pk_departures" PRIMARY KEY ("workspace_id", "id")
);

CREATE TABLE "idempotency_keys" (
    "workspace_id" TEXT NOT NULL,
    "member_id" TEXT NOT NULL,
    "key" TEXT NOT NULL,
    "request_digest" TEXT NOT NULL,
    "answer" TEXT NOT NULL,
    "created_at" INTEGER NOT NULL,
    CONSTRAINT "pk_idempotency_keys" PRIMARY KEY ("workspace_id", "member_id", "key")
);

CREATE TABLE "invitation_counts" (
    "workspace_id" TEXT NOT NULL,
    "state" TEXT NOT NULL,
    "count" INTEGER NOT NULL,
    CONSTRAINT "pk_invitation_counts" PRIMARY KEY ("workspace_id", "state")
);

CREATE TABLE "invitations" (
    "workspace_id" TEXT NOT NULL,
    "id" TEXT NOT NULL,
    "address" TEXT NOT NULL,
    "address_key" TEXT NOT NULL,
    "name" TEXT NOT NULL,
    "kind" TEXT NOT NULL,
    "role" TEXT NOT NULL,
    "last_day" TEXT NULL,
    "message" TEXT NOT NULL,
    "language" TEXT NOT NULL,
    "state" TEXT NOT NULL,
    "secret_hash" TEXT NOT NULL,
    "deadline" INTEGER NOT NULL,
    "answer_seconds" INTEGER NOT NULL,
    "invited_by" TEXT NOT NULL,
    "invited_by_name" TEXT NOT NULL,
    "created_at" INTEGER NOT NULL,
    "last_step_at" INTEGER NOT NULL,
    "sent_at" INTEGER NULL,
    "seen_at" INTEGER NULL,
    "answered_at" INTEGER NULL,
    "resends" INTEGER NOT NULL,
    "member_id" TEXT NULL,
    "version" INTEGER NOT NULL,
    "search_text" TEXT NOT NULL,
    CONSTRAINT "pk_invitations" PRIMARY KEY ("workspace_id", "id")
);

CREATE TABLE "members" (
    "workspace_id" TEXT NOT NULL,
    "id" TEXT NOT NULL,
    "account_id" TEXT NOT NULL,
    "address" TEXT NOT NULL,
    "address_key" TEXT NOT NULL,
    "name" TEXT NOT NULL,
    "kind" TEXT NOT NULL,
    "role" TEXT NOT NULL,
    "last_day" TEXT NULL,
    "joined_at" INTEGER NOT NULL,
    "ended_at" INTEGER NULL,
    "invitation_id" TEXT NULL,
    "invited_by_name" TEXT NULL,
    "version" INTEGER NOT NULL,
    "search_text" TEXT NOT NULL,
    CONSTRAINT "pk_members" PRIMARY KEY ("workspace_id", "id")
);

CREATE TABLE "opt_outs" (
    "address_hash" TEXT NOT NULL CONSTRAINT "pk_opt_outs" PRIMARY KEY,
    "at" INTEGER NOT NULL
);

CREATE TABLE "protection_keys" (
    "id" INTEGER NOT NULL CONSTRAINT "pk_protection_keys" PRIMARY KEY AUTOINCREMENT,
    "name" TEXT NOT NULL,
    "xml" TEXT NOT NULL
);

CREATE TABLE "record" (
    "workspace_id" TEXT NOT NULL,
    "sequence" INTEGER NOT NULL,
    "at" INTEGER NOT NULL,
    "actor" TEXT NOT NULL,
    "via" TEXT NOT NULL,
    "action" TEXT NOT NULL,
    "subject" TEXT NOT NULL,
    "details" TEXT NULL,
    "details_digest" TEXT NOT NULL,
    "details_salt" TEXT NOT NULL,
    "previous_hash" TEXT NOT NULL,
    "hash" TEXT NOT NULL,
    CONSTRAINT "pk_record" PRIMARY KEY ("workspace_id", "sequence")
);

CREATE TABLE "set_up_links" (
    "secret_hash" TEXT NOT NULL CONSTRAINT "pk_set_up_links" PRIMARY KEY,
    "workspace_id" TEXT NOT NULL,
    "expires_at" INTEGER NOT NULL,
    "used_at" INTEGER NULL
);

CREATE TABLE "workspaces" (
    "id" TEXT NOT NULL CONSTRAINT "pk_workspaces" PRIMARY KEY,
    "short_name" TEXT NOT NULL,
    "name" TEXT NOT NULL,
    "time_zone" TEXT NOT NULL,
    "language" TEXT NOT NULL,
    "sender_name" TEXT NOT NULL,
    "reply_to" TEXT NULL,
    "answer_seconds" INTEGER NOT NULL,
    "created_at" INTEGER NOT NULL,
    "record_sequence" INTEGER NOT NULL,
    "record_hash" TEXT NOT NULL
);

CREATE TABLE "account_addresses" (
    "account_id" TEXT NOT NULL,
    "address_key" TEXT NOT NULL,
    "address" TEXT NOT NULL,
    "proved_at" INTEGER NULL,
    CONSTRAINT "pk_account_addresses" PRIMARY KEY ("address_key", "account_id"),
    CONSTRAINT "fk_account_addresses_accounts_account_id" FOREIGN KEY ("account_id") REFERENCES "accounts" ("id") ON DELETE CASCADE
);

CREATE TABLE "sessions" (
    "id" TEXT NOT NULL CONSTRAINT "pk_sessions" PRIMARY KEY,
    "account_id" TEXT NOT NULL,
    "opened_at" INTEGER NOT NULL,
    "expires_at" INTEGER NOT NULL,
    CONSTRAINT "fk_sessions_accounts_account_id" FOREIGN KEY ("account_id") REFERENCES "accounts" ("id") ON DELETE CASCADE
);

CREATE INDEX "ix_account_addresses_account_id" ON "account_addresses" ("account_id");

CREATE UNIQUE INDEX "ix_account_addresses_one_proof" ON "account_addresses" ("address_key") WHERE proved_at IS NOT NULL;

CREATE UNIQUE INDEX "ix_api_tokens_secret_hash" ON "api_tokens" ("secret_hash");

CREATE INDEX "ix_api_tokens_workspace_id_member_id" ON "api_tokens" ("workspace_id", "member_id");

CREATE INDEX "ix_deliveries_waiting" ON "deliveries" ("due_at") WHERE settled_at IS NULL;

CREATE INDEX "ix_deliveries_workspace_id_invitation_id" ON "deliveries" ("workspace_id", "invitation_id");

CREATE INDEX "ix_departures_workspace_id_member_id_state" ON "departures" ("workspace_id", "member_id", "state");

CREATE INDEX "ix_idempotency_keys_workspace_id_created_at" ON "idempotency_keys" ("workspace_id", "created_at");

CREATE INDEX "ix_invitations_address" ON "invitations" ("workspace_id", "address_key");

CREATE UNIQUE INDEX "ix_invitations_one_pending_per_address" ON "invitations" ("workspace_id", "address_key") WHERE state IN ('queued', 'sent');

CREATE UNIQUE INDEX "ix_invitations_secret_hash" ON "invitations" ("secret_hash");

CREATE INDEX "ix_invitations_state_deadline" ON "invitations" ("state", "deadline");

CREATE INDEX "ix_invitations_workspace_id_invited_by_state" ON "invitations" ("workspace_id", "invited_by", "state");

CREATE INDEX "ix_invitations_workspace_id_state_id" ON "invitations" ("workspace_id", "state", "id");

CREATE INDEX "ix_members_account_id" ON "members" ("account_id");

CREATE INDEX "ix_members_ending" ON "members" ("last_day") WHERE ended_at IS NULL;

CREATE UNIQUE INDEX "ix_members_one_capacity_per_account" ON "members" ("workspace_id", "account_id") WHERE ended_at IS NULL;

CREATE INDEX "ix_members_workspace_id_address_key" ON "members" ("workspace_id", "address_key");

CREATE INDEX "ix_record_workspace_id_subject_sequence" ON "record" ("workspace_id", "subject", "sequence");

CREATE INDEX "ix_sessions_account_id" ON "sessions" ("account_id");

CREATE UNIQUE INDEX "ix_workspaces_short_name" ON "workspaces" ("short_name");

INSERT INTO "__EFMigrationsHistory" ("migration_id", "product_version")
VALUES ('20261123084702_First', '10.0.14');

DROP INDEX "ix_invitations_one_pending_per_address";

DROP INDEX "ix_invitations_state_deadline";

ALTER TABLE "deliveries" RENAME COLUMN "sealed_letter" TO "sealed";

ALTER TABLE "workspaces" ADD "colour" TEXT NULL;

ALTER TABLE "workspaces" ADD "rules" TEXT NULL;

ALTER TABLE "members" ADD "country" TEXT NOT NULL DEFAULT '';

ALTER TABLE "members" ADD "department" TEXT NOT NULL DEFAULT '';

ALTER TABLE "members" ADD "first_day" TEXT NULL;

ALTER TABLE "members" ADD "host_id" TEXT NULL;

ALTER TABLE "members" ADD "host_name" TEXT NOT NULL DEFAULT '';

ALTER TABLE "members" ADD "link_id" TEXT NULL;

ALTER TABLE "members" ADD "manager" TEXT NOT NULL DEFAULT '';

ALTER TABLE "members" ADD "note" TEXT NOT NULL DEFAULT '';

ALTER TABLE "members" ADD "organisation" TEXT NOT NULL DEFAULT '';

ALTER TABLE "members" ADD "title" TEXT NOT NULL DEFAULT '';

ALTER TABLE "invitations" ADD "account_id" TEXT NULL;

ALTER TABLE "invitations" ADD "batch_id" TEXT NULL;

ALTER TABLE "invitations" ADD "country" TEXT NOT NULL DEFAULT '';

ALTER TABLE "invitations" ADD "department" TEXT NOT NULL DEFAULT '';

ALTER TABLE "invitations" ADD "extra_secret_hash" TEXT NULL;

ALTER TABLE "invitations" ADD "family_name" TEXT NOT NULL DEFAULT '';

ALTER TABLE "invitations" ADD "first_day" TEXT NULL;

ALTER TABLE "invitations" ADD "given_name" TEXT NOT NULL DEFAULT '';

ALTER TABLE "invitations" ADD "host_id" TEXT NULL;

ALTER TABLE "invitations" ADD "host_name" TEXT NOT NULL DEFAULT '';

ALTER TABLE "invitations" ADD "is_pending" INTEGER NOT NULL DEFAULT 0;

ALTER TABLE "invitations" ADD "link_id" TEXT NULL;

ALTER TABLE "invitations" ADD "manager" TEXT NOT NULL DEFAULT '';

ALTER TABLE "invitations" ADD "needs_approval" INTEGER NOT NULL DEFAULT 0;

ALTER TABLE "invitations" ADD "next_reminder_at" INTEGER NULL;

ALTER TABLE "invitations" ADD "note" TEXT NOT NULL DEFAULT '';

ALTER TABLE "invitations" ADD "organisation" TEXT NOT NULL DEFAULT '';

ALTER TABLE "invitations" ADD "reminders" INTEGER NOT NULL DEFAULT 0;

ALTER TABLE "invitations" ADD "title" TEXT NOT NULL DEFAULT '';

CREATE TABLE "batch_contents" (
    "workspace_id" TEXT NOT NULL,
    "batch_id" TEXT NOT NULL,
    "csv" BLOB NOT NULL,
    CONSTRAINT "pk_batch_contents" PRIMARY KEY ("workspace_id", "batch_id")
);

CREATE TABLE "batch_entries" (
    "workspace_id" TEXT NOT NULL,
    "batch_id" TEXT NOT NULL,
    "number" INTEGER NOT NULL,
    "address" TEXT NOT NULL,
    "wish" TEXT NULL,
    "verdict" TEXT NOT NULL,
    "reason" TEXT NULL,
    "invitation_id" TEXT NULL,
    CONSTRAINT "pk_batch_entries" PRIMARY KEY ("workspace_id", "batch_id", "number")
);

CREATE TABLE "batches" (
    "workspace_id" TEXT NOT NULL,
    "id" TEXT NOT NULL,
    "name" TEXT NOT NULL,
    "format" TEXT NOT NULL,
    "digest" TEXT NOT NULL,
    "state" TEXT NOT NULL,
    "defaults" TEXT NOT NULL,
    "sends_at_once" INTEGER NOT NULL,
    "position" INTEGER NOT NULL,
    "entries" INTEGER NOT NULL,
    "total" INTEGER NOT NULL,
    "done_at_start" INTEGER NOT NULL,
    "counts" TEXT NOT NULL,
    "unknown_columns" TEXT NOT NULL,
    "fault" TEXT NULL,
    "created_by" TEXT NOT NULL,
    "created_by_name" TEXT NOT NULL,
    "created_at" INTEGER NOT NULL,
    "started_at" INTEGER NULL,
    "finished_at" INTEGER NULL,
    "lease" TEXT NULL,
    "leased_until" INTEGER NULL,
    CONSTRAINT "pk_batches" PRIMARY KEY ("workspace_id", "id")
);

CREATE TABLE "bounced_addresses" (
    "workspace_id" TEXT NOT NULL,
    "address_key" TEXT NOT NULL,
    "address" TEXT NOT NULL,
    "answer" TEXT NOT NULL,
    "at" INTEGER NOT NULL,
    CONSTRAINT "pk_bounced_addresses" PRIMARY KEY ("workspace_id", "address_key")
);

CREATE TABLE "join_links" (
    "workspace_id" TEXT NOT NULL,
    "id" TEXT NOT NULL,
    "label" TEXT NOT NULL,
    "secret_hash" TEXT NOT NULL,
    "kind" TEXT NOT NULL,
    "role" TEXT NOT NULL,
    "last_day" TEXT NULL,
    "stay_days" INTEGER NULL,
    "cap" INTEGER NOT NULL,
    "uses" INTEGER NOT NULL,
    "domains" TEXT NOT NULL,
    "needs_approval" INTEGER NOT NULL,
    "expires_at" INTEGER NOT NULL,
    "closed_at" INTEGER NULL,
    "message" TEXT NOT NULL,
    "language" TEXT NOT NULL,
    "created_by" TEXT NOT NULL,
    "created_by_name" TEXT NOT NULL,
    "created_at" INTEGER NOT NULL,
    "version" INTEGER NOT NULL,
    CONSTRAINT "pk_join_links" PRIMARY KEY ("workspace_id", "id")
);

CREATE TABLE "presets" (
    "workspace_id" TEXT NOT NULL,
    "id" TEXT NOT NULL,
    "name" TEXT NOT NULL,
    "name_key" TEXT NOT NULL,
    "kind" TEXT NOT NULL,
    "role" TEXT NOT NULL,
    "stay_days" INTEGER NULL,
    "organisation" TEXT NOT NULL,
    "message" TEXT NOT NULL,
    "language" TEXT NULL,
    "version" INTEGER NOT NULL,
    CONSTRAINT "pk_presets" PRIMARY KEY ("workspace_id", "id")
);

CREATE TABLE "wordings" (
    "workspace_id" TEXT NOT NULL,
    "letter" TEXT NOT NULL,
    "language" TEXT NOT NULL,
    "subject" TEXT NOT NULL,
    "body" TEXT NOT NULL,
    CONSTRAINT "pk_wordings" PRIMARY KEY ("workspace_id", "letter", "language")
);

CREATE INDEX "ix_members_link" ON "members" ("workspace_id", "link_id") WHERE link_id IS NOT NULL;

CREATE INDEX "ix_invitations_batch" ON "invitations" ("workspace_id", "batch_id") WHERE batch_id IS NOT NULL;

CREATE INDEX "ix_invitations_by_deadline" ON "invitations" ("workspace_id", "deadline", "id");

CREATE INDEX "ix_invitations_by_last_step" ON "invitations" ("workspace_id", "last_step_at", "id");

CREATE INDEX "ix_invitations_expiring" ON "invitations" ("deadline") WHERE state IN ('queued', 'sent');

CREATE UNIQUE INDEX "ix_invitations_extra_secret_hash" ON "invitations" ("extra_secret_hash") WHERE extra_secret_hash IS NOT NULL;

CREATE INDEX "ix_invitations_link" ON "invitations" ("workspace_id", "link_id") WHERE link_id IS NOT NULL;

CREATE UNIQUE INDEX "ix_invitations_one_pending_per_address" ON "invitations" ("workspace_id", "address_key") WHERE state IN ('queued', 'sent', 'waiting');

CREATE INDEX "ix_invitations_pending" ON "invitations" ("workspace_id", "id") WHERE is_pending;

CREATE INDEX "ix_invitations_reminding" ON "invitations" ("next_reminder_at") WHERE next_reminder_at IS NOT NULL;

CREATE INDEX "ix_batch_entries_open" ON "batch_entries" ("workspace_id", "batch_id", "verdict", "number") WHERE invitation_id IS NULL;

CREATE INDEX "ix_batches_working" ON "batches" ("state") WHERE state IN ('reading', 'sending');

CREATE INDEX "ix_batches_workspace_id_digest" ON "batches" ("workspace_id", "digest");

CREATE UNIQUE INDEX "ix_join_links_secret_hash" ON "join_links" ("secret_hash");

CREATE UNIQUE INDEX "ix_presets_workspace_id_name_key" ON "presets" ("workspace_id", "name_key");

CREATE TABLE "ef_temp_invitations" (
    "workspace_id" TEXT NOT NULL,
    "id" TEXT NOT NULL,
    "account_id" TEXT NULL,
    "address" TEXT NOT NULL,
    "address_key" TEXT NOT NULL,
    "answer_seconds" INTEGER NOT NULL,
    "answered_at" INTEGER NULL,
    "batch_id" TEXT NULL,
    "country" TEXT NOT NULL,
    "created_at" INTEGER NOT NULL,
    "deadline" INTEGER NOT NULL,
    "department" TEXT NOT NULL,
    "extra_secret_hash" TEXT NULL,
    "family_name" TEXT NOT NULL,
    "first_day" TEXT NULL,
    "given_name" TEXT NOT NULL,
    "host_id" TEXT NULL,
    "host_name" TEXT NOT NULL,
    "invited_by" TEXT NOT NULL,
    "invited_by_name" TEXT NOT NULL,
    "is_pending" INTEGER NOT NULL,
    "kind" TEXT NOT NULL,
    "language" TEXT NOT NULL,
    "last_day" TEXT NULL,
    "last_step_at" INTEGER NOT NULL,
    "link_id" TEXT NULL,
    "manager" TEXT NOT NULL,
    "member_id" TEXT NULL,
    "message" TEXT NOT NULL,
    "name" TEXT NOT NULL,
    "needs_approval" INTEGER NOT NULL,
    "next_reminder_at" INTEGER NULL,
    "note" TEXT NOT NULL,
    "organisation" TEXT NOT NULL,
    "reminders" INTEGER NOT NULL,
    "resends" INTEGER NOT NULL,
    "role" TEXT NOT NULL,
    "search_text" TEXT NOT NULL,
    "secret_hash" TEXT NULL,
    "seen_at" INTEGER NULL,
    "sent_at" INTEGER NULL,
    "state" TEXT NOT NULL,
    "title" TEXT NOT NULL,
    "version" INTEGER NOT NULL,
    CONSTRAINT "pk_invitations" PRIMARY KEY ("workspace_id", "id")
);

INSERT INTO "ef_temp_invitations" ("workspace_id", "id", "account_id", "address", "address_key", "answer_seconds", "answered_at", "batch_id", "country", "created_at", "deadline", "department", "extra_secret_hash", "family_name", "first_day", "given_name", "host_id", "host_name", "invited_by", "invited_by_name", "is_pending", "kind", "language", "last_day", "last_step_at", "link_id", "manager", "member_id", "message", "name", "needs_approval", "next_reminder_at", "note", "organisation", "reminders", "resends", "role", "search_text", "secret_hash", "seen_at", "sent_at", "state", "title", "version")
SELECT "workspace_id", "id", "account_id", "address", "address_key", "answer_seconds", "answered_at", "batch_id", "country", "created_at", "deadline", "department", "extra_secret_hash", "family_name", "first_day", "given_name", "host_id", "host_name", "invited_by", "invited_by_name", "is_pending", "kind", "language", "last_day", "last_step_at", "link_id", "manager", "member_id", "message", "name", "needs_approval", "next_reminder_at", "note", "organisation", "reminders", "resends", "role", "search_text", "secret_hash", "seen_at", "sent_at", "state", "title", "version"
FROM "invitations";

DROP TABLE "invitations";

ALTER TABLE "ef_temp_invitations" RENAME TO "invitations";

CREATE INDEX "ix_invitations_address" ON "invitations" ("workspace_id", "address_key");

CREATE INDEX "ix_invitations_batch" ON "invitations" ("workspace_id", "batch_id") WHERE batch_id IS NOT NULL;

CREATE INDEX "ix_invitations_by_deadline" ON "invitations" ("workspace_id", "deadline", "id");

CREATE INDEX "ix_invitations_by_last_step" ON "invitations" ("workspace_id", "last_step_at", "id");

CREATE INDEX "ix_invitations_expiring" ON "invitations" ("deadline") WHERE state IN ('queued', 'sent');

CREATE UNIQUE INDEX "ix_invitations_extra_secret_hash" ON "invitations" ("extra_secret_hash") WHERE extra_secret_hash IS NOT NULL;

CREATE INDEX "ix_invitations_link" ON "invitations" ("workspace_id", "link_id") WHERE link_id IS NOT NULL;

CREATE UNIQUE INDEX "ix_invitations_one_pending_per_address" ON "invitations" ("workspace_id", "address_key") WHERE state IN ('queued', 'sent', 'waiting');

CREATE INDEX "ix_invitations_pending" ON "invitations" ("workspace_id", "id") WHERE is_pending;

CREATE INDEX "ix_invitations_reminding" ON "invitations" ("next_reminder_at") WHERE next_reminder_at IS NOT NULL;

CREATE UNIQUE INDEX "ix_invitations_secret_hash" ON "invitations" ("secret_hash");

CREATE INDEX "ix_invitations_workspace_id_invited_by_state" ON "invitations" ("workspace_id", "invited_by", "state");

CREATE INDEX "ix_invitations_workspace_id_state_id" ON "invitations" ("workspace_id", "state", "id");

INSERT INTO "__EFMigrationsHistory" ("migration_id", "product_version")
VALUES ('20261123104037_InvitingEveryone', '10.0.14');

UPDATE invitations SET is_pending = state IN ('queued', 'sent');

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

INSERT INTO "__EFMigrationsHistory" ("migration_id", "product_version")
VALUES ('20261123104056_Search', '10.0.14');

ALTER TABLE "presets" RENAME COLUMN "role" TO "gives";

ALTER TABLE "join_links" RENAME COLUMN "role" TO "gives";

ALTER TABLE "invitations" RENAME COLUMN "role" TO "gives";

ALTER TABLE "workspaces" ADD "access_version" INTEGER NOT NULL DEFAULT 0;

ALTER TABLE "members" ADD "last_seen_at" INTEGER NULL;

ALTER TABLE "members" ADD "leads" INTEGER NOT NULL DEFAULT 0;

ALTER TABLE "members" ADD "organisation_id" TEXT NULL;

ALTER TABLE "members" ADD "paused_at" INTEGER NULL;

ALTER TABLE "invitations" ADD "organisation_id" TEXT NULL;

CREATE TABLE "access_changes" (
    "workspace_id" TEXT NOT NULL,
    "version" INTEGER NOT NULL,
    "kind" TEXT NOT NULL,
    "subject_id" TEXT NOT NULL,
    CONSTRAINT "pk_access_changes" PRIMARY KEY ("workspace_id", "version", "kind", "subject_id")
);

CREATE TABLE "areas" (
    "workspace_id" TEXT NOT NULL,
    "id" TEXT NOT NULL,
    "name" TEXT NOT NULL,
    "name_key" TEXT NOT NULL,
    "has_private_entries" INTEGER NOT NULL,
    "needs" TEXT NOT NULL,
    "version" INTEGER NOT NULL,
    CONSTRAINT "pk_areas" PRIMARY KEY ("workspace_id", "id")
);

CREATE TABLE "contacts" (
    "workspace_id" TEXT NOT NULL,
    "id" TEXT NOT NULL,
    "organisation_id" TEXT NOT NULL,
    "name" TEXT NOT NULL,
    "address" TEXT NOT NULL,
    "title" TEXT NOT NULL,
    "search_text" TEXT NOT NULL,
    CONSTRAINT "pk_contacts" PRIMARY KEY ("workspace_id", "id")
);

CREATE TABLE "grants" (
    "workspace_id" TEXT NOT NULL,
    "id" TEXT NOT NULL,
    "holder_kind" TEXT NOT NULL,
    "holder_id" TEXT NOT NULL,
    "role_id" TEXT NOT NULL,
    "resource_id" TEXT NULL,
    "first_day" TEXT NULL,
    "last_day" TEXT NULL,
    "given_at" INTEGER NOT NULL,
    "given_by_name" TEXT NOT NULL,
    "version" INTEGER NOT NULL,
    CONSTRAINT "pk_grants" PRIMARY KEY ("workspace_id", "id")
);

CREATE TABLE "group_members" (
    "workspace_id" TEXT NOT NULL,
    "group_id" TEXT NOT NULL,
    "member_id" TEXT NOT NULL,
    "since" INTEGER NOT NULL,
    CONSTRAINT "pk_group_members" PRIMARY KEY ("workspace_id", "group_id", "member_id")
);

CREATE TABLE "groups" (
    "workspace_id" TEXT NOT NULL,
    "id" TEXT NOT NULL,
    "name" TEXT NOT NULL,
    "name_key" TEXT NOT NULL,
    "about" TEXT NOT NULL,
    "version" INTEGER NOT NULL,
    CONSTRAINT "pk_groups" PRIMARY KEY ("workspace_id", "id")
);

CREATE TABLE "organisations" (
    "workspace_id" TEXT NOT NULL,
    "id" TEXT NOT NULL,
    "name" TEXT NOT NULL,
    "name_key" TEXT NOT NULL,
    "kind" TEXT NOT NULL,
    "colour" TEXT NOT NULL,
    "code" TEXT NOT NULL,
    "reference" TEXT NOT NULL,
    "domains" TEXT NOT NULL,
    "agreement_ends" TEXT NULL,
    "cap" INTEGER NULL,
    "version" INTEGER NOT NULL,
    CONSTRAINT "pk_organisations" PRIMARY KEY ("workspace_id", "id")
);

CREATE TABLE "resources" (
    "workspace_id" TEXT NOT NULL,
    "id" TEXT NOT NULL,
    "area_id" TEXT NOT NULL,
    "name" TEXT NOT NULL,
    "name_key" TEXT NOT NULL,
    "about" TEXT NOT NULL,
    "owner_id" TEXT NULL,
    "version" INTEGER NOT NULL,
    CONSTRAINT "pk_resources" PRIMARY KEY ("workspace_id", "id")
);

CREATE TABLE "roles" (
    "workspace_id" TEXT NOT NULL,
    "id" TEXT NOT NULL,
    "name" TEXT NOT NULL,
    "name_key" TEXT NOT NULL,
    "sentence" TEXT NOT NULL,
    "everywhere" TEXT NOT NULL,
    "duties" INTEGER NOT NULL,
    "areas" TEXT NOT NULL,
    "version" INTEGER NOT NULL,
    CONSTRAINT "pk_roles" PRIMARY KEY ("workspace_id", "id")
);

CREATE TABLE "seat_pools" (
    "workspace_id" TEXT NOT NULL,
    "id" TEXT NOT NULL,
    "name" TEXT NOT NULL,
    "name_key" TEXT NOT NULL,
    "about" TEXT NOT NULL,
    "total" INTEGER NOT NULL,
    "held" INTEGER NOT NULL,
    "reserved" INTEGER NOT NULL,
    "ever_held" INTEGER NOT NULL,
    "reserved_changes" INTEGER NOT NULL,
    "changes_per_seat" INTEGER NULL,
    "year" INTEGER NOT NULL,
    "changes_used" INTEGER NOT NULL,
    "version" INTEGER NOT NULL,
    CONSTRAINT "pk_seat_pools" PRIMARY KEY ("workspace_id", "id")
);

CREATE TABLE "seat_reservations" (
    "workspace_id" TEXT NOT NULL,
    "invitation_id" TEXT NOT NULL,
    "pool_id" TEXT NOT NULL,
    "is_change" INTEGER NOT NULL,
    CONSTRAINT "pk_seat_reservations" PRIMARY KEY ("workspace_id", "invitation_id", "pool_id")
);

CREATE TABLE "seats" (
    "workspace_id" TEXT NOT NULL,
    "pool_id" TEXT NOT NULL,
    "member_id" TEXT NOT NULL,
    "since" INTEGER NOT NULL,
    CONSTRAINT "pk_seats" PRIMARY KEY ("workspace_id", "pool_id", "member_id")
);

CREATE TABLE "switched_off" (
    "workspace_id" TEXT NOT NULL,
    "holder_id" TEXT NOT NULL,
    "resource_id" TEXT NOT NULL,
    "is_organisation" INTEGER NOT NULL,
    "at" INTEGER NOT NULL,
    "by_name" TEXT NOT NULL,
    CONSTRAINT "pk_switched_off" PRIMARY KEY ("workspace_id", "holder_id", "resource_id")
);

CREATE INDEX "ix_members_organisation" ON "members" ("workspace_id", "organisation_id") WHERE organisation_id IS NOT NULL;

CREATE INDEX "ix_invitations_organisation" ON "invitations" ("workspace_id", "organisation_id") WHERE organisation_id IS NOT NULL AND is_pending;

CREATE UNIQUE INDEX "ix_areas_workspace_id_name_key" ON "areas" ("workspace_id", "name_key");

CREATE INDEX "ix_contacts_workspace_id_organisation_id" ON "contacts" ("workspace_id", "organisation_id");

CREATE INDEX "ix_grants_resource" ON "grants" ("workspace_id", "resource_id") WHERE resource_id IS NOT NULL;

CREATE INDEX "ix_grants_workspace_id_holder_kind_holder_id" ON "grants" ("workspace_id", "holder_kind", "holder_id");

CREATE INDEX "ix_grants_workspace_id_role_id" ON "grants" ("workspace_id", "role_id");

CREATE INDEX "ix_group_members_workspace_id_member_id" ON "group_members" ("workspace_id", "member_id");

CREATE UNIQUE INDEX "ix_groups_workspace_id_name_key" ON "groups" ("workspace_id", "name_key");

CREATE UNIQUE INDEX "ix_organisations_workspace_id_name_key" ON "organisations" ("workspace_id", "name_key");

CREATE INDEX "ix_resources_owner" ON "resources" ("workspace_id", "owner_id") WHERE owner_id IS NOT NULL;

CREATE UNIQUE INDEX "ix_resources_workspace_id_name_key" ON "resources" ("workspace_id", "name_key");

CREATE UNIQUE INDEX "ix_roles_workspace_id_name_key" ON "roles" ("workspace_id", "name_key");

CREATE UNIQUE INDEX "ix_seat_pools_workspace_id_name_key" ON "seat_pools" ("workspace_id", "name_key");

CREATE INDEX "ix_seat_reservations_workspace_id_pool_id" ON "seat_reservations" ("workspace_id", "pool_id");

CREATE INDEX "ix_seats_workspace_id_member_id" ON "seats" ("workspace_id", "member_id");

CREATE INDEX "ix_switched_off_workspace_id_resource_id" ON "switched_off" ("workspace_id", "resource_id");

UPDATE invitations SET gives = CASE gives WHEN 'view' THEN '{"roles":[{"role":"00000000-0000-7000-8000-000000000001"}],"groups":[],"pools":[]}' WHEN 'edit' THEN '{"roles":[{"role":"00000000-0000-7000-8000-000000000002"}],"groups":[],"pools":[]}' WHEN 'manage' THEN '{"roles":[{"role":"00000000-0000-7000-8000-000000000003"}],"groups":[],"pools":[]}' ELSE '' END;
UPDATE join_links SET gives = CASE gives WHEN 'view' THEN '{"roles":[{"role":"00000000-0000-7000-8000-000000000001"}],"groups":[],"pools":[]}' WHEN 'edit' THEN '{"roles":[{"role":"00000000-0000-7000-8000-000000000002"}],"groups":[],"pools":[]}' WHEN 'manage' THEN '{"roles":[{"role":"00000000-0000-7000-8000-000000000003"}],"groups":[],"pools":[]}' ELSE '' END;
UPDATE presets SET gives = CASE gives WHEN 'view' THEN '{"roles":[{"role":"00000000-0000-7000-8000-000000000001"}],"groups":[],"pools":[]}' WHEN 'edit' THEN '{"roles":[{"role":"00000000-0000-7000-8000-000000000002"}],"groups":[],"pools":[]}' WHEN 'manage' THEN '{"roles":[{"role":"00000000-0000-7000-8000-000000000003"}],"groups":[],"pools":[]}' ELSE '' END;
INSERT INTO grants (workspace_id, id, holder_kind, holder_id, role_id, given_at, given_by_name, version)
SELECT workspace_id, id, 'member', id, CASE role WHEN 'edit' THEN '00000000-0000-7000-8000-000000000002' WHEN 'manage' THEN '00000000-0000-7000-8000-000000000003' ELSE '00000000-0000-7000-8000-000000000001' END,
    joined_at, COALESCE(invited_by_name, 'the operator'), 1 FROM members;
ALTER TABLE members DROP COLUMN role;

INSERT INTO "__EFMigrationsHistory" ("migration_id", "product_version")
VALUES ('20261123131500_Access', '10.0.14');

CREATE INDEX "ix_record_by_actor" ON "record" ("workspace_id", "actor", "sequence") WHERE via <> 'batch';

INSERT INTO "__EFMigrationsHistory" ("migration_id", "product_version")
VALUES ('20261123135501_Activity', '10.0.14');

DELETE FROM sessions;

DROP INDEX "ix_deliveries_waiting";

ALTER TABLE "sessions" ADD "secret_hash" TEXT NOT NULL DEFAULT '';

ALTER TABLE "members" ADD "invited_as" TEXT NOT NULL DEFAULT '';

ALTER TABLE "members" ADD "vouched_by_name" TEXT NOT NULL DEFAULT '';

ALTER TABLE "invitations" ADD "came_as" TEXT NOT NULL DEFAULT '';

ALTER TABLE "invitations" ADD "handed_by_name" TEXT NOT NULL DEFAULT '';

ALTER TABLE "invitations" ADD "handed_secret_hash" TEXT NULL;

ALTER TABLE "departures" ADD "steps" TEXT NOT NULL DEFAULT '';

ALTER TABLE "deliveries" ADD "lane" TEXT NOT NULL DEFAULT '';

ALTER TABLE "api_tokens" ADD "expires_at" INTEGER NOT NULL DEFAULT 0;

ALTER TABLE "address_codes" ADD "address_key" TEXT NOT NULL DEFAULT '';

CREATE TABLE "account_links" (
    "secret_hash" TEXT NOT NULL CONSTRAINT "pk_account_links" PRIMARY KEY,
    "account_id" TEXT NOT NULL,
    "purpose" TEXT NOT NULL,
    "address_key" TEXT NOT NULL,
    "expires_at" INTEGER NOT NULL,
    "used_at" INTEGER NULL,
    CONSTRAINT "fk_account_links_accounts_account_id" FOREIGN KEY ("account_id") REFERENCES "accounts" ("id") ON DELETE CASCADE
);

CREATE TABLE "budgets" (
    "key" TEXT NOT NULL CONSTRAINT "pk_budgets" PRIMARY KEY,
    "ends_at" INTEGER NOT NULL,
    "count" INTEGER NOT NULL
);

CREATE TABLE "security_events" (
    "workspace_id" TEXT NOT NULL,
    "id" TEXT NOT NULL,
    "at" INTEGER NOT NULL,
    "kind" TEXT NOT NULL,
    "who" TEXT NOT NULL,
    "network" TEXT NOT NULL,
    "details" TEXT NOT NULL,
    CONSTRAINT "pk_security_events" PRIMARY KEY ("workspace_id", "id")
);

CREATE UNIQUE INDEX "ix_sessions_secret_hash" ON "sessions" ("secret_hash");

CREATE UNIQUE INDEX "ix_invitations_handed_secret_hash" ON "invitations" ("handed_secret_hash") WHERE handed_secret_hash IS NOT NULL;

CREATE INDEX "ix_deliveries_waiting" ON "deliveries" ("lane", "due_at") WHERE settled_at IS NULL;

CREATE INDEX "ix_account_links_account_id" ON "account_links" ("account_id");

CREATE INDEX "ix_budgets_ends_at" ON "budgets" ("ends_at");

CREATE INDEX "ix_security_events_at" ON "security_events" ("at");

UPDATE invitations SET handed_secret_hash = extra_secret_hash, handed_by_name = invited_by_name, extra_secret_hash = NULL WHERE extra_secret_hash IS NOT NULL;

UPDATE deliveries SET lane = '1-' || lower(replace(workspace_id, '-', ''));

UPDATE api_tokens SET expires_at = (unixepoch() + 90 * 86400) * 1000;

CREATE TABLE "ef_temp_address_codes" (
    "workspace_id" TEXT NOT NULL,
    "invitation_id" TEXT NOT NULL,
    "account_id" TEXT NOT NULL,
    "address_key" TEXT NOT NULL,
    "asked_at" INTEGER NOT NULL,
    "code_hash" TEXT NOT NULL,
    "expires_at" INTEGER NOT NULL,
    "tries" INTEGER NOT NULL,
    CONSTRAINT "pk_address_codes" PRIMARY KEY ("workspace_id", "invitation_id", "account_id", "address_key")
);

INSERT INTO "ef_temp_address_codes" ("workspace_id", "invitation_id", "account_id", "address_key", "asked_at", "code_hash", "expires_at", "tries")
SELECT "workspace_id", "invitation_id", "account_id", "address_key", "asked_at", "code_hash", "expires_at", "tries"
FROM "address_codes";

DROP TABLE "address_codes";

ALTER TABLE "ef_temp_address_codes" RENAME TO "address_codes";

INSERT INTO "__EFMigrationsHistory" ("migration_id", "product_version")
VALUES ('20261126032127_Sound', '10.0.14');

ALTER TABLE "batches" ADD "tries" INTEGER NOT NULL DEFAULT 0;

INSERT INTO "__EFMigrationsHistory" ("migration_id", "product_version")
VALUES ('20261126070215_BatchTries', '10.0.14');

ALTER TABLE "batches" ADD "encoding" TEXT NULL;

INSERT INTO "__EFMigrationsHistory" ("migration_id", "product_version")
VALUES ('20261126125501_ListEncoding', '10.0.14');

ALTER TABLE "departures" ADD "agreed_day" TEXT NULL;

ALTER TABLE "departures" ADD "knows_agreed" INTEGER NOT NULL DEFAULT 0;

INSERT INTO "__EFMigrationsHistory" ("migration_id", "product_version")
VALUES ('20261126132758_AgreedDay', '10.0.14');

ANALYZE;

DELETE FROM sqlite_stat1;

INSERT INTO sqlite_stat1 (tbl, idx, stat) VALUES ('access_changes', 'sqlite_autoindex_access_changes_1', '200000 100000 50 10 1');

INSERT INTO sqlite_stat1 (tbl, idx, stat) VALUES ('account_addresses', 'ix_account_addresses_account_id', '200000 2');

INSERT INTO sqlite_stat1 (tbl, idx, stat) VALUES ('account_addresses', 'ix_account_addresses_one_proof', '200000 1');

INSERT INTO sqlite_stat1 (tbl, idx, stat) VALUES ('account_addresses', 'sqlite_autoindex_account_addresses_1', '200000 2 1');

INSERT INTO sqlite_stat1 (tbl, idx, stat) VALUES ('account_links', 'ix_account_links_account_id', '200000 2');

INSERT INTO sqlite_stat1 (tbl, idx, stat) VALUES ('account_links', 'sqlite_autoindex_account_links_1', '200000 1');

INSERT INTO sqlite_stat1 (tbl, idx, stat) VALUES ('accounts', 'sqlite_autoindex_accounts_1', '200000 1');

INSERT INTO sqlite_stat1 (tbl, idx, stat) VALUES ('address_codes', 'sqlite_autoindex_address_codes_1', '200000 100000 2 2 1');

INSERT INTO sqlite_stat1 (tbl, idx, stat) VALUES ('api_tokens', 'ix_api_tokens_secret_hash', '200000 1');

INSERT INTO sqlite_stat1 (tbl, idx, stat) VALUES ('api_tokens', 'ix_api_tokens_workspace_id_member_id', '200000 100000 2');

INSERT INTO sqlite_stat1 (tbl, idx, stat) VALUES ('api_tokens', 'sqlite_autoindex_api_tokens_1', '200000 100000 1');

INSERT INTO sqlite_stat1 (tbl, idx, stat) VALUES ('areas', 'ix_areas_workspace_id_name_key', '200000 100000 1');

INSERT INTO sqlite_stat1 (tbl, idx, stat) VALUES ('areas', 'sqlite_autoindex_areas_1', '200000 100000 1');

INSERT INTO sqlite_stat1 (tbl, idx, stat) VALUES ('batch_contents', 'sqlite_autoindex_batch_contents_1', '200000 100000 1');

INSERT INTO sqlite_stat1 (tbl, idx, stat) VALUES ('batch_entries', 'ix_batch_entries_open', '200000 100000 100 20 2');

INSERT INTO sqlite_stat1 (tbl, idx, stat) VALUES ('batch_entries', 'sqlite_autoindex_batch_entries_1', '200000 100000 100 1');

INSERT INTO sqlite_stat1 (tbl, idx, stat) VALUES ('batches', 'ix_batches_working', '200000 40000');

INSERT INTO sqlite_stat1 (tbl, idx, stat) VALUES ('batches', 'ix_batches_workspace_id_digest', '200000 100000 2');

INSERT INTO sqlite_stat1 (tbl, idx, stat) VALUES ('batches', 'sqlite_autoindex_batches_1', '200000 100000 1');

INSERT INTO sqlite_stat1 (tbl, idx, stat) VALUES ('bounced_addresses', 'sqlite_autoindex_bounced_addresses_1', '200000 100000 1');

INSERT INTO sqlite_stat1 (tbl, idx, stat) VALUES ('budgets', 'ix_budgets_ends_at', '200000 2');

INSERT INTO sqlite_stat1 (tbl, idx, stat) VALUES ('budgets', 'sqlite_autoindex_budgets_1', '200000 1');

INSERT INTO sqlite_stat1 (tbl, idx, stat) VALUES ('contacts', 'ix_contacts_workspace_id_organisation_id', '200000 100000 100');

INSERT INTO sqlite_stat1 (tbl, idx, stat) VALUES ('contacts', 'sqlite_autoindex_contacts_1', '200000 100000 1');

INSERT INTO sqlite_stat1 (tbl, idx, stat) VALUES ('deliveries', 'ix_deliveries_waiting', '200000 50 2');

INSERT INTO sqlite_stat1 (tbl, idx, stat) VALUES ('deliveries', 'ix_deliveries_workspace_id_invitation_id', '200000 100000 2');

INSERT INTO sqlite_stat1 (tbl, idx, stat) VALUES ('deliveries', 'sqlite_autoindex_deliveries_1', '200000 100000 1');

INSERT INTO sqlite_stat1 (tbl, idx, stat) VALUES ('departures', 'ix_departures_workspace_id_member_id_state', '200000 100000 2 2');

INSERT INTO sqlite_stat1 (tbl, idx, stat) VALUES ('departures', 'sqlite_autoindex_departures_1', '200000 100000 1');

INSERT INTO sqlite_stat1 (tbl, idx, stat) VALUES ('grants', 'ix_grants_resource', '200000 100000 100');

INSERT INTO sqlite_stat1 (tbl, idx, stat) VALUES ('grants', 'ix_grants_workspace_id_holder_kind_holder_id', '200000 100000 20000 2');

INSERT INTO sqlite_stat1 (tbl, idx, stat) VALUES ('grants', 'ix_grants_workspace_id_role_id', '200000 100000 20000');

INSERT INTO sqlite_stat1 (tbl, idx, stat) VALUES ('grants', 'sqlite_autoindex_grants_1', '200000 100000 1');

INSERT INTO sqlite_stat1 (tbl, idx, stat) VALUES ('group_members', 'ix_group_members_workspace_id_member_id', '200000 100000 2');

INSERT INTO sqlite_stat1 (tbl, idx, stat) VALUES ('group_members', 'sqlite_autoindex_group_members_1', '200000 100000 100 1');

INSERT INTO sqlite_stat1 (tbl, idx, stat) VALUES ('groups', 'ix_groups_workspace_id_name_key', '200000 100000 1');

INSERT INTO sqlite_stat1 (tbl, idx, stat) VALUES ('groups', 'sqlite_autoindex_groups_1', '200000 100000 1');

INSERT INTO sqlite_stat1 (tbl, idx, stat) VALUES ('idempotency_keys', 'ix_idempotency_keys_workspace_id_created_at', '200000 100000 2');

INSERT INTO sqlite_stat1 (tbl, idx, stat) VALUES ('idempotency_keys', 'sqlite_autoindex_idempotency_keys_1', '200000 100000 2 1');

INSERT INTO sqlite_stat1 (tbl, idx, stat) VALUES ('invitation_counts', 'sqlite_autoindex_invitation_counts_1', '200000 100000 1');

INSERT INTO sqlite_stat1 (tbl, idx, stat) VALUES ('invitations', 'ix_invitations_address', '200000 100000 2');

INSERT INTO sqlite_stat1 (tbl, idx, stat) VALUES ('invitations', 'ix_invitations_batch', '200000 100000 100');

INSERT INTO sqlite_stat1 (tbl, idx, stat) VALUES ('invitations', 'ix_invitations_by_deadline', '200000 100000 50 2');

INSERT INTO sqlite_stat1 (tbl, idx, stat) VALUES ('invitations', 'ix_invitations_by_last_step', '200000 100000 50 2');

INSERT INTO sqlite_stat1 (tbl, idx, stat) VALUES ('invitations', 'ix_invitations_expiring', '200000 2');

INSERT INTO sqlite_stat1 (tbl, idx, stat) VALUES ('invitations', 'ix_invitations_extra_secret_hash', '200000 1');

INSERT INTO sqlite_stat1 (tbl, idx, stat) VALUES ('invitations', 'ix_invitations_handed_secret_hash', '200000 1');

INSERT INTO sqlite_stat1 (tbl, idx, stat) VALUES ('invitations', 'ix_invitations_link', '200000 100000 100');

INSERT INTO sqlite_stat1 (tbl, idx, stat) VALUES ('invitations', 'ix_invitations_one_pending_per_address', '200000 100000 1');

INSERT INTO sqlite_stat1 (tbl, idx, stat) VALUES ('invitations', 'ix_invitations_organisation', '200000 100000 100');

INSERT INTO sqlite_stat1 (tbl, idx, stat) VALUES ('invitations', 'ix_invitations_pending', '200000 100000 2');

INSERT INTO sqlite_stat1 (tbl, idx, stat) VALUES ('invitations', 'ix_invitations_reminding', '200000 2');

INSERT INTO sqlite_stat1 (tbl, idx, stat) VALUES ('invitations', 'ix_invitations_secret_hash', '200000 1');

INSERT INTO sqlite_stat1 (tbl, idx, stat) VALUES ('invitations', 'ix_invitations_workspace_id_invited_by_state', '200000 100000 100 20');

INSERT INTO sqlite_stat1 (tbl, idx, stat) VALUES ('invitations', 'ix_invitations_workspace_id_state_id', '200000 100000 20000 2');

INSERT INTO sqlite_stat1 (tbl, idx, stat) VALUES ('invitations', 'sqlite_autoindex_invitations_1', '200000 100000 1');

INSERT INTO sqlite_stat1 (tbl, idx, stat) VALUES ('join_links', 'ix_join_links_secret_hash', '200000 1');

INSERT INTO sqlite_stat1 (tbl, idx, stat) VALUES ('join_links', 'sqlite_autoindex_join_links_1', '200000 100000 1');

INSERT INTO sqlite_stat1 (tbl, idx, stat) VALUES ('members', 'ix_members_account_id', '200000 2');

INSERT INTO sqlite_stat1 (tbl, idx, stat) VALUES ('members', 'ix_members_ending', '200000 2');

INSERT INTO sqlite_stat1 (tbl, idx, stat) VALUES ('members', 'ix_members_link', '200000 100000 100');

INSERT INTO sqlite_stat1 (tbl, idx, stat) VALUES ('members', 'ix_members_one_capacity_per_account', '200000 100000 1');

INSERT INTO sqlite_stat1 (tbl, idx, stat) VALUES ('members', 'ix_members_organisation', '200000 100000 100');

INSERT INTO sqlite_stat1 (tbl, idx, stat) VALUES ('members', 'ix_members_workspace_id_address_key', '200000 100000 2');

INSERT INTO sqlite_stat1 (tbl, idx, stat) VALUES ('members', 'sqlite_autoindex_members_1', '200000 100000 1');

INSERT INTO sqlite_stat1 (tbl, idx, stat) VALUES ('opt_outs', 'sqlite_autoindex_opt_outs_1', '200000 1');

INSERT INTO sqlite_stat1 (tbl, idx, stat) VALUES ('organisations', 'ix_organisations_workspace_id_name_key', '200000 100000 1');

INSERT INTO sqlite_stat1 (tbl, idx, stat) VALUES ('organisations', 'sqlite_autoindex_organisations_1', '200000 100000 1');

INSERT INTO sqlite_stat1 (tbl, idx, stat) VALUES ('presets', 'ix_presets_workspace_id_name_key', '200000 100000 1');

INSERT INTO sqlite_stat1 (tbl, idx, stat) VALUES ('presets', 'sqlite_autoindex_presets_1', '200000 100000 1');

INSERT INTO sqlite_stat1 (tbl, idx, stat) VALUES ('record', 'ix_record_by_actor', '200000 100000 100 2');

INSERT INTO sqlite_stat1 (tbl, idx, stat) VALUES ('record', 'ix_record_workspace_id_subject_sequence', '200000 100000 50 2');

INSERT INTO sqlite_stat1 (tbl, idx, stat) VALUES ('record', 'sqlite_autoindex_record_1', '200000 100000 1');

INSERT INTO sqlite_stat1 (tbl, idx, stat) VALUES ('resources', 'ix_resources_owner', '200000 100000 100');

INSERT INTO sqlite_stat1 (tbl, idx, stat) VALUES ('resources', 'ix_resources_workspace_id_name_key', '200000 100000 1');

INSERT INTO sqlite_stat1 (tbl, idx, stat) VALUES ('resources', 'sqlite_autoindex_resources_1', '200000 100000 1');

INSERT INTO sqlite_stat1 (tbl, idx, stat) VALUES ('roles', 'ix_roles_workspace_id_name_key', '200000 100000 1');

INSERT INTO sqlite_stat1 (tbl, idx, stat) VALUES ('roles', 'sqlite_autoindex_roles_1', '200000 100000 1');

INSERT INTO sqlite_stat1 (tbl, idx, stat) VALUES ('seat_pools', 'ix_seat_pools_workspace_id_name_key', '200000 100000 1');

INSERT INTO sqlite_stat1 (tbl, idx, stat) VALUES ('seat_pools', 'sqlite_autoindex_seat_pools_1', '200000 100000 1');

INSERT INTO sqlite_stat1 (tbl, idx, stat) VALUES ('seat_reservations', 'ix_seat_reservations_workspace_id_pool_id', '200000 100000 100');

INSERT INTO sqlite_stat1 (tbl, idx, stat) VALUES ('seat_reservations', 'sqlite_autoindex_seat_reservations_1', '200000 100000 2 1');

INSERT INTO sqlite_stat1 (tbl, idx, stat) VALUES ('seats', 'ix_seats_workspace_id_member_id', '200000 100000 2');

INSERT INTO sqlite_stat1 (tbl, idx, stat) VALUES ('seats', 'sqlite_autoindex_seats_1', '200000 100000 100 1');

INSERT INTO sqlite_stat1 (tbl, idx, stat) VALUES ('security_events', 'ix_security_events_at', '200000 2');

INSERT INTO sqlite_stat1 (tbl, idx, stat) VALUES ('security_events', 'sqlite_autoindex_security_events_1', '200000 100000 1');

INSERT INTO sqlite_stat1 (tbl, idx, stat) VALUES ('sessions', 'ix_sessions_account_id', '200000 2');

INSERT INTO sqlite_stat1 (tbl, idx, stat) VALUES ('sessions', 'ix_sessions_secret_hash', '200000 1');

INSERT INTO sqlite_stat1 (tbl, idx, stat) VALUES ('sessions', 'sqlite_autoindex_sessions_1', '200000 1');

INSERT INTO sqlite_stat1 (tbl, idx, stat) VALUES ('set_up_links', 'sqlite_autoindex_set_up_links_1', '200000 1');

INSERT INTO sqlite_stat1 (tbl, idx, stat) VALUES ('switched_off', 'ix_switched_off_workspace_id_resource_id', '200000 100000 100');

INSERT INTO sqlite_stat1 (tbl, idx, stat) VALUES ('switched_off', 'sqlite_autoindex_switched_off_1', '200000 100000 2 1');

INSERT INTO sqlite_stat1 (tbl, idx, stat) VALUES ('wordings', 'sqlite_autoindex_wordings_1', '200000 100000 20000 1');

INSERT INTO sqlite_stat1 (tbl, idx, stat) VALUES ('workspaces', 'ix_workspaces_short_name', '200000 1');

INSERT INTO sqlite_stat1 (tbl, idx, stat) VALUES ('workspaces', 'sqlite_autoindex_workspaces_1', '200000 1');

ANALYZE sqlite_master;

INSERT INTO "__EFMigrationsHistory" ("migration_id", "product_version")
VALUES ('20261126135717_Statistics', '10.0.14');

ALTER TABLE "sessions" ADD "browser" TEXT NOT NULL DEFAULT '';

ALTER TABLE "sessions" ADD "network" TEXT NOT NULL DEFAULT '';

ALTER TABLE "sessions" ADD "opened_with" TEXT NOT NULL DEFAULT 'password';

ALTER TABLE "sessions" ADD "proved_at" INTEGER NOT NULL DEFAULT 0;

ALTER TABLE "sessions" ADD "seen_at" INTEGER NOT NULL DEFAULT 0;

ALTER TABLE "accounts" ADD "history_hash" TEXT NOT NULL DEFAULT '0000000000000000000000000000000000000000000000000000000000000000';

ALTER TABLE "accounts" ADD "history_sequence" INTEGER NOT NULL DEFAULT 0;

CREATE TABLE "account_history" (
    "account_id" TEXT NOT NULL,
    "sequence" INTEGER NOT NULL,
    "at" INTEGER NOT NULL,
    "actor" TEXT NOT NULL,
    "via" TEXT NOT NULL,
    "action" TEXT NOT NULL,
    "subject" TEXT NOT NULL,
    "details" TEXT NULL,
    "details_digest" TEXT NOT NULL,
    "details_salt" TEXT NOT NULL,
    "previous_hash" TEXT NOT NULL,
    "hash" TEXT NOT NULL,
    CONSTRAINT "pk_account_history" PRIMARY KEY ("account_id", "sequence"),
    CONSTRAINT "fk_account_history_accounts_account_id" FOREIGN KEY ("account_id") REFERENCES "accounts" ("id") ON DELETE CASCADE
);

CREATE TABLE "credentials" (
    "account_id" TEXT NOT NULL,
    "id" TEXT NOT NULL,
    "kind" TEXT NOT NULL,
    "label" TEXT NOT NULL,
    "secret" TEXT NOT NULL,
    "made_at" INTEGER NOT NULL,
    "last_used_at" INTEGER NULL,
    CONSTRAINT "pk_credentials" PRIMARY KEY ("account_id", "id"),
    CONSTRAINT "fk_credentials_accounts_account_id" FOREIGN KEY ("account_id") REFERENCES "accounts" ("id") ON DELETE CASCADE
);

CREATE UNIQUE INDEX "ix_credentials_one_password" ON "credentials" ("account_id") WHERE kind = 'password';

INSERT INTO credentials (account_id, id, kind, label, secret, made_at) SELECT id, id, 'password', '', password_hash, created_at FROM accounts WHERE password_hash IS NOT NULL;

UPDATE sessions SET proved_at = opened_at, seen_at = opened_at;

ALTER TABLE accounts DROP COLUMN password_hash;

INSERT INTO sqlite_stat1 (tbl, idx, stat) VALUES
('account_history', 'sqlite_autoindex_account_history_1', '200000 20 1'),
('credentials', 'ix_credentials_one_password', '200000 1'),
('credentials', 'sqlite_autoindex_credentials_1', '200000 2 1');

ANALYZE sqlite_master;

INSERT INTO "__EFMigrationsHistory" ("migration_id", "product_version")
VALUES ('20261126201317_AccountsDoor', '10.0.14');

DROP TABLE "address_codes";

CREATE TABLE "mailed_codes" (
    "purpose" TEXT NOT NULL,
    "subject_id" TEXT NOT NULL,
    "account_id" TEXT NOT NULL,
    "address_key" TEXT NOT NULL,
    "code_hash" TEXT NOT NULL,
    "expires_at" INTEGER NOT NULL,
    "asked_at" INTEGER NOT NULL,
    "tries" INTEGER NOT NULL,
    CONSTRAINT "pk_mailed_codes" PRIMARY KEY ("purpose", "subject_id", "account_id", "address_key")
);

INSERT INTO sqlite_stat1 (tbl, idx, stat) VALUES ('mailed_codes', 'sqlite_autoindex_mailed_codes_1', '200000 100000 2 2 1');

ANALYZE sqlite_master;

INSERT INTO "__EFMigrationsHistory" ("migration_id", "product_version")
VALUES ('20261126204157_MailedCodes', '10.0.14');

ALTER TABLE "credentials" ADD "handle" TEXT NOT NULL DEFAULT '';

CREATE TABLE "ceremonies" (
    "id" TEXT NOT NULL CONSTRAINT "pk_ceremonies" PRIMARY KEY,
    "account_id" TEXT NOT NULL,
    "state" TEXT NOT NULL,
    "expires_at" INTEGER NOT NULL
);

CREATE UNIQUE INDEX "ix_credentials_handle" ON "credentials" ("handle") WHERE handle <> '';

INSERT INTO sqlite_stat1 (tbl, idx, stat) VALUES
('ceremonies', 'sqlite_autoindex_ceremonies_1', '200000 1'),
('credentials', 'ix_credentials_handle', '200000 1');

ANALYZE sqlite_master;

INSERT INTO "__EFMigrationsHistory" ("migration_id", "product_version")
VALUES ('20261126205937_Passkeys', '10.0.14');

ALTER TABLE "sessions" ADD "awaits_step" INTEGER NOT NULL DEFAULT 0;

ALTER TABLE "sessions" ADD "second_step" TEXT NULL;

ALTER TABLE "credentials" ADD "last_step" INTEGER NOT NULL DEFAULT 0;

CREATE UNIQUE INDEX "ix_credentials_one_time_code" ON "credentials" ("account_id") WHERE kind = 'timecode';

INSERT INTO sqlite_stat1 (tbl, idx, stat) VALUES
('credentials', 'ix_credentials_one_time_code', '200000 1');

ANALYZE sqlite_master;

INSERT INTO "__EFMigrationsHistory" ("migration_id", "product_version")
VALUES ('20261126224919_SecondSteps', '10.0.14');

CREATE TABLE "domains" (
    "workspace_id" TEXT NOT NULL,
    "id" TEXT NOT NULL,
    "domain" TEXT NOT NULL,
    "token" TEXT NOT NULL,
    "added_at" INTEGER NOT NULL,
    "proved_at" INTEGER NULL,
    "shown_at" INTEGER NULL,
    "missing_since" INTEGER NULL,
    "warned" INTEGER NOT NULL,
    "holds" TEXT NULL,
    "last_look" TEXT NULL,
    "looked_at" INTEGER NULL,
    "next_look_at" INTEGER NOT NULL,
    "version" INTEGER NOT NULL,
    CONSTRAINT "pk_domains" PRIMARY KEY ("workspace_id", "id")
);

CREATE UNIQUE INDEX "ix_domains_holds" ON "domains" ("holds") WHERE holds IS NOT NULL;

CREATE INDEX "ix_domains_next_look_at" ON "domains" ("next_look_at");

CREATE UNIQUE INDEX "ix_domains_workspace_id_domain" ON "domains" ("workspace_id", "domain");

INSERT INTO sqlite_stat1 (tbl, idx, stat) VALUES
('domains', 'sqlite_autoindex_domains_1', '10000 10 1'),
('domains', 'ix_domains_workspace_id_domain', '10000 10 1'),
('domains', 'ix_domains_holds', '10000 1'),
('domains', 'ix_domains_next_look_at', '10000 1');

ANALYZE sqlite_master;

INSERT INTO "__EFMigrationsHistory" ("migration_id", "product_version")
VALUES ('20261126231608_Domains', '10.0.14');

ALTER TABLE "accounts" ADD "custody_id" TEXT NULL;

ALTER TABLE "accounts" ADD "custody_since" INTEGER NULL;

ALTER TABLE "account_addresses" ADD "domain" TEXT NOT NULL DEFAULT '';

UPDATE account_addresses SET domain = replace(address_key, rtrim(address_key, replace(address_key, '@', '')), '');

CREATE TABLE "claims" (
    "workspace_id" TEXT NOT NULL,
    "id" TEXT NOT NULL,
    "account_id" TEXT NOT NULL,
    "address" TEXT NOT NULL,
    "address_key" TEXT NOT NULL,
    "state" TEXT NOT NULL,
    "asked_at" INTEGER NULL,
    "deadline" INTEGER NULL,
    "silence" TEXT NOT NULL,
    "mails" INTEGER NOT NULL,
    "decided_at" INTEGER NULL,
    "next_at" INTEGER NULL,
    "reason" TEXT NOT NULL,
    "asked_by_name" TEXT NOT NULL,
    "secret_hash" TEXT NULL,
    "other_workspaces" INTEGER NOT NULL,
    "version" INTEGER NOT NULL,
    CONSTRAINT "pk_claims" PRIMARY KEY ("workspace_id", "id"),
    CONSTRAINT "fk_claims_accounts_account_id" FOREIGN KEY ("account_id") REFERENCES "accounts" ("id") ON DELETE CASCADE
);

CREATE INDEX "ix_accounts_custody_id" ON "accounts" ("custody_id") WHERE custody_id IS NOT NULL;

CREATE INDEX "ix_account_addresses_domain_account_id" ON "account_addresses" ("domain", "account_id") WHERE proved_at IS NOT NULL;

CREATE INDEX "ix_claims_account_id" ON "claims" ("account_id");

CREATE INDEX "ix_claims_next_at" ON "claims" ("next_at") WHERE next_at IS NOT NULL;

CREATE UNIQUE INDEX "ix_claims_secret_hash" ON "claims" ("secret_hash") WHERE secret_hash IS NOT NULL;

CREATE UNIQUE INDEX "ix_claims_workspace_id_account_id" ON "claims" ("workspace_id", "account_id");

CREATE INDEX "ix_claims_workspace_id_address_key" ON "claims" ("workspace_id", "address_key");

INSERT INTO sqlite_stat1 (tbl, idx, stat) VALUES
('accounts', 'ix_accounts_custody_id', '200000 1000'),
('account_addresses', 'ix_account_addresses_domain_account_id', '200000 100 1'),
('claims', 'sqlite_autoindex_claims_1', '20000 200 1'),
('claims', 'ix_claims_account_id', '20000 1'),
('claims', 'ix_claims_next_at', '20000 1'),
('claims', 'ix_claims_secret_hash', '20000 1'),
('claims', 'ix_claims_workspace_id_account_id', '20000 200 1'),
('claims', 'ix_claims_workspace_id_address_key', '20000 200 1');

ANALYZE sqlite_master;

INSERT INTO "__EFMigrationsHistory" ("migration_id", "product_version")
VALUES ('20261126235417_Claims', '10.0.14');

ALTER TABLE "domains" ADD "provider_id" TEXT NULL;

CREATE TABLE "providers" (
    "workspace_id" TEXT NOT NULL,
    "id" TEXT NOT NULL,
    "name" TEXT NOT NULL,
    "name_key" TEXT NOT NULL,
    "issuer" TEXT NOT NULL,
    "client_id" TEXT NOT NULL,
    "secret" TEXT NOT NULL,
    "join_link_id" TEXT NULL,
    "added_at" INTEGER NOT NULL,
    "added_by_name" TEXT NOT NULL,
    "version" INTEGER NOT NULL,
    CONSTRAINT "pk_providers" PRIMARY KEY ("workspace_id", "id")
);

CREATE INDEX "ix_domains_provider_id" ON "domains" ("provider_id") WHERE provider_id IS NOT NULL;

CREATE UNIQUE INDEX "ix_providers_id" ON "providers" ("id");

CREATE UNIQUE INDEX "ix_providers_workspace_id_name_key" ON "providers" ("workspace_id", "name_key");

INSERT INTO sqlite_stat1 (tbl, idx, stat) VALUES
('providers', 'sqlite_autoindex_providers_1', '1000 10 1'),
('providers', 'ix_providers_id', '1000 1'),
('providers', 'ix_providers_workspace_id_name_key', '1000 10 1'),
('domains', 'ix_domains_provider_id', '1000 2');

ANALYZE sqlite_master;

INSERT INTO "__EFMigrationsHistory" ("migration_id", "product_version")
VALUES ('20261127032723_Providers', '10.0.14');

CREATE TABLE "proposals" (
    "workspace_id" TEXT NOT NULL,
    "id" TEXT NOT NULL,
    "account_id" TEXT NOT NULL,
    "name" TEXT NOT NULL,
    "address" TEXT NOT NULL,
    "reason" TEXT NOT NULL,
    "made_by_name" TEXT NOT NULL,
    "made_at" INTEGER NOT NULL,
    "lapses_at" INTEGER NOT NULL,
    CONSTRAINT "pk_proposals" PRIMARY KEY ("workspace_id", "id"),
    CONSTRAINT "fk_proposals_accounts_account_id" FOREIGN KEY ("account_id") REFERENCES "accounts" ("id") ON DELETE CASCADE
);

CREATE INDEX "ix_proposals_account_id" ON "proposals" ("account_id");

CREATE UNIQUE INDEX "ix_proposals_workspace_id_account_id" ON "proposals" ("workspace_id", "account_id");

INSERT INTO sqlite_stat1 (tbl, idx, stat) VALUES
('proposals', 'sqlite_autoindex_proposals_1', '1000 10 1'),
('proposals', 'ix_proposals_account_id', '1000 1'),
('proposals', 'ix_proposals_workspace_id_account_id', '1000 10 1');

ANALYZE sqlite_master;

INSERT INTO "__EFMigrationsHistory" ("migration_id", "product_version")
VALUES ('20261127042843_Proposals', '10.0.14');

CREATE TABLE "applications" (
    "workspace_id" TEXT NOT NULL,
    "id" TEXT NOT NULL,
    "name" TEXT NOT NULL,
    "name_key" TEXT NOT NULL,
    "resource_id" TEXT NULL,
    "duties" INTEGER NOT NULL,
    "acts_for_id" TEXT NULL,
    "sign_out_address" TEXT NULL,
    "added_at" INTEGER NOT NULL,
    "added_by_name" TEXT NOT NULL,
    "version" INTEGER NOT NULL,
    CONSTRAINT "pk_applications" PRIMARY KEY ("workspace_id", "id")
);

CREATE TABLE "oauth_clients" (
    "id" TEXT NOT NULL CONSTRAINT "pk_oauth_clients" PRIMARY KEY,
    "application_type" TEXT NULL,
    "client_id" TEXT NULL,
    "client_secret" TEXT NULL,
    "client_type" TEXT NULL,
    "concurrency_token" TEXT NULL,
    "consent_type" TEXT NULL,
    "display_name" TEXT NULL,
    "display_names" TEXT NULL,
    "json_web_key_set" TEXT NULL,
    "permissions" TEXT NULL,
    "post_logout_redirect_uris" TEXT NULL,
    "properties" TEXT NULL,
    "redirect_uris" TEXT NULL,
    "requirements" TEXT NULL,
    "settings" TEXT NULL
);

CREATE TABLE "oauth_keys" (
    "id" TEXT NOT NULL CONSTRAINT "pk_oauth_keys" PRIMARY KEY,
    "signs" INTEGER NOT NULL,
    "secret" TEXT NOT NULL,
    "made_at" INTEGER NOT NULL,
    "used_from" INTEGER NOT NULL
);

CREATE TABLE "oauth_scopes" (
    "id" TEXT NOT NULL CONSTRAINT "pk_oauth_scopes" PRIMARY KEY,
    "concurrency_token" TEXT NULL,
    "description" TEXT NULL,
    "descriptions" TEXT NULL,
    "display_name" TEXT NULL,
    "display_names" TEXT NULL,
    "name" TEXT NULL,
    "properties" TEXT NULL,
    "resources" TEXT NULL
);

CREATE TABLE "oauth_sign_ons" (
    "id" TEXT NOT NULL CONSTRAINT "pk_oauth_sign_ons" PRIMARY KEY,
    "workspace_id" TEXT NULL,
    "member_id" TEXT NULL,
    "session_id" TEXT NULL,
    "sid" TEXT NULL,
    "ends_with_session" INTEGER NOT NULL,
    "session_ends_at" INTEGER NULL,
    "tell_at" INTEGER NULL,
    "tries" INTEGER NOT NULL,
    "application_id" TEXT NULL,
    "concurrency_token" TEXT NULL,
    "creation_date" TEXT NULL,
    "properties" TEXT NULL,
    "scopes" TEXT NULL,
    "status" TEXT NULL,
    "subject" TEXT NULL,
    "type" TEXT NULL,
    CONSTRAINT "fk_oauth_sign_ons_oauth_clients_application_id" FOREIGN KEY ("application_id") REFERENCES "oauth_clients" ("id"),
    CONSTRAINT "fk_oauth_sign_ons_sessions_session_id" FOREIGN KEY ("session_id") REFERENCES "sessions" ("id") ON DELETE SET NULL
);

CREATE TABLE "oauth_tokens" (
    "id" TEXT NOT NULL CONSTRAINT "pk_oauth_tokens" PRIMARY KEY,
    "answered_at" INTEGER NULL,
    "asked_at" INTEGER NULL,
    "program" TEXT NULL,
    "network" TEXT NULL,
    "application_id" TEXT NULL,
    "authorization_id" TEXT NULL,
    "concurrency_token" TEXT NULL,
    "creation_date" TEXT NULL,
    "expiration_date" TEXT NULL,
    "payload" TEXT NULL,
    "properties" TEXT NULL,
    "redemption_date" TEXT NULL,
    "reference_id" TEXT NULL,
    "status" TEXT NULL,
    "subject" TEXT NULL,
    "type" TEXT NULL,
    CONSTRAINT "fk_oauth_tokens_oauth_clients_application_id" FOREIGN KEY ("application_id") REFERENCES "oauth_clients" ("id"),
    CONSTRAINT "fk_oauth_tokens_oauth_sign_ons_authorization_id" FOREIGN KEY ("authorization_id") REFERENCES "oauth_sign_ons" ("id")
);

CREATE UNIQUE INDEX "ix_applications_id" ON "applications" ("id");

CREATE UNIQUE INDEX "ix_applications_workspace_id_name_key" ON "applications" ("workspace_id", "name_key");

CREATE UNIQUE INDEX "ix_oauth_clients_client_id" ON "oauth_clients" ("client_id");

CREATE UNIQUE INDEX "ix_oauth_scopes_name" ON "oauth_scopes" ("name");

CREATE INDEX "ix_oauth_sign_ons_application_id_status_subject_type" ON "oauth_sign_ons" ("application_id", "status", "subject", "type");

CREATE INDEX "ix_oauth_sign_ons_session_ends_at" ON "oauth_sign_ons" ("session_ends_at") WHERE session_id IS NULL AND session_ends_at IS NOT NULL;

CREATE INDEX "ix_oauth_sign_ons_session_id" ON "oauth_sign_ons" ("session_id");

CREATE INDEX "ix_oauth_sign_ons_subject" ON "oauth_sign_ons" ("subject");

CREATE INDEX "ix_oauth_sign_ons_tell_at" ON "oauth_sign_ons" ("tell_at") WHERE tell_at IS NOT NULL;

CREATE INDEX "ix_oauth_sign_ons_workspace_id_member_id" ON "oauth_sign_ons" ("workspace_id", "member_id");

CREATE INDEX "ix_oauth_tokens_application_id_status_subject_type" ON "oauth_tokens" ("application_id", "status", "subject", "type");

CREATE INDEX "ix_oauth_tokens_authorization_id" ON "oauth_tokens" ("authorization_id");

CREATE INDEX "ix_oauth_tokens_expiration_date" ON "oauth_tokens" ("expiration_date");

CREATE UNIQUE INDEX "ix_oauth_tokens_reference_id" ON "oauth_tokens" ("reference_id");

CREATE INDEX "ix_oauth_tokens_subject" ON "oauth_tokens" ("subject");

INSERT INTO sqlite_stat1 (tbl, idx, stat) VALUES
('applications', 'sqlite_autoindex_applications_1', '1000 10 1'),
('applications', 'ix_applications_id', '1000 1'),
('applications', 'ix_applications_workspace_id_name_key', '1000 10 1'),
('oauth_clients', 'sqlite_autoindex_oauth_clients_1', '1000 1'),
('oauth_clients', 'ix_oauth_clients_client_id', '1000 1'),
('oauth_keys', 'sqlite_autoindex_oauth_keys_1', '10 1'),
('oauth_scopes', 'sqlite_autoindex_oauth_scopes_1', '10 1'),
('oauth_scopes', 'ix_oauth_scopes_name', '10 1'),
('oauth_sign_ons', 'sqlite_autoindex_oauth_sign_ons_1', '100000 1'),
('oauth_sign_ons', 'ix_oauth_sign_ons_application_id_status_subject_type', '100000 1000 500 1 1'),
('oauth_sign_ons', 'ix_oauth_sign_ons_session_ends_at', '10 1'),
('oauth_sign_ons', 'ix_oauth_sign_ons_session_id', '100000 2'),
('oauth_sign_ons', 'ix_oauth_sign_ons_subject', '100000 4'),
('oauth_sign_ons', 'ix_oauth_sign_ons_tell_at', '10 1'),
('oauth_sign_ons', 'ix_oauth_sign_ons_workspace_id_member_id', '100000 10000 4'),
('oauth_tokens', 'sqlite_autoindex_oauth_tokens_1', '300000 1'),
('oauth_tokens', 'ix_oauth_tokens_application_id_status_subject_type', '300000 3000 1500 4 2'),
('oauth_tokens', 'ix_oauth_tokens_authorization_id', '300000 3'),
('oauth_tokens', 'ix_oauth_tokens_expiration_date', '300000 1'),
('oauth_tokens', 'ix_oauth_tokens_reference_id', '300000 1'),
('oauth_tokens', 'ix_oauth_tokens_subject', '300000 8');

ANALYZE sqlite_master;

INSERT INTO "__EFMigrationsHistory" ("migration_id", "product_version")
VALUES ('20261127061209_Applications', '10.0.14');

ALTER TABLE "account_addresses" ADD "takes_notices" INTEGER NOT NULL DEFAULT 0;

INSERT INTO "__EFMigrationsHistory" ("migration_id", "product_version")
VALUES ('20261127073051_NoticeAddresses', '10.0.14');

ALTER TABLE "claims" ADD "asked_by_id" TEXT NULL;

INSERT INTO "__EFMigrationsHistory" ("migration_id", "product_version")
VALUES ('20261127074127_ClaimAskers', '10.0.14');

ALTER TABLE "seats" ADD "for_custody" INTEGER NOT NULL DEFAULT 0;

ALTER TABLE "accounts" ADD "closed_at" INTEGER NULL;

ALTER TABLE "accounts" ADD "paused_at" INTEGER NULL;

CREATE TABLE "account_splits" (
    "to_id" TEXT NOT NULL CONSTRAINT "pk_account_splits" PRIMARY KEY,
    "from_id" TEXT NOT NULL,
    "at" INTEGER NOT NULL,
    "undone_at" INTEGER NULL,
    CONSTRAINT "fk_account_splits_accounts_from_id" FOREIGN KEY ("from_id") REFERENCES "accounts" ("id") ON DELETE CASCADE,
    CONSTRAINT "fk_account_splits_accounts_to_id" FOREIGN KEY ("to_id") REFERENCES "accounts" ("id") ON DELETE CASCADE
);

CREATE INDEX "ix_account_splits_from_id" ON "account_splits" ("from_id");

INSERT INTO sqlite_stat1 (tbl, idx, stat) VALUES
    ('account_splits', 'ix_account_splits_from_id', '1000 1'),
    ('account_splits', 'sqlite_autoindex_account_splits_1', '1000 1');
ANALYZE sqlite_master;

INSERT INTO "__EFMigrationsHistory" ("migration_id", "product_version")
VALUES ('20261127094148_HeldAccountsAndSplits', '10.0.14');

ALTER TABLE "workspaces" ADD "match_due_at" INTEGER NOT NULL DEFAULT 0;

CREATE TABLE "duplicates" (
    "workspace_id" TEXT NOT NULL,
    "id" TEXT NOT NULL,
    "left_id" TEXT NOT NULL,
    "right_id" TEXT NOT NULL,
    "score" INTEGER NOT NULL,
    "reasons" TEXT NOT NULL,
    "found_at" INTEGER NOT NULL,
    "distinct_at" INTEGER NULL,
    "distinct_by_id" TEXT NULL,
    "distinct_by_name" TEXT NOT NULL,
    "distinct_reason" TEXT NOT NULL,
    CONSTRAINT "pk_duplicates" PRIMARY KEY ("workspace_id", "id")
);

CREATE INDEX "ix_workspaces_match_due_at" ON "workspaces" ("match_due_at");

CREATE INDEX "ix_deliveries_leased" ON "deliveries" ("lease") WHERE settled_at IS NULL AND lease IS NOT NULL;

CREATE INDEX "ix_duplicates_open" ON "duplicates" ("workspace_id", "score") WHERE distinct_at IS NULL;

CREATE UNIQUE INDEX "ix_duplicates_workspace_id_left_id_right_id" ON "duplicates" ("workspace_id", "left_id", "right_id");

INSERT INTO sqlite_stat1 (tbl, idx, stat) VALUES
    ('duplicates', 'sqlite_autoindex_duplicates_1', '100000 1000 1'),
    ('duplicates', 'ix_duplicates_open', '100000 1000 2'),
    ('duplicates', 'ix_duplicates_workspace_id_left_id_right_id', '100000 1000 2 1'),
    ('deliveries', 'ix_deliveries_leased', '1000 100'),
    ('workspaces', 'ix_workspaces_match_due_at', '1000 1');
ANALYZE sqlite_master;

INSERT INTO "__EFMigrationsHistory" ("migration_id", "product_version")
VALUES ('20261127135456_PeopleHereTwice', '10.0.14');

ALTER TABLE "members" ADD "merged_into_id" TEXT NULL;

ALTER TABLE "duplicates" ADD "is_on_purpose" INTEGER NOT NULL DEFAULT 0;

ALTER TABLE "accounts" ADD "merged_into_id" TEXT NULL;

CREATE TABLE "account_merges" (
    "id" TEXT NOT NULL CONSTRAINT "pk_account_merges" PRIMARY KEY,
    "kept_id" TEXT NOT NULL,
    "gone_id" TEXT NOT NULL,
    "at" INTEGER NOT NULL,
    "by_workspace_id" TEXT NULL,
    "undone_at" INTEGER NULL,
    "forgotten_at" INTEGER NULL,
    "brought" TEXT NOT NULL,
    CONSTRAINT "fk_account_merges_accounts_gone_id" FOREIGN KEY ("gone_id") REFERENCES "accounts" ("id") ON DELETE CASCADE,
    CONSTRAINT "fk_account_merges_accounts_kept_id" FOREIGN KEY ("kept_id") REFERENCES "accounts" ("id") ON DELETE CASCADE
);

CREATE TABLE "member_merges" (
    "workspace_id" TEXT NOT NULL,
    "id" TEXT NOT NULL,
    "kept_id" TEXT NULL,
    "kept_name" TEXT NOT NULL,
    "kept_address" TEXT NOT NULL,
    "gone_id" TEXT NULL,
    "gone_name" TEXT NOT NULL,
    "gone_address" TEXT NOT NULL,
    "at" INTEGER NOT NULL,
    "by_name" TEXT NOT NULL,
    "is_own" INTEGER NOT NULL,
    "undone_at" INTEGER NULL,
    "undone_by_name" TEXT NOT NULL,
    "steps" TEXT NOT NULL,
    CONSTRAINT "pk_member_merges" PRIMARY KEY ("workspace_id", "id")
);

CREATE INDEX "ix_members_merged" ON "members" ("workspace_id", "merged_into_id") WHERE merged_into_id IS NOT NULL;

CREATE INDEX "ix_account_merges_gone_id" ON "account_merges" ("gone_id");

CREATE INDEX "ix_account_merges_kept_id" ON "account_merges" ("kept_id");

CREATE INDEX "ix_account_merges_resting" ON "account_merges" ("at") WHERE undone_at IS NULL AND forgotten_at IS NULL;

CREATE INDEX "ix_member_merges_id" ON "member_merges" ("id");

CREATE INDEX "ix_member_merges_workspace_id_gone_id" ON "member_merges" ("workspace_id", "gone_id");

CREATE INDEX "ix_member_merges_workspace_id_kept_id" ON "member_merges" ("workspace_id", "kept_id");

INSERT INTO sqlite_stat1 (tbl, idx, stat) VALUES
    ('members', 'ix_members_merged', '1000 100 1'),
    ('account_merges', 'sqlite_autoindex_account_merges_1', '10000 1'),
    ('account_merges', 'ix_account_merges_gone_id', '10000 1'),
    ('account_merges', 'ix_account_merges_kept_id', '10000 2'),
    ('account_merges', 'ix_account_merges_resting', '1000 1'),
    ('member_merges', 'sqlite_autoindex_member_merges_1', '10000 100 1'),
    ('member_merges', 'ix_member_merges_id', '10000 1'),
    ('member_merges', 'ix_member_merges_workspace_id_gone_id', '10000 100 1'),
    ('member_merges', 'ix_member_merges_workspace_id_kept_id', '10000 100 2');
ANALYZE sqlite_master;

INSERT INTO "__EFMigrationsHistory" ("migration_id", "product_version")
VALUES ('20261127161901_AccountsMadeOne', '10.0.14');

CREATE TABLE "group_moves" (
    "workspace_id" TEXT NOT NULL,
    "id" TEXT NOT NULL,
    "group_id" TEXT NOT NULL,
    "at" INTEGER NOT NULL,
    "by_name" TEXT NOT NULL,
    "undone_at" INTEGER NULL,
    "moved" TEXT NOT NULL,
    CONSTRAINT "pk_group_moves" PRIMARY KEY ("workspace_id", "id")
);

CREATE INDEX "ix_group_moves_workspace_id_group_id_id" ON "group_moves" ("workspace_id", "group_id", "id");

INSERT INTO sqlite_stat1 (tbl, idx, stat) VALUES
    ('group_moves', 'sqlite_autoindex_group_moves_1', '10000 100 1'),
    ('group_moves', 'ix_group_moves_workspace_id_group_id_id', '10000 100 5 1');
ANALYZE sqlite_master;

INSERT INTO "__EFMigrationsHistory" ("migration_id", "product_version")
VALUES ('20261127172354_MovesIntoGroups', '10.0.14');

CREATE TABLE "connection_contents" (
    "workspace_id" TEXT NOT NULL,
    "connection_id" TEXT NOT NULL,
    "content" BLOB NOT NULL,
    CONSTRAINT "pk_connection_contents" PRIMARY KEY ("workspace_id", "connection_id")
);

CREATE TABLE "connections" (
    "workspace_id" TEXT NOT NULL,
    "id" TEXT NOT NULL,
    "name" TEXT NOT NULL,
    "name_key" TEXT NOT NULL,
    "type" TEXT NOT NULL,
    "place" TEXT NOT NULL,
    "settings" TEXT NOT NULL,
    "secret" TEXT NOT NULL,
    "newcomers" TEXT NOT NULL,
    "defaults" TEXT NOT NULL,
    "wins" TEXT NOT NULL,
    "floor" INTEGER NOT NULL,
    "every_hours" INTEGER NOT NULL,
    "next_read_at" INTEGER NULL,
    "state" TEXT NOT NULL,
    "is_believed" INTEGER NOT NULL,
    "last_read_at" INTEGER NULL,
    "fault" TEXT NULL,
    "counts" TEXT NOT NULL,
    "asked_by_id" TEXT NULL,
    "asked_by_name" TEXT NOT NULL,
    "added_at" INTEGER NOT NULL,
    "added_by_name" TEXT NOT NULL,
    "position" INTEGER NOT NULL,
    "total" INTEGER NOT NULL,
    "done_to" INTEGER NOT NULL,
    "lease" TEXT NULL,
    "leased_until" INTEGER NULL,
    "started_at" INTEGER NULL,
    "done_at_start" INTEGER NOT NULL,
    "tries" INTEGER NOT NULL,
    "version" INTEGER NOT NULL,
    CONSTRAINT "pk_connections" PRIMARY KEY ("workspace_id", "id")
);

CREATE TABLE "source_records" (
    "workspace_id" TEXT NOT NULL,
    "connection_id" TEXT NOT NULL,
    "number" INTEGER NOT NULL,
    "source_key" TEXT NOT NULL,
    "fields" TEXT NOT NULL,
    "name" TEXT NOT NULL,
    "address" TEXT NOT NULL,
    "search_text" TEXT NOT NULL,
    "verdict" TEXT NOT NULL,
    "score" INTEGER NOT NULL,
    "rank" INTEGER NOT NULL,
    "person_id" TEXT NULL,
    "reasons" TEXT NOT NULL,
    "decision" TEXT NULL,
    "decided_person_id" TEXT NULL,
    "decided_by_name" TEXT NOT NULL,
    "decided_at" INTEGER NULL,
    "state" TEXT NOT NULL,
    "refusal" TEXT NULL,
    "joined_id" TEXT NULL,
    "invitation_id" TEXT NULL,
    "gone_since" INTEGER NULL,
    "stays_at" INTEGER NULL,
    "stays_by_name" TEXT NOT NULL,
    CONSTRAINT "pk_source_records" PRIMARY KEY ("workspace_id", "connection_id", "number")
);

CREATE INDEX "ix_connections_due" ON "connections" ("next_read_at") WHERE next_read_at IS NOT NULL;

CREATE INDEX "ix_connections_working" ON "connections" ("state") WHERE state IN ('reading', 'doing');

CREATE UNIQUE INDEX "ix_connections_workspace_id_name_key" ON "connections" ("workspace_id", "name_key");

CREATE INDEX "ix_source_records_gone" ON "source_records" ("workspace_id", "connection_id", "gone_since") WHERE gone_since IS NOT NULL;

CREATE INDEX "ix_source_records_joined" ON "source_records" ("workspace_id", "connection_id", "joined_id") WHERE joined_id IS NOT NULL;

CREATE INDEX "ix_source_records_table" ON "source_records" ("workspace_id", "connection_id", "rank", "number");

CREATE UNIQUE INDEX "ix_source_records_workspace_id_connection_id_source_key" ON "source_records" ("workspace_id", "connection_id", "source_key");

INSERT INTO sqlite_stat1 (tbl, idx, stat) VALUES
    ('connections', 'sqlite_autoindex_connections_1', '1000 5 1'),
    ('connections', 'ix_connections_workspace_id_name_key', '1000 5 1'),
    ('connections', 'ix_connections_working', '5 3'),
    ('connections', 'ix_connections_due', '500 1'),
    ('connection_contents', 'sqlite_autoindex_connection_contents_1', '500 3 1'),
    ('source_records', 'sqlite_autoindex_source_records_1', '1000000 10000 5000 1'),
    ('source_records', 'ix_source_records_workspace_id_connection_id_source_key', '1000000 10000 5000 1'),
    ('source_records', 'ix_source_records_table', '1000000 10000 5000 20 1'),
    ('source_records', 'ix_source_records_joined', '500000 5000 2500 1'),
    ('source_records', 'ix_source_records_gone', '10000 100 50 1');
ANALYZE sqlite_master;

INSERT INTO "__EFMigrationsHistory" ("migration_id", "product_version")
VALUES ('20261127195849_Connections', '10.0.14');

ALTER TABLE "departures" ADD "confirmed_at" INTEGER NULL;

ALTER TABLE "departures" ADD "heir_id" TEXT NULL;

ALTER TABLE "departures" ADD "receipt" TEXT NOT NULL DEFAULT '';

CREATE TABLE "accounts_there" (
    "workspace_id" TEXT NOT NULL,
    "connection_id" TEXT NOT NULL,
    "member_id" TEXT NOT NULL,
    "their_key" TEXT NOT NULL,
    "is_ours" INTEGER NOT NULL,
    "wanted" TEXT NOT NULL,
    "wanted_groups" TEXT NOT NULL,
    "address" TEXT NOT NULL,
    "name" TEXT NOT NULL,
    "held" TEXT NULL,
    "held_groups" TEXT NOT NULL,
    "state" TEXT NOT NULL,
    "urgency" INTEGER NOT NULL,
    "due_at" INTEGER NULL,
    "due_since" INTEGER NULL,
    "tries" INTEGER NOT NULL,
    "answer" TEXT NOT NULL,
    "confirmed_at" INTEGER NULL,
    "by_hand_name" TEXT NOT NULL,
    "by_hand_reason" TEXT NOT NULL,
    "departure_id" TEXT NULL,
    "version" INTEGER NOT NULL,
    CONSTRAINT "pk_accounts_there" PRIMARY KEY ("workspace_id", "connection_id", "member_id")
);

CREATE TABLE "connection_mapping" (
    "workspace_id" TEXT NOT NULL,
    "connection_id" TEXT NOT NULL,
    "id" TEXT NOT NULL,
    "of" TEXT NOT NULL,
    "subject_id" TEXT NOT NULL,
    "least" TEXT NOT NULL,
    "group_there" TEXT NOT NULL,
    CONSTRAINT "pk_connection_mapping" PRIMARY KEY ("workspace_id", "connection_id", "id")
);

CREATE TABLE "lanes" (
    "workspace_id" TEXT NOT NULL,
    "id" TEXT NOT NULL,
    "state" TEXT NOT NULL,
    "not_before" INTEGER NULL,
    "failures" INTEGER NOT NULL,
    "answer" TEXT NOT NULL,
    "down_since" INTEGER NULL,
    "confirmed_at" INTEGER NULL,
    "is_held" INTEGER NOT NULL,
    "compare_at" INTEGER NULL,
    "lease" TEXT NULL,
    "leased_until" INTEGER NULL,
    "started_at" INTEGER NULL,
    "position" INTEGER NOT NULL,
    "done_at_start" INTEGER NOT NULL,
    "tries" INTEGER NOT NULL,
    CONSTRAINT "pk_lanes" PRIMARY KEY ("workspace_id", "id")
);

CREATE TABLE "receipt_keys" (
    "workspace_id" TEXT NOT NULL,
    "id" TEXT NOT NULL,
    "made_at" INTEGER NOT NULL,
    "secret" TEXT NOT NULL,
    "shown" TEXT NOT NULL,
    CONSTRAINT "pk_receipt_keys" PRIMARY KEY ("workspace_id", "id")
);

CREATE INDEX "ix_departures_running" ON "departures" ("workspace_id", "id") WHERE state = 'running';

CREATE INDEX "ix_accounts_there_departure" ON "accounts_there" ("workspace_id", "departure_id") WHERE departure_id IS NOT NULL;

CREATE INDEX "ix_accounts_there_due" ON "accounts_there" ("workspace_id", "connection_id", "urgency", "due_at") WHERE due_at IS NOT NULL;

CREATE INDEX "ix_accounts_there_member" ON "accounts_there" ("workspace_id", "member_id");

CREATE UNIQUE INDEX "ix_connection_mapping_once" ON "connection_mapping" ("workspace_id", "connection_id", "of", "subject_id", "least", "group_there");

CREATE INDEX "ix_lanes_compare" ON "lanes" ("compare_at") WHERE compare_at IS NOT NULL;

CREATE INDEX "ix_lanes_working" ON "lanes" ("state") WHERE state = 'working';

INSERT INTO sqlite_stat1 (tbl, idx, stat) VALUES
    ('connection_mapping', 'sqlite_autoindex_connection_mapping_1', '10000 50 10 1'),
    ('connection_mapping', 'ix_connection_mapping_once', '10000 50 10 5 2 2 1'),
    ('lanes', 'sqlite_autoindex_lanes_1', '1000 5 1'),
    ('lanes', 'ix_lanes_working', '50 25'),
    ('lanes', 'ix_lanes_compare', '1000 1'),
    ('accounts_there', 'sqlite_autoindex_accounts_there_1', '1000000 10000 5000 1'),
    ('accounts_there', 'ix_accounts_there_due', '10000 100 50 25 1'),
    ('accounts_there', 'ix_accounts_there_member', '1000000 10000 2'),
    ('accounts_there', 'ix_accounts_there_departure', '100000 1000 2'),
    ('departures', 'ix_departures_running', '1000 10 1'),
    ('receipt_keys', 'sqlite_autoindex_receipt_keys_1', '1000 2 1');
ANALYZE sqlite_master;

INSERT INTO "__EFMigrationsHistory" ("migration_id", "product_version")
VALUES ('20261127233508_CarryingOut', '10.0.14');

ALTER TABLE "lanes" ADD "sweep_answer" TEXT NOT NULL DEFAULT '';

ALTER TABLE "lanes" ADD "sweep_at" INTEGER NULL;

ALTER TABLE "lanes" ADD "swept_at" INTEGER NULL;

ALTER TABLE "accounts_there" ADD "wanted_last_day" TEXT NULL;

CREATE TABLE "events_sent" (
    "workspace_id" TEXT NOT NULL,
    "id" TEXT NOT NULL,
    "connection_id" TEXT NOT NULL,
    "member_id" TEXT NOT NULL,
    "version" INTEGER NOT NULL,
    "sentence" TEXT NOT NULL,
    "at" INTEGER NOT NULL,
    "body" TEXT NOT NULL,
    "tries" INTEGER NOT NULL,
    "tried_at" INTEGER NULL,
    "accepted_at" INTEGER NULL,
    "answer" TEXT NOT NULL,
    CONSTRAINT "pk_events_sent" PRIMARY KEY ("workspace_id", "id")
);

CREATE TABLE "left_overs" (
    "workspace_id" TEXT NOT NULL,
    "connection_id" TEXT NOT NULL,
    "their_key" TEXT NOT NULL,
    "sign_in_name" TEXT NOT NULL,
    "name" TEXT NOT NULL,
    "found_at" INTEGER NOT NULL,
    "left_until" TEXT NULL,
    "left_reason" TEXT NOT NULL,
    "left_by_name" TEXT NOT NULL,
    CONSTRAINT "pk_left_overs" PRIMARY KEY ("workspace_id", "connection_id", "their_key")
);

UPDATE lanes SET sweep_at = 0;

CREATE INDEX "ix_lanes_sweep" ON "lanes" ("sweep_at") WHERE sweep_at IS NOT NULL;

CREATE INDEX "ix_events_sent_at" ON "events_sent" ("at");

CREATE INDEX "ix_events_sent_wish" ON "events_sent" ("workspace_id", "connection_id", "member_id", "version");

INSERT INTO sqlite_stat1 (tbl, idx, stat) VALUES
    ('left_overs', 'sqlite_autoindex_left_overs_1', '100000 5000 1000 1'),
    ('events_sent', 'sqlite_autoindex_events_sent_1', '1000000 10000 1'),
    ('events_sent', 'ix_events_sent_wish', '1000000 10000 5000 5 1'),
    ('events_sent', 'ix_events_sent_at', '1000000 1'),
    ('lanes', 'ix_lanes_sweep', '1000 1');
ANALYZE sqlite_master;

INSERT INTO "__EFMigrationsHistory" ("migration_id", "product_version")
VALUES ('20261128025451_Sweeps', '10.0.14');

ALTER TABLE "lanes" ADD "compared_on" TEXT NULL;

ALTER TABLE "lanes" ADD "compared_version" INTEGER NOT NULL DEFAULT 0;

INSERT INTO "__EFMigrationsHistory" ("migration_id", "product_version")
VALUES ('20261128070437_Comparing', '10.0.14');

ALTER TABLE "members" ADD "erased_at" INTEGER NULL;

ALTER TABLE "accounts_there" ADD "by_hand_digest" TEXT NOT NULL DEFAULT '';

ALTER TABLE "accounts_there" ADD "by_hand_file" TEXT NOT NULL DEFAULT '';

CREATE TABLE "step_files" (
    "workspace_id" TEXT NOT NULL,
    "departure_id" TEXT NOT NULL,
    "connection_id" TEXT NOT NULL,
    "name" TEXT NOT NULL,
    "content" BLOB NOT NULL,
    CONSTRAINT "pk_step_files" PRIMARY KEY ("workspace_id", "departure_id", "connection_id")
);

INSERT INTO sqlite_stat1 (tbl, idx, stat) VALUES
    ('step_files', 'sqlite_autoindex_step_files_1', '10000 500 2 1');
ANALYZE sqlite_master;

INSERT INTO "__EFMigrationsHistory" ("migration_id", "product_version")
VALUES ('20261128072152_Erasing', '10.0.14');

CREATE TABLE "batch_parts" (
    "workspace_id" TEXT NOT NULL,
    "batch_id" TEXT NOT NULL,
    "number" INTEGER NOT NULL,
    "csv" BLOB NOT NULL,
    CONSTRAINT "pk_batch_parts" PRIMARY KEY ("workspace_id", "batch_id", "number")
);

INSERT INTO batch_parts (workspace_id, batch_id, number, csv)
SELECT workspace_id, batch_id, 0, csv FROM batch_contents;

DROP TABLE "batch_contents";

INSERT INTO sqlite_stat1 (tbl, idx, stat) VALUES
    ('batch_parts', 'sqlite_autoindex_batch_parts_1', '200000 100000 100 1');
ANALYZE sqlite_master;

INSERT INTO "__EFMigrationsHistory" ("migration_id", "product_version")
VALUES ('20261129002715_BatchParts', '10.0.14');

UPDATE account_addresses SET takes_notices = FALSE WHERE takes_notices AND EXISTS (
    SELECT 1 FROM account_addresses AS other
    WHERE other.account_id = account_addresses.account_id AND other.takes_notices
        AND other.address_key < account_addresses.address_key);

CREATE UNIQUE INDEX "ix_account_addresses_one_for_notices" ON "account_addresses" ("account_id") WHERE takes_notices;

INSERT INTO sqlite_stat1 (tbl, idx, stat) VALUES
    ('account_addresses', 'ix_account_addresses_one_for_notices', '2000 1');
ANALYZE sqlite_master;

INSERT INTO "__EFMigrationsHistory" ("migration_id", "product_version")
VALUES ('20261129131414_OneForNotices', '10.0.14');

