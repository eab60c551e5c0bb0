using System.Globalization;
using ComeAboard.Core;
using ComeAboard.Core.Access;
using ComeAboard.Core.Accounts;
using ComeAboard.Core.Workspaces;
using ComeAboard.Service.Invitations;

namespace ComeAboard.Service.Mail;

/// <summary>English.</summary>
internal sealed partial class EnglishPhrases : Phrases
{
    public override string Language => "en";
    public override CultureInfo Culture { get; } = CultureInfo.GetCultureInfo("en-GB");

    public override string Day(DateOnly day) => day.ToString("d MMMM yyyy", Culture);

    public override string Instant(DateTimeOffset at, TimeZoneInfo zone) =>
        TimeZoneInfo.ConvertTime(at, zone).ToString("d MMMM yyyy, HH:mm", Culture) + $" ({zone.Id})";

    public override string StaySentence(Stay stay) =>
        (stay.FirstDay is { } first ? $"Your access begins on {Day(first)}. " : "")
        + (stay.LastDay is { } day ? $"Your access ends after {Day(day)}." : "Your access has no end date.");

    public override string RoleSentence(Role role, Kind kind) => role.SentenceFor(kind);

    public override string RoleAt(Role role, string resource, Kind kind) =>
        role.IsBuiltIn
            ? role.Everywhere switch
            {
                Level.View => $"See {resource}.",
                Level.Contribute => $"See {resource}, add to it, and change what they added.",
                Level.Edit => $"See and change {resource}.",
                _ => $"See, change and arrange {resource}.",
            }
            : $"{resource}: {Words.Continued(role.Sentence)}";

    public override string NothingYet => "Nothing yet: somebody there decides what you may do.";

    public override LetterWords AccessChanged(string name, string workspace, string can) =>
        new(
            $"What you can do at {workspace} has changed",
            [Greeting(name), $"What you can do at {workspace} has changed. From now on: {can}"],
            [$"You get this mail because you are a member of {workspace}."]
        );

    public override string AsKind(Kind kind) => kind == Kind.Staff ? "as staff" : "as a " + kind.Word();

    public override string KindWord(Kind kind) => kind.Word();

    public override string Greeting(string name) => name.Length > 0 ? $"Dear {name}," : "Hello,";

    public override Wording Invitation { get; } =
        new(
            "{{ inviter }} invites you to {{ workspace }}",
            """
            {{ greeting }}

            {{ inviter }} invites you to {{ workspace }} {{ as_kind }}.

            What you will be able to do: {{ can }} {{ stay }}
            """
        );

    public override Wording Reminder { get; } =
        new(
            "Still open: {{ inviter }} invites you to {{ workspace }}",
            """
            {{ greeting }}

            {{ inviter }} invited you to {{ workspace }} {{ as_kind }}, and you have not answered yet. You can do so until {{ deadline }}.

            What you will be able to do: {{ can }} {{ stay }}
            """
        );

    public override string Writes(string who) => $"{who} writes:";

    public override string SeeTheInvitation => "See the invitation";
    public override string SeeYourPlaces => "See your places";
    public override string SeeThePerson => "See the person";

    public override IReadOnlyList<string> InvitationSmall(string address, string deadline, string inviter) =>
        [
            $"The invitation is for {address} and can be answered until {deadline}.",
            $"You get this mail because {inviter} entered your address. Opening the link accepts nothing: the page lets you accept, decline, or ask not to be invited again.",
            "The link is meant for you alone; please do not pass it on.",
        ];

    public override LetterWords Code(string workspace, string invited, string account, string code) =>
        new(
            $"Your code for {workspace}",
            [
                "Hello,",
                $"somebody signed in as {account} wants to accept the invitation that was sent to {invited}. If that is you, give this code on the invitation's page:",
            ],
            [
                "The code counts for 10 minutes.",
                "If it is not you, give the code to nobody: without it the invitation cannot be taken.",
            ]
        )
        {
            Code = code,
        };

    public override LetterWords Welcome(
        string name,
        string workspace,
        string asKind,
        string can,
        string stay,
        string address,
        string joined,
        string? host
    ) =>
        new(
            $"You are aboard: {workspace}",
            [
                Greeting(name),
                $"you accepted the invitation to {workspace} {asKind}.",
                $"What you can do: {can} {stay}" + (host is null ? "" : $" Your host is {host}."),
            ],
            [
                $"You get this mail because the invitation to {address} was accepted on {joined}. If it was not you, answer this mail at once.",
            ]
        );

    public override LetterWords Accepted(
        string inviter,
        string person,
        string workspace,
        string address,
        string asKind
    ) =>
        new(
            $"{person} accepted your invitation",
            [
                Greeting(inviter),
                $"{person} accepted your invitation to {workspace}, sent to {address}, and is now here {asKind}.",
            ],
            ["You get this mail because you sent the invitation, or are the host."]
        );

    public override LetterWords AwaitsApproval(
        string approver,
        string person,
        string workspace,
        string asKind
    ) =>
        new(
            $"{person} waits for approval",
            [
                Greeting(approver),
                $"{person} accepted an invitation to {workspace} {asKind}. It takes effect when somebody approves it.",
            ],
            ["You get this mail because you sent the invitation."]
        );

    public override LetterWords Waiting(string name, string workspace) =>
        new(
            $"Your answer is kept: {workspace}",
            [
                Greeting(name),
                $"you accepted the invitation to {workspace}. Somebody there has to approve it first; you get a mail as soon as that is done.",
            ],
            [
                "You get this mail because the invitation to your address was accepted. If it was not you, answer this mail at once.",
            ]
        );

    public override LetterWords NotApproved(string name, string workspace, string reason) =>
        new(
            $"Not approved: {workspace}",
            [
                Greeting(name),
                $"your acceptance of the invitation to {workspace} was not approved."
                    + (reason.Length > 0 ? $" The reason given: {reason}" : ""),
                "Your account itself is untouched.",
            ],
            ["If you think this is a mistake, answer this mail."]
        );

    public override LetterWords NewPassword(string name) =>
        new(
            "Choose a new password",
            [
                Greeting(name),
                "somebody – you, we hope – asked for a new password for your account. This link lets you choose one:",
            ],
            [
                "The link counts for an hour, once. Choosing a new password closes every sign-in of the account.",
                "If it was not you, do nothing: without the link nothing changes.",
            ]
        );

    public override LetterWords SignInCode(string name, string code) =>
        new(
            "Your code to sign in",
            [Greeting(name), "give this code on the page on which you asked for it, and you are signed in:"],
            [
                "The code counts for 10 minutes, once.",
                "If you did not ask for it, give it to nobody, on no page and on no telephone: whoever has it can sign in as you.",
            ]
        )
        {
            Code = code,
        };

    public override LetterWords ProveAddress(string name, string address) =>
        new(
            "Is this your mailbox?",
            [
                Greeting(name),
                $"your account names {address} as its address. Show that it is yours, so that it can be used if you ever forget your password, and so that nobody else can claim it:",
            ],
            ["The link counts for 7 days. If you have no such account, do nothing."]
        );

    public override LetterWords PasswordChanged(string name, string at) =>
        new(
            "Your password was changed",
            [
                Greeting(name),
                $"the password of your account was changed on {at}, and its other sign-ins were closed. API tokens go on counting; you can revoke them in the workspace.",
            ],
            ["If it was not you, choose another one at once by the link above."]
        );

    public override LetterWords ClaimAsked(
        string name,
        string workspace,
        string by,
        string address,
        string reason,
        Silence silence,
        string deadline,
        bool isAgain
    ) =>
        new(
            $"{(isAgain ? "Again: " : "")}{workspace} asks to hold your account",
            [
                Greeting(name),
                $"{by} asks, for {workspace}, that your account {address} comes into its custody: {workspace} has shown that it decides over the addresses at this domain.",
                .. reason.Length > 0 ? new[] { $"They say why: {reason}" } : [],
                .. ClaimChanges(workspace),
                "You can come with everything, come and keep your other workspaces in an account of your own, or decline.",
            ],
            [$"There is time to answer until {deadline}. {ClaimSilent(workspace, silence)}"]
        );

    public override IReadOnlyList<string> ClaimChanges(string workspace) =>
        [
            $"{workspace} could then change the name and address of the account, reset its ways in, and pause or close it.",
            $"It could not sign in as you, nor see or change what you are in other workspaces.",
        ];

    public override string ClaimSilent(string workspace, Silence silence) =>
        silence switch
        {
            Silence.Take => $"If you do not answer, the account comes into the custody of {workspace}.",
            Silence.Release =>
                "If you do not answer, the address is taken from the account; the account itself stays yours, under a stand-in address.",
            _ => "If you do not answer, nothing changes.",
        };

    public override LetterWords ClaimAnswered(
        string name,
        string workspace,
        string holder,
        string address,
        ClaimState state,
        bool isSilence
    )
    {
        var said = isSilence
            ? $"{holder} ({address}) did not answer in time."
            : $"{holder} ({address}) answered.";
        var (subject, what) = state switch
        {
            ClaimState.Taken => (
                $"{holder}: the account is in custody",
                isSilence
                    ? $"As the rule of {workspace} says, the account is in its custody now."
                    : $"They come: the account is in the custody of {workspace} now."
            ),
            ClaimState.Agreed => (
                $"{holder} agreed",
                $"They come as soon as {workspace} shows its domain and has a seat free."
            ),
            ClaimState.Declined => (
                $"{holder} declined",
                "The account stays theirs. You can take the address back, ask again after 14 days, or let it be."
            ),
            ClaimState.Released => (
                $"{holder}: the address was taken back",
                $"As the rule of {workspace} says, the address was taken back; the account stays theirs."
            ),
            ClaimState.Unanswered => (
                $"{holder} did not answer",
                "Nothing changed. You can take the address back, ask again, or let it be."
            ),
            _ => ($"{holder}: the question is over", "Nothing changed."),
        };
        return new(subject, [Greeting(name), said, what], []);
    }

    public override LetterWords ClaimTurned(
        string name,
        string workspace,
        string by,
        string address,
        ClaimState state,
        string next
    ) =>
        state switch
        {
            ClaimState.Taken => new(
                $"Your account is held by {workspace}",
                [
                    Greeting(name),
                    $"your account {address} is in the custody of {workspace} now.",
                    .. ClaimChanges(workspace),
                ],
                [
                    by.Length > 0
                        ? $"If something is unclear, ask {by}."
                        : $"If something is unclear, ask {workspace}.",
                ]
            ),
            ClaimState.Agreed => new(
                $"Your answer to {workspace}",
                [
                    Greeting(name),
                    $"you agreed that {address} comes into the custody of {workspace}. It does as soon as {workspace} shows its domain and has a seat for it.",
                ],
                ["You need do nothing."]
            ),
            ClaimState.Released => new(
                $"{address} is not an address of your account any more",
                [
                    Greeting(name),
                    $"{workspace} has taken the address {address} back. Your account stays yours, with everything it is in other workspaces; it goes on under {next}.",
                    "Sign in with that and your password, or with a passkey, and set an address of your own.",
                ],
                ["This mail is the last one to the old address."]
            ),
            ClaimState.Unanswered => new(
                $"The question of {workspace} is over",
                [
                    Greeting(name),
                    $"the time to answer is over, and nothing has changed: {address} stays yours.",
                ],
                ["You may be asked again."]
            ),
            _ => new(
                $"{workspace} has withdrawn its question",
                [Greeting(name), $"{address} is a personal account; {workspace} does not hold it."],
                ["You need do nothing."]
            ),
        };

    public override LetterWords AccountMade(string name, string workspace, string by, string address) =>
        new(
            $"Your account at {workspace}",
            [
                Greeting(name),
                $"{by} has made an account for you, {address}. It is in the custody of {workspace}. Choose a password for it, which nobody else knows.",
            ],
            ["The link counts for 14 days, once."]
        );

    public override LetterWords AddressCode(string name, string address, string code) =>
        new(
            "Your code for another address",
            [
                Greeting(name),
                $"give this code on the page on which you asked for it, and it is shown that {address} is yours:",
            ],
            ["The code counts for 10 minutes.", "If you did not ask for it, give it to nobody."]
        )
        {
            Code = code,
        };

    public override LetterWords MergeCode(string asker, string address, string code) =>
        new(
            "Your code for joining two accounts",
            [
                "Hello,",
                $"somebody who is signed in as {asker} wants to make the account at {address} one with theirs. If that is you, give this code on the page on which you asked for it:",
            ],
            [
                "The code counts for 10 minutes.",
                $"If it is not you, give it to nobody: whoever has it can take the account over.",
            ]
        )
        {
            Code = code,
        };

    public override LetterWords DomainTurned(
        string name,
        string workspace,
        string domain,
        DomainTurn turn,
        string lostBy
    ) =>
        turn switch
        {
            DomainTurn.Proved or DomainTurn.Back => new(
                $"{domain} is proved",
                [
                    Greeting(name),
                    $"it is shown that {domain} belongs to {workspace}. Accounts at it can be held by the workspace.",
                ],
                ["Leave the record in DNS where it is: it is looked at again and again."]
            ),
            DomainTurn.Lost => new(
                $"The proof of {domain} is lost",
                [
                    Greeting(name),
                    $"for 14 days DNS has not shown any more that {domain} belongs to {workspace}. Accounts at it stay as they are, but {workspace} can do nothing to them until it is shown again.",
                ],
                ["Put the record back; the domain is looked at by itself."]
            ),
            _ => new(
                $"{domain} is not shown any more",
                [
                    Greeting(name),
                    $"DNS does not show any more that {domain} belongs to {workspace}. If that lasts until {lostBy}, {workspace} can do nothing more to the accounts it holds there.",
                ],
                ["Put the record back; the domain is looked at by itself."]
            ),
        };

    public override LetterWords AccountMerged(
        string name,
        string workspace,
        string member,
        string address,
        string account,
        bool isParted
    ) =>
        isParted
            ? new(
                $"{member} has an account of their own again",
                [
                    Greeting(name),
                    $"two accounts that had been made one were parted again. {member} ({address}) comes to {workspace} by the account {account} from now on.",
                ],
                ["What they are and may do here is as it was. If you do not expect it, ask them."]
            )
            : new(
                $"Two accounts of {member} are one now",
                [
                    Greeting(name),
                    $"two accounts of one person were made one. {member} ({address}) comes to {workspace} by the account {account} from now on.",
                ],
                ["What they may do here has not become more. If you do not expect it, ask them."]
            );

    public override LetterWords WayInChanged(string name, string what, string at) =>
        new(
            "Signing in to your account has changed",
            [Greeting(name), $"on {at} this happened to your account:", what],
            ["If it was not you, choose another password at once and look at what else is there."]
        );

    public override LetterWords Proposed(
        string name,
        string workspace,
        string by,
        string newName,
        string newAddress,
        string reason,
        string until
    ) =>
        new(
            $"{workspace} proposes something for your account",
            [
                Greeting(name),
                $"{by} proposes, for {workspace}, that your account has another {(newName.Length == 0 ? "main address" : newAddress.Length == 0 ? "name" : "name and main address")}:",
                string.Join(", ", new[] { newName, newAddress }.Where(one => one.Length > 0)),
                .. reason.Length > 0 ? [reason] : Array.Empty<string>(),
                newAddress.Length == 0
                    ? $"You can accept it on the page of your account until {until}."
                    : $"You can accept it on the page of your account until {until}, once you have shown that the address is yours.",
            ],
            ["Nothing follows if you leave it."]
        );

    public override LetterWords TakenBack(string name, string workspace) =>
        new(
            $"Taken back: {workspace}",
            [
                Greeting(name),
                $"the invitation to {workspace} that you had accepted was taken back before it was approved.",
                "You need do nothing; your account itself is untouched.",
            ],
            ["If you think this is a mistake, answer this mail."]
        );

    public override LetterWords Declined(string inviter, string address, string workspace, No no) =>
        new(
            $"{address} declined your invitation",
            [
                Greeting(inviter),
                $"{address} declined the invitation to {workspace}."
                    + (no.NotMe ? " They say that somebody else was meant: check the address." : "")
                    + (
                        no.DoNotInviteAgain
                            ? " The owner of the address also asked not to be invited again; further invitations to it are refused."
                            : ""
                    ),
            ],
            ["You get this mail because you sent the invitation."]
        );

    public override LetterWords Ended(string name, string workspace, string asKind) =>
        new(
            $"Your access to {workspace} has ended",
            [
                Greeting(name),
                $"your access to {workspace} {asKind} has ended. Your account itself, and any other workspace you belong to, are untouched.",
            ],
            ["If you think this is a mistake, answer this mail."]
        );

    public override LetterWords Reinstated(string name, string workspace, string asKind) =>
        new(
            $"Your access to {workspace} is back",
            [
                Greeting(name),
                $"the end of your access to {workspace} {asKind} was taken back. You have again what you had; sign in as before.",
            ],
            ["If you think this is a mistake, answer this mail."]
        );

    public override Refusal Translate(Refusal refusal) => refusal;
}
