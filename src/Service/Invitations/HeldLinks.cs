using ComeAboard.Client.Invitations;
using ComeAboard.Core;
using ComeAboard.Core.Access;
using ComeAboard.Core.Invitations;
using ComeAboard.Core.Workspaces;
using ComeAboard.Service.Access;
using ComeAboard.Service.Mail;
using ComeAboard.Service.Workspaces;
using ComeAboard.Storage;
using ComeAboard.Storage.Invitations;
using ComeAboard.Storage.Workspaces;
using Microsoft.EntityFrameworkCore;
using QRCoder;

namespace ComeAboard.Service.Invitations;

/// <summary>A join link with its workspace.</summary>
public sealed record FoundLink(JoinLinkRow Link, WorkspaceRow Workspace);

/// <summary>The side of whoever holds a join link: what it offers, and asking in by it.</summary>
public sealed class HeldLinks(
    Database database,
    WorkspaceWriter writer,
    Consequences consequences,
    AccessWorlds worlds,
    TimeProvider clock
)
{
    private const int AskedPerPlace = 5;
    private const int AskedAtLeast = 20;

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
            link.NeedsApproval || WorkspaceRules.Of(workspace).NeedsApproval(link.Kind, link.Bundle),
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
        if (!PlainText.ReadPersonName(name).Try(out var goodName, out refusal))
            return refusal;
        return await writer.WriteAsync<bool>(
            found.Workspace.Id,
            Caller.Invitee(goodName.Length > 0 ? goodName : to.ToString(), via),
            async write =>
                (await BeginAsync(write, found.Link, to, goodName)).Try(out _, out var no) ? true : no
        );
    }

    /// <summary>A link that lets people in, by its id.</summary>
    public async Task<Outcome<FoundLink>> FindAsync(Guid workspace, Guid id)
    {
        await using var rows = database.Open(workspace);
        var link = await rows.JoinLinks.AsNoTracking().FirstOrDefaultAsync(l => l.Id == id);
        if (link is null)
            return LinkRules.Unknown;
        if (JoinLinkRules.Forbids(link.StateAt(clock.Now())) is { } closed)
            return closed;
        return new FoundLink(link, await rows.Workspaces.AsNoTracking().FirstAsync(w => w.Id == workspace));
    }

    /// <summary>Begins the invitation of somebody who comes by a link; nothing where they are here or invited already, or want none.</summary>
    /// <param name="write">The change.</param>
    /// <param name="found">The link as it was found.</param>
    /// <param name="to">Who.</param>
    /// <param name="name">What they call themselves; empty for nothing.</param>
    public async Task<Outcome<Begun>> BeginAsync(
        WorkspaceWrite write,
        JoinLinkRow found,
        EmailAddress to,
        string name
    )
    {
        if (JoinLinkRules.ForbidsDomain(found.DomainList, to) is { } domain)
            return domain;
        var link = await write.Rows.JoinLinks.FirstAsync(l => l.Id == found.Id);
        if (link.SecretHash != found.SecretHash)
            return LinkRules.Unknown;
        if (JoinLinkRules.Forbids(link.StateAt(write.Now)) is { } closed)
            return closed;
        var open = await write.Rows.Invitations.CountAsync(i => i.LinkId == link.Id && i.IsPending);
        if (open >= Math.Max(AskedAtLeast, (link.Cap - link.Uses) * AskedPerPlace))
            return CommonRefusals.TooMany;
        var known = await KnownAddresses.ReadAsync(write.Rows, [to]);
        await known.ExpireOverdueAsync(write, consequences);
        if (InvitingRules.Forbids(to, known.Of(to, write.Now, write.Workspace.Zone)) is not null)
            return new Begun(null);
        var inviter = await write.Rows.Members.AsNoTracking().FirstAsync(m => m.Id == link.CreatedBy);
        var row = NewInvitation(link, write, inviter.Id, to, name);
        await consequences.ApplyAsync(write, row, InvitationCourse.Begin);
        return new Begun(row);
    }

    /// <summary>An invitation that was begun; none where there is nothing to begin.</summary>
    public sealed record Begun(InvitationRow? Invitation);

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
            State = InvitationState.Draft,
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
}
