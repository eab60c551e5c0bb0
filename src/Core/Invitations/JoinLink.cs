using ComeAboard.Core.Access;
using ComeAboard.Core.Workspaces;

namespace ComeAboard.Core.Invitations;

/// <summary>Whether a join link still lets people in.</summary>
public enum JoinLinkState
{
    /// <summary>It does.</summary>
    Open,

    /// <summary>As many as it is for have come in.</summary>
    UsedUp,

    /// <summary>Its time is over.</summary>
    Expired,

    /// <summary>Somebody closed it.</summary>
    Closed,
}

/// <summary>An invitation by possession: what it gives, to how many, at which mail domains, until when.</summary>
/// <param name="Label">What the link is for, for those who look after it.</param>
/// <param name="Kind">As what people come in.</param>
/// <param name="Gives">What they are given.</param>
/// <param name="Stay">The stay of everybody who comes in by it; used when <paramref name="StayDays"/> is null.</param>
/// <param name="StayDays">How many days each may stay, the day of joining included; null for <paramref name="Stay"/>.</param>
/// <param name="Cap">How many may come in by it, 1 to 10,000.</param>
/// <param name="Domains">Mail domains it is for; empty for any.</param>
/// <param name="NeedsApproval">Whether each waits for approval.</param>
/// <param name="ExpiresAt">The first instant at which it lets nobody in (exclusive end).</param>
/// <param name="Message">The inviter's words; empty for none.</param>
/// <param name="Language">The language of its page and mails.</param>
public sealed record JoinLinkTerms(
    string Label,
    Kind Kind,
    Bundle Gives,
    Stay Stay,
    int? StayDays,
    int Cap,
    IReadOnlyList<string> Domains,
    bool NeedsApproval,
    DateTimeOffset ExpiresAt,
    string Message,
    string Language
)
{
    /// <summary>Most people one link may be for, inclusive.</summary>
    public const int LargestCap = 10_000;

    /// <summary>Longest life of a link in days, inclusive.</summary>
    public const int LongestDays = 365;

    /// <summary>Reads terms; the first fault found is the refusal.</summary>
    /// <param name="wish">What the inviter wrote.</param>
    /// <param name="now">The instant at which it is made.</param>
    /// <param name="today">Today in the workspace's time zone.</param>
    /// <param name="workspaceLanguage">The language used when the wish names none.</param>
    /// <param name="rules">The rules of the house, which know how long a kind usually stays.</param>
    /// <param name="world">Where names are looked up.</param>
    public static Outcome<JoinLinkTerms> Read(
        JoinLinkWish wish,
        DateTimeOffset now,
        DateOnly today,
        string workspaceLanguage,
        HouseRules rules,
        AccessWorld world
    )
    {
        if (!PlainText.ReadName(wish.Label).Try(out var label, out var refusal))
            return refusal with { Field = "label" };
        if (label.Length == 0)
            return new Refusal("link.label", "The link has no label.", "Say what it is for.", Field: "label");
        if (!Kinds.Read(wish.Kind).Try(out var kind, out refusal))
            return refusal;
        if (!Bundle.Read(wish.Gives, world).Try(out var gives, out refusal))
            return refusal;
        if (gives.IsEmpty)
            return new Refusal(
                "role.missing",
                "The link gives nothing.",
                "Choose a role or a group.",
                Field: "role"
            );
        if (!Stay.Between(null, wish.Until, today).Try(out var stay, out refusal))
            return refusal;
        if (wish.StayDays is < 1 or > 18_250)
            return Range("stayDays", "The stay", 1, 18_250, "days");
        if (wish.Cap is < 1 or > LargestCap)
            return Range("cap", "The number of people", 1, LargestCap, "");
        var days = wish.Days ?? 14;
        if (days is < 1 or > LongestDays)
            return Range("days", "The life of a link", 1, LongestDays, "days");
        if (!HouseRules.Domains(wish.Domains, "domains").Try(out var domains, out refusal))
            return refusal;
        if (!PlainText.ReadMessage(wish.Message).Try(out var message, out refusal))
            return refusal;
        if (!Languages.Read(wish.Language ?? workspaceLanguage).Try(out var language, out refusal))
            return refusal;
        return new JoinLinkTerms(
            label,
            kind,
            gives,
            stay,
            wish.StayDays ?? (wish.NoEnd || wish.Until is not null ? null : rules.UsualDays(kind)),
            wish.Cap,
            domains,
            wish.NeedsApproval,
            now.AddDays(days),
            message,
            language
        );
    }

    private static Refusal Range(string field, string what, int least, int most, string unit) =>
        new(
            "link.out-of-range",
            $"{what} must be {least} to {most}{(unit.Length > 0 ? " " + unit : "")}.",
            "Correct the number.",
            Field: field
        );
}

/// <summary>A join link as somebody wants it, unread. Null stands for "not said".</summary>
public sealed record JoinLinkWish(
    string? Label,
    string? Kind,
    BundleWish Gives,
    DateOnly? Until,
    int? StayDays,
    int Cap,
    IReadOnlyList<string>? Domains,
    bool NeedsApproval,
    int? Days,
    string? Message,
    string? Language
)
{
    /// <summary>Whether stays are to have no end, said on purpose.</summary>
    public bool NoEnd { get; init; }
}

/// <summary>Whom a join link lets in.</summary>
public static class JoinLinkRules
{
    /// <summary>The state at an instant. Closing weighs more than the cap, the cap more than time.</summary>
    /// <param name="closed">Whether somebody closed it.</param>
    /// <param name="uses">How many have come in.</param>
    /// <param name="cap">How many may.</param>
    /// <param name="expiresAt">The first instant at which it lets nobody in (exclusive end).</param>
    /// <param name="now">The instant asked about.</param>
    public static JoinLinkState StateOf(
        bool closed,
        int uses,
        int cap,
        DateTimeOffset expiresAt,
        DateTimeOffset now
    ) =>
        closed ? JoinLinkState.Closed
        : uses >= cap ? JoinLinkState.UsedUp
        : now >= expiresAt ? JoinLinkState.Expired
        : JoinLinkState.Open;

    /// <summary>The words of a state: open, used up, expired, closed.</summary>
    public static string Word(this JoinLinkState state) =>
        state == JoinLinkState.UsedUp ? "used up" : state.ToString().ToLowerInvariant();

    /// <summary>Refuses with <c>link.closed</c>, <c>link.used-up</c> or <c>link.expired</c>.</summary>
    public static Refusal? Forbids(JoinLinkState state) =>
        state switch
        {
            JoinLinkState.Open => null,
            JoinLinkState.Closed => No("closed", "This link was closed."),
            JoinLinkState.UsedUp => No("used-up", "As many people as this link is for have come in by it."),
            _ => No("expired", "The time of this link is over."),
        };

    /// <summary>Refuses an address at another mail domain than the link is for, with <c>link.domain</c>.</summary>
    public static Refusal? ForbidsDomain(IReadOnlyList<string> domains, EmailAddress address) =>
        domains.Count == 0 || domains.Any(address.IsAt)
            ? null
            : new Refusal(
                "link.domain",
                $"This link is for addresses at {string.Join(", ", domains.Take(5))}.",
                "Give your address there.",
                RefusalSort.Conflict,
                "address"
            );

    private static Refusal No(string code, string sentence) =>
        new("link." + code, sentence, "Ask whoever gave it to you for another.", RefusalSort.Conflict);
}
