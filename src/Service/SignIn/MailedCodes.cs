using System.Globalization;
using System.Linq.Expressions;
using System.Security.Cryptography;
using System.Text;
using ComeAboard.Core;
using ComeAboard.Service.Workspaces;
using ComeAboard.Storage;
using ComeAboard.Storage.SignIn;
using Microsoft.EntityFrameworkCore;

namespace ComeAboard.Service.SignIn;

/// <summary>What a mailed code is for.</summary>
/// <param name="Purpose">Answering, or signing in.</param>
/// <param name="Subject">The invitation that is answered; the empty id when signing in.</param>
/// <param name="Account">The account whose holder it is for; the empty id for somebody without one.</param>
/// <param name="To">The address it shows to be somebody's own.</param>
public sealed record CodeFor(CodePurpose Purpose, Guid Subject, Guid Account, EmailAddress To);

/// <summary>
/// The one way in which an address is shown to be somebody's own by a code: eight digits, ten minutes, five tries, and
/// so many codes an hour to an address and about a subject. Each try is counted by one statement in the database, so that
/// neither many at once nor several processes have more of them.
/// </summary>
public sealed class MailedCodes(Database database, WriteGate gate, Budgets budgets, TimeProvider clock)
{
    private const int MostTries = 5;

    // Whoever holds a link that was handed over may name any address: neither the link nor anybody's mailbox is a toy.
    private const int MostBySubject = 12;
    private const int MostToAddress = 8;
    private static readonly TimeSpan Hour = TimeSpan.FromHours(1);
    private static readonly TimeSpan Lifetime = TimeSpan.FromMinutes(10);
    private static readonly TimeSpan Pause = TimeSpan.FromSeconds(30);

    /// <summary>Refuses, with <c>too-many</c>, another code where there were enough within the hour, or one a moment ago.</summary>
    public async Task<Refusal?> ForbidsAnotherAsync(CodeFor what) =>
        // Whoever asks anew while a code is on its way has none mailed, and so takes none of those of the hour.
        await IsOnItsWayAsync(what)
        || what.Subject != Guid.Empty
            && await budgets.TakeAsync("code-by", what.Subject.ToString(), MostBySubject, Hour) is not null
        || await budgets.TakeAsync("code-to", what.To.Key, MostToAddress, Hour) is not null
            ? CommonRefusals.TooMany
            : null;

    private async Task<bool> IsOnItsWayAsync(CodeFor what)
    {
        var since = clock.Now() - Pause;
        await using var rows = database.Open();
        return await rows.MailedCodes.Where(Of(what)).AnyAsync(c => c.AskedAt > since);
    }

    /// <summary>A new code, kept within a change; the one before is dead. Refuses with <c>too-many</c> what was asked a moment ago.</summary>
    /// <param name="rows">The rows of the change.</param>
    /// <param name="what">What it is for.</param>
    /// <param name="now">The instant of the change.</param>
    /// <returns>The code, to be mailed to the address and told nobody else.</returns>
    public static async Task<Outcome<string>> RenewAsync(
        ComeAboardContext rows,
        CodeFor what,
        DateTimeOffset now
    )
    {
        var code = RandomNumberGenerator.GetInt32(100_000_000).ToString("D8", CultureInfo.InvariantCulture);
        var row = await rows.MailedCodes.FirstOrDefaultAsync(Of(what));
        if (row is not null && now < row.AskedAt + Pause)
            return CommonRefusals.TooMany;
        if (row is null)
            rows.MailedCodes.Add(
                row = new MailedCodeRow
                {
                    Purpose = what.Purpose,
                    SubjectId = what.Subject,
                    AccountId = what.Account,
                    AddressKey = what.To.Key,
                    CodeHash = "",
                    ExpiresAt = now,
                    AskedAt = now,
                }
            );
        (row.CodeHash, row.ExpiresAt, row.AskedAt, row.Tries) = (HashOf(what, code), now + Lifetime, now, 0);
        return code;
    }

    /// <summary>Whether a code is the one last mailed. Every try counts, and after five of them none does.</summary>
    /// <param name="what">What it is for.</param>
    /// <param name="code">The code as somebody gives it.</param>
    /// <param name="isOnce">Whether it is used up by that.</param>
    public async Task<bool> IsShownAsync(CodeFor what, string? code, bool isOnce)
    {
        var now = clock.Now();
        var hash = HashOf(what, (code ?? "").Trim());
        using var pass = await gate.EnterAsync();
        await using var rows = database.Open();
        var kept = rows.MailedCodes.Where(Of(what));
        var counted = await kept.Where(c => c.Tries < MostTries && c.ExpiresAt > now)
            .ExecuteUpdateAsync(set => set.SetProperty(c => c.Tries, c => c.Tries + 1));
        if (counted == 0)
            return false;
        var right = await kept.Select(c => c.CodeHash).FirstOrDefaultAsync();
        if (
            right is null
            || !CryptographicOperations.FixedTimeEquals(
                Encoding.ASCII.GetBytes(right),
                Encoding.ASCII.GetBytes(hash)
            )
        )
            return false;
        return !isOnce || await kept.Where(c => c.CodeHash == hash).ExecuteDeleteAsync() == 1;
    }

    private static Expression<Func<MailedCodeRow, bool>> Of(CodeFor what)
    {
        var (purpose, subject, account, key) = (what.Purpose, what.Subject, what.Account, what.To.Key);
        return c =>
            c.Purpose == purpose && c.SubjectId == subject && c.AccountId == account && c.AddressKey == key;
    }

    private static string HashOf(CodeFor what, string code) =>
        Convert.ToHexStringLower(
            SHA256.HashData(
                Encoding.UTF8.GetBytes($"{what.Purpose}:{what.Subject}:{what.Account}:{what.To.Key}:{code}")
            )
        );
}
