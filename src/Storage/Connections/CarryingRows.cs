using ComeAboard.Core.Access;
using ComeAboard.Core.Connections;
using Microsoft.EntityFrameworkCore;
using Microsoft.EntityFrameworkCore.Metadata.Builders;

namespace ComeAboard.Storage.Connections;

/// <summary>A line of the mapping of a connection.</summary>
public sealed class MappingRow : ITenantRow
{
    public required Guid WorkspaceId { get; init; }
    public required Guid ConnectionId { get; init; }
    public required Guid Id { get; init; }
    public required MappedSubject Of { get; init; }
    public required Guid SubjectId { get; init; }
    public required Level Least { get; init; }

    /// <summary>The group there; empty for an account and nothing more.</summary>
    public required string GroupThere { get; init; }

    public MappingLine Line => new(Id, Of, SubjectId, Least, GroupThere);

    private sealed class Mapping : IEntityTypeConfiguration<MappingRow>
    {
        public void Configure(EntityTypeBuilder<MappingRow> row)
        {
            row.ToTable("connection_mapping")
                .HasKey(m => new
                {
                    m.WorkspaceId,
                    m.ConnectionId,
                    m.Id,
                });
            row.Ignore(m => m.Line);
            row.HasIndex(m => new
                {
                    m.WorkspaceId,
                    m.ConnectionId,
                    m.Of,
                    m.SubjectId,
                    m.Least,
                    m.GroupThere,
                })
                .HasDatabaseName("ix_connection_mapping_once")
                .IsUnique();
            row.Property(m => m.GroupThere).HasMaxLength(MappingLine.LongestGroup);
        }
    }
}

/// <summary>Whether a lane has something to do.</summary>
public enum LaneState
{
    /// <summary>Nothing is due.</summary>
    Resting,

    /// <summary>Something is due, now or at a later try.</summary>
    Working,
}

/// <summary>
/// The lane towards one connected system: what is carried out there goes through it, in order, by one process at a time. Its id
/// is the connection's.
/// </summary>
public sealed class LaneRow : ILeasedRow
{
    public required Guid WorkspaceId { get; init; }
    public required Guid Id { get; init; }
    public required LaneState State { get; set; }

    /// <summary>Before which instant nothing is tried: a system that is away or asked to be left alone.</summary>
    public DateTimeOffset? NotBefore { get; set; }

    /// <summary>How many times in a row the system itself could not be used.</summary>
    public int Failures { get; set; }

    /// <summary>Why, in words; empty while it answers.</summary>
    public string Answer { get; set; } = "";

    /// <summary>Since when it does not answer.</summary>
    public DateTimeOffset? DownSince { get; set; }

    /// <summary>When something was confirmed there last.</summary>
    public DateTimeOffset? ConfirmedAt { get; set; }

    /// <summary>Whether somebody has told it to wait.</summary>
    public bool IsHeld { get; set; }

    /// <summary>When it is looked at next whether it really holds that; null for a system that cannot be asked.</summary>
    public DateTimeOffset? SweepAt { get; set; }

    /// <summary>When that was looked at last.</summary>
    public DateTimeOffset? SweptAt { get; set; }

    /// <summary>Why the last look came to nothing; empty where it came to its end.</summary>
    public string SweepAnswer { get; set; } = "";

    /// <summary>When what it ought to hold is to be worked out again.</summary>
    public DateTimeOffset? CompareAt { get; set; }

    /// <summary>The version of who may do what that it was worked out from last; what has changed since is looked at alone.</summary>
    public long ComparedVersion { get; set; }

    /// <summary>For which day; null where everybody is to be looked at again.</summary>
    public DateOnly? ComparedOn { get; set; }
    public Guid? Lease { get; set; }
    public DateTimeOffset? LeasedUntil { get; set; }
    public DateTimeOffset? StartedAt { get; set; }
    public int Position { get; set; }
    public int DoneAtStart { get; set; }
    public int Tries { get; set; }

    private sealed class Mapping : IEntityTypeConfiguration<LaneRow>
    {
        public void Configure(EntityTypeBuilder<LaneRow> row)
        {
            row.ToTable("lanes").HasKey(l => new { l.WorkspaceId, l.Id });
            row.HasIndex(l => l.State).HasDatabaseName("ix_lanes_working").HasFilter("state = 'working'");
            row.HasIndex(l => l.SweepAt).HasDatabaseName("ix_lanes_sweep").HasFilter("sweep_at IS NOT NULL");
            row.HasIndex(l => l.CompareAt)
                .HasDatabaseName("ix_lanes_compare")
                .HasFilter("compare_at IS NOT NULL");
        }
    }
}

/// <summary>How far what is wanted of an account there has come.</summary>
public enum ThereState
{
    /// <summary>It is to be carried out, or to be tried again.</summary>
    Due,

    /// <summary>It was read back as it is wanted.</summary>
    Confirmed,

    /// <summary>Somebody said that it is so.</summary>
    ByHand,

    /// <summary>The system took it that it is to be so; it cannot be asked whether it is.</summary>
    Told,
}

/// <summary>The account of a member in a connected system: what it is to be, what it was when it was last read, what is due.</summary>
public sealed class AccountThereRow : ITenantRow
{
    public required Guid WorkspaceId { get; init; }
    public required Guid ConnectionId { get; init; }
    public required Guid MemberId { get; init; }

    /// <summary>By what the system tells it apart; empty while that is not known.</summary>
    public string TheirKey { get; set; } = "";

    /// <summary>Whether we made it there.</summary>
    public bool IsOurs { get; set; }
    public required AccountThere Wanted { get; set; }

    /// <summary>The groups there that it is to be in, one a line, in order.</summary>
    public required string WantedGroups { get; set; }

    /// <summary>The last day of it, inclusive; null for none.</summary>
    public DateOnly? WantedLastDay { get; set; }

    /// <summary>How its owner is written there.</summary>
    public required string Address { get; set; }
    public required string Name { get; set; }

    /// <summary>What it was when it was last read; null while it was never.</summary>
    public AccountThere? Held { get; set; }

    /// <summary>The groups of ours that it was in then, one a line.</summary>
    public string HeldGroups { get; set; } = "";
    public required ThereState State { get; set; }

    /// <summary>0 where something is closed, 1 where something is opened: the former goes first.</summary>
    public required int Urgency { get; set; }

    /// <summary>When it is tried next; null when nothing is due.</summary>
    public DateTimeOffset? DueAt { get; set; }

    /// <summary>Since when what is due is due.</summary>
    public DateTimeOffset? DueSince { get; set; }
    public int Tries { get; set; }

    /// <summary>What the last try came to, in words.</summary>
    public string Answer { get; set; } = "";
    public DateTimeOffset? ConfirmedAt { get; set; }

    /// <summary>Who said by hand that it is so, and why.</summary>
    public string ByHandName { get; set; } = "";

    /// <summary>The name of the file beside that, and the digest of what is in it; empty for none.</summary>
    public string ByHandFile { get; set; } = "";
    public string ByHandDigest { get; set; } = "";
    public string ByHandReason { get; set; } = "";

    /// <summary>The departure it is closed by.</summary>
    public Guid? DepartureId { get; set; }

    /// <summary>Grows with what is wanted, so that what was carried out for an earlier wish confirms no later one.</summary>
    public int Version { get; set; } = 1;

    private sealed class Mapping : IEntityTypeConfiguration<AccountThereRow>
    {
        public void Configure(EntityTypeBuilder<AccountThereRow> row)
        {
            row.ToTable("accounts_there")
                .HasKey(a => new
                {
                    a.WorkspaceId,
                    a.ConnectionId,
                    a.MemberId,
                });
            row.HasIndex(a => new
                {
                    a.WorkspaceId,
                    a.ConnectionId,
                    a.Urgency,
                    a.DueAt,
                })
                .HasDatabaseName("ix_accounts_there_due")
                .HasFilter("due_at IS NOT NULL");
            row.HasIndex(a => new { a.WorkspaceId, a.MemberId }).HasDatabaseName("ix_accounts_there_member");
            row.HasIndex(a => new { a.WorkspaceId, a.DepartureId })
                .HasDatabaseName("ix_accounts_there_departure")
                .HasFilter("departure_id IS NOT NULL");
            row.Property(a => a.Version).IsConcurrencyToken();
        }
    }
}
