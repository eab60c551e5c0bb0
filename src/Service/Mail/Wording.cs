using System.Globalization;
using ComeAboard.Core.Access;
using ComeAboard.Core.Invitations;
using ComeAboard.Core.Workspaces;
using ComeAboard.Service.Invitations;
using ComeAboard.Storage.Accounts;
using ComeAboard.Storage.Invitations;
using ComeAboard.Storage.Workspaces;

namespace ComeAboard.Service.Mail;

/// <summary>The words of every mail.</summary>
public static class Wording
{
    private static readonly CultureInfo English = CultureInfo.GetCultureInfo("en-GB");

    /// <summary>A day as it is written in mails and on invitee pages: 31 January 2027.</summary>
    public static string Day(DateOnly day) => day.ToString("d MMMM yyyy", English);

    /// <summary>An instant as a day and time of the workspace, with the zone named.</summary>
    public static string Instant(DateTimeOffset at, WorkspaceRow workspace) =>
        TimeZoneInfo.ConvertTime(at, workspace.Zone).ToString("d MMMM yyyy, HH:mm", English)
        + $" ({workspace.TimeZone})";

    /// <summary>How long a stay lasts, as a sentence.</summary>
    public static string StaySentence(Stay stay) =>
        stay.LastDay is { } day ? $"Your access ends after {Day(day)}." : "Your access has no end date.";

    public static LetterWords Invitation(InvitationRow invitation, WorkspaceRow workspace, string link)
    {
        var role = Role.Read(invitation.Role).Value;
        var greeting = invitation.Name.Length > 0 ? $"Dear {invitation.Name}," : "Hello,";
        return new LetterWords(
            $"{invitation.InvitedByName} invites you to {workspace.Name}",
            [
                greeting,
                $"{invitation.InvitedByName} invites you to {workspace.Name} as {Article(invitation.Kind)}.",
                $"What you will be able to do: {LowerFirst(role.SentenceFor(invitation.Kind))} {StaySentence(new Stay(invitation.LastDay))}",
            ],
            [
                $"The invitation is for {invitation.Address} and can be answered until {Instant(invitation.Deadline, workspace)}.",
                $"You get this mail because {invitation.InvitedByName} entered your address. Opening the link accepts nothing: the page lets you accept, decline, or ask not to be invited again.",
                "The link is meant for you alone; please do not pass it on.",
            ]
        )
        {
            Quote = invitation.Message,
            QuotedBy = invitation.InvitedByName,
            Action = "See the invitation",
            Link = link,
        };
    }

    public static LetterWords Code(
        InvitationRow invitation,
        WorkspaceRow workspace,
        string code,
        string accountAddress
    ) =>
        new(
            $"Your code for {workspace.Name}",
            [
                "Hello,",
                $"somebody signed in as {accountAddress} wants to accept the invitation that was sent to {invitation.Address}. If that is you, give this code on the invitation's page:",
            ],
            [
                "The code counts for 10 minutes.",
                "If it is not you, give the code to nobody: without it the invitation cannot be taken.",
            ]
        )
        {
            Code = code,
        };

    public static LetterWords Welcome(MemberRow member, WorkspaceRow workspace, string link) =>
        new(
            $"You are aboard: {workspace.Name}",
            [
                $"Dear {member.Name},",
                $"you accepted the invitation to {workspace.Name} as {Article(member.Kind)}.",
                $"What you can do: {LowerFirst(member.CoreRole.SentenceFor(member.Kind))} {StaySentence(member.Stay)}",
            ],
            [
                $"You get this mail because the invitation to {member.Address} was accepted on {Instant(member.JoinedAt, workspace)}. If it was not you, answer this mail at once.",
            ]
        )
        {
            Action = "See your places",
            Link = link,
        };

    public static LetterWords Accepted(
        InvitationRow invitation,
        MemberRow member,
        WorkspaceRow workspace,
        string link
    ) =>
        new(
            $"{member.Name} accepted your invitation",
            [
                $"Dear {invitation.InvitedByName},",
                $"{member.Name} accepted your invitation to {workspace.Name}, sent to {invitation.Address}, and is now here as {Article(member.Kind)}.",
            ],
            ["You get this mail because you sent the invitation."]
        )
        {
            Action = "See the person",
            Link = link,
        };

    public static LetterWords Declined(
        InvitationRow invitation,
        WorkspaceRow workspace,
        No no,
        string link
    ) =>
        new(
            $"{invitation.Address} declined your invitation",
            [
                $"Dear {invitation.InvitedByName},",
                $"{invitation.Address} declined the invitation to {workspace.Name}."
                    + (no.NotMe ? " They say that somebody else was meant: check the address." : "")
                    + (
                        no.DoNotInviteAgain
                            ? " The owner of the address also asked not to be invited again; further invitations to it are refused."
                            : ""
                    ),
            ],
            ["You get this mail because you sent the invitation."]
        )
        {
            Action = "See the invitation",
            Link = link,
        };

    public static LetterWords Ended(MemberRow member, WorkspaceRow workspace) =>
        new(
            $"Your access to {workspace.Name} has ended",
            [
                $"Dear {member.Name},",
                $"your access to {workspace.Name} as {Article(member.Kind)} has ended. Your account itself, and any other workspace you belong to, are untouched.",
            ],
            ["If you think this is a mistake, answer this mail."]
        );

    /// <summary>A kind with its article: a guest.</summary>
    public static string Article(Kind kind) => kind == Kind.Staff ? "staff" : "a " + kind.Word();

    private static string LowerFirst(string sentence) => char.ToLowerInvariant(sentence[0]) + sentence[1..];
}
