using ComeAboard.Client.Invitations;
using ComeAboard.Client.Workspaces;
using ComeAboard.Core;
using ComeAboard.Core.Access;
using ComeAboard.Core.Invitations;
using ComeAboard.Service.Access;
using ComeAboard.Service.Http;
using ComeAboard.Service.Workspaces;
using ComeAboard.Storage;
using ComeAboard.Storage.Access;
using ComeAboard.Storage.Invitations;
using Microsoft.EntityFrameworkCore;

namespace ComeAboard.Service.Invitations;

/// <summary>What invitations carry again and again, saved under names.</summary>
public static class Presets
{
    private const int Most = 500;

    public static RouteGroupBuilder MapPresets(this RouteGroupBuilder workspace)
    {
        var presets = workspace.MapGroup("/presets").ForMembers(Duties.Invite);
        presets.MapGet("", ListAsync).WithName("listPresets").Produces<Page<PresetView>>();
        presets.MapGet("/{preset}", ShowAsync).WithName("showPreset").Produces<PresetView>();
        presets.MapPost("", SaveAsync).WithName("addPreset").Produces<PresetView>(201);
        presets.MapPut("/{preset}", ChangeAsync).WithName("changePreset").Produces<PresetView>();
        presets.MapDelete("/{preset}", RemoveAsync).WithName("removePreset").Produces(204);
        return workspace;
    }

    /// <summary>The preset with a name, in any case, or an id; tracked. Refuses with <c>preset.unknown</c>.</summary>
    public static async Task<Outcome<PresetRow>> FindAsync(ComeAboardContext rows, string preset)
    {
        var key = Names.KeyOf(preset);
        var found = Guid.TryParse(preset, out var id)
            ? await rows.Presets.FirstOrDefaultAsync(p => p.Id == id)
            : await rows.Presets.FirstOrDefaultAsync(p => p.NameKey == key);
        return found is not null
            ? found
            : new Refusal(
                "preset.unknown",
                "There is no preset by that name.",
                "Look at the list of presets.",
                RefusalSort.NotFound,
                "preset"
            );
    }

    /// <summary>A row as what it is.</summary>
    public static Preset Of(PresetRow row) =>
        new(row.Name, row.Kind, row.Bundle, row.StayDays, row.Organisation, row.Message, row.Language);

    private static async Task<Page<PresetView>> ListAsync(Visitor visitor, Database database)
    {
        await using var rows = database.Open(visitor.WorkspaceId);
        var found = await rows.Presets.AsNoTracking().OrderBy(p => p.NameKey).Take(Most).ToListAsync();
        return new Page<PresetView>([.. found.Select(row => ViewOf(row, visitor.World))], null);
    }

    private static async Task<IResult> ShowAsync(
        Visitor visitor,
        string preset,
        HttpContext http,
        Database database
    )
    {
        await using var rows = database.Open(visitor.WorkspaceId);
        return (await FindAsync(rows, preset)).ToResult(row =>
        {
            http.Response.SayVersion(row.Version);
            return Results.Ok(ViewOf(row, visitor.World));
        });
    }

    private static async Task<IResult> SaveAsync(
        Visitor visitor,
        PresetRequest request,
        HttpContext http,
        WorkspaceWriter writer
    ) =>
        (await AddAsync(writer, visitor, request)).ToResult(view =>
            Results.Created($"{http.Request.Path}/{view.Id}", view)
        );

    /// <summary>Saves a preset.</summary>
    public static async Task<Outcome<PresetView>> AddAsync(
        WorkspaceWriter writer,
        Visitor visitor,
        PresetRequest request
    )
    {
        if (!Read(request, visitor.World).Try(out var preset, out var refusal))
            return refusal;
        return await writer.WriteAsync<PresetView>(
            visitor.WorkspaceId,
            visitor.Caller,
            async write =>
            {
                if (await ForbidsAsync(write, preset, null) is { } no)
                    return no;
                if (await write.Rows.Presets.CountAsync() >= Most)
                    return new Refusal(
                        "preset.too-many",
                        $"There are {Most} presets already.",
                        "Remove one that is not used.",
                        RefusalSort.Conflict
                    );
                var row = new PresetRow
                {
                    WorkspaceId = write.Workspace.Id,
                    Id = Guid.CreateVersion7(write.Now),
                    Name = preset.Name,
                    NameKey = Names.KeyOf(preset.Name),
                    Kind = preset.Kind,
                    Gives = BundleText.Of(preset.Gives),
                    StayDays = preset.StayDays,
                    Organisation = preset.Organisation,
                    Message = preset.Message,
                    Language = preset.Language,
                };
                write.Rows.Presets.Add(row);
                write.Record(
                    "preset.added",
                    row.Id,
                    ("name", row.Name),
                    ("kind", row.Kind.Word()),
                    ("gives", Bundles.Summary(row.Bundle, await write.WorldAsync()))
                );
                return ViewOf(row, await write.WorldAsync());
            }
        );
    }

    private static async Task<IResult> ChangeAsync(
        Visitor visitor,
        string preset,
        PresetRequest request,
        HttpContext http,
        WorkspaceWriter writer
    )
    {
        if (!Read(request, visitor.World).Try(out var wanted, out var refusal))
            return refusal.ToResult();
        var expected = http.Request.ExpectedVersion();
        var changed = await writer.WriteAsync<PresetView>(
            visitor.WorkspaceId,
            visitor.Caller,
            async write =>
            {
                if (!(await FindAsync(write.Rows, preset)).Try(out var row, out var no))
                    return no;
                if (expected is { } version && version != row.Version)
                    return CommonRefusals.Stale;
                if (await ForbidsAsync(write, wanted, row.Id) is { } forbidden)
                    return forbidden;
                var world = await write.WorldAsync();
                write.Record(
                    "preset.changed",
                    row.Id,
                    ("name before", row.Name),
                    ("name after", wanted.Name),
                    ("gives before", Bundles.Summary(row.Bundle, world)),
                    ("gives after", Bundles.Summary(wanted.Gives, world))
                );
                (row.Name, row.NameKey) = (wanted.Name, Names.KeyOf(wanted.Name));
                (row.Kind, row.Gives, row.StayDays) = (
                    wanted.Kind,
                    BundleText.Of(wanted.Gives),
                    wanted.StayDays
                );
                (row.Organisation, row.Message, row.Language) = (
                    wanted.Organisation,
                    wanted.Message,
                    wanted.Language
                );
                row.Version++;
                return ViewOf(row, await write.WorldAsync());
            }
        );
        return changed.ToResult();
    }

    private static async Task<IResult> RemoveAsync(Visitor visitor, string preset, WorkspaceWriter writer)
    {
        var removed = await writer.WriteAsync<bool>(
            visitor.WorkspaceId,
            visitor.Caller,
            async write =>
            {
                if (!(await write.RequireAsync(Duties.Invite)).Try(out _, out var no))
                    return no;
                if (!(await FindAsync(write.Rows, preset)).Try(out var row, out no))
                    return no;
                write.Rows.Presets.Remove(row);
                write.Record("preset.removed", row.Id, ("name", row.Name));
                return true;
            }
        );
        return removed.ToResult(_ => Results.NoContent());
    }

    private static Outcome<Preset> Read(PresetRequest request, AccessWorld world) =>
        Preset.Read(
            request.Name,
            request.Kind,
            Bundles.WishOf(request.Role, null, request.Gives),
            request.StayDays,
            request.Organisation,
            request.Message,
            request.Language,
            world
        );

    /// <summary>Nobody saves what they could not give themselves, and names are unique.</summary>
    private static async Task<Refusal?> ForbidsAsync(WorkspaceWrite write, Preset preset, Guid? self)
    {
        if (!(await write.RequireAsync(Duties.Invite)).Try(out var member, out var no))
            return no;
        if (GivingRules.Forbids(await write.WorldAsync(), member.Id, preset.Gives, write.Today) is { } right)
            return right;
        var key = Names.KeyOf(preset.Name);
        return await write.Rows.Presets.AnyAsync(p => p.NameKey == key && p.Id != self)
            ? new Refusal(
                "preset.name-taken",
                $"There is a preset \"{preset.Name}\" already.",
                "Take another name, or change that preset.",
                RefusalSort.Conflict,
                "name"
            )
            : null;
    }

    private static PresetView ViewOf(PresetRow row, AccessWorld world) =>
        new(
            row.Id,
            row.Name,
            row.Kind.Word(),
            Bundles.Summary(row.Bundle, world),
            row.StayDays,
            row.Organisation,
            row.Message,
            row.Language,
            row.Version
        )
        {
            Gives = Bundles.ViewOf(row.Bundle, world),
        };
}
