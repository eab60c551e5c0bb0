using ComeAboard.Core.Access;
using ComeAboard.Core.Merging;
using ComeAboard.Service.Departures;
using ComeAboard.Service.Workspaces;
using ComeAboard.Storage;
using ComeAboard.Storage.Accounts;
using Microsoft.EntityFrameworkCore;

namespace ComeAboard.Service.Merging;

/// <summary>Gathers, within a change of a workspace, what two members are who are to become one, and what hangs on the other.</summary>
public static class MergeReader
{
    /// <summary>Reads it.</summary>
    public static async Task<MergeFacts> ReadAsync(WorkspaceWrite write, MemberRow kept, MemberRow other)
    {
        var world = await write.WorldAsync();
        return new MergeFacts(
            world,
            write.Today,
            await SideAsync(write.Rows, kept),
            await SideAsync(write.Rows, other)
        )
        {
            Hanging = await HangingAsync(write, world, kept, other),
        };
    }

    private static async Task<MergeSide> SideAsync(ComeAboardContext rows, MemberRow member) =>
        new(member.Id, member.Name, FieldsOf(member))
        {
            Seats = await (
                from seat in rows.Seats
                join pool in rows.SeatPools on seat.PoolId equals pool.Id
                where seat.MemberId == member.Id
                orderby pool.Name
                select new SeatHeld(pool.Id, pool.Name, seat.Since, seat.ForCustody)
            ).ToListAsync(),
        };

    /// <summary>What is written down of a member.</summary>
    internal static IReadOnlyDictionary<MergeField, FieldValue> FieldsOf(MemberRow member) =>
        new Dictionary<MergeField, FieldValue>
        {
            [MergeField.Name] = new FieldValue(member.Name),
            [MergeField.Kind] = new FieldValue(member.Kind.Word()),
            [MergeField.Organisation] = new FieldValue(member.Organisation, member.OrganisationId),
            [MergeField.Lead] = member.Leads ? new FieldValue("yes") : FieldValue.Empty,
            [MergeField.Stay] = FieldValue.Of(member.Stay),
            [MergeField.Pause] = member.PausedAt is null ? FieldValue.Empty : new FieldValue("paused"),
            [MergeField.Host] = new FieldValue(member.HostName, member.HostId),
            [MergeField.Title] = new FieldValue(member.Title),
            [MergeField.Department] = new FieldValue(member.Department),
            [MergeField.Manager] = new FieldValue(member.Manager),
            [MergeField.Country] = new FieldValue(member.Country),
            [MergeField.Note] = new FieldValue(member.Note),
        };

    /// <summary>What passes on to whoever stays, and what rests: the same that a leaver leaves.</summary>
    private static async Task<IReadOnlyList<MergeStep>> HangingAsync(
        WorkspaceWrite write,
        AccessWorld world,
        MemberRow kept,
        MemberRow other
    )
    {
        var left = await Leavers.ReadAsync(write, other, null);
        var programs = await write
            .Rows.Applications.AsNoTracking()
            .Where(a => a.ActsForId == other.Id)
            .OrderBy(a => a.Name)
            .Select(a => new Core.Departures.Named(a.Id, a.Name))
            .ToListAsync();
        var former = await write
            .Rows.Members.AsNoTracking()
            .Where(m => m.MergedIntoId == other.Id)
            .OrderBy(m => m.Id)
            .Select(m => new Core.Departures.Named(m.Id, m.Address))
            .ToListAsync();
        var owned = world
            .Resources.Values.Where(resource => resource.Owner == other.Id)
            .OrderBy(resource => resource.Name, StringComparer.Ordinal)
            .Select(resource => new Core.Departures.Named(resource.Id, resource.Name));
        return
        [
            .. Each(MergeDeed.Guest, left.Guests.Where(guest => guest.Id != kept.Id)),
            .. Each(MergeDeed.HostedInvitation, left.HostedInvitations),
            .. Each(MergeDeed.Invitation, left.Invitations),
            .. Each(MergeDeed.Link, left.Links),
            .. Each(MergeDeed.List, left.Lists),
            .. Each(MergeDeed.Resource, owned),
            .. Each(MergeDeed.Former, former),
            .. Each(MergeDeed.Token, left.Tokens),
            .. Each(MergeDeed.Program, programs),
        ];
    }

    private static IEnumerable<MergeStep> Each(MergeDeed deed, IEnumerable<Core.Departures.Named> subjects) =>
        subjects.Select(subject => new MergeStep(deed, subject.Id, subject.Name));
}
