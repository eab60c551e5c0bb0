using System.Diagnostics;
using ComeAboard.Storage;
using Microsoft.EntityFrameworkCore;
using Microsoft.EntityFrameworkCore.Storage;
using Database = ComeAboard.Storage.Database;

namespace ComeAboard.Service.Workspaces;

/// <summary>The answer to a commit was lost, and whether it is in could not be found out.</summary>
public sealed class UnknownFateException(Exception fault)
    : Exception("Whether the transaction was committed is not known.", fault);

/// <summary>
/// What becomes of a transaction whose answer gets lost on the way: the server knows it by its number and is asked again
/// over another connection. Where there is no way between program and database, nothing gets lost.
/// </summary>
public sealed class CommitFate
{
    private static readonly TimeSpan LongestLook = TimeSpan.FromSeconds(1.5);
    private static readonly TimeSpan Pause = TimeSpan.FromMilliseconds(100);

    private readonly Database _database;
    private readonly string? _number;

    private CommitFate(Database database, string? number) => (_database, _number) = (database, number);

    /// <summary>Notes the number of the transaction that a context is in.</summary>
    public static async Task<CommitFate> OfAsync(Database database, ComeAboardContext rows) =>
        new(
            database,
            database.Engine == Engine.Postgres
                ? (
                    await rows
                        .Database.SqlQuery<string>($"SELECT pg_current_xact_id()::text AS \"Value\"")
                        .ToListAsync()
                )[0]
                : null
        );

    /// <summary>Commits. When it returns the transaction is in; when it throws anything else than the following it is not.</summary>
    /// <exception cref="UnknownFateException">It may be in, or not.</exception>
    public async Task CommitAsync(IDbContextTransaction transaction)
    {
        try
        {
            await transaction.CommitAsync();
        }
        catch (Exception fault) when (_number is not null)
        {
            if (await IsInAsync(_number) is not { } isIn)
                throw new UnknownFateException(fault);
            if (!isIn)
                throw;
        }
    }

    private async Task<bool?> IsInAsync(string number)
    {
        var since = Stopwatch.GetTimestamp();
        for (; Stopwatch.GetElapsedTime(since) < LongestLook; await Task.Delay(Pause))
        {
            try
            {
                // Where that hangs, too, it is left to itself.
                var state = await StateAsync(number).WaitAsync(LongestLook);
                if (state is "committed" or "aborted")
                    return state == "committed";
            }
            catch (Exception fault) when (StorageFaults.Explain(fault) is not null)
            {
                // It is still away, or takes its time.
            }
        }
        return null;
    }

    private async Task<string?> StateAsync(string number)
    {
        await using var rows = _database.Open();
        var state = await rows
            .Database.SqlQuery<string?>($"SELECT pg_xact_status({number}::text::xid8) AS \"Value\"")
            .ToListAsync();
        return state[0];
    }
}
