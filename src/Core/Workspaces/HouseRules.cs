using ComeAboard.Core.Access;
using ComeAboard.Core.Accounts;
using ComeAboard.Core.Invitations;

namespace ComeAboard.Core.Workspaces;

/// <summary>What a workspace allows when people are invited to it. The rules of no house allow everything.</summary>
public sealed record HouseRules
{
    /// <summary>Longest list of domains or of reminder days, inclusive.</summary>
    public const int LongestList = 200;

    /// <summary>The longest time to answer that may be asked for, in days, inclusive.</summary>
    public int LongestAnswerDays { get; init; } = (int)InvitationLife.LongestAnswerTime.TotalDays;

    /// <summary>The longest stay of a kind in days, the first and the last day included; absent kinds may stay without end.</summary>
    public IReadOnlyDictionary<Kind, int> LongestStayDays { get; init; } = new Dictionary<Kind, int>();

    /// <summary>How long a stay of a kind usually is, in days, the first and the last day included; absent kinds usually have no end.</summary>
    public IReadOnlyDictionary<Kind, int> UsualStayDays { get; init; } = UsualAtFirst;

    /// <summary>What outsiders usually stay before anybody decides otherwise.</summary>
    public static IReadOnlyDictionary<Kind, int> UsualAtFirst { get; } =
        Kinds.All.Where(kind => kind.IsOutsider()).ToDictionary(kind => kind, _ => 90);

    /// <summary>Whether an outsider needs a host: a member of the staff who answers for them.</summary>
    public bool HostForOutsiders { get; init; }

    /// <summary>The kinds whose acceptance takes effect only when it has been approved.</summary>
    public IReadOnlyList<Kind> Approval { get; init; } = [];

    /// <summary>The roles, by id, whose giving by invitation takes effect only when it has been approved.</summary>
    public IReadOnlyList<Guid> ApprovalRoles { get; init; } = [];

    /// <summary>Whether somebody waits for approval who comes with another address than the invited one, on the word of whoever handed them the link.</summary>
    public bool ApproveOtherAddress { get; init; }

    /// <summary>The roles, by id, one of which somebody must hold to invite a kind; kinds that are absent may be invited by anybody with the duty.</summary>
    public IReadOnlyDictionary<Kind, IReadOnlyList<Guid>> Inviters { get; init; } =
        new Dictionary<Kind, IReadOnlyList<Guid>>();

    /// <summary>Mail domains that may be invited, in lower case; empty for any. Their subdomains are meant too.</summary>
    public IReadOnlyList<string> AllowedDomains { get; init; } = [];

    /// <summary>Mail domains that may not be invited, in lower case. Their subdomains are meant too.</summary>
    public IReadOnlyList<string> BlockedDomains { get; init; } = [];

    /// <summary>How many days after the first mail an unanswered invitation is reminded of, ascending; empty for never.</summary>
    public IReadOnlyList<int> ReminderDays { get; init; } = [7, 21];

    /// <summary>
    /// The first day, in the workspace's time zone and inclusive, from which whoever holds a duty gets in only with a passkey
    /// or a second step; null for never.
    /// </summary>
    public DateOnly? StrongSignInFrom { get; init; }

    /// <summary>What follows when the holder of a claimed account does not answer.</summary>
    public Silence ClaimSilence { get; init; } = Silence.LetBe;

    /// <summary>The seat pool of which each member takes a seat whose account the workspace holds; null where none is counted for that.</summary>
    public Guid? HeldSeats { get; init; }

    /// <summary>How names of outsiders are written, offered and never forced.</summary>
    public NamingStandard OutsiderNames { get; init; } = new("");

    /// <summary>Refuses, with <c>sign-in.too-weak</c>, somebody with duties who showed too little of who they are.</summary>
    /// <param name="proof">What they showed.</param>
    /// <param name="duties">Their duties.</param>
    /// <param name="today">Today in the workspace's time zone.</param>
    public Refusal? ForbidsSignIn(Proof proof, Duties duties, DateOnly today) =>
        StrongSignInFrom <= today && duties != Duties.None && !proof.IsStrong
            ? new Refusal(
                "sign-in.too-weak",
                "Whoever has duties here signs in with a passkey or a second step.",
                "Add a passkey or set up a second step in your account, then sign in with it.",
                RefusalSort.NotAllowed
            )
            : null;

    /// <summary>Reads rules from what somebody wrote; the first fault found is the refusal.</summary>
    /// <param name="wish">What they wrote.</param>
    /// <param name="world">Where names of roles are looked up.</param>
    public static Outcome<HouseRules> Read(HouseRulesWish wish, AccessWorld world)
    {
        if (!Domains(wish.AllowedDomains, "allowedDomains").Try(out var allowed, out var refusal))
            return refusal;
        if (!Domains(wish.BlockedDomains, "blockedDomains").Try(out var blocked, out refusal))
            return refusal;
        var approval = new List<Kind>();
        foreach (var word in wish.Approval ?? [])
        {
            if (!Kinds.Read(word).Try(out var kind, out refusal))
                return refusal with { Field = "approval" };
            approval.Add(kind);
        }
        if (!Roles(wish.ApprovalRoles, world, "approvalRoles").Try(out var approvalRoles, out refusal))
            return refusal;
        var inviters = new Dictionary<Kind, IReadOnlyList<Guid>>();
        foreach (var (word, names) in wish.Inviters ?? new Dictionary<string, IReadOnlyList<string>>())
        {
            if (!Kinds.Read(word).Try(out var kind, out refusal))
                return refusal with { Field = "inviters" };
            if (!Roles(names, world, "inviters").Try(out var roles, out refusal))
                return refusal;
            if (roles.Count > 0)
                inviters[kind] = roles;
        }
        if (
            !Days(wish.LongestStayDays, "longestStayDays", "The longest stay").Try(out var stays, out refusal)
        )
            return refusal;
        if (!Days(wish.UsualStayDays, "usualStayDays", "The usual stay").Try(out var usual, out refusal))
            return refusal;
        var reminders = wish.ReminderDays ?? [7, 21];
        if (reminders.Count > 10 || reminders.Any(day => day is < 1 or > 365))
            return OutOfRange("reminderDays", "Each of at most ten reminder days", 1, 365);
        var longest = wish.LongestAnswerDays ?? (int)InvitationLife.LongestAnswerTime.TotalDays;
        if (longest is < 1 or > 365)
            return OutOfRange("longestAnswerDays", "The longest time to answer", 1, 365);
        if (!Silences.Read(wish.ClaimSilence).Try(out var silence, out refusal))
            return refusal;
        if (!NamingStandard.Read(wish.OutsiderNames).Try(out var standard, out refusal))
            return refusal;
        Guid? heldSeats = null;
        if (!string.IsNullOrWhiteSpace(wish.HeldSeats))
        {
            if (!world.FindPool(wish.HeldSeats).Try(out var pool, out refusal))
                return refusal with { Field = "heldSeats" };
            heldSeats = pool;
        }
        return new HouseRules
        {
            LongestAnswerDays = longest,
            LongestStayDays = stays,
            UsualStayDays = wish.UsualStayDays is null ? UsualAtFirst : usual,
            HostForOutsiders = wish.HostForOutsiders,
            Approval = [.. approval.Distinct().Order()],
            ApprovalRoles = approvalRoles,
            ApproveOtherAddress = wish.ApproveOtherAddress,
            Inviters = inviters,
            AllowedDomains = allowed,
            BlockedDomains = blocked,
            ReminderDays = [.. reminders.Distinct().Order()],
            StrongSignInFrom = wish.StrongSignInFrom,
            ClaimSilence = silence,
            OutsiderNames = standard,
            HeldSeats = heldSeats,
        };
    }

    /// <summary>The last day of a usual stay, inclusive, never past the longest one; null where a kind usually has no end.</summary>
    /// <param name="kind">The kind.</param>
    /// <param name="first">The first day, inclusive.</param>
    public DateOnly? UsualLastDay(Kind kind, DateOnly first) =>
        UsualDays(kind) is { } days && first.DayNumber <= DateOnly.MaxValue.DayNumber - days
            ? first.AddDays(days - 1)
            : null;

    /// <summary>How many days a kind usually stays, never more than it may; null for no end.</summary>
    public int? UsualDays(Kind kind) =>
        UsualStayDays.TryGetValue(kind, out var usual)
            ? LongestStayDays.TryGetValue(kind, out var longest)
                ? Math.Min(usual, longest)
                : usual
            : null;

    /// <summary>Refuses, with <c>rule.host-needed</c>, an outsider nobody answers for where the house wants a host.</summary>
    public Refusal? ForbidsHostless(Kind kind, bool hasHost) =>
        HostForOutsiders && kind.IsOutsider() && !hasHost
            ? Rule(
                "host-needed",
                "Outsiders need a host here.",
                "Name a member of the staff as host.",
                "host"
            )
            : null;

    /// <summary>Refuses, with <c>rule.stay-too-long</c>, a stay longer than its kind may stay.</summary>
    /// <param name="kind">The kind.</param>
    /// <param name="stay">The stay.</param>
    /// <param name="today">Today in the workspace's time zone.</param>
    public Refusal? ForbidsStay(Kind kind, Stay stay, DateOnly today)
    {
        if (!LongestStayDays.TryGetValue(kind, out var days))
            return null;
        var latest = (stay.FirstDay ?? today).AddDays(days - 1);
        return stay.LastDay is null || stay.LastDay > latest
            ? Rule(
                "stay-too-long",
                $"The longest stay of a {kind.Word()} is {days} days here.",
                $"Give a last day up to {latest:yyyy-MM-dd}.",
                "until"
            )
            : null;
    }

    /// <summary>Refuses a time to answer with <c>rule.answer-time</c>.</summary>
    public Refusal? ForbidsAnswerTime(int days) =>
        days > LongestAnswerDays
            ? Rule(
                "answer-time",
                $"The longest time to answer is {LongestAnswerDays} days here.",
                "Give fewer days.",
                "answerDays"
            )
            : null;

    /// <summary>Refuses, with <c>rule.inviter</c>, somebody who holds none of the roles that may invite a kind.</summary>
    public Refusal? ForbidsInviter(AccessWorld world, Guid inviter, Kind kind, DateOnly today)
    {
        if (!Inviters.TryGetValue(kind, out var roles) || roles.Count == 0)
            return null;
        var holds =
            world.People.TryGetValue(inviter, out var person)
            && world
                .PathsOf(person)
                .Any(path => roles.Contains(path.Grant.RoleId) && path.Grant.Window.Contains(today));
        return holds
            ? null
            : new Refusal(
                "rule.inviter",
                $"Only holders of {string.Join(" or ", roles.Select(id => world.Roles.GetValueOrDefault(id)?.Name ?? "a removed role"))} may invite a {kind.Word()} here.",
                "Ask one of them, or have the rule changed.",
                RefusalSort.NotAllowed,
                "kind"
            );
    }

    /// <summary>Refuses a mail domain with <c>rule.domain-blocked</c> or <c>rule.domain-not-allowed</c>.</summary>
    public Refusal? ForbidsDomain(EmailAddress address)
    {
        if (BlockedDomains.FirstOrDefault(address.IsAt) is { } blocked)
            return Rule(
                "domain-blocked",
                $"Addresses at {blocked} may not be invited here.",
                "Use another address of the person, or have the rule changed.",
                "address"
            );
        return AllowedDomains.Count > 0 && !AllowedDomains.Any(address.IsAt)
            ? Rule(
                "domain-not-allowed",
                $"Only addresses at {string.Join(", ", AllowedDomains.Take(5))} may be invited here.",
                "Use an address there, or have the rule changed.",
                "address"
            )
            : null;
    }

    /// <summary>Whether an acceptance by this kind, of what a bundle gives, or with another address than the invited one, waits for approval.</summary>
    public bool NeedsApproval(Kind kind, Bundle gives, bool withOtherAddress = false) =>
        Approval.Contains(kind)
        || gives.Roles.Any(given => ApprovalRoles.Contains(given.Role))
        || withOtherAddress && ApproveOtherAddress;

    /// <summary>Reads a list of mail domains; refuses with <c>domain.malformed</c> or <c>domain.too-many</c>.</summary>
    public static Outcome<IReadOnlyList<string>> Domains(IReadOnlyList<string>? written, string field)
    {
        if (written is { Count: > LongestList })
            return new Refusal(
                "domain.too-many",
                $"There are more than {LongestList} domains.",
                "Shorten the list.",
                Field: field
            );
        var domains = new SortedSet<string>(StringComparer.Ordinal);
        foreach (var text in written ?? [])
        {
            if (!EmailAddress.Read("a@" + text.Trim().TrimStart('@')).Try(out var address, out _))
                return new Refusal(
                    "domain.malformed",
                    $"\"{Words.Short(text)}\" is not a mail domain.",
                    "It should look like harbour.example.",
                    Field: field
                );
            domains.Add(address.Domain);
        }
        return Outcome.Of<IReadOnlyList<string>>([.. domains]);
    }

    private static Outcome<IReadOnlyList<Guid>> Roles(
        IReadOnlyList<string>? names,
        AccessWorld world,
        string field
    )
    {
        var roles = new List<Guid>();
        foreach (var name in names ?? [])
        {
            if (!world.FindRole(name).Try(out var role, out var refusal))
                return refusal with { Field = field, Sort = RefusalSort.Invalid };
            roles.Add(role.Id);
        }
        return Outcome.Of<IReadOnlyList<Guid>>([.. roles.Distinct()]);
    }

    private static Outcome<IReadOnlyDictionary<Kind, int>> Days(
        IReadOnlyDictionary<string, int>? written,
        string field,
        string what
    )
    {
        var read = new Dictionary<Kind, int>();
        foreach (var (word, days) in written ?? new Dictionary<string, int>())
        {
            if (!Kinds.Read(word).Try(out var kind, out var refusal))
                return refusal with { Field = field };
            if (days is < 1 or > 18_250)
                return OutOfRange(field, what, 1, 18_250);
            read[kind] = days;
        }
        return read;
    }

    private static Refusal Rule(string code, string sentence, string remedy, string field) =>
        new("rule." + code, sentence, remedy, RefusalSort.Conflict, field);

    private static Refusal OutOfRange(string field, string what, int least, int most) =>
        new(
            "rules.out-of-range",
            $"{what} must be {least} to {most} days.",
            "Correct the number.",
            Field: field
        );
}

/// <summary>Rules as somebody wrote them, unread. Null stands for "not said".</summary>
public sealed record HouseRulesWish(
    int? LongestAnswerDays,
    IReadOnlyDictionary<string, int>? LongestStayDays,
    bool HostForOutsiders,
    IReadOnlyList<string>? Approval,
    IReadOnlyList<string>? AllowedDomains,
    IReadOnlyList<string>? BlockedDomains,
    IReadOnlyList<int>? ReminderDays,
    IReadOnlyList<string>? ApprovalRoles = null,
    IReadOnlyDictionary<string, IReadOnlyList<string>>? Inviters = null,
    bool ApproveOtherAddress = false,
    IReadOnlyDictionary<string, int>? UsualStayDays = null,
    DateOnly? StrongSignInFrom = null,
    string? ClaimSilence = null,
    string? OutsiderNames = null,
    string? HeldSeats = null
);
