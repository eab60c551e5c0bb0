using System.Collections.Immutable;
using System.Text.Json;
using ComeAboard.Core.Access;
using ComeAboard.Core.Invitations;
using ComeAboard.Core.Workspaces;
using Microsoft.EntityFrameworkCore;
using Microsoft.EntityFrameworkCore.Metadata.Builders;

namespace ComeAboard.Storage.Access;

/// <summary>What a change of rows makes stale in the picture of who may do what.</summary>
public enum AccessSubjectKind
{
    /// <summary>Roles, areas, resources, dependencies, pools, what is switched off: all of them are read again.</summary>
    Model,

    /// <summary>One member.</summary>
    Member,

    /// <summary>One group.</summary>
    Group,

    /// <summary>One organisation.</summary>
    Organisation,

    /// <summary>The API tokens.</summary>
    Tokens,
}

/// <summary>One such thing; the empty id where there is only one.</summary>
public readonly record struct AccessSubject(AccessSubjectKind Kind, Guid Id)
{
    public static AccessSubject Model => new(AccessSubjectKind.Model, default);
    public static AccessSubject Tokens => new(AccessSubjectKind.Tokens, default);

    public static AccessSubject Member(Guid id) => new(AccessSubjectKind.Member, id);
}

/// <summary>A row that decides about access: saving or removing it makes its subject stale.</summary>
public interface IAccessRow : ITenantRow
{
    AccessSubject Subject { get; }
}

/// <summary>A role given to a member, a group or an organisation.</summary>
public sealed class GrantRow : IAccessRow
{
    public required Guid WorkspaceId { get; init; }
    public required Guid Id { get; init; }
    public required HolderKind HolderKind { get; init; }
    public required Guid HolderId { get; init; }
    public required Guid RoleId { get; set; }
    public Guid? ResourceId { get; init; }
    public DateOnly? FirstDay { get; set; }
    public DateOnly? LastDay { get; set; }
    public required DateTimeOffset GivenAt { get; init; }
    public required string GivenByName { get; init; }
    public int Version { get; set; } = 1;

    public Grant Grant => new(Id, RoleId, ResourceId, new Stay(LastDay, FirstDay));
    public AccessSubject Subject =>
        new(
            HolderKind switch
            {
                HolderKind.Member => AccessSubjectKind.Member,
                HolderKind.Group => AccessSubjectKind.Group,
                _ => AccessSubjectKind.Organisation,
            },
            HolderId
        );

    private sealed class Mapping : IEntityTypeConfiguration<GrantRow>
    {
        public void Configure(EntityTypeBuilder<GrantRow> row)
        {
            row.ToTable("grants").HasKey(g => new { g.WorkspaceId, g.Id });
            row.Ignore(g => g.Grant).Ignore(g => g.Subject);
            row.HasIndex(g => new
            {
                g.WorkspaceId,
                g.HolderKind,
                g.HolderId,
            });
            row.HasIndex(g => new { g.WorkspaceId, g.ResourceId })
                .HasDatabaseName("ix_grants_resource")
                .HasFilter("resource_id IS NOT NULL");
            row.HasIndex(g => new { g.WorkspaceId, g.RoleId });
            row.Property(g => g.Version).IsConcurrencyToken();
        }
    }
}

/// <summary>A workspace's own role.</summary>
public sealed class RoleRow : IAccessRow
{
    public required Guid WorkspaceId { get; init; }
    public required Guid Id { get; init; }
    public required string Name { get; set; }
    public required string NameKey { get; set; }
    public required string Sentence { get; set; }
    public required Level Everywhere { get; set; }
    public required Duties Duties { get; set; }

    /// <summary>Levels by the area's id, as JSON.</summary>
    public required string Areas { get; set; }
    public int Version { get; set; } = 1;

    public AccessSubject Subject => AccessSubject.Model;

    public Role Role =>
        new(
            Id,
            Name,
            Sentence,
            Everywhere,
            JsonSerializer.Deserialize<Dictionary<Guid, Level>>(Areas)!.ToImmutableSortedDictionary(),
            Duties
        );

    public static string AreasText(Role role) => JsonSerializer.Serialize(role.Areas);

    private sealed class Mapping : IEntityTypeConfiguration<RoleRow>
    {
        public void Configure(EntityTypeBuilder<RoleRow> row)
        {
            row.ToTable("roles").HasKey(r => new { r.WorkspaceId, r.Id });
            row.Ignore(r => r.Role).Ignore(r => r.Subject);
            row.HasIndex(r => new { r.WorkspaceId, r.NameKey }).IsUnique();
            row.Property(r => r.Version).IsConcurrencyToken();
        }
    }
}

/// <summary>A part of the workspace's work.</summary>
public sealed class AreaRow : IAccessRow
{
    public required Guid WorkspaceId { get; init; }
    public required Guid Id { get; init; }
    public required string Name { get; set; }
    public required string NameKey { get; set; }
    public bool HasPrivateEntries { get; set; }

    /// <summary>What it needs of other areas: levels by the area's id, as JSON.</summary>
    public string Needs { get; set; } = "{}";
    public int Version { get; set; } = 1;

    public AccessSubject Subject => AccessSubject.Model;
    public Area Area => new(Id, Name, HasPrivateEntries);
    public IReadOnlyDictionary<Guid, Level> NeedsByArea =>
        JsonSerializer.Deserialize<Dictionary<Guid, Level>>(Needs)!;

    private sealed class Mapping : IEntityTypeConfiguration<AreaRow>
    {
        public void Configure(EntityTypeBuilder<AreaRow> row)
        {
            row.ToTable("areas").HasKey(a => new { a.WorkspaceId, a.Id });
            row.Ignore(a => a.Subject).Ignore(a => a.Area).Ignore(a => a.NeedsByArea);
            row.HasIndex(a => new { a.WorkspaceId, a.NameKey }).IsUnique();
            row.Property(a => a.Version).IsConcurrencyToken();
        }
    }
}

/// <summary>One thing in an area that people get access to.</summary>
public sealed class ResourceRow : IAccessRow
{
    public required Guid WorkspaceId { get; init; }
    public required Guid Id { get; init; }
    public required Guid AreaId { get; set; }
    public required string Name { get; set; }
    public required string NameKey { get; set; }
    public string About { get; set; } = "";
    public Guid? OwnerId { get; set; }
    public int Version { get; set; } = 1;

    public AccessSubject Subject => AccessSubject.Model;
    public Resource Resource => new(Id, AreaId, Name, OwnerId);

    private sealed class Mapping : IEntityTypeConfiguration<ResourceRow>
    {
        public void Configure(EntityTypeBuilder<ResourceRow> row)
        {
            row.ToTable("resources").HasKey(r => new { r.WorkspaceId, r.Id });
            row.Ignore(r => r.Subject).Ignore(r => r.Resource);
            row.HasIndex(r => new { r.WorkspaceId, r.NameKey }).IsUnique();
            row.HasIndex(r => new { r.WorkspaceId, r.OwnerId })
                .HasDatabaseName("ix_resources_owner")
                .HasFilter("owner_id IS NOT NULL");
            row.Property(r => r.Version).IsConcurrencyToken();
        }
    }
}

/// <summary>A member or an organisation that is switched off for a resource.</summary>
public sealed class SwitchedOffRow : IAccessRow
{
    public required Guid WorkspaceId { get; init; }
    public required Guid HolderId { get; init; }
    public required Guid ResourceId { get; init; }
    public required bool IsOrganisation { get; init; }
    public required DateTimeOffset At { get; init; }
    public required string ByName { get; init; }

    public AccessSubject Subject => AccessSubject.Model;

    private sealed class Mapping : IEntityTypeConfiguration<SwitchedOffRow>
    {
        public void Configure(EntityTypeBuilder<SwitchedOffRow> row)
        {
            row.ToTable("switched_off")
                .HasKey(s => new
                {
                    s.WorkspaceId,
                    s.HolderId,
                    s.ResourceId,
                });
            row.Ignore(s => s.Subject);
            row.HasIndex(s => new { s.WorkspaceId, s.ResourceId });
        }
    }
}

/// <summary>A named set of members.</summary>
public sealed class GroupRow : IAccessRow
{
    public required Guid WorkspaceId { get; init; }
    public required Guid Id { get; init; }
    public required string Name { get; set; }
    public required string NameKey { get; set; }
    public string About { get; set; } = "";
    public int Version { get; set; } = 1;

    public AccessSubject Subject => new(AccessSubjectKind.Group, Id);

    private sealed class Mapping : IEntityTypeConfiguration<GroupRow>
    {
        public void Configure(EntityTypeBuilder<GroupRow> row)
        {
            row.ToTable("groups").HasKey(g => new { g.WorkspaceId, g.Id });
            row.Ignore(g => g.Subject);
            row.HasIndex(g => new { g.WorkspaceId, g.NameKey }).IsUnique();
            row.Property(g => g.Version).IsConcurrencyToken();
        }
    }
}

/// <summary>A member in a group.</summary>
public sealed class GroupMemberRow : IAccessRow
{
    public required Guid WorkspaceId { get; init; }
    public required Guid GroupId { get; init; }
    public required Guid MemberId { get; init; }
    public required DateTimeOffset Since { get; init; }

    public AccessSubject Subject => AccessSubject.Member(MemberId);

    private sealed class Mapping : IEntityTypeConfiguration<GroupMemberRow>
    {
        public void Configure(EntityTypeBuilder<GroupMemberRow> row)
        {
            row.ToTable("group_members")
                .HasKey(g => new
                {
                    g.WorkspaceId,
                    g.GroupId,
                    g.MemberId,
                });
            row.Ignore(g => g.Subject);
            row.HasIndex(g => new { g.WorkspaceId, g.MemberId });
        }
    }
}

/// <summary>A firm or body that outsiders belong to.</summary>
public sealed class OrganisationRow : IAccessRow
{
    public required Guid WorkspaceId { get; init; }
    public required Guid Id { get; init; }
    public required string Name { get; set; }
    public required string NameKey { get; set; }
    public required Kind Kind { get; set; }
    public string Colour { get; set; } = "";
    public string Code { get; set; } = "";
    public string Reference { get; set; } = "";

    /// <summary>Its mail domains, one a line.</summary>
    public string Domains { get; set; } = "";
    public DateOnly? AgreementEnds { get; set; }
    public int? Cap { get; set; }
    public int Version { get; set; } = 1;

    public AccessSubject Subject => new(AccessSubjectKind.Organisation, Id);
    public IReadOnlyList<string> DomainList => Domains.Split('\n', StringSplitOptions.RemoveEmptyEntries);

    private sealed class Mapping : IEntityTypeConfiguration<OrganisationRow>
    {
        public void Configure(EntityTypeBuilder<OrganisationRow> row)
        {
            row.ToTable("organisations").HasKey(o => new { o.WorkspaceId, o.Id });
            row.Ignore(o => o.Subject).Ignore(o => o.DomainList);
            row.HasIndex(o => new { o.WorkspaceId, o.NameKey }).IsUnique();
            row.Property(o => o.Version).IsConcurrencyToken();
            row.Property(o => o.Colour).HasMaxLength(7);
            row.Property(o => o.Code).HasMaxLength(8);
        }
    }
}

/// <summary>Somebody to turn to in an organisation; not a member.</summary>
public sealed class ContactRow : ITenantRow
{
    public required Guid WorkspaceId { get; init; }
    public required Guid Id { get; init; }
    public required Guid OrganisationId { get; init; }
    public required string Name { get; init; }
    public required string Address { get; init; }
    public string Title { get; init; } = "";
    public string SearchText { get; init; } = "";

    private sealed class Mapping : IEntityTypeConfiguration<ContactRow>
    {
        public void Configure(EntityTypeBuilder<ContactRow> row)
        {
            row.ToTable("contacts").HasKey(c => new { c.WorkspaceId, c.Id });
            row.HasIndex(c => new { c.WorkspaceId, c.OrganisationId });
            row.Property(c => c.Name).HasMaxLength(PlainText.LongestName);
            row.Property(c => c.Address).HasMaxLength(400);
        }
    }
}

/// <summary>One change of who may do what, for the picture of it that other processes keep.</summary>
public sealed class AccessChangeRow : ITenantRow
{
    public required Guid WorkspaceId { get; init; }
    public required long Version { get; init; }
    public required AccessSubjectKind Kind { get; init; }
    public required Guid SubjectId { get; init; }

    private sealed class Mapping : IEntityTypeConfiguration<AccessChangeRow>
    {
        public void Configure(EntityTypeBuilder<AccessChangeRow> row) =>
            row.ToTable("access_changes")
                .HasKey(c => new
                {
                    c.WorkspaceId,
                    c.Version,
                    c.Kind,
                    c.SubjectId,
                });
    }
}
