using ComeAboard.Client.Accounts;
using ComeAboard.Client.Record;
using ComeAboard.Client.Workspaces;
using ComeAboard.Core;
using ComeAboard.Service.Record;
using ComeAboard.Service.Workspaces;
using ComeAboard.Storage;
using ComeAboard.Storage.Accounts;

namespace ComeAboard.Service.Accounts;

/// <summary>All there is to see of one person: what they are, may do, did, and what happened to them.</summary>
public sealed class OnePerson(
    Database database,
    PersonAccessViews access,
    RecordLists record,
    TimeProvider clock
)
{
    private const int MostEntries = 100;

    /// <summary>What they are.</summary>
    public Task<Outcome<PersonView>> ShowAsync(Visitor visitor, string person) =>
        OfAsync(
            visitor,
            person,
            (rows, member) =>
                PersonViews.OfOneAsync(rows, member, clock.Now(), visitor.Workspace, visitor.World)
        );

    /// <summary>What they may do, and from where; with the version of the person.</summary>
    public Task<Outcome<(PersonAccess Access, int Version)>> AccessAsync(Visitor visitor, string person) =>
        OfAsync(
            visitor,
            person,
            async (rows, member) => (await access.OfAsync(rows, visitor, member), member.Version)
        );

    /// <summary>What happened to them, oldest first; to their invitation, too.</summary>
    public Task<Outcome<Page<RecordEntryView>>> HistoryAsync(Visitor visitor, string person) =>
        OfAsync(
            visitor,
            person,
            (_, member) =>
                record.HistoryAsync(
                    visitor,
                    member.InvitationId is { } invitation ? [invitation, member.Id] : [member.Id]
                )
        );

    /// <summary>What they did lately: entries of the record that they made, newest first.</summary>
    public Task<Outcome<Page<RecordEntryView>>> ActivityAsync(Visitor visitor, string person) =>
        OfAsync(visitor, person, (_, member) => record.ByAsync(visitor, member.Id, MostEntries));

    private async Task<Outcome<T>> OfAsync<T>(
        Visitor visitor,
        string person,
        Func<ComeAboardContext, MemberRow, Task<T>> view
    )
        where T : notnull
    {
        await using var rows = database.Open(visitor.WorkspaceId);
        return await People.FindAsync(rows, person) is { } member
            ? await view(rows, member)
            : People.NotFound;
    }
}
