using ComeAboard.Client.Invitations;
using ComeAboard.Client.Workspaces;
using ComeAboard.Core;
using ComeAboard.Core.Access;
using ComeAboard.Core.Invitations;
using ComeAboard.Service.Access;
using ComeAboard.Service.Workspaces;
using ComeAboard.Storage;
using ComeAboard.Storage.Access;
using ComeAboard.Storage.Accounts;
using ComeAboard.Storage.Invitations;
using Microsoft.EntityFrameworkCore;

namespace ComeAboard.Service.Invitations;

/// <summary>What invitations carry again and again, saved under names.</summary>
public sealed class Presets(Editing editing, Database database)
    : NamedThings<PresetRow, PresetRequest, Preset, PresetView>(Sort, editing)
{
    public static NamedSort Sort { get; } = new("preset", 500, Duties.Invite);

    /// <summary>The preset with a name, in any case, or an id; tracked. Refuses with <c>preset.unknown</c>.</summary>
    public static async Task<Outcome<PresetRow>> FindAsync(ComeAboardContext rows, string preset)
    {
        var key = Names.KeyOf(preset);
        var found = Guid.TryParse(preset, out var id)
            ? await rows.Presets.FirstOrDefaultAsync(p => p.Id == id)
            : await rows.Presets.FirstOrDefaultAsync(p => p.NameKey == key);
        return found is not null ? found : Sort.Unknown(preset);
    }

    /// <summary>A row as what it is.</summary>
    public static Preset Of(PresetRow row) =>
        new(row.Name, row.Kind, row.Bundle, row.StayDays, row.Organisation, row.Message, row.Language);

    /// <summary>All of them, by name.</summary>
    public async Task<Page<PresetView>> ListAsync(Visitor visitor)
    {
        await using var rows = database.Open(visitor.WorkspaceId);
        var found = await rows.Presets.AsNoTracking().OrderBy(p => p.NameKey).ToListAsync();
        return new Page<PresetView>([.. found.Select(row => ViewOf(row, visitor.World))], null);
    }

    /// <summary>One.</summary>
    public async Task<Outcome<PresetView>> ShowAsync(Visitor visitor, string name)
    {
        await using var rows = database.Open(visitor.WorkspaceId);
        return (await FindAsync(rows, name)).Then(row => ViewOf(row, visitor.World));
    }

    protected override async Task<Outcome<Guid>> FindAsync(Visitor visitor, string name)
    {
        await using var rows = database.Open(visitor.WorkspaceId);
        return (await FindAsync(rows, name)).Then(row => row.Id);
    }

    protected override Outcome<Preset> Read(PresetRequest request, AccessWorld world) =>
        Preset.Read(
            request.Name,
            request.Kind,
            Bundles.WishOf(request.Role, null, request.Gives),
            request.StayDays,
            request.Organisation,
            request.Message,
            request.Language,
            request.NoEnd,
            world
        );

    protected override async Task<Outcome<(string Name, object? Value)[]>> FillAsync(
        WorkspaceWrite write,
        MemberRow editor,
        PresetRow row,
        Preset words
    )
    {
        var world = await write.WorldAsync();
        // Nobody saves what they could not give themselves.
        if (GivingRules.Forbids(world, editor.Id, words.Gives, write.Today) is { } beyond)
            return beyond;
        var before = row.Gives.Length > 0 ? Bundles.Summary(row.Bundle, world) : null;
        (row.Kind, row.Gives) = (words.Kind, BundleText.Of(words.Gives));
        row.StayDays =
            words.StayDays ?? (words.NoEnd ? null : WorkspaceRules.Of(write.Workspace).UsualDays(words.Kind));
        (row.Organisation, row.Message, row.Language) = (words.Organisation, words.Message, words.Language);
        return Facts(
            ("kind", words.Kind.Word()),
            ("gives before", before),
            ("gives after", Bundles.Summary(words.Gives, world))
        );
    }

    protected override Task<Outcome<int>> ClearAsync(WorkspaceWrite write, PresetRow row) =>
        Task.FromResult<Outcome<int>>(0);

    protected override Task<PresetView> AnswerAsync(Visitor visitor, Edited<PresetRow> done) =>
        Task.FromResult(ViewOf(done.Value, visitor.World));

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
