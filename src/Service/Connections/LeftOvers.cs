using ComeAboard.Client.Connections;
using ComeAboard.Client.Workspaces;
using ComeAboard.Core;
using ComeAboard.Core.Access;
using ComeAboard.Core.Connections;
using ComeAboard.Core.Workspaces;
using ComeAboard.Service.Accounts;
using ComeAboard.Service.Workspaces;
using ComeAboard.Storage;
using ComeAboard.Storage.Connections;
using Microsoft.EntityFrameworkCore;

namespace ComeAboard.Service.Connections;

/// <summary>Accounts in connected systems that nobody ought to have: listed, removed, given to somebody, or left for a while.</summary>
public sealed class LeftOvers(
    Database database,
    WorkspaceWriter writer,
    Sources sources,
    Targets targets,
    LaneBell lanes,
    TimeProvider clock
)
{
    private const int MostAtOnce = 200;
    private const int MostDays = 366;

    /// <summary>A left-over, as it is answered.</summary>
    public static LeftOverView ViewOf(LeftOverRow row, DateOnly today)
    {
        var isLeft = row.LeftUntil >= today;
        return new LeftOverView(
            row.TheirKey,
            row.SignInName,
            row.Name,
            row.FoundAt,
            isLeft ? "left" : "found",
            isLeft ? row.LeftUntil : null,
            isLeft ? row.LeftReason : "",
            isLeft ? row.LeftByName : ""
        );
    }

    /// <summary>Those of which nobody said that they may be left, in all systems.</summary>
    public static IQueryable<LeftOverRow> OpenOf(ComeAboardContext rows, DateOnly today) =>
        rows.LeftOvers.Where(l => l.LeftUntil == null || l.LeftUntil < today);

    /// <summary>What the last sweep of a system listed, by key.</summary>
    public async Task<Outcome<Page<LeftOverView>>> ListAsync(
        Visitor visitor,
        string connection,
        Paging paging
    )
    {
        await using var rows = database.Open(visitor.WorkspaceId);
        if (await Connections.FindAsync(rows, connection) is not { } row)
            return Connections.NotFound;
        if (!paging.After(0).Try(out var start, out var refusal))
            return refusal;
        var page = await rows
            .LeftOvers.AsNoTracking()
            .Where(l => l.ConnectionId == row.Id)
            .OrderBy(l => l.TheirKey)
            .Skip(start)
            .Take(paging.Size + 1)
            .ToListAsync();
        var today = Days.Of(clock.Now(), visitor.Workspace.Zone);
        return new Page<LeftOverView>(
            [.. page.Take(paging.Size).Select(one => ViewOf(one, today))],
            page.Count > paging.Size ? (start + paging.Size).ToString() : null
        );
    }

    /// <summary>Does with left-overs what somebody says.</summary>
    public async Task<Outcome<LeftOverAnswer>> DecideAsync(
        Visitor visitor,
        string connection,
        LeftOverRequest request,
        CancellationToken stop
    )
    {
        if (request.Keys is not { Count: > 0 and <= MostAtOnce })
            return new Refusal(
                "left-over.which",
                $"Name 1 to {MostAtOnce} of them.",
                "Do it in parts.",
                Field: "keys"
            );
        ConnectionRow? row;
        await using (var rows = database.Open(visitor.WorkspaceId))
            row = await Connections.FindAsync(rows, connection);
        if (row is null)
            return Connections.NotFound;
        return request.Decision switch
        {
            "remove" => await RemoveAsync(visitor, row, request, stop),
            "adopt" => await AdoptAsync(visitor, row, request),
            "leave" => await LeaveAsync(visitor, row, request),
            _ => new Refusal(
                "left-over.decision",
                $"\"{Words.Short(request.Decision)}\" does not say what is to become of it.",
                "Say remove, adopt or leave.",
                Field: "decision"
            ),
        };
    }

    private async Task<Outcome<LeftOverAnswer>> RemoveAsync(
        Visitor visitor,
        ConnectionRow row,
        LeftOverRequest request,
        CancellationToken stop
    )
    {
        if (targets.Find(row.Type) is not { IsOnlyTold: false } target)
            return Sweeps.NotAsked;
        // What is asked for is in the record before it is done, so that nothing is ever gone there without a word of it here.
        var asked = await WriteAsync(
            visitor,
            row,
            request.Keys,
            (write, leftOver) =>
            {
                write.Record("left-over.to-remove", row.Id, Said(row, leftOver));
                return Task.FromResult<Refusal?>(null);
            }
        );
        if (visitor.Caller.Rehearses || !asked.Try(out _, out var refusal))
            return asked;
        var (removed, refused) = (new List<string>(), new List<LeftOverRefusal>());
        try
        {
            var (mapping, accounts) = await KnownAsync(row, stop);
            var managed = KnownAccounts.Managed(mapping, accounts);
            await using var session = await target.OpenAsync(sources.AccessOf(row), managed, stop);
            if (session is not IAskedSession there)
                return Sweeps.NotAsked;
            foreach (var key in request.Keys)
            {
                var no = await RemoveAsync(visitor, there, key, mapping, accounts, managed, stop);
                if (no is null)
                    removed.Add(key);
                else
                    refused.Add(new LeftOverRefusal(key, no.ToProblem()));
            }
        }
        catch (TargetException no)
        {
            if (removed.Count == 0)
                return CarryingOut.RefusalOf(no);
            refused.AddRange(
                request
                    .Keys.Except(removed)
                    .Except(refused.Select(one => one.Key))
                    .Select(key => new LeftOverRefusal(key, CarryingOut.RefusalOf(no).ToProblem()))
            );
        }
        await WriteAsync(
            visitor,
            row,
            removed,
            (write, leftOver) =>
            {
                write.Rows.LeftOvers.Remove(leftOver);
                write.Record("left-over.removed", row.Id, Said(row, leftOver));
                return Task.FromResult<Refusal?>(null);
            }
        );
        return new LeftOverAnswer(removed.Count, refused);
    }

    private async Task<(IReadOnlyList<MappingLine>, List<AccountThereRow>)> KnownAsync(
        ConnectionRow row,
        CancellationToken stop
    )
    {
        await using var rows = database.Open(row.WorkspaceId);
        return (
            await Carrier.MappingOf(rows, row.Id),
            await rows.AccountsThere.AsNoTracking().Where(a => a.ConnectionId == row.Id).ToListAsync(stop)
        );
    }

    /// <summary>Removes one there, and asks again; null when it is gone.</summary>
    private async Task<Refusal?> RemoveAsync(
        Visitor visitor,
        IAskedSession there,
        string key,
        IReadOnlyList<MappingLine> mapping,
        List<AccountThereRow> accounts,
        HashSet<string> managed,
        CancellationToken stop
    )
    {
        if (await there.ReadAsync(key, stop) is not { } held)
            return null;
        var zone = visitor.Workspace.Zone;
        var known = KnownAccounts.Of(visitor.World, mapping, accounts, Days.Of(clock.Now(), zone), zone);
        if (held.IsOn && Survey.Of(known, [held], managed).LeftOver.Count == 0)
            return new Refusal(
                "left-over.belongs",
                $"{held.SignInName} belongs to somebody by now.",
                "Sweep again.",
                RefusalSort.Conflict
            );
        var profile = new ProfileThere(held.SignInName, held.Name);
        try
        {
            foreach (
                var step in ThereDifference.Between(WantedThere.Nothing, profile, held, managed, true, true)
            )
                await there.ApplyAsync(key, profile, step, stop);
        }
        catch (TargetException no) when (no.Trouble == Trouble.ThisOne)
        {
            return CarryingOut.RefusalOf(no) with { Code = "left-over.kept" };
        }
        there.Forget();
        var after = await there.ReadAsync(key, stop);
        return after is null || !there.Removes && !after.IsOn
            ? null
            : new Refusal(
                "left-over.kept",
                $"It said that {held.SignInName} was removed, and did not do it.",
                "Remove it over there, and sweep again.",
                RefusalSort.Conflict
            );
    }

    private async Task<Outcome<LeftOverAnswer>> AdoptAsync(
        Visitor visitor,
        ConnectionRow row,
        LeftOverRequest request
    )
    {
        var adopted = await WriteAsync(
            visitor,
            row,
            request.Keys,
            async (write, leftOver) =>
            {
                if (await People.FindAsync(write.Rows, request.Person ?? "") is not { } member)
                    return People.NotFound with { Field = "person" };
                if (request.Keys.Count > 1)
                    return HasOne(member.Name);
                var account = await write.Rows.AccountsThere.FirstOrDefaultAsync(a =>
                    a.ConnectionId == row.Id && a.MemberId == member.Id
                );
                if (account is { TheirKey.Length: > 0, Held: AccountThere.On or AccountThere.Off })
                    return HasOne(member.Name);
                if (account is null)
                {
                    account = new AccountThereRow
                    {
                        WorkspaceId = row.WorkspaceId,
                        ConnectionId = row.Id,
                        MemberId = member.Id,
                        Wanted = AccountThere.Gone,
                        WantedGroups = "",
                        Address = "",
                        Name = "",
                        State = ThereState.Due,
                        Urgency = 1,
                        Version = 0,
                    };
                    write.Rows.AccountsThere.Add(account);
                }
                (account.Address, account.Name) = (member.Address, member.Name);
                (account.TheirKey, account.IsOurs, account.Held) = (
                    leftOver.TheirKey,
                    false,
                    AccountThere.On
                );
                var mapping = await Carrier.MappingOf(write.Rows, row.Id);
                Carrier.Want(
                    account,
                    Carrying.Of(await write.WorldAsync(), mapping, member.Id, write.Today),
                    write.Now
                );
                write.Wake([row.Id]);
                write.Rows.LeftOvers.Remove(leftOver);
                write.Record(
                    "left-over.adopted",
                    member.Id,
                    ("in", row.Name),
                    ("account", leftOver.SignInName),
                    ("name", member.Name),
                    ("address", member.Address)
                );
                return null;
            }
        );
        lanes.Ring();
        return adopted;
    }

    private Task<Outcome<LeftOverAnswer>> LeaveAsync(
        Visitor visitor,
        ConnectionRow row,
        LeftOverRequest request
    ) =>
        WriteAsync(
            visitor,
            row,
            request.Keys,
            (write, leftOver) =>
            {
                if (!PlainText.ReadMessage(request.Reason).Try(out var reason, out var refusal))
                    return Task.FromResult<Refusal?>(refusal with { Field = "reason" });
                if (reason.Length == 0)
                    return Task.FromResult<Refusal?>(
                        new Refusal(
                            "left-over.reason",
                            "It is left for a reason.",
                            "Say why it may stay.",
                            Field: "reason"
                        )
                    );
                if (
                    request.Until is not { } until
                    || until < write.Today
                    || until > write.Today.AddDays(MostDays)
                )
                    return Task.FromResult<Refusal?>(
                        new Refusal(
                            "left-over.until",
                            "It is left until a day, from today on and within a year.",
                            "Say the last day; it is listed again after it.",
                            Field: "until"
                        )
                    );
                (leftOver.LeftReason, leftOver.LeftUntil) = (reason, until);
                leftOver.LeftByName = visitor.Member.Name;
                write.Record(
                    "left-over.left",
                    row.Id,
                    ("name", row.Name),
                    ("account", leftOver.SignInName),
                    ("reason", reason),
                    ("until", until)
                );
                return Task.FromResult<Refusal?>(null);
            }
        );

    /// <summary>Changes left-overs in one change: all of those named, or none.</summary>
    private Task<Outcome<LeftOverAnswer>> WriteAsync(
        Visitor visitor,
        ConnectionRow row,
        IReadOnlyList<string> keys,
        Func<WorkspaceWrite, LeftOverRow, Task<Refusal?>> change
    ) =>
        writer.WriteAsync<LeftOverAnswer>(
            visitor.WorkspaceId,
            visitor.Caller,
            async write =>
            {
                if (!(await write.RequireAsync(Duties.Settings)).Try(out _, out var refusal))
                    return refusal;
                var found = await write
                    .Rows.LeftOvers.Where(l => l.ConnectionId == row.Id && keys.Contains(l.TheirKey))
                    .ToListAsync();
                if (found.Count < keys.Distinct(StringComparer.Ordinal).Count())
                    return NotListed;
                foreach (var leftOver in found)
                    if (await change(write, leftOver) is { } no)
                        return no;
                return new LeftOverAnswer(found.Count, []);
            }
        );

    private static Refusal NotListed { get; } =
        new(
            "left-over.not-found",
            "That is not among what the last sweep found left over.",
            "See what is: aboard connections sweep NAME",
            RefusalSort.NotFound,
            "keys"
        );

    private static Refusal HasOne(string name) =>
        new(
            "left-over.has-one",
            $"{name} has one account there, and no second.",
            "Remove one of them, or leave it for a reason.",
            RefusalSort.Conflict
        );

    private static ReadOnlySpan<(string, object?)> Said(ConnectionRow row, LeftOverRow leftOver) =>
        new (string, object?)[]
        {
            ("name", row.Name),
            ("account", leftOver.SignInName),
            ("owner", leftOver.Name.Length > 0 ? leftOver.Name : null),
        };
}
