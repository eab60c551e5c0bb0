using ComeAboard.Core.Access;
using ComeAboard.Core.Workspaces;

namespace ComeAboard.Core.Invitations;

/// <summary>What tells people of the same name apart, as far as the inviter knows it; each is empty for "not said".</summary>
/// <param name="GivenName">Their given name.</param>
/// <param name="FamilyName">Their family name.</param>
/// <param name="Organisation">The firm or body they belong to.</param>
/// <param name="Title">Their job title.</param>
/// <param name="Department">Their department.</param>
/// <param name="Manager">Whom they report to.</param>
/// <param name="Country">Their country.</param>
/// <param name="Note">A line to tell them apart, seen only by those who look after the workspace.</param>
public sealed record PersonDetails(
    string GivenName,
    string FamilyName,
    string Organisation,
    string Title,
    string Department,
    string Manager,
    string Country,
    string Note
)
{
    /// <summary>Nothing said.</summary>
    public static PersonDetails None { get; } = new("", "", "", "", "", "", "", "");

    /// <summary>Reads details; each is one line of at most <see cref="PlainText.LongestName"/> characters.</summary>
    /// <returns>The details, or <c>name.too-long</c> or <c>name.characters</c> with the field at fault.</returns>
    public static Outcome<PersonDetails> Read(InvitationWish wish)
    {
        Refusal? fault = null;
        var details = new PersonDetails(
            Line(wish.GivenName, "givenName"),
            Line(wish.FamilyName, "familyName"),
            Line(wish.Organisation, "organisation"),
            Line(wish.Title, "title"),
            Line(wish.Department, "department"),
            Line(wish.Manager, "manager"),
            Line(wish.Country, "country"),
            Line(wish.Note, "note")
        );
        return fault is null ? details : fault;

        string Line(string? text, string field)
        {
            if (string.IsNullOrEmpty(text))
                return "";
            if (
                (
                    field is "givenName" or "familyName"
                        ? PlainText.ReadPersonName(text)
                        : PlainText.ReadName(text)
                ).Try(out var line, out var refusal)
            )
                return line;
            fault ??= refusal with
            {
                Field = field,
                Sentence = refusal.Sentence.Replace("The name", $"The {field}", StringComparison.Ordinal),
            };
            return "";
        }
    }
}

/// <summary>What an invitation carries, read and checked; it cannot be built wrong.</summary>
/// <param name="Address">Who is asked.</param>
/// <param name="Kind">As what.</param>
/// <param name="Gives">What it gives.</param>
/// <param name="Stay">From when until when they may stay.</param>
/// <param name="Name">Their name as far as the inviter knows it; empty for none.</param>
/// <param name="Details">What else is known of them.</param>
/// <param name="Message">The inviter's words; empty for none.</param>
/// <param name="Language">The language of the mail, as a BCP 47 tag.</param>
/// <param name="Host">The address or id of the host as written; null for none.</param>
public sealed record InvitationOffer(
    EmailAddress Address,
    Kind Kind,
    Bundle Gives,
    Stay Stay,
    string Name,
    PersonDetails Details,
    string Message,
    string Language,
    string? Host
)
{
    /// <summary>How long it may be answered.</summary>
    public TimeSpan AnswerTime { get; init; }

    /// <summary>The organisation the workspace knows by the name or code in <see cref="Details"/>; null for none.</summary>
    public Guid? OrganisationId { get; init; }

    /// <summary>Reads an offer from what an inviter wrote; the first fault found is the refusal.</summary>
    /// <param name="wish">The inviter's words.</param>
    /// <param name="usual">What holds where the wish does not say.</param>
    /// <param name="world">Where roles, groups, resources, pools and organisations are looked up.</param>
    public static Outcome<InvitationOffer> Read(InvitationWish wish, UsualOffer usual, AccessWorld world)
    {
        var (offer, faults) = ReadThrough(wish, usual, world);
        return faults.Count > 0 ? faults[0] : offer;
    }

    /// <summary>
    /// What is wrong with what is said for everybody in a list, and would be with each of them; null when nothing is. Who is asked
    /// is left to the list, and so is as what, where nothing is said of it.
    /// </summary>
    /// <param name="wish">What is said for all.</param>
    /// <param name="usual">What holds where the wish does not say.</param>
    /// <param name="world">Where roles, groups, resources, pools and organisations are looked up.</param>
    public static Refusal? WrongForAll(InvitationWish wish, UsualOffer usual, AccessWorld world) =>
        ReadThrough(wish, usual, world)
            .Faults.FirstOrDefault(fault =>
                fault.Field != "address" && (fault.Field != "kind" || !string.IsNullOrWhiteSpace(wish.Kind))
            );

    /// <summary>
    /// Reads all of an offer, so that one fault hides no other: what cannot be read is named, and in its place stands what
    /// is usual.
    /// </summary>
    /// <param name="wish">The inviter's words.</param>
    /// <param name="usual">What holds where the wish does not say.</param>
    /// <param name="world">Where roles, groups, resources, pools and organisations are looked up.</param>
    public static (InvitationOffer Offer, IReadOnlyList<Refusal> Faults) ReadThrough(
        InvitationWish wish,
        UsualOffer usual,
        AccessWorld world
    )
    {
        List<Refusal>? faults = null;
        if (!EmailAddress.Read(wish.Address).Try(out var address, out var refusal))
        {
            Note(refusal);
            address = Nobody;
        }
        var known = FindOrganisation();
        if (!Kinds.Read(wish.Kind).Try(out var kind, out refusal))
        {
            Note(refusal);
            kind = known?.Kind ?? Kind.Guest;
        }
        if (!Bundle.Read(wish.Gives, world).Try(out var gives, out refusal))
        {
            Note(refusal);
            gives = Bundle.Nothing;
        }
        var until = wish.Until ?? (wish.NoEnd ? null : usual.LastDayOf(kind, wish.From));
        if (!Stay.Between(wish.From, until, usual.Day).Try(out var stay, out refusal))
        {
            Note(refusal);
            stay = new Stay(null);
        }
        if (wish.NoEnd && wish.Until is not null)
            Note(
                new Refusal(
                    "stay.both",
                    "A stay cannot have a last day and no end.",
                    "Leave one of them out.",
                    Field: "until"
                )
            );
        var name = Or(PlainText.ReadPersonName(wish.Name), "");
        var details = Or(PersonDetails.Read(wish), PersonDetails.None);
        var message = Or(PlainText.ReadMessage(wish.Message), "");
        var language = Or(Languages.Read(wish.Language ?? usual.Language), usual.Language);
        var answerTime = wish.AnswerDays is { } days ? TimeSpan.FromDays(days) : usual.AnswerTime;
        if (answerTime < TimeSpan.FromDays(1) || answerTime > InvitationLife.LongestAnswerTime)
        {
            Note(
                new Refusal(
                    "answer-time.out-of-range",
                    "The time to answer must be 1 to 365 days.",
                    "Give a number of days in that range.",
                    Field: "answerDays"
                )
            );
            answerTime = usual.AnswerTime;
        }
        if (name.Length == 0)
            name = $"{details.GivenName} {details.FamilyName}".Trim();
        var host = string.IsNullOrWhiteSpace(wish.Host) ? null : wish.Host.Trim();
        if (known is not null)
            details = details with { Organisation = known.Name };
        var offer = new InvitationOffer(address, kind, gives, stay, name, details, message, language, host)
        {
            OrganisationId = known?.Id,
            AnswerTime = answerTime,
        };
        return (offer, faults ?? (IReadOnlyList<Refusal>)[]);

        Organisation? FindOrganisation()
        {
            if (
                !OrganisationRules
                    .Find(world, wish.Organisation, wish.OrganisationAsWritten)
                    .Try(out var found, out var none)
            )
                Note(none);
            return found.Known;
        }

        T Or<T>(Outcome<T> read, T otherwise)
            where T : notnull
        {
            if (read.Try(out var good, out var fault))
                return good;
            Note(fault);
            return otherwise;
        }

        void Note(Refusal fault) => (faults ??= []).Add(fault);
    }

    private static readonly EmailAddress Nobody = EmailAddress.Read("somebody@example.org").Value;
}

/// <summary>What holds for an invitation where its inviter does not say.</summary>
/// <param name="Day">Today in the workspace's time zone.</param>
/// <param name="Language">The workspace's language.</param>
/// <param name="AnswerTime">How long it may be answered.</param>
/// <param name="Rules">The rules of the house, which know how long a kind usually stays.</param>
public sealed record UsualOffer(DateOnly Day, string Language, TimeSpan AnswerTime, HouseRules Rules)
{
    /// <summary>The last day of a usual stay, inclusive; null where a kind usually stays without end.</summary>
    /// <param name="kind">The kind.</param>
    /// <param name="from">The first day, inclusive; null for today.</param>
    public DateOnly? LastDayOf(Kind kind, DateOnly? from) => Rules.UsualLastDay(kind, from ?? Day);
}

/// <summary>An inviter's words, unread. Null stands for "not said".</summary>
/// <param name="Address">The address as typed.</param>
/// <param name="Kind">The word of a kind.</param>
/// <param name="Role">The name of a role for the whole workspace, or at <see cref="Resource"/>.</param>
/// <param name="Name">The invitee's name.</param>
/// <param name="Message">A message in plain words.</param>
/// <param name="Until">The last day of the stay, inclusive.</param>
/// <param name="Language">A BCP 47 tag.</param>
public sealed record InvitationWish(
    string? Address,
    string? Kind,
    string? Role = null,
    string? Name = null,
    string? Message = null,
    DateOnly? Until = null,
    string? Language = null
)
{
    /// <summary>The first day of the stay, inclusive; at once when not said.</summary>
    public DateOnly? From { get; init; }

    /// <summary>Whether the stay is to have no end, said on purpose; else a kind that usually has one gets it.</summary>
    public bool NoEnd { get; init; }

    /// <summary>Whether an organisation nobody here knows is meant as it is written.</summary>
    public bool OrganisationAsWritten { get; init; }

    /// <summary>How many days it may be answered; the workspace's usual time when not said.</summary>
    public int? AnswerDays { get; init; }

    /// <summary>Their given name.</summary>
    public string? GivenName { get; init; }

    /// <summary>Their family name.</summary>
    public string? FamilyName { get; init; }

    /// <summary>The firm or body they belong to.</summary>
    public string? Organisation { get; init; }

    /// <summary>Their job title.</summary>
    public string? Title { get; init; }

    /// <summary>Their department.</summary>
    public string? Department { get; init; }

    /// <summary>Whom they report to.</summary>
    public string? Manager { get; init; }

    /// <summary>Their country.</summary>
    public string? Country { get; init; }

    /// <summary>A line to tell them apart.</summary>
    public string? Note { get; init; }

    /// <summary>The address or id of the member of the staff who answers for them.</summary>
    public string? Host { get; init; }

    /// <summary>The name of a group, or several, separated by semicolons.</summary>
    public string? Group { get; init; }

    /// <summary>The name of the resource that <see cref="Role"/> is given at.</summary>
    public string? Resource { get; init; }

    /// <summary>What is given beside <see cref="Role"/> and <see cref="Group"/>.</summary>
    public BundleWish More { get; init; } = BundleWish.None;

    /// <summary>All that is to be given.</summary>
    public BundleWish Gives =>
        new(
            string.IsNullOrWhiteSpace(Role) ? More.Roles : [new RoleWish(Role, Resource), .. More.Roles],
            string.IsNullOrWhiteSpace(Group)
                ? More.Groups
                :
                [
                    .. Group.Split(
                        ';',
                        StringSplitOptions.RemoveEmptyEntries | StringSplitOptions.TrimEntries
                    ),
                    .. More.Groups,
                ],
            More.Seats
        );

    /// <summary>Whether anything to be given is said.</summary>
    public bool SaysWhatItGives => !Gives.IsNone;
}
