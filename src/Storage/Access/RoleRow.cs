using System.Collections.Immutable;
using System.Text.Json;
using ComeAboard.Core.Access;
using Microsoft.EntityFrameworkCore;
using Microsoft.EntityFrameworkCore.Metadata.Builders;

namespace ComeAboard.Storage.Access;

/// <summary>A workspace's own role.</summary>
public sealed class RoleRow : IAccessRow, INamedRow
{
    public Guid WorkspaceId { get; init; }
    public Guid Id { get; init; }
    public string Name { get; set; } = "";
    public string NameKey { get; set; } = "";
    public string Sentence { get; set; } = "";
    public Level Everywhere { get; set; }
    public Duties Duties { get; set; }

    /// <summary>Levels by the area's id, as JSON.</summary>
    public string Areas { get; set; } = "";
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
