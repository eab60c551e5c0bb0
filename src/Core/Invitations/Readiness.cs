using ComeAboard.Core.Access;
using ComeAboard.Core.Workspaces;

namespace ComeAboard.Core.Invitations;

/// <summary>What is known when somebody wants to invite; without an address, for looking ahead.</summary>
/// <param name="World">Who may do what.</param>
/// <param name="Rules">The rules of the house.</param>
/// <param name="Inviter">Who invites.</param>
/// <param name="Kind">As what.</param>
/// <param name="Gives">What the invitation gives.</param>
/// <param name="Organisation">The organisation the invitee belongs to; null for none.</param>
/// <param name="Stay">From when until when; null when not yet thought of.</param>
/// <param name="AnswerDays">The time to answer, in days.</param>
/// <param name="Day">Today in the workspace's time zone.</param>
public sealed record InvitingFacts(
    AccessWorld World,
    HouseRules Rules,
    Guid Inviter,
    Kind Kind,
    Bundle Gives,
    Organisation? Organisation,
    Stay? Stay,
    int AnswerDays,
    DateOnly Day
)
{
    /// <summary>The facts about an offer that are known without looking anything up.</summary>
    /// <param name="offer">The offer.</param>
    /// <param name="world">Who may do what.</param>
    /// <param name="rules">The rules of the house.</param>
    /// <param name="inviter">Who invites.</param>
    /// <param name="day">Today in the workspace's time zone.</param>
    public static InvitingFacts Of(
        InvitationOffer offer,
        AccessWorld world,
        HouseRules rules,
        Guid inviter,
        DateOnly day
    ) =>
        new(
            world,
            rules,
            inviter,
            offer.Kind,
            offer.Gives,
            offer.OrganisationId is { } own ? world.Organisations.GetValueOrDefault(own) : null,
            offer.Stay,
            (int)offer.AnswerTime.TotalDays,
            day
        )
        {
            Address = offer.Address,
            NamesHost = offer.Host is not null,
        };

    /// <summary>The address; null when looking ahead.</summary>
    public EmailAddress? Address { get; init; }

    /// <summary>How the address stands.</summary>
    public AddressStanding Standing { get; init; } = new(null, null, false);

    /// <summary>Whether a host was named.</summary>
    public bool NamesHost { get; init; }

    /// <summary>Whether the host named is a member of the staff here.</summary>
    public bool HasHost { get; init; }

    /// <summary>The accounts of the pools the invitation wants a seat of, by id; one that is missing is not looked at.</summary>
    public IReadOnlyDictionary<Guid, SeatAccount> Seats { get; init; } = new Dictionary<Guid, SeatAccount>();

    /// <summary>How many people of the organisation are here or invited already.</summary>
    public int OfOrganisation { get; init; }
}

/// <summary>Everything that would stop an invitation, at once; the same check guards the invitation itself.</summary>
public static class Readiness
{
    /// <summary>For a host who is nobody of the staff.</summary>
    public static Refusal UnknownHost { get; } =
        new(
            "host.unknown",
            "The host is nobody of the staff here.",
            "Give the address of a member of the staff.",
            Field: "host"
        );

    /// <summary>Each thing that stands in the way, the inviter's own rights first; none when it can be sent.</summary>
    public static IEnumerable<Refusal> Blockers(InvitingFacts facts)
    {
        foreach (var refusal in GiverBlockers(facts))
            yield return refusal;
        if (facts.Address is { } known && InvitingRules.Forbids(known, facts.Standing) is { } standing)
            yield return standing;
        if (facts.Gives.IsEmpty && facts.Organisation is not { Grants.Length: > 0 })
            yield return new Refusal(
                "role.missing",
                "The invitation gives nothing.",
                "Choose a role, a group or a preset.",
                Field: "role"
            );
        foreach (var refusal in RoomBlockers(facts, isUnderWay: false))
            yield return refusal;
        if (facts.Address is { } address && facts.Rules.ForbidsDomain(address) is { } domain)
            yield return domain;
        if (facts.NamesHost && !facts.HasHost)
            yield return UnknownHost;
        else if (facts.Rules.ForbidsHostless(facts.Kind, facts.HasHost || IsLead(facts)) is { } host)
            yield return host;
        if (facts.Stay is { } stay && facts.Rules.ForbidsStay(facts.Kind, stay, facts.Day) is { } length)
            yield return length;
        if (facts.Rules.ForbidsAnswerTime(facts.AnswerDays) is { } answer)
            yield return answer;
    }

    /// <summary>Whether somebody could give what an offer gives, at this moment: the giver's question. Null when they could.</summary>
    /// <param name="world">Who may do what.</param>
    /// <param name="rules">The rules of the house.</param>
    /// <param name="giver">Who.</param>
    /// <param name="offer">What would be given.</param>
    /// <param name="day">Today in the workspace's time zone.</param>
    public static Refusal? ForbidsGiver(
        AccessWorld world,
        HouseRules rules,
        Guid giver,
        InvitationOffer offer,
        DateOnly day
    ) => GiverBlockers(InvitingFacts.Of(offer, world, rules, giver, day)).FirstOrDefault();

    private static IEnumerable<Refusal> GiverBlockers(InvitingFacts facts)
    {
        var isLead = IsLead(facts);
        if (isLead)
        {
            foreach (var refusal in BeyondLead(facts))
                yield return refusal;
            yield break;
        }
        if (!facts.World.DutiesOf(facts.Inviter, facts.Day).HasFlag(Duties.Invite))
            yield return DutyWords.Missing(Duties.Invite);
        if (facts.Rules.ForbidsInviter(facts.World, facts.Inviter, facts.Kind, facts.Day) is { } kind)
            yield return kind;
        if (
            GivingRules.ForbidsAll(
                facts.World,
                facts.Inviter,
                facts.Gives,
                facts.Organisation?.Id,
                facts.Day
            ) is
            { } giving
        )
            yield return giving;
    }

    /// <summary>Whether there is room: in the organisation and in the seat pools.</summary>
    /// <param name="facts">What is known.</param>
    /// <param name="isUnderWay">Whether the invitation holds its room already.</param>
    internal static IEnumerable<Refusal> RoomBlockers(InvitingFacts facts, bool isUnderWay)
    {
        if (facts.Organisation is { } organisation)
        {
            foreach (var refusal in OfOrganisation(facts, organisation))
            {
                if (!isUnderWay || refusal.Code != "organisation.full")
                    yield return refusal;
            }
        }
        foreach (var pool in isUnderWay ? [] : facts.Gives.Pools)
        {
            if (
                facts.Seats.TryGetValue(pool, out var account)
                && account.In(facts.Day.Year).Reserve(out _).Refusal is { } full
            )
                yield return full with
                {
                    Sentence = $"{facts.World.Pools.GetValueOrDefault(pool, "The pool")}: {full.Sentence}",
                };
        }
    }

    /// <summary>Whether somebody invites as the lead of an organisation: without the duty, for their own people.</summary>
    public static bool IsLead(InvitingFacts facts) =>
        !facts.World.DutiesOf(facts.Inviter, facts.Day).HasFlag(Duties.Invite)
        && LeadsOf(facts.World, facts.Inviter, facts.Day) is not null;

    /// <summary>The organisation somebody may invite colleagues for; null for none.</summary>
    public static Organisation? LeadsOf(AccessWorld world, Guid member, DateOnly today) =>
        world.People.TryGetValue(member, out var person)
        && person is { Leads: true, OrganisationId: { } own }
        && world.CutOf(person, today) == Cut.None
            ? world.Organisations.GetValueOrDefault(own)
            : null;

    private static IEnumerable<Refusal> BeyondLead(InvitingFacts facts)
    {
        var own = LeadsOf(facts.World, facts.Inviter, facts.Day)!;
        if (facts.Organisation?.Id != own.Id)
            yield return Lead("only people of your own organisation", "organisation");
        if (facts.Kind != own.Kind)
            yield return Lead($"people who come as {own.Kind.Word()}", "kind");
        if (facts.Gives.Roles.Count + facts.Gives.Groups.Count + facts.Gives.Pools.Count > 0)
            yield return Lead("people with what your organisation has, and nothing beside it", "role");
        if (facts.Address is { } address && !own.Domains.Any(address.IsAt))
            yield return Lead(
                own.Domains.Length == 0
                    ? "nobody, as no mail domain of your organisation is known"
                    : $"addresses at {string.Join(", ", own.Domains)}",
                "address"
            );
        var end = facts.World.People[facts.Inviter].Stay.LastDay;
        if (facts.Stay is { } stay && end is { } last && (stay.LastDay is null || stay.LastDay > last))
            yield return Lead($"people until {last:yyyy-MM-dd}, when your own stay ends", "until");
    }

    private static IEnumerable<Refusal> OfOrganisation(InvitingFacts facts, Organisation organisation)
    {
        if (organisation.IsOver(facts.Day))
            yield return new Refusal(
                "organisation.over",
                $"The agreement with {organisation.Name} ended on {organisation.AgreementEnds:yyyy-MM-dd}.",
                "Extend the agreement first.",
                RefusalSort.Conflict,
                "organisation"
            );
        if (OrganisationRules.ForbidsKind(organisation, facts.Kind) is { } kind)
            yield return kind;
        if (OrganisationRules.ForbidsMore(organisation, facts.OfOrganisation) is { } full)
            yield return full;
    }

    private static Refusal Lead(string what, string field) =>
        new(
            "right.lead-only",
            $"As the lead of your organisation you can invite {what}.",
            "Ask your contact in the workspace for anything else.",
            RefusalSort.NotAllowed,
            field
        );
}
