using ComeAboard.Client.Accounts;
using ComeAboard.Client.Record;
using ComeAboard.Core.Access;
using ComeAboard.Service.Access;
using ComeAboard.Service.Http;
using ComeAboard.Service.Mail;
using ComeAboard.Service.Record;
using ComeAboard.Service.Workspaces;
using ComeAboard.Storage;
using Microsoft.EntityFrameworkCore;

namespace ComeAboard.Service.Accounts;

/// <summary>What one person may do and why; what they would see; what they did lately.</summary>
public static class PersonPages
{
    private const int MostEntries = 100;

    public static RouteGroupBuilder MapPersonPages(this RouteGroupBuilder workspace)
    {
        var person = workspace.MapGroup("/people/{person}").ForMembers(Duties.People | Duties.Access);
        person.MapGet("/access", AccessAsync).WithName("personAccess").Produces<PersonAccess>();
        person.MapPost("/see-as", SeeAsAsync).WithName("seeAs").Produces<SeenAs>();
        person
            .MapGet("/activity", ActivityAsync)
            .OrCsv("activity")
            .WithName("personActivity")
            .Produces<Client.Workspaces.Page<RecordEntryView>>();
        return workspace;
    }

    private static async Task<IResult> AccessAsync(
        Visitor visitor,
        string person,
        HttpContext http,
        Database database,
        TimeProvider clock
    )
    {
        await using var rows = database.Open(visitor.WorkspaceId);
        if (await People.FindAsync(rows, person) is not { } member)
            return People.NotFound.ToResult();
        http.Response.SayVersion(member.Version);
        var world = visitor.World;
        var grants = await rows
            .Grants.AsNoTracking()
            .Where(g => g.HolderKind == HolderKind.Member && g.HolderId == member.Id)
            .ToListAsync();
        var own = world.People.GetValueOrDefault(member.Id);
        var pools = await (
            from seat in rows.Seats
            join pool in rows.SeatPools on seat.PoolId equals pool.Id
            where seat.MemberId == member.Id
            select pool.Name
        ).ToListAsync();
        return Results.Ok(
            new PersonAccess(
                await People.ViewAsync(rows, member, clock.Now(), visitor.Workspace, world),
                own is null
                    ? Differences.CutSentence(Cut.NotHere)
                    : Differences.CutSentence(world.CutOf(own, visitor.Today)),
                PlacesOf(visitor, member.Id),
                DutiesOf(visitor, member.Id),
                Grants.ViewsOf(grants, world),
                [
                    .. (own?.Groups ?? [])
                        .Select(id => world.Groups.GetValueOrDefault(id)?.Name ?? "")
                        .Where(name => name.Length > 0)
                        .Order(),
                ],
                pools,
                [.. world.Resources.Values.Where(r => r.Owner == member.Id).Select(r => r.Name).Order()]
            )
        );
    }

    /// <summary>Shows what somebody would see; that it was looked at is written into the record.</summary>
    private static async Task<IResult> SeeAsAsync(
        Visitor visitor,
        string person,
        Database database,
        WorkspaceWriter writer,
        TimeProvider clock
    )
    {
        await using var rows = database.Open(visitor.WorkspaceId);
        if (await People.FindAsync(rows, person) is not { } member)
            return People.NotFound.ToResult();
        var noted = await writer.WriteAsync<bool>(
            visitor.WorkspaceId,
            visitor.Caller,
            async write =>
            {
                if (!(await write.RequireAsync()).Try(out var looker, out var refusal))
                    return refusal;
                var duties = (await write.WorldAsync()).DutiesOf(looker.Id, write.Today);
                if ((duties & (Duties.People | Duties.Access)) == Duties.None)
                    return DutyWords.Missing(Duties.People);
                write.Record("person.seen-as", member.Id, ("name", member.Name));
                return true;
            }
        );
        if (!noted.Try(out _, out var no))
            return no.ToResult();
        var cut = Visitors.Forbids(visitor.World, member.Id, visitor.Today);
        var duties = visitor.World.DutiesOf(member.Id, visitor.Today);
        return Results.Ok(
            new SeenAs(
                await People.ViewAsync(rows, member, clock.Now(), visitor.Workspace, visitor.World),
                cut is null,
                cut?.Sentence ?? "",
                cut is null ? [.. PlacesOf(visitor, member.Id).Where(place => place.Level != "none")] : [],
                cut is null ? PagesFor(duties) : [],
                [
                    Bundles.SentenceOf(
                        Phrases.Of(visitor.Workspace.Language),
                        visitor.World,
                        member.Id,
                        member.Kind
                    ),
                ]
            )
        );
    }

    /// <summary>What somebody did lately: entries of the record that they made, newest first.</summary>
    private static async Task<IResult> ActivityAsync(Visitor visitor, string person, Database database)
    {
        await using var rows = database.Open(visitor.WorkspaceId);
        if (await People.FindAsync(rows, person) is not { } member)
            return People.NotFound.ToResult();
        return Results.Ok(await RecordLists.ByAsync(rows, member.Id, MostEntries));
    }

    /// <summary>The pages of the console that open to somebody with some duties.</summary>
    private static List<string> PagesFor(Duties duties)
    {
        var pages = new List<string> { "My places" };
        if (duties != Duties.None)
            pages.Add("Overview");
        if ((duties & (Duties.Invite | Duties.Approve)) != Duties.None)
            pages.Add("Invite");
        if (duties.HasFlag(Duties.People))
            pages.AddRange(["People", "Endings"]);
        if ((duties & (Duties.Access | Duties.Seats)) != Duties.None)
            pages.Add("Access");
        if (duties.HasFlag(Duties.Record))
            pages.Add("Record");
        if (duties.HasFlag(Duties.Settings))
            pages.Add("Workspace");
        return pages;
    }

    /// <summary>Every place where something is given to somebody, by area.</summary>
    private static IReadOnlyList<PlaceAccess> PlacesOf(Visitor visitor, Guid member)
    {
        var world = visitor.World;
        var places = new List<PlaceAccess>();
        foreach (
            var place in world
                .Places()
                .OrderBy(p => p.Area == Guid.Empty)
                .ThenBy(p => world.Areas.GetValueOrDefault(p.Area)?.Name, StringComparer.OrdinalIgnoreCase)
                .ThenBy(p => p.Resource is not null)
                .ThenBy(p => Differences.PlaceName(world, p), StringComparer.OrdinalIgnoreCase)
        )
        {
            var paths = Differences.PathsOf(world, member, place, visitor.Today);
            if (paths.Count == 0)
                continue;
            var answer = world.Explain(member, place, visitor.Today);
            places.Add(
                new PlaceAccess(
                    Differences.PlaceName(world, place),
                    Differences.PlaceName(world, place with { Resource = null }),
                    place.Resource is not null,
                    answer.Level.Word(),
                    Differences.CutSentence(answer.Cut),
                    paths
                )
            );
        }
        return places;
    }

    private static IReadOnlyList<DutyAccess> DutiesOf(Visitor visitor, Guid member) =>
        [
            .. visitor
                .World.ExplainDuties(member, visitor.Today)
                .Select(answer => new DutyAccess(
                    answer.Duty.List()[0],
                    [
                        .. answer.Because.Select(path =>
                            Differences.ViewOf(visitor.World, path, Place.Elsewhere, true)
                        ),
                    ]
                )),
        ];
}
