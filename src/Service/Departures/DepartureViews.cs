using ComeAboard.Client.Departures;
using ComeAboard.Core.Departures;
using ComeAboard.Storage;
using ComeAboard.Storage.Connections;
using ComeAboard.Storage.Departures;
using Microsoft.EntityFrameworkCore;

namespace ComeAboard.Service.Departures;

/// <summary>Departures, as they are answered.</summary>
public static class DepartureViews
{
    /// <summary>After how many tries in vain something is called stuck; it is tried on all the same.</summary>
    public const int StuckAfter = 3;

    /// <summary>Departures that are running and of which something is stuck.</summary>
    public static IQueryable<DepartureRow> StuckOf(ComeAboardContext rows) =>
        rows.Departures.Where(d =>
            d.State == DepartureState.Running
            && rows.AccountsThere.Any(a =>
                a.WorkspaceId == d.WorkspaceId
                && a.DepartureId == d.Id
                && a.DueAt != null
                && (
                    a.Tries >= StuckAfter
                    || rows.Lanes.Any(l =>
                        l.WorkspaceId == a.WorkspaceId && l.Id == a.ConnectionId && l.Failures >= StuckAfter
                    )
                )
            )
        );

    /// <summary>Departures with how far the outside systems have come.</summary>
    public static async Task<IReadOnlyList<DepartureView>> OfAsync(
        ComeAboardContext rows,
        IReadOnlyList<DepartureRow> page
    )
    {
        var ids = page.Where(d => d.State == DepartureState.Running).Select(d => d.Id).ToList();
        if (ids.Count == 0)
            return [.. page.Select(row => Of(row, [], []))];
        var accounts = (
            await rows
                .AccountsThere.AsNoTracking()
                .Where(a => a.DepartureId != null && ids.Contains(a.DepartureId.Value))
                .ToListAsync()
        ).ToLookup(a => a.DepartureId!.Value);
        var lanes = await rows.Lanes.AsNoTracking().ToDictionaryAsync(l => l.Id);
        return [.. page.Select(row => Of(row, [.. accounts[row.Id]], lanes))];
    }

    /// <summary>One departure.</summary>
    public static async Task<DepartureView> OfAsync(ComeAboardContext rows, DepartureRow row) =>
        (await OfAsync(rows, [row]))[0];

    /// <summary>Steps that were not begun.</summary>
    public static IReadOnlyList<DepartureStepView> StepsOf(IReadOnlyList<DepartureStep> steps) =>
        [.. steps.Select((step, at) => StepOf(step, at + 1, null, null))];

    private static DepartureView Of(
        DepartureRow row,
        IReadOnlyList<AccountThereRow> accounts,
        Dictionary<Guid, LaneRow> lanes
    )
    {
        var steps = Confirmations.StepsWith(row, accounts, IsStuck);
        return new DepartureView(
            row.Id,
            new LeaverView(row.MemberId, row.MemberName, row.MemberAddress),
            row.State == DepartureState.Running && steps.Any(step => step.State == StepState.Stuck) ? "stuck"
                // They are out; what else there is to do is done presently.
                : row is { State: DepartureState.Planned, LastDay: null } ? "running"
                : row.State.ToString().ToLowerInvariant(),
            row.LastDay,
            row.RequestedByName,
            row.RequestedAt,
            row.DoneAt
        )
        {
            Steps =
            [
                .. steps.Select(
                    (step, at) =>
                    {
                        var account = accounts.FirstOrDefault(one =>
                            step.Deed == DepartureDeed.CloseAccount && one.ConnectionId == step.Subject
                        );
                        return StepOf(
                            step,
                            at + 1,
                            account,
                            account is null ? null : lanes.GetValueOrDefault(account.ConnectionId)
                        );
                    }
                ),
            ],
            Agreed = row.AgreedDay,
            CanBeMoved = row is { State: DepartureState.Planned, KnowsAgreed: true, LastDay: not null },
            ConfirmedAt = row.ConfirmedAt,
            Receipt = row.Receipt.Length > 0 ? row.Receipt : null,
        };

        bool IsStuck(AccountThereRow account) =>
            account.Tries >= StuckAfter
            || lanes.GetValueOrDefault(account.ConnectionId)?.Failures >= StuckAfter;
    }

    /// <summary>The file beside somebody's word; null for none.</summary>
    public static StepFileView? FileOf(DepartureStep step) =>
        step.File.Length > 0 ? new StepFileView(step.File, step.FileDigest) : null;

    private static DepartureStepView StepOf(
        DepartureStep step,
        int number,
        AccountThereRow? account,
        LaneRow? lane
    )
    {
        var isOpen = step.State is StepState.Due or StepState.Stuck;
        return new DepartureStepView(
            number,
            step.Deed.Word(),
            step.Name,
            step.Subject,
            step.Heir,
            step.HeirName,
            step.Sentence(),
            step.State.Word(),
            // Where the system itself is away, that is the answer to all that waits for it.
            isOpen && lane is { Answer.Length: > 0 }
                ? lane.Answer
                : step.Answer,
            isOpen ? Math.Max(account?.Tries ?? 0, lane?.Failures ?? 0) : 0,
            isOpen ? account?.DueSince : null,
            step.At,
            step.By
        )
        {
            File = FileOf(step),
        };
    }
}
