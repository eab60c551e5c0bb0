using ComeAboard.Client.Connections;
using ComeAboard.Client.Workspaces;
using ComeAboard.Core;
using ComeAboard.Core.Access;
using ComeAboard.Core.Connections;
using ComeAboard.Core.Workspaces;
using ComeAboard.Service.Departures;
using ComeAboard.Service.Workspaces;
using ComeAboard.Storage;
using ComeAboard.Storage.Connections;
using Microsoft.EntityFrameworkCore;

namespace ComeAboard.Service.Connections;

/// <summary>What would be carried out to connected systems, and how carrying it out stands.</summary>
public sealed class CarryingOut(
    Database database,
    WorkspaceWriter writer,
    Sources sources,
    Targets targets,
    LaneBell lanes,
    TimeProvider clock
)
{
    private const int MostShown = 1_000;

    /// <summary>Has a lane wait, or go on.</summary>
    public async Task<Outcome<LaneView>> PauseAsync(Visitor visitor, string connection, bool isHeld)
    {
        var held = await writer.WriteAsync<Guid>(
            visitor.WorkspaceId,
            visitor.Caller,
            async write =>
            {
                if (!(await write.RequireAsync(Duties.Settings)).Try(out _, out var refusal))
                    return refusal;
                if (
                    await Connections.FindAsync(write.Rows, connection) is not { } row
                    || await write.Rows.Lanes.FirstOrDefaultAsync(l => l.Id == row.Id) is not { } lane
                )
                    return Connections.NotFound;
                if (lane.IsHeld != isHeld)
                    write.Record(
                        isHeld ? "connection.paused" : "connection.resumed",
                        row.Id,
                        ("name", row.Name)
                    );
                lane.IsHeld = isHeld;
                return row.Id;
            }
        );
        lanes.Ring();
        return held.Try(out _, out var no) ? await StatusAsync(visitor, connection) : no;
    }

    /// <summary>Reads a system whole and shows what would be done there; nothing is done.</summary>
    public async Task<Outcome<PushPreview>> PreviewAsync(
        Visitor visitor,
        string connection,
        PreviewRequest request,
        CancellationToken stop
    )
    {
        ConnectionRow? row;
        List<AccountThereRow> accounts;
        IReadOnlyList<MappingLine> mapping;
        await using (var rows = database.Open(visitor.WorkspaceId))
        {
            row = await Connections.FindAsync(rows, connection);
            if (row is null)
                return Connections.NotFound;
            mapping = await Carrier.MappingOf(rows, row.Id);
            accounts = await rows
                .AccountsThere.AsNoTracking()
                .Where(a => a.ConnectionId == row.Id)
                .ToListAsync(stop);
        }
        if (targets.Find(row.Type) is not { } target)
            return Mappings.NoTarget;
        if (request.With is { } with)
        {
            if (!Mappings.Read(visitor.World, with, Guid.Empty).Try(out var line, out var refusal))
                return refusal;
            mapping = [.. mapping, line];
        }
        mapping = [.. mapping.Where(line => line.Id != request.Without)];
        try
        {
            var managed = KnownAccounts.Managed(mapping, accounts);
            await using var session = await target.OpenAsync(sources.AccessOf(row), managed, stop);
            var held = await session.AllAsync(stop);
            var known = KnownAccounts.Of(
                visitor.World,
                mapping,
                accounts,
                Days.Of(clock.Now(), visitor.Workspace.Zone),
                visitor.Workspace.Zone
            );
            var survey = Survey.Of(known, held, managed);
            return PreviewOf(survey, await session.MissingAsync(stop));
        }
        catch (TargetException no)
        {
            return RefusalOf(no);
        }
    }

    /// <summary>How carrying out to a system stands.</summary>
    public async Task<Outcome<LaneView>> StatusAsync(Visitor visitor, string connection)
    {
        await using var rows = database.Open(visitor.WorkspaceId);
        await using var moment = await database.MomentAsync(rows);
        if (await Connections.FindAsync(rows, connection) is not { } row)
            return Connections.NotFound;
        var lane = await rows.Lanes.AsNoTracking().FirstOrDefaultAsync(l => l.Id == row.Id);
        var due = rows.AccountsThere.Where(a => a.ConnectionId == row.Id && a.DueAt != null);
        var isDown = lane?.Failures >= DepartureViews.StuckAfter;
        var today = Days.Of(clock.Now(), visitor.Workspace.Zone);
        var waiting = await due.CountAsync();
        var held = await rows
            .AccountsThere.Where(a => a.ConnectionId == row.Id && a.Held != null)
            .GroupBy(a => a.Held)
            .Select(of => new { of.Key, Count = of.Count() })
            .ToDictionaryAsync(of => of.Key!.Value, of => of.Count);
        return new LaneView(
            row.Name,
            row.Type,
            lane is null ? "nothing-mapped"
                : lane.IsHeld ? "paused"
                : lane.Failures > 0 ? "away"
                : waiting > 0 || lane.CompareAt <= clock.Now() ? "working"
                : "resting",
            waiting,
            isDown ? waiting : await due.CountAsync(a => a.Tries >= DepartureViews.StuckAfter),
            waiting > 0 ? await due.MinAsync(a => a.DueSince) : null,
            lane?.Answer ?? "",
            lane?.DownSince,
            lane?.NotBefore > clock.Now() ? lane.NotBefore : null,
            lane?.ConfirmedAt,
            lane?.SweptAt,
            lane?.SweepAnswer ?? "",
            await rows.LeftOvers.CountAsync(l => l.ConnectionId == row.Id && !(l.LeftUntil >= today)),
            held.GetValueOrDefault(AccountThere.On),
            held.GetValueOrDefault(AccountThere.Off),
            await Mappings.LinesAsync(rows, row.Id, visitor.World)
        );
    }

    /// <summary>The accounts of a system as they are known, by member.</summary>
    /// <param name="visitor">Who asks.</param>
    /// <param name="connection">The connection.</param>
    /// <param name="state">due, stuck, confirmed, told or by hand; null for all.</param>
    /// <param name="paging">Which page.</param>
    public async Task<Outcome<Page<AccountThereView>>> AccountsAsync(
        Visitor visitor,
        string connection,
        string? state,
        Paging paging
    )
    {
        await using var rows = database.Open(visitor.WorkspaceId);
        if (await Connections.FindAsync(rows, connection) is not { } row)
            return Connections.NotFound;
        var lane = await rows.Lanes.AsNoTracking().FirstOrDefaultAsync(l => l.Id == row.Id);
        var isDown = lane?.Failures >= DepartureViews.StuckAfter;
        var found = rows.AccountsThere.AsNoTracking().Where(a => a.ConnectionId == row.Id);
        switch (state?.Trim().ToLowerInvariant())
        {
            case null or "":
                break;
            case "due":
                found = found.Where(a => a.DueAt != null);
                break;
            case "stuck":
                found = found.Where(a => a.DueAt != null && (isDown || a.Tries >= DepartureViews.StuckAfter));
                break;
            case "confirmed":
                found = found.Where(a => a.State == ThereState.Confirmed);
                break;
            case "told":
                found = found.Where(a => a.State == ThereState.Told);
                break;
            case "by hand":
                found = found.Where(a => a.State == ThereState.ByHand);
                break;
            default:
                return new Refusal(
                    "state.unknown",
                    $"\"{Words.Short(state)}\" is no state of an account there.",
                    "Say due, stuck, confirmed, told or by hand.",
                    Field: "state"
                );
        }
        if (!paging.After(Guid.Empty).Try(out var after, out var refusal))
            return refusal;
        if (paging.Cursor is { Length: > 0 })
            found = found.Where(a => a.MemberId.CompareTo(after) > 0);
        var page = await found.OrderBy(a => a.MemberId).Take(paging.Size + 1).ToListAsync();
        return await page.PageAsync(
            paging,
            account => account.MemberId.ToString("N"),
            some =>
                Task.FromResult<IReadOnlyList<AccountThereView>>([
                    .. some.Select(account => ViewOf(account, lane, isDown)),
                ])
        );
    }

    /// <summary>What people are told of a system that cannot be used.</summary>
    public static Refusal RefusalOf(TargetException no) =>
        no.Trouble == Trouble.Barred
            ? new Refusal(
                "connection.refused",
                no.Message,
                "Give it a secret that may: aboard connections change NAME --secret-stdin. Nothing was changed.",
                RefusalSort.Conflict
            )
            : new Refusal(
                "connection.unreachable",
                no.Message,
                "Look whether it can be reached from this service, and try again. Nothing was changed.",
                RefusalSort.Conflict
            );

    /// <summary>What is otherwise in a system than it ought to be, by name; the first 1,000.</summary>
    public static IReadOnlyList<ThereChangeView> ChangesOf(Survey survey) =>
        [
            .. survey
                .Changes.OrderBy(change => change.Known.Profile.Name, StringComparer.CurrentCulture)
                .Take(MostShown)
                .Select(change => new ThereChangeView(
                    change.Known.Member,
                    change.Known.Profile.Name,
                    change.Known.Profile.Address,
                    change.IsTakenOver,
                    [
                        .. change.Steps.Select(step =>
                            step.Group.Length > 0 ? $"{step.Deed.Word()} {step.Group}" : step.Deed.Word()
                        ),
                    ],
                    string.Join(", ", change.Steps.Select(step => step.Said()))
                )),
        ];

    private static PushPreview PreviewOf(Survey survey, IReadOnlyList<string> missing) =>
        new(
            ChangesOf(survey),
            survey.Changes.Count,
            survey
                .Changes.SelectMany(change => change.Steps)
                .GroupBy(step => step.Deed)
                .OrderBy(of => of.Key)
                .ToDictionary(of => of.Key.Word(), of => of.Count()),
            survey.LeftOver.Count,
            missing
        );

    private static AccountThereView ViewOf(AccountThereRow account, LaneRow? lane, bool isDown) =>
        new(
            account.MemberId,
            account.Name,
            account.Address,
            account.Wanted.Word(),
            Carrier.SetOf(account.WantedGroups),
            account.Held?.Word() ?? "",
            Carrier.SetOf(account.HeldGroups),
            account.State switch
            {
                ThereState.Due => isDown || account.Tries >= DepartureViews.StuckAfter ? "stuck" : "due",
                ThereState.Confirmed => "confirmed",
                ThereState.Told => "told",
                _ => "by hand",
            },
            account.State == ThereState.Due && lane is { Answer.Length: > 0 } ? lane.Answer : account.Answer,
            account.Tries,
            account.DueSince,
            account.DueAt,
            account.ConfirmedAt,
            account.TheirKey
        );
}
