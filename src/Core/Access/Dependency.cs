namespace ComeAboard.Core.Access;

/// <summary>What one area needs of another: whoever sees anything in the one needs a level in the other.</summary>
/// <param name="Area">The area that draws on the other.</param>
/// <param name="Needs">The area it draws on.</param>
/// <param name="AtLeast">The level needed there.</param>
public readonly record struct Dependency(Guid Area, Guid Needs, Level AtLeast);

/// <summary>A dependency a role does not meet.</summary>
/// <param name="Dependency">Which.</param>
/// <param name="Has">The level the role has in the area needed.</param>
public readonly record struct Gap(Dependency Dependency, Level Has);

/// <summary>The gaps of a role, and the two ways to be rid of them.</summary>
/// <param name="Gaps">What is not met; empty when all is well.</param>
/// <param name="Raised">The role with every level raised that is needed.</param>
/// <param name="Lowered">The role without the areas whose needs are not met.</param>
public sealed record DependencyAdvice(IReadOnlyList<Gap> Gaps, Role Raised, Role Lowered)
{
    /// <summary>Looks at a role. Either way out leaves no gap, also where areas need one another in a chain or a circle.</summary>
    public static DependencyAdvice For(Role role, IReadOnlyCollection<Dependency> dependencies)
    {
        var (raised, lowered) = (role, role);
        while (GapsOf(raised, dependencies).FirstOrDefault() is { Dependency.AtLeast: > Level.None } gap)
            raised = raised with
            {
                Areas = raised.Areas.SetItem(gap.Dependency.Needs, gap.Dependency.AtLeast),
            };
        while (GapsOf(lowered, dependencies).FirstOrDefault() is { Dependency.AtLeast: > Level.None } gap)
            lowered = lowered with { Areas = lowered.Areas.SetItem(gap.Dependency.Area, Level.None) };
        return new DependencyAdvice([.. GapsOf(role, dependencies)], raised, lowered);
    }

    private static IEnumerable<Gap> GapsOf(Role role, IReadOnlyCollection<Dependency> dependencies) =>
        dependencies
            .Where(need => role.LevelIn(need.Area) > Level.None && role.LevelIn(need.Needs) < need.AtLeast)
            .Select(need => new Gap(need, role.LevelIn(need.Needs)));
}
