using System.Globalization;
using ComeAboard.Core.Access;
using ComeAboard.Core.Accounts;
using ComeAboard.Core.Workspaces;
using ComeAboard.Service.Invitations;

namespace ComeAboard.Service.Mail;

/// <summary>The sentences of mails and invitee pages in one language. Every language says everything.</summary>
public abstract class Phrases
{
    private static readonly Dictionary<string, Phrases> All = new(StringComparer.Ordinal)
    {
        ["en"] = new EnglishPhrases(),
        ["de"] = new GermanPhrases(),
    };

    /// <summary>The phrases of a language, a BCP 47 tag; English where there are none.</summary>
    public static Phrases Of(string language) => All.GetValueOrDefault(language) ?? All[Languages.Default];

    public abstract string Language { get; }
    public abstract CultureInfo Culture { get; }

    /// <summary>A day as it is written in mails and on invitee pages: 31 January 2027.</summary>
    public abstract string Day(DateOnly day);

    /// <summary>An instant as a day and time of a zone, with the zone named.</summary>
    public abstract string Instant(DateTimeOffset at, TimeZoneInfo zone);

    /// <summary>How long a stay lasts, as a sentence.</summary>
    public abstract string StaySentence(Stay stay);

    /// <summary>What the holder of a role can do, as a sentence.</summary>
    public abstract string RoleSentence(Role role, Kind kind);

    /// <summary>What the holder of a role can do at one resource, as a sentence.</summary>
    public abstract string RoleAt(Role role, string resource, Kind kind);

    /// <summary>For whoever is given nothing.</summary>
    public abstract string NothingYet { get; }

    /// <summary>Tells somebody that what they may do has changed.</summary>
    public abstract LetterWords AccessChanged(string name, string workspace, string can);

    /// <summary>As what somebody comes: as a guest.</summary>
    public abstract string AsKind(Kind kind);

    /// <summary>The word of a kind.</summary>
    public abstract string KindWord(Kind kind);

    public abstract string Greeting(string name);

    /// <summary>The wording an invitation has unless the workspace writes its own; Liquid templates.</summary>
    public abstract Wording Invitation { get; }

    /// <summary>The wording of a reminder.</summary>
    public abstract Wording Reminder { get; }

    public abstract string Writes(string who);
    public abstract string SeeTheInvitation { get; }
    public abstract string SeeYourPlaces { get; }
    public abstract string SeeThePerson { get; }

    public abstract IReadOnlyList<string> InvitationSmall(string address, string deadline, string inviter);
    public abstract LetterWords Code(string workspace, string invited, string account, string code);
    public abstract LetterWords Welcome(
        string name,
        string workspace,
        string asKind,
        string can,
        string stay,
        string address,
        string joined,
        string? host
    );
    public abstract LetterWords Accepted(
        string inviter,
        string person,
        string workspace,
        string address,
        string asKind
    );
    public abstract LetterWords AwaitsApproval(
        string approver,
        string person,
        string workspace,
        string asKind
    );
    public abstract LetterWords Waiting(string name, string workspace);
    public abstract LetterWords NotApproved(string name, string workspace, string reason);
    public abstract LetterWords NewPassword(string name);
    public abstract LetterWords SignInCode(string name, string code);
    public abstract LetterWords ProveAddress(string name, string address);
    public abstract LetterWords PasswordChanged(string name, string at);
    public abstract LetterWords ClaimAsked(
        string name,
        string workspace,
        string by,
        string address,
        string reason,
        Silence silence,
        string deadline,
        bool isAgain
    );
    public abstract LetterWords ClaimTurned(
        string name,
        string workspace,
        string by,
        string address,
        ClaimState state,
        string next
    );
    public abstract LetterWords ClaimAnswered(
        string name,
        string workspace,
        string holder,
        string address,
        ClaimState state,
        bool isSilence
    );
    public abstract LetterWords AccountMade(string name, string workspace, string by, string address);
    public abstract LetterWords AddressCode(string name, string address, string code);

    /// <summary>To the address of an account that somebody with another wants to join to it.</summary>
    public abstract LetterWords MergeCode(string asker, string address, string code);

    /// <summary>What changes for the holder of an account that comes into a workspace's custody.</summary>
    public abstract IReadOnlyList<string> ClaimChanges(string workspace);

    /// <summary>What follows when nobody answers a claim.</summary>
    public abstract string ClaimSilent(string workspace, Silence silence);
    public abstract LetterWords DomainTurned(
        string name,
        string workspace,
        string domain,
        DomainTurn turn,
        string lostBy
    );

    /// <summary>To whoever looks after people: that a member comes in by another account of theirs from now on.</summary>
    public abstract LetterWords AccountMerged(
        string name,
        string workspace,
        string member,
        string address,
        string account,
        bool isParted
    );

    public abstract LetterWords WayInChanged(string name, string what, string at);
    public abstract LetterWords Proposed(
        string name,
        string workspace,
        string by,
        string newName,
        string newAddress,
        string reason,
        string until
    );
    public abstract LetterWords TakenBack(string name, string workspace);
    public abstract LetterWords Declined(string inviter, string address, string workspace, No no);
    public abstract LetterWords Ended(string name, string workspace, string asKind);
    public abstract LetterWords Reinstated(string name, string workspace, string asKind);

    /// <summary>The refusal as an invitee reads it: in their language where there is a translation.</summary>
    public abstract Core.Refusal Translate(Core.Refusal refusal);

    public abstract PageWords Page { get; }
}

/// <summary>The wording of a mail: Liquid templates of its subject and of its paragraphs, which blank lines part.</summary>
public sealed record Wording(string Subject, string Body);

/// <summary>The fixed words of invitee pages.</summary>
public sealed record PageWords
{
    public required string Where { get; init; }
    public required string InvitedBy { get; init; }
    public required string For { get; init; }
    public required string As { get; init; }
    public required string YouWillBeAble { get; init; }
    public required string YouCan { get; init; }
    public required string From { get; init; }
    public required string Until { get; init; }
    public required string Inclusive { get; init; }
    public required string NoEnd { get; init; }
    public required string AnswerBy { get; init; }
    public required string Host { get; init; }
    public required string ApprovalNote { get; init; }
    public required string Accept { get; init; }
    public required string AcceptAs { get; init; }
    public required string NeedsCode { get; init; }
    public required string SendCode { get; init; }
    public required string SendAnotherCode { get; init; }
    public required string CodeOnItsWay { get; init; }
    public required string Code { get; init; }
    public required string HandedOver { get; init; }
    public required string SendCodeHere { get; init; }
    public required string BorneUnproved { get; init; }
    public required string NotYou { get; init; }
    public required string NewAccount { get; init; }
    public required string YourName { get; init; }
    public required string ChoosePassword { get; init; }
    public required string PasswordRule { get; init; }
    public required string HasAccount { get; init; }
    public required string HaveAccount { get; init; }
    public required string AccountAddress { get; init; }
    public required string Password { get; init; }
    public required string SignIn { get; init; }
    public required string NoThankYou { get; init; }
    public required string DoNotInvite { get; init; }
    public required string Decline { get; init; }
    public required string NotMe { get; init; }
    public required string Invites { get; init; }
    public required string LinkClosed { get; init; }
    public required string NotDone { get; init; }
    public required string Declined { get; init; }
    public required string DeclinedStopped { get; init; }
    public required string DeclinedKept { get; init; }
    public required string StopAddress { get; init; }
    public required string WaitingTitle { get; init; }
    public required string WaitingSentence { get; init; }
    public required string JoinTitle { get; init; }
    public required string JoinProof { get; init; }
    public required string YourAddress { get; init; }
    public required string AskLink { get; init; }
    public required string OnlyDomains { get; init; }
    public required string OpenUntil { get; init; }
    public required string JoinMailTitle { get; init; }
    public required string JoinMailSentence { get; init; }
    public required string StopTitle { get; init; }
    public required string StopSentence { get; init; }
    public required string StopButton { get; init; }
    public required string Stopped { get; init; }
    public required string AllowTitle { get; init; }
    public required string AllowedTitle { get; init; }
    public required string Allowed { get; init; }
    public required string AllowButton { get; init; }
    public required string AllowHint { get; init; }
    public required string Forgotten { get; init; }
    public required string ForgottenHow { get; init; }
    public required string ForgottenSent { get; init; }
    public required string SendLink { get; init; }
    public required string NewPassword { get; init; }
    public required string OldPassword { get; init; }
    public required string KeepPassword { get; init; }
    public required string ChangePassword { get; init; }
    public required string ChangeHow { get; init; }
    public required string PasswordChanged { get; init; }
    public required string ProveTitle { get; init; }
    public required string ProveHow { get; init; }
    public required string ProveButton { get; init; }
    public required string Proved { get; init; }
    public required string MyPlaces { get; init; }
    public required string YourLanguage { get; init; }
    public required string KeepLanguage { get; init; }
    public required string LanguageHow { get; init; }
    public required string StoredAboutYou { get; init; }
    public required string SeePerson { get; init; }
    public required string SeeDomains { get; init; }
    public required string SecondStep { get; init; }
    public required string StepHow { get; init; }
    public required string SignInAnew { get; init; }
    public required string RecoveryCodes { get; init; }
    public required string RecoveryCodesHow { get; init; }
    public required string CodesKept { get; init; }
    public required string SecondStepHow { get; init; }
    public required string SecondStepQr { get; init; }
    public required string SecondStepKey { get; init; }
    public required string CodeShown { get; init; }
    public required string SetUpSecondStep { get; init; }
    public required string CodesOfTheMoment { get; init; }
    public required string SecondStepNone { get; init; }
    public required string RecoveryCodesLeft { get; init; }
    public required string NewRecoveryCodes { get; init; }
    public required string OrCode { get; init; }
    public required string ConfirmWithPasskey { get; init; }
    public required string ClaimAnswer { get; init; }
    public required string ClaimTitle { get; init; }
    public required string ClaimAsks { get; init; }
    public required string ClaimReason { get; init; }
    public required string ClaimUntil { get; init; }
    public required string ClaimElsewhere { get; init; }
    public required string ClaimCome { get; init; }
    public required string ClaimComeHow { get; init; }
    public required string ClaimKeep { get; init; }
    public required string ClaimKeepHow { get; init; }
    public required string ClaimKeepAddress { get; init; }
    public required string ClaimSendCode { get; init; }
    public required string ClaimDecline { get; init; }
    public required string ClaimDeclineHow { get; init; }
    public required string ClaimSignIn { get; init; }
    public required string ClaimWait { get; init; }
    public required string ClaimHeld { get; init; }
    public required string ClaimDoneTaken { get; init; }
    public required string ClaimDoneAgreed { get; init; }
    public required string ClaimDoneDeclined { get; init; }
    public required string ClaimOver { get; init; }
    public required string MergeTitle { get; init; }
    public required string MergeSection { get; init; }
    public required string MergeHow { get; init; }
    public required string MergeBegin { get; init; }
    public required string MergeAddress { get; init; }
    public required string MergeStep { get; init; }
    public required string MergeShow { get; init; }
    public required string MergeWhat { get; init; }
    public required string MergeLosesStep { get; init; }
    public required string MergeHeld { get; init; }
    public required string MergeBoth { get; init; }
    public required string MergeBothNothing { get; init; }
    public required string MergeLost { get; init; }
    public required string MergePasses { get; init; }
    public required string MergeTold { get; init; }
    public required string MergeDo { get; init; }
    public required string MergeKeepOther { get; init; }
    public required string MergeDone { get; init; }
    public required string MergedUntil { get; init; }
    public required string MergePart { get; init; }
    public required string MergeParted { get; init; }
    public required string SplitTitle { get; init; }
    public required string SplitHow { get; init; }
    public required string SplitHeld { get; init; }
    public required string SplitSendCode { get; init; }
    public required string SplitJoin { get; init; }
    public required string SplitDone { get; init; }
    public required string SetUpAccount { get; init; }
    public required string SheetTitle { get; init; }
    public required string SheetHow { get; init; }
    public required string SheetUntil { get; init; }
    public required string MakeMain { get; init; }
    public required string NoticesHere { get; init; }
    public required string NoticesGoHere { get; init; }
    public required string NoticesToMain { get; init; }
    public required string AddressCodeSent { get; init; }
    public required string AddAddress { get; init; }
    public required string AnotherAddress { get; init; }
    public required string SignInWithPasskey { get; init; }
    public required string PasskeyBrokenOff { get; init; }
    public required string PasskeyNamed { get; init; }
    public required string Remove { get; init; }
    public required string PasskeyLabel { get; init; }
    public required string PasskeyExample { get; init; }
    public required string AddPasskey { get; init; }
    public required string PasskeyHow { get; init; }
    public required string ConfirmTitle { get; init; }
    public required string ConfirmHow { get; init; }
    public required string Confirm { get; init; }
    public required string OutsideSignIn { get; init; }
    public required string OutsideOn { get; init; }
    public required string OutsideGo { get; init; }
    public required string OutsideNamed { get; init; }
    public required string OutsideAdd { get; init; }
    public required string OutsideConfirm { get; init; }
    public required string Proposals { get; init; }
    public required string ProposalBy { get; init; }
    public required string ProposalName { get; init; }
    public required string ProposalAddress { get; init; }
    public required string ProposalUntil { get; init; }
    public required string ProposalAccept { get; init; }
    public required string ProposalProve { get; init; }
    public required string ProposalAside { get; init; }
    public required string CodeInstead { get; init; }
    public required string SignInCodeSent { get; init; }
    public required string SignInWithPassword { get; init; }
    public required string NoAccountYet { get; init; }
    public required string YourAccount { get; init; }
    public required string WaysIn { get; init; }
    public required string SinceUsed { get; init; }
    public required string SinceUnused { get; init; }
    public required string Addresses { get; init; }
    public required string ProvedOn { get; init; }
    public required string NotProved { get; init; }
    public required string SignedInAt { get; init; }
    public required string ThisBrowser { get; init; }
    public required string SignInFacts { get; init; }
    public required string FromNetwork { get; init; }
    public required string CloseSignIn { get; init; }
    public required string CloseOthers { get; init; }
    public required string Programs { get; init; }
    public required string ProgramFacts { get; init; }
    public required string Withdraw { get; init; }
    public required string WhatHappened { get; init; }
    public required string Earlier { get; init; }
    public required string TimesOf { get; init; }
    public required string UnknownBrowser { get; init; }
    public required string NoPlaces { get; init; }
    public required string OpenConsole { get; init; }
    public required string SignedInAs { get; init; }
    public required string SignOut { get; init; }
    public required string LeaveLink { get; init; }
    public required string LeaveTitle { get; init; }
    public required string LeaveLosses { get; init; }
    public required string LeaveTokens { get; init; }
    public required string LeaveLinks { get; init; }
    public required string LeaveSeats { get; init; }
    public required string LeavePassedOn { get; init; }
    public required string LeaveStays { get; init; }
    public required string LeaveButton { get; init; }
    public required string Left { get; init; }
    public required string YourColleagues { get; init; }
    public required string IsHere { get; init; }
    public required string IsInvited { get; init; }
    public required string AtMost { get; init; }
    public required string ColleagueInvited { get; init; }
    public required string InviteColleague { get; init; }
    public required string TheirName { get; init; }
    public required string TheirAddress { get; init; }
    public required string SendInvitation { get; init; }
}
