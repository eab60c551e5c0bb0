using System.Security.Cryptography;
using System.Text;
using System.Text.Json;
using ComeAboard.Client;
using ComeAboard.Client.Invitations;
using ComeAboard.Core;
using ComeAboard.Core.Access;
using ComeAboard.Core.Invitations;
using ComeAboard.Core.Workspaces;
using ComeAboard.Service.Access;
using ComeAboard.Service.Http;
using ComeAboard.Service.Mail;
using ComeAboard.Service.SignIn;
using ComeAboard.Service.Workspaces;
using ComeAboard.Storage;
using ComeAboard.Storage.Accounts;
using ComeAboard.Storage.Invitations;

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
        await using var rows = _database.Open(visitor.WorkspaceId);
        var domains = await KnownDomains.ReadAsync(rows);
        if (!(await ReadAsync(request, visitor, rows, now)).Try(out var offering, out var refusal))
            return new InvitationPreview(false, refusal.ToProblem(), null, null)
            {
                Verdict = Verdicts.Of(refusal, false).Word(),
                Suggestion = domains.Suggest(request.Address),
            };
        var known = await KnownAddresses.ReadAsync(rows, [offering.Offer]);
        var address = offering.Offer.Address;
        var blockers = Readiness
            .Blockers(offering.FactsFor(visitor.World, visitor.Member.Id, known, visitor.Workspace, now))
            .ToList();
        var verdict = blockers.FirstOrDefault();
        var row = offering.ToRow(
            visitor.Workspace,
            visitor.Member,
            known.Host(offering.Offer.Host),
            now,
            new string('0', 64)
        );
        var wording = await Wordings.FindAsync(rows, WordedLetter.Invitation, row.Language);
        var letter = Letters.Invitation(
            WordedLetter.Invitation,
            row,
            visitor.Workspace,
            visitor.World,
            wording,
            _settings.Link("/i/" + SecretPlaceholder)
        );
        var hasAccount = known.Of(address, now, visitor.Workspace.Zone).HasAccount;
        return new InvitationPreview(
            verdict is null,
            verdict?.ToProblem(),
            Wordings.ViewOf(letter, row.Address, _settings),
            row.Deadline
        )
        {
            Verdict = Verdicts.Of(verdict, hasAccount).Word(),
            Notes = InvitationViews.Of(domains.Notes(address)),
            Blockers = ReadinessEndpoints.ViewsOf(blockers, visitor.Workspace.ShortName),
        };
    }

    /// <summary>Mails the exact letter to the one who asks; its link opens nothing.</summary>
    public async Task<Outcome<bool>> TestAsync(Visitor visitor, InvitationRequest request)
    {
        var now = _clock.Now();
        await using var rows = _database.Open(visitor.WorkspaceId);
        if (!(await ReadAsync(request, visitor, rows, now)).Try(out var offering, out var refusal))
            return refusal;
        var known = await KnownAddresses.ReadAsync(rows, [offering.Offer]);
        var row = offering.ToRow(
            visitor.Workspace,
            visitor.Member,
            known.Host(offering.Offer.Host),
            now,
            new string('0', 64)
        );
        var wording = await Wordings.FindAsync(rows, WordedLetter.Invitation, row.Language);
        var link = _settings.Link("/i/" + SecretPlaceholder);
        var letter = Letters.Invitation(
            WordedLetter.Invitation,
            row,
            visitor.Workspace,
            visitor.World,
            wording,
            link
        );
        return await _writer.WriteAsync<bool>(
            visitor.WorkspaceId,
            visitor.Caller,
            async write =>
            {
                if (!(await write.RequireAsync(Duties.Invite)).Try(out var member, out var no))
                    return no;
                _outbox.Queue(write, Purposes.Notice, member.Address, letter with { StopLink = null });
                return true;
            }
        );
    }

    /// <summary>Decides, stores, records and queues an invitation, or keeps a draft; the same idempotency key twice does it once.</summary>
    public async Task<Outcome<InvitationView>> SendAsync(
        Visitor visitor,
        InvitationRequest request,
        string? idempotencyKey
    )
    {
        if (idempotencyKey is { Length: > 200 })
            return CommonRefusals.Malformed("the Idempotency-Key is longer than 200 characters.");
        // What is wrong with the request itself is said before anybody waits for it.
        if (!(await ReadAsync(request, visitor, null, _clock.Now())).Try(out var offering, out var refusal))
            return refusal;
        var ask = new Ask(visitor, request, offering, idempotencyKey);
        _asks.Ask(visitor.WorkspaceId, ask);
        return await ask.Answer.Task;
    }

    /// <summary>Stores a decided invitation, records it and queues its mail, within a change.</summary>
    /// <param name="write">The change.</param>
    /// <param name="by">Who invites, for the record.</param>
    /// <param name="row">The invitation, in the state queued, with no secret yet.</param>
    public async Task AddAsync(WorkspaceWrite write, Caller by, InvitationRow row)
    {
        if (await Seating.ReserveAsync(write, row) is { } full)
            throw new InvalidOperationException(full.Sentence);
        var secret = ApiTokens.NewSecret();
        row.SecretHash = secret.Hash().Value;
        write.Insert(row);
        write.Move(null, row.State);
        await RecordDecidedAsync(write, by, row, "invitation.queued");
        _outbox.Queue(write, Purposes.Invitation, row, secret);
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

    /// <summary>The form in which an opted-out address is kept.</summary>
    public static string OptOutHash(EmailAddress address) =>
        Convert.ToHexStringLower(SHA256.HashData(Encoding.UTF8.GetBytes("opt-out:" + address.Key)));

    /// <summary>Reads a request, with the preset it names.</summary>
    /// <param name="request">The request.</param>
    /// <param name="visitor">Whose.</param>
    /// <param name="open">A context in the visitor's workspace; null to open one when it is needed.</param>
    /// <param name="now">When.</param>
    public async Task<Outcome<Offering>> ReadAsync(
        InvitationRequest request,
        Visitor visitor,
        ComeAboardContext? open,
        DateTimeOffset now
    )
    {
        var wish = Offering.WishOf(request);
        if (!string.IsNullOrWhiteSpace(request.Preset))
        {
            var rows = open ?? _database.Open(visitor.WorkspaceId);
            try
            {
                if (!(await Presets.FindAsync(rows, request.Preset)).Try(out var preset, out var refusal))
                    return refusal;
                wish = Presets.Of(preset).Fill(wish, Days.Of(now, visitor.Workspace.Zone));
            }
            finally
            {
                if (open is null)
                    await rows.DisposeAsync();
            }
        }
        return Offering.Read(wish, request.AnswerDays, visitor.Workspace, visitor.World, now);
    }

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
        var known = await KnownAddresses.ReadAsync(write.Rows, [.. asks.Select(ask => ask.Offering.Offer)]);
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
                ?? await DecideAsync(write, ask, inviters, known);
            if (outcome.Succeeded && ask.Key is not null)
                answered.Keep(write, ask.Visitor.Member.Id, ask.Key, ask.Digest, outcome.Value);
            outcomes.Add(outcome);
        }
        return outcomes;
    }

    private async Task<Outcome<InvitationView>> DecideAsync(
        WorkspaceWrite write,
        Ask ask,
        IReadOnlyDictionary<Guid, MemberRow> inviters,
        KnownAddresses known
    )
    {
        var inviter = inviters.GetValueOrDefault(ask.Visitor.Member.Id);
        if (inviter is null || !inviter.IsActive(write.Now, write.Workspace.Zone))
            return Visitors.Ended;
        var world = await write.WorldAsync();
        if (Visitors.Forbids(world, inviter.Id, write.Today) is { } cut)
            return cut;
        var offer = ask.Offering.Offer;
        var host = known.Host(offer.Host);
        if (ask.Request.Draft)
        {
            if (ForbidsDraft(world, inviter.Id, offer, write.Today) is { } right)
                return right;
            var draft = ask.Offering.ToRow(write.Workspace, inviter, host, write.Now, null);
            write.Insert(draft);
            write.Move(null, InvitationState.Draft);
            await RecordDecidedAsync(write, ask.Visitor.Caller, draft, "invitation.drafted");
            return InvitationViews.Of(draft, null, write.Now, world);
        }
        if (ask.Offering.Forbidden(world, inviter.Id, known, write.Workspace, write.Now) is { } forbidden)
            return forbidden;
        var row = ask.Offering.ToRow(write.Workspace, inviter, host, write.Now, "");
        await AddAsync(write, ask.Visitor.Caller, row);
        known.NoteInvited(offer, row.Id, row.Deadline, write.Today);
        return InvitationViews.Of(row, null, write.Now, world);
    }

    /// <summary>A draft may still lack much, but nobody writes down what they could not give.</summary>
    public static Refusal? ForbidsDraft(
        AccessWorld world,
        Guid inviter,
        InvitationOffer offer,
        DateOnly today
    ) =>
        world.DutiesOf(inviter, today).HasFlag(Duties.Invite)
            ? GivingRules.Forbids(world, inviter, offer.Gives, today)
            : DutyWords.Missing(Duties.Invite);

    private sealed record Ask(Visitor Visitor, InvitationRequest Request, Offering Offering, string? Key)
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
