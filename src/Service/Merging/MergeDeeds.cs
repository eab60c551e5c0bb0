using System.Text.Json;
using System.Text.Json.Serialization;
using ComeAboard.Core.Access;
using ComeAboard.Core.Merging;
using ComeAboard.Service.Access;
using ComeAboard.Service.Workspaces;
using ComeAboard.Storage.Access;
using ComeAboard.Storage.Accounts;
using Microsoft.EntityFrameworkCore;

namespace ComeAboard.Service.Merging;

/// <summary>
/// The steps of a merge in a workspace: done, kept, and undone. The member who goes keeps all that was given to them: it rests
/// as long as they are one with another, and is in force again once they are parted.
/// </summary>
public static class MergeDeeds
{
    private static readonly JsonSerializerOptions Kept = new(JsonSerializerDefaults.Web)
    {
        Converters = { new JsonStringEnumConverter() },
        DefaultIgnoreCondition = JsonIgnoreCondition.WhenWritingDefault,
    };

    /// <summary>Steps as they are kept.</summary>
    public static string Write(IReadOnlyList<MergeStep> steps) => JsonSerializer.Serialize(steps, Kept);

    /// <summary>Steps as they were kept.</summary>
    public static IReadOnlyList<MergeStep> Read(string kept) =>
        kept.Length == 0 ? [] : JsonSerializer.Deserialize<IReadOnlyList<MergeStep>>(kept, Kept) ?? [];

    /// <summary>Makes one of the two the other.</summary>
    public static async Task DoAsync(
        WorkspaceWrite write,
        MemberRow kept,
        MemberRow other,
        IReadOnlyList<MergeStep> steps
    )
    {
        var passing = new Passing(write, other, kept);
        foreach (var step in steps.Where(step => !step.IsLeft))
            await (
                step.Deed switch
                {
                    MergeDeed.Field => Done(() => Put(kept, step.Name, step.After!)),
                    MergeDeed.SwitchOff => Done(() => SwitchOff(write, kept, step.Subject)),
                    MergeDeed.Grant => GiveAsync(write, kept, step),
                    MergeDeed.Group => Done(() => Join(write, kept, step.Subject)),
                    MergeDeed.Seat => PassSeatAsync(write, step.Subject, other, kept),
                    MergeDeed.FreeSeat => FreeSeatAsync(write, step, other),
                    _ => passing.PassAsync(step),
                }
            );
        other.EndedAt = write.Now;
        other.MergedIntoId = kept.Id;
        other.Version++;
        kept.Version++;
        kept.WithSearchText();
    }

    /// <summary>
    /// Parts them again. What was changed since stays with the member who stayed; what came from the other goes back, unless it
    /// is somebody else's by now. Whatever took access away since counts for both.
    /// </summary>
    /// <returns>What could not be brought back, in sentences.</returns>
    public static async Task<IReadOnlyList<string>> UndoAsync(
        WorkspaceWrite write,
        MemberRow kept,
        MemberRow other,
        IReadOnlyList<MergeStep> steps,
        DateTimeOffset mergedAt
    )
    {
        var remains = new List<string>();
        var passing = new Passing(write, kept, other);
        foreach (var step in steps.Where(step => !step.IsLeft).Reverse())
        {
            switch (step.Deed)
            {
                case MergeDeed.Field:
                    if (Reads(kept, step.Name) == step.After)
                        Put(kept, step.Name, step.Before!);
                    else
                        remains.Add($"The {step.Name} of {kept.Name} was changed since, and stays.");
                    break;
                case MergeDeed.SwitchOff:
                    write.Rows.SwitchedOff.RemoveRange(
                        await write
                            .Rows.SwitchedOff.Where(s =>
                                s.HolderId == kept.Id && s.ResourceId == step.Subject
                            )
                            .ToListAsync()
                    );
                    break;
                case MergeDeed.Grant:
                    write.Rows.Grants.RemoveRange(
                        await write.Rows.Grants.Where(g => g.Id == step.Made).ToListAsync()
                    );
                    break;
                case MergeDeed.Group:
                    write.Rows.GroupMembers.RemoveRange(
                        await write
                            .Rows.GroupMembers.Where(g => g.GroupId == step.Subject && g.MemberId == kept.Id)
                            .ToListAsync()
                    );
                    break;
                case MergeDeed.Seat:
                    if (!await PassSeatAsync(write, step.Subject, kept, other))
                        remains.Add($"The seat of {step.Name} was taken since.");
                    break;
                case MergeDeed.FreeSeat:
                    if (kept.EndedAt is null && !await GiveSeatBackAsync(write, step, other))
                        remains.Add($"No seat of {step.Name} is free for {other.Name}.");
                    break;
                default:
                    await passing.PassAsync(step);
                    break;
            }
        }
        other.MergedIntoId = null;
        // Whatever ended or paused the one they were, was meant for the human.
        other.EndedAt = kept.EndedAt;
        if (kept.PausedAt > mergedAt)
            other.PausedAt ??= kept.PausedAt;
        other.Version++;
        kept.Version++;
        kept.WithSearchText();
        return remains;
    }

    private static Task Done(Action act)
    {
        act();
        return Task.CompletedTask;
    }

    private static void Put(MemberRow member, string field, FieldValue value)
    {
        switch (field)
        {
            case "name":
                member.Name = value.Text;
                break;
            case "kind":
                member.Kind = Enum.Parse<Kind>(value.Text, ignoreCase: true);
                break;
            case "organisation":
                (member.Organisation, member.OrganisationId) = (value.Text, value.Id);
                break;
            case "lead":
                member.Leads = value.Text.Length > 0;
                break;
            case "stay":
                (member.FirstDay, member.LastDay) = (value.Stay!.Value.FirstDay, value.Stay.Value.LastDay);
                break;
            case "host":
                (member.HostName, member.HostId) = (value.Text, value.Id);
                break;
            case "title":
                member.Title = value.Text;
                break;
            case "department":
                member.Department = value.Text;
                break;
            case "manager":
                member.Manager = value.Text;
                break;
            case "country":
                member.Country = value.Text;
                break;
            case "note":
                member.Note = value.Text;
                break;
            default:
                throw new InvalidOperationException($"There is no field {field}.");
        }
    }

    private static FieldValue Reads(MemberRow member, string field) =>
        MergeReader.FieldsOf(member)[Enum.Parse<MergeField>(field, ignoreCase: true)];

    private static void SwitchOff(WorkspaceWrite write, MemberRow kept, Guid resource) =>
        write.Rows.SwitchedOff.Add(
            new SwitchedOffRow
            {
                WorkspaceId = write.Workspace.Id,
                HolderId = kept.Id,
                ResourceId = resource,
                IsOrganisation = false,
                At = write.Now,
                ByName = write.Caller.Name,
            }
        );

    private static async Task GiveAsync(WorkspaceWrite write, MemberRow kept, MergeStep step)
    {
        var given = await write.Rows.Grants.AsNoTracking().FirstAsync(g => g.Id == step.Subject);
        write.Rows.Grants.Add(
            new GrantRow
            {
                WorkspaceId = write.Workspace.Id,
                Id = step.Made!.Value,
                HolderKind = HolderKind.Member,
                HolderId = kept.Id,
                RoleId = given.RoleId,
                ResourceId = given.ResourceId,
                FirstDay = step.Window!.Value.FirstDay,
                LastDay = step.Window.Value.LastDay,
                GivenAt = given.GivenAt,
                GivenByName = given.GivenByName,
            }
        );
    }

    private static void Join(WorkspaceWrite write, MemberRow kept, Guid group) =>
        write.Rows.GroupMembers.Add(
            new GroupMemberRow
            {
                WorkspaceId = write.Workspace.Id,
                GroupId = group,
                MemberId = kept.Id,
                Since = write.Now,
            }
        );

    /// <summary>Passes a seat between two who are one human: no change of the year. False where it is not there any more.</summary>
    private static async Task<bool> PassSeatAsync(
        WorkspaceWrite write,
        Guid pool,
        MemberRow from,
        MemberRow to
    )
    {
        if (
            await write.Rows.Seats.FirstOrDefaultAsync(s => s.PoolId == pool && s.MemberId == from.Id)
            is not { } seat
        )
            return false;
        write.Rows.Seats.Remove(seat);
        write.Rows.Seats.Add(SeatOf(write, pool, to, seat.Since, seat.ForCustody));
        return true;
    }

    private static async Task FreeSeatAsync(WorkspaceWrite write, MergeStep step, MemberRow other)
    {
        var pool = await Seating.PoolAsync(write, step.Subject);
        var seat = await write.Rows.Seats.FirstAsync(s => s.PoolId == pool.Id && s.MemberId == other.Id);
        Seating.Take(write, pool, seat, other.Name);
    }

    private static async Task<bool> GiveSeatBackAsync(WorkspaceWrite write, MergeStep step, MemberRow other)
    {
        var pool = await write.Rows.SeatPools.FirstOrDefaultAsync(p => p.Id == step.Subject);
        if (pool is null || !pool.AccountOn(write.Today).GiveBack().Try(out var account, out _))
            return false;
        pool.Account = account;
        pool.Version++;
        write.Rows.Seats.Add(SeatOf(write, pool.Id, other, step.Since!.Value, step.ForCustody));
        write.Record("seat.given", other.Id, ("pool", pool.Name), ("name", other.Name));
        return true;
    }

    private static SeatRow SeatOf(
        WorkspaceWrite write,
        Guid pool,
        MemberRow member,
        DateTimeOffset since,
        bool forCustody
    ) =>
        new()
        {
            WorkspaceId = write.Workspace.Id,
            PoolId = pool,
            MemberId = member.Id,
            Since = since,
            ForCustody = forCustody,
        };

    /// <summary>Passes on what names the one, as long as it still does; what rests by itself needs nothing.</summary>
    private sealed class Passing(WorkspaceWrite write, MemberRow from, MemberRow to)
    {
        public async Task PassAsync(MergeStep step)
        {
            var (rows, id) = (write.Rows, step.Subject);
            switch (step.Deed)
            {
                case MergeDeed.Guest:
                    if (
                        await rows.Members.FirstOrDefaultAsync(m => m.Id == id && m.HostId == from.Id) is
                        { } guest
                    )
                    {
                        (guest.HostId, guest.HostName) = (to.Id, to.Name);
                        guest.Version++;
                        Record("member.host-changed", id, ("name", guest.Name));
                    }
                    break;
                case MergeDeed.HostedInvitation:
                    if (
                        await rows.Invitations.FirstOrDefaultAsync(i => i.Id == id && i.HostId == from.Id) is
                        { } hosted
                    )
                    {
                        (hosted.HostId, hosted.HostName) = (to.Id, to.Name);
                        hosted.Version++;
                    }
                    break;
                case MergeDeed.Invitation:
                    if (
                        await rows.Invitations.FirstOrDefaultAsync(i =>
                            i.Id == id && i.InvitedBy == from.Id
                        ) is
                        { } invitation
                    )
                    {
                        (invitation.InvitedBy, invitation.InvitedByName) = (to.Id, to.Name);
                        invitation.Version++;
                        Record("invitation.passed-on", id, ("address", invitation.Address));
                    }
                    break;
                case MergeDeed.Link:
                    if (
                        await rows.JoinLinks.FirstOrDefaultAsync(l => l.Id == id && l.CreatedBy == from.Id) is
                        { } link
                    )
                    {
                        (link.CreatedBy, link.CreatedByName) = (to.Id, to.Name);
                        link.Version++;
                    }
                    break;
                case MergeDeed.List:
                    if (
                        await rows.Batches.FirstOrDefaultAsync(b => b.Id == id && b.CreatedBy == from.Id) is
                        { } list
                    )
                        (list.CreatedBy, list.CreatedByName) = (to.Id, to.Name);
                    break;
                case MergeDeed.Former:
                    if (
                        await rows.Members.FirstOrDefaultAsync(m =>
                            m.Id == id && m.MergedIntoId == from.Id
                        ) is
                        { } former
                    )
                        former.MergedIntoId = to.Id;
                    break;
                case MergeDeed.Resource:
                    if (
                        await rows.Resources.FirstOrDefaultAsync(r => r.Id == id && r.OwnerId == from.Id) is
                        { } resource
                    )
                    {
                        resource.OwnerId = to.Id;
                        resource.Version++;
                        Record("resource.handed-over", id, ("name", resource.Name));
                    }
                    break;
            }
        }

        private void Record(string action, Guid subject, (string, object?) what) =>
            write.Record(action, subject, what, ("before", from.Name), ("after", to.Name));
    }
}
