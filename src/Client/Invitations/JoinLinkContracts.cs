using ComeAboard.Client.Access;

namespace ComeAboard.Client.Invitations;

/// <summary>A join link to be made.</summary>
/// <param name="Label">What it is for; seen by those who look after the workspace.</param>
/// <param name="Kind">staff, guest, partner or client.</param>
/// <param name="Role">The name of a role for the whole workspace.</param>
/// <param name="Until">The last day of everybody's stay, inclusive.</param>
/// <param name="StayDays">How many days each may stay from joining, that day included; wins over Until. Where neither is said, the usual stay of the kind.</param>
/// <param name="Cap">How many people may come in by it, 1 to 10,000.</param>
/// <param name="Domains">Mail domains it is for; absent for any.</param>
/// <param name="NeedsApproval">Whether each waits for approval.</param>
/// <param name="Days">How many days it lets people in, 1 to 365; 14 when absent.</param>
/// <param name="Message">A message in plain words without links.</param>
/// <param name="Language">The language of its page and mails.</param>
public sealed record JoinLinkRequest(
    string Label,
    string Kind,
    string? Role = null,
    DateOnly? Until = null,
    int? StayDays = null,
    int Cap = 25,
    IReadOnlyList<string>? Domains = null,
    bool NeedsApproval = false,
    int? Days = null,
    string? Message = null,
    string? Language = null
)
{
    /// <summary>What is given beside the role.</summary>
    public BundleView? Gives { get; init; }

    /// <summary>Whether stays have no end; else a kind that usually has one gets it.</summary>
    public bool NoEnd { get; init; }
}

/// <summary>A join link.</summary>
/// <param name="Id">Its id.</param>
/// <param name="Label">What it is for.</param>
/// <param name="State">open, used up, expired or closed.</param>
/// <param name="Kind">As what people come in.</param>
/// <param name="Role">What it gives, in a few words.</param>
/// <param name="Until">The last day of everybody's stay; null when StayDays says or for no end.</param>
/// <param name="StayDays">How many days each may stay from joining.</param>
/// <param name="Cap">How many may come in.</param>
/// <param name="Uses">How many have, those waiting for approval included.</param>
/// <param name="Domains">Mail domains it is for; empty for any.</param>
/// <param name="NeedsApproval">Whether each waits for approval.</param>
/// <param name="ExpiresAt">The first instant at which it lets nobody in.</param>
/// <param name="Message">The message; empty for none.</param>
/// <param name="Language">The language of its page.</param>
/// <param name="CreatedBy">Who made it.</param>
/// <param name="CreatedAt">When.</param>
/// <param name="Version">The version to give back in If-Match.</param>
public sealed record JoinLinkView(
    Guid Id,
    string Label,
    string State,
    string Kind,
    string Role,
    DateOnly? Until,
    int? StayDays,
    int Cap,
    int Uses,
    IReadOnlyList<string> Domains,
    bool NeedsApproval,
    DateTimeOffset ExpiresAt,
    string Message,
    string Language,
    string CreatedBy,
    DateTimeOffset CreatedAt,
    int Version
)
{
    /// <summary>What it gives.</summary>
    public BundleView Gives { get; init; } = new();
}

/// <summary>A join link just made or renewed. The address is shown once: only its hash is kept.</summary>
/// <param name="Link">The link itself.</param>
/// <param name="Address">The address to hand out.</param>
/// <param name="QrSvg">The same as a QR code (ISO/IEC 18004), an SVG document.</param>
/// <param name="QrPng">The same as a QR code, a PNG picture in base64.</param>
public sealed record NewJoinLink(JoinLinkView Link, string Address, string QrSvg, string QrPng);

/// <summary>What a join link offers, before anything is asked.</summary>
/// <param name="Workspace">The workspace's name.</param>
/// <param name="InvitedBy">Who made the link.</param>
/// <param name="Kind">As what.</param>
/// <param name="Allows">What people will be able to do, as a sentence.</param>
/// <param name="Until">The last day of a stay that began today; null for no end.</param>
/// <param name="Message">The message; empty for none.</param>
/// <param name="Domains">Mail domains it is for; empty for any.</param>
/// <param name="NeedsApproval">Whether each waits for approval.</param>
/// <param name="ExpiresAt">The first instant at which it lets nobody in.</param>
/// <param name="Language">The language it speaks.</param>
public sealed record JoinOfferView(
    string Workspace,
    string InvitedBy,
    string Kind,
    string Allows,
    DateOnly? Until,
    string Message,
    IReadOnlyList<string> Domains,
    bool NeedsApproval,
    DateTimeOffset ExpiresAt,
    string Language
);

/// <summary>Somebody who wants to come in by a join link; a mail to their address proves it theirs.</summary>
/// <param name="Secret">The last part of the link.</param>
/// <param name="Address">Their address.</param>
/// <param name="Name">Their name.</param>
public sealed record JoinRequest(string Secret, string Address, string? Name = null);

/// <summary>What ending everybody who came in by a link did, or would do.</summary>
/// <param name="Ended">Whose access ended, or would.</param>
/// <param name="Refused">Whose did not, and why.</param>
public sealed record LinkDeparture(IReadOnlyList<string> Ended, IReadOnlyList<StepRefusal> Refused);
