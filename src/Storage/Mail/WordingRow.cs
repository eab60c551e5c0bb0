using Microsoft.EntityFrameworkCore;
using Microsoft.EntityFrameworkCore.Metadata.Builders;

namespace ComeAboard.Storage.Mail;

/// <summary>A workspace's own wording of a mail in a language.</summary>
public sealed class WordingRow : ITenantRow
{
    public required Guid WorkspaceId { get; init; }
    public required string Letter { get; init; }
    public required string Language { get; init; }
    public required string Subject { get; set; }
    public required string Body { get; set; }

    private sealed class Mapping : IEntityTypeConfiguration<WordingRow>
    {
        public void Configure(EntityTypeBuilder<WordingRow> row)
        {
            row.ToTable("wordings")
                .HasKey(w => new
                {
                    w.WorkspaceId,
                    w.Letter,
                    w.Language,
                });
            row.Property(w => w.Letter).HasMaxLength(20);
            row.Property(w => w.Language).HasMaxLength(20);
        }
    }
}
