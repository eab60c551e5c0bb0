namespace ComeAboard.Core.Access;

/// <summary>One line of roles compared: an area, and the level of each role there.</summary>
/// <param name="Area">The area; null for all areas not named.</param>
/// <param name="Levels">The levels, in the order of the roles.</param>
/// <param name="Differs">Whether they are not all the same.</param>
public sealed record MatrixLine(Area? Area, IReadOnlyList<Level> Levels, bool Differs);

/// <summary>Roles laid side by side.</summary>
/// <param name="Roles">The roles.</param>
/// <param name="Lines">A line for each area, by name, and one for all others.</param>
public sealed record RoleMatrix(IReadOnlyList<Role> Roles, IReadOnlyList<MatrixLine> Lines)
{
    /// <summary>Compares roles.</summary>
    public static RoleMatrix Of(AccessWorld world, IReadOnlyList<Role> roles) =>
        new(
            roles,
            [
                .. world
                    .Areas.Values.OrderBy(area => area.Name, StringComparer.OrdinalIgnoreCase)
                    .Append(null)
                    .Select(area =>
                    {
                        Level[] levels = [.. roles.Select(role => role.LevelIn(area?.Id ?? Guid.Empty))];
                        return new MatrixLine(area, levels, levels.Distinct().Count() > 1);
                    }),
            ]
        );
}
