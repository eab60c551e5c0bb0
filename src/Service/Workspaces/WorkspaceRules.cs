using System.Text.Json;
using System.Text.Json.Serialization;
using ComeAboard.Client.Workspaces;
using ComeAboard.Core.Access;
using ComeAboard.Core.Accounts;
using ComeAboard.Core.Invitations;
using ComeAboard.Core.Workspaces;
using ComeAboard.Service.Access;
using ComeAboard.Storage.Workspaces;

namespace ComeAboard.Service.Workspaces;

/// <summary>The rules of the house for inviting: kept with the workspace, and read from there.</summary>
public static class WorkspaceRules
{
    internal static readonly JsonSerializerOptions Kept = new()
    {
        Converters = { new JsonStringEnumConverter() },
    };

    // Most workspaces have no rules of their own, and those that have change them seldom.
    private static (string? Json, HouseRules Rules) _last = (null, new HouseRules());

    /// <summary>The rules of a workspace.</summary>
    public static HouseRules Of(WorkspaceRow workspace)
    {
        var last = _last;
        if (workspace.Rules == last.Json)
            return last.Rules;
        var rules = workspace.Rules is null
            ? new HouseRules()
            : JsonSerializer.Deserialize<HouseRules>(workspace.Rules, Kept)!;
        _last = (workspace.Rules, rules);
        return rules;
    }

    /// <summary>The version of the rules.</summary>
    public static int VersionOf(WorkspaceRow workspace) =>
        Versions.Of(workspace.Rules, workspace.AnswerSeconds.ToString());

    /// <summary>The version of how a workspace shows itself.</summary>
    public static int AppearanceOf(WorkspaceRow workspace) =>
        Versions.Of(
            workspace.Name,
            workspace.TimeZone,
            workspace.SenderName,
            workspace.ReplyTo,
            workspace.Language,
            workspace.Colour
        );

    /// <summary>The rules as they are shown.</summary>
    public static RulesView ViewOf(WorkspaceRow workspace, AccessWorld world)
    {
        var rules = Of(workspace);
        return new RulesView(
            (int)workspace.AnswerTime.TotalDays,
            rules.LongestAnswerDays,
            rules.LongestStayDays.ToDictionary(stay => stay.Key.Word(), stay => stay.Value),
            rules.HostForOutsiders,
            [.. rules.Approval.Select(kind => kind.Word())],
            rules.AllowedDomains,
            rules.BlockedDomains,
            rules.ReminderDays
        )
        {
            Version = VersionOf(workspace),
            UsualStayDays = rules.UsualStayDays.ToDictionary(stay => stay.Key.Word(), stay => stay.Value),
            ClaimSilence = rules.ClaimSilence.Word(),
            StrongSignInFrom = rules.StrongSignInFrom,
            OutsiderNames = rules.OutsiderNames.Pattern,
            HeldSeats = rules.HeldSeats is { } pool ? world.Pools.GetValueOrDefault(pool) : null,
            ApproveOtherAddress = rules.ApproveOtherAddress,
            ApprovalRoles = [.. rules.ApprovalRoles.Select(id => Bundles.RoleName(world, id))],
            Inviters = rules.Inviters.ToDictionary(
                who => who.Key.Word(),
                who => (IReadOnlyList<string>)[.. who.Value.Select(id => Bundles.RoleName(world, id))]
            ),
        };
    }
}
