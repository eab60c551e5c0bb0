using ComeAboard.Core.Record;
using Microsoft.EntityFrameworkCore;
using Microsoft.EntityFrameworkCore.Metadata.Builders;

namespace ComeAboard.Storage.Accounts;

/// <summary>One entry of an account's own history: chained as a workspace's record is, and shown to its holder.</summary>
public sealed class HistoryRow
{
    public required Guid AccountId { get; init; }
    public required long Sequence { get; init; }
    public required DateTimeOffset At { get; init; }
    public required string Actor { get; init; }
    public required string Via { get; init; }
    public required string Action { get; init; }
    public required string Subject { get; init; }
    public required string? Details { get; init; }
    public required string DetailsDigest { get; init; }
    public required string DetailsSalt { get; init; }
    public required string PreviousHash { get; init; }
    public required string Hash { get; init; }

    public static HistoryRow Of(Guid account, RecordEntry entry) =>
        new()
        {
            AccountId = account,
            Sequence = entry.Sequence,
            At = entry.At,
            Actor = entry.Actor,
            Via = entry.Via,
            Action = entry.Action,
            Subject = entry.Subject,
            Details = entry.Details,
            DetailsDigest = entry.DetailsDigest,
            DetailsSalt = entry.DetailsSalt,
            PreviousHash = entry.PreviousHash,
            Hash = entry.Hash,
        };

    public RecordEntry ToEntry() =>
        new(
            Sequence,
            At,
            Actor,
            Via,
            Action,
            Subject,
            Details,
            DetailsDigest,
            DetailsSalt,
            PreviousHash,
            Hash
        );

    private sealed class Mapping : IEntityTypeConfiguration<HistoryRow>
    {
        public void Configure(EntityTypeBuilder<HistoryRow> row)
        {
            row.ToTable("account_history").HasKey(h => new { h.AccountId, h.Sequence });
            row.HasOne<AccountRow>().WithMany().HasForeignKey(h => h.AccountId);
        }
    }
}
