using System.Security.Cryptography;
using ComeAboard.Client.Departures;
using ComeAboard.Client.Invitations;
using ComeAboard.Client.Workspaces;
using ComeAboard.Core;
using ComeAboard.Core.Access;
using ComeAboard.Core.Connections;
using ComeAboard.Core.Departures;
using ComeAboard.Core.Workspaces;
using ComeAboard.Service.Accounts;
using ComeAboard.Service.Connections;
using ComeAboard.Service.Workspaces;
using ComeAboard.Storage;
using ComeAboard.Storage.Connections;
using ComeAboard.Storage.Departures;
using Microsoft.EntityFrameworkCore;

namespace ComeAboard.Service.Departures;

/// <summary>Departures as they are looked at and looked after: lists, several at once, tries again, what somebody confirms by hand.</summary>
public sealed class Departures(
    Database database,
    WorkspaceWriter writer,
    Ending ending,
    ManyEndings many,
    Confirmations confirmations,
    LaneBell bell,
    TimeProvider clock
)
{
    private const int MostAtOnce = 10_000;
    private const int MostShown = 200;

    // More than these are out first, and what else there is to do is done afterwards.
    private const int Several = 100;
    private const int LongestReason = 500;

    /// <summary>A page of departures, newest first.</summary>
    /// <param name="visitor">Who asks.</param>
    /// <param name="state">planned, running, stuck, done or undone; null for all.</param>
    /// <param name="paging">Which page.</param>
    public async Task<Outcome<Page<DepartureView>>> ListAsync(Visitor visitor, string? state, Paging paging)
    {
        await using var rows = database.Open(visitor.WorkspaceId);
        var found = rows.Departures.AsNoTracking();
        if (state is { Length: > 0 })
        {
            if (state.Trim().Equals("stuck", StringComparison.OrdinalIgnoreCase))
                found = DepartureViews.StuckOf(rows).AsNoTracking();
            else if (Words.Find<DepartureState>(state) is { } wanted)
                found = wanted switch
                {
                    // Of those that are out already, and of whom the rest is still to be done, the day has come.
                    DepartureState.Planned => found.Where(d => d.State == wanted && d.LastDay != null),
                    DepartureState.Running => found.Where(d =>
                        d.State == wanted || d.State == DepartureState.Planned && d.LastDay == null
                    ),
                    _ => found.Where(d => d.State == wanted),
                };
            else
                return new Refusal(
                    "state.unknown",
                    $"\"{Words.Short(state)}\" is no state of a departure.",
                    "Say planned, running, stuck, done or undone.",
                    Field: "state"
                );
        }
        return await found.PageAsync(paging, page => DepartureViews.OfAsync(rows, page));
    }

    /// <summary>One departure.</summary>
    public async Task<Outcome<DepartureView>> ShowAsync(Visitor visitor, Guid id)
    {
        await using var rows = database.Open(visitor.WorkspaceId);
        return await rows.Departures.AsNoTracking().FirstOrDefaultAsync(d => d.Id == id) is { } row
            ? await DepartureViews.OfAsync(rows, row)
            : CommonRefusals.NotFound;
    }

    /// <summary>What ending the access of several would do.</summary>
    public async Task<Outcome<DeparturesPlan>> PlanAsync(Visitor visitor, DeparturesRequest request)
    {
        if (!(await WhoAsync(visitor, request)).Try(out var people, out var refusal))
            return refusal;
        var plans = new List<DeparturePlanView>();
        foreach (var id in people.Keys.Take(MostShown))
        {
            var plan = await ending.PlanAsync(
                visitor,
                id.ToString(),
                new DepartureRequest(request.On, request.To)
            );
            if (!plan.Try(out var view, out refusal))
                return refusal;
            plans.Add(view);
        }
        return new DeparturesPlan(plans) { Total = people.Count };
    }

    /// <summary>Ends the access of several.</summary>
    public async Task<Outcome<DeparturesAnswer>> StartAsync(Visitor visitor, DeparturesRequest request)
    {
        if (!(await WhoAsync(visitor, request)).Try(out var people, out var refusal))
            return refusal;
        var wish = new DepartureRequest(request.On, request.To);
        IReadOnlyList<Guid> all = [.. people.Keys];
        var taken =
            all.Count > Several
                ? await many.EndAsync(visitor, all, wish)
                : await ending.EndAllAsync(visitor, all, wish, keep: true);
        if (!taken.Try(out var ended, out refusal))
            return refusal;
        await using var rows = database.Open(visitor.WorkspaceId);
        var ids = ended.Done.Take(MostShown).ToList();
        var newest = (
            await rows
                .Departures.AsNoTracking()
                .Where(d => ids.Contains(d.MemberId) && d.State != DepartureState.Undone)
                .ToListAsync()
        )
            .GroupBy(d => d.MemberId)
            .Select(of => of.MaxBy(d => d.Id)!)
            .OrderBy(d => d.Id)
            .ToList();
        return new DeparturesAnswer(
            await DepartureViews.OfAsync(rows, newest),
            [.. ended.Refused.Select(no => new StepRefusal(no.Which, people[no.Which], no.Why.ToProblem()))]
        )
        {
            Total = ended.Done.Count,
        };
    }

    /// <summary>How far the departures of everybody have come.</summary>
    public async Task<DepartureProgress> ProgressAsync(Visitor visitor)
    {
        await using var rows = database.Open(visitor.WorkspaceId);
        var today = Days.Of(clock.Now(), visitor.Workspace.Zone);
        var here = await rows.Members.CountAsync(m => m.EndedAt == null && m.LastDay < today);
        var running = await rows.Departures.CountAsync(d => d.State == DepartureState.Running);
        var due = await (
            from account in rows.AccountsThere
            where account.DueAt != null && account.Wanted != AccountThere.On
            group account by account.ConnectionId into of
            select new { of.Key, Count = of.Count() }
        ).ToDictionaryAsync(of => of.Key, of => of.Count);
        var names = await rows.Connections.ToDictionaryAsync(c => c.Id, c => c.Name);
        var lanes = await rows.Lanes.AsNoTracking().ToDictionaryAsync(l => l.Id);
        return new DepartureProgress(
            here,
            running,
            [
                .. due.Select(one => new SystemProgress(
                        names[one.Key],
                        one.Value,
                        lanes[one.Key].IsHeld,
                        lanes[one.Key].Answer
                    ))
                    .OrderBy(one => one.Connection, StringComparer.CurrentCulture),
            ]
        );
    }

    /// <summary>Has what is due of a departure tried now, whenever its next try would have been.</summary>
    public Task<Outcome<DepartureView>> RetryAsync(Visitor visitor, Guid id) =>
        ChangeAsync(
            visitor,
            id,
            async (write, departure) =>
            {
                var due = await write
                    .Rows.AccountsThere.Where(a => a.DepartureId == id && a.DueAt != null)
                    .ToListAsync();
                if (due.Count == 0)
                    return NothingDue;
                foreach (var account in due)
                    account.DueAt = write.Now;
                var lanes = due.Select(account => account.ConnectionId).ToList();
                await write
                    .Rows.Lanes.Where(l => lanes.Contains(l.Id))
                    .ExecuteUpdateAsync(set =>
                        set.SetProperty(l => l.NotBefore, (DateTimeOffset?)null)
                            .SetProperty(l => l.State, LaneState.Working)
                    );
                return null;
            }
        );

    /// <summary>Takes somebody's word, with a reason, that a step is so which did not confirm.</summary>
    /// <param name="visitor">Who says so.</param>
    /// <param name="id">The departure.</param>
    /// <param name="step">The number of the step, or the name of the connected system.</param>
    /// <param name="reason">Why.</param>
    /// <param name="file">A file beside it; null for none.</param>
    public Task<Outcome<DepartureView>> ConfirmAsync(
        Visitor visitor,
        Guid id,
        string step,
        string reason,
        StepFile? file
    ) =>
        ChangeAsync(
            visitor,
            id,
            async (write, departure) =>
            {
                if (!PlainText.ReadMessage(reason).Try(out var why, out var refusal))
                    return refusal with { Field = "reason" };
                if (why.Length is 0 or > LongestReason)
                    return new Refusal(
                        "departure.reason",
                        $"A reason has 1 to {LongestReason} characters; it stands in the receipt.",
                        "Say how it was made sure, such as by whom and when.",
                        Field: "reason"
                    );
                var steps = DepartureSteps.Read(departure.Steps);
                var found = Find(steps, step);
                var account =
                    found?.Deed == DepartureDeed.CloseAccount
                        ? await write.Rows.AccountsThere.FirstOrDefaultAsync(a =>
                            a.DepartureId == id && a.ConnectionId == found.Subject && a.DueAt != null
                        )
                        : null;
                if (account is null)
                    return NothingDue;
                (account.State, account.DueAt, account.DueSince) = (ThereState.ByHand, null, null);
                (account.ConfirmedAt, account.ByHandReason) = (write.Now, why);
                account.ByHandName = visitor.Member.Name;
                (account.ByHandFile, account.ByHandDigest) = ("", "");
                await write
                    .Rows.StepFiles.Where(f => f.DepartureId == id && f.ConnectionId == account.ConnectionId)
                    .ExecuteDeleteAsync();
                if (file is not null)
                {
                    if (!Keep(write, departure, account, file).Try(out var digest, out refusal))
                        return refusal;
                    (account.ByHandFile, account.ByHandDigest) = (file.Name.Trim(), digest);
                }
                account.Version++;
                write.Record(
                    "departure.confirmed-by-hand",
                    departure.MemberId,
                    ("name", departure.MemberName),
                    ("address", departure.MemberAddress),
                    ("in", found!.Name),
                    ("reason", why),
                    ("file", account.ByHandFile.Length > 0 ? account.ByHandFile : null),
                    ("file sha256", account.ByHandDigest.Length > 0 ? account.ByHandDigest : null)
                );
                await confirmations.TakeAsync(write, [account]);
                return null;
            }
        );

    /// <summary>The file beside somebody's word that a step is so.</summary>
    public async Task<Outcome<StepFile>> FileAsync(Visitor visitor, Guid id, string step)
    {
        await using var rows = database.Open(visitor.WorkspaceId);
        if (await rows.Departures.AsNoTracking().FirstOrDefaultAsync(d => d.Id == id) is not { } departure)
            return CommonRefusals.NotFound;
        if (Find(DepartureSteps.Read(departure.Steps), step) is not { } found)
            return CommonRefusals.NotFound;
        return
            await rows
                .StepFiles.AsNoTracking()
                .FirstOrDefaultAsync(f => f.DepartureId == id && f.ConnectionId == found.Subject)
                is { } file
            ? new StepFile(file.Name, file.Content)
            : CommonRefusals.NotFound;
    }

    /// <summary>The step that is called so: by its number, or by the name of the system.</summary>
    private static DepartureStep? Find(IReadOnlyList<DepartureStep> steps, string step) =>
        int.TryParse(step, out var number)
            ? steps.ElementAtOrDefault(number - 1)
            : steps.FirstOrDefault(one =>
                one.Deed == DepartureDeed.CloseAccount
                && one.Name.Equals(step.Trim(), StringComparison.OrdinalIgnoreCase)
            );

    /// <summary>Keeps a file; its digest.</summary>
    private static Outcome<string> Keep(
        WorkspaceWrite write,
        DepartureRow departure,
        AccountThereRow account,
        StepFile file
    )
    {
        var name = file.Name.Trim();
        if (
            name.Length is 0 or > StepFileRow.LongestName
            || name.Any(c => char.IsControl(c) || c is '/' or '\\')
            || file.Content.Length is 0 or > StepFileRow.Largest
        )
            return new Refusal(
                "departure.file",
                $"A file has 1 byte to {StepFileRow.Largest / 1024 / 1024} MiB and a name of 1 to {StepFileRow.LongestName} characters, without a folder.",
                "Give a smaller one, or another name.",
                Field: "file"
            );
        write.Insert(
            new StepFileRow
            {
                WorkspaceId = write.Workspace.Id,
                DepartureId = departure.Id,
                ConnectionId = account.ConnectionId,
                Name = name,
                Content = file.Content,
            }
        );
        return Convert.ToHexStringLower(SHA256.HashData(file.Content));
    }

    private static Refusal NothingDue { get; } =
        new(
            "departure.nothing-due",
            "Nothing of it waits for a connected system.",
            "Look at its steps: aboard departures show ID",
            RefusalSort.Conflict
        );

    private async Task<Outcome<DepartureView>> ChangeAsync(
        Visitor visitor,
        Guid id,
        Func<WorkspaceWrite, DepartureRow, Task<Refusal?>> change
    )
    {
        var changed = await writer.WriteAsync<DepartureView>(
            visitor.WorkspaceId,
            visitor.Caller,
            async write =>
            {
                if (!(await write.RequireAsync(Duties.People)).Try(out var actor, out var refusal))
                    return refusal;
                if (await write.Rows.Departures.FirstOrDefaultAsync(d => d.Id == id) is not { } departure)
                    return CommonRefusals.NotFound;
                if (
                    GivingRules.ForbidsActingOn(
                        await write.WorldAsync(),
                        actor.Id,
                        departure.MemberId,
                        write.Today
                    ) is
                    { } beyond
                )
                    return beyond;
                if (await change(write, departure) is { } no)
                    return no;
                await write.SaveAsync();
                return await DepartureViews.OfAsync(write.Rows, departure);
            }
        );
        bell.Ring();
        return changed;
    }

    /// <summary>Whom a request speaks of, each with how they are called in answers.</summary>
    private async Task<Outcome<IReadOnlyDictionary<Guid, string>>> WhoAsync(
        Visitor visitor,
        DeparturesRequest request
    )
    {
        var isFiltered = request.Kind is { Length: > 0 } || request.Search is { Length: > 0 };
        var said =
            (request.People is { Count: > 0 } ? 1 : 0)
            + (request.Link is null ? 0 : 1)
            + (request.Organisation is null ? 0 : 1);
        if (said > 1 || said == 0 && !isFiltered || isFiltered && request.People is { Count: > 0 })
            return new Refusal(
                "departure.who",
                "Say whose access ends in one way: people, or a link, or an organisation, or a kind or a search.",
                "Leave out the others."
            );
        await using var rows = database.Open(visitor.WorkspaceId);
        if (request.People is { Count: > 0 } people)
        {
            var named = new Dictionary<Guid, string>();
            foreach (var person in people.Take(MostAtOnce + 1))
            {
                if (await People.FindAsync(rows, person) is not { } member)
                    return People.NotFound with { Field = "people" };
                named[member.Id] = member.Address;
            }
            return TooMany(named);
        }
        Guid? of = null;
        if (request.Link is { } link && !await rows.JoinLinks.AnyAsync(l => l.Id == link))
            return CommonRefusals.NotFound;
        if (request.Organisation is not null)
        {
            if (!visitor.World.FindOrganisation(request.Organisation).Try(out var organisation, out var no))
                return no;
            of = organisation.Id;
        }
        var query = new PeopleQuery
        {
            Kind = request.Kind,
            Search = request.Search,
            Link = request.Link,
            Organisation = of,
        };
        if (!PeopleLists.Narrow(rows, query, visitor.Today).Try(out var found, out var refusal))
            return refusal;
        return TooMany(
            await found
                .Where(m => m.EndedAt == null)
                .OrderBy(m => m.Id)
                .Take(MostAtOnce + 1)
                .ToDictionaryAsync(m => m.Id, m => m.Address)
        );
    }

    private static Outcome<IReadOnlyDictionary<Guid, string>> TooMany(Dictionary<Guid, string> found) =>
        found.Count switch
        {
            0 => new Refusal(
                "departure.nobody",
                "Nobody of them is here.",
                "Nothing needs doing.",
                RefusalSort.Conflict
            ),
            > MostAtOnce => new Refusal(
                "departure.too-many",
                $"These are more than {MostAtOnce} people.",
                "End them in parts.",
                RefusalSort.Conflict
            ),
            _ => Outcome.Of<IReadOnlyDictionary<Guid, string>>(found),
        };
}
