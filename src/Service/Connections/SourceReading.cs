using System.Text.Json;
using ComeAboard.Core;
using ComeAboard.Core.Connections;
using ComeAboard.Core.Invitations;
using ComeAboard.Core.Matching;
using ComeAboard.Service.Invitations;
using ComeAboard.Service.Workspaces;
using ComeAboard.Storage;
using ComeAboard.Storage.Connections;
using Microsoft.EntityFrameworkCore;

namespace ComeAboard.Service.Connections;

/// <summary>
/// Reading a connection: whole or not at all. What is thought of each record is compared with what is written down, and the
/// difference is written lot by lot; done twice it comes to the same, so that another process can begin anew. Nobody who is
/// here is changed by it.
/// </summary>
public sealed class SourceReading(Database database, WorkspaceWriter writer, Sources sources)
{
    private const int LotSize = 500;

    /// <summary>Reads it, and writes down what is thought of its records.</summary>
    public async Task RunAsync(ConnectionRow connection, CancellationToken stop)
    {
        if (!(await sources.ReadAsync(connection, stop)).Try(out var records, out var refusal))
        {
            await FailAsync(connection, refusal);
            return;
        }
        if (!(await CompareAsync(connection, records)).Try(out var steps, out refusal))
        {
            await FailAsync(connection, refusal);
            return;
        }
        foreach (var lot in steps.Chunk(LotSize))
        {
            stop.ThrowIfCancellationRequested();
            var kept = await writer.WriteAsync<bool>(
                connection.WorkspaceId,
                CallerOf(connection),
                write => KeepAsync(write, connection, lot, records.Count)
            );
            if (!kept.Value)
                return;
        }
        await FinishAsync(connection, records.Count);
    }

    /// <summary>Ends the work on a connection that came to nothing, and says why; nothing else is changed.</summary>
    public Task FailAsync(ConnectionRow connection, Refusal why) =>
        writer.WriteAsync<bool>(
            connection.WorkspaceId,
            CallerOf(connection),
            async write =>
            {
                if (await OursAsync(write, connection) is not { } row)
                    return false;
                row.Fault = ConnectionViews.TextOf(why);
                Rest(write, row);
                await ConnectionViews.RecountAsync(write.Rows, row);
                write.Record("connection.stopped", row.Id, ("name", row.Name), ("why", why.Sentence));
                return true;
            }
        );

    /// <summary>The connection as it is now, if it is still this process that works on it.</summary>
    public static Task<ConnectionRow?> OursAsync(WorkspaceWrite write, ConnectionRow connection) =>
        write.Rows.Connections.FirstOrDefaultAsync(c =>
            c.Id == connection.Id && c.Lease == connection.Lease && c.State == connection.State
        );

    /// <summary>Whoever asked for the work, as the record names them.</summary>
    public static Caller CallerOf(ConnectionRow connection) =>
        connection.AskedById is { } id
            ? Caller.Member(id, connection.AskedByName, "connection")
            : Caller.Clock;

    /// <summary>Ends the work on it.</summary>
    public static void Rest(WorkspaceWrite write, ConnectionRow row)
    {
        (row.State, row.IsBelieved, row.Lease, row.LeasedUntil) = (
            ConnectionState.Resting,
            false,
            null,
            null
        );
        if (row.EveryHours > 0)
            row.NextReadAt = write.Now.AddHours(row.EveryHours);
    }

    /// <summary>One thing to be written down.</summary>
    private sealed record Step(
        string Key,
        JudgedRecord? Judged = null,
        bool IsDue = false,
        bool IsDrop = false
    );

    private async Task<Outcome<IReadOnlyList<Step>>> CompareAsync(
        ConnectionRow connection,
        IReadOnlyList<SourceRecord> records
    )
    {
        await using var rows = database.Open(connection.WorkspaceId);
        var written = await rows
            .SourceRecords.AsNoTracking()
            .Where(r => r.ConnectionId == connection.Id)
            .ToListAsync();
        var members = await rows.Members.AsNoTracking().Where(m => m.EndedAt == null).ToListAsync();
        var keys = members.Select(m => m.AddressKey).ToHashSet(StringComparer.Ordinal);
        var former = (
            await rows.Members.Where(m => m.EndedAt != null).Select(m => m.AddressKey).ToListAsync()
        ).Where(key => !keys.Contains(key));
        var judged = SourceTable.Judge(
            records,
            written.Select(row => new KnownRecord(
                ConnectionViews.RecordOf(row),
                row.JoinedId,
                row.InvitationId,
                row.Decision == SourceDecision.Join && row.DecidedPersonId == row.JoinedId
            )),
            [
                .. members.Select(m => new PersonHere(
                    m.Id,
                    m.Name,
                    new MatchRecord(
                        Name: m.Name,
                        Address: m.Address,
                        OtherAddresses: m.InvitedAs,
                        Organisation: m.Organisation,
                        Title: m.Title
                    ),
                    m.InvitationId
                )),
            ],
            former.ToHashSet(StringComparer.Ordinal)
        );
        var changes = SourceChanges.Between(written.Select(WrittenOf), judged);
        var before = written.Count(row => row.GoneSince is null);
        var gone = changes.Gone.Count + changes.Drop.Count;
        if (
            !connection.IsBelieved
            && SourceFloor.Forbids(before, gone, records.Count, connection.Floor) is { } far
        )
            return far;
        return Outcome.Of(Steps(connection, written, judged, changes, members.ToDictionary(m => m.Id)));
    }

    private static IReadOnlyList<Step> Steps(
        ConnectionRow connection,
        List<SourceRecordRow> written,
        IReadOnlyList<JudgedRecord> judged,
        SourceChanges changes,
        Dictionary<Guid, Storage.Accounts.MemberRow> members
    )
    {
        var join = ConnectionViews.JoinOf(connection);
        var known = written.ToDictionary(row => row.SourceKey, StringComparer.Ordinal);
        var changed = changes.Change.Concat(changes.Add).Select(one => one.Record.Key).ToHashSet();
        var steps = changes.Drop.Select(key => new Step(key, IsDrop: true)).ToList();
        steps.AddRange(changes.Gone.Select(key => new Step(key)));
        foreach (var one in judged)
        {
            var row = known.GetValueOrDefault(one.Record.Key);
            // A profile that is joined is to be joined again where it has become different.
            var isDue =
                one.PersonId is { } id
                && join.Changes(ConnectionViews.ProfileOf(members[id]), one.Record).Count > 0;
            var state = isDue ? SourceState.Open : SourceState.Done;
            var isOther =
                row?.JoinedId is not null
                && (row.State != state || one.Record.IsOff != row.GoneSince is not null);
            if (changed.Contains(one.Record.Key) || isOther)
                steps.Add(new Step(one.Record.Key, one, isDue));
        }
        return steps;
    }

    private static WrittenRecord WrittenOf(SourceRecordRow row) =>
        new(
            new JudgedRecord(
                ConnectionViews.RecordOf(row),
                row.Verdict,
                row.Score / 1000.0,
                row.PersonId,
                row.Reasons.Split('\n', StringSplitOptions.RemoveEmptyEntries)
            ),
            row.GoneSince is not null && !ConnectionViews.RecordOf(row).IsOff,
            row.JoinedId is not null || row.InvitationId is not null || row.Decision is not null
        );

    private static async Task<Outcome<bool>> KeepAsync(
        WorkspaceWrite write,
        ConnectionRow connection,
        Step[] lot,
        int total
    )
    {
        if (await OursAsync(write, connection) is not { } row)
            return false;
        var keys = lot.Select(step => step.Key).ToArray();
        var found = await write
            .Rows.SourceRecords.Where(r => r.ConnectionId == row.Id && keys.Contains(r.SourceKey))
            .ToDictionaryAsync(r => r.SourceKey);
        var number =
            await write.Rows.SourceRecords.Where(r => r.ConnectionId == row.Id).MaxAsync(r => (int?)r.Number)
            ?? 0;
        foreach (var step in lot)
        {
            var kept = found.GetValueOrDefault(step.Key);
            if (step.Judged is { } judged)
            {
                kept ??= Insert(write, row, judged.Record, ++number);
                Put(kept, judged, step.IsDue, write.Now);
            }
            else if (kept is not null && step.IsDrop)
                write.Rows.SourceRecords.Remove(kept);
            else if (kept is not null)
                kept.GoneSince ??= write.Now;
        }
        (row.Position, row.Total, row.Tries) = (Math.Min(total, row.Position + lot.Length), total, 0);
        return true;
    }

    private static SourceRecordRow Insert(
        WorkspaceWrite write,
        ConnectionRow connection,
        SourceRecord record,
        int number
    )
    {
        var row = new SourceRecordRow
        {
            WorkspaceId = write.Workspace.Id,
            ConnectionId = connection.Id,
            Number = number,
            SourceKey = record.Key,
            Fields = "",
            Name = "",
            Address = "",
            SearchText = "",
            Verdict = SourceVerdict.New,
            Score = 0,
            Reasons = "",
        };
        write.Insert(row);
        return row;
    }

    private static void Put(SourceRecordRow row, JudgedRecord judged, bool isDue, DateTimeOffset now)
    {
        var record = judged.Record;
        // What was said of one address does not hold for another.
        if (row.JoinedId is not null && row.Address != record.Address)
            (row.Decision, row.DecidedPersonId, row.DecidedByName) = (null, null, "");
        row.Fields = JsonSerializer.Serialize(record, BatchJudge.Json);
        (row.Name, row.Address) = (record.Shown, record.Address);
        row.SearchText =
            $"{record.Shown} {record.Address} {record.OtherAddresses} {record.Organisation}".ToLowerInvariant();
        (row.Verdict, row.Score, row.PersonId) = (
            judged.Verdict,
            (int)Math.Round(judged.Score * 1000),
            judged.PersonId
        );
        row.Reasons = string.Join('\n', judged.Reasons);
        // Who is switched off there is as good as gone there, as soon as it is known who they are here.
        if (record.IsOff && row.JoinedId is not null)
            row.GoneSince ??= now;
        else
            (row.GoneSince, row.StaysAt, row.StaysByName) = (null, null, "");
        if (row.JoinedId is null && row.InvitationId is null)
            return;
        if (judged is { Verdict: SourceVerdict.Same, PersonId: { } person })
            (row.JoinedId, row.State, row.Refusal) = (
                person,
                isDue ? SourceState.Open : SourceState.Done,
                null
            );
        else if (row.JoinedId is not null)
        {
            // They are not here any more, or its address has become somebody else's: somebody has to say anew.
            Undecide(row);
            if (judged.Verdict != SourceVerdict.Conflicting)
                row.JoinedId = null;
        }
    }

    private static void Undecide(SourceRecordRow row)
    {
        (row.Decision, row.DecidedPersonId, row.DecidedByName) = (null, null, "");
        (row.State, row.Refusal) = (SourceState.Open, null);
    }

    private Task<Outcome<bool>> FinishAsync(ConnectionRow connection, int count) =>
        writer.WriteAsync<bool>(
            connection.WorkspaceId,
            CallerOf(connection),
            async write =>
            {
                if (await OursAsync(write, connection) is not { } row)
                    return false;
                (row.Fault, row.LastReadAt, row.Position, row.Total) = (null, write.Now, count, count);
                Rest(write, row);
                await ConnectionViews.RecountAsync(write.Rows, row);
                var counts = ConnectionViews.CountsOf(row);
                write.Record(
                    "connection.read",
                    row.Id,
                    ("name", row.Name),
                    ("people", count),
                    ("to decide", counts["to-decide"]),
                    ("gone", counts[ConnectionViews.Gone])
                );
                return true;
            }
        );
}
