using ComeAboard.Core;
using ComeAboard.Core.Accounts;
using ComeAboard.Core.Merging;
using ComeAboard.Service.Accounts;
using ComeAboard.Service.Mail;
using ComeAboard.Service.SignIn;
using ComeAboard.Service.Workspaces;
using ComeAboard.Storage;
using ComeAboard.Storage.Accounts;
using ComeAboard.Storage.SignIn;
using Microsoft.AspNetCore.DataProtection;
using Microsoft.EntityFrameworkCore;

namespace ComeAboard.Service.Merging;

/// <summary>What joining two accounts of one's own would come to.</summary>
/// <param name="Stays">The account that stays.</param>
/// <param name="Goes">The account that goes.</param>
/// <param name="Done">What it comes to, place by place.</param>
/// <param name="Ticket">That both were shown to be one's own: sealed, for ten minutes.</param>
public sealed record JoinPlan(AccountRow Stays, AccountRow Goes, MergeDone Done, string Ticket);

/// <summary>Two accounts of one's own that were joined and can be parted.</summary>
/// <param name="Id">The merge.</param>
/// <param name="Address">The address of the account that went.</param>
/// <param name="Merge">When.</param>
public sealed record JoinedAccount(Guid Id, string Address, AccountMerge Merge);

/// <summary>
/// Joining two accounts by whoever holds both: they are signed in with the one and showed it lately, and show the other by a
/// code mailed to it, and by its second step where it has one – by no less than it takes to sign in with it. Nothing is given
/// that neither could do, as nobody in any workspace opted for it.
/// </summary>
public sealed class YourMerges(
    Database database,
    AccountWriter accounts,
    HolderCodes holderCodes,
    MailedCodes codes,
    SecondSteps steps,
    MergeDesk desk,
    PartingDesk partings,
    IDataProtectionProvider protection,
    TimeProvider clock
)
{
    private static readonly TimeSpan TicketLifetime = TimeSpan.FromMinutes(10);

    private readonly ITimeLimitedDataProtector _tickets = protection
        .CreateProtector("ComeAboard.Merging.BothShown.v1")
        .ToTimeLimitedDataProtector();

    /// <summary>
    /// Mails a code to another address, if an account has proved it; whether one has is told nobody. Refuses with <c>merge.one</c> an
    /// address that leads to the account itself.
    /// </summary>
    public async Task<Outcome<EmailAddress>> SendCodeAsync(AccountRow account, string? address, string via)
    {
        if (!EmailAddress.Read(address).Try(out var to, out var refusal))
            return refusal;
        if (await IsOwnAsync(account, to))
            return new Refusal(
                "merge.one",
                $"{to} leads to this very account.",
                "Give an address of the other one.",
                RefusalSort.Conflict,
                "address"
            );
        var isThere = await OtherAsync(account, to) is not null;
        var sent = await holderCodes.SendAsync(
            account,
            Of(account, to),
            via,
            isThere ? (workspace, code) => Letters.MergeCode(account, workspace, to.ToString(), code) : null
        );
        return sent.Refusal is { } no ? no : to;
    }

    /// <summary>
    /// Shows the other account to be one's own; refuses with <c>code.wrong</c>, and with <c>second-step.due</c> or
    /// <c>second-step.wrong</c> where it has a second step. What joining would come to is answered.
    /// </summary>
    public async Task<Outcome<JoinPlan>> ShowAsync(
        AccountRow account,
        string? address,
        string? code,
        string? secondStep,
        Asking asking,
        string via
    )
    {
        if (!EmailAddress.Read(address).Try(out var to, out var refusal))
            return refusal;
        var other = await OtherAsync(account, to);
        var isDue = other is not null && await steps.IsDueAsync(other.Id);
        // It is used up by what it opens.
        if (!await codes.IsShownAsync(Of(account, to), code, isOnce: !isDue) || other is null)
            return Invitations.Answering.WrongCode;
        if (isDue)
        {
            if (string.IsNullOrWhiteSpace(secondStep))
                return SecondSteps.Due with { Field = "step" };
            if (!(await steps.CheckAsync(other, secondStep, asking.Network, via)).Try(out _, out refusal))
                return refusal with { Field = "step" };
            if (!await codes.IsShownAsync(Of(account, to), code, isOnce: true))
                return Invitations.Answering.WrongCode;
        }
        return await PlanAsync(account, TicketOf(account.Id, other.Id), keepsOther: false, via);
    }

    /// <summary>What joining would come to; nothing of it is kept.</summary>
    /// <param name="account">Who asks.</param>
    /// <param name="ticket">That the other was shown, too.</param>
    /// <param name="keepsOther">Whether the other stays.</param>
    /// <param name="via">Through what.</param>
    public Task<Outcome<JoinPlan>> PlanAsync(
        AccountRow account,
        string? ticket,
        bool keepsOther,
        string via
    ) => JoinAsync(account, ticket, keepsOther, Caller.Invitee(account.Name, via) with { Rehearses = true });

    /// <summary>Joins the two; refuses with <c>proof.stale</c>, and as <see cref="MergeDesk.ForbidsAsync"/> does.</summary>
    public async Task<Outcome<JoinPlan>> JoinAsync(
        AccountRow account,
        string? ticket,
        bool keepsOther,
        Proof proof,
        string via
    ) =>
        proof.ForbidsDangerous(clock.Now()) is { } stale
            ? stale
            : await JoinAsync(account, ticket, keepsOther, Caller.Invitee(account.Name, via));

    /// <summary>The accounts somebody joined to theirs and can part again.</summary>
    public async Task<IReadOnlyList<JoinedAccount>> JoinedAsync(Guid account)
    {
        var since = clock.Now() - AccountMerge.Grace;
        await using var rows = database.Open();
        return await (
            from merge in rows.AccountMerges
            join gone in rows.Accounts on merge.GoneId equals gone.Id
            where
                merge.KeptId == account
                && merge.ByWorkspaceId == null
                && merge.UndoneAt == null
                && merge.At > since
            orderby merge.At descending
            select new JoinedAccount(merge.Id, gone.Address, new AccountMerge(merge.At, null))
        ).ToListAsync();
    }

    /// <summary>Parts two accounts again that their holder joined; refuses as <see cref="AccountMerge.ForbidsUndoing"/> does.</summary>
    public async Task<Outcome<IReadOnlyList<string>>> PartAsync(
        AccountRow account,
        Guid id,
        Proof proof,
        string via
    )
    {
        if (proof.ForbidsDangerous(clock.Now()) is { } stale)
            return stale;
        AccountMergeRow? merge;
        IReadOnlyList<Guid> places;
        await using (var rows = database.Open())
        {
            merge = await rows
                .AccountMerges.AsNoTracking()
                .FirstOrDefaultAsync(m => m.Id == id && m.KeptId == account.Id && m.ByWorkspaceId == null);
            if (merge is null)
                return CommonRefusals.NotFound;
            places = await PartingDesk.PlacesAsync(rows, merge);
        }
        return await accounts.WriteAsync(
            [merge.KeptId, merge.GoneId],
            places,
            Caller.Invitee(account.Name, via),
            held => partings.PartAsync(held, id, places)
        );
    }

    private async Task<Outcome<JoinPlan>> JoinAsync(
        AccountRow account,
        string? ticket,
        bool keepsOther,
        Caller caller
    )
    {
        if (OtherIn(account.Id, ticket) is not { } other)
            return new Refusal(
                "merge.not-shown",
                "It is more than ten minutes since the other account was shown to be yours.",
                "Have a code mailed to it again.",
                RefusalSort.Conflict
            );
        var (kept, gone) = keepsOther ? (other, account.Id) : (account.Id, other);
        IReadOnlyList<Guid> places;
        await using (var rows = database.Open())
            places = await Claims.OthersAsync(rows, gone, Guid.Empty);
        return await accounts.WriteAsync<JoinPlan>(
            [kept, gone],
            places,
            caller,
            async held =>
            {
                var deal = new MergeDeal(
                    Guid.CreateVersion7(held.Now),
                    held[kept],
                    held[gone],
                    null,
                    MergeWish.Nothing,
                    await MergeDesk.ForbidsAsync(held, held[kept], held[gone])
                );
                if (!caller.Rehearses && deal.Stop is { } stop)
                    return stop;
                if (!(await desk.DoAsync(held, deal, places)).Try(out var done, out var no))
                    return no;
                return !caller.Rehearses && done.No is { } not
                    ? not
                    : new JoinPlan(held[kept], held[gone], done, ticket!);
            }
        );
    }

    private string TicketOf(Guid account, Guid other) =>
        _tickets.Protect($"{account:N}{other:N}", TicketLifetime);

    private Guid? OtherIn(Guid account, string? ticket)
    {
        try
        {
            var said = _tickets.Unprotect(ticket ?? "");
            return said.StartsWith(account.ToString("N"), StringComparison.Ordinal)
                ? Guid.ParseExact(said[32..], "N")
                : null;
        }
        catch (System.Security.Cryptography.CryptographicException)
        {
            return null;
        }
    }

    private async Task<bool> IsOwnAsync(AccountRow account, EmailAddress at)
    {
        await using var rows = database.Open();
        return await rows.AccountAddresses.AnyAsync(a =>
            a.AccountId == account.Id && a.AddressKey == at.Key && a.ProvedAt != null
        );
    }

    /// <summary>The account that has proved an address, beside somebody's own.</summary>
    private async Task<AccountRow?> OtherAsync(AccountRow account, EmailAddress at)
    {
        await using var rows = database.Open();
        return await (
            from address in rows.AccountAddresses
            join one in rows.Accounts on address.AccountId equals one.Id
            where address.AddressKey == at.Key && address.ProvedAt != null && one.Id != account.Id
            select one
        )
            .AsNoTracking()
            .FirstOrDefaultAsync();
    }

    private static CodeFor Of(AccountRow account, EmailAddress to) =>
        new(CodePurpose.Merge, account.Id, account.Id, to);
}
