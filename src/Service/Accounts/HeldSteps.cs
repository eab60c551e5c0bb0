using ComeAboard.Client.Accounts;
using ComeAboard.Core;
using ComeAboard.Core.Access;
using ComeAboard.Core.Accounts;
using ComeAboard.Service.Workspaces;
using ComeAboard.Storage;
using ComeAboard.Storage.Accounts;
using Microsoft.EntityFrameworkCore;

namespace ComeAboard.Service.Accounts;

/// <summary>
/// Pausing, resuming and closing accounts that a workspace holds. Pausing ends all sign-ins of the account, and lets nobody
/// sign in with it anywhere; what its holder is in other workspaces is left as it is.
/// </summary>
public sealed class HeldSteps(Database database, AccountWriter accounts, HolderNews news)
{
    private sealed record Wish(string Step, string Reason);

    /// <summary>Takes the step; refuses with <c>account.not-held</c>, and as <see cref="AccountStanding"/> does.</summary>
    public async Task<Outcome<HeldStepAnswer>> TakeAsync(Visitor visitor, HeldStepRequest request)
    {
        var step = request.Step?.Trim().ToLowerInvariant() ?? "";
        if (step is not ("pause" or "resume" or "close"))
            return new Refusal(
                "account.step-unknown",
                $"\"{Words.Short(step)}\" is no step with an account.",
                "Say pause, resume or close.",
                Field: "step"
            );
        if (!PlainText.ReadMessage(request.Reason).Try(out var reason, out var refusal))
            return refusal with { Field = "reason" };
        if (
            !(await Corrections.FindAsync(database, visitor, request.Address)).Try(
                out var account,
                out refusal
            )
        )
            return refusal;
        return await accounts.WriteAsync(
            [account],
            [visitor.WorkspaceId],
            visitor.Caller,
            held => TakeAsync(held, visitor, account, new Wish(step, reason))
        );
    }

    private async Task<Outcome<HeldStepAnswer>> TakeAsync(
        AccountWrite held,
        Visitor visitor,
        Guid account,
        Wish wish
    )
    {
        var row = held[account];
        if (await Resets.ForbidsAsync(held, visitor, row) is { } notHeld)
            return notHeld;
        var places = await held
            .Rows.Members.IgnoreQueryFilters()
            .Where(m => m.AccountId == account && m.EndedAt == null)
            .Select(m => m.WorkspaceId)
            .ToListAsync();
        var judged = wish.Step switch
        {
            "pause" => row.Standing.Pause(held.Now),
            "resume" => row.Standing.Resume(),
            _ => row.Standing.Close(
                held.Now,
                places.Count(place => place != visitor.WorkspaceId),
                places.Contains(visitor.WorkspaceId)
            ),
        };
        if (!judged.Try(out var next, out var no))
            return no;
        var action = "account." + (next.Word == "open" ? "resumed" : next.Word);
        await held
            .Rows.Accounts.Where(a => a.Id == account)
            .ExecuteUpdateAsync(set =>
                set.SetProperty(a => a.PausedAt, next.PausedAt)
                    .SetProperty(a => a.ClosedAt, next.ClosedAt)
                    .SetProperty(a => a.Version, a => a.Version + 1)
            );
        var closed = await held.Rows.Sessions.Where(s => s.AccountId == account).ExecuteDeleteAsync();
        if (next.ClosedAt is not null)
            await ClosedAccounts.EmptyAsync(held, account);
        held.Note(account, action, ("workspace", visitor.Workspace.Name));
        return await held.InAsync<HeldStepAnswer>(
            visitor.WorkspaceId,
            async write =>
            {
                if (await StepHereAsync(write, visitor, row, wish) is { } beyond)
                    return beyond;
                write.Record(
                    action,
                    account,
                    ("name", row.Name),
                    ("address", row.Address),
                    ("reason", wish.Reason.Length > 0 ? wish.Reason : null),
                    ("sign-ins closed", closed)
                );
                news.Tell(
                    write,
                    row,
                    action,
                    ("by", visitor.Member.Name),
                    ("workspace", visitor.Workspace.Name)
                );
                return new HeldStepAnswer(row.Address, row.Name, next.Word, closed);
            }
        );
    }

    /// <summary>What follows for the members the account is here.</summary>
    private static async Task<Refusal?> StepHereAsync(
        WorkspaceWrite write,
        Visitor visitor,
        AccountRow account,
        Wish wish
    )
    {
        var world = await write.WorldAsync();
        foreach (
            var member in await write
                .Rows.Members.Where(m => m.AccountId == account.Id && m.EndedAt == null)
                .ToListAsync()
        )
        {
            if (GivingRules.ForbidsActingOn(world, visitor.Member.Id, member.Id, write.Today) is { } beyond)
                return beyond;
            // Tokens and programs here stop with it, and go on with it.
            if (wish.Step == "pause" && member.PausedAt is null)
                MemberSteps.Pause(write, member, wish.Reason);
            else if (wish.Step == "resume" && member.PausedAt is not null)
                MemberSteps.Resume(write, member);
            else
                continue;
            member.Version++;
        }
        if (wish.Step == "close")
            await write.Rows.Claims.Where(c => c.AccountId == account.Id).ExecuteDeleteAsync();
        return null;
    }
}
