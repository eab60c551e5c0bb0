using ComeAboard.Client.Access;
using ComeAboard.Core;
using ComeAboard.Core.Access;
using ComeAboard.Service.Workspaces;
using ComeAboard.Storage;
using ComeAboard.Storage.Accounts;
using Microsoft.EntityFrameworkCore;

namespace ComeAboard.Service.Access;

/// <summary>Which of those who have access to a resource are meant.</summary>
/// <param name="Search">A part of their name or address.</param>
/// <param name="Kind">Their kind.</param>
/// <param name="Level">Their level.</param>
public sealed record AccessQuery(string? Search, string? Kind, string? Level);

/// <summary>The people of one resource: who has access, from where, until when; and who is switched off.</summary>
public sealed class AccessLists(ResourceAccess access, Database database)
{
    private static readonly string[] Headings =
    [
        "Name",
        "Address",
        "Kind",
        "Organisation",
        "Level",
        "Cut",
        "Until",
        "From where",
    ];

    /// <summary>A page of those who have access to a resource, by name.</summary>
    public async Task<Outcome<AccessPage>> PageAsync(
        Visitor visitor,
        string name,
        AccessQuery query,
        Paging paging
    )
    {
        if (!Find(visitor, name).Try(out var found, out var refusal))
            return refusal;
        if (!Narrow(visitor, found, query).Try(out var all, out refusal))
            return refusal;
        if (!paging.After(0).Try(out var start, out refusal))
            return refusal;
        var size = paging.Size;
        await using var rows = database.Open(visitor.WorkspaceId);
        return new AccessPage(
            await LinesAsync(rows, visitor, found, [.. all.Skip(start).Take(size)]),
            start + size < all.Count ? (start + size).ToString() : null,
            all.Count,
            await SwitchedOffAsync(rows, visitor, found)
        );
    }

    /// <summary>All of them as a table, its headings first, a lot at a time.</summary>
    public Outcome<IAsyncEnumerable<IReadOnlyList<IReadOnlyList<string>>>> Table(
        Visitor visitor,
        string name,
        AccessQuery query
    )
    {
        if (!Find(visitor, name).Try(out var found, out var refusal))
            return refusal;
        return Narrow(visitor, found, query).Then(all => LotsAsync(visitor, found, all));
    }

    private async IAsyncEnumerable<IReadOnlyList<IReadOnlyList<string>>> LotsAsync(
        Visitor visitor,
        Resource resource,
        IReadOnlyList<(Person Person, Level Level)> all
    )
    {
        yield return [Headings];
        await using var rows = database.Open(visitor.WorkspaceId);
        foreach (var lot in all.Chunk(500))
            yield return [.. (await LinesAsync(rows, visitor, resource, lot)).Select(RowOf)];
    }

    private static IReadOnlyList<string> RowOf(AccessLine line) =>
        [
            line.Name,
            line.Address,
            line.Kind,
            line.Organisation,
            line.Level,
            line.Cut,
            line.Until?.ToString("yyyy-MM-dd") ?? "",
            string.Join(
                "; ",
                line.Paths.Select(path =>
                    $"{path.Role}{(path.ThroughName.Length > 0 ? $" through {path.ThroughName}" : "")}"
                )
            ),
        ];

    /// <summary>The resource, for those who may see who has access to it: with a duty, or managing it.</summary>
    internal static Outcome<Resource> Find(Visitor visitor, string name)
    {
        if (!Resources.FindSeen(visitor, name).Try(out var found, out var refusal))
            return refusal;
        return
            (visitor.Duties & (Duties.Access | Duties.People)) != Duties.None
            || visitor.Member.Kind == Kind.Staff
                && visitor.World.LevelOf(visitor.Member.Id, Place.At(found), visitor.Today) == Level.Manage
            ? found
            : DutyWords.Missing(Duties.Access);
    }

    private Outcome<IReadOnlyList<(Person Person, Level Level)>> Narrow(
        Visitor visitor,
        Resource resource,
        AccessQuery query
    )
    {
        var (search, kind, level) = query;
        IReadOnlyList<(Person Person, Level Level)> all = access
            .Of(visitor.WorkspaceId, visitor.World, resource, visitor.Today)
            .People;
        if (kind is { Length: > 0 })
        {
            if (!Kinds.Read(kind).Try(out var only, out var refusal))
                return refusal;
            all = [.. all.Where(line => line.Person.Kind == only)];
        }
        if (level is { Length: > 0 })
        {
            if (!Levels.Read(level).Try(out var only, out var refusal))
                return refusal;
            all = [.. all.Where(line => line.Level == only)];
        }
        if (search?.Trim() is { Length: > 0 } part)
            all =
            [
                .. all.Where(line =>
                    line.Person.Name.Contains(part, StringComparison.OrdinalIgnoreCase)
                    || line.Person.AddressKey.Contains(part, StringComparison.OrdinalIgnoreCase)
                ),
            ];
        return Outcome.Of(all);
    }

    private static async Task<IReadOnlyList<AccessLine>> LinesAsync(
        ComeAboardContext rows,
        Visitor visitor,
        Resource resource,
        IReadOnlyList<(Person Person, Level Level)> lines
    )
    {
        var ids = lines.Select(line => line.Person.Id).ToList();
        var members = await rows
            .Members.AsNoTracking()
            .Where(m => ids.Contains(m.Id))
            .ToDictionaryAsync(m => m.Id);
        var place = Place.At(resource);
        return
        [
            .. lines
                .Where(line => members.ContainsKey(line.Person.Id))
                .Select(line => LineOf(visitor, place, line.Person, line.Level, members[line.Person.Id])),
        ];
    }

    private static AccessLine LineOf(
        Visitor visitor,
        Place place,
        Person person,
        Level level,
        MemberRow member
    )
    {
        var answer = visitor.World.Explain(person.Id, place, visitor.Today);
        return new AccessLine(
            person.Id,
            member.Name,
            member.Address,
            person.Kind.Word(),
            member.Organisation,
            level.Word(),
            Differences.CutSentence(answer.Cut),
            LastDay(visitor.World, person, answer),
            Differences.PathsOf(visitor.World, person.Id, place, visitor.Today)
        );
    }

    /// <summary>Until when the level lasts: as long as the longest of the grants that give it, the stay and the agreement.</summary>
    private static DateOnly? LastDay(AccessWorld world, Person person, Answer answer)
    {
        DateOnly? grants =
            answer.Because.Length == 0 || answer.Because.Any(path => path.Grant.Window.IsEndless)
                ? null
                : answer.Because.Max(path => path.Grant.Window.LastDay);
        var agreement = person.OrganisationId is { } own
            ? world.Organisations.GetValueOrDefault(own)?.AgreementEnds
            : null;
        return new[] { grants, person.Stay.LastDay, agreement }.Min();
    }

    private static async Task<IReadOnlyList<SwitchedOffView>> SwitchedOffAsync(
        ComeAboardContext rows,
        Visitor visitor,
        Resource resource
    ) =>
        [
            .. (
                await rows.SwitchedOff.AsNoTracking().Where(s => s.ResourceId == resource.Id).ToListAsync()
            ).Select(s => new SwitchedOffView(
                s.HolderId,
                (
                    s.IsOrganisation
                        ? visitor.World.Organisations.GetValueOrDefault(s.HolderId)?.Name
                        : visitor.World.People.GetValueOrDefault(s.HolderId)?.Name
                ) ?? "gone",
                s.IsOrganisation
            )),
        ];
}
