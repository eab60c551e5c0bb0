using Microsoft.EntityFrameworkCore;
using Microsoft.EntityFrameworkCore.Metadata.Builders;

namespace ComeAboard.Storage.SignIn;

/// <summary>A passkey that is being made or shown: what the browser was asked, to be answered once and soon.</summary>
public sealed class CeremonyRow
{
    public required Guid Id { get; init; }

    /// <summary>The account a passkey is made for; the empty id when one is shown to sign in.</summary>
    public required Guid AccountId { get; init; }
    public required string State { get; init; }
    public required DateTimeOffset ExpiresAt { get; init; }

    private sealed class Mapping : IEntityTypeConfiguration<CeremonyRow>
    {
        public void Configure(EntityTypeBuilder<CeremonyRow> row) =>
            row.ToTable("ceremonies").HasKey(c => c.Id);
    }
}
