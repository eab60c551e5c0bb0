using ComeAboard.Client.Accounts;
using ComeAboard.Client.Workspaces;
using ComeAboard.Core;
using ComeAboard.Core.Accounts;
using ComeAboard.Service.Workspaces;
using ComeAboard.Storage;
using ComeAboard.Storage.Accounts;
using Microsoft.EntityFrameworkCore;

namespace ComeAboard.Service.Accounts;

/// <summary>Claims as the workspace sees them: the list, one, and the steps it takes.</summary>
public sealed class Claims(Database database, AccountWriter accounts, ClaimDeeds deeds, TimeProvider clock)
{
    private const int MostAtOnce = 500;
    private const int AtOnce = 50;

    /// <summary>A page of the accounts at the workspace's domains, the oldest first: those found, and those once asked for.</summary>
    /// <param name="visitor">Who looks.</param>
    /// <param name="state">Only those that stand so; null for all.</param>
    /// <param name="paging">Which page.</param>
    public async Task<Outcome<Page<ClaimView>>> ListAsync(Visitor visitor, string? state, Paging paging)
    {
        ClaimState? wanted = null;
        if (!string.IsNullOrWhiteSpace(state))
        {
            if (!Enum.TryParse<ClaimState>(state, true, out var read) || int.TryParse(state, out _))
                return new Refusal(
                    "claim.state-unknown",
                    $"\"{Words.Short(state)}\" is no state of a claim.",
                    "Say found, asked, agreed, declined, unanswered, taken, released or dropped.",
                    Field: "state"
                );
            wanted = read;
        }
        var after = Guid.Empty;
        if (paging.Cursor is { Length: > 0 } && !Guid.TryParseExact(paging.Cursor, "N", out after))
            return Keysets.BadCursor;
        var (workspace, now) = (visitor.WorkspaceId, clock.Now());
        await using var rows = database.Open(workspace);
        var claims = await rows
            .Claims.AsNoTracking()
            .Where(c => c.AccountId.CompareTo(after) > 0 && (wanted == null || c.State == wanted))
            // Whatever was made one with another account is that one.
            .Where(c => !rows.Accounts.Any(a => a.Id == c.AccountId && a.MergedIntoId != null))
            .OrderBy(c => c.AccountId)
            .Take(paging.Size + 1)
            .ToListAsync();
        var others = new[]
        {
            wanted is null or ClaimState.Found ? Found(rows, workspace) : null,
            wanted is null or ClaimState.Taken ? Outright(rows, workspace) : null,
        };
        var found = new List<AccountAddressRow>();
        foreach (var some in others.OfType<IQueryable<AccountAddressRow>>())
            found.AddRange(
                await some.AsNoTracking()
                    .Where(at => at.AccountId.CompareTo(after) > 0)
                    .OrderBy(at => at.AccountId)
                    .Take(paging.Size + 1)
                    .ToListAsync()
            );
        var all = claims
            .Select(c => new ClaimKnowledge.Named(c.AccountId, c, c.Address))
            .Concat(found.Select(at => new ClaimKnowledge.Named(at.AccountId, null, at.Address)))
            .OrderBy(one => one.Account)
            .Take(paging.Size + 1)
            .ToList();
        return await all.PageAsync(
            paging,
            one => one.Account.ToString("N"),
            async page =>
                (IReadOnlyList<ClaimView>)
                    [
                        .. (await ClaimKnowledge.OfAsync(rows, workspace, page, now)).Select(one =>
                            ClaimKnowledge.ViewOf(one, workspace)
                        ),
                    ]
        );
    }

    /// <summary>How many personally held accounts at its domains a workspace has not asked for.</summary>
    public static Task<int> CountFoundAsync(ComeAboardContext rows, Guid workspace) =>
        Found(rows, workspace).CountAsync();

    /// <summary>The claim to the account at an address.</summary>
    public async Task<Outcome<ClaimView>> ShowAsync(Visitor visitor, string address)
    {
        await using var rows = database.Open(visitor.WorkspaceId);
        return (await ClaimKnowledge.FindAsync(rows, visitor.WorkspaceId, address, clock.Now())).Then(one =>
            ClaimKnowledge.ViewOf(one, visitor.WorkspaceId)
        );
    }

    /// <summary>Takes a step with claims, each by itself.</summary>
    public async Task<Outcome<ClaimStepAnswer>> StepAsync(Visitor visitor, ClaimStepRequest request)
    {
        ClaimEvent? what = request.Action?.Trim().ToLowerInvariant() switch
        {
            "ask" => ClaimEvent.Ask,
            "ask-again" => ClaimEvent.AskAgain,
            "cancel" => ClaimEvent.Cancel,
            "take" => ClaimEvent.Take,
            "release" => ClaimEvent.Release,
            _ => null,
        };
        if (what is not { } step)
            return new Refusal(
                "claim.action-unknown",
                $"\"{Words.Short(request.Action ?? "")}\" is no step of a claim.",
                "Say ask, ask-again, cancel, take or release.",
                Field: "action"
            );
        if (request.Addresses is not { Count: > 0 and <= MostAtOnce })
            return new Refusal(
                "claim.addresses",
                $"Give 1 to {MostAtOnce} addresses.",
                "Cut the list into parts.",
                Field: "addresses"
            );
        var reason = PlainText.ReadMessage(request.Reason);
        if (!reason.Try(out var why, out var refusal))
            return refusal with { Field = "reason" };
        var results = new List<ClaimResult>();
        foreach (var address in request.Addresses)
        {
            var done = await StepAsync(visitor, address, step, request, why);
            results.Add(
                done.Try(out var taken, out var no)
                    ? new ClaimResult(
                        address,
                        request.Action!,
                        true,
                        null,
                        SentenceOf(taken.View, step),
                        taken.View
                    )
                    {
                        Follows = taken.Follows,
                    }
                    : new ClaimResult(
                        address,
                        request.Action!,
                        false,
                        no.Code,
                        $"{no.Sentence} {no.Remedy}",
                        null
                    )
            );
        }
        return new ClaimStepAnswer(results);
    }

    private sealed record Taken(ClaimView View, IReadOnlyList<string> Follows);

    private async Task<Outcome<Taken>> StepAsync(
        Visitor visitor,
        string address,
        ClaimEvent what,
        ClaimStepRequest request,
        string reason
    )
    {
        var workspace = visitor.WorkspaceId;
        ClaimedAccount found;
        List<Guid> others;
        await using (var rows = database.Open(workspace))
        {
            if (
                !(await ClaimKnowledge.FindAsync(rows, workspace, address, clock.Now())).Try(
                    out found!,
                    out var refusal
                )
            )
                return refusal;
            others = what == ClaimEvent.Release ? await OthersAsync(rows, found.Account.Id, workspace) : [];
        }
        return await accounts.WriteAsync<Taken>(
            [found.Account.Id],
            [workspace, .. others],
            visitor.Caller,
            async held =>
            {
                held.Rows.Turn(workspace);
                if (
                    !(await ClaimKnowledge.FindAsync(held.Rows, workspace, address, held.Now)).Try(
                        out var one,
                        out var no
                    )
                    || one.Account.Id != found.Account.Id
                )
                    return no ?? CommonRefusals.Stale;
                // A workspace it came to at this very moment is not locked.
                if (
                    what == ClaimEvent.Release
                    && (await OthersAsync(held.Rows, one.Account.Id, workspace)).Except(others).Any()
                )
                    return CommonRefusals.Stale;
                var claim = one.Claim(workspace);
                var silence = WorkspaceRules.Of(visitor.Workspace).ClaimSilence;
                // At once: taken where nobody would miss it, else its holder answers while they sit beside whoever asks.
                var judged =
                    what == ClaimEvent.Ask && request.AtOnce
                        ? one.Facts.IsDormant
                            ? claim.After(ClaimEvent.Take, one.Facts)
                            : claim.AskHere(one.Facts)
                        : what is ClaimEvent.Ask or ClaimEvent.AskAgain
                            ? claim.Ask(
                                one.Facts,
                                request.NoticeDays ?? Claim.UsualNoticeDays,
                                silence,
                                what == ClaimEvent.AskAgain
                            )
                            : claim.After(what, one.Facts);
                if (!judged.Try(out var step, out no))
                    return no;
                var seat = await HeldSeats.SentenceAsync(
                    held.Rows,
                    visitor.Workspace,
                    one.Account.Id,
                    held.Now
                );
                var follows = ClaimOutlook.Of(claim, step, one.Facts, seat);
                var asks = what is ClaimEvent.Ask or ClaimEvent.AskAgain;
                var deed = new ClaimDeed(
                    workspace,
                    one,
                    step,
                    "claim." + ClaimKnowledge.Word(step.Next.State)
                )
                {
                    Reason = asks && reason.Length > 0 ? reason : null,
                    AskedBy = asks || step.Takes ? visitor.Member.Name : null,
                };
                if (!(await deeds.DoAsync(held, deed, others)).Try(out _, out no))
                    return no;
                held.Rows.Turn(workspace);
                var row = await held
                    .Rows.Claims.AsNoTracking()
                    .FirstAsync(c => c.AccountId == one.Account.Id);
                return new Taken(
                    ClaimKnowledge.ViewOf(
                        await ClaimKnowledge.OfAsync(held.Rows, workspace, one.Account.Id, row, held.Now),
                        workspace
                    ),
                    follows
                );
            }
        );
    }

    /// <summary>Has what is due happen: reminders, and what follows when nobody answered in time.</summary>
    /// <returns>How many claims were due.</returns>
    public async Task<int> CatchUpAsync()
    {
        var now = clock.Now();
        await using var rows = database.Open();
        var due = await rows
            .Claims.IgnoreQueryFilters()
            .AsNoTracking()
            .Where(c => c.NextAt != null && c.NextAt <= now)
            .OrderBy(c => c.NextAt)
            .Take(AtOnce)
            .ToListAsync();
        foreach (var row in due)
            _ = await TurnAsync(row);
        return due.Count;
    }

    private async Task<Outcome<bool>> TurnAsync(ClaimRow due)
    {
        var workspace = due.WorkspaceId;
        List<Guid> others;
        await using (var rows = database.Open(workspace))
            others = await OthersAsync(rows, due.AccountId, workspace);
        return await accounts.WriteAsync<bool>(
            [due.AccountId],
            [workspace, .. others],
            Caller.Clock,
            async held =>
            {
                held.Rows.Turn(workspace);
                var row = await held.Rows.Claims.AsNoTracking().FirstAsync(c => c.Id == due.Id);
                // Somebody answered, or another process was here first.
                if (row.NextAt is not { } next || next > held.Now)
                    return true;
                if (held.Now < row.Deadline)
                    return await deeds.RemindAsync(held, workspace, row);
                if ((await OthersAsync(held.Rows, row.AccountId, workspace)).Except(others).Any())
                    return CommonRefusals.Stale;
                var one = await ClaimKnowledge.OfAsync(held.Rows, workspace, row.AccountId, row, held.Now);
                return row.Claim.After(ClaimEvent.TimeIsUp, one.Facts).Try(out var step, out var no)
                    ? await deeds.DoAsync(
                        held,
                        new ClaimDeed(workspace, one, step, "claim." + ClaimKnowledge.Word(step.Next.State)),
                        others
                    )
                    : no;
            }
        );
    }

    /// <summary>The other workspaces in which an account is or was.</summary>
    internal static Task<List<Guid>> OthersAsync(ComeAboardContext rows, Guid account, Guid workspace) =>
        rows
            .Members.IgnoreQueryFilters()
            .Where(m => m.AccountId == account && m.WorkspaceId != workspace)
            .Select(m => m.WorkspaceId)
            .Distinct()
            .ToListAsync();

    private static IQueryable<AccountAddressRow> Found(ComeAboardContext rows, Guid workspace) =>
        from domain in rows.Domains.Where(d => d.WorkspaceId == workspace && d.Holds != null)
        join at in rows.AccountAddresses on domain.Domain equals at.Domain
        join account in rows.Accounts on at.AccountId equals account.Id
        where
            at.ProvedAt != null
            && at.Address == account.Address
            && account.CustodyId == null
            && !rows.Claims.Any(c => c.WorkspaceId == workspace && c.AccountId == account.Id)
        select at;

    /// <summary>The accounts in custody that were never asked for: the workspace made them.</summary>
    private static IQueryable<AccountAddressRow> Outright(ComeAboardContext rows, Guid workspace) =>
        from account in rows.Accounts
        join at in rows.AccountAddresses on account.Id equals at.AccountId
        where
            account.CustodyId == workspace
            && at.Address == account.Address
            && !rows.Claims.Any(c => c.WorkspaceId == workspace && c.AccountId == account.Id)
        select at;

    private static string SentenceOf(ClaimView view, ClaimEvent what) =>
        view.State switch
        {
            "asked" when view.AtOnce =>
                $"Its holder is asked here and now: until {view.Deadline:HH:mm} UTC they answer in their account, or by the mail.",
            "asked" => $"Its holder is asked, and has until {view.Deadline:yyyy-MM-dd HH:mm} UTC.",
            "taken" => "It is in the workspace's custody.",
            "released" => "The address is free; the account goes on under another.",
            "dropped" when what == ClaimEvent.Release => "Custody is given up; the account is personal.",
            _ => "The question is withdrawn.",
        };
}
