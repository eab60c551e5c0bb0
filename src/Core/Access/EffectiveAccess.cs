using System.Collections.Immutable;

namespace ComeAboard.Core.Access;

/// <summary>Why somebody gets nothing, whatever was given to them.</summary>
public enum Cut
{
    /// <summary>Nothing is cut.</summary>
    None,

    /// <summary>They are not a member, or their access has ended.</summary>
    NotHere,

    /// <summary>The first day of their stay is still to come.</summary>
    NotBegun,

    /// <summary>The last day of their stay is over.</summary>
    Over,

    /// <summary>They are paused.</summary>
    Paused,

    /// <summary>The agreement with their organisation is over.</summary>
    AgreementOver,

    /// <summary>They are switched off for this resource.</summary>
    SwitchedOff,

    /// <summary>Their organisation is switched off for this resource.</summary>
    OrganisationSwitchedOff,
}

/// <summary>A level, and where it comes from.</summary>
/// <param name="Level">The level.</param>
/// <param name="Cut">Why it is none, when something is cut.</param>
/// <param name="Because">
/// The grants that each give this very level. Taking all of them away changes the answer; as long as one is left, it does not.
/// Empty when the level is none.
/// </param>
public sealed record Answer(Level Level, Cut Cut, ImmutableArray<GrantPath> Because);

/// <summary>A duty, and where it comes from.</summary>
/// <param name="Duty">The single duty.</param>
/// <param name="Because">The grants that each give it.</param>
public sealed record DutyAnswer(Duties Duty, ImmutableArray<GrantPath> Because);

/// <summary>
/// What a member may do on a day: the most that anything given to them, their groups or their organisation gives, cut to
/// their stay, to a pause, to the organisation's agreement, and to what is switched off.
/// </summary>
public static class EffectiveAccess
{
    /// <summary>The level of a member at a place.</summary>
    /// <param name="world">The workspace.</param>
    /// <param name="id">The member.</param>
    /// <param name="place">Where.</param>
    /// <param name="day">The day, in the workspace's time zone.</param>
    public static Level LevelOf(this AccessWorld world, Guid id, Place place, DateOnly day)
    {
        if (
            !world.People.TryGetValue(id, out var person)
            || CutOf(world, person, day) != Cut.None
            || CutAt(world, person, place) != Cut.None
        )
            return Level.None;
        var most = Most(world, person.Grants, place, day, Level.None);
        foreach (var id2 in person.Groups)
        {
            if (world.Groups.TryGetValue(id2, out var group))
                most = Most(world, group.Grants, place, day, most);
        }
        return person.OrganisationId is { } own && world.Organisations.TryGetValue(own, out var organisation)
            ? Most(world, organisation.Grants, place, day, most)
            : most;
    }

    /// <summary>
    /// The duties that count for a member on a day: those they hold, as far as the program that acts for them was given them.
    /// </summary>
    public static Duties DutiesOf(this AccessWorld world, Guid id, DateOnly day) =>
        world.Bound is { } bound && bound.Member == id
            ? world.DutiesHeldBy(id, day) & bound.Most
            : world.DutiesHeldBy(id, day);

    /// <summary>The duties a member holds on a day, whoever asks.</summary>
    public static Duties DutiesHeldBy(this AccessWorld world, Guid id, DateOnly day)
    {
        if (
            !world.People.TryGetValue(id, out var person)
            || person.Kind.IsOutsider()
            || CutOf(world, person, day) != Cut.None
        )
            return Duties.None;
        var held = Duties.None;
        foreach (var path in world.PathsOf(person))
        {
            if (path.Grant.ResourceId is null && path.Grant.Window.Contains(day))
                held |= world.Roles.TryGetValue(path.Grant.RoleId, out var role) ? role.Duties : Duties.None;
        }
        return held;
    }

    /// <summary>Every duty that was given to somebody of the staff, whether it counts today, later or only once they are let in again.</summary>
    public static Duties DutiesEver(this AccessWorld world, Person person)
    {
        if (person.Kind.IsOutsider())
            return Duties.None;
        var given = Duties.None;
        foreach (var (grant, _, _) in world.PathsOf(person))
        {
            if (grant.ResourceId is null)
                given |= world.Roles.TryGetValue(grant.RoleId, out var role) ? role.Duties : Duties.None;
        }
        return given;
    }

    /// <summary>The level of a member at a place, with the grants that produce it.</summary>
    public static Answer Explain(this AccessWorld world, Guid id, Place place, DateOnly day)
    {
        if (!world.People.TryGetValue(id, out var person))
            return new Answer(Level.None, Cut.NotHere, []);
        var cut = CutOf(world, person, day);
        if (cut == Cut.None)
            cut = CutAt(world, person, place);
        var level = LevelOf(world, id, place, day);
        return level == Level.None
            ? new Answer(level, cut, [])
            : new Answer(
                level,
                cut,
                [.. world.PathsOf(person).Where(path => LevelFrom(world, path.Grant, place, day) == level)]
            );
    }

    /// <summary>Each duty a member holds, with the grants that produce it.</summary>
    public static IEnumerable<DutyAnswer> ExplainDuties(this AccessWorld world, Guid id, DateOnly day)
    {
        var held = world.DutiesHeldBy(id, day);
        return DutyWords
            .Each.Where(duty => held.HasFlag(duty))
            .Select(duty => new DutyAnswer(
                duty,
                [
                    .. world
                        .PathsOf(world.People[id])
                        .Where(path =>
                            path.Grant.ResourceId is null
                            && path.Grant.Window.Contains(day)
                            && world.Roles.TryGetValue(path.Grant.RoleId, out var role)
                            && role.Duties.HasFlag(duty)
                        ),
                ]
            ));
    }

    /// <summary>Everything that is given to a member, by whichever way; whether it counts today is another matter.</summary>
    public static IEnumerable<GrantPath> PathsOf(this AccessWorld world, Person person)
    {
        foreach (var grant in person.Grants)
            yield return new GrantPath(grant, HolderKind.Member, person.Id);
        foreach (var id in person.Groups)
        {
            if (!world.Groups.TryGetValue(id, out var group))
                continue;
            foreach (var grant in group.Grants)
                yield return new GrantPath(grant, HolderKind.Group, id);
        }
        if (
            person.OrganisationId is not { } own
            || !world.Organisations.TryGetValue(own, out var organisation)
        )
            yield break;
        foreach (var grant in organisation.Grants)
            yield return new GrantPath(grant, HolderKind.Organisation, own);
    }

    /// <summary>Why a member gets nothing at all on a day, if so.</summary>
    public static Cut CutOf(this AccessWorld world, Person person, DateOnly day) =>
        person.Stay.FirstDay > day ? Cut.NotBegun
        : person.Stay.LastDay < day ? Cut.Over
        : person.IsPaused ? Cut.Paused
        : person.OrganisationId is { } own
        && world.Organisations.TryGetValue(own, out var organisation)
        && organisation.IsOver(day)
            ? Cut.AgreementOver
        : Cut.None;

    /// <summary>The level one grant gives at a place on a day.</summary>
    public static Level LevelFrom(AccessWorld world, Grant grant, Place place, DateOnly day) =>
        (grant.ResourceId is null || grant.ResourceId == place.Resource)
        && grant.Window.Contains(day)
        && world.Roles.TryGetValue(grant.RoleId, out var role)
            ? role.LevelIn(place.Area)
            : Level.None;

    private static Cut CutAt(AccessWorld world, Person person, Place place) =>
        place.Resource is not { } resource || world.SwitchedOff.IsEmpty ? Cut.None
        : world.SwitchedOff.Contains((person.Id, resource)) ? Cut.SwitchedOff
        : person.OrganisationId is { } own && world.SwitchedOff.Contains((own, resource))
            ? Cut.OrganisationSwitchedOff
        : Cut.None;

    private static Level Most(
        AccessWorld world,
        ImmutableArray<Grant> grants,
        Place place,
        DateOnly day,
        Level most
    )
    {
        foreach (var grant in grants)
        {
            if (most == Level.Manage)
                break;
            var level = LevelFrom(world, grant, place, day);
            if (level > most)
                most = level;
        }
        return most;
    }
}
