using ComeAboard.Core.Access;
using ComeAboard.Core.Workspaces;
using ComeAboard.Storage.Access;
using ComeAboard.Storage.Invitations;
using Microsoft.EntityFrameworkCore;
using Microsoft.EntityFrameworkCore.Metadata.Builders;

namespace ComeAboard.Storage.Accounts;

/// <summary>An account in a workspace, in one capacity, from joining to ending.</summary>
public sealed class MemberRow : IAccessRow, IVersionedRow, IListedRow
{
    public required Guid WorkspaceId { get; init; }
    public required Guid Id { get; init; }
    public required Guid AccountId { get; set; }
    public required string Address { get; set; }
    public required string AddressKey { get; set; }
    public required string Name { get; set; }
    public required Kind Kind { get; set; }
    public DateOnly? FirstDay { get; set; }
    public required DateOnly? LastDay { get; set; }
    public string Organisation { get; set; } = "";

    /// <summary>The organisation the workspace knows; null when there is only its name.</summary>
    public Guid? OrganisationId { get; set; }

    /// <summary>Whether they may invite colleagues of their organisation.</summary>
    public bool Leads { get; set; }
    public string Title { get; set; } = "";
    public string Department { get; set; } = "";
    public string Manager { get; set; } = "";
    public string Country { get; set; } = "";
    public string Note { get; set; } = "";
    public Guid? HostId { get; set; }
    public string HostName { get; set; } = "";
    public DateTimeOffset? PausedAt { get; set; }

    /// <summary>When they were last here, give or take a few minutes.</summary>
    public DateTimeOffset? LastSeenAt { get; set; }
    public Guid? LinkId { get; init; }
    public required DateTimeOffset JoinedAt { get; init; }
    public DateTimeOffset? EndedAt { get; set; }

    /// <summary>When what tells who they were was taken away; null for never.</summary>
    public DateTimeOffset? ErasedAt { get; set; }

    /// <summary>The member they were made one with; null for none. What is given to them rests meanwhile.</summary>
    public Guid? MergedIntoId { get; set; }
    public Guid? InvitationId { get; init; }
    public string? InvitedByName { get; init; }

    /// <summary>The address that was invited, where they came with another and did not prove that one; empty otherwise.</summary>
    public string InvitedAs { get; set; } = "";

    /// <summary>On whose word they came with another address: whoever handed the link over.</summary>
    public string VouchedByName { get; init; } = "";
    public int Version { get; set; } = 1;
    public string SearchText { get; private set; } = "";

    public Stay Stay => new(LastDay, FirstDay);
    public AccessSubject Subject => AccessSubject.Member(Id);

    /// <summary>Whether the stay has begun and is not over.</summary>
    public bool IsActive(DateTimeOffset now, TimeZoneInfo zone) =>
        IsHere(now, zone) && Stay.IsBegun(now, zone);

    /// <summary>Whether the stay is not over; it may still be to come.</summary>
    public bool IsHere(DateTimeOffset now, TimeZoneInfo zone) => EndedAt is null && !Stay.IsOver(now, zone);

    public MemberRow WithSearchText()
    {
        SearchText = InvitationRow.SearchTextOf(Name, Address, Organisation);
        return this;
    }

    private sealed class Mapping : IEntityTypeConfiguration<MemberRow>
    {
        public void Configure(EntityTypeBuilder<MemberRow> row)
        {
            row.ToTable("members").HasKey(m => new { m.WorkspaceId, m.Id });
            row.Ignore(m => m.Stay).Ignore(m => m.Subject);
            row.HasIndex(m => new { m.WorkspaceId, m.AccountId })
                .HasDatabaseName("ix_members_one_capacity_per_account")
                .IsUnique()
                .HasFilter("ended_at IS NULL");
            row.HasIndex(m => new { m.WorkspaceId, m.AddressKey });
            row.HasIndex(m => m.AccountId);
            row.HasIndex(m => new { m.WorkspaceId, m.LinkId })
                .HasDatabaseName("ix_members_link")
                .HasFilter("link_id IS NOT NULL");
            row.HasIndex(m => new { m.WorkspaceId, m.MergedIntoId })
                .HasDatabaseName("ix_members_merged")
                .HasFilter("merged_into_id IS NOT NULL");
            row.HasIndex(m => m.LastDay).HasDatabaseName("ix_members_ending").HasFilter("ended_at IS NULL");
            row.Property(m => m.Version).IsConcurrencyToken();
            row.HasIndex(m => new { m.WorkspaceId, m.OrganisationId })
                .HasDatabaseName("ix_members_organisation")
                .HasFilter("organisation_id IS NOT NULL");
            row.Property(m => m.AddressKey).HasMaxLength(400);
        }
    }
}
