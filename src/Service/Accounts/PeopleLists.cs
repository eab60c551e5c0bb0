using ComeAboard.Client.Accounts;
using ComeAboard.Client.Workspaces;
using ComeAboard.Core;
using ComeAboard.Core.Access;
using ComeAboard.Core.Workspaces;
using ComeAboard.Service.Invitations;
using ComeAboard.Service.Workspaces;
using ComeAboard.Storage;
using ComeAboard.Storage.Accounts;
using Microsoft.AspNetCore.Mvc;
using Microsoft.EntityFrameworkCore;

namespace ComeAboard.Service.Accounts;

/// <summary>Which people are listed.</summary>
public sealed record PeopleQuery
{
    /// <summary>upcoming, active, paused, ended, or null for all.</summary>
    public string? State { get; init; }

    /// <summary>staff, guest, partner, client, or null for all.</summary>
    public string? Kind { get; init; }

    /// <summary>Any part of a name or address, or null.</summary>
    public string? Search { get; init; }

    /// <summary>Only those who came by a join link, or null.</summary>
    public Guid? Link { get; init; }

    /// <summary>Only those of an organisation, or null.</summary>
    public Guid? Organisation { get; init; }
}

/// <summary>Listing people, newest first.</summary>
public sealed class PeopleLists(Database database, TimeProvider clock)
{
    /// <summary>A page of them.</summary>
    public async Task<Outcome<Page<PersonView>>> PageAsync(Visitor visitor, PeopleQuery query, Paging paging)
    {
        await using var rows = database.Open(visitor.WorkspaceId);
        if (!Narrow(rows, query, visitor.Today).Try(out var narrowed, out var refusal))
            return refusal;
        return await narrowed.PageAsync(paging, page => ViewsAsync(rows, visitor, page));
    }

    /// <summary>All of them, lot by lot; what is wrong with the question is said before the first.</summary>
    public async Task<Outcome<IAsyncEnumerable<IReadOnlyList<PersonView>>>> LotsAsync(
        Visitor visitor,
        PeopleQuery query
    )
    {
        await using var rows = database.Open(visitor.WorkspaceId);
        return Narrow(rows, query, visitor.Today).Try(out _, out var refusal)
            ? Outcome.Of(ReadAsync(visitor, query))
            : refusal;
    }

    private async IAsyncEnumerable<IReadOnlyList<PersonView>> ReadAsync(Visitor visitor, PeopleQuery query)
    {
        await using var rows = database.Open(visitor.WorkspaceId);
        await foreach (var lot in Narrow(rows, query, visitor.Today).Value.LotsAsync())
            yield return await ViewsAsync(rows, visitor, lot);
    }

    private Task<IReadOnlyList<PersonView>> ViewsAsync(
        ComeAboardContext rows,
        Visitor visitor,
        IReadOnlyList<MemberRow> members
    ) => PersonViews.OfAsync(rows, members, clock.Now(), visitor.Workspace, visitor.World);

    /// <summary>Those that a question is about; refuses with <c>kind.unknown</c> or <c>state.unknown</c>.</summary>
    public static Outcome<IQueryable<MemberRow>> Narrow(
        ComeAboardContext all,
        PeopleQuery query,
        DateOnly today
    )
    {
        var rows = all.Members.AsNoTracking();
        if (query.Link is not null)
            rows = rows.Where(m => m.LinkId == query.Link);
        if (query.Organisation is not null)
            rows = rows.Where(m => m.OrganisationId == query.Organisation);
        if (query.Kind is { Length: > 0 })
        {
            if (!Kinds.Read(query.Kind).Try(out var known, out var refusal))
                return refusal;
            rows = rows.Where(m => m.Kind == known);
        }
        if (query.Search?.Trim() is { Length: > 0 } part)
        {
            var pattern = "%" + InvitationLists.Escape(part.ToLowerInvariant()) + "%";
            rows = rows.Where(m => EF.Functions.Like(m.SearchText, pattern, "\\"));
        }
        return query.State switch
        {
            null or "" => Outcome.Of(rows),
            "active" => Outcome.Of(
                rows.Where(m =>
                    m.EndedAt == null
                    && m.PausedAt == null
                    && (m.LastDay == null || m.LastDay >= today)
                    && (m.FirstDay == null || m.FirstDay <= today)
                )
            ),
            "upcoming" => Outcome.Of(
                rows.Where(m => m.EndedAt == null && m.PausedAt == null && m.FirstDay > today)
            ),
            "paused" => Outcome.Of(
                rows.Where(m =>
                    m.EndedAt == null && m.PausedAt != null && (m.LastDay == null || m.LastDay >= today)
                )
            ),
            "ended" => Outcome.Of(rows.Where(m => m.EndedAt != null || m.LastDay < today)),
            _ => new Refusal(
                "state.unknown",
                "There is no such state of a person.",
                "Use upcoming, active, paused or ended.",
                Field: "state"
            ),
        };
    }
}
