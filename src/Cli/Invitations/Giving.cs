using System.CommandLine;
using ComeAboard.Client.Access;

namespace ComeAboard.Cli.Invitations;

/// <summary>What an invitation, a preset, a list or a join link gives, as its options say it.</summary>
public static class Giving
{
    public static Option<string[]> Role { get; } =
        new("--role")
        {
            Description = "A role, or ROLE@RESOURCE for one resource; may be given several times",
        };

    public static Option<string?> Resource { get; } =
        new("--resource") { Description = "At which resource the roles without @ are given" };

    public static Option<string[]> Group { get; } =
        new("--group") { Description = "A group to be put in; may be given several times" };

    public static Option<string[]> Seat { get; } =
        new("--seat") { Description = "A seat pool to hold a seat of; may be given several times" };

    /// <summary>What the options say, in place of what was given before where they say anything.</summary>
    /// <returns>Null when nothing is said and nothing was given before.</returns>
    public static BundleView? Read(ParseResult parsed, BundleView? before = null)
    {
        var roles = parsed.GetValue(Role) ?? [];
        var groups = parsed.GetValue(Group) ?? [];
        var seats = parsed.GetValue(Seat) ?? [];
        var resource = parsed.GetValue(Resource);
        if (resource is not null && roles.All(role => role.Contains('@', StringComparison.Ordinal)))
            throw new UsageException("--resource says where a role is given: name it with --role.");
        if (roles.Length + groups.Length + seats.Length == 0)
            return before;
        return new BundleView(
            roles.Length > 0 ? [.. roles.Select(role => Given(role, resource))] : before?.Roles,
            groups.Length > 0 ? groups : before?.Groups,
            seats.Length > 0 ? seats : before?.Seats
        );
    }

    private static GivenRoleView Given(string written, string? resource) =>
        written.LastIndexOf('@') is > 0 and var at
            ? new GivenRoleView(written[..at].Trim(), written[(at + 1)..].Trim())
            : new GivenRoleView(written, resource);
}
