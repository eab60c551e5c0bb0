namespace ComeAboard.Core.Access;

/// <summary>What changes for one person at one place.</summary>
/// <param name="Person">Whose access.</param>
/// <param name="Place">Where.</param>
/// <param name="Before">The level before.</param>
/// <param name="After">The level after.</param>
public readonly record struct LevelChange(Guid Person, Place Place, Level Before, Level After);

/// <summary>What changes in one person's duties.</summary>
/// <param name="Person">Whose.</param>
/// <param name="Before">The duties before.</param>
/// <param name="After">The duties after.</param>
public readonly record struct DutyChange(Guid Person, Duties Before, Duties After);

/// <summary>What an edit changes for anybody.</summary>
/// <param name="Levels">The levels that change.</param>
/// <param name="Duties">The duties that change.</param>
public sealed record AccessDifference(IReadOnlyList<LevelChange> Levels, IReadOnlyList<DutyChange> Duties)
{
    /// <summary>How many people gain something anywhere.</summary>
    public int Gaining { get; } =
        Levels
            .Where(change => change.After > change.Before)
            .Select(change => change.Person)
            .Concat(
                Duties.Where(change => (change.After & ~change.Before) != 0).Select(change => change.Person)
            )
            .Distinct()
            .Count();

    /// <summary>How many people lose something anywhere.</summary>
    public int Losing { get; } =
        Levels
            .Where(change => change.After < change.Before)
            .Select(change => change.Person)
            .Concat(
                Duties.Where(change => (change.Before & ~change.After) != 0).Select(change => change.Person)
            )
            .Distinct()
            .Count();

    /// <summary>
    /// Compares two versions of a workspace on a day. A resource is the same in another area; what is removed nobody
    /// reaches any more; what is added nobody has gained, as it was not there to be reached.
    /// </summary>
    /// <param name="before">The one.</param>
    /// <param name="after">The other.</param>
    /// <param name="day">The day, in the workspace's time zone.</param>
    public static AccessDifference Between(AccessWorld before, AccessWorld after, DateOnly day)
    {
        var places = Places(before, after);
        var levels = new List<LevelChange>();
        var duties = new List<DutyChange>();
        foreach (var person in before.People.Keys.Union(after.People.Keys))
        {
            if (IsUntouched(before, after, person))
                continue;
            foreach (var (there, here) in places)
            {
                var was = before.LevelOf(person, there, day);
                var now = here is { } place ? after.LevelOf(person, place, day) : Level.None;
                if (was != now)
                    levels.Add(new LevelChange(person, here ?? there, was, now));
            }
            var (held, holds) = (before.DutiesHeldBy(person, day), after.DutiesHeldBy(person, day));
            if (held != holds)
                duties.Add(new DutyChange(person, held, holds));
        }
        return new AccessDifference(levels, duties);
    }

    /// <summary>Every place with where it was, and where it is; null when it is there no more.</summary>
    private static List<(Place There, Place? Here)> Places(AccessWorld before, AccessWorld after)
    {
        var places = new List<(Place, Place?)> { (Place.Elsewhere, Place.Elsewhere) };
        foreach (var resource in before.Resources.Values)
            places.Add(
                (
                    Place.At(resource),
                    after.Resources.TryGetValue(resource.Id, out var now) ? Place.At(now) : null
                )
            );
        foreach (var area in before.Areas.Values)
            places.Add((Place.In(area), after.Areas.ContainsKey(area.Id) ? Place.In(area) : null));
        places.AddRange(
            after
                .Places()
                .Where(place =>
                    place.Resource is { } resource
                        ? !before.Resources.ContainsKey(resource)
                        : place != Place.Elsewhere && !before.Areas.ContainsKey(place.Area)
                )
                .Select(place => (place, (Place?)place))
        );
        return places;
    }

    /// <summary>Whether nothing that decides about a person is another object: most are not reached by an edit.</summary>
    private static bool IsUntouched(AccessWorld before, AccessWorld after, Guid id)
    {
        if (
            !ReferenceEquals(before.Roles, after.Roles)
            || !ReferenceEquals(before.Resources, after.Resources)
            || !ReferenceEquals(before.Areas, after.Areas)
            || !ReferenceEquals(before.SwitchedOff, after.SwitchedOff)
        )
            return false;
        if (
            !before.People.TryGetValue(id, out var was)
            || !after.People.TryGetValue(id, out var now)
            || !ReferenceEquals(was, now)
        )
            return false;
        return was.Groups.All(group => Same(before.Groups, after.Groups, group))
            && (was.OrganisationId is not { } own || Same(before.Organisations, after.Organisations, own));
    }

    private static bool Same<T>(
        IReadOnlyDictionary<Guid, T> before,
        IReadOnlyDictionary<Guid, T> after,
        Guid id
    )
        where T : class => ReferenceEquals(before.GetValueOrDefault(id), after.GetValueOrDefault(id));
}
