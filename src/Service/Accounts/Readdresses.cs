using ComeAboard.Client.Accounts;
using ComeAboard.Core;
using ComeAboard.Core.Invitations;
using ComeAboard.Core.Readdressing;
using ComeAboard.Service.Workspaces;
using ComeAboard.Storage;
using Microsoft.EntityFrameworkCore;

namespace ComeAboard.Service.Accounts;

/// <summary>
/// New addresses for many at once, by a pattern or one by one: of held accounts they are corrected, to others proposed, each by
/// the door by which a single one goes. Whoever would collide with somebody keeps what they have.
/// </summary>
public sealed class Readdresses(Database database, Corrections corrections)
{
    private const int Most = 2_000;

    /// <summary>Plans them and does them; where it is only tried, everything is decided and nothing kept.</summary>
    public async Task<Outcome<ReaddressAnswer>> ReaddressAsync(Visitor visitor, ReaddressRequest request)
    {
        if (string.IsNullOrWhiteSpace(request.Pattern) == (request.Entries is null))
            return new Refusal(
                "readdress.one-way",
                "New addresses come either by a pattern or one by one.",
                "Give a pattern, or entries.",
                Field: "pattern"
            );
        return request.Entries is { } entries
            ? await ByEntriesAsync(visitor, entries, request.Reason)
            : await ByPatternAsync(visitor, request);
    }

    private async Task<Outcome<ReaddressAnswer>> ByPatternAsync(Visitor visitor, ReaddressRequest request)
    {
        if (!AddressPattern.Read(request.Pattern).Try(out var pattern, out var refusal))
            return refusal;
        var from = request.From?.Trim().ToLowerInvariant() ?? "";
        await using var rows = database.Open(visitor.WorkspaceId);
        var domains = await rows.Domains.Where(d => d.ProvedAt != null).Select(d => d.Domain).ToListAsync();
        if (from.Length > 0 && !domains.Contains(from))
            return new Refusal(
                "domain.unknown",
                $"The workspace has not proved the domain {Words.Short(from)}.",
                "Look at what it has proved: aboard domains list",
                Field: "from"
            );
        var wanted = from.Length > 0 ? [from] : domains;
        var found = await (
            from account in rows.Accounts
            join at in rows.AccountAddresses on account.Id equals at.AccountId
            where
                at.Address == account.Address
                && wanted.Contains(at.Domain)
                && (
                    account.CustodyId == visitor.WorkspaceId
                    || at.ProvedAt != null
                        && rows.Members.Any(m => m.AccountId == account.Id && m.EndedAt == null)
                )
                && account.ClosedAt == null
            orderby account.Address
            select new
            {
                account.Id,
                account.Name,
                account.Address,
                IsHeld = account.CustodyId == visitor.WorkspaceId,
            }
        )
            .Take(Most + 1)
            .ToListAsync();
        if (found.Count > Most)
            return new Refusal(
                "readdress.how-many",
                $"There are more than {Most} at once.",
                "Do it domain by domain, or by a file in parts.",
                Field: "pattern"
            );
        var people = found
            .Select(one => new Addressee(one.Id, one.Name, EmailAddress.Read(one.Address).Value, one.IsHeld))
            .ToList();
        return await DoAsync(visitor, rows, people, who => pattern.For(who.Name, who.Now), request.Reason);
    }

    private async Task<Outcome<ReaddressAnswer>> ByEntriesAsync(
        Visitor visitor,
        IReadOnlyList<ReaddressEntry> entries,
        string? reason
    )
    {
        if (entries.Count is 0 or > Most)
            return new Refusal(
                "readdress.how-many",
                $"Name 1 to {Most} accounts.",
                "Do it in several steps.",
                Field: "entries"
            );
        var to = new Dictionary<Guid, Outcome<EmailAddress>>();
        foreach (var entry in entries)
        {
            if (
                !(await Corrections.FindAsync(database, visitor, entry.Address)).Try(
                    out var id,
                    out var refusal
                )
            )
                return refusal with { Field = "entries" };
            if (!to.TryAdd(id, EmailAddress.Read(entry.To)))
                return new Refusal(
                    "readdress.twice",
                    $"{Words.Short(entry.Address)} is named twice.",
                    "Leave one of the two out.",
                    Field: "entries"
                );
        }
        await using var rows = database.Open(visitor.WorkspaceId);
        var accounts = new Dictionary<Guid, Addressee>();
        foreach (var lot in to.Keys.Chunk(500))
        foreach (var one in await rows.Accounts.AsNoTracking().Where(a => lot.Contains(a.Id)).ToListAsync())
            accounts[one.Id] = new Addressee(
                one.Id,
                one.Name,
                EmailAddress.Read(one.Address).Value,
                one.CustodyId == visitor.WorkspaceId
            );
        var people = to.Keys.Select(id => accounts[id]).ToList();
        return await DoAsync(visitor, rows, people, who => to[who.Id], reason);
    }

    private async Task<Outcome<ReaddressAnswer>> DoAsync(
        Visitor visitor,
        ComeAboardContext rows,
        IReadOnlyList<Addressee> people,
        Func<Addressee, Outcome<EmailAddress>> make,
        string? reason
    )
    {
        var borne = new Dictionary<string, Guid>();
        var keys = people.Select(make).Where(one => one.Succeeded).Select(one => one.Value.Key).Distinct();
        foreach (var lot in keys.Chunk(500))
        foreach (
            var one in await rows
                .AccountAddresses.AsNoTracking()
                .Where(a => a.ProvedAt != null && lot.Contains(a.AddressKey))
                .Select(a => new { a.AddressKey, a.AccountId })
                .ToListAsync()
        )
            borne[one.AddressKey] = one.AccountId;
        var items = new List<ReaddressView>();
        foreach (var one in Readdressing.Plan(people, make, borne))
            items.Add(await DoAsync(visitor, one, reason));
        return new ReaddressAnswer(
            items,
            items.CountBy(one => one.Verdict).ToDictionary(one => one.Key, one => one.Value)
        );
    }

    private async Task<ReaddressView> DoAsync(Visitor visitor, Readdressed one, string? reason)
    {
        var (now, to) = (one.Who.Now.ToString(), one.To?.ToString() ?? "");
        var verdict = one.Verdict.ToString().ToLowerInvariant();
        var view = new ReaddressView(now, one.Who.Name, to, verdict, one.Why, null);
        if (one.Verdict is not (ReaddressVerdict.Correct or ReaddressVerdict.Propose))
            return view;
        var wish = new AccountCorrection(now, NewAddress: to, Reason: reason);
        var done = one.Who.IsHeld
            ? await corrections.CorrectAsync(visitor, wish)
            : await corrections.ProposeAsync(visitor, wish);
        return done.Refusal is { } no
            ? view with
            {
                Verdict = "refused",
                Sentence = no.Sentence,
                Code = no.Code,
            }
            : view;
    }
}
