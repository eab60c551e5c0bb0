using ComeAboard.Client.Access;
using ComeAboard.Client.Accounts;
using ComeAboard.Client.Workspaces;
using ComeAboard.Core;
using ComeAboard.Core.Access;
using ComeAboard.Service.Accounts;
using ComeAboard.Service.Workspaces;
using ComeAboard.Storage;
using ComeAboard.Storage.Access;
using ComeAboard.Storage.Accounts;
using Microsoft.EntityFrameworkCore;

namespace ComeAboard.Service.Access;

/// <summary>Groups, and who is in them.</summary>
public sealed class Groups(Editing editing, Database database, TimeProvider clock)
    : NamedThings<GroupRow, GroupRequest, AboutWords, GroupView>(Sort, editing)
{
    public static NamedSort Sort { get; } = new("group", 2_000, Duties.Access);

    /// <summary>All of them, by name.</summary>
    public async Task<Page<GroupView>> ListAsync(Visitor visitor)
    {
        await using var rows = database.Open(visitor.WorkspaceId);
        var found = await rows.Groups.AsNoTracking().OrderBy(g => g.NameKey).ToListAsync();
        return new Page<GroupView>(await ViewsAsync(rows, visitor.World, found), null);
    }

    /// <summary>One.</summary>
    public async Task<Outcome<GroupView>> ShowAsync(Visitor visitor, string name)
    {
        if (!visitor.World.FindGroup(name).Try(out var found, out var refusal))
            return refusal;
        await using var rows = database.Open(visitor.WorkspaceId);
        return await rows.Groups.AsNoTracking().FirstOrDefaultAsync(g => g.Id == found.Id) is { } row
            ? (await ViewsAsync(rows, visitor.World, [row]))[0]
            : CommonRefusals.NotFound;
    }

    /// <summary>Who is in one, newest first.</summary>
    public async Task<Outcome<Page<PersonView>>> MembersAsync(Visitor visitor, string name, Paging paging)
    {
        if (!visitor.World.FindGroup(name).Try(out var found, out var refusal))
            return refusal;
        await using var rows = database.Open(visitor.WorkspaceId);
        return await rows
            .Members.AsNoTracking()
            .Where(m =>
                m.EndedAt == null && rows.GroupMembers.Any(g => g.GroupId == found.Id && g.MemberId == m.Id)
            )
            .PageAsync(
                paging,
                page => PersonViews.OfAsync(rows, page, clock.Now(), visitor.Workspace, visitor.World)
            );
    }

    /// <summary>Puts people in.</summary>
    public async Task<Outcome<EditAnswer>> PutInAsync(
        Visitor visitor,
        string name,
        PeopleRequest request,
        bool dryRun
    )
    {
        if (!visitor.World.FindGroup(name).Try(out var into, out var refusal))
            return refusal;
        if (!People.ReadSeveral(request).Try(out var people, out refusal))
            return refusal;
        return Answer(
            await Editing.EditAsync<int>(
                visitor,
                new EditMode(Sort.Duty, dryRun),
                async (write, editor) =>
                {
                    var world = await write.WorldAsync();
                    if (!world.Groups.TryGetValue(into.Id, out var now))
                        return CommonRefusals.NotFound;
                    if (GivingRules.Forbids(world, editor.Id, now.Grants, write.Today) is { } beyond)
                        return beyond;
                    var count = 0;
                    foreach (var person in people)
                    {
                        if (!(await People.HereAsync(write.Rows, person)).Try(out var member, out var nobody))
                            return nobody;
                        if (await JoinAsync(write, now, member.Id, member.Name))
                            count++;
                    }
                    return count;
                }
            )
        );
    }

    /// <summary>Takes somebody out.</summary>
    public async Task<Outcome<EditAnswer>> TakeOutAsync(
        Visitor visitor,
        string name,
        string person,
        bool dryRun
    )
    {
        if (!visitor.World.FindGroup(name).Try(out var from, out var refusal))
            return refusal;
        return Answer(
            await Editing.EditAsync<int>(
                visitor,
                new EditMode(Sort.Duty, dryRun),
                async (write, _) =>
                {
                    if (await People.FindAsync(write.Rows, person) is not { } member)
                        return People.NotFound;
                    if (
                        await write.Rows.GroupMembers.FirstOrDefaultAsync(g =>
                            g.GroupId == from.Id && g.MemberId == member.Id
                        )
                        is not { } row
                    )
                        return CommonRefusals.NotFound;
                    write.Rows.GroupMembers.Remove(row);
                    write.Record("group.left", member.Id, ("name", member.Name), ("group", from.Name));
                    return 1;
                }
            )
        );
    }

    protected override Task<Outcome<Guid>> FindAsync(Visitor visitor, string name) =>
        Task.FromResult(visitor.World.FindGroup(name).Then(group => group.Id));

    protected override Outcome<AboutWords> Read(GroupRequest request, AccessWorld world) =>
        Sort.ReadWords(request.Name, request.About);

    protected override Task<Outcome<(string Name, object? Value)[]>> FillAsync(
        WorkspaceWrite write,
        MemberRow editor,
        GroupRow row,
        AboutWords words
    )
    {
        row.About = words.About;
        return Task.FromResult(Facts());
    }

    protected override async Task<Outcome<int>> ClearAsync(WorkspaceWrite write, GroupRow row)
    {
        var members = await write.Rows.GroupMembers.Where(g => g.GroupId == row.Id).ToListAsync();
        write.Rows.GroupMembers.RemoveRange(members);
        await Grants.TakeAllAsync(write, g => g.HolderKind == HolderKind.Group && g.HolderId == row.Id);
        return members.Count;
    }

    protected override async Task<GroupView> AnswerAsync(Visitor visitor, Edited<GroupRow> done)
    {
        await using var rows = database.Open(visitor.WorkspaceId);
        return (await ViewsAsync(rows, visitor.World, [done.Value]))[0];
    }

    private static Outcome<EditAnswer> Answer(Outcome<Edited<int>> edited) =>
        edited.Then(done => new EditAnswer(done.Value, done.Difference));

    /// <summary>Puts somebody into a group within a change; false where they are in it already.</summary>
    internal static async Task<bool> JoinAsync(WorkspaceWrite write, Group group, Guid member, string name)
    {
        if (await write.Rows.GroupMembers.FindAsync(write.Workspace.Id, group.Id, member) is not null)
            return false;
        write.Rows.GroupMembers.Add(
            new GroupMemberRow
            {
                WorkspaceId = write.Workspace.Id,
                GroupId = group.Id,
                MemberId = member,
                Since = write.Now,
            }
        );
        write.Record("group.joined", member, ("name", name), ("group", group.Name));
        return true;
    }

    private static async Task<IReadOnlyList<GroupView>> ViewsAsync(
        ComeAboardContext rows,
        AccessWorld world,
        IReadOnlyList<GroupRow> groups
    )
    {
        var grants = await Grants.OfAsync(rows, HolderKind.Group, [.. groups.Select(g => g.Id)]);
        var sizes = world.People.Values.SelectMany(person => person.Groups).CountBy(id => id).ToDictionary();
        return
        [
            .. groups.Select(g => new GroupView(
                g.Id,
                g.Name,
                g.About,
                sizes.GetValueOrDefault(g.Id),
                Grants.ViewsOf(grants[g.Id], world),
                g.Version
            )),
        ];
    }
}
