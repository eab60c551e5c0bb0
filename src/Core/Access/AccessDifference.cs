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

    /// <summary>Compares two versions of a workspace on a day.</summary>
    /// <param name="before">The one.</param>
    /// <param name="after">The other.</param>
    /// <param name="day">The day, in the workspace's time zone.</param>
    public static AccessDifference Between(AccessWorld before, AccessWorld after, DateOnly day)
    {
        var places = before.Places().Union(after.Places()).ToList();
        var levels = new List<LevelChange>();
        var duties = new List<DutyChange>();
        foreach (var person in before.People.Keys.Union(after.People.Keys))
        {
            if (IsUntouched(before, after, person))
                continue;
            foreach (var place in places)
            {
                var (was, now) = (before.LevelOf(person, place, day), after.LevelOf(person, place, day));
                if (was != now)
                    levels.Add(new LevelChange(person, place, was, now));
            }
            var (held, holds) = (before.DutiesOf(person, day), after.DutiesOf(person, day));
            if (held != holds)
                duties.Add(new DutyChange(person, held, holds));
        }
        return new AccessDifference(levels, duties);
    }

    /// <summary>Whether nothing that decides about a person is another object: most are not reached by an edit.</summary>
    private static bool IsUntouched(AccessWorld before, AccessWorld after, Guid id)
    {
        if (
            !ReferenceEquals(before.Roles, after.Roles)
            || !ReferenceEquals(before.Resources, after.Resources)
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
