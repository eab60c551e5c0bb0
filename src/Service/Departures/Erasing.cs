using System.Text;
using System.Text.Json;
using ComeAboard.Client.Departures;
using ComeAboard.Core;
using ComeAboard.Core.Access;
using ComeAboard.Core.Departures;
using ComeAboard.Core.Invitations;
using ComeAboard.Core.Merging;
using ComeAboard.Service.Access;
using ComeAboard.Service.Accounts;
using ComeAboard.Service.Workspaces;
using ComeAboard.Storage;
using ComeAboard.Storage.Accounts;
using ComeAboard.Storage.Departures;
using ComeAboard.Storage.Invitations;
using ComeAboard.Storage.Record;
using Microsoft.EntityFrameworkCore;

namespace ComeAboard.Service.Departures;

/// <summary>
/// Takes a person's data away in one workspace, once they have left: every row that tells who they were, and the details of every
/// entry of the record that does. The entries stay, with their instant, what was done and their place in the chain.
/// </summary>
public sealed class Erasing(Database database, AccountWriter accounts)
{
    private const int Page = 2_000;

    /// <summary>Erases somebody, or tries it.</summary>
    public async Task<Outcome<ErasedView>> EraseAsync(Visitor visitor, string person)
    {
        MemberRow? found;
        await using (var rows = database.Open(visitor.WorkspaceId))
            found = await People.FindAsync(rows, person);
        if (found is null)
            return People.NotFound;
        return await accounts.WriteAsync<ErasedView>(
            [found.AccountId],
            [visitor.WorkspaceId],
            visitor.Caller,
            async held =>
            {
                // Whose account they were is cut as well, so that nobody finds them by it.
                var isHeld = held[found.AccountId].CustodyId == visitor.WorkspaceId;
                isHeld &= !await held
                    .Rows.Members.IgnoreQueryFilters()
                    .AnyAsync(m => m.AccountId == found.AccountId && m.WorkspaceId != visitor.WorkspaceId);
                var stands = isHeld ? found.AccountId : Guid.CreateVersion7(held.Now);
                if (!isHeld)
                    await StandInAsync(held, stands, found);
                var erased = await held.InAsync<ErasedView>(
                    visitor.WorkspaceId,
                    write => EraseAsync(write, found, stands, isHeld)
                );
                if (erased.Succeeded && isHeld)
                    await EmptyAsync(held, found);
                return erased;
            }
        );
    }

    private static async Task StandInAsync(AccountWrite held, Guid id, MemberRow member)
    {
        held.Rows.Accounts.Add(
            new AccountRow
            {
                Id = id,
                Name = Erasure.Name,
                Address = Erasure.AddressOf(member.Id),
                Language = "en",
                CreatedAt = held.Now,
                ClosedAt = held.Now,
            }
        );
        await held.Rows.SaveChangesAsync();
    }

    /// <summary>An account in our custody, and in no other workspace, goes with them.</summary>
    private static async Task EmptyAsync(AccountWrite held, MemberRow member)
    {
        var (id, address) = (member.AccountId, Erasure.AddressOf(member.Id));
        await ClosedAccounts.EmptyAsync(held, id);
        await held
            .Rows.Accounts.Where(a => a.Id == id)
            .ExecuteUpdateAsync(set =>
                set.SetProperty(a => a.Name, Erasure.Name)
                    .SetProperty(a => a.Address, address)
                    .SetProperty(a => a.ClosedAt, held.Now)
            );
        await held
            .Rows.AccountHistory.Where(h => h.AccountId == id)
            .ExecuteUpdateAsync(set =>
                set.SetProperty(h => h.Details, (string?)null).SetProperty(h => h.DetailsSalt, "")
            );
        held.Note(id, "account.erased");
    }

    private static async Task<Outcome<ErasedView>> EraseAsync(
        WorkspaceWrite write,
        MemberRow found,
        Guid stands,
        bool isHeld
    )
    {
        if (!(await write.RequireAsync(Duties.People)).Try(out var actor, out var refusal))
            return refusal;
        var rows = write.Rows;
        var stays = await rows.Members.Where(m => m.AccountId == found.AccountId).ToListAsync();
        var member = stays.FirstOrDefault(m => m.Id == found.Id);
        if (member is null)
            return CommonRefusals.Stale;
        var world = await write.WorldAsync();
        if (GivingRules.ForbidsActingOn(world, actor.Id, member.Id, write.Today) is { } beyond)
            return beyond;
        var ids = stays.ConvertAll(m => m.Id);
        var keys = stays.Select(m => m.AddressKey).ToHashSet();
        var invitations = await rows
            .Invitations.Where(i => i.AccountId == found.AccountId || keys.Contains(i.AddressKey))
            .ToListAsync();
        var departures = await rows.Departures.Where(d => ids.Contains(d.MemberId)).ToListAsync();
        if (
            Erasure.Forbids(
                stays.Any(m => m.EndedAt is null) || invitations.Any(i => i.IsPending),
                !departures.Any(d => d.State is DepartureState.Running or DepartureState.Planned)
                    && !await rows.AccountsThere.AnyAsync(a => ids.Contains(a.MemberId) && a.DueAt != null),
                await rows.MemberMerges.AnyAsync(m =>
                    m.UndoneAt == null
                    && m.At > write.Now - AccountMerge.Grace
                    && (
                        m.KeptId != null && ids.Contains(m.KeptId.Value)
                        || m.GoneId != null && ids.Contains(m.GoneId.Value)
                    )
                ),
                member.ErasedAt is not null
            ) is
            { } no
        )
            return no;
        var who = new LeaverView(member.Id, member.Name, member.Address);
        var told = new Told(
            [
                .. stays
                    .Select(m => m.Name)
                    .Concat(invitations.Select(i => i.Name))
                    .Where(n => n.Length > 0)
                    .Distinct(),
            ],
            [
                .. stays
                    .SelectMany(m => (string[])[m.Address, m.AddressKey, m.InvitedAs])
                    .Concat(invitations.SelectMany(i => (string[])[i.Address, i.AddressKey]))
                    .Where(a => a.Length > 0)
                    .Distinct(),
            ],
            Erasure.AddressOf(member.Id)
        );
        var receipts = departures.Count(d => d.Receipt.Length > 0);
        var there = await rows.AccountsThere.Where(a => ids.Contains(a.MemberId)).ExecuteDeleteAsync();
        var sources = await SourcesAsync(write, ids);
        var mails = await RemoveAsync(write, ids, invitations, told);
        foreach (var one in stays)
            Blank(one, stands, told, write.Now);
        foreach (var one in invitations)
            Blank(one, stands, told);
        foreach (var one in departures)
        {
            (one.MemberName, one.MemberAddress, one.Receipt) = (Erasure.Name, told.Instead, "");
            one.Steps = DepartureSteps.Write([
                .. DepartureSteps.Read(one.Steps).Select(step => step with { File = "", FileDigest = "" }),
            ]);
        }
        await write.SaveAsync();
        HashSet<Guid> theirs = [.. ids, .. invitations.Select(i => i.Id)];
        await PassedOnAsync(write, theirs);
        told = told with { Names = await OwnAsync(write, told.Names) };
        await ReplaceAsync(write, told);
        var lists = await rows.Batches.Where(b => ids.Contains(b.CreatedBy)).Select(b => b.Id).ToListAsync();
        var entries = await ForgetAsync(write, theirs, lists, told);
        write.Record(
            "person.erased",
            member.Id,
            ("stays", stays.Count),
            ("invitations", invitations.Count),
            ("accounts elsewhere", there),
            ("receipts", receipts),
            ("mails", mails),
            ("entries", entries)
        );
        return new ErasedView(
            who,
            [
                Line(
                    stays.Count,
                    "stay here, with name, address and details",
                    "stays here, with name, address and details"
                ),
                Line(invitations.Count, "invitation to them", "invitations to them"),
                Line(there, "account in a connected system, closed", "accounts in connected systems, closed"),
                Line(sources.Count, "record of a connected system", "records of connected systems"),
                Line(receipts, "receipt", "receipts"),
                Line(mails, "mail to them", "mails to them"),
                Line(
                    entries,
                    "entry of the record: only its details",
                    "entries of the record: only their details"
                ),
                Line(isHeld ? 1 : 0, "account, held in custody here", "accounts, held in custody here"),
            ],
            [
                .. isHeld ? Array.Empty<string>() : ["Their account is their own, and stays with them."],
                .. sources
                    .Distinct()
                    .Order(StringComparer.Ordinal)
                    .Select(name =>
                        $"{name} tells of them again when it is read next, unless they are taken out there."
                    ),
                "Copies of the database, receipts that were taken out, and receipts of others that name them stay as they are.",
            ]
        );
    }

    private static ErasedLine Line(int count, string one, string many) => new(count == 1 ? one : many, count);

    private sealed record Told(IReadOnlyList<string> Names, IReadOnlyList<string> Addresses, string Instead);

    private static void Blank(MemberRow member, Guid account, Told told, DateTimeOffset now)
    {
        member.AccountId = account;
        (member.Name, member.Address, member.AddressKey) = (Erasure.Name, told.Instead, told.Instead);
        (member.Organisation, member.Title, member.Department) = ("", "", "");
        (member.Manager, member.Country, member.Note, member.InvitedAs) = ("", "", "", "");
        (member.LastSeenAt, member.ErasedAt) = (null, now);
        member.Version++;
        member.WithSearchText();
    }

    private static void Blank(InvitationRow invitation, Guid account, Told told)
    {
        if (invitation.AccountId is not null)
            invitation.AccountId = account;
        (invitation.Address, invitation.AddressKey) = (told.Instead, told.Instead);
        (invitation.Name, invitation.Message) = ("", "");
        invitation.Version++;
        invitation.WithDetails(PersonDetails.None);
    }

    /// <summary>What was read of them elsewhere; the names of where.</summary>
    private static async Task<IReadOnlyList<string>> SourcesAsync(WorkspaceWrite write, List<Guid> ids)
    {
        var rows = write.Rows;
        var read = rows.SourceRecords.Where(r => r.JoinedId != null && ids.Contains(r.JoinedId.Value));
        var names = await read.Join(rows.Connections, r => r.ConnectionId, c => c.Id, (_, c) => c.Name)
            .ToListAsync();
        await read.ExecuteDeleteAsync();
        return names;
    }

    /// <summary>Rows that are of nobody else; how many mails were among them.</summary>
    private static async Task<int> RemoveAsync(
        WorkspaceWrite write,
        List<Guid> ids,
        List<InvitationRow> invitations,
        Told told
    )
    {
        var (rows, asked) = (write.Rows, invitations.ConvertAll(i => (Guid?)i.Id));
        var (addresses, departed) = (told.Addresses, rows.Departures.Where(d => ids.Contains(d.MemberId)));
        await rows.EventsSent.Where(e => ids.Contains(e.MemberId)).ExecuteDeleteAsync();
        await rows
            .Duplicates.Where(d => ids.Contains(d.LeftId) || ids.Contains(d.RightId))
            .ExecuteDeleteAsync();
        await rows
            .MemberMerges.Where(m =>
                m.KeptId != null && ids.Contains(m.KeptId.Value)
                || m.GoneId != null && ids.Contains(m.GoneId.Value)
            )
            .ExecuteDeleteAsync();
        await rows.StepFiles.Where(f => departed.Any(d => d.Id == f.DepartureId)).ExecuteDeleteAsync();
        await rows.Claims.Where(c => addresses.Contains(c.AddressKey)).ExecuteDeleteAsync();
        await rows.Proposals.Where(p => addresses.Contains(p.Address)).ExecuteDeleteAsync();
        await rows.IdempotencyKeys.Where(k => ids.Contains(k.MemberId)).ExecuteDeleteAsync();
        foreach (var address in addresses)
            await rows.IdempotencyKeys.Where(k => k.Answer.Contains(address)).ExecuteDeleteAsync();
        await rows.BouncedAddresses.Where(b => addresses.Contains(b.AddressKey)).ExecuteDeleteAsync();
        await rows.Contacts.Where(c => addresses.Contains(c.Address)).ExecuteDeleteAsync();
        await rows.SourceRecords.Where(r => addresses.Contains(r.Address)).ExecuteDeleteAsync();
        await rows
            .Batches.Where(b => ids.Contains(b.CreatedBy) && b.State == BatchState.Stopped)
            .ExecuteUpdateAsync(set => set.SetProperty(b => b.Fault, "Whoever sent it has left."));
        await rows
            .BatchEntries.Where(e =>
                addresses.Contains(e.Address) || e.InvitationId != null && asked.Contains(e.InvitationId)
            )
            .ExecuteUpdateAsync(set => set.SetProperty(e => e.Wish, (string?)null));
        return await rows
            .Deliveries.Where(d =>
                addresses.Contains(d.ToAddress) || d.InvitationId != null && asked.Contains(d.InvitationId)
            )
            .ExecuteDeleteAsync();
    }

    /// <summary>The names that are nobody else's here, and by which nothing else is called that acts.</summary>
    private static async Task<IReadOnlyList<string>> OwnAsync(
        WorkspaceWrite write,
        IReadOnlyList<string> names
    )
    {
        var own = new List<string>();
        foreach (var name in names.Where(name => name != Caller.Clock.Name))
            if (
                !await write.Rows.Members.AnyAsync(m => m.Name == name)
                && !await write.Rows.Invitations.AnyAsync(i => i.Name == name)
            )
                own.Add(name);
        return own;
    }

    /// <summary>What departures of others say of them: whom they passed on, and to whom.</summary>
    private static async Task PassedOnAsync(WorkspaceWrite write, IReadOnlyCollection<Guid> theirs)
    {
        foreach (var id in theirs)
        {
            var text = id.ToString();
            foreach (
                var departure in await write.Rows.Departures.Where(d => d.Steps.Contains(text)).ToListAsync()
            )
                departure.Steps = DepartureSteps.Write([
                    .. DepartureSteps.Read(departure.Steps).Select(step => Without(step, theirs)),
                ]);
        }
        await write.SaveAsync();
    }

    private static DepartureStep Without(DepartureStep step, IReadOnlyCollection<Guid> theirs) =>
        step with
        {
            Name =
                theirs.Contains(step.Subject)
                && step.Deed
                    is DepartureDeed.PassOnGuest
                        or DepartureDeed.PassOnHosting
                        or DepartureDeed.PassOnInvitation
                    ? Erasure.Name
                    : step.Name,
            HeirName = step.Heir is { } heir && theirs.Contains(heir) ? Erasure.Name : step.HeirName,
        };

    /// <summary>
    /// Wherever else in the workspace's rows a value is an address of theirs, or says by their name who did something. The tables and
    /// columns are those there are: one that is added later is looked through, too. Only whole values count: a part of one may be
    /// somebody else's, and whoever comes in chooses their own name.
    /// </summary>
    private static async Task ReplaceAsync(WorkspaceWrite write, Told told)
    {
        var rows = write.Rows;
        foreach (
            var type in rows
                .Model.GetEntityTypes()
                .Where(type =>
                    type.ClrType.IsAssignableTo(typeof(ITenantRow)) && type.ClrType != typeof(RecordRow)
                )
        )
        {
            var texts = type.GetProperties()
                .Where(p =>
                    p.ClrType == typeof(string)
                    && p.GetTypeMapping().Converter is null
                    && p.GetComputedColumnSql() is null
                )
                .ToList();
            if (texts.Count == 0)
                continue;
            var values = new List<object> { write.Workspace.Id };
            var addresses = Among(told.Addresses.Select(address => address.ToLowerInvariant()));
            var names = told.Names.Count > 0 ? Among(told.Names) : null;
            var (instead, erased) = (Value(told.Instead), Value(Erasure.Name));
            var sets = texts.Select(text =>
            {
                var column = text.GetColumnName();
                return $"{column} = CASE WHEN lower({column}) IN {addresses} THEN {instead} "
                    + (
                        IsWho(text.Name) && names is not null
                            ? $"WHEN {column} IN {names} THEN {erased} "
                            : ""
                    )
                    + $"ELSE {column} END";
            });
            var where = texts.Select(text =>
                $"lower({text.GetColumnName()}) IN {addresses}"
                + (IsWho(text.Name) && names is not null ? $" OR {text.GetColumnName()} IN {names}" : "")
            );
            // Tables and columns come from the model, values as parameters.
            var sql = new StringBuilder("UPDATE ")
                .Append(type.GetTableName())
                .Append(" SET ")
                .AppendJoin(", ", sets)
                .Append(" WHERE workspace_id = {0} AND (")
                .AppendJoin(" OR ", where)
                .Append(')')
                .ToString();
            await rows.Database.ExecuteSqlRawAsync(sql, values);

            string Among(IEnumerable<string> all) =>
                "(" + string.Join(", ", all.Distinct().Select(Value)) + ")";

            string Value(string value)
            {
                values.Add(value);
                return $"{{{values.Count - 1}}}";
            }
        }
    }

    /// <summary>Whether a column says by a name who somebody is, beside what a row itself is called.</summary>
    private static bool IsWho(string property) =>
        property.EndsWith("ByName", StringComparison.Ordinal) || property is "HostName" or "ByHandName";

    /// <summary>The details of the entries that tell of them, and the salt by which they could be guessed.</summary>
    private static async Task<int> ForgetAsync(
        WorkspaceWrite write,
        IReadOnlyCollection<Guid> subjects,
        IReadOnlyCollection<Guid> lists,
        Told told
    )
    {
        var stopped = lists.Select(id => id.ToString()).ToHashSet();
        var of = subjects.Select(id => id.ToString()).ToHashSet();
        var count = 0;
        for (long from = 0, next; ; from = next)
        {
            var page = await write
                .Rows.Record.AsNoTracking()
                .Where(r => r.Sequence > from)
                .OrderBy(r => r.Sequence)
                .Take(Page)
                .Select(r => new
                {
                    r.Sequence,
                    r.Actor,
                    r.Subject,
                    r.Action,
                    r.Details,
                })
                .ToListAsync();
            if (page.Count == 0)
                return count;
            next = page[^1].Sequence;
            var telling = page.Where(r =>
                    r.Details is { } details
                    && (of.Contains(r.Subject) || of.Contains(r.Actor) || Tells(details, told))
                )
                .Select(r => r.Sequence)
                .ToList();
            count += telling.Count;
            await write
                .Rows.Record.Where(r => telling.Contains(r.Sequence))
                .ExecuteUpdateAsync(set =>
                    set.SetProperty(r => r.Details, (string?)null).SetProperty(r => r.DetailsSalt, "")
                );
        }
    }

    private static bool Tells(string details, Told told)
    {
        using var read = JsonDocument.Parse(details);
        return TextsOf(read.RootElement)
            .Any(text => told.Names.Append("").Any(name => Erasure.IsToldBy(text, name, told.Addresses)));
    }

    private static IEnumerable<string> TextsOf(JsonElement value) =>
        value.ValueKind switch
        {
            JsonValueKind.Object => value.EnumerateObject().SelectMany(field => TextsOf(field.Value)),
            JsonValueKind.Array => value.EnumerateArray().SelectMany(TextsOf),
            JsonValueKind.String => [value.GetString()!],
            _ => [],
        };
}
