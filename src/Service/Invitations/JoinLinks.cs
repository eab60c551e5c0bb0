using ComeAboard.Client.Invitations;
using ComeAboard.Client.Workspaces;
using ComeAboard.Core;
using ComeAboard.Core.Access;
using ComeAboard.Core.Invitations;
using ComeAboard.Core.Workspaces;
using ComeAboard.Service.Access;
using ComeAboard.Service.Departures;
using ComeAboard.Service.Http;
using ComeAboard.Service.Mail;
using ComeAboard.Service.SignIn;
using ComeAboard.Service.Workspaces;
using ComeAboard.Storage;
using ComeAboard.Storage.Access;
using ComeAboard.Storage.Invitations;
using ComeAboard.Storage.Workspaces;
using Microsoft.EntityFrameworkCore;
using QRCoder;

namespace ComeAboard.Service.Invitations;

/// <summary>A join link with its workspace.</summary>
public sealed record FoundLink(JoinLinkRow Link, WorkspaceRow Workspace);

/// <summary>
/// Join links: made, renewed, closed; and used. Using one asks for an address and mails a personal invitation there, so
/// that nobody comes in at an address they do not read; the cap is counted when that invitation is accepted.
/// </summary>
public sealed class JoinLinks(
    Database database,
    WorkspaceWriter writer,
    Inviting inviting,
    Ending ending,
    AccessWorlds worlds,
    ServiceSettings settings,
    TimeProvider clock
)
{
    // Somebody who has a link can have mails sent; not many more than people it is for.
    private const int AskedPerPlace = 5;
    private const int AskedAtLeast = 20;

    /// <summary>Makes a link; what comes back shows its address, once.</summary>
    public async Task<Outcome<NewJoinLink>> AddAsync(Visitor visitor, JoinLinkRequest request)
    {
        var now = clock.Now();
        var wish = new JoinLinkWish(
            request.Label,
            request.Kind,
            Bundles.WishOf(request.Role, null, request.Gives),
            request.Until,
            request.StayDays,
            request.Cap,
            request.Domains,
            request.NeedsApproval,
            request.Days,
            request.Message,
            request.Language
        );
        var today = Days.Of(now, visitor.Workspace.Zone);
        if (
            !JoinLinkTerms
                .Read(wish, now, today, visitor.Workspace.Language, visitor.World)
                .Try(out var terms, out var refusal)
        )
            return refusal;
        var secret = ApiTokens.NewSecret();
        return await writer.WriteAsync<NewJoinLink>(
            visitor.WorkspaceId,
            visitor.Caller,
            async write =>
            {
                if (!(await write.RequireAsync(Duties.Invite)).Try(out var member, out var no))
                    return no;
                var world = await write.WorldAsync();
                if (
                    WorkspaceRules
                        .Of(write.Workspace)
                        .ForbidsInviter(world, member.Id, terms.Kind, write.Today) is
                    { } kind
                )
                    return kind;
                if (GivingRules.Forbids(world, member.Id, terms.Gives, write.Today) is { } right)
                    return right;
                if (terms.Gives.Pools.Count > 0)
                    return new Refusal(
                        "link.seats",
                        "A join link cannot reserve seats, as nobody knows how many will come.",
                        "Give the seats when people are here, or invite them singly.",
                        RefusalSort.Conflict,
                        "seats"
                    );
                var row = new JoinLinkRow
                {
                    WorkspaceId = write.Workspace.Id,
                    Id = Guid.CreateVersion7(write.Now),
                    Label = terms.Label,
                    SecretHash = secret.Hash().Value,
                    Kind = terms.Kind,
                    Gives = BundleText.Of(terms.Gives),
                    LastDay = terms.Stay.LastDay,
                    StayDays = terms.StayDays,
                    Cap = terms.Cap,
                    Domains = string.Join('\n', terms.Domains),
                    NeedsApproval =
                        terms.NeedsApproval
                        || WorkspaceRules.Of(write.Workspace).NeedsApproval(terms.Kind, terms.Gives),
                    ExpiresAt = terms.ExpiresAt,
                    Message = terms.Message,
                    Language = terms.Language,
                    CreatedBy = member.Id,
                    CreatedByName = member.Name,
                    CreatedAt = write.Now,
                };
                write.Rows.JoinLinks.Add(row);
                write.Record(
                    "link.added",
                    row.Id,
                    ("label", row.Label),
                    ("kind", row.Kind.Word()),
                    ("gives", Bundles.Summary(row.Bundle, world)),
                    ("cap", row.Cap),
                    ("domains", row.Domains.Replace('\n', ' '))
                );
                return Show(row, secret, write.Now, world);
            }
        );
    }

    /// <summary>Gives a link another address; the one handed out before is dead.</summary>
    public Task<Outcome<NewJoinLink>> RenewAsync(Visitor visitor, Guid id)
    {
        var secret = ApiTokens.NewSecret();
        return ChangeAsync<NewJoinLink>(
            visitor,
            id,
            (write, row) =>
            {
                if (JoinLinkRules.Forbids(row.StateAt(write.Now)) is { } closed)
                    return closed with { Remedy = "Make another link." };
                row.SecretHash = secret.Hash().Value;
                write.Record("link.renewed", row.Id, ("label", row.Label));
                return Show(row, secret, write.Now, visitor.World);
            }
        );
    }

    /// <summary>Closes a link; nobody comes in by it any more, nor by invitations it led to.</summary>
    public Task<Outcome<JoinLinkView>> CloseAsync(Visitor visitor, Guid id) =>
        ChangeAsync<JoinLinkView>(
            visitor,
            id,
            (write, row) =>
            {
                if (row.ClosedAt is null)
                {
                    row.ClosedAt = write.Now;
                    write.Record("link.closed", row.Id, ("label", row.Label), ("uses", row.Uses));
                }
                return ViewOf(row, write.Now, visitor.World);
            }
        );

    /// <summary>All links, newest first.</summary>
    public async Task<Page<JoinLinkView>> ListAsync(Visitor visitor)
    {
        await using var rows = database.Open(visitor.WorkspaceId);
        var found = await rows
            .JoinLinks.AsNoTracking()
            .OrderByDescending(l => l.Id)
            .Take(Requests.LargestPage)
            .ToListAsync();
        return new Page<JoinLinkView>(
            [.. found.Select(row => ViewOf(row, clock.Now(), visitor.World))],
            null
        );
    }

    /// <summary>One link.</summary>
    public async Task<JoinLinkView?> FindAsync(Visitor visitor, Guid id)
    {
        await using var rows = database.Open(visitor.WorkspaceId);
        return await rows.JoinLinks.AsNoTracking().FirstOrDefaultAsync(l => l.Id == id) is { } row
            ? ViewOf(row, clock.Now(), visitor.World)
            : null;
    }

    /// <summary>Ends everybody who came in by a link, or tells whose access that would be.</summary>
    public async Task<Outcome<LinkDeparture>> EndAllAsync(Visitor visitor, Guid id, bool dryRun)
    {
        await using var rows = database.Open(visitor.WorkspaceId);
        if (!await rows.JoinLinks.AnyAsync(l => l.Id == id))
            return CommonRefusals.NotFound;
        var people = await rows
            .Members.AsNoTracking()
            .Where(m => m.LinkId == id && m.EndedAt == null)
            .OrderBy(m => m.Id)
            .Select(m => new
            {
                m.Id,
                m.Name,
                m.Address,
            })
            .ToListAsync();
        var (ended, refused) = (new List<string>(), new List<StepRefusal>());
        foreach (var person in people)
        {
            var no = dryRun
                ? (await ending.PlanAsync(visitor, person.Id.ToString(), null)).Try(
                    out var plan,
                    out var refusal
                )
                    ? plan.Problem
                    : refusal.ToProblem()
                : (await ending.EndAsync(visitor, person.Id.ToString(), null)).Refusal?.ToProblem();
            if (no is null)
                ended.Add($"{person.Name} <{person.Address}>");
            else
                refused.Add(new StepRefusal(person.Id, person.Address, no));
        }
        return new LinkDeparture(ended, refused);
    }

    /// <summary>The link behind a secret, if it is one and lets people in.</summary>
    public async Task<Outcome<FoundLink>> OpenAsync(string? secretText)
    {
        if (Secret.Read(secretText) is not { } secret)
            return LinkRules.Malformed;
        var hash = secret.Hash();
        await using var rows = database.Open();
        var found = await (
            from link in rows.JoinLinks.IgnoreQueryFilters()
            join workspace in rows.Workspaces on link.WorkspaceId equals workspace.Id
            where link.SecretHash == hash.Value
            select new FoundLink(link, workspace)
        )
            .AsNoTracking()
            .FirstOrDefaultAsync();
        if (found is null || !new SecretHash(found.Link.SecretHash).Matches(hash))
            return LinkRules.Unknown;
        return JoinLinkRules.Forbids(found.Link.StateAt(clock.Now())) is { } closed ? closed : found;
    }

    /// <summary>What a link offers.</summary>
    public async Task<JoinOfferView> OfferOfAsync(FoundLink found)
    {
        var world = await worlds.OfAsync(found.Workspace);
        var (link, workspace) = (found.Link, found.Workspace);
        var today = Days.Of(clock.Now(), workspace.Zone);
        return new JoinOfferView(
            workspace.Name,
            link.CreatedByName,
            link.Kind.Word(),
            Bundles.Sentence(Phrases.Of(link.Language), world, link.Bundle, [], null, link.Kind),
            LastDayOf(link, today),
            link.Message,
            link.DomainList,
            link.NeedsApproval,
            link.ExpiresAt,
            link.Language
        );
    }

    /// <summary>
    /// Asks to come in: if the address can, a personal invitation is mailed to it. The answer is the same when it is
    /// here or invited already, or wants no invitations, so that nobody learns that from a link.
    /// </summary>
    public async Task<Outcome<bool>> AskAsync(string? secret, string? address, string? name, string via)
    {
        if (!(await OpenAsync(secret)).Try(out var found, out var refusal))
            return refusal;
        if (!EmailAddress.Read(address).Try(out var to, out refusal))
            return refusal;
        if (!PlainText.ReadName(name).Try(out var goodName, out refusal))
            return refusal;
        if (JoinLinkRules.ForbidsDomain(found.Link.DomainList, to) is { } domain)
            return domain;
        return await writer.WriteAsync<bool>(
            found.Workspace.Id,
            Caller.Invitee(goodName.Length > 0 ? goodName : to.ToString(), via),
            async write =>
            {
                var link = await write.Rows.JoinLinks.FirstAsync(l => l.Id == found.Link.Id);
                if (link.SecretHash != found.Link.SecretHash)
                    return LinkRules.Unknown;
                if (JoinLinkRules.Forbids(link.StateAt(write.Now)) is { } closed)
                    return closed;
                var open = await write.Rows.Invitations.CountAsync(i => i.LinkId == link.Id && i.IsPending);
                if (open >= Math.Max(AskedAtLeast, (link.Cap - link.Uses) * AskedPerPlace))
                    return CommonRefusals.TooMany;
                var known = await KnownAddresses.ReadAsync(write.Rows, [to]);
                await known.ExpireOverdueAsync(write);
                if (InvitingRules.Forbids(to, known.Of(to, write.Now, write.Workspace.Zone)) is not null)
                    return true;
                var inviter = await write.Rows.Members.AsNoTracking().FirstAsync(m => m.Id == link.CreatedBy);
                var row = NewInvitation(link, write, inviter.Id, to, goodName);
                await inviting.AddAsync(write, write.Caller, row);
                return true;
            }
        );
    }

    /// <summary>
    /// Counts an accept against the link an invitation came by; refuses when the link lets nobody in any more, or is not
    /// for the address, which is proved only now. Null where there is no link.
    /// </summary>
    public static async Task<Refusal?> UseAsync(WorkspaceWrite write, InvitationRow invitation)
    {
        if (invitation.LinkId is not { } id)
            return null;
        var link = await write.Rows.JoinLinks.FirstAsync(l => l.Id == id);
        if (JoinLinkRules.Forbids(link.StateAt(write.Now)) is { } closed)
            return closed;
        if (
            JoinLinkRules.ForbidsDomain(link.DomainList, EmailAddress.Read(invitation.Address).Value) is
            { } domain
        )
            return domain;
        link.Uses++;
        link.Version++;
        return null;
    }

    /// <summary>Frees a place that somebody took who then did not come in.</summary>
    public static async Task GiveBackAsync(WorkspaceWrite write, InvitationRow invitation)
    {
        if (invitation.LinkId is not { } id)
            return;
        var link = await write.Rows.JoinLinks.FirstAsync(l => l.Id == id);
        link.Uses--;
        link.Version++;
    }

    private static InvitationRow NewInvitation(
        JoinLinkRow link,
        WorkspaceWrite write,
        Guid inviter,
        EmailAddress to,
        string name
    ) =>
        new InvitationRow
        {
            WorkspaceId = write.Workspace.Id,
            Id = Guid.CreateVersion7(write.Now),
            Address = to.ToString(),
            AddressKey = to.Key,
            Name = name,
            Kind = link.Kind,
            Gives = link.Gives,
            LastDay = LastDayOf(link, write.Today),
            Message = link.Message,
            Language = link.Language,
            State = InvitationState.Queued,
            SecretHash = null,
            Deadline = link.ExpiresAt,
            AnswerSeconds = (long)Math.Max(86_400, (link.ExpiresAt - write.Now).TotalSeconds),
            InvitedBy = inviter,
            InvitedByName = link.CreatedByName,
            CreatedAt = write.Now,
            LastStepAt = write.Now,
            LinkId = link.Id,
            NeedsApproval = link.NeedsApproval,
        }.WithSearchText();

    private static DateOnly? LastDayOf(JoinLinkRow link, DateOnly today) =>
        link.StayDays is { } days ? today.AddDays(days - 1) : link.LastDay;

    private Task<Outcome<T>> ChangeAsync<T>(
        Visitor visitor,
        Guid id,
        Func<WorkspaceWrite, JoinLinkRow, Outcome<T>> change
    )
        where T : notnull =>
        writer.WriteAsync<T>(
            visitor.WorkspaceId,
            visitor.Caller,
            async write =>
            {
                if (!(await write.RequireAsync(Duties.Invite)).Try(out _, out var no))
                    return no;
                if (await write.Rows.JoinLinks.FirstOrDefaultAsync(l => l.Id == id) is not { } row)
                    return CommonRefusals.NotFound;
                row.Version++;
                return change(write, row);
            }
        );

    private NewJoinLink Show(JoinLinkRow row, Secret secret, DateTimeOffset now, AccessWorld world)
    {
        var address = settings.Link("/j/" + secret.Reveal());
        using var code = QRCodeGenerator.GenerateQrCode(address, QRCodeGenerator.ECCLevel.M);
        var svg = new SvgQRCode(code).GetGraphic(
            8,
            "#000000",
            "#ffffff",
            true,
            SvgQRCode.SizingMode.ViewBoxAttribute
        );
        var png = new PngByteQRCode(code).GetGraphic(10);
        return new NewJoinLink(ViewOf(row, now, world), address, svg, Convert.ToBase64String(png));
    }

    private static JoinLinkView ViewOf(JoinLinkRow row, DateTimeOffset now, AccessWorld world) =>
        new(
            row.Id,
            row.Label,
            row.StateAt(now).Word(),
            row.Kind.Word(),
            Bundles.Summary(row.Bundle, world),
            row.LastDay,
            row.StayDays,
            row.Cap,
            row.Uses,
            row.DomainList,
            row.NeedsApproval,
            row.ExpiresAt,
            row.Message,
            row.Language,
            row.CreatedByName,
            row.CreatedAt,
            row.Version
        );
}
