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
    /// <summary>Each thing that stands in the way, the inviter's own rights first; none when it can be sent.</summary>
    public static IEnumerable<Refusal> Blockers(InvitingFacts facts)
    {
        var isLead = IsLead(facts);
        if (!isLead && !facts.World.DutiesOf(facts.Inviter, facts.Day).HasFlag(Duties.Invite))
            yield return DutyWords.Missing(Duties.Invite);
        if (isLead)
        {
            foreach (var refusal in BeyondLead(facts))
                yield return refusal;
        }
        else
        {
            if (facts.Rules.ForbidsInviter(facts.World, facts.Inviter, facts.Kind, facts.Day) is { } kind)
                yield return kind;
            if (GivingRules.Forbids(facts.World, facts.Inviter, facts.Gives, facts.Day) is { } giving)
                yield return giving;
            if (
                facts.Organisation is { } own
                && GivingRules.Forbids(facts.World, facts.Inviter, own.Grants, facts.Day) is { } through
            )
                yield return through with
                {
                    Sentence = $"The organisation {own.Name} gives more than you hold: {through.Sentence}",
                    Field = "organisation",
                };
        }
        if (facts.Address is { } known && InvitingRules.Forbids(known, facts.Standing) is { } standing)
            yield return standing;
        if (facts.Gives.IsEmpty && facts.Organisation is not { Grants.Length: > 0 })
            yield return new Refusal(
                "role.missing",
                "The invitation gives nothing.",
                "Choose a role, a group or a preset.",
                Field: "role"
            );
        if (facts.Organisation is { } organisation)
        {
            foreach (var refusal in OfOrganisation(facts, organisation))
                yield return refusal;
        }
        foreach (var pool in facts.Gives.Pools)
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
        if (facts.Address is { } address && facts.Rules.ForbidsDomain(address) is { } domain)
            yield return domain;
        if (facts.NamesHost && !facts.HasHost)
            yield return new Refusal(
                "host.unknown",
                "The host is nobody of the staff here.",
                "Give the address of a member of the staff.",
                Field: "host"
            );
        else if (facts.Rules.ForbidsHostless(facts.Kind, facts.HasHost || isLead) is { } host)
            yield return host;
        if (facts.Stay is { } stay && facts.Rules.ForbidsStay(facts.Kind, stay, facts.Day) is { } length)
            yield return length;
        if (facts.Rules.ForbidsAnswerTime(facts.AnswerDays) is { } answer)
            yield return answer;
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
        if (facts.Kind != organisation.Kind)
            yield return new Refusal(
                "organisation.kind",
                $"People of {organisation.Name} come as {organisation.Kind.Word()}, not as {facts.Kind.Word()}.",
                $"Invite as {organisation.Kind.Word()}, or leave the organisation out.",
                RefusalSort.Conflict,
                "organisation"
            );
        if (organisation.Cap is { } cap && facts.OfOrganisation >= cap)
            yield return new Refusal(
                "organisation.full",
                $"{organisation.Name} may have {cap} people here, and has {facts.OfOrganisation}, the invited ones included.",
                "End somebody of it, or raise the number.",
                RefusalSort.Conflict,
                "organisation"
            );
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
