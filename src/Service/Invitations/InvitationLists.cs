using System.Globalization;
using ComeAboard.Client.Invitations;
using ComeAboard.Core;
using ComeAboard.Core.Access;
using ComeAboard.Core.Invitations;
using ComeAboard.Service.Workspaces;
using ComeAboard.Storage;
using ComeAboard.Storage.Invitations;
using ComeAboard.Storage.Mail;
using ComeAboard.Storage.Workspaces;
using Microsoft.AspNetCore.Mvc;
using Microsoft.EntityFrameworkCore;

namespace ComeAboard.Service.Invitations;

/// <summary>What a list of invitations is narrowed to, and in which order it comes.</summary>
public sealed record InvitationQuery
{
    /// <summary>A state, <c>pending</c>, or null.</summary>
    [FromQuery(Name = "state")]
    public string? State { get; init; }

    /// <summary>A kind, or null.</summary>
    [FromQuery(Name = "kind")]
    public string? Kind { get; init; }

    /// <summary>Any part of a name, address or organisation, or null.</summary>
    [FromQuery(Name = "search")]
    public string? Search { get; init; }

    /// <summary>newest (when null), oldest, deadline (soonest first) or last-step (latest first).</summary>
    [FromQuery(Name = "sort")]
    public string? Sort { get; init; }

    /// <summary>Where the page before ended, or null.</summary>
    [FromQuery(Name = "cursor")]
    public string? Cursor { get; init; }

    /// <summary>How many at most.</summary>
    [FromQuery(Name = "limit")]
    public int? Limit { get; init; }

    /// <summary>Only those of a batch, or null.</summary>
    [FromQuery(Name = "batch")]
    public Guid? Batch { get; init; }

    /// <summary>Only those that came by a join link, or null.</summary>
    [FromQuery(Name = "link")]
    public Guid? Link { get; init; }

    /// <summary>Whether nothing narrows the list.</summary>
    public bool IsEmpty =>
        string.IsNullOrEmpty(State)
        && string.IsNullOrEmpty(Kind)
        && string.IsNullOrWhiteSpace(Search)
        && Batch is null
        && Link is null;
}

/// <summary>Listing invitations.</summary>
public sealed class InvitationLists(Database database, SearchedTexts texts, TimeProvider clock)
{
    // A part found this often is quicker met by walking the list in its order than by looking all its places up.
    private const int Rare = 2_000;

    // So many times as many as a page shows are walked, whatever they are, before the index is asked.
    private const int Walked = 4;

    // Of so many texts one holds a part that is met often enough for half a page of those walked.
    private const int Often = 2 * Walked;

    /// <summary>A page with the kept counts of all states.</summary>
    public async Task<Outcome<InvitationPage>> PageAsync(
        WorkspaceRow workspace,
        AccessWorld world,
        InvitationQuery query
    )
    {
        var now = clock.Now();
        await using var rows = database.Open(workspace.Id);
        var paging = new Paging(query.Cursor, query.Limit);
        if (!(await FirstAsync(rows, query, now, paging.Size + 1)).Try(out var found, out var refusal))
            return refusal;
        var beside = Beside.Nothing;
        var page = await found.PageAsync<InvitationRow, InvitationView>(
            paging,
            last => InvitationOrder.CursorOf(last, query.Sort),
            async shown =>
            {
                beside = await BesideAsync(rows, [.. shown.Select(i => i.Id)]);
                return
                [
                    .. shown.Select(i =>
                        InvitationViews.Of(i, beside.Mails.GetValueOrDefault(i.Id), now, world, workspace)
                    ),
                ];
            }
        );
        return new InvitationPage(page.Items, beside.Counts, page.Next);
    }

    /// <summary>One invitation with its last mail.</summary>
    public async Task<InvitationView?> FindAsync(Visitor visitor, Guid id)
    {
        await using var rows = database.Open(visitor.WorkspaceId);
        var row = await rows.Invitations.AsNoTracking().FirstOrDefaultAsync(i => i.Id == id);
        if (row is null)
            return null;
        var beside = await BesideAsync(rows, [id]);
        return InvitationViews.Of(
            row,
            beside.Mails.GetValueOrDefault(id),
            clock.Now(),
            visitor.World,
            visitor.Workspace
        );
    }

    /// <summary>The list as it is narrowed and ordered, whole, as a table: its headings first, then page by page.</summary>
    public async Task<Outcome<IAsyncEnumerable<IReadOnlyList<IReadOnlyList<string>>>>> TableAsync(
        Visitor visitor,
        InvitationQuery query
    )
    {
        // What is wrong with the question is said before the file begins.
        if (!(await LotAsync(query.Cursor)).Try(out var first, out var refusal))
            return refusal;
        return Outcome.Of(LotsAsync());

        Task<Outcome<InvitationPage>> LotAsync(string? cursor) =>
            PageAsync(
                visitor.Workspace,
                visitor.World,
                query with
                {
                    Cursor = cursor,
                    Limit = Paging.Largest,
                }
            );

        async IAsyncEnumerable<IReadOnlyList<IReadOnlyList<string>>> LotsAsync()
        {
            yield return [ExportHeadings];
            for (var page = first; ; page = (await LotAsync(page.Next)).Value)
            {
                yield return [.. page.Items.Select(ExportRow)];
                if (page.Next is null)
                    yield break;
            }
        }
    }

    private static IReadOnlyList<string> ExportHeadings { get; } =
    [
        "Address",
        "Name",
        "Kind",
        "Role",
        "Organisation",
        "Host",
        "State",
        "Mail",
        "Invited by",
        "Decided",
        "Last step",
        "Answer by",
        "Answered",
        "Reminders",
        "Start",
        "End",
        "Id",
    ];

    /// <summary>An invitation as a row under <see cref="ExportHeadings"/>; instants in UTC.</summary>
    public static IReadOnlyList<string> ExportRow(InvitationView view) =>
        [
            view.Address,
            view.Name,
            view.Kind,
            view.Role,
            view.Organisation,
            view.Host,
            view.State,
            view.Delivery?.Sentence ?? "",
            view.InvitedBy,
            view.CreatedAt.ToString("u", CultureInfo.InvariantCulture),
            view.LastStepAt.ToString("u", CultureInfo.InvariantCulture),
            view.Deadline.ToString("u", CultureInfo.InvariantCulture),
            view.AnsweredAt?.ToString("u", CultureInfo.InvariantCulture) ?? "",
            view.Reminders.ToString(CultureInfo.InvariantCulture),
            view.From?.ToString("yyyy-MM-dd", CultureInfo.InvariantCulture) ?? "",
            view.Until?.ToString("yyyy-MM-dd", CultureInfo.InvariantCulture) ?? "",
            view.Id.ToString(),
        ];

    /// <summary>How many invitations there are in each state.</summary>
    public static async Task<IReadOnlyDictionary<string, long>> CountsAsync(ComeAboardContext rows)
    {
        var kept = await rows.InvitationCounts.AsNoTracking().ToDictionaryAsync(c => c.State, c => c.Count);
        return CountsOf(kept);
    }

    private static Dictionary<string, long> CountsOf(Dictionary<InvitationState, long> kept) =>
        Enum.GetValues<InvitationState>()
            .ToDictionary(state => state.Word(), state => kept.GetValueOrDefault(state));

    /// <summary>The first so many that a query is about, in its order and after its cursor.</summary>
    private async Task<Outcome<List<InvitationRow>>> FirstAsync(
        ComeAboardContext rows,
        InvitationQuery query,
        DateTimeOffset now,
        int count
    )
    {
        if (!Narrow(rows.Invitations, query, now).Try(out var narrowed, out var refusal))
            return refusal;
        if (!InvitationOrder.Of(narrowed, query).Try(out var ordered, out refusal))
            return refusal;
        if (PartOf(query) is not { } part)
            return await ordered.AsNoTracking().Take(count).ToListAsync();
        // What is met often fills a page from the first few of the list; the index would be asked in vain.
        if (part.IsIndexed && await IsMetOftenAsync(rows, part))
        {
            var walked = await WalkedAsync();
            if (walked.Count == count)
                return walked;
        }
        return await InOrder(await SearchAsync(rows, narrowed, part)).Take(count).ToListAsync();

        IQueryable<InvitationRow> InOrder(IQueryable<InvitationRow> some) =>
            InvitationOrder.Of(some.AsNoTracking(), query).Value;

        // Narrowed after they were taken: of a kind or state that is rare, so many are found only by walking all.
        Task<List<InvitationRow>> WalkedAsync() =>
            InOrder(Holding(Narrow(InOrder(rows.Invitations).Take(Walked * count), query, now).Value, part))
                .Take(count)
                .ToListAsync();
    }

    /// <summary>The invitations a query is about, in no order.</summary>
    public async Task<Outcome<IQueryable<InvitationRow>>> NarrowAsync(
        ComeAboardContext rows,
        InvitationQuery query,
        DateTimeOffset now
    )
    {
        if (!Narrow(rows.Invitations, query, now).Try(out var narrowed, out var refusal))
            return refusal;
        return Outcome.Of(PartOf(query) is { } part ? await SearchAsync(rows, narrowed, part) : narrowed);
    }

    /// <summary>Those of some that a query is about, but for the part of a text that is searched for.</summary>
    private static Outcome<IQueryable<InvitationRow>> Narrow(
        IQueryable<InvitationRow> narrowed,
        InvitationQuery query,
        DateTimeOffset now
    )
    {
        if (query.Kind is { Length: > 0 })
        {
            if (!Kinds.Read(query.Kind).Try(out var kind, out var refusal))
                return refusal;
            narrowed = narrowed.Where(i => i.Kind == kind);
        }
        if (query.Batch is { } batch)
            narrowed = narrowed.Where(i => i.BatchId == batch);
        if (query.Link is { } link)
            narrowed = narrowed.Where(i => i.LinkId == link);
        if (string.IsNullOrEmpty(query.State))
            return Outcome.Of(narrowed);
        if (query.State == "pending")
            return Outcome.Of(
                narrowed.Where(i => i.IsPending && (i.Deadline > now || i.State == InvitationState.Waiting))
            );
        if (!Enum.TryParse<InvitationState>(query.State, true, out var state) || !Enum.IsDefined(state))
            return new Refusal(
                "state.unknown",
                "There is no such state of an invitation.",
                $"Use pending or one of: {string.Join(", ", Enum.GetNames<InvitationState>()).ToLowerInvariant()}.",
                Field: "state"
            );
        return Outcome.Of(narrowed.Where(i => i.State == state));
    }

    /// <summary>Makes a text stand for itself in a LIKE pattern.</summary>
    public static string Escape(string text) =>
        text.Replace("\\", "\\\\", StringComparison.Ordinal)
            .Replace("%", "\\%", StringComparison.Ordinal)
            .Replace("_", "\\_", StringComparison.Ordinal);

    /// <summary>A part of a text that is searched for, in small letters.</summary>
    private sealed record Part(string Text)
    {
        /// <summary>The text as a LIKE pattern.</summary>
        public string Pattern { get; } = "%" + Escape(Text) + "%";

        /// <summary>The text as the index of SQLite takes it, whose own signs stand for themselves in brackets.</summary>
        public string Glob =>
            "*" + string.Concat(Text.Select(c => c is '*' or '?' or '[' ? $"[{c}]" : c.ToString())) + "*";

        /// <summary>The index knows every three letters in a row; fewer are met soon enough by walking.</summary>
        public bool IsIndexed => Text.EnumerateRunes().Count() >= 3;
    }

    private static Part? PartOf(InvitationQuery query) =>
        query.Search?.Trim().ToLowerInvariant() is { Length: > 0 } text ? new Part(text) : null;

    private static IQueryable<InvitationRow> Holding(IQueryable<InvitationRow> some, Part part)
    {
        var pattern = part.Pattern;
        return some.Where(i => EF.Functions.Like(i.SearchText, pattern, "\\"));
    }

    private async Task<bool> IsMetOftenAsync(ComeAboardContext rows, Part part)
    {
        var some = await texts.OfAsync(rows);
        return some.Count(text => text.Contains(part.Text, StringComparison.Ordinal)) * Often >= some.Count;
    }

    private async Task<IQueryable<InvitationRow>> SearchAsync(
        ComeAboardContext rows,
        IQueryable<InvitationRow> narrowed,
        Part part
    )
    {
        var matching = Holding(narrowed, part);
        if (!part.IsIndexed)
            return matching;
        var telling = new Part(TellingPart.Of(part.Text, await texts.OfAsync(rows)));
        var found = await IndexedAsync(rows, telling);
        // What few of some hold, many others may: then the whole text has to tell.
        if (found.Count == Rare && telling != part)
            found = await IndexedAsync(rows, part);
        return found.Count < Rare ? matching.Where(i => found.Contains(i.Id)) : matching;
    }

    /// <summary>The first invitations in the index that hold a text, of whatever state.</summary>
    private static async Task<List<Guid>> IndexedAsync(ComeAboardContext rows, Part part)
    {
        if (rows is not SqliteContext)
            return await Holding(rows.Invitations, part).Select(i => i.Id).Take(Rare).ToListAsync();
        // Over all workspaces, and what belongs to others is left out by the list itself.
        return await rows
            .Database.SqlQuery<Guid>(
                $"SELECT id AS Value FROM invitation_search WHERE search_text GLOB {part.Glob} LIMIT {Rare}"
            )
            .ToListAsync();
    }

    /// <summary>What stands beside the invitations of a page: the last mail of each, and how many there are in each state.</summary>
    private sealed record Beside(
        IReadOnlyDictionary<Guid, LastMail> Mails,
        IReadOnlyDictionary<string, long> Counts
    )
    {
        public static Beside Nothing { get; } =
            new(new Dictionary<Guid, LastMail>(), new Dictionary<string, long>());
    }

    /// <summary>A mail about an invitation, or a state with how many are in it.</summary>
    private sealed class BesideFact
    {
        public required Guid? Mail { get; init; }
        public required Guid? Invitation { get; init; }
        public required DeliveryState? MailState { get; init; }
        public required DateTimeOffset? DueAt { get; init; }
        public required string? Answer { get; init; }

        /// <summary>Of a state how many are in it, of a mail how often it was tried.</summary>
        public required long Count { get; init; }
        public required InvitationState State { get; init; }
    }

    /// <summary>All of it in one look: each of them would be one more way to a server and back.</summary>
    private static async Task<Beside> BesideAsync(ComeAboardContext rows, IReadOnlyList<Guid> ids)
    {
        var facts = await (
            from d in rows.Deliveries
            // How a state is kept is read from the first of what is put together.
            join i in rows.Invitations on d.InvitationId equals (Guid?)i.Id
            where
                (d.Purpose == Mail.Purposes.Invitation || d.Purpose == Mail.Purposes.Reminder)
                && EF.Parameter(ids).Contains(i.Id)
            select new BesideFact
            {
                Mail = d.Id,
                Invitation = i.Id,
                MailState = d.State,
                DueAt = d.DueAt,
                Answer = d.Answer,
                Count = d.Tries,
                State = i.State,
            }
        )
            .Concat(
                rows.InvitationCounts.Select(c => new BesideFact
                {
                    Mail = null,
                    Invitation = null,
                    MailState = null,
                    DueAt = null,
                    Answer = null,
                    Count = c.Count,
                    State = c.State,
                })
            )
            .ToListAsync();
        return new Beside(
            facts
                .Where(fact => fact.Mail is not null)
                .GroupBy(fact => fact.Invitation!.Value)
                .ToDictionary(mails => mails.Key, mails => LastOf(mails.MaxBy(mail => mail.Mail)!)),
            CountsOf(
                facts.Where(fact => fact.Mail is null).ToDictionary(fact => fact.State, fact => fact.Count)
            )
        );
    }

    private static LastMail LastOf(BesideFact mail) =>
        new(mail.MailState!.Value, (int)mail.Count, mail.DueAt!.Value, mail.Answer);
}
