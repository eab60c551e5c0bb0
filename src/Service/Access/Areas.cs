using System.Text.Json;
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

/// <summary>What an area is to be.</summary>
/// <param name="Name">Its name.</param>
/// <param name="HasPrivateEntries">Whether people below edit see only their own entries.</param>
/// <param name="Needs">What it needs of other areas.</param>
public sealed record AreaWords(string Name, bool HasPrivateEntries, IReadOnlyDictionary<Guid, Level> Needs)
    : INamed;

/// <summary>Areas of work, and what they need of one another.</summary>
public sealed class Areas(Editing editing, Database database)
    : NamedThings<AreaRow, AreaRequest, AreaWords, AreaView>(Sort, editing)
{
    public static NamedSort Sort { get; } = new("area", 200, Duties.Access);

    /// <summary>All of them, by name.</summary>
    public async Task<Page<AreaView>> ListAsync(Visitor visitor)
    {
        await using var rows = database.Open(visitor.WorkspaceId);
        var found = await rows.Areas.AsNoTracking().OrderBy(a => a.NameKey).ToListAsync();
        return new Page<AreaView>([.. found.Select(a => ViewOf(a, visitor.World))], null);
    }

    protected override Task<Outcome<Guid>> FindAsync(Visitor visitor, string name) =>
        Task.FromResult(visitor.World.FindArea(name).Then(area => area.Id));

    protected override Outcome<AreaWords> Read(AreaRequest request, AccessWorld world)
    {
        if (!Sort.ReadName(request.Name).Try(out var name, out var refusal))
            return refusal;
        var needs = new Dictionary<Guid, Level>();
        foreach (var (needed, word) in request.Needs ?? [])
        {
            if (!world.FindArea(needed).Try(out var area, out refusal))
                return refusal with { Sort = RefusalSort.Invalid, Field = "needs" };
            if (!Levels.Read(word).Try(out var level, out refusal))
                return refusal with { Field = "needs" };
            if (level > Level.None)
                needs[area.Id] = level;
        }
        return new AreaWords(name, request.PrivateEntries, needs);
    }

    protected override Task<Outcome<(string Name, object? Value)[]>> FillAsync(
        WorkspaceWrite write,
        MemberRow editor,
        AreaRow row,
        AreaWords words
    )
    {
        var before = row.HasPrivateEntries;
        (row.HasPrivateEntries, row.Needs) = (words.HasPrivateEntries, JsonSerializer.Serialize(words.Needs));
        return Task.FromResult(
            Facts(("private entries before", before), ("private entries after", row.HasPrivateEntries))
        );
    }

    protected override async Task<Outcome<int>> ClearAsync(WorkspaceWrite write, AreaRow row) =>
        await write.Rows.Resources.AnyAsync(r => r.AreaId == row.Id)
            ? Sort.InUse(
                $"There are resources in {row.Name}.",
                "Remove them, or put them into another area first."
            )
            : 0;

    protected override Task<AreaView> AnswerAsync(Visitor visitor, Edited<AreaRow> done) =>
        Task.FromResult(ViewOf(done.Value, done.World));

    private static AreaView ViewOf(AreaRow row, AccessWorld world) =>
        new(
            row.Id,
            row.Name,
            row.HasPrivateEntries,
            [
                .. row
                    .NeedsByArea.Where(need => world.Areas.ContainsKey(need.Key))
                    .Select(need => new AreaLevel(world.Areas[need.Key].Name, need.Value.Word())),
            ],
            world.Resources.Values.Count(r => r.AreaId == row.Id),
            row.Version
        );
}
