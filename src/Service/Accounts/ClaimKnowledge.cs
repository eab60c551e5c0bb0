using ComeAboard.Client.Accounts;
using ComeAboard.Core;
using ComeAboard.Core.Accounts;
using ComeAboard.Core.Workspaces;
using ComeAboard.Storage;
using ComeAboard.Storage.Accounts;
using Microsoft.EntityFrameworkCore;

namespace ComeAboard.Service.Accounts;

/// <summary>An account with the claim to it, where there is one.</summary>
/// <param name="Account">The account.</param>
/// <param name="Address">Its address at the domain, as it is written.</param>
/// <param name="Row">The claim; null where nobody has asked.</param>
/// <param name="Facts">What the claim is judged by.</param>
public sealed record ClaimedAccount(AccountRow Account, string Address, ClaimRow? Row, ClaimFacts Facts)
{
    /// <summary>The claim as it is judged: of an account that is held without ever having been asked, taken.</summary>
    public Claim Claim(Guid workspace) =>
        Row?.Claim
        ?? (
            Account.CustodyId == workspace
                ? Core.Accounts.Claim.New with
                {
                    State = ClaimState.Taken,
                    DecidedAt = Account.CustodySince,
                }
                : Core.Accounts.Claim.New
        );
}

/// <summary>What is read of accounts to judge and to show claims.</summary>
public static class ClaimKnowledge
{
    /// <summary>For an address at which no account can be claimed.</summary>
    public static Refusal NoAccount { get; } =
        new(
            "claim.no-account",
            "There is no account at this address that the workspace could hold.",
            "It has to be the proved main address of an account, at a domain the workspace has proved.",
            RefusalSort.NotFound,
            "address"
        );

    /// <summary>
    /// The account at an address of one of a workspace's domains, or the one a claim was about; refuses with
    /// <c>claim.no-account</c>. Of other domains nothing is told.
    /// </summary>
    public static async Task<Outcome<ClaimedAccount>> FindAsync(
        ComeAboardContext rows,
        Guid workspace,
        string? address,
        DateTimeOffset now
    )
    {
        if (!EmailAddress.Read(address).Try(out var read, out var refusal))
            return refusal with { Field = "address" };
        var key = read.Key;
        var claim = await rows
            .Claims.AsNoTracking()
            .Where(c => c.WorkspaceId == workspace && c.AddressKey == key)
            // Whatever was made one with another account is that one.
            .Where(c => !rows.Accounts.Any(a => a.Id == c.AccountId && a.MergedIntoId != null))
            .OrderByDescending(c => c.State != ClaimState.Released)
            .ThenByDescending(c => c.Id)
            .FirstOrDefaultAsync();
        // Who took an address back may find another account at it later.
        var found = claim is null or { State: ClaimState.Released }
            ? await (
                from at in rows.AccountAddresses
                join account in rows.Accounts on at.AccountId equals account.Id
                join domain in rows.Domains.Where(d => d.WorkspaceId == workspace)
                    on at.Domain equals domain.Domain
                where
                    at.AddressKey == key
                    && (at.ProvedAt != null || account.CustodyId == workspace)
                    && at.Address == account.Address
                    && domain.ShownAt != null
                select account
            )
                .AsNoTracking()
                .FirstOrDefaultAsync()
            : null;
        if (found is not null)
            claim = await rows
                .Claims.AsNoTracking()
                .FirstOrDefaultAsync(c => c.WorkspaceId == workspace && c.AccountId == found.Id);
        if (found is null && claim is null)
            return NoAccount;
        var id = found?.Id ?? claim!.AccountId;
        return await OfAsync(rows, workspace, id, claim, now, found is null ? null : read.ToString());
    }

    /// <summary>What is known of an account for its claim.</summary>
    public static async Task<ClaimedAccount> OfAsync(
        ComeAboardContext rows,
        Guid workspace,
        Guid id,
        ClaimRow? claim,
        DateTimeOffset now,
        string? at = null
    ) => (await OfAsync(rows, workspace, [new Named(id, claim, at ?? claim!.Address)], now))[0];

    /// <summary>What is known of several accounts for their claims, in the order in which they are named.</summary>
    public static async Task<IReadOnlyList<ClaimedAccount>> OfAsync(
        ComeAboardContext rows,
        Guid workspace,
        IReadOnlyList<Named> named,
        DateTimeOffset now
    )
    {
        var ids = named.Select(one => one.Account).ToList();
        var accounts = await rows
            .Accounts.AsNoTracking()
            .Where(a => ids.Contains(a.Id))
            .ToDictionaryAsync(a => a.Id);
        var domains = await rows
            .Domains.AsNoTracking()
            .Where(d => d.WorkspaceId == workspace)
            .ToDictionaryAsync(d => d.Domain, d => d.Proof);
        var places = await rows
            .Members.IgnoreQueryFilters()
            .Where(m => ids.Contains(m.AccountId))
            .Select(m => new
            {
                m.AccountId,
                IsElsewhere = m.WorkspaceId != workspace && m.EndedAt == null,
                At = m.LastSeenAt,
            })
            .ToListAsync();
        var others = places.Where(place => place.IsElsewhere).ToLookup(place => place.AccountId);
        var ways = await rows
            .Credentials.Where(c => ids.Contains(c.AccountId) && c.LastUsedAt != null)
            .Select(c => new { c.AccountId, At = c.LastUsedAt })
            .ToListAsync();
        var open = await rows
            .Sessions.Where(s => ids.Contains(s.AccountId))
            .Select(s => new { s.AccountId, At = (DateTimeOffset?)s.SeenAt })
            .ToListAsync();
        var unseated = await HeldSeats.WithoutAsync(rows, workspace, ids, now);
        var used = places
            .Select(place => (place.AccountId, place.At))
            .Concat(ways.Select(way => (way.AccountId, way.At)))
            .Concat(open.Select(session => (session.AccountId, session.At)))
            .Where(one => one.At is not null)
            .ToLookup(one => one.AccountId, one => one.At!.Value);
        return
        [
            .. named.Select(one =>
            {
                var key = EmailAddress.Read(one.Address).Value.Key;
                var proof = domains.GetValueOrDefault(key[(key.LastIndexOf('@') + 1)..]);
                var account = accounts[one.Account];
                return new ClaimedAccount(
                    account,
                    one.Address,
                    one.Row,
                    new ClaimFacts(
                        now,
                        proof?.Gains(now) ?? false,
                        others[one.Account].Count(),
                        used[one.Account].Append(account.CreatedAt).Max()
                    )
                    {
                        HasSeat = !unseated.Contains(one.Account),
                    }
                );
            }),
        ];
    }

    /// <summary>An account of which something is to be known.</summary>
    /// <param name="Account">Its id.</param>
    /// <param name="Row">The claim to it; null for none.</param>
    /// <param name="Address">Its address at the domain.</param>
    public sealed record Named(Guid Account, ClaimRow? Row, string Address);

    /// <summary>The claim as the workspace sees it.</summary>
    public static ClaimView ViewOf(ClaimedAccount one, Guid workspace)
    {
        var claim = one.Claim(workspace);
        return new ClaimView(
            one.Address,
            one.Account.Name,
            Word(claim.State),
            claim.State == ClaimState.Asked ? claim.Deadline : null,
            one.Facts.OtherWorkspaces,
            one.Account.CreatedAt,
            one.Facts.LastUsedAt,
            claim.AskedAt,
            one.Row?.AskedByName ?? "",
            one.Row?.Reason ?? "",
            claim.Silence.Word(),
            claim.Mails,
            claim.DecidedAt,
            CanOf(claim, one.Facts),
            one.Row?.Version ?? 0
        )
        {
            AtOnce = claim is { State: ClaimState.Asked, IsSitting: true },
            Paused = one.Account.PausedAt is not null && one.Account.CustodyId == workspace,
        };
    }

    private static IReadOnlyList<string> CanOf(Claim claim, ClaimFacts facts)
    {
        var can = new List<string>();
        if (claim.Ask(facts, Claim.UsualNoticeDays, Silence.LetBe, false).Succeeded)
            can.Add("ask");
        if (claim.Ask(facts, Claim.UsualNoticeDays, Silence.LetBe, true).Succeeded)
            can.Add("ask-again");
        foreach (var what in new[] { ClaimEvent.Cancel, ClaimEvent.Take, ClaimEvent.Release })
            if (claim.After(what, facts).Succeeded)
                can.Add(what.ToString().ToLowerInvariant());
        return can;
    }

    internal static string Word(ClaimState state) => state.ToString().ToLowerInvariant();
}
