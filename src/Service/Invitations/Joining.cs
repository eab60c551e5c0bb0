using ComeAboard.Core;
using ComeAboard.Core.Access;
using ComeAboard.Core.Invitations;
using ComeAboard.Service.Access;
using ComeAboard.Service.Mail;
using ComeAboard.Service.Workspaces;
using ComeAboard.Storage.Access;
using ComeAboard.Storage.Accounts;
using ComeAboard.Storage.Invitations;

namespace ComeAboard.Service.Invitations;

/// <summary>Making somebody a member by an accepted invitation, and telling those concerned.</summary>
public sealed class Joining(Outbox outbox, ServiceSettings settings)
{
    /// <summary>Makes the member; the invitation is in the state accepted already.</summary>
    public async Task<MemberRow> JoinAsync(WorkspaceWrite write, AccountRow account, InvitationRow invitation)
    {
        var member = MemberOf(write, account, invitation);
        write.Rows.Members.Add(member);
        var world = await write.WorldAsync();
        Give(write, world, member, invitation);
        await Seating.SettleAsync(write, invitation, member.Id);
        invitation.MemberId = member.Id;
        write.Record(
            "member.joined",
            member.Id,
            ("name", member.Name),
            ("address", member.Address),
            ("kind", member.Kind.Word()),
            ("gives", Bundles.Summary(invitation.Bundle, world)),
            ("from", member.FirstDay?.ToString("yyyy-MM-dd")),
            ("until", member.LastDay?.ToString("yyyy-MM-dd")),
            ("host", member.HostName.Length > 0 ? member.HostName : null),
            ("invited by", invitation.InvitedByName),
            ("invited as", member.InvitedAs.Length > 0 ? member.InvitedAs : null),
            ("on the word of", member.VouchedByName.Length > 0 ? member.VouchedByName : null)
        );
        outbox.Queue(
            write,
            Purposes.Notice,
            member.Address,
            Letters.Welcome(
                member,
                write.Workspace,
                Bundles.Sentence(
                    Phrases.Of(invitation.Language),
                    world,
                    invitation.Bundle,
                    [],
                    member.OrganisationId,
                    member.Kind
                ),
                invitation.Language,
                settings.Link("/places")
            )
        );
        var link = settings.Link($"/w/{write.Workspace.ShortName}/people/{member.Id}");
        foreach (var reader in new[] { invitation.InvitedBy, invitation.HostId }.Distinct())
            await outbox.TellAsync(
                write,
                reader,
                r => Letters.Accepted(r.Name, member, write.Workspace, link)
            );
        return member;
    }

    /// <summary>What the invitation carries becomes the member's own; what is not there any more is left out.</summary>
    private static void Give(
        WorkspaceWrite write,
        AccessWorld world,
        MemberRow member,
        InvitationRow invitation
    )
    {
        foreach (var given in invitation.Bundle.Roles)
        {
            if (
                !world.Roles.ContainsKey(given.Role)
                || given.Resource is { } at && !world.Resources.ContainsKey(at)
            )
                continue;
            write.Rows.Grants.Add(
                new GrantRow
                {
                    WorkspaceId = write.Workspace.Id,
                    Id = Guid.CreateVersion7(write.Now),
                    HolderKind = HolderKind.Member,
                    HolderId = member.Id,
                    RoleId = given.Role,
                    ResourceId = given.Resource,
                    LastDay = given.Until,
                    GivenAt = write.Now,
                    GivenByName = invitation.InvitedByName,
                }
            );
        }
        foreach (var group in invitation.Bundle.Groups.Where(world.Groups.ContainsKey))
            write.Rows.GroupMembers.Add(
                new GroupMemberRow
                {
                    WorkspaceId = write.Workspace.Id,
                    GroupId = group,
                    MemberId = member.Id,
                    Since = write.Now,
                }
            );
    }

    private static MemberRow MemberOf(WorkspaceWrite write, AccountRow account, InvitationRow invitation) =>
        new MemberRow
        {
            WorkspaceId = write.Workspace.Id,
            Id = Guid.CreateVersion7(write.Now),
            AccountId = account.Id,
            Address = invitation.Answerer,
            AddressKey = EmailAddress.Read(invitation.Answerer).Value.Key,
            InvitedAs = invitation.CameAs.Length > 0 ? invitation.Address : "",
            VouchedByName = invitation.CameAs.Length > 0 ? invitation.HandedByName : "",
            Name = account.Name,
            Kind = invitation.Kind,
            OrganisationId = invitation.OrganisationId,
            FirstDay = invitation.FirstDay,
            LastDay = invitation.LastDay,
            Organisation = invitation.Organisation,
            Title = invitation.Title,
            Department = invitation.Department,
            Manager = invitation.Manager,
            Country = invitation.Country,
            Note = invitation.Note,
            HostId = invitation.HostId,
            HostName = invitation.HostName,
            LinkId = invitation.LinkId,
            JoinedAt = write.Now,
            InvitationId = invitation.Id,
            InvitedByName = invitation.InvitedByName,
        }.WithSearchText();
}
