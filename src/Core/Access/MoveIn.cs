using System.Collections.Immutable;
using ComeAboard.Core.Workspaces;

namespace ComeAboard.Core.Access;

/// <summary>Somebody who has a role directly, and is to have it by a group.</summary>
/// <param name="Id">The member.</param>
/// <param name="Name">Their name.</param>
/// <param name="Direct">What is given to them directly, and taken by the move.</param>
/// <param name="Joins">Whether they are not in the group yet.</param>
/// <param name="Gains">What they could do then and cannot now.</param>
public sealed record MovedIn(
    Guid Id,
    string Name,
    ImmutableArray<Grant> Direct,
    bool Joins,
    IReadOnlyList<string> Gains
);

/// <summary>
/// How people who have a role directly come to have it by a group, so that none of them loses anything on any day: they join,
/// the group has the role, and what was given to them directly is taken, all at once.
/// </summary>
/// <param name="Group">The group.</param>
/// <param name="Given">The grant the group gets by it; null where it has the role already.</param>
/// <param name="Through">The grant of the group by which they have it then.</param>
/// <param name="People">Whom it is about, by name.</param>
/// <param name="After">Who may do what then.</param>
public sealed record MoveIn(
    Guid Group,
    Grant? Given,
    Guid Through,
    IReadOnlyList<MovedIn> People,
    AccessWorld After
)
{
    private const int Named = 3;

    /// <summary>
    /// Plans it; refuses with <c>move.nobody</c> where nobody has the role directly, with <c>move.no-grant</c> where one of those
    /// who are named does not, and with <c>move.loses</c> where somebody would lose something on any day.
    /// </summary>
    /// <param name="world">Who may do what.</param>
    /// <param name="group">The group.</param>
    /// <param name="role">The role they have directly.</param>
    /// <param name="resource">At which resource; null for the whole workspace.</param>
    /// <param name="only">Whom alone it is about; null for everybody who has it.</param>
    /// <param name="today">Today, in the workspace's time zone.</param>
    /// <param name="newId">Makes the id of what the group is given.</param>
    public static Outcome<MoveIn> Plan(
        AccessWorld world,
        Group group,
        Role role,
        Guid? resource,
        IReadOnlyCollection<Guid>? only,
        DateOnly today,
        Func<Guid> newId
    )
    {
        bool IsMeant(Grant grant) =>
            grant.RoleId == role.Id && grant.ResourceId == resource && !(grant.Window.LastDay < today);

        var people = world
            .People.Values.Where(person => only?.Contains(person.Id) ?? person.Grants.Any(IsMeant))
            .OrderBy(person => person.Name, StringComparer.Ordinal)
            .ThenBy(person => person.Id)
            .ToList();
        if (people.Count == 0)
            return new Refusal(
                "move.nobody",
                $"Nobody has the role {role.Name} there directly.",
                "Look at where it comes from: it may be a group already, or an organisation.",
                RefusalSort.Conflict,
                "fromDirect"
            );
        if (people.FirstOrDefault(person => !person.Grants.Any(IsMeant)) is { } without)
            return new Refusal(
                "move.no-grant",
                $"{without.Name} has no grant of the role {role.Name} there directly.",
                "Leave them out, or put them into the group.",
                RefusalSort.Conflict,
                "people"
            );
        var own = group.Grants.Where(IsMeant).Select(grant => (Grant?)grant).FirstOrDefault();
        Grant? given = own is not null
            ? null
            : new Grant(
                newId(),
                role.Id,
                resource,
                Around(people.SelectMany(person => person.Grants.Where(IsMeant)))
            );
        var after = world;
        if (given is { } made)
            after = after with
            {
                Groups = after.Groups.SetItem(group.Id, group with { Grants = group.Grants.Add(made) }),
            };
        foreach (var person in people)
            after = after.With(
                person with
                {
                    Grants = person.Grants.RemoveAll(IsMeant),
                    Groups = person.Groups.Contains(group.Id) ? person.Groups : person.Groups.Add(group.Id),
                }
            );
        var losing = new List<string>();
        var moved = new List<MovedIn>();
        foreach (var person in people)
        {
            var gauge = new AccessGauge(world, person.Id, person.Id, today, after);
            if (gauge.Losses(after, person.Id) is [var first, ..])
                losing.Add($"{person.Name}: {first}");
            moved.Add(
                new MovedIn(
                    person.Id,
                    person.Name,
                    [.. person.Grants.Where(IsMeant)],
                    !person.Groups.Contains(group.Id),
                    gauge.Gains(after, person.Id)
                )
            );
        }
        return losing.Count > 0
            ? new Refusal(
                "move.loses",
                $"Somebody would lose by it. {string.Join("; ", losing.Take(Named))}{(losing.Count > Named ? $"; and {losing.Count - Named} more" : "")}.",
                $"Let {group.Name} have the role for as long as they have it, or leave them out.",
                RefusalSort.Conflict
            )
            : new MoveIn(group.Id, given, (given ?? own)!.Value.Id, moved, after);
    }

    /// <summary>From the first day of any to the last of any.</summary>
    private static Stay Around(IEnumerable<Grant> grants)
    {
        var windows = grants.Select(grant => grant.Window).ToList();
        return new Stay(
            windows.Exists(window => window.LastDay is null) ? null : windows.Max(window => window.LastDay),
            windows.Exists(window => window.FirstDay is null) ? null : windows.Min(window => window.FirstDay)
        );
    }
}
