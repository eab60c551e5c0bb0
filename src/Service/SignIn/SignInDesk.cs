using ComeAboard.Core;
using ComeAboard.Core.Invitations;
using ComeAboard.Storage.Accounts;
using Microsoft.AspNetCore.Identity;

namespace ComeAboard.Service.SignIn;

/// <summary>Checks passwords. Answers alike, and in like time, whether or not there is such an account.</summary>
public sealed class SignInDesk(UserManager<AccountRow> accounts, IPasswordHasher<AccountRow> hasher)
{
    private static readonly AccountRow Nobody = new()
    {
        Id = Guid.Empty,
        Name = "",
        Address = "",
        Language = "",
        CreatedAt = default,
    };

    private static string? _nobodysHash;

    /// <summary>For every sign-in that does not come through, whatever the reason.</summary>
    public static Refusal Wrong { get; } =
        new(
            "sign-in.wrong",
            "The address or the password is wrong, or there were too many tries.",
            "Check both; after several tries wait a minute.",
            RefusalSort.NotSignedIn
        );

    /// <summary>The account with this address and password, or <c>sign-in.wrong</c>.</summary>
    public async Task<Outcome<AccountRow>> CheckAsync(string? address, string? password)
    {
        var known = EmailAddress.Read(address).Try(out var read, out _)
            ? await accounts.FindByNameAsync(read.Key)
            : null;
        if (known is null || password is null || password.Length > 256)
        {
            _nobodysHash ??= hasher.HashPassword(Nobody, "nobody's password");
            hasher.VerifyHashedPassword(Nobody, _nobodysHash, password is { Length: <= 256 } ? password : "");
            return Wrong;
        }
        var isRight = await accounts.CheckPasswordAsync(known, password);
        if (await accounts.IsLockedOutAsync(known))
            return Wrong;
        if (!isRight)
        {
            await accounts.AccessFailedAsync(known);
            return Wrong;
        }
        if (known.FailedTries > 0)
            await accounts.ResetAccessFailedCountAsync(known);
        return known;
    }
}

/// <summary>Leaves address keys as they are: <see cref="EmailAddress.Key"/> is the normal form.</summary>
public sealed class KeyNormalizer : ILookupNormalizer
{
    public string? NormalizeName(string? name) => name;

    public string? NormalizeEmail(string? email) => email;
}
