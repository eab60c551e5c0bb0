using System.Collections.Concurrent;
using ComeAboard.Client.Access;
using ComeAboard.Core;
using ComeAboard.Core.Access;
using ComeAboard.Service.Http;
using ComeAboard.Service.Workspaces;
using ComeAboard.Storage;
using ComeAboard.Storage.Accounts;
using Microsoft.EntityFrameworkCore;

namespace ComeAboard.Service.Access;

/// <summary>Who has access to a resource on a day: those with a level, by name; and those to whom something is given that is cut.</summary>
/// <param name="People">Them, by name.</param>
/// <param name="WithAccess">How many of them have a level.</param>
/// <param name="Outsiders">How many of those are outsiders.</param>
public sealed record Holders(
    IReadOnlyList<(Person Person, Level Level)> People,
    int WithAccess,
    int Outsiders
);

/// <summary>
/// Who has access to which resource. Worked out for everybody at once and kept until something changes, so that a list of
/// a hundred thousand can be paged through.
/// </summary>
public sealed class ResourceAccess
{
    private const int MostKept = 300;

    private readonly ConcurrentDictionary<
        (Guid Workspace, Guid Resource),
        (AccessWorld World, DateOnly Day, Holders Holders)
    > _kept = new();

    /// <summary>Who has access to a resource on a day.</summary>
    public Holders Of(Guid workspace, AccessWorld world, Resource resource, DateOnly day)
    {
        if (
            _kept.TryGetValue((workspace, resource.Id), out var kept)
            && ReferenceEquals(kept.World, world)
            && kept.Day == day
        )
            return kept.Holders;
        var place = Place.At(resource);
        var found = new List<(Person Person, Level Level)>();
        var (with, outsiders) = (0, 0);
        foreach (var person in world.People.Values)
        {
            var level = world.LevelOf(person.Id, place, day);
            if (level > Level.None)
            {
                with++;
                outsiders += person.Kind.IsOutsider() ? 1 : 0;
            }
            else if (
                !world
                    .PathsOf(person)
                    .Any(path => EffectiveAccess.LevelFrom(world, path.Grant, place, day) > Level.None)
            )
                continue;
            found.Add((person, level));
        }
        found.Sort(
            (a, b) =>
                StringComparer.OrdinalIgnoreCase.Compare(a.Person.Name, b.Person.Name) is var byName and not 0
                    ? byName
                    : a.Person.Id.CompareTo(b.Person.Id)
        );
        var holders = new Holders(found, with, outsiders);
        if (_kept.Count > MostKept)
            _kept.Clear();
        _kept[(workspace, resource.Id)] = (world, day, holders);
        return holders;
    }
}

/// <summary>The people of one resource: who has access, from where, until when; and who is switched off.</summary>
public static class ResourceAccessEndpoints
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

    public static RouteGroupBuilder MapResourceAccess(this RouteGroupBuilder workspace)
    {
        var resource = workspace.MapGroup("/resources/{resource}").WithTags("Resources");
        resource.MapGet("/access", ListAsync).WithName("resourceAccess").Produces<AccessPage>();
        resource
            .MapGet("/access.csv", ExportAsync)
            .WithName("exportResourceAccess")
            .Produces<string>(200, "text/csv");
        resource.MapSwitching();
        return workspace;
    }

    private static async Task<IResult> ListAsync(
        Visitor visitor,
        string resource,
        string? search,
        string? kind,
        string? level,
        string? cursor,
        int? limit,
        ResourceAccess access,
        Database database
    )
    {
        if (!Find(visitor, resource).Try(out var found, out var refusal))
            return refusal.ToResult();
        if (!Narrow(visitor, found, search, kind, level, access).Try(out var all, out refusal))
            return refusal.ToResult();
        var start = 0;
        if (cursor is { Length: > 0 } && (!int.TryParse(cursor, out start) || start < 0))
            return Requests.BadCursor.ToResult();
        var size = Requests.PageSize(limit);
        var page = all.Skip(start).Take(size).ToList();
        await using var rows = database.Open(visitor.WorkspaceId);
        return Results.Ok(
            new AccessPage(
                await LinesAsync(rows, visitor, found, page),
                start + size < all.Count ? (start + size).ToString() : null,
                all.Count,
                await SwitchedOffAsync(rows, visitor, found)
            )
        );
    }

    private static async Task<IResult> ExportAsync(
        Visitor visitor,
        string resource,
        string? search,
        string? kind,
        string? level,
        ResourceAccess access,
        Database database
    )
    {
        if (!Find(visitor, resource).Try(out var found, out var refusal))
            return refusal.ToResult();
        if (!Narrow(visitor, found, search, kind, level, access).Try(out var all, out refusal))
            return refusal.ToResult();
        await using var rows = database.Open(visitor.WorkspaceId);
        var table = new List<IReadOnlyList<string>> { Headings };
        foreach (var lot in all.Chunk(500))
            table.AddRange(
                (await LinesAsync(rows, visitor, found, lot)).Select(line =>
                    (IReadOnlyList<string>)
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
                        ]
                )
            );
        return Lists.Csv(table, "access");
    }

    /// <summary>The resource, for those who may see who has access to it: with a duty, or managing it.</summary>
    internal static Outcome<Resource> Find(Visitor visitor, string resource)
    {
        if (!Resources.Find(visitor, resource).Try(out var found, out var refusal))
            return refusal;
        return
            (visitor.Duties & (Duties.Access | Duties.People)) != Duties.None
            || visitor.Member.Kind == Kind.Staff
                && visitor.World.LevelOf(visitor.Member.Id, Place.At(found), visitor.Today) == Level.Manage
            ? found
            : DutyWords.Missing(Duties.Access);
    }

    private static Outcome<IReadOnlyList<(Person Person, Level Level)>> Narrow(
        Visitor visitor,
        Resource resource,
        string? search,
        string? kind,
        string? level,
        ResourceAccess access
    )
    {
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
