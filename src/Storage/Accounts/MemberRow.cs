using ComeAboard.Core.Access;
using ComeAboard.Core.Departures;
using ComeAboard.Core.Workspaces;
using ComeAboard.Storage.Invitations;
using Microsoft.EntityFrameworkCore;
using Microsoft.EntityFrameworkCore.Metadata.Builders;

namespace ComeAboard.Storage.Accounts;

/// <summary>An account in a workspace, in one capacity, from joining to ending.</summary>
public sealed class MemberRow : ITenantRow
{
    public required Guid WorkspaceId { get; init; }
    public required Guid Id { get; init; }
    public required Guid AccountId { get; init; }
    public required string Address { get; init; }
    public required string AddressKey { get; init; }
    public required string Name { get; init; }
    public required Kind Kind { get; init; }
    public required string Role { get; init; }
    public DateOnly? FirstDay { get; init; }
    public required DateOnly? LastDay { get; set; }
    public string Organisation { get; init; } = "";
    public string Title { get; init; } = "";
    public string Department { get; init; } = "";
    public string Manager { get; init; } = "";
    public string Country { get; init; } = "";
    public string Note { get; init; } = "";
    public Guid? HostId { get; init; }
    public string HostName { get; init; } = "";
    public Guid? LinkId { get; init; }
    public required DateTimeOffset JoinedAt { get; init; }
    public DateTimeOffset? EndedAt { get; set; }
    public Guid? InvitationId { get; init; }
    public string? InvitedByName { get; init; }
    public int Version { get; set; } = 1;
    public string SearchText { get; private set; } = "";

    public Stay Stay => new(LastDay, FirstDay);
    public Role CoreRole => Core.Access.Role.Read(Role).Value;
    public bool IsLastingAdministrator =>
        EndedAt is null && AdministratorRule.IsLasting(Kind, CoreRole, Stay);

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
            row.Ignore(m => m.Stay).Ignore(m => m.CoreRole).Ignore(m => m.IsLastingAdministrator);
            row.HasIndex(m => new { m.WorkspaceId, m.AccountId })
                .HasDatabaseName("ix_members_one_capacity_per_account")
                .IsUnique()
                .HasFilter("ended_at IS NULL");
            row.HasIndex(m => new { m.WorkspaceId, m.AddressKey });
            row.HasIndex(m => m.AccountId);
            row.HasIndex(m => new { m.WorkspaceId, m.LinkId })
                .HasDatabaseName("ix_members_link")
                .HasFilter("link_id IS NOT NULL");
            row.HasIndex(m => m.LastDay).HasDatabaseName("ix_members_ending").HasFilter("ended_at IS NULL");
            row.Property(m => m.Version).IsConcurrencyToken();
            row.Property(m => m.Role).HasMaxLength(40);
            row.Property(m => m.AddressKey).HasMaxLength(400);
        }
    }
}
