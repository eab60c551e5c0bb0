using Microsoft.EntityFrameworkCore;
using Microsoft.EntityFrameworkCore.Metadata.Builders;

namespace ComeAboard.Storage.SignIn;

/// <summary>What a code that was mailed to an address is for.</summary>
public enum CodePurpose
{
    /// <summary>Answering an invitation.</summary>
    Answer,

    /// <summary>Signing in.</summary>
    SignIn,

    /// <summary>Showing another address to be one's own.</summary>
    Address,

    /// <summary>Showing another account to be one's own, to join the two.</summary>
    Merge,
}

/// <summary>A code that was mailed to an address, by which somebody shows that they read it; kept as a hash.</summary>
public sealed class MailedCodeRow
{
    public required CodePurpose Purpose { get; init; }

    /// <summary>What it is about: the invitation; the empty id where it is about the account alone.</summary>
    public required Guid SubjectId { get; init; }

    /// <summary>The account whose holder it is for; the empty id for somebody without one.</summary>
    public required Guid AccountId { get; init; }
    public required string AddressKey { get; init; }
    public required string CodeHash { get; set; }
    public required DateTimeOffset ExpiresAt { get; set; }
    public required DateTimeOffset AskedAt { get; set; }
    public int Tries { get; set; }

    private sealed class Mapping : IEntityTypeConfiguration<MailedCodeRow>
    {
        public void Configure(EntityTypeBuilder<MailedCodeRow> row)
        {
            row.ToTable("mailed_codes")
                .HasKey(c => new
                {
                    c.Purpose,
                    c.SubjectId,
                    c.AccountId,
                    c.AddressKey,
                });
            row.Property(c => c.AddressKey).HasMaxLength(400);
            row.Property(c => c.CodeHash).HasMaxLength(64);
        }
    }
}
