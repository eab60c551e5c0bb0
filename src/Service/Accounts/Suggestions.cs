using ComeAboard.Client.Accounts;
using ComeAboard.Client.Workspaces;
using ComeAboard.Core.Access;
using ComeAboard.Core.Connections;
using ComeAboard.Core.Invitations;
using ComeAboard.Service.Connections;
using ComeAboard.Service.Invitations;
using ComeAboard.Service.Workspaces;
using ComeAboard.Storage;
using Microsoft.EntityFrameworkCore;

namespace ComeAboard.Service.Accounts;

/// <summary>Whom a few letters may mean: people here, people invited, contacts of organisations, people of directories, organisations.</summary>
public sealed class Suggestions(Database database)
{
    private const int MostOfEach = 5;
    private const int Shortest = 2;

    /// <summary>Those a text is a part of, at most five of each sort; none for less than two letters.</summary>
    public async Task<Page<SuggestionView>> FindAsync(Visitor visitor, string? text)
    {
        var part = text?.Trim().ToLowerInvariant() ?? "";
        if (part.Length is < Shortest or > 100)
            return new Page<SuggestionView>([], null);
        await using var rows = database.Open(visitor.WorkspaceId);
        var pattern = "%" + InvitationLists.Escape(part) + "%";
        var members = await rows
            .Members.AsNoTracking()
            .Where(m => m.EndedAt == null && EF.Functions.Like(m.SearchText, pattern, "\\"))
            .OrderBy(m => m.Name)
            .Take(MostOfEach)
            .ToListAsync();
        var invited = await rows
            .Invitations.AsNoTracking()
            .Where(i =>
                (i.IsPending || i.State == InvitationState.Draft)
                && EF.Functions.Like(i.SearchText, pattern, "\\")
            )
            .OrderByDescending(i => i.Id)
            .Take(MostOfEach)
            .ToListAsync();
        var contacts = await rows
            .Contacts.AsNoTracking()
            .Where(c => EF.Functions.Like(c.SearchText, pattern, "\\"))
            .OrderBy(c => c.Name)
            .Take(MostOfEach)
            .ToListAsync();
        // Whoever is joined is somebody here, and is found as such.
        var elsewhere = await rows
            .SourceRecords.AsNoTracking()
            .Where(r =>
                r.GoneSince == null
                && r.JoinedId == null
                && r.Verdict == SourceVerdict.New
                && EF.Functions.Like(r.SearchText, pattern, "\\")
            )
            .OrderBy(r => r.Name)
            .Take(MostOfEach)
            .ToListAsync();
        var organisations = visitor
            .World.Organisations.Values.Where(o =>
                o.Name.Contains(part, StringComparison.OrdinalIgnoreCase)
                || o.Code.Equals(part, StringComparison.OrdinalIgnoreCase)
            )
            .OrderBy(o => o.Name)
            .Take(MostOfEach);
        var known = members
            .Select(m => m.Address)
            .Concat(invited.Select(i => i.Address))
            .ToHashSet(StringComparer.OrdinalIgnoreCase);
        return new Page<SuggestionView>(
            [
                .. members.Select(m => new SuggestionView(
                    "member",
                    m.Name,
                    m.Address,
                    m.Organisation,
                    m.Kind.Word(),
                    m.Title,
                    m.Id
                )),
                .. invited.Select(i => new SuggestionView(
                    "invitation",
                    i.Name,
                    i.Address,
                    i.Organisation,
                    i.Kind.Word(),
                    i.Title,
                    i.Id
                )),
                .. contacts
                    .Where(c => !known.Contains(c.Address))
                    .Select(c =>
                    {
                        var own = visitor.World.Organisations.GetValueOrDefault(c.OrganisationId);
                        return new SuggestionView(
                            "contact",
                            c.Name,
                            c.Address,
                            own?.Name ?? "",
                            (own?.Kind ?? Kind.Guest).Word(),
                            c.Title,
                            c.Id
                        );
                    }),
                .. elsewhere
                    .Where(r => !known.Contains(r.Address))
                    .Select(r =>
                    {
                        var record = ConnectionViews.RecordOf(r);
                        return new SuggestionView(
                            "directory",
                            record.Shown,
                            record.Address,
                            record.Organisation,
                            Kind.Guest.Word(),
                            record.Title,
                            r.ConnectionId
                        );
                    }),
                .. organisations.Select(o => new SuggestionView(
                    "organisation",
                    o.Name,
                    "",
                    o.Name,
                    o.Kind.Word(),
                    "",
                    o.Id
                )),
            ],
            null
        );
    }
}
