using System.Security.Cryptography;
using System.Text.Json;
using ComeAboard.Client;
using ComeAboard.Client.Invitations;
using ComeAboard.Core;
using ComeAboard.Core.Access;
using ComeAboard.Core.Invitations;
using ComeAboard.Core.Workspaces;
using ComeAboard.Service.Access;
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
    private readonly Consequences _consequences;
    private readonly ServiceSettings _settings;
    private readonly TimeProvider _clock;
    private readonly Gatherer<Ask> _asks;

    public Inviting(
        Database database,
        WorkspaceWriter writer,
        Outbox outbox,
        Consequences consequences,
        ServiceSettings settings,
        TimeProvider clock
    )
    {
        (_database, _writer, _outbox, _settings, _clock) = (database, writer, outbox, settings, clock);
        _consequences = consequences;
        _asks = new Gatherer<Ask>(LargestGroup, ServeAsync);
    }

    /// <summary>Shows the verdict and the exact mail. Changes nothing.</summary>
    public async Task<InvitationPreview> PreviewAsync(Visitor visitor, InvitationRequest request)
    {
        var now = _clock.Now();
        await using var rows = _database.Open(visitor.WorkspaceId);
        var domains = await KnownDomains.ReadAsync(rows);
        if (!(await WishAsync(request, visitor, rows, now)).Try(out var wish, out var none))
            return new InvitationPreview(false, none.ToProblem(), null, null)
            {
                Verdict = Verdicts.Of(none, false).Word(),
            };
        if (!Offers.Read(wish, visitor.Workspace, visitor.World, now).Try(out var offer, out var refusal))
            return new InvitationPreview(false, refusal.ToProblem(), null, null)
            {
                Verdict = Verdicts.Of(refusal, false).Word(),
                Suggestion = domains.Suggest(request.Address),
                Blockers = await ReadinessCheck.BlockersAsync(rows, visitor, wish, now),
            };
        var known = await KnownAddresses.ReadAsync(rows, [offer]);
        var address = offer.Address;
        var verdict = Readiness
            .Blockers(offer.FactsFor(visitor.World, visitor.Member.Id, known, visitor.Workspace, now))
            .FirstOrDefault();
        var row = offer.ToRow(visitor.Workspace, visitor.Member, known.Host(offer.Host), now);
        var wording = await Wordings.FindAsync(rows, WordedLetter.Invitation, row.Language);
        var letter = Letters.Invitation(
            WordedLetter.Invitation,
            row,
            visitor.Workspace,
            visitor.World,
            wording,
            _settings.Link("/i/" + SecretPlaceholder)
        );
        var isPersonal = known.Of(address, now, visitor.Workspace.Zone).IsPersonal;
        return new InvitationPreview(
            verdict is null,
            verdict?.ToProblem(),
            Wordings.ViewOf(letter, row.Address, _settings),
            row.Deadline
        )
        {
            Verdict = Verdicts.Of(verdict, isPersonal).Word(),
            Notes = InvitationViews.Of([
                .. domains.Notes(address),
                .. NameNotes.Of(offer, WorkspaceRules.Of(visitor.Workspace), visitor.World),
                .. isPersonal ? [AddressNote.Personal(address)] : Array.Empty<AddressNote>(),
            ]),
            Blockers = await ReadinessCheck.BlockersAsync(rows, visitor, wish, now),
        };
    }

    /// <summary>Mails the exact letter to the one who asks; its link opens nothing.</summary>
    public async Task<Outcome<bool>> TestAsync(Visitor visitor, InvitationRequest request)
    {
        var now = _clock.Now();
        await using var rows = _database.Open(visitor.WorkspaceId);
        if (!(await ReadAsync(request, visitor, rows, now)).Try(out var offer, out var refusal))
            return refusal;
        var known = await KnownAddresses.ReadAsync(rows, [offer]);
        var row = offer.ToRow(visitor.Workspace, visitor.Member, known.Host(offer.Host), now);
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
                _outbox.Queue(write, Purposes.News, member.Address, letter with { StopLink = null });
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
        if (!(await ReadAsync(request, visitor, null, _clock.Now())).Try(out var offer, out var refusal))
            return refusal;
        var ask = new Ask(visitor, request, offer, idempotencyKey);
        _asks.Ask(visitor.WorkspaceId, ask);
        return await ask.Answer.Task;
    }

    /// <summary>Reads a request, with the preset it names.</summary>
    /// <param name="request">The request.</param>
    /// <param name="visitor">Whose.</param>
    /// <param name="open">A context in the visitor's workspace; null to open one when it is needed.</param>
    /// <param name="now">When.</param>
    public async Task<Outcome<InvitationOffer>> ReadAsync(
        InvitationRequest request,
        Visitor visitor,
        ComeAboardContext? open,
        DateTimeOffset now
    ) =>
        (await WishAsync(request, visitor, open, now)).Try(out var wish, out var refusal)
            ? Offers.Read(wish, visitor.Workspace, visitor.World, now)
            : refusal;

    private async Task<Outcome<InvitationWish>> WishAsync(
        InvitationRequest request,
        Visitor visitor,
        ComeAboardContext? open,
        DateTimeOffset now
    )
    {
        var wish = Offers.WishOf(request);
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
        return wish;
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
        var known = await KnownAddresses.ReadAsync(write.Rows, [.. asks.Select(ask => ask.Offer)]);
        var inviters = await write.MembersAsync([.. asks.Select(ask => ask.Visitor.Member.Id).Distinct()]);
        var answered = await AnsweredRequests.ReadAsync(
            write.Rows,
            [.. asks.Select(ask => ask.Key).OfType<string>()]
        );
        await known.ExpireOverdueAsync(write, _consequences);
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
            return EntryRules.Ended;
        var world = await write.WorldAsync();
        if (EntryRules.Forbids(world, inviter.Id, write.Today) is { } cut)
            return cut;
        var offer = ask.Offer;
        var host = known.Host(offer.Host);
        var row = offer.ToRow(write.Workspace, inviter, host, write.Now);
        var isDraft = ask.Request.Draft;
        if (
            (
                isDraft
                    ? InvitationCourse.ForbidsDraft(world, inviter.Id, offer, write.Today)
                    : offer.Forbidden(world, inviter.Id, known, write.Workspace, write.Now)
            ) is
            { } forbidden
        )
            return forbidden;
        await _consequences.ApplyAsync(
            write,
            row,
            isDraft ? InvitationCourse.Draft : InvitationCourse.Begin,
            by: ask.Visitor.Caller
        );
        if (!isDraft)
            known.NoteInvited(offer, row.Id, row.Deadline, write.Today);
        return InvitationViews.Of(row, null, write.Now, world, write.Workspace);
    }

    private sealed record Ask(Visitor Visitor, InvitationRequest Request, InvitationOffer Offer, string? Key)
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
