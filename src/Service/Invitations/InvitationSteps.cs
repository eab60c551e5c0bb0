using ComeAboard.Client.Invitations;
using ComeAboard.Core;
using ComeAboard.Core.Access;
using ComeAboard.Core.Invitations;
using ComeAboard.Service.Access;
using ComeAboard.Service.Http;
using ComeAboard.Service.Mail;
using ComeAboard.Service.SignIn;
using ComeAboard.Service.Workspaces;
using ComeAboard.Storage.Accounts;
using ComeAboard.Storage.Invitations;
using Microsoft.EntityFrameworkCore;

namespace ComeAboard.Service.Invitations;

/// <summary>What is done to an invitation that exists.</summary>
public sealed class InvitationSteps(
    WorkspaceWriter writer,
    Inviting inviting,
    Outbox outbox,
    Approving approving,
    ServiceSettings settings
)
{
    /// <summary>Takes a named step: send, resend, remind, extend, revoke, approve or refuse.</summary>
    public Task<Outcome<InvitationView>> TakeAsync(
        Visitor visitor,
        Guid id,
        string step,
        int? expectedVersion,
        int? days = null,
        string? reason = null
    ) =>
        Find(step, days, reason).Try(out var carryOut, out var refusal)
            ? StepAsync(visitor, id, expectedVersion, carryOut, DutyFor(step))
            : Task.FromResult<Outcome<InvitationView>>(refusal);

    /// <summary>The duty a step asks for.</summary>
    public static Duties DutyFor(string step) =>
        step is "approve" or "refuse" ? Duties.Approve : Duties.Invite;

    /// <summary>The work of a named step within a change; refuses with <c>step.unknown</c> or <c>answer-time.out-of-range</c>.</summary>
    public Outcome<Step> Find(string step, int? days, string? reason)
    {
        if (step == "extend" && days is not (>= 1 and <= 365))
            return new Refusal(
                "answer-time.out-of-range",
                "More time must be 1 to 365 days.",
                "Give a number of days in that range.",
                Field: "days"
            );
        return step switch
        {
            "send" => new Step(SendDraftAsync),
            "resend" => new Step((write, _, invitation) => ResendAsync(write, invitation)),
            "remind" => new Step((write, _, invitation) => Task.FromResult(Remind(write, invitation))),
            "extend" => new Step(
                (write, _, invitation) => Task.FromResult(Extend(write, invitation, days!.Value))
            ),
            "revoke" => new Step((write, _, invitation) => RevokeAsync(write, invitation)),
            "approve" => new Step(approving.ApproveAsync),
            "refuse" => new Step((write, _, invitation) => approving.RefuseAsync(write, invitation, reason)),
            _ => new Refusal(
                "step.unknown",
                $"There is no step \"{(step.Length > 40 ? step[..40] : step)}\".",
                "Use send, resend, remind, extend, revoke, approve or refuse.",
                Field: "step"
            ),
        };
    }

    /// <summary>Puts the right address in and sends it again: nothing that went to the wrong one counts any more.</summary>
    public Task<Outcome<InvitationView>> CorrectAsync(
        Visitor visitor,
        Guid id,
        string address,
        int? expectedVersion
    ) =>
        StepAsync(
            visitor,
            id,
            expectedVersion,
            async (write, member, invitation) =>
            {
                if (!EmailAddress.Read(address).Try(out var right, out var refusal))
                    return refusal;
                if (right.Key == invitation.AddressKey)
                    return new Refusal(
                        "address.same",
                        "That is the address the invitation has already.",
                        "Resend it instead.",
                        RefusalSort.Conflict,
                        "address"
                    );
                // Whoever decides to whom it goes gives what it carries.
                if (await ForbidsGivingAsync(write, member.Id, invitation) is { } beyond)
                    return beyond;
                if (WorkspaceRules.Of(write.Workspace).ForbidsDomain(right) is { } rule)
                    return rule;
                write.Record(
                    "invitation.corrected",
                    invitation.Id,
                    ("before", invitation.Address),
                    ("after", right.ToString())
                );
                (invitation.Address, invitation.AddressKey) = (right.ToString(), right.Key);
                invitation.WithSearchText();
                if (invitation.State == InvitationState.Draft)
                {
                    Touch(write, invitation);
                    return null;
                }
                return await ResendAsync(write, invitation);
            }
        );

    /// <summary>Changes a draft: everything it carries is replaced.</summary>
    public async Task<Outcome<InvitationView>> ChangeDraftAsync(
        Visitor visitor,
        Guid id,
        InvitationRequest request,
        int? expectedVersion,
        DateTimeOffset now
    )
    {
        if (!(await inviting.ReadAsync(request, visitor, null, now)).Try(out var offering, out var refusal))
            return refusal;
        return await StepAsync(
            visitor,
            id,
            expectedVersion,
            async (write, member, invitation) =>
            {
                if (invitation.State != InvitationState.Draft)
                    return new Refusal(
                        "invitation.no-draft",
                        $"The invitation is {invitation.State.Word()}; only a draft can be changed.",
                        "Revoke it and send another, or correct its address.",
                        RefusalSort.Conflict
                    );
                var offer = offering.Offer;
                if (
                    Inviting.ForbidsDraft(await write.WorldAsync(), member.Id, offer, write.Today) is
                    { } right
                )
                    return right;
                var known = await KnownAddresses.ReadAsync(write.Rows, [offer]);
                var fresh = offering.ToRow(write.Workspace, member, known.Host(offer.Host), write.Now, null);
                write
                    .Rows.Entry(invitation)
                    .CurrentValues.SetValues(
                        new
                        {
                            fresh.Address,
                            fresh.AddressKey,
                            fresh.Name,
                            fresh.Kind,
                            fresh.Gives,
                            fresh.OrganisationId,
                            fresh.FirstDay,
                            fresh.LastDay,
                            fresh.Message,
                            fresh.Language,
                            fresh.AnswerSeconds,
                            fresh.HostId,
                            fresh.HostName,
                            fresh.NeedsApproval,
                        }
                    );
                invitation.WithDetails(offer.Details);
                await Inviting.RecordDecidedAsync(write, write.Caller, invitation, "invitation.changed");
                Touch(write, invitation);
                return null;
            }
        );
    }

    /// <summary>Makes a link to hand over by another way; the one in the mail goes on counting.</summary>
    public Task<Outcome<FreshLink>> LinkAsync(Visitor visitor, Guid id) =>
        writer.WriteAsync<FreshLink>(
            visitor.WorkspaceId,
            visitor.Caller,
            async write =>
            {
                if (!(await write.RequireAsync(Duties.Invite)).Try(out var member, out var refusal))
                    return refusal;
                var invitation = await write.Rows.Invitations.FirstOrDefaultAsync(i => i.Id == id);
                if (invitation is null)
                    return CommonRefusals.NotFound;
                if (await ForbidsGivingAsync(write, member.Id, invitation) is { } beyond)
                    return beyond;
                if (LinkRules.Forbids(invitation.State, invitation.Deadline, write.Now) is not null)
                    return new Refusal(
                        "invitation.not-pending",
                        $"The invitation is {InvitationLife.At(invitation.State, invitation.Deadline, write.Now).Word()}; a link to it would let nobody in.",
                        "Send, extend or resend it first.",
                        RefusalSort.Conflict
                    );
                var secret = ApiTokens.NewSecret();
                invitation.ExtraSecretHash = secret.Hash().Value;
                Touch(write, invitation);
                write.Record("invitation.link-handed-out", invitation.Id, ("address", invitation.Address));
                return new FreshLink(settings.Link("/i/" + secret.Reveal()), invitation.Deadline);
            }
        );

    /// <summary>Sends a reminder whose time has come, within the clock's change.</summary>
    public void RemindBySchedule(WorkspaceWrite write, InvitationRow invitation)
    {
        var due = invitation.NextReminderAt;
        if (due is null || due > write.Now)
            return;
        if (Remind(write, invitation) is not null)
            invitation.NextReminderAt = null;
    }

    /// <summary>Notes that an invitation's deadline has passed.</summary>
    public static async Task ExpireAsync(WorkspaceWrite write, InvitationRow invitation)
    {
        if (
            !InvitationLife
                .Take(invitation.State, InvitationStep.Expire, invitation.Deadline, write.Now)
                .Try(out var next, out _)
        )
            return;
        Put(write, invitation, next);
        await Seating.LapseAsync(write, invitation);
        await Outbox.WithdrawAsync(write, invitation);
        write.RecordBy(Caller.Clock, "invitation.expired", invitation.Id, ("address", invitation.Address));
    }

    /// <summary>Moves an invitation to a state it may go to.</summary>
    public static void Put(WorkspaceWrite write, InvitationRow invitation, InvitationState next)
    {
        write.Move(invitation.State, next);
        invitation.State = next;
        if (!next.AwaitsAnswer())
            invitation.NextReminderAt = null;
        Touch(write, invitation);
    }

    private static void Touch(WorkspaceWrite write, InvitationRow invitation)
    {
        invitation.LastStepAt = write.Now;
        invitation.Version++;
    }

    private async Task<Refusal?> SendDraftAsync(
        WorkspaceWrite write,
        MemberRow member,
        InvitationRow invitation
    )
    {
        if (Take(write, invitation, InvitationStep.Queue) is { } refusal)
            return refusal;
        if (await ForbidsDraftAsync(write, member.Id, invitation) is { } forbidden)
            return forbidden;
        if (await Seating.ReserveAsync(write, invitation) is { } full)
            return full;
        (invitation.InvitedBy, invitation.InvitedByName) = (member.Id, member.Name);
        Queue(write, invitation);
        await Inviting.RecordDecidedAsync(write, write.Caller, invitation, "invitation.queued");
        return null;
    }

    private async Task<Refusal?> ResendAsync(WorkspaceWrite write, InvitationRow invitation)
    {
        var wasPending = invitation.IsPending;
        // The same mail again is how one tries whether an address that bounced works by now.
        if (
            await ForbidsSendingAsync(
                write,
                invitation,
                mindBounce: invitation.State != InvitationState.Bounced
            ) is
            { } forbidden
        )
            return forbidden;
        if (Take(write, invitation, InvitationStep.Resend) is { } refusal)
            return refusal;
        // One that had ended has let its seats go.
        if (!wasPending && await Seating.ReserveAsync(write, invitation) is { } full)
            return full;
        await Outbox.WithdrawAsync(write, invitation);
        (invitation.SentAt, invitation.SeenAt, invitation.ExtraSecretHash) = (null, null, null);
        invitation.Resends++;
        Queue(write, invitation);
        write.Record("invitation.resent", invitation.Id, ("address", invitation.Address));
        return null;
    }

    /// <summary>Reminds once, and sets when to do so next by the schedule.</summary>
    private Refusal? Remind(WorkspaceWrite write, InvitationRow invitation)
    {
        if (InvitationLife.At(invitation.State, invitation.Deadline, write.Now) != InvitationState.Sent)
            return new Refusal(
                "invitation.not-sent",
                $"The invitation is {InvitationLife.At(invitation.State, invitation.Deadline, write.Now).Word()}; only one that was sent and awaits its answer is reminded of.",
                "Resend it if it is still wanted.",
                RefusalSort.Conflict
            );
        var secret = ApiTokens.NewSecret();
        invitation.ExtraSecretHash = secret.Hash().Value;
        invitation.Reminders++;
        invitation.NextReminderAt = Reminders.Next(
            invitation.SentAt ?? invitation.CreatedAt,
            WorkspaceRules.Of(write.Workspace).ReminderDays,
            invitation.Deadline,
            write.Now
        );
        Touch(write, invitation);
        outbox.Queue(write, Purposes.Reminder, invitation, secret);
        return null;
    }

    private static Refusal? Extend(WorkspaceWrite write, InvitationRow invitation, int days)
    {
        if (
            !InvitationLife
                .Take(invitation.State, InvitationStep.Extend, invitation.Deadline, write.Now)
                .Try(out var next, out var refusal)
        )
            return refusal;
        if (days > WorkspaceRules.Of(write.Workspace).LongestAnswerDays)
            return new Refusal(
                "rule.answer-time",
                $"The longest time to answer is {WorkspaceRules.Of(write.Workspace).LongestAnswerDays} days here.",
                "Give fewer days.",
                RefusalSort.Conflict,
                "days"
            );
        var before = invitation.Deadline;
        invitation.Deadline = write.Now.AddDays(days);
        Put(write, invitation, next);
        write.Record(
            "invitation.extended",
            invitation.Id,
            ("address", invitation.Address),
            ("before", before.ToString("O")),
            ("after", invitation.Deadline.ToString("O"))
        );
        return null;
    }

    private static async Task<Refusal?> RevokeAsync(WorkspaceWrite write, InvitationRow invitation)
    {
        if (Take(write, invitation, InvitationStep.Revoke) is { } refusal)
            return refusal;
        await Outbox.WithdrawAsync(write, invitation);
        write.Record("invitation.revoked", invitation.Id, ("address", invitation.Address));
        return null;
    }

    private void Queue(WorkspaceWrite write, InvitationRow invitation)
    {
        var secret = ApiTokens.NewSecret();
        invitation.SecretHash = secret.Hash().Value;
        invitation.Deadline = write.Now + TimeSpan.FromSeconds(invitation.AnswerSeconds);
        outbox.Queue(write, Purposes.Invitation, invitation, secret);
    }

    private static Refusal? Take(WorkspaceWrite write, InvitationRow invitation, InvitationStep step)
    {
        if (
            !InvitationLife
                .Take(invitation.State, step, invitation.Deadline, write.Now)
                .Try(out var next, out var refusal)
        )
            return refusal;
        Put(write, invitation, next);
        return null;
    }

    private static async Task<Refusal?> ForbidsGivingAsync(
        WorkspaceWrite write,
        Guid member,
        InvitationRow invitation
    )
    {
        var world = await write.WorldAsync();
        var through =
            invitation.OrganisationId is { } own && world.Organisations.TryGetValue(own, out var organisation)
                ? organisation.Grants
                : [];
        return GivingRules.Forbids(world, member, invitation.Bundle, write.Today)
            ?? GivingRules.Forbids(world, member, through, write.Today);
    }

    /// <summary>A draft is judged like any invitation when it is sent.</summary>
    private static async Task<Refusal?> ForbidsDraftAsync(
        WorkspaceWrite write,
        Guid member,
        InvitationRow invitation
    )
    {
        var offering = new Offering(
            new InvitationOffer(
                EmailAddress.Read(invitation.Address).Value,
                invitation.Kind,
                invitation.Bundle,
                invitation.Stay,
                invitation.Name,
                invitation.Details,
                invitation.Message,
                invitation.Language,
                invitation.HostId?.ToString()
            )
            {
                OrganisationId = invitation.OrganisationId,
            },
            TimeSpan.FromSeconds(invitation.AnswerSeconds)
        );
        var known = await KnownAddresses.ReadAsync(write.Rows, [offering.Offer]);
        return offering.Forbidden(await write.WorldAsync(), member, known, write.Workspace, write.Now)
            ?? (
                invitation.Stay.IsOver(write.Now, write.Workspace.Zone)
                    ? new Refusal(
                        "stay.past",
                        $"The stay it offers ended on {invitation.LastDay:yyyy-MM-dd}.",
                        "Change the draft first.",
                        RefusalSort.Conflict
                    )
                    : null
            );
    }

    private static async Task<Refusal?> ForbidsSendingAsync(
        WorkspaceWrite write,
        InvitationRow invitation,
        bool mindBounce = true
    )
    {
        var address = EmailAddress.Read(invitation.Address).Value;
        var known = await KnownAddresses.ReadAsync(write.Rows, [address]);
        var standing = known.Of(address, write.Now, write.Workspace.Zone);
        if (standing.PendingId == invitation.Id)
            standing = standing with { PendingId = null };
        if (!mindBounce)
            standing = standing with { Bounce = null };
        if (InvitingRules.Forbids(address, standing) is { } refusal)
            return refusal;
        if (WorkspaceRules.Of(write.Workspace).ForbidsDomain(address) is { } rule)
            return rule;
        return invitation.Stay.IsOver(write.Now, write.Workspace.Zone)
            ? new Refusal(
                "stay.past",
                $"The stay it offers ended on {invitation.LastDay:yyyy-MM-dd}.",
                "Revoke it and send a new invitation with a later last day.",
                RefusalSort.Conflict
            )
            : null;
    }

    private Task<Outcome<InvitationView>> StepAsync(
        Visitor visitor,
        Guid id,
        int? expectedVersion,
        Step carryOut,
        Duties duty = Duties.Invite
    ) =>
        writer.WriteAsync<InvitationView>(
            visitor.WorkspaceId,
            visitor.Caller,
            async write =>
            {
                if (!(await write.RequireAsync(duty)).Try(out var member, out var refusal))
                    return refusal;
                var invitation = await write.Rows.Invitations.FirstOrDefaultAsync(i => i.Id == id);
                if (invitation is null)
                    return CommonRefusals.NotFound;
                if (expectedVersion is { } version && version != invitation.Version)
                    return CommonRefusals.Stale;
                if (await carryOut(write, member, invitation) is { } forbidden)
                    return forbidden;
                return InvitationViews.Of(invitation, null, write.Now, await write.WorldAsync());
            }
        );
}

/// <summary>What is done to one invitation within a change; null when it was done, else why not.</summary>
public delegate Task<Refusal?> Step(WorkspaceWrite write, MemberRow member, InvitationRow invitation);
