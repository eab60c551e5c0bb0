using System;
using Microsoft.EntityFrameworkCore.Migrations;

#nullable disable

namespace ComeAboard.Storage.Migrations.Sqlite
{
    /// <inheritdoc />
    public partial class Access : Migration
    {
        /// <inheritdoc />
        protected override void Up(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.RenameColumn(
                name: "role",
                table: "presets",
                newName: "gives");

            migrationBuilder.RenameColumn(
                name: "role",
                table: "join_links",
                newName: "gives");

            migrationBuilder.RenameColumn(
                name: "role",
                table: "invitations",
                newName: "gives");

            migrationBuilder.AddColumn<long>(
                name: "access_version",
                table: "workspaces",
                type: "INTEGER",
                nullable: false,
                defaultValue: 0L);

            migrationBuilder.AddColumn<long>(
                name: "last_seen_at",
                table: "members",
                type: "INTEGER",
                nullable: true);

            migrationBuilder.AddColumn<bool>(
                name: "leads",
                table: "members",
                type: "INTEGER",
                nullable: false,
                defaultValue: false);

            migrationBuilder.AddColumn<Guid>(
                name: "organisation_id",
                table: "members",
                type: "TEXT",
                nullable: true);

            migrationBuilder.AddColumn<long>(
                name: "paused_at",
                table: "members",
                type: "INTEGER",
                nullable: true);

            migrationBuilder.AddColumn<Guid>(
                name: "organisation_id",
                table: "invitations",
                type: "TEXT",
                nullable: true);

            migrationBuilder.CreateTable(
                name: "access_changes",
                columns: table => new
                {
                    workspace_id = table.Column<Guid>(type: "TEXT", nullable: false),
                    version = table.Column<long>(type: "INTEGER", nullable: false),
                    kind = table.Column<string>(type: "TEXT", maxLength: 16, nullable: false),
                    subject_id = table.Column<Guid>(type: "TEXT", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_access_changes", x => new { x.workspace_id, x.version, x.kind, x.subject_id });
                });

            migrationBuilder.CreateTable(
                name: "areas",
                columns: table => new
                {
                    workspace_id = table.Column<Guid>(type: "TEXT", nullable: false),
                    id = table.Column<Guid>(type: "TEXT", nullable: false),
                    name = table.Column<string>(type: "TEXT", nullable: false),
                    name_key = table.Column<string>(type: "TEXT", nullable: false),
                    has_private_entries = table.Column<bool>(type: "INTEGER", nullable: false),
                    needs = table.Column<string>(type: "TEXT", nullable: false),
                    version = table.Column<int>(type: "INTEGER", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_areas", x => new { x.workspace_id, x.id });
                });

            migrationBuilder.CreateTable(
                name: "contacts",
                columns: table => new
                {
                    workspace_id = table.Column<Guid>(type: "TEXT", nullable: false),
                    id = table.Column<Guid>(type: "TEXT", nullable: false),
                    organisation_id = table.Column<Guid>(type: "TEXT", nullable: false),
                    name = table.Column<string>(type: "TEXT", maxLength: 100, nullable: false),
                    address = table.Column<string>(type: "TEXT", maxLength: 400, nullable: false),
                    title = table.Column<string>(type: "TEXT", nullable: false),
                    search_text = table.Column<string>(type: "TEXT", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_contacts", x => new { x.workspace_id, x.id });
                });

            migrationBuilder.CreateTable(
                name: "grants",
                columns: table => new
                {
                    workspace_id = table.Column<Guid>(type: "TEXT", nullable: false),
                    id = table.Column<Guid>(type: "TEXT", nullable: false),
                    holder_kind = table.Column<string>(type: "TEXT", maxLength: 16, nullable: false),
                    holder_id = table.Column<Guid>(type: "TEXT", nullable: false),
                    role_id = table.Column<Guid>(type: "TEXT", nullable: false),
                    resource_id = table.Column<Guid>(type: "TEXT", nullable: true),
                    first_day = table.Column<DateOnly>(type: "TEXT", nullable: true),
                    last_day = table.Column<DateOnly>(type: "TEXT", nullable: true),
                    given_at = table.Column<long>(type: "INTEGER", nullable: false),
                    given_by_name = table.Column<string>(type: "TEXT", nullable: false),
                    version = table.Column<int>(type: "INTEGER", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_grants", x => new { x.workspace_id, x.id });
                });

            migrationBuilder.CreateTable(
                name: "group_members",
                columns: table => new
                {
                    workspace_id = table.Column<Guid>(type: "TEXT", nullable: false),
                    group_id = table.Column<Guid>(type: "TEXT", nullable: false),
                    member_id = table.Column<Guid>(type: "TEXT", nullable: false),
                    since = table.Column<long>(type: "INTEGER", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_group_members", x => new { x.workspace_id, x.group_id, x.member_id });
                });

            migrationBuilder.CreateTable(
                name: "groups",
                columns: table => new
                {
                    workspace_id = table.Column<Guid>(type: "TEXT", nullable: false),
                    id = table.Column<Guid>(type: "TEXT", nullable: false),
                    name = table.Column<string>(type: "TEXT", nullable: false),
                    name_key = table.Column<string>(type: "TEXT", nullable: false),
                    about = table.Column<string>(type: "TEXT", nullable: false),
                    version = table.Column<int>(type: "INTEGER", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_groups", x => new { x.workspace_id, x.id });
                });

            migrationBuilder.CreateTable(
                name: "organisations",
                columns: table => new
                {
                    workspace_id = table.Column<Guid>(type: "TEXT", nullable: false),
                    id = table.Column<Guid>(type: "TEXT", nullable: false),
                    name = table.Column<string>(type: "TEXT", nullable: false),
                    name_key = table.Column<string>(type: "TEXT", nullable: false),
                    kind = table.Column<string>(type: "TEXT", maxLength: 16, nullable: false),
                    colour = table.Column<string>(type: "TEXT", maxLength: 7, nullable: false),
                    code = table.Column<string>(type: "TEXT", maxLength: 8, nullable: false),
                    reference = table.Column<string>(type: "TEXT", nullable: false),
                    domains = table.Column<string>(type: "TEXT", nullable: false),
                    agreement_ends = table.Column<DateOnly>(type: "TEXT", nullable: true),
                    cap = table.Column<int>(type: "INTEGER", nullable: true),
                    version = table.Column<int>(type: "INTEGER", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_organisations", x => new { x.workspace_id, x.id });
                });

            migrationBuilder.CreateTable(
                name: "resources",
                columns: table => new
                {
                    workspace_id = table.Column<Guid>(type: "TEXT", nullable: false),
                    id = table.Column<Guid>(type: "TEXT", nullable: false),
                    area_id = table.Column<Guid>(type: "TEXT", nullable: false),
                    name = table.Column<string>(type: "TEXT", nullable: false),
                    name_key = table.Column<string>(type: "TEXT", nullable: false),
                    about = table.Column<string>(type: "TEXT", nullable: false),
                    owner_id = table.Column<Guid>(type: "TEXT", nullable: true),
                    version = table.Column<int>(type: "INTEGER", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_resources", x => new { x.workspace_id, x.id });
                });

            migrationBuilder.CreateTable(
                name: "roles",
                columns: table => new
                {
                    workspace_id = table.Column<Guid>(type: "TEXT", nullable: false),
                    id = table.Column<Guid>(type: "TEXT", nullable: false),
                    name = table.Column<string>(type: "TEXT", nullable: false),
                    name_key = table.Column<string>(type: "TEXT", nullable: false),
                    sentence = table.Column<string>(type: "TEXT", nullable: false),
                    everywhere = table.Column<string>(type: "TEXT", maxLength: 16, nullable: false),
                    duties = table.Column<int>(type: "INTEGER", nullable: false),
                    areas = table.Column<string>(type: "TEXT", nullable: false),
                    version = table.Column<int>(type: "INTEGER", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_roles", x => new { x.workspace_id, x.id });
                });

            migrationBuilder.CreateTable(
                name: "seat_pools",
                columns: table => new
                {
                    workspace_id = table.Column<Guid>(type: "TEXT", nullable: false),
                    id = table.Column<Guid>(type: "TEXT", nullable: false),
                    name = table.Column<string>(type: "TEXT", nullable: false),
                    name_key = table.Column<string>(type: "TEXT", nullable: false),
                    about = table.Column<string>(type: "TEXT", nullable: false),
                    total = table.Column<int>(type: "INTEGER", nullable: false),
                    held = table.Column<int>(type: "INTEGER", nullable: false),
                    reserved = table.Column<int>(type: "INTEGER", nullable: false),
                    ever_held = table.Column<int>(type: "INTEGER", nullable: false),
                    reserved_changes = table.Column<int>(type: "INTEGER", nullable: false),
                    changes_per_seat = table.Column<int>(type: "INTEGER", nullable: true),
                    year = table.Column<int>(type: "INTEGER", nullable: false),
                    changes_used = table.Column<int>(type: "INTEGER", nullable: false),
                    version = table.Column<int>(type: "INTEGER", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_seat_pools", x => new { x.workspace_id, x.id });
                });

            migrationBuilder.CreateTable(
                name: "seat_reservations",
                columns: table => new
                {
                    workspace_id = table.Column<Guid>(type: "TEXT", nullable: false),
                    invitation_id = table.Column<Guid>(type: "TEXT", nullable: false),
                    pool_id = table.Column<Guid>(type: "TEXT", nullable: false),
                    is_change = table.Column<bool>(type: "INTEGER", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_seat_reservations", x => new { x.workspace_id, x.invitation_id, x.pool_id });
                });

            migrationBuilder.CreateTable(
                name: "seats",
                columns: table => new
                {
                    workspace_id = table.Column<Guid>(type: "TEXT", nullable: false),
                    pool_id = table.Column<Guid>(type: "TEXT", nullable: false),
                    member_id = table.Column<Guid>(type: "TEXT", nullable: false),
                    since = table.Column<long>(type: "INTEGER", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_seats", x => new { x.workspace_id, x.pool_id, x.member_id });
                });

            migrationBuilder.CreateTable(
                name: "switched_off",
                columns: table => new
                {
                    workspace_id = table.Column<Guid>(type: "TEXT", nullable: false),
                    holder_id = table.Column<Guid>(type: "TEXT", nullable: false),
                    resource_id = table.Column<Guid>(type: "TEXT", nullable: false),
                    is_organisation = table.Column<bool>(type: "INTEGER", nullable: false),
                    at = table.Column<long>(type: "INTEGER", nullable: false),
                    by_name = table.Column<string>(type: "TEXT", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_switched_off", x => new { x.workspace_id, x.holder_id, x.resource_id });
                });

            migrationBuilder.CreateIndex(
                name: "ix_members_organisation",
                table: "members",
                columns: new[] { "workspace_id", "organisation_id" },
                filter: "organisation_id IS NOT NULL");

            migrationBuilder.CreateIndex(
                name: "ix_invitations_organisation",
                table: "invitations",
                columns: new[] { "workspace_id", "organisation_id" },
                filter: "organisation_id IS NOT NULL AND is_pending");

            migrationBuilder.CreateIndex(
                name: "ix_areas_workspace_id_name_key",
                table: "areas",
                columns: new[] { "workspace_id", "name_key" },
                unique: true);

            migrationBuilder.CreateIndex(
                name: "ix_contacts_workspace_id_organisation_id",
                table: "contacts",
                columns: new[] { "workspace_id", "organisation_id" });

            migrationBuilder.CreateIndex(
                name: "ix_grants_resource",
                table: "grants",
                columns: new[] { "workspace_id", "resource_id" },
                filter: "resource_id IS NOT NULL");

            migrationBuilder.CreateIndex(
                name: "ix_grants_workspace_id_holder_kind_holder_id",
                table: "grants",
                columns: new[] { "workspace_id", "holder_kind", "holder_id" });

            migrationBuilder.CreateIndex(
                name: "ix_grants_workspace_id_role_id",
                table: "grants",
                columns: new[] { "workspace_id", "role_id" });

            migrationBuilder.CreateIndex(
                name: "ix_group_members_workspace_id_member_id",
                table: "group_members",
                columns: new[] { "workspace_id", "member_id" });

            migrationBuilder.CreateIndex(
                name: "ix_groups_workspace_id_name_key",
                table: "groups",
                columns: new[] { "workspace_id", "name_key" },
                unique: true);

            migrationBuilder.CreateIndex(
                name: "ix_organisations_workspace_id_name_key",
                table: "organisations",
                columns: new[] { "workspace_id", "name_key" },
                unique: true);

            migrationBuilder.CreateIndex(
                name: "ix_resources_owner",
                table: "resources",
                columns: new[] { "workspace_id", "owner_id" },
                filter: "owner_id IS NOT NULL");

            migrationBuilder.CreateIndex(
                name: "ix_resources_workspace_id_name_key",
                table: "resources",
                columns: new[] { "workspace_id", "name_key" },
                unique: true);

            migrationBuilder.CreateIndex(
                name: "ix_roles_workspace_id_name_key",
                table: "roles",
                columns: new[] { "workspace_id", "name_key" },
                unique: true);

            migrationBuilder.CreateIndex(
                name: "ix_seat_pools_workspace_id_name_key",
                table: "seat_pools",
                columns: new[] { "workspace_id", "name_key" },
                unique: true);

            migrationBuilder.CreateIndex(
                name: "ix_seat_reservations_workspace_id_pool_id",
                table: "seat_reservations",
                columns: new[] { "workspace_id", "pool_id" });

            migrationBuilder.CreateIndex(
                name: "ix_seats_workspace_id_member_id",
                table: "seats",
                columns: new[] { "workspace_id", "member_id" });

            migrationBuilder.CreateIndex(
                name: "ix_switched_off_workspace_id_resource_id",
                table: "switched_off",
                columns: new[] { "workspace_id", "resource_id" });

            // What the three roles of before gave is given by the built-in ones now: to members by a grant that has their own
            // id, to those still to come by the text of a bundle.
            migrationBuilder.Sql(
                """
                UPDATE invitations SET gives = CASE gives WHEN 'view' THEN '{"roles":[{"role":"00000000-0000-7000-8000-000000000001"}],"groups":[],"pools":[]}' WHEN 'edit' THEN '{"roles":[{"role":"00000000-0000-7000-8000-000000000002"}],"groups":[],"pools":[]}' WHEN 'manage' THEN '{"roles":[{"role":"00000000-0000-7000-8000-000000000003"}],"groups":[],"pools":[]}' ELSE '' END;
                UPDATE join_links SET gives = CASE gives WHEN 'view' THEN '{"roles":[{"role":"00000000-0000-7000-8000-000000000001"}],"groups":[],"pools":[]}' WHEN 'edit' THEN '{"roles":[{"role":"00000000-0000-7000-8000-000000000002"}],"groups":[],"pools":[]}' WHEN 'manage' THEN '{"roles":[{"role":"00000000-0000-7000-8000-000000000003"}],"groups":[],"pools":[]}' ELSE '' END;
                UPDATE presets SET gives = CASE gives WHEN 'view' THEN '{"roles":[{"role":"00000000-0000-7000-8000-000000000001"}],"groups":[],"pools":[]}' WHEN 'edit' THEN '{"roles":[{"role":"00000000-0000-7000-8000-000000000002"}],"groups":[],"pools":[]}' WHEN 'manage' THEN '{"roles":[{"role":"00000000-0000-7000-8000-000000000003"}],"groups":[],"pools":[]}' ELSE '' END;
                INSERT INTO grants (workspace_id, id, holder_kind, holder_id, role_id, given_at, given_by_name, version)
                SELECT workspace_id, id, 'member', id, CASE role WHEN 'edit' THEN '00000000-0000-7000-8000-000000000002' WHEN 'manage' THEN '00000000-0000-7000-8000-000000000003' ELSE '00000000-0000-7000-8000-000000000001' END,
                    joined_at, COALESCE(invited_by_name, 'the operator'), 1 FROM members;
                ALTER TABLE members DROP COLUMN role;
                """
            );
        }

        /// <inheritdoc />
        protected override void Down(MigrationBuilder migrationBuilder)
        {
            throw new NotSupportedException("Access cannot be turned back into one role for each person.");
        }
    }
}
