using System.Globalization;
using ComeAboard.Client.Connections;
using ComeAboard.Client.Workspaces;
using ComeAboard.Core;
using ComeAboard.Core.Access;
using ComeAboard.Core.Connections;
using ComeAboard.Service.Accounts;
using ComeAboard.Service.Invitations;
using ComeAboard.Service.Workspaces;
using ComeAboard.Storage;
using ComeAboard.Storage.Connections;
using Microsoft.EntityFrameworkCore;

namespace ComeAboard.Service.Connections;

/// <summary>The match table of a connection: looked at, and decided, singly and in bulk.</summary>
public sealed class SourceRecords(Database database, WorkspaceWriter writer)
{
    private const int MostAtOnce = 2_000;
    private const string Stays = "stays";

    /// <summary>How many people who are here are gone in a system they were joined with.</summary>
    public static Task<int> CountGoneAsync(ComeAboardContext rows) =>
        rows.SourceRecords.CountAsync(r =>
            r.GoneSince != null
            && r.StaysAt == null
            && r.JoinedId != null
            && rows.Members.Any(m =>
                m.WorkspaceId == r.WorkspaceId && m.Id == r.JoinedId && m.EndedAt == null
            )
        );

    /// <summary>A page of the table: what needs somebody first, then by how likely it is.</summary>
    public async Task<Outcome<Page<SourceRecordView>>> ListAsync(
        Visitor visitor,
        string connection,
        string? verdict,
        string? search,
        Paging paging
    )
    {
        await using var rows = database.Open(visitor.WorkspaceId);
        if (await Connections.FindAsync(rows, connection) is not { } row)
            return Connections.NotFound;
        if (!Narrow(rows, row, verdict, search).Try(out var records, out var refusal))
            return refusal;
        if (paging.Cursor is { Length: > 0 } cursor)
        {
            if (!IsCursor(cursor, out var rank, out var after))
                return Keysets.BadCursor;
            records = records.Where(r => r.Rank > rank || r.Rank == rank && r.Number > after);
        }
        var found = await records
            .AsNoTracking()
            .OrderBy(r => r.Rank)
            .ThenBy(r => r.Number)
            .Take(paging.Size + 1)
            .ToListAsync();
        return await found.PageAsync(
            paging,
            one => $"{one.Rank}-{one.Number}",
            page => ConnectionViews.OfAsync(rows, row, page)
        );
    }

    /// <summary>
    /// Decides what is to be done with records; it is kept for the next readings, and nothing is done as yet. Of those that
    /// are named each is decided by itself; refuses with <c>decision.…</c>.
    /// </summary>
    public async Task<Outcome<DecideAnswer>> DecideAsync(
        Visitor visitor,
        string connection,
        DecideRequest request
    )
    {
        if (request.Records is { Count: 0 or > MostAtOnce })
            return new Refusal(
                "decision.how-many",
                $"Name 1 to {MostAtOnce} records.",
                "Do it in several steps.",
                Field: "records"
            );
        return await writer.WriteAsync<DecideAnswer>(
            visitor.WorkspaceId,
            visitor.Caller,
            async write =>
            {
                if (!(await write.RequireAsync(Duties.Claims)).Try(out var by, out var no))
                    return no;
                if (await Connections.FindAsync(write.Rows, connection) is not { } row)
                    return Connections.NotFound;
                if (row.State != ConnectionState.Resting)
                    return Connections.Working;
                var refused = new List<DecisionRefusal>();
                int decided;
                if (request.Records is { } named)
                    decided = await DecideNamedAsync(write, row, named, by.Name, refused);
                else if (!(await DecideAllAsync(write, row, request, by.Name)).Try(out decided, out no))
                    return no;
                await write.SaveAsync();
                await ConnectionViews.RecountAsync(write.Rows, row);
                if (decided > 0)
                    write.Record(
                        "connection.decided",
                        row.Id,
                        ("name", row.Name),
                        ("records", decided),
                        ("decision", request.Records is null ? request.Decision ?? "none" : null)
                    );
                return new DecideAnswer(decided, refused, ConnectionViews.Of(row));
            }
        );
    }

    private static async Task<int> DecideNamedAsync(
        WorkspaceWrite write,
        ConnectionRow connection,
        IReadOnlyList<RecordDecision> named,
        string by,
        List<DecisionRefusal> refused
    )
    {
        var decided = 0;
        foreach (var lot in named.Chunk(500))
        {
            var keys = lot.Select(one => one.Key ?? "").ToArray();
            var numbers = keys.Select(key => int.TryParse(key, out var number) ? number : 0).ToArray();
            var found = await write
                .Rows.SourceRecords.Where(r =>
                    r.ConnectionId == connection.Id
                    && (keys.Contains(r.SourceKey) || numbers.Contains(r.Number))
                )
                .ToListAsync();
            foreach (var one in lot)
            {
                var record =
                    found.Find(r => r.SourceKey == one.Key)
                    ?? found.Find(r => r.Number.ToString(CultureInfo.InvariantCulture) == one.Key);
                var no = record is null ? NoRecord : await DecideOneAsync(write, record, one, by);
                if (no is null)
                    decided++;
                else
                    refused.Add(new DecisionRefusal(one.Key ?? "", no.ToProblem()));
            }
        }
        return decided;
    }

    private static Refusal NoRecord { get; } =
        new(
            "record.not-found",
            "There is no such record.",
            "Look at the table: aboard connections preview NAME",
            RefusalSort.NotFound
        );

    private static Refusal IsGone { get; } =
        new(
            "record.gone",
            "It is not there any more.",
            "Say stays, or end the person's stay.",
            RefusalSort.Conflict
        );

    private static Refusal IsDone { get; } =
        new(
            "record.done",
            "What was decided of it is done.",
            "Change the person themselves.",
            RefusalSort.Conflict
        );

    private static async Task<Refusal?> DecideOneAsync(
        WorkspaceWrite write,
        SourceRecordRow record,
        RecordDecision wish,
        string by
    )
    {
        var said = wish.Decision?.Trim().ToLowerInvariant() ?? "";
        if (record.GoneSince is not null)
        {
            if (said is not (Stays or ""))
                return IsGone;
            record.StaysAt = said == Stays ? write.Now : null;
            record.StaysByName = said == Stays ? by : "";
            return null;
        }
        // What is done already is done; saying it once more is no fault.
        if (record.State == SourceState.Done)
            return said == (record.Decision ?? record.Verdict.Suggested())?.Word() ? null : IsDone;
        if (said.Length == 0)
        {
            (record.Decision, record.DecidedPersonId, record.DecidedByName, record.DecidedAt) = (
                null,
                null,
                "",
                null
            );
            (record.State, record.Refusal) = (SourceState.Open, null);
            return null;
        }
        if (!SourceWords.ReadDecision(said).Try(out var decision, out var no))
            return no;
        Guid? person = null;
        if (decision == SourceDecision.Join)
        {
            if (wish.Person is { Length: > 0 } named)
            {
                if (!(await People.HereAsync(write.Rows, named)).Try(out var member, out no))
                    return no;
                person = member.Id;
            }
            else if ((person = record.JoinedId ?? record.PersonId) is null)
                return new Refusal(
                    "decision.with-whom",
                    "It does not follow with whom it is to be joined.",
                    "Name the person.",
                    Field: "person"
                );
        }
        Decide(record, decision, person, write, by);
        return null;
    }

    private static void Decide(
        SourceRecordRow record,
        SourceDecision decision,
        Guid? person,
        WorkspaceWrite write,
        string by
    )
    {
        (record.Decision, record.DecidedPersonId) = (decision, person);
        (record.DecidedByName, record.DecidedAt) = (by, write.Now);
        (record.State, record.Refusal) = (SourceState.Open, null);
    }

    /// <summary>Decides all that a filter finds and that is not done; whom it does not follow to join with is left as it is.</summary>
    private static async Task<Outcome<int>> DecideAllAsync(
        WorkspaceWrite write,
        ConnectionRow connection,
        DecideRequest request,
        string by
    )
    {
        if (!Narrow(write.Rows, connection, request.Verdict, request.Search).Try(out var records, out var no))
            return no;
        var said = request.Decision?.Trim().ToLowerInvariant() ?? "";
        var now = write.Now;
        if (request.Verdict == ConnectionViews.Gone)
            return said is Stays or ""
                ? await records.ExecuteUpdateAsync(set =>
                    set.SetProperty(r => r.StaysAt, said == Stays ? now : (DateTimeOffset?)null)
                        .SetProperty(r => r.StaysByName, said == Stays ? by : "")
                )
                : IsGone;
        records = records.Where(r => r.State != SourceState.Done);
        SourceDecision? decision = null;
        if (said.Length > 0)
        {
            if (!SourceWords.ReadDecision(said).Try(out var read, out no))
                return no;
            decision = read;
        }
        var joins = decision == SourceDecision.Join;
        if (joins)
            records = records.Where(r => r.PersonId != null);
        return await records.ExecuteUpdateAsync(set =>
            set.SetProperty(r => r.Decision, decision)
                .SetProperty(r => r.DecidedPersonId, r => joins ? r.PersonId : null)
                .SetProperty(r => r.DecidedByName, decision == null ? "" : by)
                .SetProperty(r => r.DecidedAt, decision == null ? null : (DateTimeOffset?)now)
                .SetProperty(r => r.State, SourceState.Open)
                .SetProperty(r => r.Refusal, (string?)null)
        );
    }

    private static Outcome<IQueryable<SourceRecordRow>> Narrow(
        ComeAboardContext rows,
        ConnectionRow connection,
        string? verdict,
        string? search
    )
    {
        var all = rows.SourceRecords.Where(r => r.ConnectionId == connection.Id);
        var there = all.Where(r => r.GoneSince == null);
        IQueryable<SourceRecordRow>? found = verdict switch
        {
            null or "" => there,
            "to-decide" => there.Where(r =>
                r.Decision == null
                && r.State != SourceState.Done
                && (r.Verdict == SourceVerdict.Likely || r.Verdict == SourceVerdict.Conflicting)
            ),
            "refused" => there.Where(r => r.State == SourceState.Refused),
            ConnectionViews.Gone => ConnectionViews.GoneOf(rows, connection.Id),
            _ => Enum.GetValues<SourceVerdict>()
                .Where(one => one.Word() == verdict)
                .Select(one => there.Where(r => r.Verdict == one))
                .FirstOrDefault(),
        };
        if (found is null)
            return new Refusal(
                "verdict.unknown",
                $"There is no verdict \"{Words.Short(verdict!)}\".",
                "Say same, likely, new, conflicting, leave-out, to-decide, refused or gone.",
                Field: "verdict"
            );
        var part = search?.Trim().ToLowerInvariant() ?? "";
        if (part.Length is 0 or > 100)
            return Outcome.Of(found);
        var pattern = "%" + InvitationLists.Escape(part) + "%";
        return Outcome.Of(found.Where(r => EF.Functions.Like(r.SearchText, pattern, "\\")));
    }

    private static bool IsCursor(string cursor, out int rank, out int after)
    {
        (rank, after) = (0, 0);
        return cursor.Split('-') is [var one, var other]
            && int.TryParse(one, NumberStyles.None, CultureInfo.InvariantCulture, out rank)
            && int.TryParse(other, NumberStyles.None, CultureInfo.InvariantCulture, out after);
    }
}
