using System.Text.Json;
using ComeAboard.Client.SignIn;
using ComeAboard.Core;
using ComeAboard.Core.Accounts;
using ComeAboard.Service.Accounts;
using ComeAboard.Service.Workspaces;
using ComeAboard.Storage;
using ComeAboard.Storage.Accounts;
using ComeAboard.Storage.SignIn;
using Microsoft.AspNetCore.Identity;
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
    public async Task<CeremonyView> BeginMakingAsync(AccountRow account, HttpContext http)
    {
        var options = await HandlerOf(http)
            .MakeCreationOptionsAsync(
                new PasskeyUserEntity
                {
                    Id = account.Id.ToString(),
                    Name = account.Address,
                    DisplayName = account.Name,
                },
                http
            );
        return await KeepAsync(account.Id, options.CreationOptionsJson, options.AttestationState);
    }

    /// <summary>Keeps a passkey that was made; refuses with <c>passkey.not-made</c>, <c>passkey.too-many</c> or <c>name.*</c>.</summary>
    public async Task<Outcome<bool>> AddAsync(AccountRow account, PasskeyRequest request, HttpContext http)
    {
        if (!PlainText.ReadName(request.Label).Try(out var label, out var refusal))
            return refusal with { Field = "label" };
        if (await TakeAsync(request.Ceremony, account.Id) is not { } state)
            return NotMade;
        var made = await HandlerOf(http)
            .PerformAttestationAsync(
                new PasskeyAttestationContext
                {
                    HttpContext = http,
                    CredentialJson = request.Credential.GetRawText(),
                    AttestationState = state,
                }
            );
        if (!made.Succeeded || made.UserEntity.Id != account.Id.ToString())
            return NotMade;
        var handle = PasskeyStore.HandleOf(made.Passkey.CredentialId);
        var name = label.Length > 0 ? label : "passkey";
        return await accounts.WriteAsync<bool>(
            [account.Id],
            [],
            Caller.Invitee(account.Name, Visitors.Via(http)),
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
                        Secret = PasskeyStore.Write(made.Passkey),
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
    public async Task<CeremonyView> BeginShowingAsync(HttpContext http)
    {
        var options = await HandlerOf(http).MakeRequestOptionsAsync(null!, http);
        return await KeepAsync(Guid.Empty, options.RequestOptionsJson, options.AssertionState);
    }

    /// <summary>The account whose passkey was shown, or <c>sign-in.passkey-wrong</c>.</summary>
    public async Task<Outcome<Shown>> CheckAsync(PasskeySignInRequest request, HttpContext http)
    {
        if (await TakeAsync(request.Ceremony, Guid.Empty) is not { } state)
            return Wrong;
        var shown = await HandlerOf(http)
            .PerformAssertionAsync(
                new PasskeyAssertionContext
                {
                    HttpContext = http,
                    CredentialJson = request.Credential.GetRawText(),
                    AssertionState = state,
                }
            );
        if (!shown.Succeeded)
            return Wrong;
        var (account, now) = (shown.User, clock.Now());
        var (handle, kept) = (
            PasskeyStore.HandleOf(shown.Passkey.CredentialId),
            PasskeyStore.Write(shown.Passkey)
        );
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

    private async Task<CeremonyView> KeepAsync(Guid account, string options, string? state)
    {
        var row = new CeremonyRow
        {
            Id = Guid.CreateVersion7(),
            AccountId = account,
            State = state ?? "",
            ExpiresAt = clock.Now() + Lifetime,
        };
        using var pass = await gate.EnterAsync();
        await using var rows = database.Open();
        rows.Ceremonies.Add(row);
        await rows.SaveChangesAsync();
        return new CeremonyView(row.Id, JsonDocument.Parse(options).RootElement.Clone());
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

    private static IPasskeyHandler<AccountRow> HandlerOf(HttpContext http) =>
        http.RequestServices.GetRequiredService<IPasskeyHandler<AccountRow>>();
}
