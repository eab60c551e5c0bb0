namespace ComeAboard.Core.Access;

/// <summary>A page of the console, in the order of the work.</summary>
public enum ConsolePage
{
    /// <summary>What waits and what ends soon.</summary>
    Overview,

    /// <summary>Invitations, lists, links, presets.</summary>
    Invite,

    /// <summary>Who is here, and was.</summary>
    People,

    /// <summary>Who may do what.</summary>
    Access,

    /// <summary>Accounts that people have already, at the workspace's domains.</summary>
    Accounts,

    /// <summary>Whose time ends or has ended.</summary>
    Endings,

    /// <summary>What happened.</summary>
    Record,

    /// <summary>The workspace's own settings.</summary>
    Workspace,

    /// <summary>Where somebody is themselves, and what they may do there.</summary>
    MyPlaces,
}

/// <summary>Which pages open to whom.</summary>
public static class ConsolePages
{
    /// <summary>The pages that open to somebody with some duties, in the order of the work; their own places always.</summary>
    public static IReadOnlyList<ConsolePage> For(Duties duties) =>
        [.. Enum.GetValues<ConsolePage>().Where(page => Opens(page, duties))];

    private static bool Opens(ConsolePage page, Duties duties) =>
        page switch
        {
            ConsolePage.Overview => duties != Duties.None,
            ConsolePage.Invite => (duties & (Duties.Invite | Duties.Approve)) != Duties.None,
            ConsolePage.People => (duties & (Duties.People | Duties.Access)) != Duties.None,
            ConsolePage.Access => (duties & (Duties.Access | Duties.Seats)) != Duties.None,
            ConsolePage.Accounts => duties.HasFlag(Duties.Claims),
            ConsolePage.Endings => duties.HasFlag(Duties.People),
            ConsolePage.Record => duties.HasFlag(Duties.Record),
            ConsolePage.Workspace => duties.HasFlag(Duties.Settings),
            _ => true,
        };

    /// <summary>What the page is called.</summary>
    public static string Title(this ConsolePage page) =>
        page == ConsolePage.MyPlaces ? "My places" : page.ToString();
}
