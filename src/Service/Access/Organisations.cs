using ComeAboard.Client.Access;
using ComeAboard.Client.Workspaces;
using ComeAboard.Core;
using ComeAboard.Core.Access;
using ComeAboard.Core.Workspaces;
using ComeAboard.Service.Workspaces;
using ComeAboard.Storage;
using ComeAboard.Storage.Access;
using ComeAboard.Storage.Accounts;
using ComeAboard.Storage.Invitations;
using Microsoft.EntityFrameworkCore;

namespace ComeAboard.Service.Access;

/// <summary>Organisations, with their contacts.</summary>
public sealed class Organisations(Editing editing, Database database)
    : NamedThings<OrganisationRow, OrganisationRequest, OrganisationForm, OrganisationView>(Sort, editing)
{
    public static NamedSort Sort { get; } = new("organisation", 5_000, Duties.Access);

    /// <summary>How many people of an organisation are here or invited.</summary>
    public static async Task<int> HeadcountAsync(ComeAboardContext rows, Guid organisation) =>
        await rows.Members.CountAsync(m => m.OrganisationId == organisation && m.EndedAt == null)
        + await rows.Invitations.CountAsync(i => i.OrganisationId == organisation && i.IsPending);

    /// <summary>Those of a kind with a part of their name, code, reference or domains; by name.</summary>
    public async Task<Page<OrganisationView>> ListAsync(Visitor visitor, string? search, string? kind)
    {
        await using var rows = database.Open(visitor.WorkspaceId);
        var found = await rows.Organisations.AsNoTracking().OrderBy(o => o.NameKey).ToListAsync();
        var kept = found.Where(o =>
            (string.IsNullOrEmpty(kind) || o.Kind.Word() == kind)
            && (
                string.IsNullOrWhiteSpace(search)
                || o.Name.Contains(search.Trim(), StringComparison.OrdinalIgnoreCase)
                || o.Code.Contains(search.Trim(), StringComparison.OrdinalIgnoreCase)
                || o.Reference.Contains(search.Trim(), StringComparison.OrdinalIgnoreCase)
                || o.Domains.Contains(search.Trim(), StringComparison.OrdinalIgnoreCase)
            )
        );
        return new Page<OrganisationView>(await ViewsAsync(rows, visitor, [.. kept]), null);
    }

    /// <summary>One, by name, code or id.</summary>
    public async Task<Outcome<OrganisationView>> ShowAsync(Visitor visitor, string name)
    {
        if (!visitor.World.FindOrganisation(name).Try(out var found, out var refusal))
            return refusal;
        await using var rows = database.Open(visitor.WorkspaceId);
        return await rows.Organisations.AsNoTracking().FirstOrDefaultAsync(o => o.Id == found.Id) is { } row
            ? (await ViewsAsync(rows, visitor, [row]))[0]
            : CommonRefusals.NotFound;
    }

    protected override Task<Outcome<Guid>> FindAsync(Visitor visitor, string name) =>
        Task.FromResult(visitor.World.FindOrganisation(name).Then(organisation => organisation.Id));

    protected override Outcome<OrganisationForm> Read(OrganisationRequest request, AccessWorld world) =>
        OrganisationForm.Read(request);

    protected override async Task<Outcome<(string Name, object? Value)[]>> FillAsync(
        WorkspaceWrite write,
        MemberRow editor,
        OrganisationRow row,
        OrganisationForm words
    )
    {
        var members = write.Rows.Members.Where(m => m.OrganisationId == row.Id);
        if (row.Kind != words.Kind && await members.AnyAsync(m => m.EndedAt == null))
            return HasPeople(
                $"There are people of {row.Name} here as {row.Kind.Word()}.",
                "Change their kind first."
            ) with
            {
                Field = "kind",
            };
        if (await CodeTakenAsync(write, row, words) is { } taken)
            return taken;
        (string, object?)[] facts =
        [
            ("kind", words.Kind.Word()),
            ("agreement ends before", row.AgreementEnds?.ToString("yyyy-MM-dd") ?? "no end"),
            ("agreement ends after", words.AgreementEnds?.ToString("yyyy-MM-dd") ?? "no end"),
            ("domains before", row.Domains.Replace('\n', ' ')),
            ("domains after", string.Join(' ', words.Domains)),
            ("cap before", row.Cap),
            ("cap after", words.Cap),
        ];
        if (row.Name != words.Name)
            foreach (var member in await members.ToListAsync())
            {
                member.Organisation = words.Name;
                member.WithSearchText();
            }
        var isNew = row.Name.Length == 0;
        Put(row, words);
        if (words.Contacts is { } contacts)
        {
            write.Rows.Contacts.RemoveRange(
                await write.Rows.Contacts.Where(c => c.OrganisationId == row.Id).ToListAsync()
            );
            AddContacts(write, row, words.Name, contacts);
        }
        return Facts(
            isNew ? [.. facts, ("people of that name", await AdoptAsync(write, row, words.Name))] : facts
        );
    }

    protected override async Task<Outcome<int>> ClearAsync(WorkspaceWrite write, OrganisationRow row)
    {
        if (
            await write.Rows.Members.AnyAsync(m => m.OrganisationId == row.Id && m.EndedAt == null)
            || await write.Rows.Invitations.AnyAsync(i => i.OrganisationId == row.Id && i.IsPending)
        )
            return HasPeople(
                $"There are people of {row.Name} here, or invited.",
                "End them first, or put them elsewhere."
            );
        write.Rows.SwitchedOff.RemoveRange(
            await write.Rows.SwitchedOff.Where(s => s.HolderId == row.Id).ToListAsync()
        );
        write.Rows.Contacts.RemoveRange(
            await write.Rows.Contacts.Where(c => c.OrganisationId == row.Id).ToListAsync()
        );
        return await Grants.TakeAllAsync(
            write,
            g => g.HolderKind == HolderKind.Organisation && g.HolderId == row.Id
        );
    }

    protected override async Task<OrganisationView> AnswerAsync(Visitor visitor, Edited<OrganisationRow> done)
    {
        await using var rows = database.Open(visitor.WorkspaceId);
        return (await ViewsAsync(rows, visitor, [done.Value]))[0] with { Difference = done.Difference };
    }

    private static Refusal HasPeople(string why, string remedy) =>
        new("organisation.has-people", why, remedy, RefusalSort.Conflict);

    /// <summary>People who carry the name already belong to it from now on; it gives nothing yet.</summary>
    private static async Task<int> AdoptAsync(WorkspaceWrite write, OrganisationRow row, string name)
    {
        var named = await write
            .Rows.Members.Where(m =>
                m.EndedAt == null && m.OrganisationId == null && m.Kind == row.Kind && m.Organisation == name
            )
            .ToListAsync();
        foreach (var member in named)
        {
            member.OrganisationId = row.Id;
            member.Version++;
        }
        return named.Count;
    }

    private static async Task<Refusal?> CodeTakenAsync(
        WorkspaceWrite write,
        OrganisationRow row,
        OrganisationForm words
    ) =>
        words.Code.Length > 0
        && await write.Rows.Organisations.AnyAsync(o => o.Code == words.Code && o.Id != row.Id)
            ? new Refusal(
                "organisation.code-taken",
                $"Another organisation has the code {words.Code}.",
                "Take another code.",
                RefusalSort.Conflict,
                "code"
            )
            : null;

    private static void Put(OrganisationRow row, OrganisationForm words)
    {
        (row.Kind, row.Code, row.Colour) = (words.Kind, words.Code, words.Colour);
        (row.Reference, row.Domains) = (words.Reference, string.Join('\n', words.Domains));
        (row.AgreementEnds, row.Cap) = (words.AgreementEnds, words.Cap);
    }

    private static void AddContacts(
        WorkspaceWrite write,
        OrganisationRow row,
        string organisation,
        IReadOnlyList<(string Name, string Address, string Title)> contacts
    )
    {
        foreach (var (name, address, title) in contacts)
            write.Rows.Contacts.Add(
                new ContactRow
                {
                    WorkspaceId = write.Workspace.Id,
                    Id = Guid.CreateVersion7(write.Now),
                    OrganisationId = row.Id,
                    Name = name,
                    Address = address,
                    Title = title,
                    SearchText = InvitationRow.SearchTextOf(name, address, organisation),
                }
            );
    }

    private static async Task<IReadOnlyList<OrganisationView>> ViewsAsync(
        ComeAboardContext rows,
        Visitor visitor,
        IReadOnlyList<OrganisationRow> organisations
    )
    {
        var ids = organisations.Select(o => o.Id).ToList();
        var world = visitor.World;
        var grants = await Grants.OfAsync(rows, HolderKind.Organisation, ids);
        var contacts = (
            await rows.Contacts.AsNoTracking().Where(c => ids.Contains(c.OrganisationId)).ToListAsync()
        ).ToLookup(c => c.OrganisationId);
        var invited = await rows
            .Invitations.Where(i => i.OrganisationId != null && i.IsPending)
            .GroupBy(i => i.OrganisationId)
            .Select(g => new { g.Key, Count = g.Count() })
            .ToDictionaryAsync(g => g.Key!.Value, g => g.Count);
        var people = world
            .People.Values.Where(p => p.OrganisationId is not null)
            .ToLookup(p => p.OrganisationId!.Value);
        var off = world.SwitchedOff.ToLookup(s => s.Holder, s => s.Resource);
        return
        [
            .. organisations.Select(o => new OrganisationView(
                o.Id,
                o.Name,
                o.Kind.Word(),
                o.Code,
                o.Colour,
                o.Reference,
                o.DomainList,
                o.AgreementEnds,
                o.AgreementEnds < visitor.Today,
                o.Cap,
                people[o.Id].Count(),
                invited.GetValueOrDefault(o.Id),
                [.. people[o.Id].Where(p => p.Leads).Select(p => p.Name).Order()],
                [
                    .. contacts[o.Id]
                        .OrderBy(c => c.Name)
                        .Select(c => new ContactView(c.Name, c.Address, c.Title)),
                ],
                Grants.ViewsOf(grants[o.Id], world),
                [.. off[o.Id].Select(resource => Bundles.ResourceName(world, resource)).Order()],
                o.Version
            )),
        ];
    }
}
