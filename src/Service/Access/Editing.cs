using ComeAboard.Client.Access;
using ComeAboard.Core;
using ComeAboard.Core.Access;
using ComeAboard.Service.Mail;
using ComeAboard.Service.Workspaces;
using ComeAboard.Storage.Accounts;
using Microsoft.EntityFrameworkCore;

namespace ComeAboard.Service.Access;

/// <summary>An edit that was made, or would be.</summary>
/// <param name="Value">What the edit came to.</param>
/// <param name="World">Who may do what after it.</param>
/// <param name="Difference">What it changes, for whom.</param>
/// <param name="Told">The names of those who get a mail about it.</param>
public sealed record Edited<T>(
    T Value,
    AccessWorld World,
    DifferenceView Difference,
    IReadOnlyList<string> Told
);

/// <summary>How an edit is made.</summary>
/// <param name="Duty">The duty it needs; none when the edit itself decides who may make it.</param>
/// <param name="DryRun">Whether it is only tried: everything is decided and nothing kept.</param>
/// <param name="Tell">Whether those whose access changes get a mail.</param>
/// <param name="Restores">Whether it only lets people back to what they had; then nothing is given.</param>
public sealed record EditMode(Duties Duty, bool DryRun = false, bool Tell = false, bool Restores = false);

/// <summary>
/// Edits of who may do what. Each is made within a change, compared with what was before, and kept only when it gives
/// nobody more than the one who makes it holds; tried out, it goes the same way to the end and is then undone.
/// </summary>
public sealed class Editing(WorkspaceWriter writer, Outbox outbox, ServiceSettings settings)
{
    private const int MostTold = 500;

    /// <summary>Makes an edit, or tries it.</summary>
    public async Task<Outcome<Edited<T>>> EditAsync<T>(
        Visitor visitor,
        EditMode mode,
        Func<WorkspaceWrite, MemberRow, Task<Outcome<T>>> change
    )
        where T : notnull
    {
        return await writer.WriteAsync<Edited<T>>(
            visitor.WorkspaceId,
            visitor.Caller,
            async write =>
            {
                if (!(await write.RequireAsync(mode.Duty)).Try(out var editor, out var refusal))
                    return refusal;
                var before = await write.WorldAsync();
                if (!(await change(write, editor)).Try(out var value, out refusal))
                    return refusal;
                await write.SaveAsync();
                if (await write.TakeInAsync() is { } forbidden)
                    return forbidden;
                var after = await write.WorldAsync();
                var difference = AccessDifference.Between(before, after, write.Today);
                if (!mode.Restores && ForbidsGains(before, editor.Id, difference, write.Today) is { } beyond)
                    return beyond;
                if (ForbidsLosses(before, editor.Id, difference, write.Today) is { } acting)
                    return acting;
                var told = mode.Tell ? await TellAsync(write, after, difference) : [];
                return new Edited<T>(value, after, Differences.ViewOf(difference, before, after), told);
            },
            keep: !mode.DryRun
        );
    }

    /// <summary>Whatever the edit was: nobody takes from somebody else a duty they do not hold themselves.</summary>
    private static Refusal? ForbidsLosses(
        AccessWorld before,
        Guid editor,
        AccessDifference difference,
        DateOnly today
    )
    {
        var held = before.DutiesOf(editor, today);
        return difference
            .Duties.Where(change => (change.Before & ~change.After & ~held) != Duties.None)
            .Select(change => GivingRules.ForbidsActingOn(before, editor, change.Person, today))
            .FirstOrDefault(no => no is not null);
    }

    /// <summary>Whatever the edit was: where somebody gains, the one who makes it must hold as much already.</summary>
    private static Refusal? ForbidsGains(
        AccessWorld before,
        Guid editor,
        AccessDifference difference,
        DateOnly today
    )
    {
        foreach (var change in difference.Levels)
        {
            if (
                change.After > change.Before
                && (
                    change.Place.Resource is null || before.Resources.ContainsKey(change.Place.Resource.Value)
                )
                && change.After > before.LevelOf(editor, change.Place, today)
            )
                return BeyondOwn(Differences.PlaceName(before, change.Place), change.After.Word());
        }
        var held = before.DutiesOf(editor, today);
        foreach (var change in difference.Duties)
        {
            if ((change.After & ~change.Before & ~held) is var gained and not Duties.None)
                return BeyondOwn("the duties", string.Join(", ", gained.List()));
        }
        return null;
    }

    private static Refusal BeyondOwn(string where, string what) =>
        new(
            "right.beyond-own",
            $"Somebody would gain more than you hold yourself: {what} ({where}).",
            "Ask an administrator.",
            RefusalSort.NotAllowed
        );

    private async Task<IReadOnlyList<string>> TellAsync(
        WorkspaceWrite write,
        AccessWorld world,
        AccessDifference difference
    )
    {
        var ids = difference
            .Levels.Select(change => change.Person)
            .Concat(difference.Duties.Select(change => change.Person))
            .Distinct()
            .Take(MostTold)
            .ToList();
        var told = new List<string>();
        foreach (
            var member in await write.Rows.Members.AsNoTracking().Where(m => ids.Contains(m.Id)).ToListAsync()
        )
        {
            outbox.Queue(
                write,
                Purposes.News,
                member.Address,
                Letters.AccessChanged(
                    member,
                    write.Workspace,
                    Bundles.SentenceOf(Phrases.Of(write.Workspace.Language), world, member.Id, member.Kind),
                    settings.Link("/places")
                )
            );
            told.Add(member.Name);
        }
        return told;
    }
}

/// <summary>Differences and ways of access as they go over the wire.</summary>
public static class Differences
{
    private const int MostShown = 200;

    /// <summary>What changes, in names.</summary>
    public static DifferenceView ViewOf(AccessDifference difference, AccessWorld before, AccessWorld after) =>
        new(
            difference.Gaining,
            difference.Losing,
            difference.Levels.Count + difference.Duties.Count,
            [
                .. difference
                    .Duties.Select(change => new ChangeView(
                        change.Person,
                        NameOf(before, after, change.Person),
                        null,
                        Words(change.Before),
                        Words(change.After)
                    ))
                    .Concat(
                        difference.Levels.Select(change => new ChangeView(
                            change.Person,
                            NameOf(before, after, change.Person),
                            PlaceName(after.Places().Contains(change.Place) ? after : before, change.Place),
                            change.Before.Word(),
                            change.After.Word()
                        ))
                    )
                    .Take(MostShown),
            ]
        );

    /// <summary>The name of a place.</summary>
    public static string PlaceName(AccessWorld world, Place place) =>
        place.Resource is { } resource ? Bundles.ResourceName(world, resource)
        : place.Area == Guid.Empty ? "everything else"
        : world.Areas.GetValueOrDefault(place.Area)?.Name ?? "a removed area";

    /// <summary>Why somebody gets nothing, as a sentence; empty when nothing is cut.</summary>
    public static string CutSentence(Cut cut) =>
        cut switch
        {
            Cut.None => "",
            Cut.NotHere => "not here any more",
            Cut.NotBegun => "the stay has not begun",
            Cut.Over => "the stay is over",
            Cut.Paused => "paused",
            Cut.AgreementOver => "the agreement with their organisation is over",
            Cut.SwitchedOff => "switched off for this resource",
            _ => "their organisation is switched off for this resource",
        };

    /// <summary>Every way by which something reaches a member at a place, those that count marked.</summary>
    public static IReadOnlyList<PathView> PathsOf(AccessWorld world, Guid member, Place place, DateOnly today)
    {
        if (!world.People.TryGetValue(member, out var person))
            return [];
        var counting = world.Explain(member, place, today).Because.Select(path => path.Grant.Id).ToHashSet();
        return
        [
            .. world
                .PathsOf(person)
                .Where(path => path.Grant.ResourceId is null || path.Grant.ResourceId == place.Resource)
                .Select(path => ViewOf(world, path, place, counting.Contains(path.Grant.Id)))
                .Where(path => path.Level != "none"),
        ];
    }

    /// <summary>One way, as it goes over the wire.</summary>
    public static PathView ViewOf(AccessWorld world, GrantPath path, Place place, bool counts) =>
        new(
            path.Grant.Id,
            Bundles.RoleName(world, path.Grant.RoleId),
            (world.Roles.GetValueOrDefault(path.Grant.RoleId)?.LevelIn(place.Area) ?? Level.None).Word(),
            path.Grant.ResourceId is { } at ? Bundles.ResourceName(world, at) : null,
            path.Through.ToString().ToLowerInvariant(),
            path.Through switch
            {
                HolderKind.Group => world.Groups[path.HolderId].Name,
                HolderKind.Organisation => world.Organisations[path.HolderId].Name,
                _ => "",
            },
            path.Grant.Window.FirstDay,
            path.Grant.Window.LastDay,
            counts,
            path.Grant.Version
        );

    private static string NameOf(AccessWorld before, AccessWorld after, Guid id) =>
        (after.People.GetValueOrDefault(id) ?? before.People.GetValueOrDefault(id))?.Name ?? "";

    private static string Words(Duties duties) =>
        duties == Duties.None ? "none" : string.Join(", ", duties.List());
}
