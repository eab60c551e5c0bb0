using ComeAboard.Core.Workspaces;

namespace ComeAboard.Core.Access;

/// <summary>Who gets into a workspace at all.</summary>
public static class EntryRules
{
    /// <summary>For a member whose access has ended: <c>access.ended</c>.</summary>
    public static Refusal Ended { get; } =
        new(
            "access.ended",
            "Your access to this workspace has ended.",
            "Ask whoever invited you.",
            RefusalSort.NotAllowed
        );

    /// <summary>For a member whose stay has not begun: <c>access.not-begun</c>.</summary>
    public static Refusal NotBegun { get; } =
        new(
            "access.not-begun",
            "Your stay in this workspace has not begun yet.",
            "Come back on its first day; My places says when that is.",
            RefusalSort.NotAllowed
        );

    /// <summary>For somebody who is a member and not active on a day: their stay has not begun, or it is over.</summary>
    /// <param name="stay">Their stay.</param>
    /// <param name="isHere">Whether it is not over.</param>
    public static Refusal Inactive(Stay stay, bool isHere) =>
        !isHere ? Ended
        : stay.FirstDay is { } first
            ? NotBegun with
            {
                Sentence = $"Your stay in this workspace begins on {first:yyyy-MM-dd}.",
            }
        : NotBegun;

    /// <summary>For a member who is kept out for a while: <c>access.paused</c>.</summary>
    public static Refusal Paused { get; } =
        new(
            "access.paused",
            "Your access to this workspace is paused.",
            "Ask your host, or an administrator of the workspace.",
            RefusalSort.NotAllowed
        );

    /// <summary>For a member whose organisation's agreement is over: <c>access.agreement-over</c>.</summary>
    public static Refusal AgreementOver { get; } =
        new(
            "access.agreement-over",
            "The agreement between this workspace and your organisation is over.",
            "Ask your host, or an administrator of the workspace.",
            RefusalSort.NotAllowed
        );

    /// <summary>Why a member does not get in on a day; null when they do.</summary>
    /// <param name="world">Who may do what.</param>
    /// <param name="member">Whom it is about.</param>
    /// <param name="day">The day, in the workspace's time zone.</param>
    public static Refusal? Forbids(AccessWorld world, Guid member, DateOnly day) =>
        !world.People.TryGetValue(member, out var person)
            ? Ended
            : world.CutOf(person, day) switch
            {
                Cut.None => null,
                Cut.NotBegun => NotBegun,
                Cut.Paused => Paused,
                Cut.AgreementOver => AgreementOver,
                _ => Ended,
            };
}
