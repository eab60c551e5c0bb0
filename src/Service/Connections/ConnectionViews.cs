using System.Text.Json;
using ComeAboard.Client;
using ComeAboard.Client.Connections;
using ComeAboard.Client.Invitations;
using ComeAboard.Core;
using ComeAboard.Core.Connections;
using ComeAboard.Service.Invitations;
using ComeAboard.Service.Workspaces;
using ComeAboard.Storage;
using ComeAboard.Storage.Accounts;
using ComeAboard.Storage.Connections;
using Microsoft.EntityFrameworkCore;

namespace ComeAboard.Service.Connections;

/// <summary>Connections and their records, as they are answered.</summary>
public static class ConnectionViews
{
    /// <summary>Under which word those are counted who are gone there and still here.</summary>
    public const string Gone = "gone";

    /// <summary>A connection.</summary>
    public static ConnectionView Of(ConnectionRow row)
    {
        var settings = JsonSerializer.Deserialize<SourceSettings>(row.Settings, BatchJudge.Json)!;
        return new ConnectionView(
            row.Id,
            row.Name,
            row.Type,
            row.Place,
            settings.Base,
            settings.Filter,
            settings.SignInAs,
            row.Secret.Length > 0,
            row.Newcomers,
            JsonSerializer.Deserialize<BatchDefaults>(row.Defaults, BatchJudge.Json)!,
            JoinOf(row).Said,
            row.EveryHours,
            row.Floor,
            row.State.ToString().ToLowerInvariant(),
            row.Position,
            row.Total,
            CountsOf(row),
            row.Fault is null ? null : JsonSerializer.Deserialize<Problem>(row.Fault, BatchJudge.Json),
            row.LastReadAt,
            row.NextReadAt,
            row.AddedAt,
            row.AddedByName,
            row.Version
        );
    }

    /// <summary>Whose values win.</summary>
    public static ProfileJoin JoinOf(ConnectionRow row) =>
        ProfileJoin.Read(JsonSerializer.Deserialize<Dictionary<string, string>>(row.Wins)).Value;

    /// <summary>How many records have which verdict and state; every word is there.</summary>
    public static IReadOnlyDictionary<string, int> CountsOf(ConnectionRow row) =>
        JsonSerializer.Deserialize<Dictionary<string, int>>(row.Counts)! is { Count: > 0 } counts
            ? counts
            : Words.ToDictionary(word => word, _ => 0);

    private static IEnumerable<string> Words =>
        Enum.GetValues<SourceVerdict>()
            .Select(verdict => verdict.Word())
            .Concat(["to-join", "to-bring-in", "to-decide", "done", "refused", Gone]);

    /// <summary>What a refusal is kept as.</summary>
    public static string TextOf(Refusal refusal) =>
        JsonSerializer.Serialize(refusal.ToProblem(), BatchJudge.Json);

    /// <summary>Counts the records of a connection anew.</summary>
    public static async Task RecountAsync(ComeAboardContext rows, ConnectionRow connection)
    {
        var counts = Words.ToDictionary(word => word, _ => 0);
        foreach (
            var one in await rows
                .SourceRecords.Where(r => r.ConnectionId == connection.Id && r.GoneSince == null)
                .GroupBy(r => new
                {
                    r.Verdict,
                    r.Decision,
                    r.State,
                })
                .Select(group => new { group.Key, Count = group.Count() })
                .ToListAsync()
        )
        {
            counts[one.Key.Verdict.Word()] += one.Count;
            if (one.Key.State == SourceState.Refused)
                counts["refused"] += one.Count;
            if (one.Key.State == SourceState.Done)
                counts["done"] += one.Count;
            else if ((one.Key.Decision ?? one.Key.Verdict.Suggested()) is not { } decision)
                counts["to-decide"] += one.Count;
            else if (decision == SourceDecision.Join)
                counts["to-join"] += one.Count;
            else if (decision == SourceDecision.Bring && Brings(connection))
                counts["to-bring-in"] += one.Count;
        }
        counts[Gone] = await GoneOf(rows, connection.Id).CountAsync();
        connection.Counts = JsonSerializer.Serialize(counts);
    }

    /// <summary>Whether those who are new are brought in at all.</summary>
    public static bool Brings(ConnectionRow connection) => connection.Newcomers != "nothing";

    /// <summary>Records that are not there any more, of people who are still here and of whom nobody said that they stay.</summary>
    public static IQueryable<SourceRecordRow> GoneOf(ComeAboardContext rows, Guid connection) =>
        rows.SourceRecords.Where(r =>
            r.ConnectionId == connection
            && r.GoneSince != null
            && r.StaysAt == null
            && r.JoinedId != null
            && rows.Members.Any(m =>
                m.WorkspaceId == r.WorkspaceId && m.Id == r.JoinedId && m.EndedAt == null
            )
        );

    /// <summary>What is written of a member, as far as outside systems know it as well.</summary>
    public static Profile ProfileOf(MemberRow member) =>
        new(
            member.Name,
            member.Organisation,
            member.Title,
            member.Department,
            member.Manager,
            member.Country,
            member.OrganisationId is not null
        );

    /// <summary>What a record said.</summary>
    public static SourceRecord RecordOf(SourceRecordRow row) =>
        JsonSerializer.Deserialize<SourceRecord>(row.Fields, BatchJudge.Json)!;

    /// <summary>Records of a connection.</summary>
    public static async Task<IReadOnlyList<SourceRecordView>> OfAsync(
        ComeAboardContext rows,
        ConnectionRow connection,
        IReadOnlyList<SourceRecordRow> page
    )
    {
        var ids = page.Select(PersonOf).OfType<Guid>().Distinct().ToList();
        var people = await rows
            .Members.AsNoTracking()
            .Where(m => ids.Contains(m.Id))
            .ToDictionaryAsync(m => m.Id);
        var join = JoinOf(connection);
        return
        [
            .. page.Select(row =>
                Of(
                    row,
                    join,
                    Brings(connection),
                    PersonOf(row) is { } id ? people.GetValueOrDefault(id) : null
                )
            ),
        ];
    }

    /// <summary>Whom a record is joined with, is to be joined with, or may be.</summary>
    public static Guid? PersonOf(SourceRecordRow row) => row.JoinedId ?? row.DecidedPersonId ?? row.PersonId;

    private static SourceRecordView Of(SourceRecordRow row, ProfileJoin join, bool brings, MemberRow? person)
    {
        var record = RecordOf(row);
        var suggested = row.Verdict.Suggested();
        var decision =
            row.Decision ?? (suggested == SourceDecision.Bring && !brings ? SourceDecision.Leave : suggested);
        return new SourceRecordView(
            row.Number,
            row.SourceKey,
            record.Shown,
            record.Address,
            record.Organisation,
            record.Title,
            record.Department,
            row.Verdict.Word(),
            row.Score / 1000.0,
            row.Reasons.Split('\n', StringSplitOptions.RemoveEmptyEntries),
            person is null
                ? null
                : new MeantView(person.Id, person.Name, person.Address, person.Organisation, person.Title),
            decision?.Word() ?? "",
            row.DecidedByName,
            row.State.ToString().ToLowerInvariant(),
            row.Refusal is null ? null : JsonSerializer.Deserialize<Problem>(row.Refusal, BatchJudge.Json),
            person is not null && decision == SourceDecision.Join && row.State != SourceState.Done
                ?
                [
                    .. join.Changes(ProfileOf(person), record)
                        .Select(one => new FieldChangeView(
                            one.Field.ToString().ToLowerInvariant(),
                            one.Before,
                            one.After
                        )),
                ]
                : [],
            row.InvitationId,
            row.GoneSince,
            row.StaysByName
        );
    }
}
