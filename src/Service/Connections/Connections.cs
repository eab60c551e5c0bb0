using System.Text.Json;
using ComeAboard.Client.Connections;
using ComeAboard.Client.Invitations;
using ComeAboard.Client.Workspaces;
using ComeAboard.Core;
using ComeAboard.Core.Access;
using ComeAboard.Core.Connections;
using ComeAboard.Core.Workspaces;
using ComeAboard.Service.Invitations;
using ComeAboard.Service.Workspaces;
using ComeAboard.Storage;
using ComeAboard.Storage.Connections;
using Microsoft.EntityFrameworkCore;

namespace ComeAboard.Service.Connections;

/// <summary>The outside systems that people are read from: added, changed, removed, tested, read, and what is confirmed begun.</summary>
public sealed class Connections(
    Database database,
    WorkspaceWriter writer,
    Sources sources,
    Trials trials,
    ConnectionBell bell,
    MailsByInviter mails,
    TimeProvider clock
)
{
    private const int MostConnections = 20;
    private const int SampleSize = 5;
    private const int AtOnce = 20;

    /// <summary>For a connection that is not there.</summary>
    public static Refusal NotFound { get; } =
        CommonRefusals.NotFound with
        {
            Remedy = "See which there are: aboard connections list",
        };

    /// <summary>For a connection that is being worked on.</summary>
    public static Refusal Working { get; } =
        new("connection.working", "It is being worked on.", "Wait until it rests.", RefusalSort.Conflict);

    /// <summary>The connection by its name or id; tracked.</summary>
    public static async Task<ConnectionRow?> FindAsync(ComeAboardContext rows, string connection)
    {
        var key = connection.Trim().ToLowerInvariant();
        return Guid.TryParse(connection, out var id)
            ? await rows.Connections.FirstOrDefaultAsync(c => c.Id == id)
            : await rows.Connections.FirstOrDefaultAsync(c => c.NameKey == key);
    }

    /// <summary>The connections of a workspace, by name.</summary>
    public async Task<Page<ConnectionView>> ListAsync(Visitor visitor)
    {
        await using var rows = database.Open(visitor.WorkspaceId);
        var found = await rows.Connections.AsNoTracking().OrderBy(c => c.NameKey).ToListAsync();
        var leftOver = await LeftOvers
            .OpenOf(rows, Days.Of(clock.Now(), visitor.Workspace.Zone))
            .GroupBy(l => l.ConnectionId)
            .Select(of => new { of.Key, Count = of.Count() })
            .ToDictionaryAsync(of => of.Key, of => of.Count);
        return new Page<ConnectionView>(
            [
                .. found.Select(one =>
                    ConnectionViews.Of(one) with
                    {
                        LeftOver = leftOver.GetValueOrDefault(one.Id),
                    }
                ),
            ],
            null
        );
    }

    /// <summary>One connection.</summary>
    public async Task<Outcome<ConnectionView>> ShowAsync(Visitor visitor, string connection)
    {
        await using var rows = database.Open(visitor.WorkspaceId);
        return await FindAsync(rows, connection) is { } row ? ConnectionViews.Of(row) : NotFound;
    }

    /// <summary>Adds a connection; nothing is read as yet.</summary>
    public async Task<Outcome<ConnectionView>> AddAsync(Visitor visitor, ConnectionRequest request)
    {
        if (!sources.TypeOf(request.Type).Try(out var type, out var refusal))
            return refusal;
        if (
            !(await ConnectionWish.ReadAsync(database, visitor, type, request)).Try(
                out var wanted,
                out refusal
            )
        )
            return refusal;
        return await writer.WriteAsync<ConnectionView>(
            visitor.WorkspaceId,
            visitor.Caller,
            async write =>
            {
                if (await write.Rows.Connections.CountAsync() >= MostConnections)
                    return new Refusal(
                        "connection.too-many",
                        $"There are {MostConnections} connections already.",
                        "Remove one that is not needed.",
                        RefusalSort.Conflict
                    );
                var row = new ConnectionRow
                {
                    WorkspaceId = visitor.WorkspaceId,
                    Id = Guid.CreateVersion7(write.Now),
                    Name = "",
                    NameKey = "",
                    Type = type.Type,
                    Settings = "",
                    Newcomers = "",
                    Defaults = "",
                    Wins = "",
                    Floor = 0,
                    State = ConnectionState.Resting,
                    AddedAt = write.Now,
                    AddedByName = visitor.Member.Name,
                };
                if (await PutAsync(write, row, wanted) is { } no)
                    return no;
                write.Rows.Connections.Add(row);
                write.Record("connection.added", row.Id, Said(row));
                return ConnectionViews.Of(row);
            }
        );
    }

    /// <summary>Changes a connection; what was read and decided stays.</summary>
    public async Task<Outcome<ConnectionView>> ChangeAsync(
        Visitor visitor,
        string connection,
        ConnectionRequest request
    )
    {
        IConnectionType type;
        await using (var rows = database.Open(visitor.WorkspaceId))
        {
            if (await FindAsync(rows, connection) is not { } found)
                return NotFound;
            type = sources.TypeOf(found.Type).Value;
        }
        if (
            !(await ConnectionWish.ReadAsync(database, visitor, type, request)).Try(
                out var wanted,
                out var refusal
            )
        )
            return refusal;
        return await writer.WriteAsync<ConnectionView>(
            visitor.WorkspaceId,
            visitor.Caller,
            async write =>
            {
                if (await FindAsync(write.Rows, connection) is not { } row)
                    return NotFound;
                if (row.State != ConnectionState.Resting)
                    return Working;
                // A secret is for the place it was given for: whoever names another place gives it anew.
                if (
                    row.Secret.Length > 0
                    && wanted.Secret.Length == 0
                    && (wanted.Place.Length > 0 && wanted.Place != row.Place || AsksElsewhere(row, wanted))
                )
                    return new Refusal(
                        "connection.secret-again",
                        "The secret was given for another address.",
                        "Give it again with the new address.",
                        RefusalSort.Conflict,
                        "secret"
                    );
                var isElsewhere = wanted.Place.Length > 0 && wanted.Place != row.Place;
                if (await PutAsync(write, row, wanted) is { } no)
                    return no;
                row.Version++;
                await write.SaveAsync();
                await Carrier.AfterChangeAsync(write, row.Id, isElsewhere);
                await ConnectionViews.RecountAsync(write.Rows, row);
                write.Record("connection.changed", row.Id, Said(row));
                return ConnectionViews.Of(row);
            }
        );
    }

    /// <summary>Removes a connection and what was read of it; whoever was joined or brought in by it stays as they are.</summary>
    public Task<Outcome<ConnectionView>> RemoveAsync(Visitor visitor, string connection) =>
        writer.WriteAsync<ConnectionView>(
            visitor.WorkspaceId,
            visitor.Caller,
            async write =>
            {
                if (await FindAsync(write.Rows, connection) is not { } row)
                    return NotFound;
                // Forgotten, nobody would close them any more.
                if (
                    await write.Rows.AccountsThere.AnyAsync(a =>
                        a.ConnectionId == row.Id
                        && (a.DueAt != null || a.Held == AccountThere.On && a.State != ThereState.ByHand)
                    )
                )
                    return Carries(row.Name);
                var view = ConnectionViews.Of(row);
                await write.Rows.AccountsThere.Where(a => a.ConnectionId == row.Id).ExecuteDeleteAsync();
                await write.Rows.LeftOvers.Where(l => l.ConnectionId == row.Id).ExecuteDeleteAsync();
                await write.Rows.EventsSent.Where(e => e.ConnectionId == row.Id).ExecuteDeleteAsync();
                await write.Rows.ConnectionMapping.Where(m => m.ConnectionId == row.Id).ExecuteDeleteAsync();
                await write.Rows.Lanes.Where(l => l.Id == row.Id).ExecuteDeleteAsync();
                await write.Rows.SourceRecords.Where(r => r.ConnectionId == row.Id).ExecuteDeleteAsync();
                await write.Rows.ConnectionContents.Where(c => c.ConnectionId == row.Id).ExecuteDeleteAsync();
                write.Rows.Connections.Remove(row);
                write.Record("connection.removed", row.Id, Said(row));
                return view;
            }
        );

    private static Refusal Carries(string name) =>
        new(
            "connection.carries",
            $"People have accounts in {name} by what they may do here.",
            "Take its mapping away, and wait until their accounts are closed.",
            RefusalSort.Conflict
        );

    /// <summary>Keeps the file of a connection that is one; refuses one that cannot be read.</summary>
    public async Task<Outcome<ConnectionView>> HandInAsync(
        Visitor visitor,
        string connection,
        string name,
        byte[] content,
        CancellationToken stop
    )
    {
        if (!FileSource.Read(content, stop).Try(out var records, out var refusal))
            return refusal;
        var count = records.Count;
        return await writer.WriteAsync<ConnectionView>(
            visitor.WorkspaceId,
            visitor.Caller,
            async write =>
            {
                if (await FindAsync(write.Rows, connection) is not { } row)
                    return NotFound;
                if (row.Type != "file")
                    return new Refusal(
                        "connection.no-file-type",
                        $"{row.Name} is no file.",
                        "It is read from where it is: aboard connections preview NAME",
                        RefusalSort.Conflict
                    );
                if (row.State != ConnectionState.Resting)
                    return Working;
                row.Place = name.Length > 100 ? name[^100..] : name;
                var kept = await write.Rows.ConnectionContents.FirstOrDefaultAsync(c =>
                    c.ConnectionId == row.Id
                );
                if (kept is null)
                    write.Rows.ConnectionContents.Add(
                        new ConnectionContentRow
                        {
                            WorkspaceId = write.Workspace.Id,
                            ConnectionId = row.Id,
                            Content = content,
                        }
                    );
                else
                    kept.Content = content;
                write.Record(
                    "connection.handed-in",
                    row.Id,
                    ("name", row.Name),
                    ("file", row.Place),
                    ("people", count)
                );
                return ConnectionViews.Of(row);
            }
        );
    }

    /// <summary>Asks a connection whether it answers, and shows the first of its people.</summary>
    public async Task<Outcome<ConnectionTest>> TestAsync(
        Visitor visitor,
        string connection,
        CancellationToken stop
    )
    {
        await using var rows = database.Open(visitor.WorkspaceId);
        if (await FindAsync(rows, connection) is not { } row)
            return NotFound;
        if (!sources.Reads(row.Type))
            return await trials.RunAsync(row, visitor.Member.Name, stop);
        return (await sources.FirstAsync(row, stop)).Then(first => new ConnectionTest(
            first.Page.Count,
            first.IsWhole,
            [.. first.Page.Take(SampleSize).Select(one => new SampleView(one.Shown, one.Address, one.Title))]
        ));
    }

    /// <summary>Has a connection read in the background.</summary>
    public async Task<Outcome<ConnectionView>> ReadAsync(Visitor visitor, string connection, bool believe)
    {
        var begun = await writer.WriteAsync<ConnectionView>(
            visitor.WorkspaceId,
            visitor.Caller,
            async write =>
            {
                if (!(await write.RequireAsync(Duties.Claims)).Try(out var member, out var no))
                    return no;
                if (await FindAsync(write.Rows, connection) is not { } row)
                    return NotFound;
                if (!sources.Reads(row.Type))
                    return Sources.NoSource;
                if (row.State != ConnectionState.Resting)
                    return Working;
                Begin(row, ConnectionState.Reading, 0);
                (row.IsBelieved, row.AskedById, row.AskedByName) = (believe, member.Id, member.Name);
                return ConnectionViews.Of(row);
            }
        );
        bell.Ring();
        return begun;
    }

    /// <summary>Has done, in the background, what is decided.</summary>
    public async Task<Outcome<ConnectionView>> RunAsync(Visitor visitor, string connection)
    {
        int invites;
        await using (var rows = database.Open(visitor.WorkspaceId))
        {
            if (await FindAsync(rows, connection) is not { } row)
                return NotFound;
            invites = ConnectionViews.CountsOf(row)["to-bring-in"];
        }
        var begun = await mails.WithinAsync(
            visitor,
            visitor.Caller.Rehearses ? 0 : invites,
            () =>
                writer.WriteAsync<ConnectionView>(
                    visitor.WorkspaceId,
                    visitor.Caller,
                    async write =>
                    {
                        if (!(await write.RequireAsync(Duties.People)).Try(out var member, out var no))
                            return no;
                        if (await FindAsync(write.Rows, connection) is not { } row)
                            return NotFound;
                        if (row.State != ConnectionState.Resting)
                            return Working;
                        var counts = ConnectionViews.CountsOf(row);
                        var total = counts["to-join"] + counts["to-bring-in"];
                        if (total == 0)
                            return new Refusal(
                                "connection.nothing-to-do",
                                row.LastReadAt is null
                                    ? "It was not read as yet."
                                    : "Nothing is decided that is not done.",
                                row.LastReadAt is null
                                    ? "Read it first: aboard connections preview NAME"
                                    : "Decide what is open first.",
                                RefusalSort.Conflict
                            );
                        Begin(row, ConnectionState.Doing, total);
                        (row.AskedById, row.AskedByName) = (member.Id, member.Name);
                        write.Record(
                            "connection.confirmed",
                            row.Id,
                            ("name", row.Name),
                            ("to join", counts["to-join"]),
                            ("to bring in", counts["to-bring-in"])
                        );
                        return ConnectionViews.Of(row);
                    }
                )
        );
        bell.Ring();
        return begun;
    }

    /// <summary>Has those read whose time has come.</summary>
    public async Task CatchUpAsync()
    {
        var now = clock.Now();
        await using var rows = database.Open();
        var due = await rows
            .Connections.IgnoreQueryFilters()
            .AsNoTracking()
            .Where(c => c.NextReadAt <= now)
            .OrderBy(c => c.NextReadAt)
            .Take(AtOnce)
            .Select(c => new { c.WorkspaceId, c.Id })
            .ToListAsync();
        foreach (var one in due)
            await writer.WriteAsync<bool>(
                one.WorkspaceId,
                Caller.Clock,
                async write =>
                {
                    var row = await write.Rows.Connections.FirstOrDefaultAsync(c => c.Id == one.Id);
                    if (row?.NextReadAt is null || row.NextReadAt > write.Now)
                        return false;
                    row.NextReadAt = write.Now.AddHours(row.EveryHours);
                    if (row.State != ConnectionState.Resting)
                        return false;
                    Begin(row, ConnectionState.Reading, 0);
                    (row.IsBelieved, row.AskedById, row.AskedByName) = (false, null, "");
                    return true;
                }
            );
        if (due.Count > 0)
            bell.Ring();
    }

    private static void Begin(ConnectionRow row, ConnectionState state, int total)
    {
        (row.State, row.Total, row.Position, row.DoneTo, row.Tries) = (state, total, 0, 0, 0);
        (row.StartedAt, row.DoneAtStart, row.Lease, row.LeasedUntil) = (null, 0, null, null);
    }

    private static bool AsksElsewhere(ConnectionRow row, ConnectionWish wanted) =>
        wanted.TokenUrl is { } tokens
        && tokens != JsonSerializer.Deserialize<SourceSettings>(row.Settings, BatchJudge.Json)!.TokenUrl;

    private async Task<Refusal?> PutAsync(WorkspaceWrite write, ConnectionRow row, ConnectionWish wanted)
    {
        var key = wanted.Name.ToLowerInvariant();
        if (await write.Rows.Connections.AnyAsync(c => c.NameKey == key && c.Id != row.Id))
            return new Refusal(
                "connection.exists",
                $"There is a connection \"{wanted.Name}\" already.",
                "Choose another name, or change that one.",
                RefusalSort.Conflict,
                "name"
            );
        // Like a secret, what is not named here stays: a certificate, where tokens come from, whether this network is meant.
        var before =
            row.Settings.Length > 0
                ? JsonSerializer.Deserialize<SourceSettings>(row.Settings, BatchJudge.Json)!
                : null;
        row.Settings = JsonSerializer.Serialize(
            wanted.Settings with
            {
                Certificate = wanted.Certificate ?? before?.Certificate ?? "",
                TokenUrl = wanted.TokenUrl ?? before?.TokenUrl ?? "",
                ClientId = wanted.ClientId ?? before?.ClientId ?? "",
                AllowPrivate = wanted.AllowPrivate ?? (before is null ? false : before.AllowPrivate),
            },
            BatchJudge.Json
        );
        (row.Name, row.NameKey, row.Newcomers) = (wanted.Name, key, wanted.Newcomers);
        (row.Defaults, row.Wins, row.EveryHours, row.Floor) = (
            wanted.Defaults,
            wanted.Wins,
            wanted.EveryHours,
            wanted.Floor
        );
        if (wanted.Place.Length > 0)
            row.Place = wanted.Place;
        if (wanted.Secret.Length > 0)
            row.Secret = sources.Seal(wanted.Secret);
        row.NextReadAt =
            wanted.EveryHours > 0 && sources.Reads(row.Type) ? write.Now.AddHours(wanted.EveryHours) : null;
        return null;
    }

    private static ReadOnlySpan<(string, object?)> Said(ConnectionRow row) =>
        new (string, object?)[]
        {
            ("name", row.Name),
            ("type", row.Type),
            ("at", row.Place.Length > 0 ? row.Place : null),
            ("new people", row.Newcomers),
            ("every hours", row.EveryHours > 0 ? row.EveryHours : null),
        };
}
