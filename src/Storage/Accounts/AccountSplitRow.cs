using ComeAboard.Core.Accounts;
using Microsoft.EntityFrameworkCore;
using Microsoft.EntityFrameworkCore.Metadata.Builders;

namespace ComeAboard.Storage.Accounts;

/// <summary>That an account of somebody's own was split off from one that a workspace came to hold.</summary>
public sealed class AccountSplitRow
{
    /// <summary>The account the workspace came to hold.</summary>
    public required Guid FromId { get; init; }

    /// <summary>The account of its holder's own.</summary>
    public required Guid ToId { get; init; }
    public required DateTimeOffset At { get; init; }
    public DateTimeOffset? UndoneAt { get; set; }

    public AccountSplit Split => new(At, UndoneAt);

    private sealed class Mapping : IEntityTypeConfiguration<AccountSplitRow>
    {
        public void Configure(EntityTypeBuilder<AccountSplitRow> row)
        {
            row.ToTable("account_splits").HasKey(s => s.ToId);
            row.Ignore(s => s.Split);
            row.HasIndex(s => s.FromId);
            row.HasOne<AccountRow>().WithMany().HasForeignKey(s => s.FromId);
            row.HasOne<AccountRow>().WithMany().HasForeignKey(s => s.ToId);
        }
    }
}
