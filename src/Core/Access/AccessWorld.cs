using System.Collections.Immutable;

namespace ComeAboard.Core.Access;

/// <summary>
/// Everything in a workspace that decides who may do what, as it stood at one version. It is never changed: an edit makes
/// another, so that before and after can be laid beside each other.
/// </summary>
public sealed record AccessWorld
{
    /// <summary>A workspace without people, with the built-in roles.</summary>
    public static AccessWorld Empty { get; } = new();

    /// <summary>Counts the changes; a larger one is newer.</summary>
    public long Version { get; init; }

    /// <summary>The members whose access has not ended, by id.</summary>
    public LayeredDictionary<Guid, Person> People { get; init; } = LayeredDictionary<Guid, Person>.Empty;

    /// <summary>The same members' ids by <see cref="Person.AddressKey"/>.</summary>
    public LayeredDictionary<string, Guid> ByAddress { get; init; } = LayeredDictionary<string, Guid>.Empty;

    /// <summary>The groups, by id.</summary>
    public ImmutableDictionary<Guid, Group> Groups { get; init; } = ImmutableDictionary<Guid, Group>.Empty;

    /// <summary>The organisations, by id.</summary>
    public ImmutableDictionary<Guid, Organisation> Organisations { get; init; } =
        ImmutableDictionary<Guid, Organisation>.Empty;

    /// <summary>The roles, by id: the built-in ones and the workspace's own.</summary>
    public ImmutableDictionary<Guid, Role> Roles { get; init; } =
        Role.AllBuiltIn.ToImmutableDictionary(role => role.Id);

    /// <summary>The areas, by id.</summary>
    public ImmutableDictionary<Guid, Area> Areas { get; init; } = ImmutableDictionary<Guid, Area>.Empty;

    /// <summary>The resources, by id.</summary>
    public ImmutableDictionary<Guid, Resource> Resources { get; init; } =
        ImmutableDictionary<Guid, Resource>.Empty;

    /// <summary>What areas need of one another.</summary>
    public ImmutableArray<Dependency> Dependencies { get; init; } = [];

    /// <summary>The members and organisations that are switched off for a resource, whatever is given to them.</summary>
    public ImmutableHashSet<(Guid Holder, Guid Resource)> SwitchedOff { get; init; } = [];

    /// <summary>Seat pools by id, for reading their names.</summary>
    public ImmutableDictionary<Guid, string> Pools { get; init; } = ImmutableDictionary<Guid, string>.Empty;

    /// <summary>
    /// Whose duties count only in part here, since a program acts for them that was given no more; null for nobody's.
    /// </summary>
    public (Guid Member, Duties Most)? Bound { get; init; }

    /// <summary>The same for a program that acts for a member: of their duties only some count.</summary>
    /// <param name="member">For whom it acts.</param>
    /// <param name="most">The duties it was given.</param>
    public AccessWorld BoundTo(Guid member, Duties most) => this with { Bound = (member, most) };

    /// <summary>Puts a member in, or in place of what was known of them.</summary>
    public AccessWorld With(Person person)
    {
        var byAddress = ByAddress;
        if (People.TryGetValue(person.Id, out var old) && old.AddressKey != person.AddressKey)
            byAddress = byAddress.Remove(old.AddressKey);
        return this with
        {
            People = People.SetItem(person.Id, person),
            ByAddress =
                person.AddressKey.Length > 0 ? byAddress.SetItem(person.AddressKey, person.Id) : byAddress,
        };
    }

    /// <summary>Leaves a member out.</summary>
    public AccessWorld Without(Guid person) =>
        People.TryGetValue(person, out var old)
            ? this with
            {
                People = People.Remove(person),
                ByAddress =
                    ByAddress.TryGetValue(old.AddressKey, out var holder) && holder == person
                        ? ByAddress.Remove(old.AddressKey)
                        : ByAddress,
            }
            : this;

    /// <summary>Every place access can differ at: each resource, each area, and all that nothing names.</summary>
    public IEnumerable<Place> Places() =>
        Resources.Values.Select(Place.At).Concat(Areas.Values.Select(Place.In)).Append(Place.Elsewhere);

    /// <summary>The role with a name, in any case, or an id; refuses with <c>role.unknown</c>.</summary>
    public Outcome<Role> FindRole(string? written) =>
        Find(
            Roles.Values,
            written,
            role => role.Id,
            role => role.Name,
            "role",
            () => string.Join(", ", InOrder(Roles.Values).Select(role => role.Name).Take(12))
        );

    /// <summary>The resource with a name, in any case, or an id; refuses with <c>resource.unknown</c>.</summary>
    public Outcome<Resource> FindResource(string? written) =>
        Find(Resources.Values, written, resource => resource.Id, resource => resource.Name, "resource");

    /// <summary>The area with a name, in any case, or an id; refuses with <c>area.unknown</c>.</summary>
    public Outcome<Area> FindArea(string? written) =>
        Find(Areas.Values, written, area => area.Id, area => area.Name, "area");

    /// <summary>The group with a name, in any case, or an id; refuses with <c>group.unknown</c>.</summary>
    public Outcome<Group> FindGroup(string? written) =>
        Find(Groups.Values, written, group => group.Id, group => group.Name, "group");

    /// <summary>The organisation with a name or code, in any case, or an id; refuses with <c>organisation.unknown</c>.</summary>
    public Outcome<Organisation> FindOrganisation(string? written)
    {
        var text = written?.Trim() ?? "";
        return
            text.Length > 0
            && Organisations.Values.FirstOrDefault(o =>
                o.Code.Length > 0 && o.Code.Equals(text, StringComparison.OrdinalIgnoreCase)
            )
                is { } byCode
            ? byCode
            : Find(Organisations.Values, written, o => o.Id, o => o.Name, "organisation");
    }

    /// <summary>The seat pool with a name, in any case, or an id; refuses with <c>pool.unknown</c>.</summary>
    public Outcome<Guid> FindPool(string? written) =>
        Find(Pools, written, pool => pool.Key, pool => pool.Value, "pool").Try(out var pool, out var refusal)
            ? pool.Key
            : refusal;

    /// <summary>Roles as they are listed: the built-in ones, least first, then the workspace's own by name.</summary>
    public static IEnumerable<Role> InOrder(IEnumerable<Role> roles) =>
        roles
            .OrderBy(role => role.IsBuiltIn ? 0 : 1)
            .ThenBy(role => role.IsBuiltIn ? (int)role.Everywhere : 0)
            .ThenBy(role => role.Name, StringComparer.OrdinalIgnoreCase);

    private static Outcome<T> Find<T>(
        IEnumerable<T> among,
        string? written,
        Func<T, Guid> id,
        Func<T, string> name,
        string what,
        Func<string>? all = null
    )
        where T : notnull
    {
        var text = written?.Trim() ?? "";
        var isId = Guid.TryParse(text, out var wanted);
        var key = Names.KeyOf(text);
        foreach (var one in among)
        {
            if (isId ? id(one) == wanted : Names.KeyOf(name(one)) == key)
                return one;
        }
        var meant = isId ? null : Likeness.Nearest(text, among.Select(name));
        return new Refusal(
            what + ".unknown",
            $"There is no {(what == "pool" ? "seat pool" : what)} \"{Words.Short(text)}\" in this workspace.",
            meant is not null ? $"Did you mean \"{meant}\"?"
                : all is null ? $"Look at the list of {(what == "pool" ? "seat pools" : what + "s")}."
                : $"Use one of: {all()}.",
            RefusalSort.NotFound,
            what
        );
    }
}
