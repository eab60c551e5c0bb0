using Microsoft.EntityFrameworkCore;
using Microsoft.EntityFrameworkCore.Metadata.Builders;

namespace ComeAboard.Storage.Invitations;

/// <summary>An address whose owner asked not to be invited, kept as a hash and honoured in every workspace.</summary>
public sealed class OptOutRow
{
    public required string AddressHash { get; init; }
    public required DateTimeOffset At { get; init; }

    private sealed class Mapping : IEntityTypeConfiguration<OptOutRow>
    {
        public void Configure(EntityTypeBuilder<OptOutRow> row) =>
            row.ToTable("opt_outs").HasKey(o => o.AddressHash);
    }
}
