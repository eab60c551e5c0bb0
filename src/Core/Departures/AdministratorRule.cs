using ComeAboard.Core.Access;

namespace ComeAboard.Core.Departures;

/// <summary>
/// The workspace never runs out of administrators. A <em>lasting</em> administrator is a member of the staff, here and not
/// paused, whose stay and whose administrative duties have no end. While one remains, no passing of time can leave the
/// workspace without one.
/// </summary>
public static class AdministratorRule
{
    /// <summary>Whether a member is a lasting administrator.</summary>
    public static bool IsLasting(AccessWorld world, Guid id, DateOnly today)
    {
        if (
            !world.People.TryGetValue(id, out var person)
            || person.Kind != Kind.Staff
            || !person.Stay.IsEndless
            || world.CutOf(person, today) != Cut.None
            || world.CutOf(person, DateOnly.MaxValue) != Cut.None
        )
            return false;
        var forGood = Duties.None;
        foreach (var (grant, _, _) in world.PathsOf(person))
        {
            if (grant.ResourceId is null && grant.Window.IsEndless && grant.Window.Contains(today))
                forGood |= world.Roles.TryGetValue(grant.RoleId, out var role) ? role.Duties : Duties.None;
        }
        return forGood.HasFlag(DutyWords.OfAdministrator);
    }

    /// <summary>The lasting administrators.</summary>
    public static IEnumerable<Guid> Lasting(AccessWorld world, DateOnly today) =>
        world
            .People.Values.Where(p => p.Kind == Kind.Staff && IsLasting(world, p.Id, today))
            .Select(p => p.Id);

    /// <summary>Refuses, with <c>administrator.last</c>, a change after which there is no lasting administrator where there was one.</summary>
    public static Refusal? Forbids(AccessWorld before, AccessWorld after, DateOnly today) =>
        Lasting(after, today).Any() || !Lasting(before, today).Any() ? null : Last;

    /// <summary>The refusal to lose the only lasting administrator: <c>administrator.last</c>.</summary>
    public static Refusal Last { get; } =
        new(
            "administrator.last",
            "This is the last administrator without an end date; without them nobody could look after the workspace.",
            "Make somebody else an administrator first: staff with the role manage and no end date.",
            RefusalSort.Conflict
        );
}
