using ComeAboard.Client.Access;
using ComeAboard.Core.Access;
using ComeAboard.Service.Mail;

namespace ComeAboard.Service.Access;

/// <summary>What is given, in names and sentences.</summary>
public static class Bundles
{
    /// <summary>A bundle as somebody wrote it.</summary>
    /// <param name="role">A role for the whole workspace, or at the resource.</param>
    /// <param name="resource">The resource of that role.</param>
    /// <param name="more">What is given beside it.</param>
    public static BundleWish WishOf(string? role, string? resource, BundleView? more) =>
        new(
            [
                .. string.IsNullOrWhiteSpace(role) ? [] : (RoleWish[])[new RoleWish(role, resource)],
                .. (more?.Roles ?? []).Select(given => new RoleWish(given.Role, given.Resource, given.Until)),
            ],
            more?.Groups ?? [],
            more?.Seats ?? []
        );

    /// <summary>A bundle as it goes over the wire, by names.</summary>
    public static BundleView ViewOf(Bundle bundle, AccessWorld world) =>
        new(
            [
                .. bundle.Roles.Select(given => new GivenRoleView(
                    RoleName(world, given.Role),
                    given.Resource is { } at ? ResourceName(world, at) : null,
                    given.Until
                )),
            ],
            [.. bundle.Groups.Select(id => world.Groups.GetValueOrDefault(id)?.Name ?? "a removed group")],
            [.. bundle.Pools.Select(id => world.Pools.GetValueOrDefault(id) ?? "a removed pool")]
        );

    /// <summary>A bundle in a few words, for lists.</summary>
    public static string Summary(Bundle bundle, AccessWorld world) =>
        string.Join(
            ", ",
            bundle
                .Roles.Select(given =>
                    RoleName(world, given.Role)
                    + (given.Resource is { } at ? " at " + ResourceName(world, at) : "")
                )
                .Concat(
                    bundle.Groups.Select(id =>
                        "group " + (world.Groups.GetValueOrDefault(id)?.Name ?? "removed")
                    )
                )
        );

    /// <summary>What somebody will be able to do, for themselves, in their language.</summary>
    /// <param name="phrases">Their language.</param>
    /// <param name="world">Who may do what.</param>
    /// <param name="bundle">What is given to them.</param>
    /// <param name="groups">The groups they are in beside those.</param>
    /// <param name="organisation">Their organisation.</param>
    /// <param name="kind">As what they are here.</param>
    public static string Sentence(
        Phrases phrases,
        AccessWorld world,
        Bundle bundle,
        IEnumerable<Guid> groups,
        Guid? organisation,
        Kind kind
    )
    {
        var given = bundle.Roles.Select(role => (role.Role, role.Resource)).ToList();
        foreach (var id in bundle.Groups.Concat(groups).Distinct())
            given.AddRange(
                (world.Groups.GetValueOrDefault(id)?.Grants ?? []).Select(g => (g.RoleId, g.ResourceId))
            );
        if (organisation is { } own)
            given.AddRange(
                (world.Organisations.GetValueOrDefault(own)?.Grants ?? []).Select(g =>
                    (g.RoleId, g.ResourceId)
                )
            );
        var sentences = given
            .Distinct()
            .Where(g => world.Roles.ContainsKey(g.Item1))
            .Select(g =>
                g.Item2 is { } at
                    ? phrases.RoleAt(world.Roles[g.Item1], ResourceName(world, at), kind)
                    : phrases.RoleSentence(world.Roles[g.Item1], kind)
            )
            .Distinct()
            .ToList();
        return sentences.Count > 0 ? string.Join(' ', sentences) : phrases.NothingYet;
    }

    /// <summary>What a member can do, for themselves, in a language.</summary>
    public static string SentenceOf(Phrases phrases, AccessWorld world, Guid member, Kind kind) =>
        world.People.TryGetValue(member, out var person)
            ? Sentence(phrases, world, BundleOf(person), person.Groups, person.OrganisationId, kind)
            : phrases.NothingYet;

    /// <summary>What is given to a member, in a few words: directly, by groups, and by their organisation.</summary>
    public static string SummaryOf(AccessWorld world, Guid member)
    {
        if (!world.People.TryGetValue(member, out var person))
            return "";
        var summary = Summary(BundleOf(person) with { Groups = person.Groups }, world);
        return
            person.OrganisationId is { } own
            && world.Organisations.TryGetValue(own, out var organisation)
            && organisation.Grants.Length > 0
            ? (summary.Length > 0 ? summary + ", " : "") + "by " + organisation.Name
            : summary;
    }

    private static Bundle BundleOf(Person person) =>
        new([.. person.Grants.Select(g => new GivenRole(g.RoleId, g.ResourceId, g.Window.LastDay))], [], []);

    /// <summary>The name of a role.</summary>
    public static string RoleName(AccessWorld world, Guid role) =>
        world.Roles.GetValueOrDefault(role)?.Name ?? "a removed role";

    /// <summary>The name of a resource.</summary>
    public static string ResourceName(AccessWorld world, Guid resource) =>
        world.Resources.GetValueOrDefault(resource)?.Name ?? "a removed resource";
}
