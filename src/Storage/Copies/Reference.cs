using ComeAboard.Core.Access;
using ComeAboard.Storage.Access;
using ComeAboard.Storage.Accounts;
using ComeAboard.Storage.Departures;
using ComeAboard.Storage.Invitations;
using ComeAboard.Storage.SignIn;
using Microsoft.EntityFrameworkCore;
using Microsoft.EntityFrameworkCore.Metadata;

namespace ComeAboard.Storage.Copies;

/// <summary>A column that names a row of another table, which has to be there.</summary>
/// <param name="From">The row that refers.</param>
/// <param name="Property">By which of its properties; none is meant where it is null.</param>
/// <param name="To">The row referred to, by its id within the workspace, or by its id alone.</param>
/// <param name="Where">For which rows it holds, in SQL; null for all.</param>
public sealed record Reference(Type From, string Property, Type To, string? Where = null)
{
    /// <summary>All that the engines do not see to themselves.</summary>
    public static IReadOnlyList<Reference> All { get; } =
    [
        new(typeof(GrantRow), nameof(GrantRow.RoleId), typeof(RoleRow)),
        new(typeof(GrantRow), nameof(GrantRow.ResourceId), typeof(ResourceRow)),
        Holder(HolderKind.Member, typeof(MemberRow)),
        Holder(HolderKind.Group, typeof(GroupRow)),
        Holder(HolderKind.Organisation, typeof(OrganisationRow)),
        new(typeof(GroupMemberRow), nameof(GroupMemberRow.GroupId), typeof(GroupRow)),
        new(typeof(GroupMemberRow), nameof(GroupMemberRow.MemberId), typeof(MemberRow)),
        new(typeof(ResourceRow), nameof(ResourceRow.AreaId), typeof(AreaRow)),
        new(typeof(ResourceRow), nameof(ResourceRow.OwnerId), typeof(MemberRow)),
        new(typeof(SwitchedOffRow), nameof(SwitchedOffRow.ResourceId), typeof(ResourceRow)),
        new(typeof(ContactRow), nameof(ContactRow.OrganisationId), typeof(OrganisationRow)),
        new(typeof(SeatRow), nameof(SeatRow.PoolId), typeof(SeatPoolRow)),
        new(typeof(SeatRow), nameof(SeatRow.MemberId), typeof(MemberRow)),
        new(typeof(SeatReservationRow), nameof(SeatReservationRow.PoolId), typeof(SeatPoolRow)),
        new(typeof(SeatReservationRow), nameof(SeatReservationRow.InvitationId), typeof(InvitationRow)),
        new(typeof(MemberRow), nameof(MemberRow.AccountId), typeof(AccountRow)),
        new(typeof(MemberRow), nameof(MemberRow.OrganisationId), typeof(OrganisationRow)),
        new(typeof(MemberRow), nameof(MemberRow.HostId), typeof(MemberRow)),
        new(typeof(MemberRow), nameof(MemberRow.LinkId), typeof(JoinLinkRow)),
        new(typeof(MemberRow), nameof(MemberRow.InvitationId), typeof(InvitationRow)),
        new(typeof(InvitationRow), nameof(InvitationRow.OrganisationId), typeof(OrganisationRow)),
        new(typeof(InvitationRow), nameof(InvitationRow.LinkId), typeof(JoinLinkRow)),
        new(typeof(InvitationRow), nameof(InvitationRow.MemberId), typeof(MemberRow)),
        new(typeof(DepartureRow), nameof(DepartureRow.MemberId), typeof(MemberRow)),
        new(typeof(ApiTokenRow), nameof(ApiTokenRow.MemberId), typeof(MemberRow)),
        new(typeof(ApiTokenRow), nameof(ApiTokenRow.AccountId), typeof(AccountRow)),
        new(typeof(ClaimRow), nameof(ClaimRow.AccountId), typeof(AccountRow)),
        new(typeof(BatchEntryRow), nameof(BatchEntryRow.BatchId), typeof(BatchRow)),
        new(typeof(BatchEntryRow), nameof(BatchEntryRow.InvitationId), typeof(InvitationRow)),
    ];

    private static Reference Holder(HolderKind kind, Type to) =>
        new(
            typeof(GrantRow),
            nameof(GrantRow.HolderId),
            to,
            $"holder_kind = '{kind.ToString().ToLowerInvariant()}'"
        );

    /// <summary>What refers to what, in the names of the tables.</summary>
    public string NameIn(ComeAboardContext rows)
    {
        var (table, column, target) = NamesIn(rows);
        return $"{table}.{column} → {target}";
    }

    /// <summary>How many rows of a workspace refer to one that is not there.</summary>
    public async Task<int> CountDanglingAsync(ComeAboardContext rows, Guid workspace)
    {
        var (table, column, target) = NamesIn(rows);
        var within = To.IsAssignableTo(typeof(ITenantRow)) ? "p.workspace_id = c.workspace_id AND " : "";
        var only = Where is null ? "" : $"AND c.{Where} ";
        // Some roles are there without a row.
        var given = To == typeof(RoleRow) ? Role.AllBuiltIn.Select(role => (object)role.Id).ToList() : [];
        if (given.Count > 0)
            only += $"AND c.{column} NOT IN ({string.Join(", ", given.Select((_, i) => $"{{{i + 1}}}"))}) ";
        // Names of our own only.
        var sql = $$"""
            SELECT CAST(count(*) AS integer) AS "Value" FROM {{table}} c
            WHERE c.workspace_id = {0} AND c.{{column}} IS NOT NULL {{only}}
            AND NOT EXISTS (SELECT 1 FROM {{target}} p WHERE {{within}}p.id = c.{{column}})
            """;
        var found = await rows.Database.SqlQueryRaw<int>(sql, [workspace, .. given]).ToListAsync();
        return found[0];
    }

    private (string Table, string Column, string Target) NamesIn(ComeAboardContext rows)
    {
        var from = rows.Model.FindEntityType(From)!;
        var store = StoreObjectIdentifier.Create(from, StoreObjectType.Table)!.Value;
        return (
            store.Name,
            from.FindProperty(Property)!.GetColumnName(store)!,
            rows.Model.FindEntityType(To)!.GetTableName()!
        );
    }
}
