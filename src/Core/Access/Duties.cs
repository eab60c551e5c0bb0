namespace ComeAboard.Core.Access;

/// <summary>Administrative rights; they count in the whole workspace, and only for staff.</summary>
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

    /// <summary>To approve or refuse what was accepted where approval is due.</summary>
    Approve = 16,

    /// <summary>To decide who may do what: roles, resources, groups, organisations, grants.</summary>
    Access = 32,

    /// <summary>To give and take seats, and to arrange their pools.</summary>
    Seats = 64,

    /// <summary>To claim accounts people already have.</summary>
    Claims = 128,

    /// <summary>Every duty.</summary>
    All = Invite | People | Record | Settings | Approve | Access | Seats | Claims,
}

/// <summary>What is asked about duties.</summary>
public static class DutyWords
{
    /// <summary>What an administrator holds at least: with these, everything else can be given again.</summary>
    public const Duties OfAdministrator = Duties.Invite | Duties.People | Duties.Access;

    /// <summary>Each single duty, in the order in which they are listed.</summary>
    public static IReadOnlyList<Duties> Each { get; } =
    [
        Duties.Invite,
        Duties.Approve,
        Duties.People,
        Duties.Access,
        Duties.Seats,
        Duties.Claims,
        Duties.Record,
        Duties.Settings,
    ];

    /// <summary>The words of the duties held, in the order in which they are listed.</summary>
    public static IReadOnlyList<string> List(this Duties duties) =>
        [.. Each.Where(duty => duties.HasFlag(duty)).Select(duty => duty.ToString().ToLowerInvariant())];

    /// <summary>Reads the words of duties in any case; refuses with <c>duty.unknown</c>.</summary>
    public static Outcome<Duties> Read(IEnumerable<string>? words)
    {
        var held = Duties.None;
        foreach (var word in words ?? [])
        {
            var found = Each.FirstOrDefault(duty =>
                string.Equals(duty.ToString(), word.Trim(), StringComparison.OrdinalIgnoreCase)
            );
            if (found == Duties.None)
                return new Refusal(
                    "duty.unknown",
                    $"There is no duty \"{Words.Short(word)}\".",
                    $"Use some of: {string.Join(", ", Duties.All.List())}.",
                    Field: "duties"
                );
            held |= found;
        }
        return held;
    }

    /// <summary>The refusal for whoever lacks a duty: <c>right.missing</c>.</summary>
    public static Refusal Missing(Duties duty) =>
        new(
            "right.missing",
            $"Your role here does not include the duty \"{string.Join(", ", duty.List())}\".",
            "Ask an administrator of the workspace.",
            RefusalSort.NotAllowed
        );
}
