namespace ComeAboard.Core.Access;

/// <summary>Nobody gives what they do not hold, by whatever way.</summary>
public static class GivingRules
{
    /// <summary>Refuses with <c>right.beyond-own</c> to give a role in the whole workspace or at a resource.</summary>
    /// <param name="world">The workspace.</param>
    /// <param name="giver">Who would give it.</param>
    /// <param name="role">The role.</param>
    /// <param name="resource">At which resource; null for the whole workspace.</param>
    /// <param name="day">The day, in the workspace's time zone.</param>
    public static Refusal? Forbids(AccessWorld world, Guid giver, Role role, Guid? resource, DateOnly day)
    {
        if (resource is { } at)
            return
                world.Resources.TryGetValue(at, out var found)
                && role.LevelIn(found.AreaId) > world.LevelOf(giver, Place.At(found), day)
                ? BeyondOwn(role, $"at {found.Name}")
                : null;
        if ((role.Duties & ~world.DutiesOf(giver, day)) is var missing and not Duties.None)
            return BeyondOwn(role, $"with the duties {string.Join(", ", missing.List())}");
        if (role.Everywhere > world.LevelOf(giver, Place.Elsewhere, day))
            return BeyondOwn(role, "everywhere");
        foreach (var area in world.Areas.Values)
        {
            if (role.LevelIn(area.Id) > world.LevelOf(giver, Place.In(area), day))
                return BeyondOwn(role, $"in {area.Name}");
        }
        return null;
    }

    /// <summary>Refuses to put somebody where grants reach them that the giver could not give.</summary>
    public static Refusal? Forbids(AccessWorld world, Guid giver, IEnumerable<Grant> grants, DateOnly day)
    {
        foreach (var grant in grants)
        {
            if (
                world.Roles.TryGetValue(grant.RoleId, out var role)
                && Forbids(world, giver, role, grant.ResourceId, day) is { } refusal
            )
                return refusal;
        }
        return null;
    }

    /// <summary>Refuses to give what a bundle holds.</summary>
    public static Refusal? Forbids(AccessWorld world, Guid giver, Bundle bundle, DateOnly day)
    {
        foreach (var given in bundle.Roles)
        {
            if (!world.Roles.TryGetValue(given.Role, out var role))
                return Gone("role");
            if (given.Resource is { } at && !world.Resources.ContainsKey(at))
                return Gone("resource");
            if (Forbids(world, giver, role, given.Resource, day) is { } refusal)
                return refusal;
        }
        foreach (var id in bundle.Groups)
        {
            if (!world.Groups.TryGetValue(id, out var group))
                return Gone("group");
            if (Forbids(world, giver, group.Grants, day) is { } refusal)
                return refusal with
                {
                    Sentence = $"The group {group.Name} gives more than you hold: {refusal.Sentence}",
                    Field = "groups",
                };
        }
        return null;
    }

    /// <summary>Refuses to give what a bundle holds, and what comes with belonging to an organisation.</summary>
    /// <param name="world">The workspace.</param>
    /// <param name="giver">Who would give it.</param>
    /// <param name="bundle">What is given.</param>
    /// <param name="organisation">The organisation the person would belong to; null for none.</param>
    /// <param name="day">The day, in the workspace's time zone.</param>
    public static Refusal? ForbidsAll(
        AccessWorld world,
        Guid giver,
        Bundle bundle,
        Guid? organisation,
        DateOnly day
    )
    {
        if (Forbids(world, giver, bundle, day) is { } refusal)
            return refusal;
        if (organisation is not { } id || !world.Organisations.TryGetValue(id, out var own))
            return null;
        return Forbids(world, giver, own.Grants, day) is { } through
            ? through with
            {
                Sentence = $"The organisation {own.Name} gives more than you hold: {through.Sentence}",
                Field = "organisation",
            }
            : null;
    }

    /// <summary>
    /// Refuses, with <c>right.acting-on</c>, to act on somebody who holds a duty the actor does not: now, at another day,
    /// or as soon as they are let in again. Everybody may act on themselves.
    /// </summary>
    /// <param name="world">The workspace.</param>
    /// <param name="actor">Who would act.</param>
    /// <param name="other">On whom.</param>
    /// <param name="day">The day, in the workspace's time zone.</param>
    public static Refusal? ForbidsActingOn(AccessWorld world, Guid actor, Guid other, DateOnly day)
    {
        if (actor == other || !world.People.TryGetValue(other, out var person))
            return null;
        return (world.DutiesEver(person) & ~world.DutiesOf(actor, day)) is var beyond and not Duties.None
            ? new Refusal(
                "right.acting-on",
                $"{person.Name} holds duties you do not: {string.Join(", ", beyond.List())}.",
                "Ask somebody who holds them too.",
                RefusalSort.NotAllowed
            )
            : null;
    }

    /// <summary>
    /// Whether somebody arranges who may use a resource: with the duty <see cref="Duties.Access"/> everywhere, with
    /// <see cref="Level.Manage"/> at that resource. Refuses with <c>right.missing</c>.
    /// </summary>
    public static Refusal? ForbidsArranging(AccessWorld world, Guid giver, Guid? resource, DateOnly day) =>
        world.DutiesOf(giver, day).HasFlag(Duties.Access)
        || resource is { } at
            && world.Resources.TryGetValue(at, out var found)
            && world.People.TryGetValue(giver, out var person)
            && person.Kind == Kind.Staff
            && world.LevelOf(giver, Place.At(found), day) == Level.Manage
            ? null
            : DutyWords.Missing(Duties.Access);

    private static Refusal Gone(string what) =>
        new(
            what + ".gone",
            $"A {what} it gives is not there any more.",
            $"Leave that {what} out.",
            RefusalSort.Conflict,
            what
        );

    private static Refusal BeyondOwn(Role role, string where) =>
        new(
            "right.beyond-own",
            $"You do not hold what the role {role.Name} gives {where}.",
            "Give a role you hold, or ask an administrator.",
            RefusalSort.NotAllowed,
            "role"
        );
}
