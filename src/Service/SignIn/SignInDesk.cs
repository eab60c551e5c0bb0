using ComeAboard.Core;
using ComeAboard.Core.Accounts;
using ComeAboard.Core.Invitations;
using ComeAboard.Service.Workspaces;
using ComeAboard.Storage;
using ComeAboard.Storage.Accounts;
using Microsoft.AspNetCore.Identity;
using Microsoft.EntityFrameworkCore;

namespace ComeAboard.Service.SignIn;

/// <summary>An account, and what its holder showed to be let in.</summary>
public sealed record Shown(AccountRow Account, Proof Proof);

/// <summary>
/// Checks passwords. Answers alike, and in like time, whether or not there is such an account. Wrong tries are counted by
/// one statement each, so that however many come at once, all of them count and none undoes anything else.
/// </summary>
public sealed class SignInDesk(
    Database database,
    WriteGate gate,
    SecurityEvents events,
    TimeProvider clock,
    IPasswordHasher<AccountRow> hasher
)
{
    /// <summary>After so many wrong tries, and each time so many more, an account is locked for a while.</summary>
    private const int TriesToLock = 5;
    private const int LongestPassword = 256;

    // Those who wrote an address down and never proved it, besides the one who did.
    private const int MostBearers = 3;
    private static readonly TimeSpan LockTime = TimeSpan.FromMinutes(1);

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
    /// <param name="address">Any address of the account.</param>
    /// <param name="password">Its password.</param>
    /// <param name="asking">Where from; a browser that has signed in to the account before is not held up by a lock.</param>
    public async Task<Outcome<Shown>> CheckAsync(string? address, string? password, Asking asking)
    {
        var bearers = EmailAddress.Read(address).Try(out var read, out _) ? await BearersAsync(read) : [];
        if (bearers.Count == 0 || password is null or { Length: > LongestPassword })
        {
            _nobodysHash ??= hasher.HashPassword(Nobody, "nobody's password");
            hasher.VerifyHashedPassword(
                Nobody,
                _nobodysHash,
                password is { Length: <= LongestPassword } ? password : ""
            );
            return Wrong;
        }
        foreach (var (account, kept) in bearers)
        {
            if (kept is not { } hash)
                continue;
            var verdict = hasher.VerifyHashedPassword(account, hash, password);
            if (verdict == PasswordVerificationResult.Failed)
                continue;
            if (!await LetInAsync(account, asking.Knows(account.Id)))
            {
                events.NoteSignIn(account, true, asking.Network);
                return Wrong;
            }
            await NoteUsedAsync(
                account,
                hash,
                verdict == PasswordVerificationResult.SuccessRehashNeeded
                    ? hasher.HashPassword(account, password)
                    : hash
            );
            return new Shown(account, new Proof(ProofWay.Password, clock.Now()));
        }
        foreach (var (account, _) in bearers)
        {
            await CountWrongAsync(account);
            events.NoteSignIn(account, (account.FailedTries + 1) % TriesToLock == 0, asking.Network);
        }
        return Wrong;
    }

    /// <summary>Confirms that somebody who is signed in knows their password; refuses with <c>password.wrong</c>.</summary>
    /// <returns>The form in which the password is kept.</returns>
    public async Task<Outcome<string>> ConfirmAsync(AccountRow account, string? password, Asking asking)
    {
        if (
            password is { Length: > 0 and <= LongestPassword }
            && await HashOfAsync(account) is { } hash
            && hasher.VerifyHashedPassword(account, hash, password) != PasswordVerificationResult.Failed
            && await LetInAsync(account, asking.Knows(account.Id))
        )
            return hash;
        await CountWrongAsync(account);
        return new Refusal(
            "password.wrong",
            "The password you have now is another.",
            "Give the one you have; if you forgot it, sign out and ask for a link.",
            Field: "old"
        );
    }

    /// <summary>The accounts that bear an address, the one that proved it first.</summary>
    private async Task<List<(AccountRow Account, string? Hash)>> BearersAsync(EmailAddress address)
    {
        await using var rows = database.Open();
        var found = await (
            from bears in rows.AccountAddresses
            join account in rows.Accounts on bears.AccountId equals account.Id
            where bears.AddressKey == address.Key
            orderby bears.ProvedAt == null, account.Id
            select new
            {
                account,
                Hash = rows
                    .Credentials.Where(c => c.AccountId == account.Id && c.Kind == CredentialKind.Password)
                    .Select(c => c.Secret)
                    .FirstOrDefault(),
            }
        )
            .AsNoTracking()
            .Take(MostBearers)
            .ToListAsync();
        return [.. found.Select(one => (one.account, one.Hash))];
    }

    private async Task<string?> HashOfAsync(AccountRow account)
    {
        await using var rows = database.Open();
        return await rows
            .Credentials.Where(c => c.AccountId == account.Id && c.Kind == CredentialKind.Password)
            .Select(c => c.Secret)
            .FirstOrDefaultAsync();
    }

    /// <summary>Forgets the wrong tries, unless the account is locked at this very moment.</summary>
    private async Task<bool> LetInAsync(AccountRow account, bool isKnown)
    {
        var now = clock.Now();
        if (account is { FailedTries: 0, LockedUntil: null })
            return true;
        using var pass = await gate.EnterAsync();
        await using var rows = database.Open();
        return await rows
                .Accounts.Where(a =>
                    a.Id == account.Id && (isKnown || a.LockedUntil == null || a.LockedUntil <= now)
                )
                .ExecuteUpdateAsync(set =>
                    set.SetProperty(a => a.FailedTries, 0)
                        .SetProperty(a => a.LockedUntil, (DateTimeOffset?)null)
                ) == 1;
    }

    private async Task CountWrongAsync(AccountRow account)
    {
        var now = clock.Now();
        DateTimeOffset? until = now + LockTime;
        using var pass = await gate.EnterAsync();
        await using var rows = database.Open();
        await rows
            .Accounts.Where(a => a.Id == account.Id)
            .ExecuteUpdateAsync(set =>
                set.SetProperty(a => a.FailedTries, a => a.FailedTries + 1)
                    .SetProperty(
                        a => a.LockedUntil,
                        a => (a.FailedTries + 1) % TriesToLock == 0 ? until : a.LockedUntil
                    )
            );
    }

    /// <summary>Notes that a password was used, and keeps it in today's form, as long as nobody has changed it meanwhile.</summary>
    private async Task NoteUsedAsync(AccountRow account, string before, string after)
    {
        var now = clock.Now();
        using var pass = await gate.EnterAsync();
        await using var rows = database.Open();
        await rows
            .Credentials.Where(c =>
                c.AccountId == account.Id && c.Kind == CredentialKind.Password && c.Secret == before
            )
            .ExecuteUpdateAsync(set =>
                set.SetProperty(c => c.Secret, after).SetProperty(c => c.LastUsedAt, now)
            );
    }
}
