using ComeAboard.Core;
using ComeAboard.Core.Invitations;
using ComeAboard.Core.Record;
using ComeAboard.Service.Record;
using ComeAboard.Storage;
using ComeAboard.Storage.Access;
using ComeAboard.Storage.Accounts;
using ComeAboard.Storage.Copies;
using ComeAboard.Storage.Invitations;
using ComeAboard.Storage.Mail;
using ComeAboard.Storage.Workspaces;
using Microsoft.Data.Sqlite;
using Microsoft.EntityFrameworkCore;

namespace ComeAboard.Service.Upkeep;

/// <summary>Something that does not add up in a database.</summary>
/// <param name="Workspace">The short name of the workspace it is in; null for the database as a whole.</param>
/// <param name="Code">
/// Stable: <c>file.damaged</c>, the codes of <see cref="RecordChain"/>, <c>count.wrong</c>, <c>seat.wrong</c>,
/// <c>reference.dangling</c>.
/// </param>
/// <param name="Sentence">What was found, in plain words.</param>
public sealed record Finding(string? Workspace, string Code, string Sentence);

/// <summary>What a check came to.</summary>
/// <param name="Workspaces">How many workspaces were looked at.</param>
/// <param name="Invitations">How many invitations are in them.</param>
/// <param name="Members">How many people.</param>
/// <param name="Entries">How many entries their records have.</param>
/// <param name="WaitingMails">How many mails wait to be sent.</param>
/// <param name="Latest">When the last entry was written; null for none.</param>
/// <param name="Findings">What does not add up; empty when all is well.</param>
public sealed record CheckResult(
    int Workspaces,
    int Invitations,
    int Members,
    long Entries,
    int WaitingMails,
    DateTimeOffset? Latest,
    IReadOnlyList<Finding> Findings
);

/// <summary>
/// Reads a whole database, as of one moment and while it is in use, and holds against each other what is kept twice: the
/// chain of each record, the counts by state, the accounts of seats, and everything that refers to something.
/// </summary>
public sealed class DatabaseCheck(Database database)
{
    private const string FileDamaged = "file.damaged";
    private const int SqliteCorrupt = 11;

    private readonly List<Finding> _findings = [];
    private long _entries;
    private DateTimeOffset? _latest;

    /// <summary>Checks everything.</summary>
    /// <param name="cancellation">Breaks it off.</param>
    public async Task<CheckResult> RunAsync(CancellationToken cancellation = default)
    {
        await using var all = database.Open();
        await using var moment = await Copying.MomentAsync(database, all);
        var workspaces = 0;
        var (invitations, members, mails) = (0, 0, 0);
        try
        {
            foreach (var damage in await Copying.DamagesAsync(all))
                Find(null, FileDamaged, $"The file is damaged: {damage}.");
            invitations = await all.Invitations.IgnoreQueryFilters().CountAsync(cancellation);
            members = await all.Members.IgnoreQueryFilters().CountAsync(cancellation);
            mails = await all
                .Deliveries.IgnoreQueryFilters()
                .CountAsync(
                    d => d.State == DeliveryState.Due || d.State == DeliveryState.Deferred,
                    cancellation
                );
            await HistoriesAsync(all, cancellation);
            foreach (
                var workspace in await all
                    .Workspaces.AsNoTracking()
                    .OrderBy(w => w.ShortName)
                    .ToListAsync(cancellation)
            )
            {
                workspaces++;
                await RecordAsync(all, workspace, cancellation);
                await CountsAsync(all, workspace, cancellation);
                await SeatsAsync(all, workspace, cancellation);
                await ReferencesAsync(all, workspace);
            }
        }
        catch (SqliteException damage) when (damage.SqliteErrorCode == SqliteCorrupt)
        {
            Find(null, FileDamaged, $"The file is damaged so that it cannot be read on: {damage.Message}");
        }
        return new CheckResult(workspaces, invitations, members, _entries, mails, _latest, _findings);
    }

    private void Find(WorkspaceRow? workspace, string code, string sentence) =>
        _findings.Add(new Finding(workspace?.ShortName, code, sentence));

    /// <summary>The histories of all accounts in one pass, each against the head kept apart from it.</summary>
    private async Task HistoriesAsync(ComeAboardContext all, CancellationToken cancellation)
    {
        var kept = await all
            .Accounts.AsNoTracking()
            .Select(a => new
            {
                a.Id,
                a.Address,
                Head = new RecordHead(a.HistorySequence, a.HistoryHash),
            })
            .ToDictionaryAsync(a => a.Id, a => (a.Address, a.Head), cancellation);
        var read = new Dictionary<Guid, RecordHead>();
        var faulty = new HashSet<Guid>();
        await foreach (
            var row in all
                .AccountHistory.AsNoTracking()
                .OrderBy(h => h.AccountId)
                .ThenBy(h => h.Sequence)
                .AsAsyncEnumerable()
                .WithCancellation(cancellation)
        )
        {
            var entry = row.ToEntry();
            if (faulty.Contains(row.AccountId))
                continue;
            Look(
                row.AccountId,
                RecordChain.Check(read.GetValueOrDefault(row.AccountId, RecordHead.Empty), entry)
            );
            read[row.AccountId] = RecordChain.After(entry);
        }
        foreach (var (account, (_, head)) in kept)
            if (!faulty.Contains(account))
                Look(account, RecordChain.CheckEnd(read.GetValueOrDefault(account, RecordHead.Empty), head));

        void Look(Guid account, RecordFault? fault)
        {
            if (fault is null)
                return;
            faulty.Add(account);
            Find(
                null,
                fault.Code,
                $"In the history of the account {kept[account].Address}: {fault.Sentence}"
            );
        }
    }

    private async Task RecordAsync(
        ComeAboardContext all,
        WorkspaceRow workspace,
        CancellationToken cancellation
    )
    {
        var (head, latest, fault) = await RecordLists.ReadThroughAsync(
            Of(all.Record, workspace),
            workspace.RecordHead,
            cancellation
        );
        _entries += head.Sequence;
        if (latest is { } at && (_latest is null || at > _latest))
            _latest = at;
        if (fault is not null)
            Find(workspace, fault.Code, fault.Sentence);
    }

    private async Task CountsAsync(
        ComeAboardContext all,
        WorkspaceRow workspace,
        CancellationToken cancellation
    )
    {
        var real = await Of(all.Invitations, workspace)
            .GroupBy(i => i.State)
            .Select(g => new { State = g.Key, Count = g.Count() })
            .ToDictionaryAsync(g => g.State, g => g.Count, cancellation);
        var kept = await Of(all.InvitationCounts, workspace)
            .ToDictionaryAsync(c => c.State, c => c.Count, cancellation);
        foreach (var state in real.Keys.Union(kept.Keys))
        {
            var (is_, said) = (real.GetValueOrDefault(state), kept.GetValueOrDefault(state));
            if (is_ != said)
                Find(
                    workspace,
                    "count.wrong",
                    $"{said} invitations are counted as {state.Word()}, but there are {is_}."
                );
        }
    }

    private async Task SeatsAsync(
        ComeAboardContext all,
        WorkspaceRow workspace,
        CancellationToken cancellation
    )
    {
        var held = await Of(all.Seats, workspace)
            .GroupBy(s => s.PoolId)
            .Select(g => new { Pool = g.Key, Count = g.Count() })
            .ToDictionaryAsync(g => g.Pool, g => g.Count, cancellation);
        var reserved = await Of(all.SeatReservations, workspace)
            .GroupBy(r => r.PoolId)
            .Select(g => new
            {
                Pool = g.Key,
                Count = g.Count(),
                Changes = g.Count(r => r.IsChange),
            })
            .ToDictionaryAsync(g => g.Pool, g => (g.Count, g.Changes), cancellation);
        foreach (var pool in await Of(all.SeatPools, workspace).ToListAsync(cancellation))
        {
            var (asked, changes) = reserved.GetValueOrDefault(pool.Id);
            Compare("held", pool.Held, held.GetValueOrDefault(pool.Id));
            Compare("reserved", pool.Reserved, asked);
            Compare("reserved as a change", pool.ReservedChanges, changes);

            void Compare(string what, int said, int real)
            {
                if (said != real)
                    Find(
                        workspace,
                        "seat.wrong",
                        $"{said} seats of {pool.Name} are counted as {what}, but {real} are."
                    );
            }
        }
    }

    private async Task ReferencesAsync(ComeAboardContext all, WorkspaceRow workspace)
    {
        foreach (var reference in Reference.All)
        {
            if (await reference.CountDanglingAsync(all, workspace.Id) is > 0 and var dangling)
                Find(
                    workspace,
                    "reference.dangling",
                    $"{dangling} × {reference.NameIn(all)}: what is referred to is not there."
                );
        }
    }

    private static IQueryable<T> Of<T>(IQueryable<T> rows, WorkspaceRow workspace)
        where T : class, ITenantRow =>
        rows.IgnoreQueryFilters().AsNoTracking().Where(r => r.WorkspaceId == workspace.Id);
}
