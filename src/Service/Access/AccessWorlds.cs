using System.Collections.Concurrent;
using System.Diagnostics;
using ComeAboard.Core.Access;
using ComeAboard.Service.Workspaces;
using ComeAboard.Storage;
using ComeAboard.Storage.Access;
using ComeAboard.Storage.Workspaces;
using Microsoft.EntityFrameworkCore;

namespace ComeAboard.Service.Access;

/// <summary>A workspace as it was last read, with who may do what in it.</summary>
/// <param name="Workspace">Its row.</param>
/// <param name="Picture">Who may do what.</param>
/// <param name="CheckedAt">When it was last known to be the newest, by the monotonic clock.</param>
public sealed record KeptWorld(WorkspaceRow Workspace, AccessPicture Picture, long CheckedAt)
{
    public AccessWorld World => Picture.World;

    /// <summary>The workspace's time zone, looked up once.</summary>
    public TimeZoneInfo Zone { get; } = Workspace.Zone;
}

/// <summary>
/// Keeps who may do what in memory, workspace by workspace. A change made by this process is in force here before it is
/// answered; one made by another is called out by it where the database can do that, and seen in any case by looking at the
/// workspace's version, which happens several times a second.
/// What was not looked at for longer than <see cref="Oldest"/> is looked at before anything is answered from it, so
/// that a process cut off from the database answers nothing.
/// </summary>
public sealed class AccessWorlds(Database database, TimeProvider clock) : BackgroundService
{
    /// <summary>How old the last look may be for an answer: a removal is in force everywhere within a second.</summary>
    public static readonly TimeSpan Oldest = TimeSpan.FromMilliseconds(500);

    /// <summary>How often a look is taken by itself.</summary>
    public static readonly TimeSpan Pace = TimeSpan.FromMilliseconds(150);

    /// <summary>The channel on which the workspace is called out in which who may do what has changed.</summary>
    public const string Channel = "come_aboard_access";

    private static readonly TimeSpan ListenAgain = TimeSpan.FromSeconds(1);

    // Whoever has an answer that is only too old hears within a second that there is no newer one.
    private static readonly TimeSpan LongestLook = TimeSpan.FromMilliseconds(900);

    private readonly ConcurrentDictionary<Guid, KeptWorld> _kept = new();
    private readonly ConcurrentDictionary<string, Guid> _ids = new(StringComparer.Ordinal);
    private readonly ConcurrentDictionary<Guid, Line> _reading = new();

    /// <summary>Who may do what, at least as new as a row of the workspace just read.</summary>
    public async Task<AccessWorld> OfAsync(WorkspaceRow workspace)
    {
        if (_kept.TryGetValue(workspace.Id, out var kept) && kept.World.Version >= workspace.AccessVersion)
            return kept.World;
        return (await ReadAsync(workspace.Id))?.World ?? AccessWorld.Empty;
    }

    /// <summary>
    /// A workspace by its short name, looked at within the last half second; null when there is none.
    /// </summary>
    /// <exception cref="TimeoutException">The database does not answer.</exception>
    public ValueTask<KeptWorld?> NowAsync(string shortName)
    {
        if (!_ids.TryGetValue(shortName, out var id) || !_kept.TryGetValue(id, out var kept))
            return new ValueTask<KeptWorld?>(LookAsync(shortName));
        return clock.GetElapsedTime(kept.CheckedAt) < Oldest
            ? ValueTask.FromResult<KeptWorld?>(kept)
            : new ValueTask<KeptWorld?>(LookAsync(shortName).WaitAsync(LongestLook));
    }

    /// <summary>
    /// A workspace by its short name, where it was looked at within the last half second; null where it was not, or is not
    /// known. Asks nobody.
    /// </summary>
    public KeptWorld? Recent(string shortName) =>
        _ids.TryGetValue(shortName, out var id)
        && _kept.TryGetValue(id, out var kept)
        && clock.GetElapsedTime(kept.CheckedAt) < Oldest
            ? kept
            : null;

    /// <summary>Who may do what as a change sees it that holds the workspace's lock; not kept for anybody else.</summary>
    public async Task<AccessPicture> WithinAsync(ComeAboardContext rows, WorkspaceRow locked)
    {
        if (!_kept.TryGetValue(locked.Id, out var kept))
            return await AccessPicture.ReadAsync(rows, locked.AccessVersion);
        return await AdvanceAsync(rows, kept.Picture, locked.AccessVersion);
    }

    /// <summary>Puts in force what a change that is committed now came to.</summary>
    public void Publish(WorkspaceRow workspace, AccessPicture picture) =>
        Keep(new KeptWorld(workspace, picture, clock.GetTimestamp()));

    /// <inheritdoc/>
    protected override Task ExecuteAsync(CancellationToken stop) =>
        Task.WhenAll(LookAsync(stop), ListenAsync(stop));

    /// <summary>Looks at once whether anything has changed.</summary>
    public Task CatchUpAsync(CancellationToken stop = default) => LookAtAllAsync(stop);

    private async Task ListenAsync(CancellationToken stop)
    {
        while (database.Engine == Engine.Postgres && !stop.IsCancellationRequested)
        {
            try
            {
                await database.ListenAsync(
                    Channel,
                    called =>
                    {
                        if (Guid.TryParse(called, out var id) && _kept.ContainsKey(id))
                            _ = Task.Run(() => ReadAsync(id), stop);
                    },
                    stop
                );
            }
            catch (Exception) when (!stop.IsCancellationRequested)
            {
                // Whoever hears nothing looks.
                await Task.Delay(ListenAgain, CancellationToken.None);
            }
            catch (Exception) when (stop.IsCancellationRequested)
            {
                return;
            }
        }
    }

    private async Task LookAsync(CancellationToken stop)
    {
        using var timer = new PeriodicTimer(Pace, clock);
        using var patience = Patience.Within(Patience.OfRequest);
        while (await NextAsync(timer, stop))
        {
            try
            {
                await LookAtAllAsync(stop);
            }
            catch (Exception fault) when (fault is not OperationCanceledException)
            {
                // The database is away: nothing is marked as looked at, and so nothing is answered before it is back.
            }
        }
    }

    private static async Task<bool> NextAsync(PeriodicTimer timer, CancellationToken stop)
    {
        try
        {
            return await timer.WaitForNextTickAsync(stop);
        }
        catch (OperationCanceledException)
        {
            return false;
        }
    }

    private async Task LookAtAllAsync(CancellationToken stop)
    {
        if (_kept.IsEmpty)
            return;
        var at = clock.GetTimestamp();
        var ids = _kept.Keys.ToList();
        await using var rows = database.Open();
        var versions = await rows
            .Workspaces.AsNoTracking()
            .Where(w => ids.Contains(w.Id))
            .Select(w => new { w.Id, w.AccessVersion })
            .ToListAsync(stop);
        foreach (var found in versions)
        {
            if (!_kept.TryGetValue(found.Id, out var kept))
                continue;
            if (kept.World.Version < found.AccessVersion)
                await ReadAsync(found.Id);
            else
                Keep(kept with { CheckedAt = Math.Max(at, kept.CheckedAt) });
        }
    }

    private async Task<KeptWorld?> LookAsync(string shortName)
    {
        if (!_ids.TryGetValue(shortName, out var id))
        {
            await using var rows = database.Open();
            id = await rows
                .Workspaces.Where(w => w.ShortName == shortName)
                .Select(w => w.Id)
                .FirstOrDefaultAsync();
            if (id == default)
                return null;
            _ids[shortName] = id;
        }
        return await ReadAsync(id);
    }

    /// <summary>Reads a workspace, or what has changed in it; those who wait for the same reading share it.</summary>
    private async Task<KeptWorld?> ReadAsync(Guid id)
    {
        var asked = clock.GetTimestamp();
        // Whoever asks: others share it.
        using var patience = Patience.Within(Patience.OfRequest);
        var line = _reading.GetOrAdd(id, _ => new Line());
        await line.EnterAsync(Stopwatch.GetTimestamp());
        try
        {
            if (_kept.TryGetValue(id, out var kept) && kept.CheckedAt >= asked)
                return kept;
            var at = clock.GetTimestamp();
            await using var rows = database.Open(id);
            await using var moment = await database.MomentAsync(rows);
            if (
                await rows.Workspaces.AsNoTracking().FirstOrDefaultAsync(w => w.Id == id) is not { } workspace
            )
                return null;
            var picture = kept is null
                ? await AccessPicture.ReadAsync(rows, workspace.AccessVersion)
                : await AdvanceAsync(rows, kept.Picture, workspace.AccessVersion);
            return Keep(new KeptWorld(workspace, picture, at));
        }
        catch (Exception fault)
        {
            line.Tell(fault);
            throw;
        }
        finally
        {
            line.Leave();
        }
    }

    private static async Task<AccessPicture> AdvanceAsync(
        ComeAboardContext rows,
        AccessPicture from,
        long version
    )
    {
        if (from.World.Version >= version)
            return from;
        var changes = await rows
            .AccessChanges.AsNoTracking()
            .Where(c => c.Version > from.World.Version && c.Version <= version)
            .ToListAsync();
        // What is older than the kept changes cannot be caught up with.
        return changes.Any(c => c.Version == from.World.Version + 1)
            ? await from.CatchUpAsync(
                rows,
                [.. changes.Select(c => new AccessSubject(c.Kind, c.SubjectId)).Distinct()],
                version
            )
            : await AccessPicture.ReadAsync(rows, version);
    }

    /// <summary>Keeps the newer of two.</summary>
    private KeptWorld Keep(KeptWorld world)
    {
        _ids[world.Workspace.ShortName] = world.Workspace.Id;
        return _kept.AddOrUpdate(
            world.Workspace.Id,
            world,
            (_, kept) =>
                kept.World.Version > world.World.Version
                || kept.World.Version == world.World.Version && kept.CheckedAt > world.CheckedAt
                    ? kept
                    : world
        );
    }
}
