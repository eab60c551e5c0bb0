using System.Diagnostics;
using ComeAboard.Core;
using ComeAboard.Core.Access;
using ComeAboard.Core.Invitations;
using ComeAboard.Service.Access;
using ComeAboard.Storage;
using ComeAboard.Storage.Invitations;
using ComeAboard.Storage.Mail;
using ComeAboard.Storage.Workspaces;
using Microsoft.EntityFrameworkCore;

namespace ComeAboard.Service.Mail;

/// <summary>
/// The letters of some deliveries. Invitations and reminders are laid out here, from the invitation as it now is; what
/// all of them need is read at once.
/// </summary>
public sealed class LetterBook
{
    private readonly Outbox _outbox;
    private readonly ServiceSettings _settings;
    private readonly DateTimeOffset _now;
    private readonly HashSet<Guid> _wanted;
    private readonly Dictionary<Guid, InvitationRow> _invitations;
    private readonly Dictionary<Guid, WorkspaceRow> _workspaces;
    private readonly Dictionary<(Guid, string, string), Wording> _wordings;
    private readonly Dictionary<Guid, AccessWorld> _worlds = [];
    private Dictionary<string, string> _elsewhere = [];

    private LetterBook(
        Outbox outbox,
        ServiceSettings settings,
        DateTimeOffset now,
        HashSet<Guid> wanted,
        Dictionary<Guid, InvitationRow> invitations,
        Dictionary<Guid, WorkspaceRow> workspaces,
        Dictionary<(Guid, string, string), Wording> wordings
    ) =>
        (_outbox, _settings, _now, _wanted, _invitations, _workspaces, _wordings) = (
            outbox,
            settings,
            now,
            wanted,
            invitations,
            workspaces,
            wordings
        );

    /// <summary>
    /// Whether what was read may still be sent. Somebody may revoke an invitation while a slow server takes the mails before it:
    /// none goes out for which nobody looked within the last second.
    /// </summary>
    public bool IsFresh => Stopwatch.GetElapsedTime(ReadAt) < TimeSpan.FromSeconds(1);

    /// <summary>When reading began, by the monotonic clock.</summary>
    private long ReadAt { get; init; }

    /// <summary>Whether it was read after a moment, by the monotonic clock.</summary>
    public bool WasReadSince(long moment) => ReadAt >= moment;

    /// <summary>Reads what the letters of some deliveries need.</summary>
    public static async Task<LetterBook> ReadAsync(
        Database database,
        Outbox outbox,
        ServiceSettings settings,
        AccessWorlds worlds,
        IReadOnlyList<DeliveryRow> deliveries,
        DateTimeOffset now
    )
    {
        var begun = Stopwatch.GetTimestamp();
        var about = deliveries
            .Where(d => d.Purpose is Purposes.Invitation or Purposes.Reminder)
            .Select(d => d.InvitationId)
            .OfType<Guid>()
            .ToList();
        var houses = deliveries.Select(d => d.WorkspaceId).Distinct().ToList();
        var ids = deliveries.Select(d => d.Id).ToList();
        await using var rows = database.Open();
        var wanted = await rows
            .Deliveries.IgnoreQueryFilters()
            .Where(d =>
                EF.Parameter(houses).Contains(d.WorkspaceId)
                && EF.Parameter(ids).Contains(d.Id)
                && d.SettledAt == null
            )
            .Select(d => d.Id)
            .ToHashSetAsync();
        var elsewhere = await NoticeAddressesAsync(rows, deliveries);
        if (about.Count == 0)
            return new LetterBook(outbox, settings, now, wanted, [], [], [])
            {
                ReadAt = begun,
                _elsewhere = elsewhere,
            };
        var book = new LetterBook(
            outbox,
            settings,
            now,
            wanted,
            await rows
                .Invitations.IgnoreQueryFilters()
                .AsNoTracking()
                .Where(i =>
                    EF.Parameter(houses).Contains(i.WorkspaceId) && EF.Parameter(about).Contains(i.Id)
                )
                .ToDictionaryAsync(i => i.Id),
            await rows
                .Workspaces.AsNoTracking()
                .Where(w => EF.Parameter(houses).Contains(w.Id))
                .ToDictionaryAsync(w => w.Id),
            await rows
                .Wordings.IgnoreQueryFilters()
                .AsNoTracking()
                .Where(w => EF.Parameter(houses).Contains(w.WorkspaceId))
                .ToDictionaryAsync(
                    w => (w.WorkspaceId, w.Letter, w.Language),
                    w => new Wording(w.Subject, w.Body)
                )
        )
        {
            ReadAt = begun,
            _elsewhere = elsewhere,
        };
        foreach (var workspace in book._workspaces.Values)
            book._worlds[workspace.Id] = await worlds.OfAsync(workspace);
        return book;
    }

    /// <summary>
    /// Where a delivery goes: what a member is told of the work, to the address they chose for that; to the one the workspace
    /// knows when that did not take it. The workspace hears nothing of either.
    /// </summary>
    public string ToOf(DeliveryRow delivery) =>
        delivery is { Purpose: Purposes.News, Tries: 0 }
            ? _elsewhere.GetValueOrDefault(delivery.ToAddress, delivery.ToAddress)
            : delivery.ToAddress;

    private static async Task<Dictionary<string, string>> NoticeAddressesAsync(
        ComeAboardContext rows,
        IReadOnlyList<DeliveryRow> deliveries
    )
    {
        var keys = deliveries
            .Where(d => d.Purpose == Purposes.News)
            .Select(d =>
                (d.ToAddress, Key: EmailAddress.Read(d.ToAddress).Try(out var to, out _) ? to.Key : "")
            )
            .Where(d => d.Key.Length > 0)
            .DistinctBy(d => d.ToAddress)
            .ToDictionary(d => d.ToAddress, d => d.Key);
        if (keys.Count == 0)
            return [];
        var known = keys.Values.Distinct().ToList();
        var chosen = await (
            from own in rows.AccountAddresses
            join other in rows.AccountAddresses on own.AccountId equals other.AccountId
            where
                known.Contains(own.AddressKey)
                && own.ProvedAt != null
                && other.TakesNotices
                && other.ProvedAt != null
            select new { own.AddressKey, other.Address }
        ).ToDictionaryAsync(found => found.AddressKey, found => found.Address);
        return keys.Where(pair => chosen.ContainsKey(pair.Value))
            .ToDictionary(pair => pair.Key, pair => chosen[pair.Value]);
    }

    /// <summary>The letter of a delivery; null when it was given up meanwhile, or its invitation awaits no answer any more.</summary>
    /// <exception cref="System.Security.Cryptography.CryptographicException">Its protection key is gone.</exception>
    public Letter? Of(DeliveryRow delivery)
    {
        if (!_wanted.Contains(delivery.Id))
            return null;
        var (letter, secret) = _outbox.Open(delivery.Sealed!);
        if (letter is not null)
            return letter;
        var invitation = _invitations[delivery.InvitationId!.Value];
        if (!InvitationLife.At(invitation.State, invitation.Deadline, _now).AwaitsAnswer())
            return null;
        var worded = delivery.Purpose == Purposes.Reminder ? WordedLetter.Reminder : WordedLetter.Invitation;
        return Letters.Invitation(
            worded,
            invitation,
            _workspaces[delivery.WorkspaceId],
            _worlds[delivery.WorkspaceId],
            _wordings.GetValueOrDefault(
                (delivery.WorkspaceId, worded.ToString().ToLowerInvariant(), invitation.Language)
            ),
            _settings.Link("/i/" + secret)
        );
    }
}
