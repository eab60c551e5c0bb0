using ComeAboard.Service.Jobs;
using ComeAboard.Storage;
using Microsoft.EntityFrameworkCore;

namespace ComeAboard.Service.Access;

/// <summary>
/// Reads after a start who may do what, before anybody asks, so that nobody waits for it who comes a moment later. Of the workspaces in which most of
/// that has changed: where there are very many, few of them are asked for.
/// </summary>
public sealed class ReadingAhead(
    AccessWorlds worlds,
    Database database,
    FirstAnswer first,
    ILogger<ReadingAhead> log
) : BackgroundWork(first)
{
    /// <summary>Of how many workspaces.</summary>
    public const int Most = 16;

    /// <inheritdoc/>
    protected override async Task GoOnAsync(CancellationToken stop)
    {
        try
        {
            foreach (var name in await BusiestAsync(stop))
                // A file is read on the thread that asks; whoever stops the service does not wait for the end of it.
                await Task.Run(() => worlds.NowAsync(name).AsTask(), stop).WaitAsync(stop);
        }
        catch (Exception fault) when (!stop.IsCancellationRequested)
        {
            log.LogInformation(fault, "Nothing more is read ahead; it is read when somebody asks");
        }
    }

    private async Task<List<string>> BusiestAsync(CancellationToken stop)
    {
        await using var rows = database.Open();
        return await rows
            .Workspaces.OrderByDescending(w => w.AccessVersion)
            .Select(w => w.ShortName)
            .Take(Most)
            .ToListAsync(stop);
    }
}
