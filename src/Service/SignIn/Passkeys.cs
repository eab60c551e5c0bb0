using System.Text.Json;
using ComeAboard.Client.SignIn;
using ComeAboard.Core;
using ComeAboard.Core.Accounts;
using ComeAboard.Service.Accounts;
using ComeAboard.Service.Workspaces;
using ComeAboard.Storage;
using ComeAboard.Storage.Accounts;
using ComeAboard.Storage.SignIn;
using Microsoft.EntityFrameworkCore;

namespace ComeAboard.Service.SignIn;

/// <summary>
/// Passkeys (WebAuthn level 3): made by whoever is signed in, and shown in place of everything else, without an address.
/// What the browser was asked is kept in a row that counts once, so that no answer counts twice – also where an
/// authenticator does not count its answers.
/// </summary>
public sealed class Passkeys(Database database, WriteGate gate, AccountWriter accounts, TimeProvider clock)
{
    private const int MostPasskeys = 20;
    private static readonly TimeSpan Lifetime = TimeSpan.FromMinutes(5);

    /// <summary>For a passkey that lets nobody in, whatever the reason.</summary>
    public static Refusal Wrong { get; } =
        new(
            "sign-in.passkey-wrong",
            "This passkey lets nobody in here, or it took too long.",
            "Try again, or sign in another way.",
            RefusalSort.NotSignedIn
        );

    private static Refusal NotMade { get; } =
        new(
            "passkey.not-made",
            "The passkey could not be kept: what the browser sent is not right, or it took too long.",
            "Try again.",
            Field: "credential"
        );

    /// <summary>What a browser is asked to make a passkey for an account.</summary>
    public async Task<CeremonyView> BeginMakingAsync(AccountRow account, PasskeyBrowser browser) =>
        await KeepAsync(account.Id, await browser.AskToMakeAsync(account));

    /// <summary>Keeps a passkey that was made; refuses with <c>passkey.not-made</c>, <c>passkey.too-many</c> or <c>name.*</c>.</summary>
    public async Task<Outcome<bool>> AddAsync(
        AccountRow account,
        PasskeyRequest request,
        PasskeyBrowser browser,
        string via
    )
    {
        if (!PlainText.ReadName(request.Label).Try(out var label, out var refusal))
            return refusal with { Field = "label" };
        if (
            await TakeAsync(request.Ceremony, account.Id) is not { } state
            || await browser.MadeAsync(account, request.Credential, state) is not { } made
        )
            return NotMade;
        var handle = PasskeyStore.HandleOf(made.CredentialId);
        var name = label.Length > 0 ? label : "passkey";
        return await accounts.WriteAsync<bool>(
            [account.Id],
            [],
            Caller.Invitee(account.Name, via),
            async write =>
            {
                if (await write.Rows.Credentials.AnyAsync(c => c.Handle == handle))
                    return NotMade;
                if (
                    await write.Rows.Credentials.CountAsync(c =>
                        c.AccountId == account.Id && c.Kind == CredentialKind.Passkey
                    ) >= MostPasskeys
                )
                    return new Refusal(
                        "passkey.too-many",
                        $"An account has at most {MostPasskeys} passkeys.",
                        "Remove one you do not use any more.",
                        RefusalSort.Conflict
                    );
                write.Rows.Credentials.Add(
                    new CredentialRow
                    {
                        AccountId = account.Id,
                        Id = Guid.CreateVersion7(write.Now),
                        Kind = CredentialKind.Passkey,
                        Label = name,
                        Handle = handle,
                        Secret = PasskeyStore.Write(made),
                        MadeAt = write.Now,
                    }
                );
                write.Note(account.Id, "account.passkey-added", ("label", name));
                return true;
            }
        );
    }

    /// <summary>Removes a passkey of an account.</summary>
    public Task<Outcome<bool>> RemoveAsync(AccountRow account, Guid passkey, string via) =>
        accounts.WriteAsync<bool>(
            [account.Id],
            [],
            Caller.Invitee(account.Name, via),
            async write =>
            {
                var row = await write.Rows.Credentials.FirstOrDefaultAsync(c =>
                    c.AccountId == account.Id && c.Id == passkey && c.Kind == CredentialKind.Passkey
                );
                if (row is null)
                    return CommonRefusals.NotFound;
                write.Rows.Credentials.Remove(row);
                write.Note(account.Id, "account.passkey-removed", ("label", row.Label));
                return true;
            }
        );

    /// <summary>What a browser is asked to show a passkey; whose is not said, and not known yet.</summary>
    public async Task<CeremonyView> BeginShowingAsync(PasskeyBrowser browser) =>
        await KeepAsync(Guid.Empty, await browser.AskToShowAsync());

    /// <summary>The account whose passkey was shown, or <c>sign-in.passkey-wrong</c>.</summary>
    public async Task<Outcome<Shown>> CheckAsync(PasskeySignInRequest request, PasskeyBrowser browser)
    {
        if (
            await TakeAsync(request.Ceremony, Guid.Empty) is not { } state
            || await browser.ShownAsync(request.Credential, state) is not var (account, passkey)
        )
            return Wrong;
        var now = clock.Now();
        var (handle, kept) = (PasskeyStore.HandleOf(passkey.CredentialId), PasskeyStore.Write(passkey));
        using var pass = await gate.EnterAsync();
        await using var rows = database.Open();
        // One that was removed at this very moment lets nobody in.
        var used = await rows
            .Credentials.Where(c => c.AccountId == account.Id && c.Handle == handle)
            .ExecuteUpdateAsync(set =>
                set.SetProperty(c => c.Secret, kept).SetProperty(c => c.LastUsedAt, now)
            );
        return used == 1 ? new Shown(account, new Proof(ProofWay.Passkey, now)) : Wrong;
    }

    private async Task<CeremonyView> KeepAsync(Guid account, (string Options, string State) asked)
    {
        var row = new CeremonyRow
        {
            Id = Guid.CreateVersion7(),
            AccountId = account,
            State = asked.State,
            ExpiresAt = clock.Now() + Lifetime,
        };
        using var pass = await gate.EnterAsync();
        await using var rows = database.Open();
        rows.Ceremonies.Add(row);
        await rows.SaveChangesAsync();
        return new CeremonyView(row.Id, JsonDocument.Parse(asked.Options).RootElement.Clone());
    }

    /// <summary>What was kept of a ceremony; once, and as long as it is young.</summary>
    private async Task<string?> TakeAsync(Guid ceremony, Guid account)
    {
        var now = clock.Now();
        using var pass = await gate.EnterAsync();
        await using var rows = database.Open();
        var kept = rows.Ceremonies.Where(c =>
            c.Id == ceremony && c.AccountId == account && c.ExpiresAt > now
        );
        var state = await kept.Select(c => c.State).FirstOrDefaultAsync();
        return state is not null && await kept.ExecuteDeleteAsync() == 1 ? state : null;
    }
}
