using ComeAboard.Core;
using ComeAboard.Core.Access;
using ComeAboard.Core.Connections;
using ComeAboard.Service.Accounts;
using ComeAboard.Service.Workspaces;
using ComeAboard.Storage.Accounts;
using ComeAboard.Storage.Connections;
using Microsoft.EntityFrameworkCore;

namespace ComeAboard.Service.Connections;

/// <summary>Profiles of members joined with records of an outside system; what somebody may do is not touched.</summary>
internal static class JoinedProfiles
{
    /// <summary>Joins a record with whom it was decided for; refuses with <c>person.not-found</c>, <c>record.joined-already</c> or <c>right.…</c>.</summary>
    public static async Task<Refusal?> JoinAsync(
        WorkspaceWrite write,
        ConnectionRow connection,
        MemberRow editor,
        int number
    )
    {
        var row = await write.Rows.SourceRecords.FirstAsync(r =>
            r.ConnectionId == connection.Id && r.Number == number
        );
        var person = row.DecidedPersonId ?? row.PersonId;
        if (
            await write.Rows.Members.FirstOrDefaultAsync(m => m.Id == person && m.EndedAt == null)
            is not { } member
        )
            return People.NotFound;
        if (
            GivingRules.ForbidsActingOn(await write.WorldAsync(), editor.Id, member.Id, write.Today) is
            { } beyond
        )
            return beyond;
        if (
            await write.Rows.SourceRecords.AnyAsync(r =>
                r.ConnectionId == connection.Id
                && r.JoinedId == member.Id
                && r.Number != number
                && r.GoneSince == null
            )
        )
            return new Refusal(
                "record.joined-already",
                $"{member.Name} is joined with another record there.",
                "Leave one of the two out.",
                RefusalSort.Conflict
            );
        var changes = ConnectionViews
            .JoinOf(connection)
            .Changes(ConnectionViews.ProfileOf(member), ConnectionViews.RecordOf(row));
        if (Put(member, changes) is { } wrong)
            return wrong;
        var isFirst = row.JoinedId != member.Id;
        (row.JoinedId, row.State, row.Refusal) = (member.Id, SourceState.Done, null);
        if (isFirst || changes.Count > 0)
            write.Record(
                isFirst ? "member.joined-record" : "member.kept-up",
                member.Id,
                ("name", member.Name),
                ("address", member.Address),
                ("connection", connection.Name),
                ("record", row.Name),
                ("before", SaidOf(changes, one => one.Before)),
                ("after", SaidOf(changes, one => one.After))
            );
        return null;
    }

    private static string? SaidOf(IReadOnlyList<FieldChange> changes, Func<FieldChange, string> value) =>
        changes.Count == 0
            ? null
            : string.Join(
                "; ",
                changes.Select(one => $"{one.Field.ToString().ToLowerInvariant()}: {value(one)}")
            );

    /// <summary>Puts values into a profile; refuses, as if somebody had typed them, what is no name or no line.</summary>
    public static Refusal? Put(MemberRow member, IReadOnlyList<FieldChange> changes)
    {
        foreach (var change in changes)
        {
            var read =
                change.Field == ProfileField.Name
                    ? PlainText.ReadPersonName(change.After)
                    : PlainText.ReadName(change.After);
            if (!read.Try(out var text, out var refusal))
                return refusal with { Field = change.Field.ToString().ToLowerInvariant() };
            switch (change.Field)
            {
                case ProfileField.Name:
                    member.Name = text;
                    break;
                case ProfileField.Organisation:
                    member.Organisation = text;
                    break;
                case ProfileField.Title:
                    member.Title = text;
                    break;
                case ProfileField.Department:
                    member.Department = text;
                    break;
                case ProfileField.Manager:
                    member.Manager = text;
                    break;
                default:
                    member.Country = text;
                    break;
            }
        }
        if (changes.Count > 0)
            member.WithSearchText().Version++;
        return null;
    }
}
