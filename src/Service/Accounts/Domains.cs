using System.Security.Cryptography;
using ComeAboard.Client.Accounts;
using ComeAboard.Client.Workspaces;
using ComeAboard.Core;
using ComeAboard.Core.Accounts;
using ComeAboard.Core.Workspaces;
using ComeAboard.Service.Workspaces;
using ComeAboard.Storage;
using ComeAboard.Storage.Accounts;
using Microsoft.EntityFrameworkCore;

namespace ComeAboard.Service.Accounts;

/// <summary>Mail domains that workspaces prove to be their own.</summary>
public sealed class Domains(
    Database database,
    WorkspaceWriter writer,
    WriteGate gate,
    DomainResolver resolver,
    DomainNews news,
    TimeProvider clock
)
{
    private const int MostDomains = 100;
    private const int AtOnce = 20;

    // Whoever takes a look that is due has this long for it before another may.
    private static readonly TimeSpan TimeToLook = TimeSpan.FromMinutes(1);

    /// <summary>The domains of a workspace, by name.</summary>
    public async Task<Page<DomainView>> ListAsync(Visitor visitor)
    {
        await using var rows = database.Open(visitor.WorkspaceId);
        var found = await rows.Domains.AsNoTracking().OrderBy(d => d.Domain).ToListAsync();
        var views = new List<DomainView>();
        foreach (var row in found)
            views.Add(await ViewAsync(rows, row));
        return new Page<DomainView>(views, null);
    }

    /// <summary>Adds a domain, and looks at once whether it is shown.</summary>
    public async Task<Outcome<DomainView>> AddAsync(Visitor visitor, string? domain)
    {
        if (!Read(domain).Try(out var name, out var refusal))
            return refusal;
        var added = await writer.WriteAsync<DomainView>(
            visitor.WorkspaceId,
            visitor.Caller,
            async write =>
            {
                if (await write.Rows.Domains.AnyAsync(d => d.Domain == name))
                    return new Refusal(
                        "domain.exists",
                        $"{name} is in the list already.",
                        "Check it: aboard domains check " + name,
                        RefusalSort.Conflict,
                        "domain"
                    );
                if (await write.Rows.Domains.CountAsync() >= MostDomains)
                    return new Refusal(
                        "domain.too-many",
                        $"There are {MostDomains} domains already.",
                        "Remove one that is not needed.",
                        RefusalSort.Conflict,
                        "domain"
                    );
                var row = new DomainRow
                {
                    WorkspaceId = visitor.WorkspaceId,
                    Id = Guid.CreateVersion7(write.Now),
                    Domain = name,
                    Token = Convert.ToHexStringLower(RandomNumberGenerator.GetBytes(20)),
                    AddedAt = write.Now,
                    NextLookAt = write.Now + DomainProof.LookEveryWaiting,
                };
                write.Rows.Domains.Add(row);
                write.Record("domain.added", row.Id, ("domain", name));
                return await ViewAsync(write.Rows, row);
            }
        );
        return added.Succeeded && !visitor.Caller.Rehearses
            ? await LookAsync(visitor.WorkspaceId, name, visitor.Caller)
            : added;
    }

    /// <summary>Looks now whether a domain is shown.</summary>
    public async Task<Outcome<DomainView>> CheckAsync(Visitor visitor, string domain) =>
        Read(domain).Try(out var name, out var refusal)
            ? await LookAsync(visitor.WorkspaceId, name, visitor.Caller)
            : refusal;

    /// <summary>Removes a domain; refuses with <c>domain.in-use</c> while accounts at it are held.</summary>
    public async Task<Outcome<DomainView>> RemoveAsync(Visitor visitor, string domain)
    {
        if (!Read(domain).Try(out var name, out var refusal))
            return refusal;
        return await writer.WriteAsync<DomainView>(
            visitor.WorkspaceId,
            visitor.Caller,
            async write =>
            {
                if (await write.Rows.Domains.FirstOrDefaultAsync(d => d.Domain == name) is not { } row)
                    return CommonRefusals.NotFound;
                if (
                    await write.Rows.Accounts.AnyAsync(a =>
                        a.CustodyId == visitor.WorkspaceId
                        && write.Rows.AccountAddresses.Any(at =>
                            at.AccountId == a.Id && at.Address == a.Address && at.Domain == name
                        )
                    )
                )
                    return new Refusal(
                        "domain.in-use",
                        $"Accounts at {name} are in the workspace's custody.",
                        "Release them first: aboard claims list --state taken",
                        RefusalSort.Conflict,
                        "domain"
                    );
                var view = await ViewAsync(write.Rows, row);
                write.Rows.Domains.Remove(row);
                write.Record("domain.removed", row.Id, ("domain", name), ("state", view.State));
                return view;
            }
        );
    }

    /// <summary>Takes the looks that are due, a few at a time.</summary>
    /// <returns>How many there were.</returns>
    public async Task<int> LookDueAsync()
    {
        var now = clock.Now();
        await using var rows = database.Open();
        var due = await rows
            .Domains.IgnoreQueryFilters()
            .AsNoTracking()
            .Where(d => d.NextLookAt <= now)
            .OrderBy(d => d.NextLookAt)
            .Take(AtOnce)
            .ToListAsync();
        foreach (var row in due)
        {
            if (await IsMineAsync(row, now))
                await LookAsync(row.WorkspaceId, row.Domain, Caller.Clock);
        }
        return due.Count;
    }

    private async Task<bool> IsMineAsync(DomainRow row, DateTimeOffset now)
    {
        using var pass = await gate.EnterAsync();
        await using var rows = database.Open();
        return await rows
                .Domains.IgnoreQueryFilters()
                .Where(d =>
                    d.WorkspaceId == row.WorkspaceId && d.Id == row.Id && d.NextLookAt == row.NextLookAt
                )
                .ExecuteUpdateAsync(set => set.SetProperty(d => d.NextLookAt, now + TimeToLook)) == 1;
    }

    private async Task<Outcome<DomainView>> LookAsync(Guid workspace, string domain, Caller caller)
    {
        await using (var rows = database.Open(workspace))
        {
            if (
                await rows.Domains.AsNoTracking().FirstOrDefaultAsync(d => d.Domain == domain)
                is not { } known
            )
                return CommonRefusals.NotFound;
            var look = await resolver.LookAsync(
                DomainProof.RecordName(domain),
                DomainProof.RecordValue(known.Token)
            );
            try
            {
                return await KeepAsync(workspace, known, look, caller);
            }
            catch (DbUpdateException)
            {
                // Another workspace was proved to have it at this very moment: now it can be seen.
                return await KeepAsync(workspace, known, look, caller);
            }
        }
    }

    private Task<Outcome<DomainView>> KeepAsync(
        Guid workspace,
        DomainRow known,
        DomainLook look,
        Caller caller
    ) =>
        writer.WriteAsync<DomainView>(
            workspace,
            caller,
            async write =>
            {
                // One that was removed meanwhile, or added anew, was not looked at.
                if (await write.Rows.Domains.FirstOrDefaultAsync(d => d.Id == known.Id) is not { } row)
                    return CommonRefusals.NotFound;
                var isElsewhere = await IsElsewhereAsync(write.Rows, row);
                var before = row.Proof.StateAt(write.Now);
                var (next, turn) = row.Proof.After(look, write.Now, isElsewhere);
                row.Proof = next;
                row.Holds = next.ProvedAt is null ? null : row.Domain;
                (row.LastLook, row.LookedAt) = (look, write.Now);
                row.NextLookAt =
                    write.Now
                    + (
                        next.StateAt(write.Now) is DomainState.Proved or DomainState.Lost
                        || write.Now > row.AddedAt + DomainProof.LongestSilence
                            ? DomainProof.LookEvery
                            : DomainProof.LookEveryWaiting
                    );
                if (turn == DomainTurn.None)
                    return await ViewAsync(write.Rows, row);
                row.Version++;
                if (turn != DomainTurn.NearlyLost)
                    write.Record(
                        "domain." + Word(next.StateAt(write.Now)),
                        row.Id,
                        ("domain", row.Domain),
                        ("before", Word(before))
                    );
                await news.TellAsync(write, row, turn);
                return await ViewAsync(write.Rows, row);
            }
        );

    /// <summary>The records that show every domain whose proof counts, by name.</summary>
    public async Task<IReadOnlyList<(string Name, string Text)>> ProvedAsync()
    {
        await using var rows = database.Open();
        var proved = await rows
            .Domains.IgnoreQueryFilters()
            .AsNoTracking()
            .Where(d => d.Holds != null)
            .ToListAsync();
        return
        [
            .. proved.Select(row => (DomainProof.RecordName(row.Domain), DomainProof.RecordValue(row.Token))),
        ];
    }

    private static Task<bool> IsElsewhereAsync(ComeAboardContext rows, DomainRow row) =>
        rows
            .Domains.IgnoreQueryFilters()
            .AnyAsync(d => d.Holds == row.Domain && d.WorkspaceId != row.WorkspaceId);

    private async Task<DomainView> ViewAsync(ComeAboardContext rows, DomainRow row)
    {
        var proof = row.Proof;
        return new DomainView(
            row.Id,
            row.Domain,
            Word(proof.StateAt(clock.Now())),
            DomainProof.RecordName(row.Domain),
            DomainProof.RecordValue(row.Token),
            row.AddedAt,
            row.ProvedAt,
            row.MissingSince,
            proof.LostAt,
            row.LookedAt,
            row.LastLook?.ToString().ToLowerInvariant(),
            // Only who has shown the domain learns that somebody else has.
            row is { LastLook: DomainLook.Shown, ProvedAt: null }
                && await IsElsewhereAsync(rows, row),
            row.Version
        );
    }

    private static string Word(DomainState state) => state.ToString().ToLowerInvariant();

    private static Outcome<string> Read(string? domain) =>
        HouseRules.Domains([domain ?? ""], "domain").Try(out var read, out var refusal)
            // In the form in which DNS and the keys of addresses have it (RFC 5890).
            ? EmailAddress.Read("a@" + read.Single()).Value.Key[2..]
            : refusal;
}
