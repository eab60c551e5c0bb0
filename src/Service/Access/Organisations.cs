using ComeAboard.Client.Access;
using ComeAboard.Client.Workspaces;
using ComeAboard.Core;
using ComeAboard.Core.Access;
using ComeAboard.Core.Invitations;
using ComeAboard.Service.Http;
using ComeAboard.Service.Workspaces;
using ComeAboard.Storage;
using ComeAboard.Storage.Access;
using ComeAboard.Storage.Invitations;
using Microsoft.EntityFrameworkCore;

namespace ComeAboard.Service.Access;

/// <summary>Organisations: made, changed, removed; with their contacts.</summary>
public static class Organisations
{
    private const int Most = 5_000;

    public static RouteGroupBuilder MapOrganisations(this RouteGroupBuilder workspace)
    {
        var organisations = workspace
            .MapGroup("/organisations")
            .ForMembers(Duties.Access | Duties.Invite | Duties.People);
        organisations
            .MapGet("", ListAsync)
            .OrCsv("organisations")
            .WithName("listOrganisations")
            .Produces<Page<OrganisationView>>();
        organisations
            .MapGet("/{organisation}", ShowAsync)
            .WithName("showOrganisation")
            .Produces<OrganisationView>();
        organisations
            .MapPost("", AddAsync)
            .ForMembers(Duties.Access)
            .WithName("addOrganisation")
            .Produces<OrganisationView>(201);
        organisations
            .MapPut("/{organisation}", ChangeAsync)
            .ForMembers(Duties.Access)
            .WithName("changeOrganisation")
            .Produces<OrganisationView>();
        organisations
            .MapDelete("/{organisation}", RemoveAsync)
            .ForMembers(Duties.Access)
            .WithName("removeOrganisation")
            .Produces<GroupAnswer>();
        return workspace;
    }

    private static async Task<Page<OrganisationView>> ListAsync(
        Visitor visitor,
        string? search,
        string? kind,
        Database database
    )
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

    private static async Task<IResult> ShowAsync(
        Visitor visitor,
        string organisation,
        HttpContext http,
        Database database
    )
    {
        if (!visitor.World.FindOrganisation(organisation).Try(out var found, out var refusal))
            return refusal.ToResult();
        await using var rows = database.Open(visitor.WorkspaceId);
        var row = await rows.Organisations.AsNoTracking().FirstAsync(o => o.Id == found.Id);
        http.Response.SayVersion(row.Version);
        return Results.Ok((await ViewsAsync(rows, visitor, [row]))[0]);
    }

    private static async Task<IResult> AddAsync(
        Visitor visitor,
        OrganisationRequest request,
        HttpContext http,
        Editing editing,
        Database database,
        bool dryRun = false
    )
    {
        if (!OrganisationForm.Read(request).Try(out var wanted, out var refusal))
            return refusal.ToResult();
        var edited = await editing.EditAsync<OrganisationRow>(
            visitor,
            new EditMode(Duties.Access, dryRun),
            async (write, _) =>
            {
                if (await TakenAsync(write, wanted, null) is { } taken)
                    return taken;
                if (await write.Rows.Organisations.CountAsync() >= Most)
                    return new Refusal(
                        "organisation.too-many",
                        $"There are {Most} organisations already.",
                        "Remove one that is not used.",
                        RefusalSort.Conflict
                    );
                var row = new OrganisationRow
                {
                    WorkspaceId = write.Workspace.Id,
                    Id = Guid.CreateVersion7(write.Now),
                    Name = wanted.Name,
                    NameKey = Names.KeyOf(wanted.Name),
                    Kind = wanted.Kind,
                };
                Put(row, wanted);
                write.Rows.Organisations.Add(row);
                AddContacts(write, row, wanted.Contacts ?? []);
                var known = await AdoptAsync(write, row);
                write.Record(
                    "organisation.added",
                    row.Id,
                    ("name", row.Name),
                    ("kind", row.Kind.Word()),
                    ("agreement ends", row.AgreementEnds?.ToString("yyyy-MM-dd")),
                    ("people of that name", known)
                );
                return row;
            }
        );
        return await AnswerAsync(visitor, edited, database, $"{http.Request.Path}");
    }

    private static async Task<IResult> ChangeAsync(
        Visitor visitor,
        string organisation,
        OrganisationRequest request,
        HttpContext http,
        Editing editing,
        Database database,
        bool dryRun = false
    )
    {
        if (!visitor.World.FindOrganisation(organisation).Try(out var old, out var refusal))
            return refusal.ToResult();
        if (!OrganisationForm.Read(request).Try(out var wanted, out refusal))
            return refusal.ToResult();
        var expected = http.Request.ExpectedVersion();
        var edited = await editing.EditAsync<OrganisationRow>(
            visitor,
            new EditMode(Duties.Access, dryRun),
            async (write, _) =>
            {
                if (await write.Rows.Organisations.FirstOrDefaultAsync(o => o.Id == old.Id) is not { } row)
                    return CommonRefusals.NotFound;
                if (expected is { } version && version != row.Version)
                    return CommonRefusals.Stale;
                if (await TakenAsync(write, wanted, row.Id) is { } taken)
                    return taken;
                if (
                    row.Kind != wanted.Kind
                    && await write.Rows.Members.AnyAsync(m => m.OrganisationId == row.Id && m.EndedAt == null)
                )
                    return new Refusal(
                        "organisation.has-people",
                        $"There are people of {row.Name} here as {row.Kind.Word()}.",
                        "Change their kind first.",
                        RefusalSort.Conflict,
                        "kind"
                    );
                write.Record(
                    "organisation.changed",
                    row.Id,
                    ("name before", row.Name),
                    ("name after", wanted.Name),
                    ("agreement ends before", row.AgreementEnds?.ToString("yyyy-MM-dd") ?? "no end"),
                    ("agreement ends after", wanted.AgreementEnds?.ToString("yyyy-MM-dd") ?? "no end"),
                    ("domains before", row.Domains.Replace('\n', ' ')),
                    ("domains after", string.Join(' ', wanted.Domains)),
                    ("cap before", row.Cap),
                    ("cap after", wanted.Cap)
                );
                if (row.Name != wanted.Name)
                    foreach (
                        var member in await write
                            .Rows.Members.Where(m => m.OrganisationId == row.Id)
                            .ToListAsync()
                    )
                    {
                        member.Organisation = wanted.Name;
                        member.WithSearchText();
                    }
                Put(row, wanted);
                row.Version++;
                if (wanted.Contacts is { } contacts)
                {
                    write.Rows.Contacts.RemoveRange(
                        await write.Rows.Contacts.Where(c => c.OrganisationId == row.Id).ToListAsync()
                    );
                    AddContacts(write, row, contacts);
                }
                return row;
            }
        );
        return await AnswerAsync(visitor, edited, database, null);
    }

    private static async Task<IResult> RemoveAsync(
        Visitor visitor,
        string organisation,
        Editing editing,
        bool dryRun = false
    )
    {
        if (!visitor.World.FindOrganisation(organisation).Try(out var old, out var refusal))
            return refusal.ToResult();
        var removed = await editing.EditAsync<int>(
            visitor,
            new EditMode(Duties.Access, dryRun),
            async (write, _) =>
            {
                if (await write.Rows.Organisations.FirstOrDefaultAsync(o => o.Id == old.Id) is not { } row)
                    return CommonRefusals.NotFound;
                if (
                    await write.Rows.Members.AnyAsync(m => m.OrganisationId == row.Id && m.EndedAt == null)
                    || await write.Rows.Invitations.AnyAsync(i => i.OrganisationId == row.Id && i.IsPending)
                )
                    return new Refusal(
                        "organisation.has-people",
                        $"There are people of {row.Name} here, or invited.",
                        "End them first, or put them elsewhere.",
                        RefusalSort.Conflict
                    );
                var given = await write
                    .Rows.Grants.Where(g => g.HolderKind == HolderKind.Organisation && g.HolderId == row.Id)
                    .ToListAsync();
                foreach (var grant in given)
                {
                    Grants.Record(write, "grant.taken", grant, await write.WorldAsync());
                    write.Rows.Grants.Remove(grant);
                }
                write.Rows.SwitchedOff.RemoveRange(
                    await write.Rows.SwitchedOff.Where(s => s.HolderId == row.Id).ToListAsync()
                );
                write.Rows.Contacts.RemoveRange(
                    await write.Rows.Contacts.Where(c => c.OrganisationId == row.Id).ToListAsync()
                );
                write.Rows.Organisations.Remove(row);
                write.Record("organisation.removed", row.Id, ("name", row.Name));
                return given.Count;
            }
        );
        return removed.ToResult(done => Results.Ok(new GroupAnswer(done.Value, done.Difference)));
    }

    /// <summary>People who carry the name already belong to it from now on; it gives nothing yet.</summary>
    private static async Task<int> AdoptAsync(WorkspaceWrite write, OrganisationRow row)
    {
        var named = await write
            .Rows.Members.Where(m =>
                m.EndedAt == null
                && m.OrganisationId == null
                && m.Kind == row.Kind
                && m.Organisation == row.Name
            )
            .ToListAsync();
        foreach (var member in named)
        {
            member.OrganisationId = row.Id;
            member.Version++;
        }
        return named.Count;
    }

    private static async Task<Refusal?> TakenAsync(WorkspaceWrite write, OrganisationForm wanted, Guid? self)
    {
        var key = Names.KeyOf(wanted.Name);
        if (await write.Rows.Organisations.AnyAsync(o => o.NameKey == key && o.Id != self))
            return Areas.Taken("organisation", wanted.Name);
        return
            wanted.Code.Length > 0
            && await write.Rows.Organisations.AnyAsync(o => o.Code == wanted.Code && o.Id != self)
            ? new Refusal(
                "organisation.code-taken",
                $"Another organisation has the code {wanted.Code}.",
                "Take another code.",
                RefusalSort.Conflict,
                "code"
            )
            : null;
    }

    private static void Put(OrganisationRow row, OrganisationForm wanted)
    {
        (row.Name, row.NameKey, row.Kind) = (wanted.Name, Names.KeyOf(wanted.Name), wanted.Kind);
        (row.Code, row.Colour, row.Reference) = (wanted.Code, wanted.Colour, wanted.Reference);
        (row.Domains, row.AgreementEnds, row.Cap) = (
            string.Join('\n', wanted.Domains),
            wanted.AgreementEnds,
            wanted.Cap
        );
    }

    private static void AddContacts(
        WorkspaceWrite write,
        OrganisationRow row,
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
                    SearchText = InvitationRow.SearchTextOf(name, address, row.Name),
                }
            );
    }

    private static async Task<IResult> AnswerAsync(
        Visitor visitor,
        Outcome<Edited<OrganisationRow>> edited,
        Database database,
        string? path
    )
    {
        if (!edited.Try(out var done, out var refusal))
            return refusal.ToResult();
        await using var rows = database.Open(visitor.WorkspaceId);
        var view = (await ViewsAsync(rows, visitor with { World = done.World }, [done.Value]))[0] with
        {
            Difference = done.Difference,
        };
        return path is null ? Results.Ok(view) : Results.Created($"{path}/{view.Id}", view);
    }

    private static async Task<IReadOnlyList<OrganisationView>> ViewsAsync(
        ComeAboardContext rows,
        Visitor visitor,
        IReadOnlyList<OrganisationRow> organisations
    )
    {
        var ids = organisations.Select(o => o.Id).ToList();
        var world = visitor.World;
        var grants = (
            await rows
                .Grants.AsNoTracking()
                .Where(g => g.HolderKind == HolderKind.Organisation && ids.Contains(g.HolderId))
                .ToListAsync()
        ).ToLookup(g => g.HolderId);
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
