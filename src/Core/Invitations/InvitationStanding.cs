using ComeAboard.Core.Access;
using ComeAboard.Core.Workspaces;

namespace ComeAboard.Core.Invitations;

/// <summary>The join link an invitation came by, as it stands.</summary>
/// <param name="State">Whether it lets people in.</param>
/// <param name="Domains">Mail domains it is for, in lower case; empty for any.</param>
public sealed record JoinLinkStanding(JoinLinkState State, IReadOnlyList<string> Domains);

/// <summary>An invitation as it is stored: everything about itself that decides about its next step.</summary>
/// <param name="Id">Its id.</param>
/// <param name="Offer">What it offers, to whom.</param>
/// <param name="State">The state as last stored; see <see cref="InvitationLife.At"/>.</param>
/// <param name="Deadline">The first instant at which an answer is too late (exclusive end).</param>
/// <param name="InvitedBy">Who is answerable for it.</param>
public sealed record InvitationStanding(
    Guid Id,
    InvitationOffer Offer,
    InvitationState State,
    DateTimeOffset Deadline,
    Guid InvitedBy
)
{
    /// <summary>When the mail server took the last invitation mail; null when it did not.</summary>
    public DateTimeOffset? SentAt { get; init; }

    /// <summary>When it is reminded of next; null for never.</summary>
    public DateTimeOffset? NextReminderAt { get; init; }

    /// <summary>Whether it came by a join link.</summary>
    public bool CameByLink { get; init; }

    /// <summary>Whether whoever made that link wants each to be approved, whatever the rules say.</summary>
    public bool WantsApproval { get; init; }

    /// <summary>That link, where the step has to do with it.</summary>
    public JoinLinkStanding? Link { get; init; }
}

/// <summary>What is known when an invitation is to take a step.</summary>
/// <param name="Invitation">The invitation.</param>
/// <param name="World">Who may do what.</param>
/// <param name="Rules">The rules of the house at this moment.</param>
/// <param name="Now">The instant of the step.</param>
/// <param name="Zone">The workspace's time zone.</param>
public sealed record StepFacts(
    InvitationStanding Invitation,
    AccessWorld World,
    HouseRules Rules,
    DateTimeOffset Now,
    TimeZoneInfo Zone
)
{
    /// <summary>How the address it goes to stands, the invitation itself left aside.</summary>
    public AddressStanding Address { get; init; } = new(null, null, false);

    /// <summary>The accounts of the pools it wants a seat of, by id.</summary>
    public IReadOnlyDictionary<Guid, SeatAccount> Seats { get; init; } = new Dictionary<Guid, SeatAccount>();

    /// <summary>How many people of its organisation are here or invited, itself left aside.</summary>
    public int OfOrganisation { get; init; }

    /// <summary>Whether the host it names is a member of the staff here.</summary>
    public bool HasHost { get; init; }

    /// <summary>The proved address somebody comes with who did not prove the invited one; null otherwise.</summary>
    public EmailAddress? CameAs { get; init; }

    /// <summary>Whether the account that has accepted is a member here by now.</summary>
    public bool AnswererIsMember { get; init; }

    /// <summary>Today in the workspace's time zone.</summary>
    public DateOnly Day => Days.Of(Now, Zone);

    /// <summary>The state at this instant.</summary>
    public InvitationState State => InvitationLife.At(Invitation.State, Invitation.Deadline, Now);

    /// <summary>What is known when somebody wants to send it.</summary>
    /// <param name="inviter">Who.</param>
    public InvitingFacts InvitingBy(Guid inviter) =>
        InvitingFacts.Of(Invitation.Offer, World, Rules, inviter, Day) with
        {
            Standing = Address,
            HasHost = HasHost,
            Seats = Seats,
            OfOrganisation = OfOrganisation,
        };
}
