using System.Security.Cryptography;
using System.Text.Json;
using ComeAboard.Client.SignIn;
using ComeAboard.Core;
using ComeAboard.Core.Accounts;
using ComeAboard.Service.Accounts;
using ComeAboard.Service.Mail;
using ComeAboard.Service.Workspaces;
using ComeAboard.Storage;
using ComeAboard.Storage.Accounts;
using Microsoft.AspNetCore.DataProtection;
using Microsoft.EntityFrameworkCore;
using OtpNet;
using QRCoder;

namespace ComeAboard.Service.SignIn;

/// <summary>
/// The second step of signing in: a time-based code (RFC 6238, six digits every 30 seconds), or one of the codes for
/// when the device is not at hand. Each code counts once, however many come with it at the same moment.
/// </summary>
public sealed class SecondSteps(
    Database database,
    WriteGate gate,
    AccountWriter accounts,
    ToldChanges told,
    Budgets budgets,
    SecurityEvents events,
    IDataProtectionProvider protection,
    TimeProvider clock
)
{
    private const int KeyBytes = 20;
    private const int TriesPerHour = 30;
    private static readonly TimeSpan OfferLifetime = TimeSpan.FromMinutes(10);

    // A clock that goes wrong by half a minute, or a code typed at its last second.
    private static readonly VerificationWindow Near = new(previous: 1, future: 1);

    private readonly IDataProtector _keys = protection.CreateProtector("ComeAboard.SignIn.TimeCode.v1");
    private readonly IDataProtector _offers = protection.CreateProtector(
        "ComeAboard.SignIn.SecondStepOffer.v1"
    );

    /// <summary>For every code that lets nobody in, whatever the reason.</summary>
    public static Refusal Wrong { get; } =
        new(
            "second-step.wrong",
            "That code is wrong, is over, or was used already.",
            "Wait for the next one, or give one of the recovery codes.",
            RefusalSort.NotSignedIn,
            "code"
        );

    /// <summary>For a program that gives no code where one is due.</summary>
    public static Refusal Due { get; } =
        new(
            "second-step.due",
            "Signing in to this account takes a second step.",
            "Give the code that its device shows now, or a recovery code.",
            RefusalSort.NotSignedIn,
            "code"
        );

    /// <summary>Whether signing in to an account takes a second step.</summary>
    public async Task<bool> IsDueAsync(Guid account)
    {
        await using var rows = database.Open();
        return await rows.Credentials.AnyAsync(c =>
            c.AccountId == account && c.Kind == CredentialKind.TimeCode
        );
    }

    /// <summary>A new key for a device, not kept yet: a code made with it has to be shown first.</summary>
    public SecondStepOffer Begin(AccountRow account)
    {
        var key = Base32Encoding.ToString(RandomNumberGenerator.GetBytes(KeyBytes));
        var offer = new Offer(account.Id, key, clock.Now() + OfferLifetime);
        return Show(account, key, _offers.Protect(JsonSerializer.Serialize(offer)));
    }

    /// <summary>The offer with a state that was given before, for a form that is shown again; null when it is over.</summary>
    public SecondStepOffer? Again(AccountRow account, string? state) =>
        Read(account, state) is { } offer ? Show(account, offer.Key, state!) : null;

    private static SecondStepOffer Show(AccountRow account, string key, string state)
    {
        var address = new OtpUri(OtpType.Totp, key, account.Address, "Come Aboard").ToString();
        using var code = QRCodeGenerator.GenerateQrCode(address, QRCodeGenerator.ECCLevel.M);
        return new SecondStepOffer(
            key,
            address,
            Convert.ToBase64String(new PngByteQRCode(code).GetGraphic(6)),
            state
        );
    }

    /// <summary>
    /// Keeps a second step once a code of its device was shown; the sign-in that asks counts as strong from then on.
    /// Refuses with <c>second-step.offer-over</c>, <c>second-step.wrong</c> or <c>second-step.exists</c>.
    /// </summary>
    /// <param name="account">Whose.</param>
    /// <param name="request">What was offered, and the code.</param>
    /// <param name="asking">Where from, and with which sign-in.</param>
    /// <param name="via">Through what.</param>
    public async Task<Outcome<RecoveryCodes>> KeepAsync(
        AccountRow account,
        SecondStepRequest request,
        Asking asking,
        string via
    )
    {
        if (Read(account, request.State) is not { } offer)
            return new Refusal(
                "second-step.offer-over",
                "It took more than ten minutes, or was offered to somebody else.",
                "Begin again.",
                RefusalSort.Conflict
            );
        if (StepOf(offer.Key, request.Code) is not { } step)
            return Wrong with
            {
                Sort = RefusalSort.Invalid,
                Remedy = "Give the code that the device shows now.",
            };
        return await told.TellAsync(
            account,
            "account.second-step-added",
            via,
            async write =>
            {
                if (
                    await write.Rows.Credentials.AnyAsync(c =>
                        c.AccountId == account.Id && c.Kind == CredentialKind.TimeCode
                    )
                )
                    return new Refusal(
                        "second-step.exists",
                        "This account has a second step already.",
                        "Remove it first.",
                        RefusalSort.Conflict
                    );
                write.Rows.Credentials.Add(
                    RowOf(account.Id, CredentialKind.TimeCode, _keys.Protect(offer.Key), write.Now, step)
                );
                await write
                    .Rows.Sessions.Where(s => s.AccountId == account.Id && s.SecretHash == asking.Session)
                    .ExecuteUpdateAsync(set =>
                        set.SetProperty(s => s.SecondStep, (ProofWay?)ProofWay.TimeCode)
                    );
                return await RenewAsync(write, account.Id);
            }
        );
    }

    /// <summary>Makes new recovery codes; the ones before are dead. Refuses with <c>not-found</c> where there is no second step.</summary>
    public async Task<Outcome<RecoveryCodes>> RenewCodesAsync(AccountRow account, string via) =>
        await accounts.WriteAsync<RecoveryCodes>(
            [account.Id],
            [],
            Caller.Invitee(account.Name, via),
            async write =>
            {
                if (
                    !await write.Rows.Credentials.AnyAsync(c =>
                        c.AccountId == account.Id && c.Kind == CredentialKind.TimeCode
                    )
                )
                    return CommonRefusals.NotFound;
                write.Note(account.Id, "account.recovery-codes-made");
                return await RenewAsync(write, account.Id);
            }
        );

    /// <summary>Removes the second step with its recovery codes; no sign-in rests on it any more.</summary>
    public async Task<Outcome<bool>> RemoveAsync(AccountRow account, string via) =>
        await told.TellAsync<bool>(
            account,
            "account.second-step-removed",
            via,
            async write =>
            {
                var removed = await write
                    .Rows.Credentials.Where(c =>
                        c.AccountId == account.Id
                        && (c.Kind == CredentialKind.TimeCode || c.Kind == CredentialKind.RecoveryCode)
                    )
                    .ExecuteDeleteAsync();
                if (removed == 0)
                    return CommonRefusals.NotFound;
                await write
                    .Rows.Sessions.Where(s => s.AccountId == account.Id)
                    .ExecuteUpdateAsync(set => set.SetProperty(s => s.SecondStep, (ProofWay?)null));
                return true;
            }
        );

    /// <summary>What was shown by a code, or <c>second-step.wrong</c>; after too many tries within the hour <c>too-many</c>.</summary>
    /// <param name="account">Whose code it should be.</param>
    /// <param name="code">A time-based code, or a recovery code.</param>
    /// <param name="network">From which network.</param>
    /// <param name="via">Through what.</param>
    public async Task<Outcome<ProofWay>> CheckAsync(
        AccountRow account,
        string? code,
        string network,
        string via
    )
    {
        if (
            await budgets.TakeAsync("second-step", account.Id.ToString(), TriesPerHour, TimeSpan.FromHours(1))
            is not null
        )
            return CommonRefusals.TooMany;
        var shown = RecoveryCode.Hash(code) is { } hash
            ? await UseRecoveryAsync(account, hash, via)
                ? ProofWay.RecoveryCode
                : (ProofWay?)null
            : await UseTimeCodeAsync(account, code)
                ? ProofWay.TimeCode
                : null;
        if (shown is { } way)
            return way;
        events.NoteSecondStep(account, network);
        return Wrong;
    }

    private async Task<bool> UseTimeCodeAsync(AccountRow account, string? code)
    {
        var now = clock.Now();
        using var pass = await gate.EnterAsync();
        await using var rows = database.Open();
        var kept = rows.Credentials.Where(c =>
            c.AccountId == account.Id && c.Kind == CredentialKind.TimeCode
        );
        var secret = await kept.Select(c => c.Secret).FirstOrDefaultAsync();
        if (secret is null || StepOf(_keys.Unprotect(secret), code) is not { } step)
            return false;
        return await kept.Where(c => c.Secret == secret && c.LastStep < step)
                .ExecuteUpdateAsync(set =>
                    set.SetProperty(c => c.LastStep, step).SetProperty(c => c.LastUsedAt, now)
                ) == 1;
    }

    private async Task<bool> UseRecoveryAsync(AccountRow account, string hash, string via)
    {
        var used = await accounts.WriteAsync<bool>(
            [account.Id],
            [],
            Caller.Invitee(account.Name, via),
            async write =>
            {
                var codes = write.Rows.Credentials.Where(c =>
                    c.AccountId == account.Id && c.Kind == CredentialKind.RecoveryCode
                );
                if (await codes.Where(c => c.Secret == hash).ExecuteDeleteAsync() == 0)
                    return Wrong;
                write.Note(account.Id, "account.recovery-code-used", ("left", await codes.CountAsync()));
                return true;
            }
        );
        return used.Succeeded;
    }

    private static async Task<Outcome<RecoveryCodes>> RenewAsync(AccountWrite write, Guid account)
    {
        await write
            .Rows.Credentials.Where(c => c.AccountId == account && c.Kind == CredentialKind.RecoveryCode)
            .ExecuteDeleteAsync();
        var codes = Enumerable
            .Range(0, RecoveryCode.Count)
            .Select(_ => RecoveryCode.Write(RandomNumberGenerator.GetBytes(RecoveryCode.Bytes)))
            .ToList();
        write.Rows.Credentials.AddRange(
            codes.Select(code =>
                RowOf(account, CredentialKind.RecoveryCode, RecoveryCode.Hash(code)!, write.Now, 0)
            )
        );
        return new RecoveryCodes(codes);
    }

    private static CredentialRow RowOf(
        Guid account,
        CredentialKind kind,
        string secret,
        DateTimeOffset now,
        long step
    ) =>
        new()
        {
            AccountId = account,
            Id = Guid.CreateVersion7(now),
            Kind = kind,
            Label = "",
            Secret = secret,
            MadeAt = now,
            LastStep = step,
        };

    /// <summary>The step of time to which a code belongs; null for a code of no near moment.</summary>
    private long? StepOf(string key, string? code)
    {
        var digits = string.Concat((code ?? "").Where(sign => !char.IsWhiteSpace(sign)));
        if (digits.Length != 6 || !digits.All(char.IsAsciiDigit))
            return null;
        var made = new Totp(Base32Encoding.ToBytes(key));
        return made.VerifyTotp(clock.Now().UtcDateTime, digits, out var step, Near) ? step : null;
    }

    private Offer? Read(AccountRow account, string? state)
    {
        try
        {
            var offer = JsonSerializer.Deserialize<Offer>(_offers.Unprotect(state ?? ""))!;
            return offer.Account == account.Id && clock.Now() < offer.Until ? offer : null;
        }
        catch (CryptographicException)
        {
            return null;
        }
    }

    private sealed record Offer(Guid Account, string Key, DateTimeOffset Until);
}
