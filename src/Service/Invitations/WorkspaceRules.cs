using System.Text.Json;
using System.Text.Json.Serialization;
using ComeAboard.Client.Workspaces;
using ComeAboard.Core;
using ComeAboard.Core.Access;
using ComeAboard.Core.Invitations;
using ComeAboard.Core.Workspaces;
using ComeAboard.Service.Access;
using ComeAboard.Service.Http;
using ComeAboard.Service.Workspaces;
using ComeAboard.Storage.Workspaces;
using Microsoft.EntityFrameworkCore;

namespace ComeAboard.Service.Invitations;

/// <summary>The rules of the house for inviting: kept with the workspace, read and changed over HTTP.</summary>
public static class WorkspaceRules
{
    private static readonly JsonSerializerOptions Kept = new()
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

    public static RouteGroupBuilder MapRules(this RouteGroupBuilder workspace)
    {
        workspace
            .MapGet("/rules", Show)
            .ForMembers(Duties.Invite)
            .WithName("showRules")
            .Produces<RulesView>();
        workspace
            .MapPut("/rules", ChangeAsync)
            .ForMembers(Duties.Settings)
            .WithName("changeRules")
            .Produces<RulesView>();
        workspace
            .MapPut("/appearance", ChangeAppearanceAsync)
            .ForMembers(Duties.Settings)
            .WithName("changeAppearance")
            .Produces<AppearanceView>();
        return workspace;
    }

    private static RulesView Show(Visitor visitor) => ViewOf(visitor.Workspace, visitor.World);

    private static RulesView ViewOf(WorkspaceRow workspace, AccessWorld world)
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
            ApprovalRoles = [.. rules.ApprovalRoles.Select(id => Bundles.RoleName(world, id))],
            Inviters = rules.Inviters.ToDictionary(
                who => who.Key.Word(),
                who => (IReadOnlyList<string>)[.. who.Value.Select(id => Bundles.RoleName(world, id))]
            ),
        };
    }

    private static async Task<IResult> ChangeAsync(Visitor visitor, RulesView request, WorkspaceWriter writer)
    {
        var wish = new HouseRulesWish(
            request.LongestAnswerDays,
            request.LongestStayDays,
            request.HostForOutsiders,
            request.Approval,
            request.AllowedDomains,
            request.BlockedDomains,
            request.ReminderDays,
            request.ApprovalRoles,
            request.Inviters
        );
        if (!HouseRules.Read(wish, visitor.World).Try(out var rules, out var refusal))
            return refusal.ToResult();
        if (request.AnswerDays < 1 || request.AnswerDays > rules.LongestAnswerDays)
            return new Refusal(
                "rules.out-of-range",
                $"The time to answer must be 1 to {rules.LongestAnswerDays} days.",
                "Correct the number.",
                Field: "answerDays"
            ).ToResult();
        var json = JsonSerializer.Serialize(rules, Kept);
        var answer = (long)TimeSpan.FromDays(request.AnswerDays).TotalSeconds;
        var changed = await writer.WriteAsync<WorkspaceRow>(
            visitor.WorkspaceId,
            visitor.Caller,
            async write =>
            {
                if (!(await write.RequireAsync(Duties.Settings)).Try(out _, out var no))
                    return no;
                var row = await write.Rows.Workspaces.FirstAsync(w => w.Id == write.Workspace.Id);
                write.Record("rules.changed", row.Id, ("before", row.Rules ?? "none"), ("after", json));
                (row.Rules, row.AnswerSeconds) = (json, answer);
                return row;
            }
        );
        return changed.ToResult(row => Results.Ok(ViewOf(row, visitor.World)));
    }

    private static async Task<IResult> ChangeAppearanceAsync(
        Visitor visitor,
        AppearanceView request,
        WorkspaceWriter writer
    )
    {
        if (!PlainText.ReadName(request.SenderName).Try(out var sender, out var refusal))
            return (refusal with { Field = "senderName" }).ToResult();
        if (sender.Length == 0)
            return new Refusal(
                "sender.missing",
                "The mails need a sender's name.",
                "Give one.",
                Field: "senderName"
            ).ToResult();
        string? replyTo = null;
        if (!string.IsNullOrWhiteSpace(request.ReplyTo))
        {
            if (!EmailAddress.Read(request.ReplyTo).Try(out var address, out refusal))
                return (refusal with { Field = "replyTo" }).ToResult();
            replyTo = address.ToString();
        }
        if (!Languages.Read(request.Language).Try(out var language, out refusal))
            return refusal.ToResult();
        string? colour = null;
        if (!string.IsNullOrWhiteSpace(request.Colour))
        {
            if (!Colour.Read(request.Colour).Try(out var read, out refusal))
                return refusal.ToResult();
            colour = read.Text;
        }
        var changed = await writer.WriteAsync<AppearanceView>(
            visitor.WorkspaceId,
            visitor.Caller,
            async write =>
            {
                if (!(await write.RequireAsync(Duties.Settings)).Try(out _, out var no))
                    return no;
                var row = await write.Rows.Workspaces.FirstAsync(w => w.Id == write.Workspace.Id);
                write.Record(
                    "appearance.changed",
                    row.Id,
                    ("sender before", row.SenderName),
                    ("sender after", sender),
                    ("reply before", row.ReplyTo),
                    ("reply after", replyTo),
                    ("language before", row.Language),
                    ("language after", language),
                    ("colour before", row.Colour),
                    ("colour after", colour)
                );
                (row.SenderName, row.ReplyTo, row.Language, row.Colour) = (sender, replyTo, language, colour);
                return new AppearanceView(sender, replyTo, language, colour);
            }
        );
        return changed.ToResult();
    }
}
