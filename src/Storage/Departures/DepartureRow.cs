using Microsoft.EntityFrameworkCore;
using Microsoft.EntityFrameworkCore.Metadata.Builders;

namespace ComeAboard.Storage.Departures;

/// <summary>How far a departure has come.</summary>
public enum DepartureState
{
    /// <summary>Its day has not come.</summary>
    Planned,

    /// <summary>Access here has ended, and a connected system has not confirmed as yet.</summary>
    Running,

    /// <summary>Access has ended, here and wherever it was carried out.</summary>
    Done,

    /// <summary>Replaced by another plan before its day.</summary>
    Undone,
}

/// <summary>The ending of one member's access.</summary>
public sealed class DepartureRow : IListedRow
{
    public required Guid WorkspaceId { get; init; }
    public required Guid Id { get; init; }
    public required Guid MemberId { get; init; }
    public required string MemberName { get; set; }
    public required string MemberAddress { get; set; }
    public required DepartureState State { get; set; }
    public required DateOnly? LastDay { get; init; }

    /// <summary>Until when they were to stay before an end was planned; null for no end.</summary>
    public DateOnly? AgreedDay { get; set; }

    /// <summary>Whether that is known, so that a planned end can be moved and taken back.</summary>
    public bool KnowsAgreed { get; set; }
    public required string RequestedBy { get; init; }
    public required string RequestedByName { get; init; }
    public required DateTimeOffset RequestedAt { get; init; }

    /// <summary>When access here ended.</summary>
    public DateTimeOffset? DoneAt { get; set; }

    /// <summary>When everything was confirmed.</summary>
    public DateTimeOffset? ConfirmedAt { get; set; }

    /// <summary>Who takes over what the leaver was answerable for, where that was said.</summary>
    public Guid? HeirId { get; set; }

    /// <summary>The signed receipt; empty while there is none.</summary>
    public string Receipt { get; set; } = "";

    /// <summary>What ending it came to, step by step, as JSON: as planned until it is done, then as done.</summary>
    public string Steps { get; set; } = "[]";

    private sealed class Mapping : IEntityTypeConfiguration<DepartureRow>
    {
        public void Configure(EntityTypeBuilder<DepartureRow> row)
        {
            row.ToTable("departures").HasKey(d => new { d.WorkspaceId, d.Id });
            row.HasIndex(d => new
            {
                d.WorkspaceId,
                d.MemberId,
                d.State,
            });
            row.HasIndex(d => new { d.WorkspaceId, d.Id })
                .HasDatabaseName("ix_departures_running")
                .HasFilter("state = 'running'");
        }
    }
}
