namespace ComeAboard.Core.Access;

/// <summary>A role as an invitation carries it.</summary>
/// <param name="Role">The role's id.</param>
/// <param name="Resource">At which resource; null for the whole workspace.</param>
/// <param name="Until">Its last day, inclusive; null for as long as the stay.</param>
public sealed record GivenRole(Guid Role, Guid? Resource = null, DateOnly? Until = null);

/// <summary>What an invitation, a preset or a join link gives: roles, groups, seats.</summary>
/// <param name="Roles">Roles, each in the whole workspace or at a resource.</param>
/// <param name="Groups">Groups to be put in, by id.</param>
/// <param name="Pools">Seat pools to hold a seat of, by id.</param>
public sealed record Bundle(
    IReadOnlyList<GivenRole> Roles,
    IReadOnlyList<Guid> Groups,
    IReadOnlyList<Guid> Pools
)
{
    /// <summary>Most roles, groups or pools one bundle may hold, each, inclusive.</summary>
    public const int Most = 50;

    /// <summary>Gives nothing.</summary>
    public static Bundle Nothing { get; } = new([], [], []);

    /// <summary>One role in the whole workspace.</summary>
    public static Bundle Of(Role role) => new([new GivenRole(role.Id)], [], []);

    /// <summary>Whether it gives no access.</summary>
    public bool IsEmpty => Roles.Count == 0 && Groups.Count == 0;

    /// <summary>The bundle as it would be written, by ids.</summary>
    public BundleWish ToWish() =>
        new(
            [
                .. Roles.Select(given => new RoleWish(
                    given.Role.ToString(),
                    given.Resource?.ToString(),
                    given.Until
                )),
            ],
            [.. Groups.Select(id => id.ToString())],
            [.. Pools.Select(id => id.ToString())]
        );

    /// <summary>Reads a bundle; refuses with <c>role.unknown</c>, <c>resource.unknown</c>, <c>group.unknown</c>, <c>pool.unknown</c> or <c>bundle.too-large</c>.</summary>
    /// <param name="wish">What somebody wrote.</param>
    /// <param name="world">Where the names are looked up.</param>
    public static Outcome<Bundle> Read(BundleWish wish, AccessWorld world)
    {
        if (wish.Roles.Count > Most || wish.Groups.Count > Most || wish.Seats.Count > Most)
            return new Refusal(
                "bundle.too-large",
                $"More than {Most} roles, groups or seats cannot be given at once.",
                "Put the roles into a group, and give that.",
                Field: "roles"
            );
        var roles = new List<GivenRole>();
        foreach (var (name, at, until) in wish.Roles)
        {
            if (!world.FindRole(name).Try(out var role, out var refusal))
                return refusal with { Sort = RefusalSort.Invalid };
            Guid? resource = null;
            if (!string.IsNullOrWhiteSpace(at))
            {
                if (!world.FindResource(at).Try(out var found, out refusal))
                    return refusal with { Sort = RefusalSort.Invalid };
                resource = found.Id;
            }
            var given = new GivenRole(role.Id, resource, until);
            if (!roles.Contains(given))
                roles.Add(given);
        }
        var groups = new List<Guid>();
        foreach (var name in wish.Groups.Where(name => !string.IsNullOrWhiteSpace(name)))
        {
            if (!world.FindGroup(name).Try(out var group, out var refusal))
                return refusal with { Sort = RefusalSort.Invalid };
            groups.Add(group.Id);
        }
        var pools = new List<Guid>();
        foreach (var name in wish.Seats.Where(name => !string.IsNullOrWhiteSpace(name)))
        {
            if (!world.FindPool(name).Try(out var pool, out var refusal))
                return refusal with { Sort = RefusalSort.Invalid, Field = "seats" };
            pools.Add(pool);
        }
        return new Bundle(roles, [.. groups.Distinct()], [.. pools.Distinct()]);
    }
}

/// <summary>A bundle as somebody wrote it, unread.</summary>
/// <param name="Roles">Names or ids of roles, each with the resource it is for, and its last day.</param>
/// <param name="Groups">Names or ids of groups.</param>
/// <param name="Seats">Names or ids of seat pools.</param>
public sealed record BundleWish(
    IReadOnlyList<RoleWish> Roles,
    IReadOnlyList<string> Groups,
    IReadOnlyList<string> Seats
)
{
    /// <summary>Nothing said.</summary>
    public static BundleWish None { get; } = new([], [], []);

    /// <summary>Whether nothing is said.</summary>
    public bool IsNone => Roles.Count == 0 && Groups.Count == 0 && Seats.Count == 0;
}

/// <summary>A role somebody wants given, unread.</summary>
/// <param name="Role">Its name or id.</param>
/// <param name="Resource">The name or id of a resource; null for the whole workspace.</param>
/// <param name="Until">Its last day, inclusive; null for as long as the stay.</param>
public sealed record RoleWish(string Role, string? Resource = null, DateOnly? Until = null);
