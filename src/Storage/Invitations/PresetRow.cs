using ComeAboard.Core.Access;
using ComeAboard.Storage.Access;
using Microsoft.EntityFrameworkCore;
using Microsoft.EntityFrameworkCore.Metadata.Builders;

namespace ComeAboard.Storage.Invitations;

/// <summary>What invitations carry again and again, under a name.</summary>
public sealed class PresetRow : INamedRow
{
    public Guid WorkspaceId { get; init; }
    public Guid Id { get; init; }
    public string Name { get; set; } = "";
    public string NameKey { get; set; } = "";
    public Kind Kind { get; set; }
    public string Gives { get; set; } = "";
    public int? StayDays { get; set; }
    public string Organisation { get; set; } = "";
    public string Message { get; set; } = "";
    public string? Language { get; set; }
    public int Version { get; set; } = 1;

    public Bundle Bundle => BundleText.Of(Gives);

    private sealed class Mapping : IEntityTypeConfiguration<PresetRow>
    {
        public void Configure(EntityTypeBuilder<PresetRow> row)
        {
            row.ToTable("presets").HasKey(p => new { p.WorkspaceId, p.Id });
            row.Ignore(p => p.Bundle);
            row.HasIndex(p => new { p.WorkspaceId, p.NameKey }).IsUnique();
            row.Property(p => p.Version).IsConcurrencyToken();
        }
    }
}
