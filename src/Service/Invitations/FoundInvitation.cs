using ComeAboard.Client.Invitations;
using ComeAboard.Core;
using ComeAboard.Core.Access;
using ComeAboard.Core.Accounts;
using ComeAboard.Core.Invitations;
using ComeAboard.Storage.Accounts;
using ComeAboard.Storage.Invitations;
using ComeAboard.Storage.Workspaces;
using Microsoft.AspNetCore.Identity;
using Microsoft.EntityFrameworkCore;

namespace ComeAboard.Service.Invitations;

/// <summary>A new account, as its holder wants it.</summary>
/// <param name="Name">The name others see.</param>
/// <param name="Password">Its password.</param>
/// <param name="Address">At which address, where the link was handed over; the invited one when absent.</param>
/// <param name="Code">The code mailed to that address, where the link was handed over.</param>
public sealed record Newcomer(string? Name, string? Password, string? Address = null, string? Code = null);

/// <summary>A newcomer for whose address a provider (OpenID Connect) vouches.</summary>
/// <param name="Name">The name of the new account.</param>
/// <param name="At">Its address.</param>
/// <param name="Provider">What the provider is known by.</param>
/// <param name="WayIn">Makes the way in of an account with a given id.</param>
public sealed record Vouched(string Name, EmailAddress At, string Provider, Func<Guid, CredentialRow> WayIn);

/// <summary>An invitation with its workspace, found by the hash of its link.</summary>
public sealed record FoundInvitation(InvitationRow Invitation, WorkspaceRow Workspace)
{
    public SecretHash Hash { get; init; }

    /// <summary>Whether the link was handed over by another way than mail, and so proves no mailbox.</summary>
    public bool IsHandedOver { get; init; }
}

/// <summary>Who came in, and where; no member yet while approval is due.</summary>
public sealed record Joined(
    AccountRow Account,
    MemberRow? Member,
    InvitationRow? Invitation,
    WorkspaceRow Workspace,
    string Can
)
{
    /// <summary>What a newcomer has shown, by which a session is opened; null for somebody who has one.</summary>
    public Proof? Proof { get; init; }

    public AcceptAnswer ToAnswer() =>
        new(
            Workspace.Name,
            Workspace.ShortName,
            Member?.Id,
            Member?.Name ?? Account.Name,
            Member?.Address ?? Invitation!.Answerer,
            (Member?.Kind ?? Invitation!.Kind).Word(),
            Can,
            Member is null ? Invitation!.LastDay : Member.LastDay
        );
}
