using System.Text.Json;
using ComeAboard.Core.Access;
using Microsoft.EntityFrameworkCore;
using Microsoft.EntityFrameworkCore.Metadata.Builders;

namespace ComeAboard.Storage.Access;

/// <summary>A part of the workspace's work.</summary>
public sealed class AreaRow : IAccessRow, INamedRow
{
    public Guid WorkspaceId { get; init; }
    public Guid Id { get; init; }
    public string Name { get; set; } = "";
    public string NameKey { get; set; } = "";
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
