using ComeAboard.Core;
using ComeAboard.Service.Access;
using ComeAboard.Service.Applications;
using ComeAboard.Service.Connections;
using ComeAboard.Service.Jobs;
using ComeAboard.Service.Workspaces;
using ComeAboard.Storage;
using ComeAboard.Storage.Accounts;
using Microsoft.EntityFrameworkCore;
using Database = ComeAboard.Storage.Database;

namespace ComeAboard.Service.Accounts;

/// <summary>
/// The only door through which an account is changed, beside statements that are whole in themselves. It takes the locks
/// of the accounts in the order of their ids, then those of the workspaces that are changed along, in the order of
/// theirs, and writes state, histories, records and mails in one transaction.
/// </summary>
/// <remarks>
/// An account's lock lets rows that refer to it be added meanwhile, so that a workspace that takes somebody in waits for
/// nobody here, and nobody who waits here for a workspace is waited for by it.
/// </remarks>
public sealed class AccountWriter(
    Database database,
    WriteGate gate,
    TimeProvider clock,
    OutboxBell bell,
    SignOutBell signOuts,
    CarryBell carrying,
    AccessWorlds worlds
)
{
    /// <summary>Changes accounts, and workspaces with them. A refusal keeps nothing.</summary>
    /// <param name="accounts">Which accounts; none where one is begun.</param>
    /// <param name="workspaces">Which workspaces are changed along.</param>
    /// <param name="caller">Who changes them.</param>
    /// <param name="change">Reads, decides and adds rows.</param>
    public async Task<Outcome<T>> WriteAsync<T>(
        IReadOnlyCollection<Guid> accounts,
        IReadOnlyCollection<Guid> workspaces,
        Caller caller,
        Func<AccountWrite, Task<Outcome<T>>> change
    )
        where T : notnull
    {
        // Whoever asks: others wait in line behind it.
        using var patience = Patience.Within(Patience.OfRequest);
        using var line = await gate.LineUpAsync(workspaces);
        try
        {
            return await WriteNowAsync(accounts, workspaces, caller, change);
        }
        catch (Exception fault)
        {
            line.Tell(fault);
            throw;
        }
    }

    private async Task<Outcome<T>> WriteNowAsync<T>(
        IReadOnlyCollection<Guid> accounts,
        IReadOnlyCollection<Guid> workspaces,
        Caller caller,
        Func<AccountWrite, Task<Outcome<T>>> change
    )
        where T : notnull
    {
        await using var rows = database.Open();
        await using var transaction = await rows.Database.BeginTransactionAsync();
        rows.Database.AutoSavepointsEnabled = false;
        var locked = new Dictionary<Guid, AccountRow>();
        foreach (var id in accounts.Distinct().Order())
            locked[id] = await LockAsync(rows, id);
        var turns = new Dictionary<Guid, WorkspaceTurn>();
        foreach (var id in workspaces.Distinct().Order())
            turns[id] = await WorkspaceTurn.BeginAsync(database, worlds, rows, id);
        var fate = await CommitFate.OfAsync(database, rows);
        var write = new AccountWrite(rows, locked, turns, caller, clock.Now());
        var outcome = await change(write);
        if (!outcome.Succeeded || caller.Rehearses)
        {
            await transaction.RollbackAsync();
            return outcome;
        }
        await write.FinishAsync();
        foreach (var (id, turn) in turns)
        {
            rows.Turn(id);
            await turn.CloseAsync();
        }
        await fate.CommitAsync(transaction);
        foreach (var turn in turns.Values)
            turn.Publish();
        if (turns.Values.Any(turn => turn.HasMail))
            bell.Ring();
        if (turns.Values.Any(turn => turn.HasSignOuts))
            signOuts.Ring();
        if (turns.Values.Any(turn => turn.HasCarrying))
            carrying.Ring();
        return outcome;
    }

    private async Task<AccountRow> LockAsync(ComeAboardContext rows, Guid id)
    {
        var found =
            database.Engine == Engine.Postgres
                ? rows.Accounts.FromSql($"SELECT * FROM accounts WHERE id = {id} FOR NO KEY UPDATE")
                : rows.Accounts.Where(a => a.Id == id);
        return await found.AsNoTracking().FirstAsync();
    }
}
