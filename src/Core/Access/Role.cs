namespace ComeAboard.Core.Access;

/// <summary>How far somebody may go in an area; each level includes those before it.</summary>
public enum Level
{
    /// <summary>Not at all.</summary>
    None,

    /// <summary>See.</summary>
    View,

    /// <summary>See, add, and change only one's own entries.</summary>
    Contribute,

    /// <summary>Change everything.</summary>
    Edit,

    /// <summary>Change everything and decide how it is arranged.</summary>
    Manage,
}

/// <summary>An administrative right.</summary>
[Flags]
public enum Duties
{
    /// <summary>None.</summary>
    None = 0,

    /// <summary>To invite.</summary>
    Invite = 1,

    /// <summary>To see people, change them and end their access.</summary>
    People = 2,

    /// <summary>To read the record.</summary>
    Record = 4,

    /// <summary>To change the workspace's settings and its tokens.</summary>
    Settings = 8,

    /// <summary>Every duty.</summary>
    All = Invite | People | Record | Settings,
}

/// <summary>A role: a name, a sentence, a level over everything, and duties. For now there are three, fixed.</summary>
public sealed record Role
{
    private Role(string name, string sentence, Level level, Duties staffDuties)
    {
        Name = name;
        Sentence = sentence;
        Level = level;
        StaffDuties = staffDuties;
    }

    /// <summary>Sees everything.</summary>
    public static Role View { get; } =
        new("view", "See everything in the workspace.", Level.View, Duties.None);

    /// <summary>Sees and changes everything.</summary>
    public static Role Edit { get; } =
        new("edit", "See and change everything in the workspace.", Level.Edit, Duties.None);

    /// <summary>Decides over everything; staff who hold it are administrators.</summary>
    public static Role Manage { get; } =
        new("manage", "See, change and arrange everything in the workspace.", Level.Manage, Duties.All);

    /// <summary>All roles, least first.</summary>
    public static IReadOnlyList<Role> All { get; } = [View, Edit, Manage];

    /// <summary>The word by which the role is given.</summary>
    public string Name { get; }

    /// <summary>What the holder can do, for the people concerned.</summary>
    public string Sentence { get; }

    /// <summary>The level over everything.</summary>
    public Level Level { get; }

    private Duties StaffDuties { get; }

    /// <summary>The duties this role brings to a person of a kind. Duties are for staff: an outsider gets the level alone.</summary>
    public Duties DutiesFor(Kind kind) => kind.IsOutsider() ? Duties.None : StaffDuties;

    /// <summary>What a person of a kind can do with this role, in one sentence.</summary>
    public string SentenceFor(Kind kind) =>
        DutiesFor(kind) == Duties.None
            ? Sentence
            : Sentence + " As an administrator: invite people, end their access, read the record.";

    /// <summary>Finds a role by its name in any case; refuses with <c>role.unknown</c>.</summary>
    public static Outcome<Role> Read(string? name)
    {
        foreach (var role in All)
        {
            if (string.Equals(role.Name, name?.Trim(), StringComparison.OrdinalIgnoreCase))
                return role;
        }
        return new Refusal(
            "role.unknown",
            $"There is no role \"{Words.Short(name)}\".",
            $"Use one of: {string.Join(", ", All.Select(r => r.Name))}.",
            Field: "role"
        );
    }
}
