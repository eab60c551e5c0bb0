using System.Security.Claims;
using System.Security.Cryptography;
using System.Text.Json;
using ComeAboard.Core;
using ComeAboard.Core.Accounts;
using ComeAboard.Service.Accounts;
using ComeAboard.Service.SignIn;
using ComeAboard.Service.Workspaces;
using ComeAboard.Storage;
using ComeAboard.Storage.Accounts;
using ComeAboard.Storage.Applications;
using ComeAboard.Storage.SignIn;
using Microsoft.AspNetCore.DataProtection;
using Microsoft.EntityFrameworkCore;
using OpenIddict.Abstractions;
using static OpenIddict.Abstractions.OpenIddictConstants;
using Claims = OpenIddict.Abstractions.OpenIddictConstants.Claims;

namespace ComeAboard.Service.Applications;

/// <summary>A device that waits to be approved.</summary>
/// <param name="Token">The row of its code.</param>
/// <param name="Code">The code, as it is shown.</param>
/// <param name="Program">What the device says of itself.</param>
/// <param name="Network">From where it asks.</param>
/// <param name="AskedAt">Since when.</param>
public sealed record WaitingDevice(
    Guid Token,
    string Code,
    string Program,
    string Network,
    DateTimeOffset AskedAt
);

/// <summary>
/// Signing in on a device that shows a code, by a browser that is signed in (RFC 8628). A code is answered once, and what
/// was approved is fetched once.
/// </summary>
public sealed class DeviceSignIn(
    Database database,
    WriteGate gate,
    AccountWriter accounts,
    Budgets budgets,
    IDataProtectionProvider protection,
    TimeProvider clock
)
{
    /// <summary>How long a device waits between two questions, as it is told.</summary>
    public static readonly TimeSpan Pause = TimeSpan.FromSeconds(5);

    // How long at least, as two clocks measure it.
    private static readonly TimeSpan LeastPause = TimeSpan.FromSeconds(4);

    private const int CodeLength = 8;
    private const int MostTries = 10;
    private static readonly TimeSpan TryWindow = TimeSpan.FromMinutes(10);

    private readonly IDataProtector _tickets = protection.CreateProtector("answers to devices");

    /// <summary>For a code that is none, was answered, or is over: <c>device.code-wrong</c>.</summary>
    public static Refusal Wrong { get; } =
        new(
            "device.code-wrong",
            "No device waits with this code; a code is over after ten minutes, and counts once.",
            "Check it, or begin again on the device.",
            RefusalSort.NotFound,
            "code"
        );

    /// <summary>The device that waits with a code. Whoever guesses is held up.</summary>
    /// <param name="account">Who looks for it.</param>
    /// <param name="code">The code, as somebody typed it.</param>
    public async Task<Outcome<WaitingDevice>> FindAsync(
        Guid account,
        string? code,
        IOpenIddictTokenManager tokens
    )
    {
        if (await budgets.TakeAsync("device-code", account.ToString(), MostTries, TryWindow) is not null)
            return CommonRefusals.TooMany;
        if (Normal(code) is not { } normal)
            return Wrong;
        var found = (OAuthTokenRow?)await tokens.FindByReferenceIdAsync(normal);
        if (
            found is not { AnsweredAt: null, Program: { } program, Network: { } network }
            || found.ExpirationDate <= clock.Now().UtcDateTime
            || !await tokens.HasTypeAsync(found, TokenTypeIdentifiers.Private.UserCode)
        )
            return Wrong;
        return new WaitingDevice(
            found.Id,
            $"{normal[..4]}-{normal[4..]}",
            program,
            network,
            new DateTimeOffset(found.CreationDate!.Value)
        );
    }

    /// <summary>
    /// Takes an answer to a code; null for every answer but the first. The library takes a code that comes twice for a
    /// stolen one and ends all that came of it: only what shows the ticket is handed to it, once.
    /// </summary>
    /// <param name="token">The row of the code.</param>
    public async Task<string?> TakeAnswerAsync(Guid token)
    {
        DateTimeOffset? now = clock.Now();
        using var pass = await gate.EnterAsync();
        await using var rows = database.Open();
        return
            await rows
                .OAuthTokens.Where(t => t.Id == token && t.AnsweredAt == null)
                .ExecuteUpdateAsync(set => set.SetProperty(t => t.AnsweredAt, now)) == 1
            ? _tickets.Protect(token.ToString())
            : null;
    }

    /// <summary>Whether somebody comes with the ticket of an answer, for the first time.</summary>
    public async Task<bool> TakeTicketAsync(string? ticket)
    {
        Guid token;
        try
        {
            token = Guid.Parse(_tickets.Unprotect(ticket ?? ""));
        }
        catch (CryptographicException)
        {
            return false;
        }
        DateTimeOffset? now = clock.Now();
        using var pass = await gate.EnterAsync();
        await using var rows = database.Open();
        return await rows
                .OAuthTokens.Where(t => t.Id == token && t.AnsweredAt != null && t.AskedAt == null)
                .ExecuteUpdateAsync(set => set.SetProperty(t => t.AskedAt, now)) == 1;
    }

    /// <summary>What is kept with a device that somebody approves.</summary>
    /// <param name="account">Who.</param>
    /// <param name="proof">What they showed to be signed in.</param>
    /// <param name="session">The hash of the session they are signed in with.</param>
    /// <param name="scopes">What the device asked for.</param>
    public async Task<ClaimsPrincipal> ApproveAsync(
        AccountRow account,
        Proof proof,
        string? session,
        IEnumerable<string> scopes
    )
    {
        await using var rows = database.Open();
        var open = await rows.Sessions.Where(s => s.SecretHash == session).Select(s => s.Id).FirstAsync();
        var identity = ProgramPrincipals.NewIdentity();
        identity.SetClaim(Claims.Subject, account.Id.ToString());
        identity.SetClaim(ProgramClaims.Approved, open.ToString());
        ProgramPrincipals.Keep(identity, proof);
        identity.SetScopes(scopes);
        identity.SetDestinations(_ => []);
        return new ClaimsPrincipal(identity);
    }

    /// <summary>
    /// Signs a device in that was approved: it becomes a sign-in of its own, beside those in browsers, and ends as they do.
    /// </summary>
    /// <param name="approved">What its code stands for.</param>
    /// <param name="clientId">The program.</param>
    public async Task<Outcome<ClaimsPrincipal>> SignInAsync(ClaimsPrincipal approved, string? clientId)
    {
        if (
            !Guid.TryParse(approved.GetTokenId(), out var token)
            || !Guid.TryParse(approved.GetClaim(Claims.Subject), out var holder)
            || !Guid.TryParse(approved.GetClaim(ProgramClaims.Approved), out var by)
        )
            return SignOns.Out;
        if (!await FetchAsync(token))
            return SignOns.Out;
        var proof = ProgramPrincipals.ProofIn(approved);
        var asked = await AskedAsync(token);
        var scopes = approved.GetScopes();
        var made = await accounts.WriteAsync<OAuthSignOnRow>(
            [holder],
            [],
            Caller.Invitee(await NameOfAsync(holder), "client"),
            async write =>
            {
                // Whoever closed their sign-ins meanwhile did not want this one either.
                if (!await write.Rows.Sessions.AnyAsync(s => s.Id == by && s.AccountId == holder))
                    return SignOns.Out;
                var client = await write.Rows.OAuthClients.FirstAsync(c => c.ClientId == clientId);
                var session = new SessionRow
                {
                    Id = Guid.CreateVersion7(write.Now),
                    // Nobody holds its secret: it is there to be seen and closed.
                    SecretHash = ApiTokens.NewSecret().Hash().Value,
                    AccountId = holder,
                    OpenedAt = write.Now,
                    ExpiresAt = write.Now + OAuthServer.StayLifetime,
                    OpenedWith = proof.Way,
                    SecondStep = proof.Second,
                    ProvedAt = proof.At,
                    SeenAt = write.Now,
                    Browser = asked.Program,
                    Network = asked.Network,
                };
                var row = new OAuthSignOnRow
                {
                    Id = Guid.CreateVersion7(write.Now),
                    ApplicationId = client.Id,
                    Subject = holder.ToString(),
                    Scopes = JsonSerializer.Serialize(scopes),
                    Status = Statuses.Valid,
                    Type = AuthorizationTypes.Permanent,
                    CreationDate = write.Now.UtcDateTime,
                    ConcurrencyToken = Guid.NewGuid().ToString(),
                    SessionId = session.Id,
                    EndsWithSession = true,
                };
                write.Rows.Sessions.Add(session);
                write.Rows.OAuthSignOns.Add(row);
                write.Note(
                    holder,
                    "account.device-signed-in",
                    ("browser", asked.Program),
                    ("network", asked.Network)
                );
                return row;
            }
        );
        return made.Try(out var signOn, out var refusal) ? ProgramPrincipals.Own(signOn, approved) : refusal;
    }

    /// <summary>Signs a device out: its sign-in is closed, and with it every token of it.</summary>
    public async Task<Outcome<bool>> SignOutAsync(ActingProgram device, string via) =>
        await accounts.WriteAsync<bool>(
            [device.Account],
            [],
            Caller.Invitee(await NameOfAsync(device.Account), via),
            async write =>
            {
                var row = await write.Rows.Sessions.FirstOrDefaultAsync(s =>
                    s.Id == device.Session && s.AccountId == device.Account
                );
                if (row is null)
                    return CommonRefusals.SignInRequired;
                write.Rows.Sessions.Remove(row);
                write.Note(device.Account, "account.sign-in-closed", ("browser", row.Browser));
                return true;
            }
        );

    /// <summary>Whether a device asks again before its time; it is told to slow down (RFC 8628 section 3.5).</summary>
    public async Task<bool> IsTooSoonAsync(string code, IOpenIddictTokenManager tokens)
    {
        if (await tokens.FindByReferenceIdAsync(code) is not OAuthTokenRow { AnsweredAt: null } found)
            return false;
        DateTimeOffset? now = clock.Now();
        var before = now - LeastPause;
        using var pass = await gate.EnterAsync();
        await using var rows = database.Open();
        return await rows
                .OAuthTokens.Where(t => t.Id == found.Id && (t.AskedAt == null || t.AskedAt <= before))
                .ExecuteUpdateAsync(set => set.SetProperty(t => t.AskedAt, now)) == 0;
    }

    /// <summary>Keeps with the codes of a device what it says of itself, for whoever is to approve it.</summary>
    public async Task NoteAsync(
        string deviceCode,
        string userCode,
        string program,
        string network,
        IOpenIddictTokenManager tokens
    )
    {
        foreach (var code in (string[])[deviceCode, Normal(userCode)!])
        {
            if (await tokens.FindByReferenceIdAsync(code) is not OAuthTokenRow found)
                continue;
            await using var rows = database.Open();
            await rows
                .OAuthTokens.Where(t => t.Id == found.Id)
                .ExecuteUpdateAsync(set =>
                    set.SetProperty(t => t.Program, program).SetProperty(t => t.Network, network)
                );
        }
    }

    /// <summary>A code without what people put between its letters; null when it is none.</summary>
    internal static string? Normal(string? code)
    {
        var letters = string.Concat((code ?? "").Where(char.IsAsciiLetter)).ToUpperInvariant();
        return letters.Length == CodeLength ? letters : null;
    }

    private async Task<(string Program, string Network)> AskedAsync(Guid token)
    {
        await using var rows = database.Open();
        var found = await rows.OAuthTokens.AsNoTracking().FirstAsync(t => t.Id == token);
        return (found.Program ?? "", found.Network ?? "");
    }

    private async Task<string> NameOfAsync(Guid account)
    {
        await using var rows = database.Open();
        return await rows.Accounts.Where(a => a.Id == account).Select(a => a.Name).FirstAsync();
    }

    /// <summary>Of several who fetch what was approved with one code, the first gets it.</summary>
    private async Task<bool> FetchAsync(Guid token)
    {
        DateTimeOffset? now = clock.Now();
        using var pass = await gate.EnterAsync();
        await using var rows = database.Open();
        return await rows
                .OAuthTokens.Where(t => t.Id == token && t.AnsweredAt == null)
                .ExecuteUpdateAsync(set => set.SetProperty(t => t.AnsweredAt, now)) == 1;
    }
}
