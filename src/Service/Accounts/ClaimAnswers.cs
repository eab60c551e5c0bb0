using ComeAboard.Client.Accounts;
using ComeAboard.Core;
using ComeAboard.Core.Accounts;
using ComeAboard.Core.Invitations;
using ComeAboard.Service.Invitations;
using ComeAboard.Service.Mail;
using ComeAboard.Service.SignIn;
using ComeAboard.Service.Workspaces;
using ComeAboard.Storage;
using ComeAboard.Storage.Accounts;
using ComeAboard.Storage.SignIn;
using ComeAboard.Storage.Workspaces;
using Microsoft.EntityFrameworkCore;

namespace ComeAboard.Service.Accounts;

/// <summary>A claim with the workspace that asks and the account it is about.</summary>
public sealed record FoundClaim(ClaimRow Row, WorkspaceRow Workspace, AccountRow Account);

/// <summary>
/// Claims as the holder of the account sees them. The link tells what is asked; answering takes a proof of the account, as
/// whoever decides over the domain may read its mail.
/// </summary>
public sealed class ClaimAnswers(
    Database database,
    AccountWriter accounts,
    ClaimDeeds deeds,
    MailedCodes codes,
    HolderCodes holderCodes,
    SignInDesk desk,
    SecondSteps steps,
    TimeProvider clock
)
{
    /// <summary>The claim a link belongs to; refuses with <c>claim.over</c> one that has another link, or none any more.</summary>
    public async Task<Outcome<FoundClaim>> FindAsync(string? secretText)
    {
        if (Secret.Read(secretText) is not { } secret)
            return LinkRules.Malformed;
        var hash = secret.Hash().Value;
        return await OneAsync(rows => rows.Where(c => c.SecretHash == hash)) is { } found
            ? found
            : new Refusal(
                "claim.over",
                "This question has been answered or withdrawn, or a newer mail has another link.",
                "Look at your account, or at your newest mail.",
                RefusalSort.NotFound
            );
    }

    /// <summary>The questions that wait for the holder of an account.</summary>
    public async Task<IReadOnlyList<FoundClaim>> WaitingAsync(Guid account)
    {
        await using var rows = database.Open();
        return await (
            from claim in rows.Claims.IgnoreQueryFilters()
            join workspace in rows.Workspaces on claim.WorkspaceId equals workspace.Id
            join one in rows.Accounts on claim.AccountId equals one.Id
            where claim.AccountId == account && claim.State == ClaimState.Asked
            orderby claim.Deadline
            select new FoundClaim(claim, workspace, one)
        )
            .AsNoTracking()
            .ToListAsync();
    }

    /// <summary>One question to the holder of an account, by its id.</summary>
    public async Task<FoundClaim?> OneAsync(Guid account, Guid claim) =>
        await OneAsync(rows => rows.Where(c => c.Id == claim && c.AccountId == account));

    private async Task<FoundClaim?> OneAsync(Func<IQueryable<ClaimRow>, IQueryable<ClaimRow>> which)
    {
        await using var rows = database.Open();
        return await (
            from claim in which(rows.Claims.IgnoreQueryFilters())
            join workspace in rows.Workspaces on claim.WorkspaceId equals workspace.Id
            join account in rows.Accounts on claim.AccountId equals account.Id
            select new FoundClaim(claim, workspace, account)
        )
            .AsNoTracking()
            .FirstOrDefaultAsync();
    }

    /// <summary>What the question says.</summary>
    public ClaimOfferView Show(FoundClaim found)
    {
        var isOver = found.Row.State == ClaimState.Asked && clock.Now() >= found.Row.Deadline;
        return new ClaimOfferView(
            found.Workspace.ShortName,
            found.Workspace.Name,
            found.Row.AskedByName,
            found.Row.Reason,
            found.Row.Address,
            isOver ? "unanswered" : ClaimKnowledge.Word(found.Row.State),
            found.Row.Deadline,
            found.Row.Silence.Word(),
            Phrases.Of(found.Account.Language).ClaimChanges(found.Workspace.Name),
            found.Row.OtherWorkspaces
        );
    }

    /// <summary>
    /// Mails a code to the address at which the holder wants to keep the other workspaces; refuses with <c>claim.keep-same</c>
    /// one that belongs to whoever asks.
    /// </summary>
    public async Task<Outcome<ClaimOfferView>> SendCodeAsync(FoundClaim found, string? address, string via)
    {
        if (!EmailAddress.Read(address).Try(out var to, out var refusal))
            return refusal;
        await using (var rows = database.Open(found.Workspace.Id))
            if (await ForbidsThereAsync(rows, found, to) is { } there)
                return there with { Field = "address" };
        var sent = await holderCodes.SendAsync(
            found.Account,
            Of(found, to),
            via,
            (workspace, code) => Letters.AddressCode(found.Account, workspace, to.ToString(), code),
            found.Workspace.Id,
            held => found.Row.Claim.After(ClaimEvent.Decline, Now(held)).Refusal
        );
        return sent.Refusal is { } no ? no : Show(found);
    }

    /// <summary>Answers for somebody who shows the account's password, as a program does.</summary>
    public async Task<Outcome<ClaimOfferView>> AnswerAsync(
        FoundClaim found,
        ClaimAnswerRequest request,
        Asking asking,
        string via
    )
    {
        if (!(await desk.ConfirmAsync(found.Account, request.Password, asking)).Try(out _, out var wrong))
            return wrong with
            {
                Sentence = "That is not the password of the account that is asked.",
                Field = "password",
            };
        if (!await steps.IsDueAsync(found.Account.Id))
            return await AnswerAsync(found, request, new Proof(ProofWay.Password, clock.Now()), via);
        if (string.IsNullOrWhiteSpace(request.SecondStep))
            return SecondSteps.Due with { Field = "secondStep" };
        var second = await steps.CheckAsync(found.Account, request.SecondStep, asking.Network, via);
        return second.Try(out var way, out var no)
            ? await AnswerAsync(found, request, new Proof(ProofWay.Password, clock.Now(), way), via)
            : no with
            {
                Field = "secondStep",
            };
    }

    /// <summary>The holder's answer; refuses with <c>claim.over</c> what comes too late, and with <c>proof.stale</c> what rests on an old proof.</summary>
    /// <param name="found">The claim.</param>
    /// <param name="request">The answer.</param>
    /// <param name="proof">What the holder showed.</param>
    /// <param name="via">Through what.</param>
    public async Task<Outcome<ClaimOfferView>> AnswerAsync(
        FoundClaim found,
        ClaimAnswerRequest request,
        Proof proof,
        string via
    )
    {
        ClaimEvent? what = request.Answer?.Trim().ToLowerInvariant() switch
        {
            "come" => ClaimEvent.Come,
            "come-and-keep" => ClaimEvent.ComeAndKeep,
            "decline" => ClaimEvent.Decline,
            _ => null,
        };
        if (what is not { } answer)
            return new Refusal(
                "claim.answer-unknown",
                "That is no answer to this question.",
                "Say come, come-and-keep or decline.",
                Field: "answer"
            );
        if (answer != ClaimEvent.Decline && proof.ForbidsDangerous(clock.Now()) is { } stale)
            return stale;
        EmailAddress? keep = null;
        var workspace = found.Workspace.Id;
        if (answer == ClaimEvent.ComeAndKeep)
        {
            if (!EmailAddress.Read(request.Keep).Try(out keep, out var refusal))
                return refusal with { Field = "keep" };
            if (await ForbidsKeepAsync(found, keep, request.Code) is { } no)
                return no;
        }
        List<Guid> others;
        await using (var rows = database.Open(workspace))
            others =
                answer == ClaimEvent.ComeAndKeep
                    ? await Claims.OthersAsync(rows, found.Account.Id, workspace)
                    : [];
        return await accounts.WriteAsync<ClaimOfferView>(
            [found.Account.Id],
            [workspace, .. others],
            Caller.Invitee(found.Account.Name, via),
            async held =>
            {
                held.Rows.Turn(workspace);
                var row = await held.Rows.Claims.AsNoTracking().FirstAsync(c => c.Id == found.Row.Id);
                var one = await ClaimKnowledge.OfAsync(held.Rows, workspace, row.AccountId, row, held.Now);
                if (
                    answer == ClaimEvent.ComeAndKeep
                    && (await Claims.OthersAsync(held.Rows, row.AccountId, workspace)).Except(others).Any()
                )
                    return CommonRefusals.Stale;
                if (!row.Claim.After(answer, one.Facts).Try(out var step, out var no))
                    return no;
                var deed = new ClaimDeed(
                    workspace,
                    one,
                    step,
                    answer == ClaimEvent.Decline ? "claim.declined" : "claim.agreed"
                )
                {
                    Keep = keep,
                };
                if (!(await deeds.DoAsync(held, deed, others)).Try(out _, out no))
                    return no;
                held.Rows.Turn(workspace);
                var after = await held.Rows.Claims.AsNoTracking().FirstAsync(c => c.Id == row.Id);
                return Show(found with { Row = after });
            }
        );
    }

    /// <summary>What is kept is kept elsewhere: not at what is asked for, nor at the domains of whoever asks.</summary>
    private static async Task<Refusal?> ForbidsThereAsync(
        ComeAboardContext rows,
        FoundClaim found,
        EmailAddress keep
    )
    {
        var domain = keep.DomainKey;
        return keep.Key == found.Row.AddressKey || await rows.Domains.AnyAsync(d => d.Domain == domain)
            ? new Refusal(
                "claim.keep-same",
                $"{keep} is an address of {found.Workspace.Name}, too.",
                "Give an address of your own, elsewhere.",
                RefusalSort.Conflict,
                "keep"
            )
            : null;
    }

    /// <summary>The other address is elsewhere, and is proved already, or by the code that was mailed to it.</summary>
    private async Task<Refusal?> ForbidsKeepAsync(FoundClaim found, EmailAddress keep, string? code)
    {
        await using var rows = database.Open(found.Workspace.Id);
        if (await ForbidsThereAsync(rows, found, keep) is { } there)
            return there;
        if (
            await rows.AccountAddresses.AnyAsync(a =>
                a.AccountId == found.Account.Id && a.AddressKey == keep.Key && a.ProvedAt != null
            )
        )
            return null;
        if (string.IsNullOrWhiteSpace(code))
            return new Refusal(
                "claim.keep-unproved",
                $"It is not shown that {keep} is yours.",
                "Have a code mailed to it, and give that code.",
                RefusalSort.Conflict,
                "code"
            );
        return await codes.IsShownAsync(Of(found, keep), code, isOnce: false) ? null : Answering.WrongCode;
    }

    private static CodeFor Of(FoundClaim found, EmailAddress to) =>
        new(CodePurpose.Address, found.Row.Id, found.Account.Id, to);

    private static ClaimFacts Now(AccountWrite held) => new(held.Now, true, 0, held.Now);
}
