using ComeAboard.Core;
using ComeAboard.Core.Merging;
using Microsoft.EntityFrameworkCore;
using Microsoft.EntityFrameworkCore.Metadata.Builders;

namespace ComeAboard.Storage.Accounts;

/// <summary>That two accounts were made one, and what of the one that went hangs on the other.</summary>
public sealed class AccountMergeRow
{
    public required Guid Id { get; init; }

    /// <summary>The account that stayed.</summary>
    public required Guid KeptId { get; init; }

    /// <summary>The account that went.</summary>
    public required Guid GoneId { get; init; }
    public required DateTimeOffset At { get; init; }

    /// <summary>The workspace that did it, as both were in its custody; null where their holder did.</summary>
    public Guid? ByWorkspaceId { get; init; }
    public DateTimeOffset? UndoneAt { get; set; }

    /// <summary>When what rested of the account that went was forgotten, as it cannot come back any more.</summary>
    public DateTimeOffset? ForgottenAt { get; set; }

    /// <summary>What was brought over, as JSON.</summary>
    public required string Brought { get; init; }

    public AccountMerge Merge => new(At, UndoneAt);

    private sealed class Mapping : IEntityTypeConfiguration<AccountMergeRow>
    {
        public void Configure(EntityTypeBuilder<AccountMergeRow> row)
        {
            row.ToTable("account_merges").HasKey(m => m.Id);
            row.Ignore(m => m.Merge);
            row.HasIndex(m => m.KeptId);
            row.HasIndex(m => m.GoneId);
            row.HasIndex(m => m.At)
                .HasDatabaseName("ix_account_merges_resting")
                .HasFilter("undone_at IS NULL AND forgotten_at IS NULL");
            row.HasOne<AccountRow>().WithMany().HasForeignKey(m => m.KeptId);
            row.HasOne<AccountRow>().WithMany().HasForeignKey(m => m.GoneId);
        }
    }
}

/// <summary>A merge of two accounts as a workspace sees it: one that did it, or in which both were.</summary>
public sealed class MemberMergeRow : IListedRow
{
    public required Guid WorkspaceId { get; init; }

    /// <summary>The merge; the same as of the accounts.</summary>
    public required Guid Id { get; init; }

    /// <summary>The member who stayed; null where only the accounts were merged.</summary>
    public Guid? KeptId { get; init; }
    public required string KeptName { get; init; }
    public required string KeptAddress { get; init; }

    /// <summary>The member who went; null where only the accounts were merged.</summary>
    public Guid? GoneId { get; init; }
    public required string GoneName { get; init; }
    public required string GoneAddress { get; init; }
    public required DateTimeOffset At { get; init; }
    public required string ByName { get; init; }

    /// <summary>Whether the workspace did it, and can undo it.</summary>
    public required bool IsOwn { get; init; }
    public DateTimeOffset? UndoneAt { get; set; }
    public string UndoneByName { get; set; } = "";

    /// <summary>What was done here, step by step, as JSON.</summary>
    public required string Steps { get; init; }

    public AccountMerge Merge => new(At, UndoneAt);

    private sealed class Mapping : IEntityTypeConfiguration<MemberMergeRow>
    {
        public void Configure(EntityTypeBuilder<MemberMergeRow> row)
        {
            row.ToTable("member_merges").HasKey(m => new { m.WorkspaceId, m.Id });
            row.Ignore(m => m.Merge);
            row.HasIndex(m => m.Id);
            row.HasIndex(m => new { m.WorkspaceId, m.KeptId });
            row.HasIndex(m => new { m.WorkspaceId, m.GoneId });
            row.Property(m => m.KeptName).HasMaxLength(PlainText.LongestName);
            row.Property(m => m.GoneName).HasMaxLength(PlainText.LongestName);
            row.Property(m => m.ByName).HasMaxLength(PlainText.LongestName);
            row.Property(m => m.UndoneByName).HasMaxLength(PlainText.LongestName);
        }
    }
}
