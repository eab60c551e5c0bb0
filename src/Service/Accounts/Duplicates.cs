using System.Collections.Concurrent;
using System.Collections.Frozen;
using System.Diagnostics;
using System.Globalization;
using ComeAboard.Client.Accounts;
using ComeAboard.Client.Workspaces;
using ComeAboard.Core;
using ComeAboard.Core.Access;
using ComeAboard.Core.Invitations;
using ComeAboard.Core.Matching;
using ComeAboard.Service.Jobs;
using ComeAboard.Service.Workspaces;
using ComeAboard.Storage;
using ComeAboard.Storage.Accounts;
using Microsoft.EntityFrameworkCore;

namespace ComeAboard.Service.Accounts;

/// <summary>
/// Who is here twice: found soon after people came or were written down otherwise, and once a day; listed; and said to be
/// two people by somebody, which is remembered. Only what the workspace itself knows is weighed, never what else an account
/// has.
/// </summary>
public sealed class Duplicates(
    Database database,
    WorkspaceWriter workspaces,
    WriteGate gate,
    TimeProvider clock
)
{
    private const int AtOnce = 20;
    private const int RestsTimes = 20;

    /// <summary>Whoever was here so lately uses their account.</summary>
    private static readonly TimeSpan Lately = TimeSpan.FromDays(14);
    private static readonly TimeSpan Sweep = TimeSpan.FromDays(1);
    private static readonly TimeSpan AfterFault = TimeSpan.FromMinutes(1);

    // Looking at many people takes a while: a workspace where people come all day is not looked at all day.
    private readonly ConcurrentDictionary<Guid, DateTimeOffset> _resting = new();

    /// <summary>How many pairs nobody has said anything of.</summary>
    public static Task<int> CountOpenAsync(ComeAboardContext rows) =>
        OfThoseHere(rows).CountAsync(d => d.DistinctAt == null);

    /// <summary>The pairs of whom both are here: whoever has left since they were found is twice no more.</summary>
    private static IQueryable<DuplicateRow> OfThoseHere(ComeAboardContext rows) =>
        rows.Duplicates.Where(d =>
            rows.Members.Any(m => m.WorkspaceId == d.WorkspaceId && m.Id == d.LeftId && m.EndedAt == null)
            && rows.Members.Any(m => m.WorkspaceId == d.WorkspaceId && m.Id == d.RightId && m.EndedAt == null)
        );

    /// <summary>People here who may be one human, the likeliest first.</summary>
    /// <param name="visitor">Who asks.</param>
    /// <param name="least">likely or same; nothing for likely.</param>
    /// <param name="said">open or distinct; nothing for open.</param>
    /// <param name="paging">Which page.</param>
    public async Task<Outcome<Page<DuplicateView>>> ListAsync(
        Visitor visitor,
        string? least,
        string? said,
        Paging paging
    )
    {
        if (least is not (null or "" or "likely" or "same"))
            return Unknown("duplicate.least-unknown", least, "likely or same", "least");
        if (said is not (null or "" or "open" or "distinct"))
            return Unknown("duplicate.said-unknown", said, "open or distinct", "said");
        await using var rows = database.Open(visitor.WorkspaceId);
        var pairs = OfThoseHere(rows).AsNoTracking();
        pairs =
            said == "distinct"
                ? pairs.Where(d => d.DistinctAt != null)
                : pairs.Where(d => d.DistinctAt == null);
        if (least == "same")
            pairs = pairs.Where(d => d.Score >= (int)(MatchThresholds.Same * 1000));
        if (paging.Cursor is { Length: > 0 } cursor)
        {
            if (!IsCursor(cursor, out var score, out var after))
                return Keysets.BadCursor;
            pairs = pairs.Where(d => d.Score < score || d.Score == score && d.Id.CompareTo(after) > 0);
        }
        var found = await pairs
            .OrderByDescending(d => d.Score)
            .ThenBy(d => d.Id)
            .Take(paging.Size + 1)
            .ToListAsync();
        return await found.PageAsync(
            paging,
            d => $"{d.Score}-{d.Id:N}",
            async page => await ViewsAsync(rows, page, visitor.WorkspaceId)
        );
    }

    /// <summary>
    /// Says of two people here that they are two, or takes that back; refuses with <c>duplicate.one</c>,
    /// <c>duplicate.not-said</c> and <c>person.not-found</c>.
    /// </summary>
    public async Task<Outcome<DuplicateView>> DistinguishAsync(Visitor visitor, DistinctRequest request)
    {
        if (!PlainText.ReadMessage(request.Reason).Try(out var reason, out var refusal))
            return refusal with { Field = "reason" };
        return await workspaces.WriteAsync<DuplicateView>(
            visitor.WorkspaceId,
            visitor.Caller,
            write => DistinguishAsync(write, request, reason)
        );
    }

    /// <summary>Looks where people came or changed, and where nobody looked for a day; true while there may be more.</summary>
    public async Task<bool> CatchUpAsync()
    {
        var now = clock.Now();
        var resting = _resting.Where(one => one.Value > now).Select(one => one.Key).ToList();
        await using var rows = database.Open();
        var due = await rows
            .Workspaces.AsNoTracking()
            .Where(w => w.MatchDueAt <= now && !resting.Contains(w.Id))
            .OrderBy(w => w.MatchDueAt)
            .Take(AtOnce)
            .Select(w => new { w.Id, w.MatchDueAt })
            .ToListAsync();
        foreach (var one in due)
        {
            // One that cannot be looked at waits, and keeps nobody else from being looked at.
            _resting[one.Id] = clock.Now() + AfterFault;
            var began = Stopwatch.GetTimestamp();
            await LookAsync(one.Id, one.MatchDueAt);
            _resting[one.Id] = clock.Now() + RestsTimes * Stopwatch.GetElapsedTime(began);
        }
        return due.Count == AtOnce;
    }

    /// <summary>Looks who is twice in a workspace, and writes down what is different from what is written down.</summary>
    private async Task LookAsync(Guid workspace, DateTimeOffset due)
    {
        List<SomebodyHere> people;
        List<DuplicateRow> known;
        await using (var rows = database.Open(workspace))
        {
            people = await HereAsync(rows, workspace, clock.Now() - Lately);
            known = await rows.Duplicates.AsNoTracking().ToListAsync();
        }
        var here = people.Select(one => one.Id).ToFrozenSet();
        var changes = Twice.Compare(known.Select(row => row.Known), Twice.Find(people), here.Contains);
        var next = clock.Now() + Sweep;
        if (changes.IsNothing)
        {
            using var pass = await gate.EnterAsync();
            await using var rows = database.Open();
            await SettleAsync(rows, workspace, due, next);
            return;
        }
        await workspaces.WriteAsync<bool>(
            workspace,
            Caller.Clock,
            async write =>
            {
                await PutAsync(write, changes, here);
                await SettleAsync(write.Rows, workspace, due, next);
                return true;
            }
        );
    }

    /// <summary>Looks again in a day, unless people came or changed meanwhile.</summary>
    private static Task SettleAsync(
        ComeAboardContext rows,
        Guid workspace,
        DateTimeOffset due,
        DateTimeOffset next
    ) =>
        rows
            .Workspaces.Where(w => w.Id == workspace && w.MatchDueAt == due)
            .ExecuteUpdateAsync(set => set.SetProperty(w => w.MatchDueAt, next));

    private static async Task<List<SomebodyHere>> HereAsync(
        ComeAboardContext rows,
        Guid workspace,
        DateTimeOffset lately
    )
    {
        var members = await rows
            .Members.AsNoTracking()
            .Where(m => m.EndedAt == null)
            .Select(m => new
            {
                m.Id,
                m.Name,
                m.Address,
                m.InvitedAs,
                m.Organisation,
                m.Title,
                m.LastSeenAt,
            })
            .ToListAsync();
        var roof = workspace.ToString("N");
        return
        [
            .. members.Select(m => new SomebodyHere(
                m.Id,
                new MatchRecord(
                    Name: m.Name,
                    Address: m.Address,
                    OtherAddresses: m.InvitedAs,
                    Organisation: m.Organisation,
                    Title: m.Title,
                    Roof: m.LastSeenAt > lately ? roof : null
                )
            )),
        ];
    }

    /// <summary>What was said or removed since it was read counts for more than what was found.</summary>
    private static async Task PutAsync(WorkspaceWrite write, TwiceChanges changes, FrozenSet<Guid> here)
    {
        var rows = (await write.Rows.Duplicates.ToListAsync()).ToDictionary(d => (d.LeftId, d.RightId));
        foreach (var pair in changes.Add.Concat(changes.Change))
        {
            var (score, reasons) = (ScoreOf(pair.Score), string.Join('\n', pair.Reasons));
            if (rows.TryGetValue(pair.Pair, out var row))
                (row.Score, row.Reasons) = (score, reasons);
            else
                write.Rows.Duplicates.Add(
                    new DuplicateRow
                    {
                        WorkspaceId = write.Workspace.Id,
                        Id = Guid.CreateVersion7(write.Now),
                        LeftId = pair.Left,
                        RightId = pair.Right,
                        Score = score,
                        Reasons = reasons,
                        FoundAt = write.Now,
                    }
                );
        }
        foreach (var pair in changes.Drop)
            if (
                rows.TryGetValue(pair, out var row)
                && (row.DistinctAt is null || !here.Contains(pair.Left) || !here.Contains(pair.Right))
            )
                write.Rows.Duplicates.Remove(row);
    }

    private static async Task<Outcome<DuplicateView>> DistinguishAsync(
        WorkspaceWrite write,
        DistinctRequest request,
        string reason
    )
    {
        if (!(await write.RequireAsync(Duties.Claims)).Try(out var by, out var no))
            return no;
        if (!(await People.HereAsync(write.Rows, request.Left ?? "")).Try(out var one, out no))
            return no with { Field = "left" };
        if (!(await People.HereAsync(write.Rows, request.Right ?? "")).Try(out var other, out no))
            return no with { Field = "right" };
        if (one.Id == other.Id)
            return new Refusal(
                "duplicate.one",
                $"{one.Name} was named twice.",
                "Name two different people.",
                Field: "right"
            );
        var (left, right) = Twice.InOrder(one.Id, other.Id);
        var row = await write.Rows.Duplicates.FirstOrDefaultAsync(d =>
            d.LeftId == left && d.RightId == right
        );
        if (request.TakesBack && row?.DistinctAt is null)
            return new Refusal(
                "duplicate.not-said",
                "Nobody has said of them that they are two people.",
                "Look at who was: aboard accounts duplicates --distinct",
                RefusalSort.Conflict
            );
        if (row is null)
            write.Rows.Duplicates.Add(
                row = new DuplicateRow
                {
                    WorkspaceId = write.Workspace.Id,
                    Id = Guid.CreateVersion7(write.Now),
                    LeftId = left,
                    RightId = right,
                    Score = 0,
                    Reasons = "",
                    FoundAt = write.Now,
                }
            );
        var isSaid = !request.TakesBack;
        row.DistinctAt = isSaid ? write.Now : null;
        row.DistinctById = isSaid ? by.Id : null;
        row.DistinctByName = isSaid ? by.Name : "";
        row.DistinctReason = isSaid ? reason : "";
        row.IsOnPurpose = isSaid && request.OnPurpose;
        write.Record(
            request.TakesBack ? "people.not-distinct"
                : request.OnPurpose ? "people.two-capacities"
                : "people.distinct",
            one.Id,
            ("name", one.Name),
            ("address", one.Address),
            ("other", other.Name),
            ("other address", other.Address),
            ("reason", reason.Length > 0 ? reason : null)
        );
        // Two who were never taken for one are in no list again; whatever it is taken back from is weighed anew.
        if (request.TakesBack && row.Probability < MatchThresholds.Likely)
            write.Rows.Duplicates.Remove(row);
        if (request.TakesBack)
            await write
                .Rows.Workspaces.Where(w => w.Id == write.Workspace.Id)
                .ExecuteUpdateAsync(set => set.SetProperty(w => w.MatchDueAt, write.Now));
        return (await ViewsAsync(write.Rows, [row], write.Workspace.Id))[0];
    }

    private static async Task<IReadOnlyList<DuplicateView>> ViewsAsync(
        ComeAboardContext rows,
        IReadOnlyList<DuplicateRow> pairs,
        Guid workspace
    )
    {
        var ids = pairs.SelectMany(d => new[] { d.LeftId, d.RightId }).Distinct().ToList();
        var people = await (
            from member in rows.Members.AsNoTracking()
            join account in rows.Accounts on member.AccountId equals account.Id
            where ids.Contains(member.Id)
            select new { Member = member, IsHeld = account.CustodyId == workspace }
        ).ToDictionaryAsync(
            found => found.Member.Id,
            found => new TwinView(
                found.Member.Id,
                found.Member.Address,
                found.Member.Name,
                found.Member.Kind.Word(),
                found.Member.Organisation,
                found.Member.Title,
                found.Member.JoinedAt,
                found.Member.LastSeenAt,
                found.IsHeld
            )
        );
        return
        [
            .. pairs.Select(d => new DuplicateView(
                people[d.LeftId],
                people[d.RightId],
                MatchThresholds.Of(d.Probability).ToString().ToLowerInvariant(),
                d.Probability,
                d.ReasonList,
                d.FoundAt,
                d.DistinctAt is { } at
                    ? new DistinctView(d.DistinctByName, at, d.DistinctReason, d.IsOnPurpose)
                    : null
            )),
        ];
    }

    // A probability is never rounded to certainty.
    private static int ScoreOf(double probability) => Math.Min(999, (int)Math.Round(probability * 1000));

    private static bool IsCursor(string cursor, out int score, out Guid after)
    {
        (score, after) = (0, default);
        return cursor.Split('-') is [var number, var id]
            && int.TryParse(number, NumberStyles.None, CultureInfo.InvariantCulture, out score)
            && Guid.TryParseExact(id, "N", out after);
    }

    private static Refusal Unknown(string code, string said, string choice, string field) =>
        new(code, $"\"{Words.Short(said)}\" is not known here.", $"Say {choice}.", Field: field);
}

/// <summary>Looks again and again who is here twice. It may take a while where many are: nothing else waits for it.</summary>
public sealed class DuplicateWatch(
    Duplicates duplicates,
    FirstAnswer first,
    TimeProvider clock,
    ILogger<DuplicateWatch> log
) : BackgroundWork(first)
{
    private static readonly TimeSpan Pause = TimeSpan.FromSeconds(5);

    /// <inheritdoc/>
    protected override async Task GoOnAsync(CancellationToken stoppingToken)
    {
        using var timer = new PeriodicTimer(Pause, clock);
        while (await timer.WaitForNextTickAsync(stoppingToken))
        {
            try
            {
                while (await duplicates.CatchUpAsync() && !stoppingToken.IsCancellationRequested) { }
            }
            catch (Exception fault)
            {
                log.LogWarning(fault, "It could not be looked who is here twice; it is tried again");
            }
        }
    }
}
