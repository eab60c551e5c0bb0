using Microsoft.EntityFrameworkCore;
using Microsoft.EntityFrameworkCore.Metadata.Builders;

namespace ComeAboard.Storage.Connections;

/// <summary>What is being done with a connection.</summary>
public enum ConnectionState
{
    /// <summary>Nothing; what was read is there to be looked at.</summary>
    Resting,

    /// <summary>It is being read.</summary>
    Reading,

    /// <summary>What was confirmed is being done.</summary>
    Doing,
}

/// <summary>An outside system that people are read from.</summary>
public sealed class ConnectionRow : ILeasedRow, IVersionedRow
{
    public required Guid WorkspaceId { get; init; }
    public required Guid Id { get; init; }
    public required string Name { get; set; }
    public required string NameKey { get; set; }

    /// <summary>file, ldap or scim.</summary>
    public required string Type { get; init; }

    /// <summary>Where it is: its address, or the name of the file; empty where none was handed in as yet.</summary>
    public string Place { get; set; } = "";

    /// <summary>How it is read, as JSON.</summary>
    public required string Settings { get; set; }

    /// <summary>The secret it is asked with, sealed; empty for none.</summary>
    public string Secret { get; set; } = "";

    /// <summary>invite, add or nothing: what becomes of those who are new.</summary>
    public required string Newcomers { get; set; }

    /// <summary>What they get, as JSON.</summary>
    public required string Defaults { get; set; }

    /// <summary>Whose value of each field wins, as JSON.</summary>
    public required string Wins { get; set; }

    /// <summary>How many of a hundred may be gone at once.</summary>
    public required int Floor { get; set; }

    /// <summary>After how many hours it is read again; 0 for by hand only.</summary>
    public int EveryHours { get; set; }
    public DateTimeOffset? NextReadAt { get; set; }
    public required ConnectionState State { get; set; }

    /// <summary>Whether the reading that is under way is believed however few are left.</summary>
    public bool IsBelieved { get; set; }

    public DateTimeOffset? LastReadAt { get; set; }

    /// <summary>Why the last reading or doing came to nothing, as JSON; null where it came to its end.</summary>
    public string? Fault { get; set; }

    /// <summary>How many records have which verdict and state, as JSON.</summary>
    public string Counts { get; set; } = "{}";

    /// <summary>Whoever asked for what is being done; null for the schedule.</summary>
    public Guid? AskedById { get; set; }
    public string AskedByName { get; set; } = "";
    public required DateTimeOffset AddedAt { get; init; }
    public required string AddedByName { get; init; }
    public int Position { get; set; }

    /// <summary>How many there are to do, as far as is known.</summary>
    public int Total { get; set; }

    /// <summary>The number of the record that was done last.</summary>
    public int DoneTo { get; set; }
    public Guid? Lease { get; set; }
    public DateTimeOffset? LeasedUntil { get; set; }
    public DateTimeOffset? StartedAt { get; set; }
    public int DoneAtStart { get; set; }
    public int Tries { get; set; }
    public int Version { get; set; } = 1;

    private sealed class Mapping : IEntityTypeConfiguration<ConnectionRow>
    {
        public void Configure(EntityTypeBuilder<ConnectionRow> row)
        {
            row.ToTable("connections").HasKey(c => new { c.WorkspaceId, c.Id });
            row.HasIndex(c => new { c.WorkspaceId, c.NameKey }).IsUnique();
            row.HasIndex(c => c.State)
                .HasDatabaseName("ix_connections_working")
                .HasFilter("state IN ('reading', 'doing')");
            row.HasIndex(c => c.NextReadAt)
                .HasDatabaseName("ix_connections_due")
                .HasFilter("next_read_at IS NOT NULL");
            row.Property(c => c.Name).HasMaxLength(100);
            row.Property(c => c.NameKey).HasMaxLength(100);
            row.Property(c => c.Type).HasMaxLength(8);
            row.Property(c => c.Newcomers).HasMaxLength(8);
            row.Property(c => c.Version).IsConcurrencyToken();
        }
    }
}

/// <summary>What was handed in for a connection that is a file.</summary>
public sealed class ConnectionContentRow : ITenantRow
{
    public required Guid WorkspaceId { get; init; }
    public required Guid ConnectionId { get; init; }
    public required byte[] Content { get; set; }

    private sealed class Mapping : IEntityTypeConfiguration<ConnectionContentRow>
    {
        public void Configure(EntityTypeBuilder<ConnectionContentRow> row) =>
            row.ToTable("connection_contents").HasKey(c => new { c.WorkspaceId, c.ConnectionId });
    }
}
