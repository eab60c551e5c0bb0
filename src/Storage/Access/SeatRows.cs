using ComeAboard.Core.Access;
using Microsoft.EntityFrameworkCore;
using Microsoft.EntityFrameworkCore.Metadata.Builders;

namespace ComeAboard.Storage.Access;

/// <summary>A seat pool and its account.</summary>
public sealed class SeatPoolRow : IAccessRow, INamedRow
{
    public Guid WorkspaceId { get; init; }
    public Guid Id { get; init; }
    public string Name { get; set; } = "";
    public string NameKey { get; set; } = "";
    public string About { get; set; } = "";
    public int Total { get; set; }
    public int Held { get; set; }
    public int Reserved { get; set; }
    public int EverHeld { get; set; }
    public int ReservedChanges { get; set; }
    public int? ChangesPerSeat { get; set; }
    public int Year { get; set; }
    public int ChangesUsed { get; set; }
    public int Version { get; set; } = 1;

    public AccessSubject Subject => AccessSubject.Model;

    /// <summary>The account in the year of a day.</summary>
    public SeatAccount AccountOn(DateOnly day) => Account.In(day.Year);

    public SeatAccount Account
    {
        get => new(Total, Held, Reserved, EverHeld, ReservedChanges, ChangesPerSeat, Year, ChangesUsed);
        set =>
            (Total, Held, Reserved, EverHeld, ReservedChanges, ChangesPerSeat, Year, ChangesUsed) = (
                value.Total,
                value.Held,
                value.Reserved,
                value.EverHeld,
                value.ReservedChanges,
                value.ChangesPerSeat,
                value.Year,
                value.ChangesUsed
            );
    }

    private sealed class Mapping : IEntityTypeConfiguration<SeatPoolRow>
    {
        public void Configure(EntityTypeBuilder<SeatPoolRow> row)
        {
            row.ToTable("seat_pools").HasKey(p => new { p.WorkspaceId, p.Id });
            row.Ignore(p => p.Subject).Ignore(p => p.Account);
            row.HasIndex(p => new { p.WorkspaceId, p.NameKey }).IsUnique();
            row.Property(p => p.Version).IsConcurrencyToken();
        }
    }
}

/// <summary>A seat somebody holds.</summary>
public sealed class SeatRow : ITenantRow
{
    public required Guid WorkspaceId { get; init; }
    public required Guid PoolId { get; init; }
    public required Guid MemberId { get; init; }
    public required DateTimeOffset Since { get; init; }

    /// <summary>Whether it is held because the workspace holds its holder's account, and goes when custody ends.</summary>
    public bool ForCustody { get; init; }

    private sealed class Mapping : IEntityTypeConfiguration<SeatRow>
    {
        public void Configure(EntityTypeBuilder<SeatRow> row)
        {
            row.ToTable("seats")
                .HasKey(s => new
                {
                    s.WorkspaceId,
                    s.PoolId,
                    s.MemberId,
                });
            row.HasIndex(s => new { s.WorkspaceId, s.MemberId });
        }
    }
}

/// <summary>A seat that a pending invitation has reserved.</summary>
public sealed class SeatReservationRow : ITenantRow
{
    public required Guid WorkspaceId { get; init; }
    public required Guid InvitationId { get; init; }
    public required Guid PoolId { get; init; }

    /// <summary>Whether giving it will be one of the year's changes.</summary>
    public required bool IsChange { get; init; }

    private sealed class Mapping : IEntityTypeConfiguration<SeatReservationRow>
    {
        public void Configure(EntityTypeBuilder<SeatReservationRow> row)
        {
            row.ToTable("seat_reservations")
                .HasKey(r => new
                {
                    r.WorkspaceId,
                    r.InvitationId,
                    r.PoolId,
                });
            row.HasIndex(r => new { r.WorkspaceId, r.PoolId });
        }
    }
}
