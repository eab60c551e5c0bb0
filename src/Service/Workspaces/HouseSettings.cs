using System.Text.Json;
using System.Text.Json.Nodes;
using ComeAboard.Client.Workspaces;
using ComeAboard.Core;
using ComeAboard.Core.Access;
using ComeAboard.Core.Invitations;
using ComeAboard.Core.Workspaces;
using ComeAboard.Storage.Workspaces;
using Microsoft.EntityFrameworkCore;

namespace ComeAboard.Service.Workspaces;

/// <summary>Changing what holds for a whole workspace: the rules for inviting, and how its mails and pages look.</summary>
public sealed class HouseSettings(WorkspaceWriter writer)
{
    /// <summary>Replaces the rules that were looked at.</summary>
    public async Task<Outcome<RulesView>> ChangeRulesAsync(Visitor visitor, RulesView request, int? expected)
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
            request.Inviters,
            request.ApproveOtherAddress,
            request.UsualStayDays,
            request.StrongSignInFrom,
            request.ClaimSilence,
            request.OutsiderNames,
            request.HeldSeats
        );
        if (!HouseRules.Read(wish, visitor.World).Try(out var rules, out var refusal))
            return refusal;
        if (request.AnswerDays < 1 || request.AnswerDays > rules.LongestAnswerDays)
            return new Refusal(
                "rules.out-of-range",
                $"The time to answer must be 1 to {rules.LongestAnswerDays} days.",
                "Correct the number.",
                Field: "answerDays"
            );
        var json = JsonSerializer.Serialize(rules, WorkspaceRules.Kept);
        var answer = (long)TimeSpan.FromDays(request.AnswerDays).TotalSeconds;
        var changed = await writer.WriteAsync<WorkspaceRow>(
            visitor.WorkspaceId,
            visitor.Caller,
            async write =>
            {
                if (!(await write.RequireAsync(Duties.Settings)).Try(out _, out var no))
                    return no;
                var row = await write.Rows.Workspaces.FirstAsync(w => w.Id == write.Workspace.Id);
                if (expected is { } seen && seen != WorkspaceRules.VersionOf(row))
                    return CommonRefusals.Stale;
                var before = WorkspaceRules.ViewOf(row, visitor.World);
                (row.Rules, row.AnswerSeconds) = (json, answer);
                write.Record(
                    "rules.changed",
                    row.Id,
                    [.. Differences(before, WorkspaceRules.ViewOf(row, visitor.World))]
                );
                return row;
            }
        );
        return changed.Then(row => WorkspaceRules.ViewOf(row, visitor.World));
    }

    /// <summary>What is another rule since, by the names people know; each as it was and as it is.</summary>
    private static IEnumerable<(string Name, object? Value)> Differences(RulesView before, RulesView after)
    {
        var (old, now) = (Facts(before), Facts(after));
        foreach (var (name, value) in now.Where(fact => fact.Key != "version"))
        {
            var was = old[name]?.ToJsonString() ?? "none";
            var is_ = value?.ToJsonString() ?? "none";
            if (was == is_)
                continue;
            yield return (name + " before", was);
            yield return (name + " after", is_);
        }

        static JsonObject Facts(RulesView rules) =>
            JsonSerializer.SerializeToNode(rules, JsonSerializerOptions.Web)!.AsObject();
    }

    /// <summary>Replaces how the workspace shows itself.</summary>
    public async Task<Outcome<AppearanceView>> ChangeAppearanceAsync(
        Visitor visitor,
        AppearanceView request,
        int? expected
    )
    {
        if (!PlainText.ReadName(request.SenderName).Try(out var sender, out var refusal))
            return refusal with { Field = "senderName" };
        if (sender.Length == 0)
            return new Refusal(
                "sender.missing",
                "The mails need a sender's name.",
                "Give one.",
                Field: "senderName"
            );
        string? replyTo = null;
        if (!string.IsNullOrWhiteSpace(request.ReplyTo))
        {
            if (!EmailAddress.Read(request.ReplyTo).Try(out var address, out refusal))
                return refusal with { Field = "replyTo" };
            replyTo = address.ToString();
        }
        if (!Languages.Read(request.Language).Try(out var language, out refusal))
            return refusal;
        if (
            !WorkspaceSettings
                .Read(
                    request.Name ?? visitor.Workspace.Name,
                    visitor.Workspace.ShortName,
                    request.TimeZone ?? visitor.Workspace.TimeZone,
                    language
                )
                .Try(out var settings, out refusal)
        )
            return refusal;
        string? colour = null;
        if (!string.IsNullOrWhiteSpace(request.Colour))
        {
            if (!Colour.Read(request.Colour).Try(out var read, out refusal))
                return refusal;
            colour = read.Text;
        }
        return await writer.WriteAsync<AppearanceView>(
            visitor.WorkspaceId,
            visitor.Caller,
            async write =>
            {
                if (!(await write.RequireAsync(Duties.Settings)).Try(out _, out var no))
                    return no;
                var row = await write.Rows.Workspaces.FirstAsync(w => w.Id == write.Workspace.Id);
                if (expected is { } seen && seen != WorkspaceRules.AppearanceOf(row))
                    return CommonRefusals.Stale;
                write.Record(
                    "appearance.changed",
                    row.Id,
                    ("name before", row.Name),
                    ("name after", settings.Name),
                    ("time zone before", row.TimeZone),
                    ("time zone after", settings.Zone.Id),
                    ("sender before", row.SenderName),
                    ("sender after", sender),
                    ("reply before", row.ReplyTo),
                    ("reply after", replyTo),
                    ("language before", row.Language),
                    ("language after", language),
                    ("colour before", row.Colour),
                    ("colour after", colour)
                );
                (row.Name, row.TimeZone) = (settings.Name, settings.Zone.Id);
                (row.SenderName, row.ReplyTo, row.Language, row.Colour) = (sender, replyTo, language, colour);
                return new AppearanceView(sender, replyTo, language, colour)
                {
                    Name = row.Name,
                    TimeZone = row.TimeZone,
                    Version = WorkspaceRules.AppearanceOf(row),
                };
            }
        );
    }
}
