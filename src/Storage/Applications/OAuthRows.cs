using ComeAboard.Storage.SignIn;
using Microsoft.EntityFrameworkCore;
using Microsoft.EntityFrameworkCore.Metadata.Builders;
using OpenIddict.EntityFrameworkCore.Models;

namespace ComeAboard.Storage.Applications;

/// <summary>What the protocol needs of a registered program (OAuth 2.0 calls it a client): its id, the hash of its secret, its addresses.</summary>
public sealed class OAuthClientRow
    : OpenIddictEntityFrameworkCoreApplication<Guid, OAuthSignOnRow, OAuthTokenRow>;

/// <summary>
/// That a program was let in: by somebody who signed in to it, by the approval of a device, or for itself. Every token of
/// it hangs on this row, and is worth nothing without.
/// </summary>
public sealed class OAuthSignOnRow
    : OpenIddictEntityFrameworkCoreAuthorization<Guid, OAuthClientRow, OAuthTokenRow>
{
    /// <summary>The program.</summary>
    public Guid? ApplicationId { get; set; }

    /// <summary>The workspace of the program; null for the client of the service's own, which is in none.</summary>
    public Guid? WorkspaceId { get; init; }

    /// <summary>The member who signed in, or in whose name the program acts.</summary>
    public Guid? MemberId { get; set; }

    /// <summary>The sign-in it came from; emptied by the database when that is closed.</summary>
    public Guid? SessionId { get; set; }

    /// <summary>The same as the program knows it, for good; null where nobody signed in.</summary>
    public Guid? Sid { get; init; }

    /// <summary>Whether it ends with the sign-in it came from.</summary>
    public bool EndsWithSession { get; init; }

    /// <summary>
    /// When the sign-in would be over by itself: whoever goes then was not signed out. Emptied once its closing was noticed.
    /// </summary>
    public DateTimeOffset? SessionEndsAt { get; set; }

    /// <summary>When the program is to be told, or told again, that it is over; null for nothing to tell.</summary>
    public DateTimeOffset? TellAt { get; set; }

    /// <summary>How often it was tried to tell.</summary>
    public int Tries { get; set; }

    internal static void Map(EntityTypeBuilder<OAuthSignOnRow> row)
    {
        row.ToTable("oauth_sign_ons");
        row.HasIndex(s => new { s.WorkspaceId, s.MemberId });
        row.HasIndex(s => s.Subject);
        row.HasIndex(s => s.SessionId);
        row.HasIndex(s => s.TellAt).HasFilter("tell_at IS NOT NULL");
        row.HasIndex(s => s.SessionEndsAt).HasFilter("session_id IS NULL AND session_ends_at IS NOT NULL");
        row.HasOne<SessionRow>().WithMany().HasForeignKey(s => s.SessionId).OnDelete(DeleteBehavior.SetNull);
    }
}

/// <summary>A token or code that was given out; by its hash, and with what it says sealed.</summary>
public sealed class OAuthTokenRow : OpenIddictEntityFrameworkCoreToken<Guid, OAuthClientRow, OAuthSignOnRow>
{
    /// <summary>The program.</summary>
    public Guid? ApplicationId { get; set; }

    /// <summary>What it hangs on: an <see cref="OAuthSignOnRow"/>.</summary>
    public Guid? AuthorizationId { get; set; }

    /// <summary>When somebody answered to the code of a device, which counts once.</summary>
    public DateTimeOffset? AnsweredAt { get; set; }

    /// <summary>When a device last asked whether it was answered.</summary>
    public DateTimeOffset? AskedAt { get; set; }

    /// <summary>What the device that asks says of itself.</summary>
    public string? Program { get; set; }

    /// <summary>From which network the device asks.</summary>
    public string? Network { get; set; }

    internal static void Map(EntityTypeBuilder<OAuthTokenRow> row)
    {
        row.ToTable("oauth_tokens");
        row.HasIndex(t => t.Subject);
        row.HasIndex(t => t.ExpirationDate);
        row.Property(t => t.Program).HasMaxLength(200);
        row.Property(t => t.Network).HasMaxLength(60);
    }
}

/// <summary>A scope beside those the service knows; there are none, and the library looks for them here.</summary>
public sealed class OAuthScopeRow : OpenIddictEntityFrameworkCoreScope<Guid>;

/// <summary>A key by which tokens are signed or sealed; itself sealed.</summary>
public sealed class OAuthKeyRow
{
    public required Guid Id { get; init; }

    /// <summary>Whether it signs; else it seals.</summary>
    public required bool Signs { get; init; }

    /// <summary>The key, sealed (Data Protection).</summary>
    public required string Secret { get; init; }
    public required DateTimeOffset MadeAt { get; init; }

    /// <summary>From when on it is used: until then it is only shown, so that everybody knows it in time.</summary>
    public required DateTimeOffset UsedFrom { get; init; }

    private sealed class Mapping : IEntityTypeConfiguration<OAuthKeyRow>
    {
        public void Configure(EntityTypeBuilder<OAuthKeyRow> row) =>
            row.ToTable("oauth_keys").HasKey(k => k.Id);
    }
}
