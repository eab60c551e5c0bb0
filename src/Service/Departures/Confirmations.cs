using ComeAboard.Core.Departures;
using ComeAboard.Service.Workspaces;
using ComeAboard.Storage.Connections;
using ComeAboard.Storage.Departures;
using Microsoft.EntityFrameworkCore;

namespace ComeAboard.Service.Departures;

/// <summary>Brings departures to their end as connected systems confirm; the last confirmation has the receipt signed.</summary>
public sealed class Confirmations(Receipts receipts)
{
    /// <summary>Takes over what was just confirmed of accounts, within the change in which it was.</summary>
    public async Task TakeAsync(WorkspaceWrite write, IReadOnlyList<AccountThereRow> confirmed)
    {
        var ids = confirmed.Select(account => account.DepartureId).OfType<Guid>().Distinct().ToList();
        if (ids.Count == 0)
            return;
        var departures = await write
            .Rows.Departures.Where(d => ids.Contains(d.Id) && d.State == DepartureState.Running)
            .ToListAsync();
        // Those that were changed just now are tracked, and come as they are now.
        var accounts = (
            await write
                .Rows.AccountsThere.Where(a => a.DepartureId != null && ids.Contains(a.DepartureId.Value))
                .ToListAsync()
        ).ToLookup(a => a.DepartureId!.Value);
        var people = departures.Select(d => d.MemberId).ToList();
        var members = await write.MembersAsync(people);
        using var keys = new KeyInUse(receipts, write);
        foreach (var departure in departures)
        {
            var steps = StepsWith(departure, accounts[departure.Id]);
            departure.Steps = DepartureSteps.Write(steps);
            if (accounts[departure.Id].Any(account => account.State == ThereState.Due))
                continue;
            (departure.State, departure.ConfirmedAt) = (DepartureState.Done, write.Now);
            write.Record(
                "departure.confirmed",
                departure.MemberId,
                ("name", departure.MemberName),
                ("address", departure.MemberAddress),
                (
                    "accounts closed",
                    string.Join(
                        ", ",
                        steps.Where(step => step.Deed == DepartureDeed.CloseAccount).Select(step => step.Name)
                    )
                )
            );
            departure.Receipt = receipts.Sign(
                write,
                await keys.GetAsync(),
                departure,
                members[departure.MemberId],
                steps
            );
        }
    }

    /// <summary>The steps of a departure with what is known of the accounts that it closes.</summary>
    /// <param name="departure">The departure.</param>
    /// <param name="accounts">Its accounts in connected systems.</param>
    /// <param name="isStuck">Whether an account is to be called stuck; null for not asked.</param>
    public static IReadOnlyList<DepartureStep> StepsWith(
        DepartureRow departure,
        IEnumerable<AccountThereRow> accounts,
        Func<AccountThereRow, bool>? isStuck = null
    )
    {
        var by = accounts.ToDictionary(account => account.ConnectionId);
        return
        [
            .. DepartureSteps
                .Read(departure.Steps)
                .Select(step =>
                    step.Deed != DepartureDeed.CloseAccount ? Here(step, departure)
                    : by.GetValueOrDefault(step.Subject) is { } account ? There(step, account, isStuck)
                    : step
                ),
        ];
    }

    /// <summary>What is done here is done together with the decision, and is so by that.</summary>
    private static DepartureStep Here(DepartureStep step, DepartureRow departure) =>
        departure.State is DepartureState.Running or DepartureState.Done
            ? step with
            {
                State = StepState.Confirmed,
                At = departure.DoneAt,
            }
            : step;

    private static DepartureStep There(
        DepartureStep step,
        AccountThereRow account,
        Func<AccountThereRow, bool>? isStuck
    ) =>
        account.State switch
        {
            ThereState.Due => step with
            {
                State = isStuck?.Invoke(account) == true ? StepState.Stuck : StepState.Due,
                Answer = account.Answer,
            },
            ThereState.ByHand => step with
            {
                State = StepState.ByHand,
                At = account.ConfirmedAt,
                Answer = account.ByHandReason,
                By = account.ByHandName,
                File = account.ByHandFile,
                FileDigest = account.ByHandDigest,
            },
            ThereState.Told => step with
            {
                State = StepState.Done,
                At = account.ConfirmedAt,
                Answer = account.Answer,
            },
            _ => step with { State = StepState.Confirmed, At = account.ConfirmedAt, Answer = account.Answer },
        };
}
