using ComeAboard.Core;
using ComeAboard.Core.Accounts;
using ComeAboard.Storage.Accounts;
using Microsoft.EntityFrameworkCore;
using Microsoft.EntityFrameworkCore.Metadata.Builders;

namespace ComeAboard.Storage.SignIn;

/// <summary>
/// One open sign-in of an account in a browser. The cookie carries its secret, and every request looks it up by the hash
/// of that: reading the database is not signing in.
/// </summary>
public sealed class SessionRow
{
    public required Guid Id { get; init; }
    public required string SecretHash { get; init; }
    public required Guid AccountId { get; init; }
    public required DateTimeOffset OpenedAt { get; init; }
    public required DateTimeOffset ExpiresAt { get; init; }

    /// <summary>What was shown when it was opened.</summary>
    public required ProofWay OpenedWith { get; init; }

    /// <summary>What was shown besides, as a second step; null for nothing.</summary>
    public ProofWay? SecondStep { get; set; }

    /// <summary>Whether it opens nothing yet but the way to the second step.</summary>
    public bool AwaitsStep { get; init; }

    /// <summary>When its holder last showed that the account is theirs.</summary>
    public required DateTimeOffset ProvedAt { get; set; }

    /// <summary>When it was last used, to the minute.</summary>
    public required DateTimeOffset SeenAt { get; set; }

    /// <summary>What the browser says of itself.</summary>
    public required string Browser { get; init; }

    /// <summary>From which network it was opened; empty where that says nothing.</summary>
    public required string Network { get; init; }

    private sealed class Mapping : IEntityTypeConfiguration<SessionRow>
    {
        public void Configure(EntityTypeBuilder<SessionRow> row)
        {
            row.ToTable("sessions").HasKey(s => s.Id);
            row.HasIndex(s => s.AccountId);
            row.HasIndex(s => s.SecretHash).IsUnique();
            row.Property(s => s.SecretHash).HasMaxLength(64);
            row.Property(s => s.Browser).HasMaxLength(200);
            row.Property(s => s.Network).HasMaxLength(60);
            row.HasOne<AccountRow>().WithMany().HasForeignKey(s => s.AccountId);
        }
    }
}
