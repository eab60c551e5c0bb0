namespace ComeAboard.Core.Accounts;

/// <summary>How it stands with the question whether a personally held account comes into a workspace's custody.</summary>
public enum ClaimState
{
    /// <summary>Nobody has asked: the account is personally held, at a domain the workspace has proved.</summary>
    Found,

    /// <summary>Its holder is asked.</summary>
    Asked,

    /// <summary>Its holder agreed; it is taken once the domain is shown again, or a seat is free.</summary>
    Agreed,

    /// <summary>Its holder declined.</summary>
    Declined,

    /// <summary>Its holder did not answer in time, and nothing followed from that.</summary>
    Unanswered,

    /// <summary>It is in the workspace's custody.</summary>
    Taken,

    /// <summary>The address was taken back; the account stays personal, under a stand-in address.</summary>
    Released,

    /// <summary>The question was withdrawn, or custody given up.</summary>
    Dropped,
}

/// <summary>What happens to a claim.</summary>
public enum ClaimEvent
{
    /// <summary>The workspace asks the holder.</summary>
    Ask,

    /// <summary>The workspace asks again.</summary>
    AskAgain,

    /// <summary>The workspace withdraws the question.</summary>
    Cancel,

    /// <summary>The holder comes with everything.</summary>
    Come,

    /// <summary>The holder comes, and keeps the other workspaces in an account of their own.</summary>
    ComeAndKeep,

    /// <summary>The holder declines.</summary>
    Decline,

    /// <summary>The time to answer is over.</summary>
    TimeIsUp,

    /// <summary>The workspace takes the account without an answer, where that is allowed.</summary>
    Take,

    /// <summary>The workspace takes the address back, or gives custody up.</summary>
    Release,
}

/// <summary>What follows when the holder does not answer; they are told it when they are asked.</summary>
public enum Silence
{
    /// <summary>Nothing.</summary>
    LetBe,

    /// <summary>The account is taken.</summary>
    Take,

    /// <summary>The address is taken back.</summary>
    Release,
}

/// <summary>What is known about an account when something happens to its claim.</summary>
/// <param name="Now">The instant.</param>
/// <param name="IsShown">Whether the proof of the domain is shown at this moment.</param>
/// <param name="OtherWorkspaces">In how many other workspaces the account is.</param>
/// <param name="LastUsedAt">When the account was last used anywhere.</param>
public sealed record ClaimFacts(
    DateTimeOffset Now,
    bool IsShown,
    int OtherWorkspaces,
    DateTimeOffset LastUsedAt
)
{
    /// <summary>
    /// Whether there is a seat for it: one is free or its holder has one already, or the workspace counts none for the
    /// accounts it holds.
    /// </summary>
    public bool HasSeat { get; init; } = true;

    /// <summary>How long an account has to have been unused to be taken without asking.</summary>
    public static readonly TimeSpan Unused = TimeSpan.FromDays(365);

    /// <summary>Whether nobody would miss it: it is in no other workspace, and was used nowhere for a year.</summary>
    public bool IsDormant => OtherWorkspaces == 0 && Now >= LastUsedAt + Unused;
}

/// <summary>What follows from a step of a claim; the same value is shown beforehand, done and recorded.</summary>
/// <param name="Next">The claim afterwards.</param>
public sealed record ClaimStep(Claim Next)
{
    /// <summary>Whether the account comes into custody.</summary>
    public bool Takes { get; init; }

    /// <summary>Whether custody is given up.</summary>
    public bool GivesUp { get; init; }

    /// <summary>Whether the other workspaces' memberships go to a second account.</summary>
    public bool Splits { get; init; }

    /// <summary>Whether the address is taken from the account, which goes on under a stand-in.</summary>
    public bool FreesAddress { get; init; }

    /// <summary>Whether the holder is asked by mail, with a new link.</summary>
    public bool Asks { get; init; }
}

/// <summary>
/// A claim: a workspace asks a personally held account at a domain it has proved into its custody. The transitions are
/// a table; what stands in their way is said by its refusals.
/// </summary>
/// <param name="State">How it stands.</param>
/// <param name="AskedAt">When the holder was last asked anew.</param>
/// <param name="Deadline">Until when they answer; the instant itself is too late.</param>
/// <param name="Silence">What follows when they do not.</param>
/// <param name="Mails">How many mails of this question went to them.</param>
/// <param name="DecidedAt">When it came to where it stands.</param>
public sealed record Claim(
    ClaimState State,
    DateTimeOffset? AskedAt,
    DateTimeOffset? Deadline,
    Silence Silence,
    int Mails,
    DateTimeOffset? DecidedAt
)
{
    /// <summary>How long a holder usually has to answer.</summary>
    public const int UsualNoticeDays = 14;

    /// <summary>The shortest notice, in days, inclusive.</summary>
    public const int ShortestNoticeDays = 1;

    /// <summary>The longest notice, in days, inclusive.</summary>
    public const int LongestNoticeDays = 90;

    /// <summary>The shortest notice after which silence may mean that the account is taken, in days, inclusive.</summary>
    public const int LeastNoticeToTake = 14;

    /// <summary>How long the holder has to answer who is asked in the same sitting.</summary>
    public static readonly TimeSpan Sitting = TimeSpan.FromMinutes(15);

    /// <summary>How many mails at least must have gone before silence means that the account is taken.</summary>
    public const int LeastMailsToTake = 3;

    /// <summary>How long after a no, or no answer, the holder may be asked again.</summary>
    public static readonly TimeSpan Rest = TimeSpan.FromDays(14);

    /// <summary>How long after a mail the holder may be mailed again while they are asked.</summary>
    public static readonly TimeSpan Pause = TimeSpan.FromDays(1);

    /// <summary>An account nobody has asked for.</summary>
    public static Claim New { get; } = new(ClaimState.Found, null, null, Silence.LetBe, 0, null);

    /// <summary>From where each event leads, and where to where nothing stands in its way.</summary>
    public static IReadOnlyDictionary<(ClaimState From, ClaimEvent Event), ClaimState> Table { get; } =
        new Dictionary<(ClaimState, ClaimEvent), ClaimState>
        {
            [(ClaimState.Found, ClaimEvent.Ask)] = ClaimState.Asked,
            [(ClaimState.Found, ClaimEvent.Take)] = ClaimState.Taken,
            [(ClaimState.Asked, ClaimEvent.AskAgain)] = ClaimState.Asked,
            [(ClaimState.Asked, ClaimEvent.Cancel)] = ClaimState.Dropped,
            [(ClaimState.Asked, ClaimEvent.Come)] = ClaimState.Agreed,
            [(ClaimState.Asked, ClaimEvent.ComeAndKeep)] = ClaimState.Agreed,
            [(ClaimState.Asked, ClaimEvent.Decline)] = ClaimState.Declined,
            [(ClaimState.Asked, ClaimEvent.TimeIsUp)] = ClaimState.Unanswered,
            [(ClaimState.Agreed, ClaimEvent.Take)] = ClaimState.Taken,
            [(ClaimState.Agreed, ClaimEvent.Cancel)] = ClaimState.Dropped,
            [(ClaimState.Declined, ClaimEvent.AskAgain)] = ClaimState.Asked,
            [(ClaimState.Declined, ClaimEvent.Release)] = ClaimState.Released,
            [(ClaimState.Declined, ClaimEvent.Cancel)] = ClaimState.Dropped,
            [(ClaimState.Unanswered, ClaimEvent.AskAgain)] = ClaimState.Asked,
            [(ClaimState.Unanswered, ClaimEvent.Take)] = ClaimState.Taken,
            [(ClaimState.Unanswered, ClaimEvent.Release)] = ClaimState.Released,
            [(ClaimState.Unanswered, ClaimEvent.Cancel)] = ClaimState.Dropped,
            [(ClaimState.Taken, ClaimEvent.Release)] = ClaimState.Dropped,
            [(ClaimState.Dropped, ClaimEvent.Ask)] = ClaimState.Asked,
            [(ClaimState.Dropped, ClaimEvent.Take)] = ClaimState.Taken,
        };

    /// <summary>How many days of notice the question has; 0 where nobody was asked.</summary>
    public int NoticeDays =>
        AskedAt is { } asked && Deadline is { } end ? (int)Math.Round((end - asked).TotalDays) : 0;

    /// <summary>Whether the holder is asked in the same sitting, and not given notice.</summary>
    public bool IsSitting => Deadline - AskedAt <= Sitting;

    /// <summary>When the next mail goes to the holder: half-way, three days and one day before the deadline; null for none.</summary>
    /// <param name="now">After which instant.</param>
    public DateTimeOffset? NextMailAt(DateTimeOffset now)
    {
        if (State != ClaimState.Asked || IsSitting || AskedAt is not { } asked || Deadline is not { } end)
            return null;
        var half = asked + ((end - asked) / 2);
        DateTimeOffset[] times = [half, end - TimeSpan.FromDays(3), end - TimeSpan.FromDays(1)];
        var later = times.Where(at => at > now && at >= half && at < end).ToList();
        return later.Count == 0 ? null : later.Min();
    }

    /// <summary>When something next happens to it by itself: a mail, or the end of the time to answer; null for never.</summary>
    /// <param name="now">After which instant.</param>
    public DateTimeOffset? NextAt(DateTimeOffset now) =>
        NextMailAt(now) ?? (State == ClaimState.Asked ? Deadline : null);

    /// <summary>The workspace asks, or asks again; refuses with <c>claim.notice</c>, <c>claim.notice-too-short</c>, or as every step does.</summary>
    /// <param name="facts">What is known.</param>
    /// <param name="noticeDays">How many days there are to answer.</param>
    /// <param name="silence">What follows when nobody answers.</param>
    /// <param name="isAgain">Whether it was asked before.</param>
    public Outcome<ClaimStep> Ask(ClaimFacts facts, int noticeDays, Silence silence, bool isAgain)
    {
        var what = isAgain ? ClaimEvent.AskAgain : ClaimEvent.Ask;
        if (Forbids(what, facts) is { } no)
            return no;
        if (noticeDays is < ShortestNoticeDays or > LongestNoticeDays)
            return new Refusal(
                "claim.notice",
                $"The time to answer must be {ShortestNoticeDays} to {LongestNoticeDays} days.",
                "Correct the number.",
                Field: "notice"
            );
        if (silence == Silence.Take && noticeDays < LeastNoticeToTake)
            return new Refusal(
                "claim.notice-too-short",
                $"Here silence means that the account is taken, and that needs {LeastNoticeToTake} days of notice.",
                $"Give {LeastNoticeToTake} days or more.",
                RefusalSort.Conflict,
                "notice"
            );
        // While the question stands, its deadline stays: asking again must not shorten it.
        var isReminder = State == ClaimState.Asked;
        return new ClaimStep(
            this with
            {
                State = ClaimState.Asked,
                AskedAt = isReminder ? AskedAt : facts.Now,
                Deadline = isReminder ? Deadline : facts.Now + TimeSpan.FromDays(noticeDays),
                Silence = isReminder ? Silence : silence,
                Mails = isReminder ? Mails + 1 : 1,
                DecidedAt = facts.Now,
            }
        )
        {
            Asks = true,
        };
    }

    /// <summary>
    /// The workspace asks a holder who sits beside whoever asks: they answer within <see cref="Sitting"/>, with a fresh proof, or
    /// the question is withdrawn by itself. Refuses as <see cref="Ask"/> does.
    /// </summary>
    /// <param name="facts">What is known.</param>
    public Outcome<ClaimStep> AskHere(ClaimFacts facts) =>
        Forbids(ClaimEvent.Ask, facts) is { } no
            ? no
            : new ClaimStep(
                this with
                {
                    State = ClaimState.Asked,
                    AskedAt = facts.Now,
                    Deadline = facts.Now + Sitting,
                    Silence = Silence.LetBe,
                    Mails = 1,
                    DecidedAt = facts.Now,
                }
            )
            {
                Asks = true,
            };

    /// <summary>Any other event; refuses with <c>claim.step</c> what the state does not allow, and with the code of what stands in the way.</summary>
    /// <param name="what">What happens.</param>
    /// <param name="facts">What is known.</param>
    public Outcome<ClaimStep> After(ClaimEvent what, ClaimFacts facts)
    {
        if (Forbids(what, facts) is { } no)
            return no;
        var to = Table[(State, what)];
        if (what is ClaimEvent.Come or ClaimEvent.ComeAndKeep && facts is { IsShown: true, HasSeat: true })
            to = ClaimState.Taken;
        if (what == ClaimEvent.TimeIsUp && IsSitting)
            to = ClaimState.Dropped;
        else if (what == ClaimEvent.TimeIsUp && facts.IsShown)
            to = Silence switch
            {
                Silence.Take when MayTakeSilent && facts.HasSeat => ClaimState.Taken,
                Silence.Release => ClaimState.Released,
                _ => to,
            };
        return new ClaimStep(this with { State = to, DecidedAt = facts.Now })
        {
            Takes = to == ClaimState.Taken,
            GivesUp = State == ClaimState.Taken,
            Splits = what == ClaimEvent.ComeAndKeep,
            FreesAddress = to == ClaimState.Released,
        };
    }

    private bool MayTakeSilent => NoticeDays >= LeastNoticeToTake && Mails >= LeastMailsToTake;

    /// <summary>For an account that would need a seat where none is free.</summary>
    public static Refusal NoSeat { get; } =
        new(
            "claim.no-seat",
            "Accounts that the workspace holds take a seat here, and none is free.",
            "Take a seat from somebody or enlarge the pool: aboard seats list",
            RefusalSort.Conflict
        );

    private Refusal? Forbids(ClaimEvent what, ClaimFacts facts)
    {
        var isAnswer = what is ClaimEvent.Come or ClaimEvent.ComeAndKeep or ClaimEvent.Decline;
        if (isAnswer && (State != ClaimState.Asked || facts.Now >= Deadline))
            return new Refusal(
                "claim.over",
                "This question has been answered or withdrawn, or its time is over.",
                "Nothing needs doing; ask whoever asked you if something is unclear.",
                RefusalSort.Conflict
            );
        if (!Table.ContainsKey((State, what)) || what == ClaimEvent.TimeIsUp && facts.Now < Deadline)
            return new Refusal(
                "claim.step",
                $"That cannot be done with a claim that is {State.ToString().ToLowerInvariant()}.",
                "Look at how it stands: aboard claims show ADDRESS",
                RefusalSort.Conflict
            );
        var needsDomain =
            what is ClaimEvent.Ask or ClaimEvent.AskAgain or ClaimEvent.Take
            || what == ClaimEvent.Release && State != ClaimState.Taken;
        if (needsDomain && !facts.IsShown)
            return new Refusal(
                "domain.not-shown",
                "The domain of this address is not shown to be the workspace's at present.",
                "Put its record back into DNS, and look: aboard domains check DOMAIN",
                RefusalSort.Conflict
            );
        if (what is ClaimEvent.Ask or ClaimEvent.AskAgain or ClaimEvent.Take && !facts.HasSeat)
            return NoSeat;
        if (what == ClaimEvent.AskAgain && DecidedAt is { } last)
        {
            var rest = State == ClaimState.Asked ? Pause : Rest;
            if (facts.Now < last + rest)
                return new Refusal(
                    "claim.asked-lately",
                    State == ClaimState.Asked
                        ? "The holder was mailed less than a day ago."
                        : "The holder said no, or did not answer, less than 14 days ago.",
                    "Wait until they may be asked again.",
                    RefusalSort.Conflict
                );
        }
        if (what == ClaimEvent.Take && State is (ClaimState.Found or ClaimState.Dropped) && !facts.IsDormant)
            return new Refusal(
                "claim.not-at-once",
                facts.OtherWorkspaces > 0
                    ? "The account is in other workspaces, too: its holder has to be asked."
                    : "The account was used within the last year: its holder has to be asked.",
                "Ask them, with notice or while they sit beside you: aboard claims ask ADDRESS [--at-once]",
                RefusalSort.Conflict
            );
        if (what == ClaimEvent.Take && State == ClaimState.Unanswered && !MayTakeSilent)
            return new Refusal(
                "claim.too-few-mails",
                $"An account whose holder does not answer is taken only after {LeastNoticeToTake} days of notice and {LeastMailsToTake} mails.",
                "Ask again, or take the address back: aboard claims release ADDRESS",
                RefusalSort.Conflict
            );
        return null;
    }
}
