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

namespace ComeAboard.Service.Invitations;

/// <summary>
/// Inviting one person: what it would do, and doing it. Those who invite in one workspace at the same moment are served
/// together: what is known of all their addresses is read at once, and each is decided by itself.
/// </summary>
public sealed class Inviting
{
    /// <summary>Stands in a preview where the secret will be.</summary>
    public const string SecretPlaceholder = "the-link-is-made-when-it-is-sent";

    private const int LargestGroup = 64;

    private readonly Database _database;
    private readonly WorkspaceWriter _writer;
    private readonly Outbox _outbox;
    private readonly ServiceSettings _settings;
    private readonly TimeProvider _clock;
    private readonly Gatherer<Ask> _asks;

    public Inviting(
        Database database,
        WorkspaceWriter writer,
        Outbox outbox,
        ServiceSettings settings,
        TimeProvider clock
    )
    {
        (_database, _writer, _outbox, _settings, _clock) = (database, writer, outbox, settings, clock);
        _asks = new Gatherer<Ask>(LargestGroup, ServeAsync);
    }

    /// <summary>Shows the verdict and the exact mail. Changes nothing.</summary>
    public async Task<InvitationPreview> PreviewAsync(Visitor visitor, InvitationRequest request)
    {
        var now = _clock.Now();
        if (!Read(request, visitor.Workspace, now).Try(out var reading, out var refusal))
            return new InvitationPreview(false, refusal.ToProblem(), null, null);
        await using var rows = _database.Open(visitor.WorkspaceId);
        var known = await KnownAddresses.ReadAsync(rows, [reading.Offer.Address]);
        var verdict =
            InvitingRules.ForbidsGiving(visitor.Duties, visitor.Role, reading.Offer.Role)
            ?? InvitingRules.Forbids(
                reading.Offer.Address,
                known.Of(reading.Offer.Address, now, visitor.Workspace.Zone)
            );
        var row = NewRow(reading, visitor.Workspace, visitor.Member, now, new string('0', 64));
        var letter = Compose(row, visitor.Workspace, SecretPlaceholder);
        return new InvitationPreview(
            verdict is null,
            verdict?.ToProblem(),
            new LetterView(
                $"{letter.FromName} <{_settings.Mail.From}>",
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
    public async Task<Outcome<InvitationView>> SendAsync(
        Visitor visitor,
        InvitationRequest request,
        string? idempotencyKey
    )
    {
        if (idempotencyKey is { Length: > 200 })
            return CommonRefusals.Malformed("the Idempotency-Key is longer than 200 characters.");
        // What is wrong with the request itself is said before anybody waits for it.
        if (!Read(request, visitor.Workspace, _clock.Now()).Try(out var reading, out var refusal))
            return refusal;
        var ask = new Ask(visitor, request, reading, idempotencyKey);
        _asks.Ask(visitor.WorkspaceId, ask);
        return await ask.Answer.Task;
    }

    /// <summary>Lays out the mail of an invitation.</summary>
    public Letter Compose(InvitationRow row, WorkspaceRow workspace, string secret) =>
        Outbox.LayOut(
            Wording.Invitation(row, workspace, _settings.Link("/i/" + secret)),
            workspace,
            row.Name,
            row.Language
        );

    /// <summary>The form in which an opted-out address is kept.</summary>
    public static string OptOutHash(EmailAddress address) =>
        Convert.ToHexStringLower(SHA256.HashData(Encoding.UTF8.GetBytes("opt-out:" + address.Key)));

    private async Task ServeAsync(Guid workspace, IReadOnlyList<Ask> asks)
    {
        try
        {
            var served = await _writer.WriteAsync<List<Outcome<InvitationView>>>(
                workspace,
                asks[0].Visitor.Caller,
                write => DecideAllAsync(write, asks)
            );
            foreach (var (ask, outcome) in asks.Zip(served.Value))
                ask.Answer.TrySetResult(outcome);
        }
        catch (Exception) when (asks.Count > 1)
        {
            foreach (var ask in asks)
                await ServeAsync(workspace, [ask]);
        }
        catch (Exception fault)
        {
            asks[0].Answer.TrySetException(fault);
        }
    }

    private async Task<Outcome<List<Outcome<InvitationView>>>> DecideAllAsync(
        WorkspaceWrite write,
        IReadOnlyList<Ask> asks
    )
    {
        var known = await KnownAddresses.ReadAsync(
            write.Rows,
            [.. asks.Select(ask => ask.Reading.Offer.Address).Distinct()]
        );
        var inviters = await write.MembersAsync([.. asks.Select(ask => ask.Visitor.Member.Id).Distinct()]);
        var answered = await AnsweredRequests.ReadAsync(
            write.Rows,
            [.. asks.Select(ask => ask.Key).OfType<string>()]
        );
        await known.ExpireOverdueAsync(write);
        var outcomes = new List<Outcome<InvitationView>>();
        foreach (var ask in asks)
        {
            var outcome =
                answered.AnswerOf(ask.Visitor.Member.Id, ask.Key, ask.Digest)
                ?? Decide(write, ask, inviters, known);
            if (outcome.Succeeded && ask.Key is not null)
                answered.Keep(write, ask.Visitor.Member.Id, ask.Key, ask.Digest, outcome.Value);
            outcomes.Add(outcome);
        }
        return outcomes;
    }

    private Outcome<InvitationView> Decide(
        WorkspaceWrite write,
        Ask ask,
        IReadOnlyDictionary<Guid, MemberRow> inviters,
        KnownAddresses known
    )
    {
        var inviter = inviters.GetValueOrDefault(ask.Visitor.Member.Id);
        if (inviter is null || !inviter.IsActive(write.Now, write.Workspace.Zone))
            return Visitors.Ended;
        var offer = ask.Reading.Offer;
        var forbidden =
            InvitingRules.ForbidsGiving(
                inviter.CoreRole.DutiesFor(inviter.Kind),
                inviter.CoreRole,
                offer.Role
            )
            ?? InvitingRules.Forbids(offer.Address, known.Of(offer.Address, write.Now, write.Workspace.Zone));
        if (forbidden is not null)
            return forbidden;

        var secret = ApiTokens.NewSecret();
        var row = NewRow(ask.Reading, write.Workspace, inviter, write.Now, secret.Hash().Value);
        write.Rows.Invitations.Add(row);
        known.NoteInvited(offer.Address, row.Id, row.Deadline);
        write.Move(null, InvitationState.Queued);
        write.RecordBy(
            ask.Visitor.Caller,
            "invitation.queued",
            row.Id,
            ("address", row.Address),
            ("name", row.Name),
            ("kind", row.Kind.Word()),
            ("role", row.Role),
            ("until", row.LastDay?.ToString("yyyy-MM-dd"))
        );
        _outbox.Queue(
            write,
            Purposes.Invitation,
            row.Address,
            Compose(row, write.Workspace, secret.Reveal()),
            row.Id
        );
        return InvitationViews.Of(row, null, write.Now);
    }

    private static Outcome<Reading> Read(
        InvitationRequest request,
        WorkspaceRow workspace,
        DateTimeOffset now
    )
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
        if (
            !InvitationOffer
                .Read(wish, Days.Of(now, workspace.Zone), workspace.Language)
                .Try(out var offer, out var refusal)
        )
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

    private sealed record Ask(Visitor Visitor, InvitationRequest Request, Reading Reading, string? Key)
    {
        public TaskCompletionSource<Outcome<InvitationView>> Answer { get; } =
            new(TaskCreationOptions.RunContinuationsAsynchronously);

        public string Digest { get; } =
            Key is null
                ? ""
                : Convert.ToHexStringLower(
                    SHA256.HashData(
                        JsonSerializer.SerializeToUtf8Bytes(Request, WireJson.Default.InvitationRequest)
                    )
                );
    }
}
