using System.Text.Json;
using System.Text.Json.Serialization;
using ComeAboard.Client;
using ComeAboard.Client.Invitations;
using ComeAboard.Core;
using ComeAboard.Core.Access;
using ComeAboard.Core.Invitations;
using ComeAboard.Core.Workspaces;
using ComeAboard.Service.Access;
using ComeAboard.Service.Workspaces;
using ComeAboard.Storage;
using ComeAboard.Storage.Accounts;
using ComeAboard.Storage.Workspaces;
using Microsoft.EntityFrameworkCore;

namespace ComeAboard.Service.Invitations;

/// <summary>An entry of a list, read for itself.</summary>
/// <param name="Number">Its place, from 1.</param>
/// <param name="Wish">What it asks for, defaults filled in.</param>
/// <param name="Offer">What that amounts to; null when it cannot be read.</param>
/// <param name="Fault">Why it cannot.</param>
/// <param name="Notes">What was left out in reading.</param>
public sealed record ReadEntry(
    int Number,
    InvitationWish Wish,
    InvitationOffer? Offer,
    Refusal? Fault,
    IReadOnlyList<AddressNote> Notes
);

/// <summary>What is thought of an entry.</summary>
public sealed record JudgedEntry(ReadEntry Entry, Verdict Verdict, Refusal? Refusal, EntryReason? Reason)
{
    /// <summary>What there is to say about it, as it is kept.</summary>
    public string? ReasonText => Reason is null ? null : JsonSerializer.Serialize(Reason, BatchJudge.Json);
}

/// <summary>What there is to say about an entry.</summary>
public sealed record EntryReason(Problem? Problem, IReadOnlyList<NoteView> Notes, string? Suggestion);

/// <summary>
/// Judges the entries of one list, lot by lot in order: reads each, and decides what would become of it. Remembers which
/// addresses stood in the list before.
/// </summary>
public sealed class BatchJudge
{
    public static JsonSerializerOptions Json { get; } =
        new(JsonSerializerDefaults.Web) { DefaultIgnoreCondition = JsonIgnoreCondition.WhenWritingNull };

    private readonly ListedAddresses _listed;
    private readonly BatchDefaults _defaults;
    private readonly Preset? _preset;
    private readonly DomainsInUse _domains;
    private readonly AccessWorld _world;

    private BatchJudge(
        BatchDefaults defaults,
        Preset? preset,
        DomainsInUse domains,
        AccessWorld world,
        int expected
    ) =>
        (_defaults, _preset, _domains, _world, _listed) = (
            defaults,
            preset,
            domains,
            world,
            new ListedAddresses(expected)
        );

    /// <summary>Prepares to judge entries with some defaults; refuses with <c>preset.unknown</c>.</summary>
    /// <param name="rows">The workspace's rows.</param>
    /// <param name="defaults">What holds for entries that say nothing else.</param>
    /// <param name="world">Who may do what.</param>
    /// <param name="expected">How many entries there will be, as far as is known.</param>
    public static async Task<Outcome<BatchJudge>> PrepareAsync(
        ComeAboardContext rows,
        BatchDefaults defaults,
        AccessWorld world,
        int expected = 0
    )
    {
        Preset? preset = null;
        if (!string.IsNullOrWhiteSpace(defaults.Preset))
        {
            if (!(await Presets.FindAsync(rows, defaults.Preset)).Try(out var row, out var refusal))
                return refusal;
            preset = Presets.Of(row);
        }
        return new BatchJudge(defaults, preset, await KnownDomains.ReadAsync(rows), world, expected);
    }

    /// <summary>What is wrong with the defaults themselves, and would be with every entry that says nothing else; null when nothing is.</summary>
    public async Task<Refusal?> ForbidsAllAsync(
        ComeAboardContext rows,
        WorkspaceRow workspace,
        DateTimeOffset now
    )
    {
        var wish = Fill(
            new InvitationWish(null, null, null, null, null, null, null),
            Days.Of(now, workspace.Zone)
        );
        var usual = Offers.UsualIn(workspace, now);
        if (InvitationOffer.WrongForAll(wish, usual, _world) is { } wrong)
            return wrong;
        var (offer, _) = InvitationOffer.ReadThrough(wish, usual, _world);
        return
            offer.Host is not null && (await KnownAddresses.ReadAsync(rows, [offer])).Host(offer.Host) is null
            ? Readiness.UnknownHost
            : null;
    }

    /// <summary>Reads one row of a table; it counts as seen from now on.</summary>
    public ReadEntry Read(
        int number,
        Sheet sheet,
        IReadOnlyList<string> cells,
        WorkspaceRow workspace,
        DateTimeOffset now
    )
    {
        var (wish, fault, notes) = sheet.ReadRow(cells);
        return fault is null
            ? Read(number, wish, workspace, now) with
            {
                Notes = notes,
            }
            : new ReadEntry(number, wish, null, fault, notes);
    }

    /// <summary>Reads a wish again, as when it was mended or is to be sent.</summary>
    public ReadEntry Read(int number, InvitationWish wish, WorkspaceRow workspace, DateTimeOffset now)
    {
        var filled = Fill(wish, Days.Of(now, workspace.Zone));
        if (!Offers.Read(filled, workspace, _world, now).Try(out var offer, out var refusal))
            return new ReadEntry(number, wish, null, refusal, []);
        // One lot is read while the one before it is judged.
        if (_listed.IsUsual(offer.Address))
            lock (_domains)
                _domains.Learn(offer.Address.Domain);
        return new ReadEntry(
            number,
            wish,
            offer,
            _listed.Note(number, offer.Address) is { } first ? Verdicts.Repeated(first) : null,
            []
        );
    }

    /// <summary>Notes that an address stood in the list, without judging anything: for rows done before a restart.</summary>
    public void NoteSeen(int number, Sheet sheet, IReadOnlyList<string> cells)
    {
        if (EmailAddress.Read(sheet.ReadRow(cells).Wish.Address).Try(out var address, out _))
            _listed.Note(number, address);
    }

    /// <summary>Judges an entry against what is known.</summary>
    public JudgedEntry Judge(
        ReadEntry entry,
        MemberRow inviter,
        AccessWorld world,
        KnownAddresses known,
        IReadOnlyDictionary<string, (Guid Id, InvitationState State)> earlier,
        WorkspaceRow workspace,
        DateTimeOffset now
    )
    {
        if (entry.Offer is not { } offer)
            return new JudgedEntry(entry, Verdicts.Of(entry.Fault, false), entry.Fault, WrongReason(entry));
        var address = offer.Address;
        var isPersonal = known.Of(address, now, workspace.Zone).IsPersonal;
        var (verdict, refusal) = Verdicts.Judge(
            entry.Fault,
            EntryRules.Forbids(world, inviter.Id, Days.Of(now, workspace.Zone)),
            earlier.TryGetValue(address.Key, out var before) ? before : null,
            () => offer.Forbidden(world, inviter.Id, known, workspace, now),
            isPersonal
        );
        IReadOnlyList<AddressNote> notes;
        lock (_domains)
            notes = [.. entry.Notes, .. _domains.Notes(address)];
        notes = [.. notes, .. NameNotes.Of(offer, WorkspaceRules.Of(workspace), world)];
        if (verdict == Verdict.Personal)
            notes = [.. notes, AddressNote.Personal(address)];
        var reason =
            refusal is null && notes.Count == 0
                ? null
                : new EntryReason(
                    refusal?.ToProblem(),
                    InvitationViews.Of(notes),
                    notes.Select(n => n.Suggestion).FirstOrDefault(s => s is not null)
                );
        return new JudgedEntry(entry, verdict, refusal, reason);
    }

    /// <summary>Which of some addresses the same file has invited before.</summary>
    public static async Task<IReadOnlyDictionary<string, (Guid, InvitationState)>> EarlierAsync(
        ComeAboardContext rows,
        IReadOnlyList<Guid> sameFile,
        IReadOnlyList<ReadEntry> entries
    )
    {
        if (sameFile.Count == 0)
            return new Dictionary<string, (Guid, InvitationState)>();
        var keys = entries.Select(e => e.Offer?.Address.Key).OfType<string>().Distinct().ToArray();
        var found = await rows
            .Invitations.AsNoTracking()
            .Where(i =>
                keys.Contains(i.AddressKey) && i.BatchId != null && sameFile.Contains(i.BatchId.Value)
            )
            .Select(i => new
            {
                i.AddressKey,
                i.Id,
                i.State,
            })
            .ToListAsync();
        return found
            .GroupBy(i => i.AddressKey)
            .ToDictionary(g => g.Key, g => g.Select(i => (i.Id, i.State)).Last(), StringComparer.Ordinal);
    }

    private EntryReason WrongReason(ReadEntry entry)
    {
        string? suggestion = null;
        if (entry.Fault!.Field == "address")
        {
            lock (_domains)
                suggestion = _domains.Suggest(entry.Wish.Address);
        }
        return new EntryReason(entry.Fault.ToProblem(), InvitationViews.Of(entry.Notes), suggestion);
    }

    private InvitationWish Fill(InvitationWish wish, DateOnly today)
    {
        var filled = wish with
        {
            Kind = wish.Kind ?? _defaults.Kind,
            More = wish.SaysWhatItGives
                ? wish.More
                : Bundles.WishOf(_defaults.Role, wish.Resource, _defaults.Gives),
            NoEnd = wish.NoEnd || wish.Until is null && _defaults.NoEnd,
            OrganisationAsWritten = wish.OrganisationAsWritten || _defaults.OrganisationAsWritten,
            From = wish.From ?? _defaults.From,
            Until = wish.Until ?? _defaults.Until,
            Message = wish.Message ?? _defaults.Message,
            Language = wish.Language ?? _defaults.Language,
            Organisation = wish.Organisation ?? _defaults.Organisation,
            Host = wish.Host ?? _defaults.Host,
            AnswerDays = wish.AnswerDays ?? _defaults.AnswerDays,
        };
        return _preset?.Fill(filled, today) ?? filled;
    }
}
