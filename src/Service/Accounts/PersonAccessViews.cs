using ComeAboard.Client.Accounts;
using ComeAboard.Core;
using ComeAboard.Core.Access;
using ComeAboard.Service.Access;
using ComeAboard.Service.Mail;
using ComeAboard.Service.Workspaces;
using ComeAboard.Storage;
using ComeAboard.Storage.Accounts;
using Microsoft.EntityFrameworkCore;

namespace ComeAboard.Service.Accounts;

/// <summary>What one person may do and why, and what they would see.</summary>
public sealed class PersonAccessViews(Database database, WorkspaceWriter writer, TimeProvider clock)
{
    /// <summary>What somebody may do, where, and by which grants.</summary>
    public async Task<PersonAccess> OfAsync(ComeAboardContext rows, Visitor visitor, MemberRow member)
    {
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
        return new PersonAccess(
            await PersonViews.OfOneAsync(rows, member, clock.Now(), visitor.Workspace, world),
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
        );
    }

    /// <summary>Shows what somebody would see; that it was looked at is written into the record.</summary>
    public async Task<Outcome<SeenAs>> SeeAsAsync(Visitor visitor, string person)
    {
        await using var rows = database.Open(visitor.WorkspaceId);
        if (await People.FindAsync(rows, person) is not { } member)
            return People.NotFound;
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
            return no;
        var cut = EntryRules.Forbids(visitor.World, member.Id, visitor.Today);
        var duties = visitor.World.DutiesHeldBy(member.Id, visitor.Today);
        return new SeenAs(
            await PersonViews.OfOneAsync(rows, member, clock.Now(), visitor.Workspace, visitor.World),
            cut is null,
            cut?.Sentence ?? "",
            cut is null ? [.. PlacesOf(visitor, member.Id).Where(place => place.Level != "none")] : [],
            cut is null ? [.. ConsolePages.For(duties).Select(page => page.Title())] : [],
            [
                Bundles.SentenceOf(
                    Phrases.Of(visitor.Workspace.Language),
                    visitor.World,
                    member.Id,
                    member.Kind
                ),
            ]
        );
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
