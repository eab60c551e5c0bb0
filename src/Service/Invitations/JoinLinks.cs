using ComeAboard.Client.Departures;
using ComeAboard.Client.Invitations;
using ComeAboard.Client.Workspaces;
using ComeAboard.Core;
using ComeAboard.Core.Access;
using ComeAboard.Core.Invitations;
using ComeAboard.Core.Workspaces;
using ComeAboard.Service.Access;
using ComeAboard.Service.Departures;
using ComeAboard.Service.Workspaces;
using ComeAboard.Storage;
using ComeAboard.Storage.Access;
using ComeAboard.Storage.Accounts;
using ComeAboard.Storage.Invitations;
using Microsoft.EntityFrameworkCore;
using QRCoder;

namespace ComeAboard.Service.Invitations;

/// <summary>
/// Join links: made, renewed, closed; and used. Using one asks for an address and mails a personal invitation there, so
/// that nobody comes in at an address they do not read; the cap is counted when that invitation is accepted.
/// </summary>
public sealed class JoinLinks(
    Database database,
    WorkspaceWriter writer,
    Ending ending,
    ServiceSettings settings,
    TimeProvider clock
)
{
    // Somebody who has a link can have mails sent; not many more than people it is for.
    /// <summary>Makes a link; what comes back shows its address, once.</summary>
    public async Task<Outcome<NewJoinLink>> AddAsync(
        Visitor visitor,
        JoinLinkRequest request,
        bool dryRun = false
    )
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
        )
        {
            NoEnd = request.NoEnd,
        };
        var today = Days.Of(now, visitor.Workspace.Zone);
        if (
            !JoinLinkTerms
                .Read(
                    wish,
                    now,
                    today,
                    visitor.Workspace.Language,
                    WorkspaceRules.Of(visitor.Workspace),
                    visitor.World
                )
                .Try(out var terms, out var refusal)
        )
            return refusal;
        return await writer.WriteAsync<NewJoinLink>(
            visitor.WorkspaceId,
            visitor.Caller,
            async write =>
            {
                if (!(await write.RequireAsync(Duties.Invite)).Try(out var member, out var no))
                    return no;
                var world = await write.WorldAsync();
                var rules = WorkspaceRules.Of(write.Workspace);
                if (
                    !JoinLinkCourse.Add(terms, world, rules, member.Id, write.Today).Try(out var what, out no)
                )
                    return no;
                var row = new JoinLinkRow
                {
                    WorkspaceId = write.Workspace.Id,
                    Id = Guid.CreateVersion7(write.Now),
                    Label = terms.Label,
                    Kind = terms.Kind,
                    Gives = BundleText.Of(terms.Gives),
                    LastDay = terms.Stay.LastDay,
                    StayDays = terms.StayDays,
                    Cap = terms.Cap,
                    Domains = string.Join('\n', terms.Domains),
                    NeedsApproval = terms.NeedsApproval,
                    ExpiresAt = terms.ExpiresAt,
                    Message = terms.Message,
                    Language = terms.Language,
                    CreatedBy = member.Id,
                    CreatedByName = member.Name,
                    CreatedAt = write.Now,
                };
                write.Rows.JoinLinks.Add(row);
                var secret = Consequences.Apply(
                    write,
                    row,
                    what,
                    member,
                    ("kind", row.Kind.Word()),
                    ("gives", Bundles.Summary(row.Bundle, world)),
                    ("cap", row.Cap),
                    ("domains", row.Domains.Replace('\n', ' '))
                );
                var made = Show(row, secret!, write.Now, world, rules);
                // An address that opens nothing is not shown.
                return dryRun ? made with { Address = "", QrSvg = "", QrPng = "" } : made;
            },
            keep: !dryRun
        );
    }

    /// <summary>Gives a link another address; the one handed out before is dead.</summary>
    public Task<Outcome<NewJoinLink>> RenewAsync(Visitor visitor, Guid id, int? expectedVersion) =>
        ChangeAsync<NewJoinLink>(
            visitor,
            id,
            expectedVersion,
            (write, member, row, world) =>
            {
                var rules = WorkspaceRules.Of(write.Workspace);
                return JoinLinkCourse
                    .Renew(row.StateAt(write.Now), row.Kind, row.Bundle, world, rules, member.Id, write.Today)
                    .Try(out var what, out var no)
                    ? Show(row, Consequences.Apply(write, row, what, member)!, write.Now, world, rules)
                    : no;
            }
        );

    /// <summary>Closes a link; nobody comes in by it any more, nor by invitations it led to.</summary>
    public Task<Outcome<JoinLinkView>> CloseAsync(Visitor visitor, Guid id, int? expectedVersion) =>
        ChangeAsync<JoinLinkView>(
            visitor,
            id,
            expectedVersion,
            (write, member, row, world) =>
            {
                if (JoinLinkCourse.Close(row.StateAt(write.Now)) is { } what)
                    Consequences.Apply(write, row, what, member, ("uses", row.Uses));
                return ViewOf(row, write.Now, world, WorkspaceRules.Of(write.Workspace));
            }
        );

    /// <summary>A page of links, newest first.</summary>
    public async Task<Outcome<Page<JoinLinkView>>> ListAsync(Visitor visitor, Paging paging)
    {
        await using var rows = database.Open(visitor.WorkspaceId);
        var rules = WorkspaceRules.Of(visitor.Workspace);
        return await rows
            .JoinLinks.AsNoTracking()
            .PageAsync(
                paging,
                page =>
                    Task.FromResult<IReadOnlyList<JoinLinkView>>([
                        .. page.Select(row => ViewOf(row, clock.Now(), visitor.World, rules)),
                    ])
            );
    }

    /// <summary>One link.</summary>
    public async Task<JoinLinkView?> FindAsync(Visitor visitor, Guid id)
    {
        await using var rows = database.Open(visitor.WorkspaceId);
        return await rows.JoinLinks.AsNoTracking().FirstOrDefaultAsync(l => l.Id == id) is { } row
            ? ViewOf(row, clock.Now(), visitor.World, WorkspaceRules.Of(visitor.Workspace))
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
            .ToDictionaryAsync(m => m.Id);
        return (await ending.EndAllAsync(visitor, [.. people.Keys], new DepartureRequest(), !dryRun)).Try(
            out var taken,
            out var refusal
        )
            ? new LinkDeparture(
                [.. taken.Done.Select(done => $"{people[done].Name} <{people[done].Address}>")],
                [
                    .. taken.Refused.Select(no => new StepRefusal(
                        no.Which,
                        people[no.Which].Address,
                        no.Why.ToProblem()
                    )),
                ]
            )
            : refusal;
    }

    private Task<Outcome<T>> ChangeAsync<T>(
        Visitor visitor,
        Guid id,
        int? expectedVersion,
        Func<WorkspaceWrite, MemberRow, JoinLinkRow, AccessWorld, Outcome<T>> change
    )
        where T : notnull =>
        writer.WriteAsync<T>(
            visitor.WorkspaceId,
            visitor.Caller,
            async write =>
            {
                if (!(await write.RequireAsync(Duties.Invite)).Try(out var member, out var no))
                    return no;
                if (await write.Rows.JoinLinks.FirstOrDefaultAsync(l => l.Id == id) is not { } row)
                    return CommonRefusals.NotFound;
                if (row.IsStale(expectedVersion))
                    return CommonRefusals.Stale;
                row.Version++;
                return change(write, member, row, await write.WorldAsync());
            }
        );

    private NewJoinLink Show(
        JoinLinkRow row,
        Secret secret,
        DateTimeOffset now,
        AccessWorld world,
        HouseRules rules
    )
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
        return new NewJoinLink(ViewOf(row, now, world, rules), address, svg, Convert.ToBase64String(png));
    }

    private static JoinLinkView ViewOf(
        JoinLinkRow row,
        DateTimeOffset now,
        AccessWorld world,
        HouseRules rules
    ) =>
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
            row.NeedsApproval || rules.NeedsApproval(row.Kind, row.Bundle),
            row.ExpiresAt,
            row.Message,
            row.Language,
            row.CreatedByName,
            row.CreatedAt,
            row.Version
        );
}
