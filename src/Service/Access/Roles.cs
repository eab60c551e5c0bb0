using System.Collections.Immutable;
using ComeAboard.Client.Access;
using ComeAboard.Client.Workspaces;
using ComeAboard.Core;
using ComeAboard.Core.Access;
using ComeAboard.Service.Workspaces;
using ComeAboard.Storage;
using ComeAboard.Storage.Access;
using ComeAboard.Storage.Accounts;
using Microsoft.EntityFrameworkCore;

namespace ComeAboard.Service.Access;

/// <summary>Roles, the workspace's own and those that are the same in every workspace.</summary>
public sealed class Roles(Editing editing, Database database)
    : NamedThings<RoleRow, RoleRequest, Role, RoleChange>(Sort, editing)
{
    public static NamedSort Sort { get; } = new("role", 200, Duties.Access, null, "compare");

    /// <summary>All of them, the built-in ones first.</summary>
    public async Task<Page<RoleDetail>> ListAsync(Visitor visitor)
    {
        await using var rows = database.Open(visitor.WorkspaceId);
        return new Page<RoleDetail>(
            await ViewsAsync(rows, visitor.World, AccessWorld.InOrder(visitor.World.Roles.Values)),
            null
        );
    }

    /// <summary>One.</summary>
    public async Task<Outcome<RoleDetail>> ShowAsync(Visitor visitor, string name)
    {
        if (!visitor.World.FindRole(name).Try(out var found, out var refusal))
            return refusal;
        await using var rows = database.Open(visitor.WorkspaceId);
        return (await ViewsAsync(rows, visitor.World, [found]))[0];
    }

    /// <summary>Some side by side; all of them when none is named.</summary>
    public async Task<Outcome<MatrixView>> CompareAsync(Visitor visitor, IReadOnlyList<string>? role)
    {
        var chosen = new List<Role>();
        foreach (var written in role ?? [])
        {
            if (!visitor.World.FindRole(written).Try(out var found, out var refusal))
                return refusal;
            chosen.Add(found);
        }
        if (chosen.Count == 0)
            chosen.AddRange(AccessWorld.InOrder(visitor.World.Roles.Values));
        var matrix = RoleMatrix.Of(visitor.World, chosen);
        await using var rows = database.Open(visitor.WorkspaceId);
        return new MatrixView(
            await ViewsAsync(rows, visitor.World, chosen),
            [
                .. matrix.Lines.Select(line => new MatrixLineView(
                    line.Area?.Name ?? "everything else",
                    false,
                    [.. line.Levels.Select(level => level.Word())],
                    line.Differs
                )),
                .. DutyWords.Each.Select(duty =>
                {
                    string[] cells = [.. chosen.Select(r => r.Duties.HasFlag(duty) ? "yes" : "no")];
                    return new MatrixLineView(duty.List()[0], true, cells, cells.Distinct().Count() > 1);
                }),
            ]
        );
    }

    protected override Task<Outcome<Guid>> FindAsync(Visitor visitor, string name) =>
        Task.FromResult(
            visitor.World.FindRole(name).Try(out var role, out var refusal)
                ? role.IsBuiltIn
                    ? BuiltIn(role)
                    : role.Id
                : refusal
        );

    protected override Outcome<Role> Read(RoleRequest request, AccessWorld world)
    {
        if (!Role.ReadWords(request.Name, request.Sentence).Try(out var words, out var refusal))
            return refusal;
        if (!Levels.Read(request.Everywhere ?? "none").Try(out var everywhere, out refusal))
            return refusal with { Field = "everywhere" };
        var areas = ImmutableSortedDictionary.CreateBuilder<Guid, Level>();
        foreach (var (place, word) in request.Areas ?? [])
        {
            if (!world.FindArea(place).Try(out var area, out refusal))
                return refusal with { Sort = RefusalSort.Invalid };
            if (!Levels.Read(word).Try(out var level, out refusal))
                return refusal with { Field = "areas" };
            areas[area.Id] = level;
        }
        if (!DutyWords.Read(request.Duties).Try(out var duties, out refusal))
            return refusal;
        return new Role(default, words.Name, words.Sentence, everywhere, areas.ToImmutable(), duties);
    }

    protected override async Task<Outcome<(string Name, object? Value)[]>> FillAsync(
        WorkspaceWrite write,
        MemberRow editor,
        RoleRow row,
        Role words
    )
    {
        var world = await write.WorldAsync();
        if (GivingRules.Forbids(world, editor.Id, words, null, write.Today) is { } beyond)
            return beyond;
        if (world.FindRole(words.Name).Try(out var other, out _) && other.Id != row.Id)
            return Sort.NameTaken(other.Name);
        var before = world.Roles.GetValueOrDefault(row.Id);
        (row.Sentence, row.Everywhere) = (words.Sentence, words.Everywhere);
        (row.Duties, row.Areas) = (words.Duties, RoleRow.AreasText(words));
        return Facts(
            ("before", before is null ? null : Words(before, world)),
            ("after", Words(words, world))
        );
    }

    protected override async Task<Outcome<int>> ClearAsync(WorkspaceWrite write, RoleRow row)
    {
        var holders = await write.Rows.Grants.CountAsync(g => g.RoleId == row.Id);
        return holders > 0
            ? Sort.InUse(
                $"The role {row.Name} is given {holders} times.",
                "Give those people another role first."
            )
            : 0;
    }

    protected override Task<RoleChange> AnswerAsync(Visitor visitor, Edited<RoleRow> done) =>
        Task.FromResult(ChangeOf(done));

    private static Outcome<Guid> BuiltIn(Role role) =>
        new Refusal(
            "role.built-in",
            $"The role {role.Name} is the same in every workspace and cannot be changed.",
            "Make a role of your own.",
            RefusalSort.Conflict
        );

    private static RoleChange ChangeOf(Edited<RoleRow> edited)
    {
        var role = edited.Value.Role;
        var advice = DependencyAdvice.For(role, edited.World.Dependencies);
        return new RoleChange(
            ViewOf(role, edited.World, 0, edited.Value.Version),
            [
                .. advice.Gaps.Select(gap => new GapView(
                    edited.World.Areas[gap.Dependency.Area].Name,
                    edited.World.Areas[gap.Dependency.Needs].Name,
                    gap.Dependency.AtLeast.Word(),
                    gap.Has.Word()
                )),
            ],
            LevelsOf(advice.Raised, edited.World),
            LevelsOf(advice.Lowered, edited.World),
            edited.Difference
        );
    }

    private static async Task<IReadOnlyList<RoleDetail>> ViewsAsync(
        ComeAboardContext rows,
        AccessWorld world,
        IEnumerable<Role> roles
    )
    {
        var given = await rows
            .Grants.GroupBy(g => g.RoleId)
            .Select(g => new { g.Key, Count = g.Count() })
            .ToDictionaryAsync(g => g.Key, g => g.Count);
        var versions = await rows
            .Roles.Select(r => new { r.Id, r.Version })
            .ToDictionaryAsync(r => r.Id, r => r.Version);
        return
        [
            .. roles.Select(role =>
                ViewOf(role, world, given.GetValueOrDefault(role.Id), versions.GetValueOrDefault(role.Id, 1))
            ),
        ];
    }

    private static RoleDetail ViewOf(Role role, AccessWorld world, int holders, int version) =>
        new(
            role.Id,
            role.Name,
            role.Sentence,
            role.IsBuiltIn,
            role.Everywhere.Word(),
            LevelsOf(role, world),
            role.Duties.List(),
            holders,
            version
        );

    private static IReadOnlyList<AreaLevel> LevelsOf(Role role, AccessWorld world) =>
        [
            .. role
                .Areas.Where(area => world.Areas.ContainsKey(area.Key))
                .Select(area => new AreaLevel(world.Areas[area.Key].Name, area.Value.Word()))
                .OrderBy(area => area.Area, StringComparer.OrdinalIgnoreCase),
        ];

    private static string Words(Role role, AccessWorld world) =>
        $"everywhere {role.Everywhere.Word()}"
        + string.Concat(LevelsOf(role, world).Select(area => $", {area.Area} {area.Level}"))
        + (role.Duties == Duties.None ? "" : "; duties " + string.Join(", ", role.Duties.List()));
}
