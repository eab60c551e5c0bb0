using ComeAboard.Core.Access;

namespace ComeAboard.Core.Connections;

/// <summary>What of ours a line of a mapping speaks of.</summary>
public enum MappedSubject
{
    /// <summary>Whoever a role is given to, in whichever way and wherever.</summary>
    Role,

    /// <summary>Whoever is in a group.</summary>
    Group,

    /// <summary>Whoever may do something at a resource.</summary>
    Resource,
}

/// <summary>
/// One line of a mapping: who, by what they are or may do here, has an account in a connected system, and in which of its groups.
/// </summary>
/// <param name="Id">Its id.</param>
/// <param name="Of">What of ours it speaks of.</param>
/// <param name="Subject">The role, group or resource.</param>
/// <param name="Least">For a resource: the level it takes at least; else <see cref="Level.None"/>.</param>
/// <param name="GroupThere">The name of the group there; empty for an account and nothing more.</param>
public sealed record MappingLine(Guid Id, MappedSubject Of, Guid Subject, Level Least, string GroupThere)
{
    /// <summary>Longest name of a group there.</summary>
    public const int LongestGroup = 200;

    private const string GroupPrefix = "group:";

    /// <summary>What it leads to as people write it: <c>accounts</c>, or <c>group:</c> and the name there.</summary>
    public string To => GroupThere.Length > 0 ? GroupPrefix + GroupThere : "accounts";

    /// <summary>Reads what a line leads to: the name of the group there, empty for accounts; refuses with <c>mapping.to</c>.</summary>
    public static Outcome<string> ReadTo(string? written)
    {
        var text = written?.Trim() ?? "";
        if (text.Equals("accounts", StringComparison.OrdinalIgnoreCase))
            return "";
        var name = text.StartsWith(GroupPrefix, StringComparison.OrdinalIgnoreCase)
            ? text[GroupPrefix.Length..].Trim()
            : "";
        return name.Length is > 0 and <= LongestGroup && !name.Any(char.IsControl)
            ? name
            : new Refusal(
                "mapping.to",
                $"\"{Words.Short(text)}\" does not say what they have there.",
                "Say accounts, or group: and the name of a group there.",
                Field: "to"
            );
    }

    /// <summary>Whether it speaks of a member on a day, were nothing cut.</summary>
    /// <param name="world">Who may do what.</param>
    /// <param name="person">The member.</param>
    /// <param name="day">The day, in the workspace's time zone.</param>
    public bool Covers(AccessWorld world, Person person, DateOnly day) =>
        Of switch
        {
            MappedSubject.Role => world
                .PathsOf(person)
                .Any(path => path.Grant.RoleId == Subject && path.Grant.Window.Contains(day)),
            MappedSubject.Group => person.Groups.Contains(Subject),
            _ => world.Resources.TryGetValue(Subject, out var resource)
                && world.LevelOf(person.Id, Place.At(resource), day) >= Least
                && Least > Level.None,
        };
}
