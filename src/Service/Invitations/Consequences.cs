using ComeAboard.Core;
using ComeAboard.Core.Access;
using ComeAboard.Core.Invitations;
using ComeAboard.Service.Access;
using ComeAboard.Service.Mail;
using ComeAboard.Service.SignIn;
using ComeAboard.Service.Workspaces;
using ComeAboard.Storage.Accounts;
using ComeAboard.Storage.Invitations;
using Microsoft.EntityFrameworkCore;

namespace ComeAboard.Service.Invitations;

/// <summary>
/// The one place where what follows from a step of an invitation or a join link is carried out: state, deadline, seats,
/// places, secrets, mails and the entry in the record. Secrets of invitations and join links are made nowhere else.
/// </summary>
public sealed class Consequences(Outbox outbox, Joining joining, ServiceSettings settings)
{
    /// <summary>Sends an offer of many that was judged to be good; what is known of addresses counts it from now on.</summary>
    /// <param name="write">The change.</param>
    /// <param name="offer">The offer.</param>
    /// <param name="inviter">By whom.</param>
    /// <param name="known">What is known of the addresses of those that are decided together.</param>
    /// <param name="batch">The batch it comes from; null for none.</param>
    /// <returns>The id of the invitation.</returns>
    public async Task<Guid> BeginAsync(
        WorkspaceWrite write,
        InvitationOffer offer,
        MemberRow inviter,
        KnownAddresses known,
        Guid? batch = null
    )
    {
        var row = offer.ToRow(write.Workspace, inviter, known.Host(offer.Host), write.Now, batch);
        await ApplyAsync(write, row, InvitationCourse.Begin);
        known.NoteInvited(offer, row.Id, row.Deadline, write.Today);
        return row.Id;
    }

    /// <summary>Applies what follows from a step.</summary>
    /// <param name="write">The change.</param>
    /// <param name="invitation">The invitation: tracked, or new and not yet stored.</param>
    /// <param name="what">What follows.</param>
    /// <param name="actor">The member who takes the step; null for the invitee, the mail and the clock.</param>
    /// <param name="account">The account that has accepted, where there is one.</param>
    /// <param name="by">Who does it, for the record; the caller of the change when null.</param>
    public async Task<Applied> ApplyAsync(
        WorkspaceWrite write,
        InvitationRow invitation,
        InvitationConsequences what,
        MemberRow? actor = null,
        AccountRow? account = null,
        Caller? by = null
    )
    {
        var before = invitation.InvitedByName;
        await ApplySeatsAsync(write, invitation, what.Seats);
        await ApplyPlaceAsync(write, invitation, what.Place);
        if (what.WithdrawsMail)
            await Outbox.WithdrawAsync(write, invitation);
        Put(write, invitation, what, actor);
        var secret = ApplySecrets(write, invitation, what, actor);
        if (what.From is null)
            write.Insert(invitation);
        await RecordAsync(write, by ?? write.Caller, invitation, what, account, before);
        foreach (var mail in what.Mails)
            await MailAsync(write, invitation, what, mail, secret, account);
        var member =
            what.Joins && account is not null ? await joining.JoinAsync(write, account, invitation) : null;
        return new Applied(secret, member);
    }

    /// <summary>Notes that an invitation's deadline has passed, if it has.</summary>
    public async Task ExpireAsync(WorkspaceWrite write, InvitationRow invitation)
    {
        var facts = StepKnowledge.Bare(write, invitation, await write.WorldAsync());
        if (InvitationCourse.Expire(facts).Try(out var what, out _))
            await ApplyAsync(write, invitation, what, by: Caller.Clock);
    }

    /// <summary>Applies what follows from a step of a join link; the secret is that of its new address, if it got one.</summary>
    public static Secret? Apply(
        WorkspaceWrite write,
        JoinLinkRow link,
        JoinLinkConsequences what,
        MemberRow actor,
        params ReadOnlySpan<(string Name, object? Value)> details
    )
    {
        Secret? secret = null;
        if (what.Renews)
        {
            secret = ApiTokens.NewSecret();
            link.SecretHash = secret.Hash().Value;
        }
        if (what.Closes)
            link.ClosedAt = write.Now;
        if (what.Answerable is not null)
            (link.CreatedBy, link.CreatedByName) = (actor.Id, actor.Name);
        write.Record(what.Entry, link.Id, [("label", link.Label), .. details]);
        return secret;
    }

    private static async Task ApplySeatsAsync(WorkspaceWrite write, InvitationRow invitation, SeatStep step)
    {
        if (step == SeatStep.Reserve && await Seating.ReserveAsync(write, invitation) is { } full)
            throw new InvalidOperationException(full.Sentence);
        if (step == SeatStep.LetGo)
            await Seating.LapseAsync(write, invitation);
    }

    private static async Task ApplyPlaceAsync(WorkspaceWrite write, InvitationRow invitation, PlaceStep step)
    {
        if (step == PlaceStep.Keep || invitation.LinkId is not { } id)
            return;
        var link = await write.Rows.JoinLinks.FirstAsync(l => l.Id == id);
        link.Uses += step == PlaceStep.Use ? 1 : -1;
        link.Version++;
    }

    private static void Put(
        WorkspaceWrite write,
        InvitationRow invitation,
        InvitationConsequences what,
        MemberRow? actor
    )
    {
        write.Move(what.From, what.To);
        invitation.State = what.To;
        invitation.Deadline = what.Deadline ?? invitation.Deadline;
        invitation.NextReminderAt = what.NextReminderAt;
        if (what.Address is { } address)
        {
            (invitation.Address, invitation.AddressKey) = (address.ToString(), address.Key);
            invitation.WithSearchText();
        }
        if (what.Answerable is not null && actor is not null)
            (invitation.InvitedBy, invitation.InvitedByName) = (actor.Id, actor.Name);
        if (what.IsAnswer)
            invitation.AnsweredAt = write.Now;
        if (what.IsSent)
            invitation.SentAt = write.Now;
        if (what.From is null)
            return;
        invitation.LastStepAt = write.Now;
        invitation.Version++;
    }

    private static Secret? ApplySecrets(
        WorkspaceWrite write,
        InvitationRow invitation,
        InvitationConsequences what,
        MemberRow? actor
    )
    {
        if (what.Secrets == SecretStep.Keep)
            return null;
        var secret = ApiTokens.NewSecret();
        var hash = secret.Hash().Value;
        switch (what.Secrets)
        {
            case SecretStep.Renew:
                (invitation.SecretHash, invitation.ExtraSecretHash) = (hash, null);
                (invitation.HandedSecretHash, invitation.HandedByName) = (null, "");
                (invitation.SentAt, invitation.SeenAt) = (null, null);
                if (what.From is not (null or InvitationState.Draft))
                    invitation.Resends++;
                break;
            case SecretStep.MailAnother:
                invitation.ExtraSecretHash = hash;
                invitation.Reminders++;
                break;
            default:
                (invitation.HandedSecretHash, invitation.HandedByName) = (hash, actor?.Name ?? "");
                break;
        }
        return secret;
    }

    private static async Task RecordAsync(
        WorkspaceWrite write,
        Caller by,
        InvitationRow invitation,
        InvitationConsequences what,
        AccountRow? account,
        string before
    )
    {
        if (what.Entry.Length == 0)
            return;
        if (what.Entry is "invitation.queued" or "invitation.drafted")
        {
            await RecordDecidedAsync(write, by, invitation, what.Entry);
            return;
        }
        write.RecordBy(
            by,
            what.Entry,
            invitation.Id,
            [
                ("address", invitation.Address),
                ("name", account?.Name),
                ("answerable before", before == invitation.InvitedByName ? null : before),
                .. what.Details,
            ]
        );
    }

    /// <summary>Writes into the record what an invitation offers.</summary>
    public static async Task RecordDecidedAsync(
        WorkspaceWrite write,
        Caller by,
        InvitationRow row,
        string action
    )
    {
        var world = await write.WorldAsync();
        write.RecordBy(
            by,
            action,
            row.Id,
            ("address", row.Address),
            ("name", row.Name.Length > 0 ? row.Name : null),
            ("kind", row.Kind.Word()),
            ("gives", Bundles.Summary(row.Bundle, world)),
            ("from", row.FirstDay?.ToString("yyyy-MM-dd")),
            ("until", row.LastDay?.ToString("yyyy-MM-dd")),
            ("host", row.HostName.Length > 0 ? row.HostName : null),
            ("batch", row.BatchId)
        );
    }

    private async Task MailAsync(
        WorkspaceWrite write,
        InvitationRow invitation,
        InvitationConsequences what,
        InvitationMail mail,
        Secret? secret,
        AccountRow? account
    )
    {
        var link = settings.Link($"/w/{write.Workspace.ShortName}/invite/{invitation.Id}");
        switch (mail)
        {
            case InvitationMail.Invitation:
                outbox.Queue(write, Purposes.Invitation, invitation, secret!);
                break;
            case InvitationMail.Reminder:
                outbox.Queue(write, Purposes.Reminder, invitation, secret!);
                break;
            case InvitationMail.Waiting:
                Notice(Letters.Waiting(account!.Name, invitation, write.Workspace));
                break;
            case InvitationMail.NotApproved:
                Notice(Letters.NotApproved(invitation, write.Workspace, what.Words));
                break;
            case InvitationMail.TakenBack:
                Notice(Letters.TakenBack(invitation, write.Workspace));
                break;
            case InvitationMail.AwaitsApproval:
                await outbox.TellAsync(
                    write,
                    invitation.InvitedBy,
                    reader =>
                        Letters.AwaitsApproval(reader.Name, account!.Name, invitation, write.Workspace, link)
                );
                break;
            default:
                var no = new No(what.IsNotMe, what.StopsInvitations);
                await outbox.TellAsync(
                    write,
                    invitation.InvitedBy,
                    _ => Letters.Declined(invitation, write.Workspace, no, link)
                );
                break;
        }

        void Notice(Letter letter) =>
            outbox.Queue(write, Purposes.News, invitation.Answerer, letter, invitation.Id);
    }
}

/// <summary>What came of a step: the secret it made, and the member somebody became.</summary>
public sealed record Applied(Secret? Secret, MemberRow? Member);
