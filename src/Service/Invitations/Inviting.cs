using System.Security.Cryptography;
using System.Text;
using System.Text.Json;
using ComeAboard.Client;
using ComeAboard.Client.Invitations;
using ComeAboard.Core;
using ComeAboard.Core.Access;
using ComeAboard.Core.Invitations;
using ComeAboard.Core.Workspaces;
using ComeAboard.Service.Http;
using ComeAboard.Service.Mail;
using ComeAboard.Service.SignIn;
using ComeAboard.Service.Workspaces;
using ComeAboard.Storage;
using ComeAboard.Storage.Accounts;
using ComeAboard.Storage.Invitations;
using ComeAboard.Storage.Workspaces;
using Microsoft.EntityFrameworkCore;

namespace ComeAboard.Service.Invitations;

/// <summary>Inviting one person: what it would do, and doing it.</summary>
public sealed class Inviting(Database database, WorkspaceWriter writer, Outbox outbox, ServiceSettings settings, TimeProvider clock)
{
    /// <summary>Stands in a preview where the secret will be.</summary>
    public const string SecretPlaceholder = "the-link-is-made-when-it-is-sent";

    /// <summary>Shows the verdict and the exact mail. Changes nothing.</summary>
    public async Task<InvitationPreview> PreviewAsync(Visitor visitor, InvitationRequest request)
    {
        var now = clock.Now();
        if (!Read(request, visitor.Workspace, now).Try(out var reading, out var refusal))
            return new InvitationPreview(false, refusal.ToProblem(), null, null);
        await using var rows = database.Open(visitor.WorkspaceId);
        var verdict =
            InvitingRules.ForbidsGiving(visitor.Duties, visitor.Role, reading.Offer.Role)
            ?? InvitingRules.Forbids(reading.Offer.Address, await StandingAsync(rows, reading.Offer.Address, visitor.Workspace, now));
        var row = NewRow(reading, visitor.Workspace, visitor.Member, now, new string('0', 64));
        var letter = Compose(row, visitor.Workspace, SecretPlaceholder);
        return new InvitationPreview(
            verdict is null,
            verdict?.ToProblem(),
            new LetterView(
                $"{letter.FromName} <{settings.Mail.From}>",
                letter.ReplyTo,
                row.Address,
                letter.Subject,
                letter.Text,
                letter.Html
            ),
            row.Deadline
        );
    }

    /// <summary>Decides, stores, records and queues an invitation; the same idempotency key twice does it once.</summary>
    public async Task<Outcome<InvitationView>> SendAsync(Visitor visitor, InvitationRequest request, string? idempotencyKey)
    {
        if (idempotencyKey is { Length: > 200 })
            return CommonRefusals.Malformed("the Idempotency-Key is longer than 200 characters.");
        var digest = Convert.ToHexStringLower(
            SHA256.HashData(JsonSerializer.SerializeToUtf8Bytes(request, WireJson.Default.InvitationRequest))
        );
        return await writer.WriteAsync<InvitationView>(
            visitor.WorkspaceId,
            visitor.Caller,
            async write =>
            {
                if (!(await write.RequireAsync(Duties.Invite)).Try(out var inviter, out var refusal))
                    return refusal;
                if (idempotencyKey is not null && await AnsweredAsync(write, inviter.Id, idempotencyKey, digest) is { } answered)
                    return answered;
                if (!(await DecideAsync(write, inviter, request)).Try(out var view, out refusal))
                    return refusal;
                if (idempotencyKey is not null)
                    write.Rows.IdempotencyKeys.Add(
                        new IdempotencyRow
                        {
                            WorkspaceId = write.Workspace.Id,
                            MemberId = inviter.Id,
                            Key = idempotencyKey,
                            RequestDigest = digest,
                            Answer = JsonSerializer.Serialize(view, WireJson.Default.InvitationView),
                            CreatedAt = write.Now,
                        }
                    );
                return view;
            }
        );
    }

    private async Task<Outcome<InvitationView>> DecideAsync(WorkspaceWrite write, MemberRow inviter, InvitationRequest request)
    {
        if (!Read(request, write.Workspace, write.Now).Try(out var reading, out var refusal))
            return refusal;
        var offer = reading.Offer;
        await ExpireOverdueAsync(write, offer.Address);
        var forbidden =
            InvitingRules.ForbidsGiving(inviter.CoreRole.DutiesFor(inviter.Kind), inviter.CoreRole, offer.Role)
            ?? InvitingRules.Forbids(offer.Address, await StandingAsync(write.Rows, offer.Address, write.Workspace, write.Now));
        if (forbidden is not null)
            return forbidden;

        var secret = ApiTokens.NewSecret();
        var row = NewRow(reading, write.Workspace, inviter, write.Now, secret.Hash().Value);
        write.Rows.Invitations.Add(row);
        write.Move(null, InvitationState.Queued);
        write.Record(
            "invitation.queued",
            row.Id,
            ("address", row.Address),
            ("name", row.Name),
            ("kind", row.Kind.Word()),
            ("role", row.Role),
            ("until", row.LastDay?.ToString("yyyy-MM-dd"))
        );
        outbox.Queue(write, Purposes.Invitation, row.Address, Compose(row, write.Workspace, secret.Reveal()), row.Id);
        return InvitationViews.Of(row, null, write.Now);
    }

    /// <summary>Lays out the mail of an invitation.</summary>
    public Letter Compose(InvitationRow row, WorkspaceRow workspace, string secret) =>
        Outbox.LayOut(
            Wording.Invitation(row, workspace, settings.Link("/i/" + secret)),
            workspace,
            row.Name,
            row.Language
        );

    /// <summary>What is known of an address in a workspace, and whether its owner opted out.</summary>
    public static async Task<AddressStanding> StandingAsync(
        ComeAboardContext rows,
        EmailAddress address,
        WorkspaceRow workspace,
        DateTimeOffset now
    )
    {
        var hash = OptOutHash(address);
        var member = await rows.Members.AsNoTracking().FirstOrDefaultAsync(m => m.AddressKey == address.Key && m.EndedAt == null);
        var pending = await rows
            .Invitations.Where(i =>
                i.AddressKey == address.Key
                && (i.State == InvitationState.Queued || i.State == InvitationState.Sent)
                && i.Deadline > now
            )
            .Select(i => (Guid?)i.Id)
            .FirstOrDefaultAsync();
        var hasOptedOut = await rows.OptOuts.AnyAsync(o => o.AddressHash == hash);
        return new AddressStanding(member?.IsActive(now, workspace.Zone) == true ? member.Id : null, pending, hasOptedOut);
    }

    /// <summary>The form in which an opted-out address is kept.</summary>
    public static string OptOutHash(EmailAddress address) =>
        Convert.ToHexStringLower(SHA256.HashData(Encoding.UTF8.GetBytes("opt-out:" + address.Key)));

    /// <summary>An overdue invitation nobody has noticed yet must not stand in the way of a new one.</summary>
    private static async Task ExpireOverdueAsync(WorkspaceWrite write, EmailAddress address)
    {
        var overdue = await write
            .Rows.Invitations.Where(i =>
                i.AddressKey == address.Key
                && (i.State == InvitationState.Queued || i.State == InvitationState.Sent)
                && i.Deadline <= write.Now
            )
            .ToListAsync();
        if (overdue.Count == 0)
            return;
        foreach (var invitation in overdue)
            await InvitationSteps.ExpireAsync(write, invitation);
        await write.Rows.SaveChangesAsync();
    }

    private static async Task<Outcome<InvitationView>?> AnsweredAsync(WorkspaceWrite write, Guid member, string key, string digest)
    {
        var known = await write.Rows.IdempotencyKeys.AsNoTracking().FirstOrDefaultAsync(k => k.MemberId == member && k.Key == key);
        if (known is null)
            return null;
        return known.RequestDigest == digest
            ? JsonSerializer.Deserialize(known.Answer, WireJson.Default.InvitationView)!
            : new Refusal(
                "idempotency.reused",
                "This Idempotency-Key was used for another request.",
                "Use a new key for every different request.",
                RefusalSort.Conflict
            );
    }

    private static Outcome<Reading> Read(InvitationRequest request, WorkspaceRow workspace, DateTimeOffset now)
    {
        var wish = new InvitationWish(
            request.Address,
            request.Kind,
            request.Role,
            request.Name,
            request.Message,
            request.Until,
            request.Language
        );
        if (!InvitationOffer.Read(wish, Days.Of(now, workspace.Zone), workspace.Language).Try(out var offer, out var refusal))
            return refusal;
        var answerTime = request.AnswerDays is { } days ? TimeSpan.FromDays(days) : workspace.AnswerTime;
        if (answerTime < TimeSpan.FromDays(1) || answerTime > InvitationLife.LongestAnswerTime)
            return new Refusal(
                "answer-time.out-of-range",
                "The time to answer must be 1 to 365 days.",
                "Give a number of days in that range.",
                Field: "answerDays"
            );
        return new Reading(offer, answerTime);
    }

    private static InvitationRow NewRow(
        Reading reading,
        WorkspaceRow workspace,
        MemberRow inviter,
        DateTimeOffset now,
        string secretHash
    ) =>
        new InvitationRow
        {
            WorkspaceId = workspace.Id,
            Id = Guid.CreateVersion7(now),
            Address = reading.Offer.Address.ToString(),
            AddressKey = reading.Offer.Address.Key,
            Name = reading.Offer.Name,
            Kind = reading.Offer.Kind,
            Role = reading.Offer.Role.Name,
            LastDay = reading.Offer.Stay.LastDay,
            Message = reading.Offer.Message,
            Language = reading.Offer.Language,
            State = InvitationState.Queued,
            SecretHash = secretHash,
            Deadline = now + reading.AnswerTime,
            AnswerSeconds = (long)reading.AnswerTime.TotalSeconds,
            InvitedBy = inviter.Id,
            InvitedByName = inviter.Name,
            CreatedAt = now,
            LastStepAt = now,
        }.WithSearchText();

    private sealed record Reading(InvitationOffer Offer, TimeSpan AnswerTime);
}
