using ComeAboard.Client.Invitations;
using ComeAboard.Client.SignIn;
using ComeAboard.Client.Workspaces;
using ComeAboard.Core;
using ComeAboard.Core.Access;
using ComeAboard.Service.Accounts;
using ComeAboard.Service.Mail;
using ComeAboard.Storage.Workspaces;

namespace ComeAboard.Service.Pages;

/// <summary>The hidden field that shows a form came from our own page.</summary>
public sealed record FormToken(string Name, string Value);

/// <summary>An invitation's page.</summary>
/// <param name="Secret">The last part of the link.</param>
/// <param name="Offer">What is offered.</param>
/// <param name="Workspace">Where.</param>
/// <param name="SignedIn">Whoever is signed in in this browser.</param>
/// <param name="NeedsCode">Whether their account has another address than the invited one.</param>
/// <param name="CodeSent">Whether a code was just sent.</param>
/// <param name="Refusal">Why the last step was not taken.</param>
/// <param name="Typed">The name as last typed.</param>
/// <param name="Address">The address of a new account as last typed.</param>
/// <param name="Token">The form token.</param>
public sealed record LandingModel(
    string Secret,
    LandingView Offer,
    WorkspaceRow Workspace,
    MeView? SignedIn,
    bool NeedsCode,
    bool CodeSent,
    Refusal? Refusal,
    string Typed,
    string Address,
    FormToken Token
)
{
    public string KindWord => Phrases.Of(Offer.Language).KindWord(Kinds.Read(Offer.Kind).Value);
}

/// <summary>A join link's page.</summary>
/// <param name="Secret">The last part of the link.</param>
/// <param name="Offer">What is offered.</param>
/// <param name="Workspace">Where.</param>
/// <param name="Name">The name as last typed.</param>
/// <param name="Address">The address as last typed.</param>
/// <param name="Refusal">Why the last step was not taken.</param>
/// <param name="Token">The form token.</param>
public sealed record JoinModel(
    string Secret,
    JoinOfferView Offer,
    WorkspaceRow Workspace,
    string Name,
    string Address,
    Refusal? Refusal,
    FormToken Token
)
{
    public string KindWord => Phrases.Of(Offer.Language).KindWord(Kinds.Read(Offer.Kind).Value);
}

/// <summary>A page that says one thing.</summary>
public sealed record WordModel(
    string House,
    string Title,
    IReadOnlyList<string> Sentences,
    Refusal? Refusal = null,
    string? Action = null,
    string? Link = null,
    string? StopPath = null,
    FormToken? Token = null,
    string Language = "en",
    string? Colours = null
)
{
    /// <summary>Where a code is given; null for no form.</summary>
    public string? CodePath { get; init; }

    /// <summary>Where a code is asked for that lets an address be invited again; null for no form.</summary>
    public string? AllowPath { get; init; }

    /// <summary>The form token of those forms.</summary>
    public FormToken? FormToken { get; init; }
}

/// <summary>The sign-in page.</summary>
/// <param name="Next">Where one goes from there; empty for where one usually does.</param>
/// <param name="Address">The address as it was given.</param>
/// <param name="HasCode">Whether a code was mailed, and is asked for in place of a password.</param>
/// <param name="Refusal">Why the last step was not taken.</param>
/// <param name="Language">The language it speaks.</param>
/// <param name="Token">The form token.</param>
public sealed record SignInModel(
    string Next,
    string Address,
    bool HasCode,
    Refusal? Refusal,
    string Language,
    FormToken Token
)
{
    /// <summary>Whether any organisation's people sign in by a provider of its own.</summary>
    public bool HasOutside { get; init; }
}

/// <summary>The set-up page of a workspace's first administrator.</summary>
public sealed record SetUpModel(
    string Secret,
    WorkspaceRow Workspace,
    string Name,
    string Address,
    Refusal? Refusal,
    FormToken Token
);

/// <summary>The page on which somebody looks after their account.</summary>
/// <param name="Account">The account.</param>
/// <param name="History">What happened, newest first.</param>
/// <param name="Zone">In which time zone times are said.</param>
/// <param name="Refusal">Why the last step was not taken.</param>
/// <param name="Language">The language it speaks.</param>
/// <param name="Token">The form token.</param>
public sealed record AccountModel(
    AccountView Account,
    Page<AccountEventView> History,
    TimeZoneInfo Zone,
    Refusal? Refusal,
    string Language,
    FormToken Token
)
{
    /// <summary>The address a code was just mailed to, which is asked for; null for none.</summary>
    public string? CodeFor { get; init; }

    /// <summary>The split by which the account came to be, while it can be undone; null for none.</summary>
    public FoundSplit? Split { get; init; }

    /// <summary>The accounts that were joined to it by its holder and can be parted again.</summary>
    public IReadOnlyList<Merging.JoinedAccount> Joined { get; init; } = [];

    /// <summary>Whether a code was just mailed for undoing it.</summary>
    public bool HasSplitCode { get; init; }

    /// <summary>The providers that could become a way in, by id.</summary>
    public IReadOnlyDictionary<Guid, string> Outside { get; init; } = new Dictionary<Guid, string>();
}

/// <summary>How far somebody is who joins two accounts.</summary>
/// <param name="Address">The address of the other account.</param>
/// <param name="IsMailed">Whether a code was mailed to it.</param>
/// <param name="Plan">What joining would come to, once both are shown; null before.</param>
public sealed record JoinStep(string Address, bool IsMailed, Merging.JoinPlan? Plan);

/// <summary>The page on which somebody joins two accounts of their own.</summary>
public sealed record JoinAccountModel(
    string Own,
    JoinStep Step,
    Refusal? Refusal,
    string Language,
    FormToken Token
);

/// <summary>A person's own page.</summary>
public sealed record PlacesModel(MeView Me, string Language, FormToken Token);
