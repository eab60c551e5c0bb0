using ComeAboard.Client.Access;
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

/// <summary>What a resource is to be.</summary>
/// <param name="Name">Its name.</param>
/// <param name="Area">The area it belongs to.</param>
/// <param name="About">A line about it.</param>
/// <param name="Owner">The address or id of whoever owns it; null for nobody.</param>
public sealed record ResourceWords(string Name, Area Area, string About, string? Owner) : INamed;

/// <summary>Resources, and who owns them.</summary>
public sealed class Resources(Editing editing, Database database, ResourceAccess access)
    : NamedThings<ResourceRow, ResourceRequest, ResourceWords, ResourceView>(Sort, editing)
{
    public static NamedSort Sort { get; } = new("resource", 5_000, Duties.Access, null, "handover");

    /// <summary>Those who look after access, and the others for what they see themselves.</summary>
    public static bool SeesAll(Visitor visitor) =>
        (visitor.Duties & (Duties.Access | Duties.People | Duties.Invite)) != Duties.None;

    /// <summary>Those the visitor may know of, by area and name.</summary>
    public async Task<Outcome<Page<ResourceView>>> ListAsync(
        Visitor visitor,
        string? area,
        string? search,
        string? owner
    )
    {
        await using var rows = database.Open(visitor.WorkspaceId);
        var found = visitor.World.Resources.Values.AsEnumerable();
        if (area is { Length: > 0 })
        {
            if (!visitor.World.FindArea(area).Try(out var within, out var refusal))
                return refusal;
            found = found.Where(r => r.AreaId == within.Id);
        }
        if (search?.Trim() is { Length: > 0 } part)
            found = found.Where(r => r.Name.Contains(part, StringComparison.OrdinalIgnoreCase));
        if (owner == "me")
            found = found.Where(r => r.Owner == visitor.Member.Id);
        else if (owner is { Length: > 0 })
        {
            if (await People.FindAsync(rows, owner) is not { } member)
                return People.NotFound;
            found = found.Where(r => r.Owner == member.Id);
        }
        if (!SeesAll(visitor))
            found = found.Where(r =>
                r.Owner == visitor.Member.Id
                || visitor.World.LevelOf(visitor.Member.Id, Place.At(r), visitor.Today) > Level.None
            );
        var kept = found
            .OrderBy(r => AreaName(visitor.World, r), StringComparer.OrdinalIgnoreCase)
            .ThenBy(r => r.Name, StringComparer.OrdinalIgnoreCase)
            .ToList();
        return new Page<ResourceView>(await ViewsAsync(rows, visitor, kept), null);
    }

    /// <summary>One the visitor may know of.</summary>
    public async Task<Outcome<ResourceView>> ShowAsync(Visitor visitor, string name)
    {
        if (!FindSeen(visitor, name).Try(out var found, out var refusal))
            return refusal;
        await using var rows = database.Open(visitor.WorkspaceId);
        return (await ViewsAsync(rows, visitor, [found])) is [var view] ? view : CommonRefusals.NotFound;
    }

    /// <summary>A resource as far as the visitor may know of it.</summary>
    public static Outcome<Resource> FindSeen(Visitor visitor, string resource)
    {
        if (!visitor.World.FindResource(resource).Try(out var found, out var refusal))
            return SeesAll(visitor) ? refusal : CommonRefusals.NotFound;
        return
            SeesAll(visitor)
            || found.Owner == visitor.Member.Id
            || visitor.World.LevelOf(visitor.Member.Id, Place.At(found), visitor.Today) > Level.None
            ? found
            : CommonRefusals.NotFound;
    }

    protected override Task<Outcome<Guid>> FindAsync(Visitor visitor, string name) =>
        Task.FromResult(visitor.World.FindResource(name).Then(resource => resource.Id));

    protected override Outcome<ResourceWords> Read(ResourceRequest request, AccessWorld world)
    {
        if (!Sort.ReadWords(request.Name, request.About).Try(out var words, out var refusal))
            return refusal;
        return world.FindArea(request.Area).Try(out var area, out refusal)
            ? new ResourceWords(words.Name, area, words.About, request.Owner)
            : refusal with
            {
                Sort = RefusalSort.Invalid,
            };
    }

    protected override async Task<Outcome<(string Name, object? Value)[]>> FillAsync(
        WorkspaceWrite write,
        MemberRow editor,
        ResourceRow row,
        ResourceWords words
    )
    {
        var world = await write.WorldAsync();
        var areaBefore = world.Areas.GetValueOrDefault(row.AreaId);
        if (
            areaBefore is not null
            && row.AreaId != words.Area.Id
            && new[] { row.AreaId, words.Area.Id }.Any(area =>
                world.LevelOf(editor.Id, new Place(area, null), write.Today) < Level.Manage
            )
        )
            return new Refusal(
                "right.beyond-own",
                "Putting a resource into another area changes who sees it: that takes manage in both areas.",
                "Ask an administrator.",
                RefusalSort.NotAllowed,
                "area"
            );
        if (!(await OwnerAsync(write, words.Owner)).Try(out var owner, out var no))
            return no;
        (row.AreaId, row.OwnerId, row.About) = (words.Area.Id, owner.Id, words.About);
        return Facts(
            ("area before", areaBefore?.Name),
            ("area after", words.Area.Name),
            ("owner after", owner.Name)
        );
    }

    protected override async Task<Outcome<int>> ClearAsync(WorkspaceWrite write, ResourceRow row)
    {
        write.Rows.SwitchedOff.RemoveRange(
            await write.Rows.SwitchedOff.Where(s => s.ResourceId == row.Id).ToListAsync()
        );
        return await Grants.TakeAllAsync(write, g => g.ResourceId == row.Id);
    }

    protected override Task<ResourceView> AnswerAsync(Visitor visitor, Edited<ResourceRow> done) =>
        Task.FromResult(
            ViewOf(done.Value.Resource, done.Value, visitor) with
            {
                Difference = done.Difference,
            }
        );

    private static async Task<Outcome<(Guid? Id, string? Name)>> OwnerAsync(
        WorkspaceWrite write,
        string? owner
    )
    {
        if (string.IsNullOrWhiteSpace(owner))
            return (null, null);
        return (await People.ActiveAsync(write, owner)).Try(out var member, out var refusal)
            ? (member.Id, member.Name)
            : refusal with
            {
                Field = "owner",
            };
    }

    private async Task<IReadOnlyList<ResourceView>> ViewsAsync(
        ComeAboardContext rows,
        Visitor visitor,
        IReadOnlyList<Resource> resources
    )
    {
        var kept = await rows.Resources.AsNoTracking().ToDictionaryAsync(r => r.Id);
        return [.. resources.Where(r => kept.ContainsKey(r.Id)).Select(r => ViewOf(r, kept[r.Id], visitor))];
    }

    private ResourceView ViewOf(Resource resource, ResourceRow row, Visitor visitor)
    {
        var holders = access.Of(visitor.WorkspaceId, visitor.World, resource, visitor.Today);
        return new ResourceView(
            resource.Id,
            resource.Name,
            AreaName(visitor.World, resource),
            row.About,
            resource.Owner,
            resource.Owner is { } owner ? visitor.World.People.GetValueOrDefault(owner)?.Name ?? "" : "",
            SeesAll(visitor) ? holders.WithAccess : 0,
            SeesAll(visitor) ? holders.Outsiders : 0,
            row.Version
        );
    }

    private static string AreaName(AccessWorld world, Resource resource) =>
        world.Areas.GetValueOrDefault(resource.AreaId)?.Name ?? "";
}
