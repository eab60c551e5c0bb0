using ComeAboard.Core.Access;
using ComeAboard.Core.Workspaces;

namespace ComeAboard.Core.Departures;

/// <summary>
/// The workspace never runs out of administrators. A <em>lasting</em> administrator is an active staff member with the
/// role <c>manage</c> whose stay has no end. While one remains, no passing of time can leave the workspace without one.
/// </summary>
public static class AdministratorRule
{
    /// <summary>Whether a member counts as a lasting administrator.</summary>
    public static bool IsLasting(Kind kind, Role role, Stay stay) =>
        role.DutiesFor(kind).HasFlag(Duties.People) && stay.IsEndless;

    /// <summary>Refuses with <c>administrator.last</c> to end, now or at any later day, the only lasting administrator.</summary>
    /// <param name="leaverIsLasting">Whether the leaver is a lasting administrator.</param>
    /// <param name="lastingAdministrators">How many there are, the leaver included.</param>
    public static Refusal? Forbids(bool leaverIsLasting, int lastingAdministrators) =>
        leaverIsLasting && lastingAdministrators <= 1
            ? new Refusal(
                "administrator.last",
                "This is the last administrator without an end date; without them nobody could look after the workspace.",
                "Invite another administrator first (staff with the role manage and no end date).",
                RefusalSort.Conflict
            )
            : null;
}
