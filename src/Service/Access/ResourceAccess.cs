using System.Collections.Concurrent;
using ComeAboard.Core.Access;

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
