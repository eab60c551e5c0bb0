using System.CommandLine;
using System.Globalization;
using ComeAboard.Client;
using ComeAboard.Client.Workspaces;

namespace ComeAboard.Cli.Workspaces;

/// <summary><c>aboard workspace rules | change</c>: the rules of the house for inviting.</summary>
public static class RuleCommands
{
    private const string None = "none";

    private static readonly Option<int?> AnswerDays = new("--answer-days")
    {
        Description = "How many days there are to answer when nothing else is said",
    };
    private static readonly Option<int?> LongestAnswerDays = new("--longest-answer-days")
    {
        Description = "The most days that may be given to answer",
    };
    private static readonly Option<string[]> LongestStay = Several(
        "--longest-stay",
        "KIND=DAYS, the longest stay of a kind; KIND=none for no bound"
    );
    private static readonly Option<string[]> UsualStay = Several(
        "--usual-stay",
        "KIND=DAYS, how long a kind usually stays; KIND=none for no end"
    );
    private static readonly Option<string?> Name = new("--name") { Description = "The workspace's name" };
    private static readonly Option<string?> TimeZone = new("--time-zone")
    {
        Description = "The zone in which its days begin and end, such as Europe/Lisbon",
    };
    private static readonly Option<string?> SenderName = new("--sender-name")
    {
        Description = "The name its mails come from",
    };
    private static readonly Option<string?> ReplyTo = new("--reply-to")
    {
        Description = "Where answers to its mails go, or none",
    };
    private static readonly Option<string?> Language = new("--language")
    {
        Description = "The language of its mails where nothing else is said",
    };
    private static readonly Option<string?> Colour = new("--colour")
    {
        Description = "The colour of its mails and invitee pages, as #rrggbb, or none",
    };
    private static readonly Option<bool?> HostForOutsiders = new("--host-for-outsiders")
    {
        Description = "Whether outsiders need a host: true or false",
    };
    private static readonly Option<string[]> Approval = Several(
        "--approval",
        "A kind whose acceptance waits for approval, or none"
    );
    private static readonly Option<string[]> ApprovalRole = Several(
        "--approval-role",
        "A role whose giving waits for approval, or none"
    );
    private static readonly Option<bool?> ApproveOtherAddress = new("--approve-other-address")
    {
        Description = "Whether whoever comes with another address than the invited one waits: true or false",
    };
    private static readonly Option<string[]> Inviters = Several(
        "--inviters",
        "KIND=ROLE,ROLE: who may invite a kind; KIND=none for everybody who may invite"
    );
    private static readonly Option<string[]> AllowedDomain = Several(
        "--allowed-domain",
        "A mail domain that may be invited, or none for any"
    );
    private static readonly Option<string[]> BlockedDomain = Several(
        "--blocked-domain",
        "A mail domain that may not be invited, or none"
    );
    private static readonly Option<string[]> ReminderDay = Several(
        "--reminder-day",
        "How many days after the mail it is reminded of, or none"
    );

    private static readonly Option<string?> StrongSignInFrom = new("--strong-sign-in-from")
    {
        Description =
            "The day from which holders of duties need a passkey or a second step, as 2031-03-01, or none",
    };

    private static readonly Option<string?> ClaimSilence = new("--claim-silence")
    {
        Description = "What follows when nobody answers a claim: let-be, take or release",
    };

    private static readonly Option<string?> HeldSeats = new("--held-seats")
    {
        Description = "The seat pool of which each member takes a seat whose account is held here, or none",
    };

    private static readonly Option<string?> OutsiderNames = new("--outsider-names")
    {
        Description =
            "How names of outsiders are written, as \"{name} ({organisation})\", or none; offered, never forced",
    };

    public static Command Show() =>
        Commands.Do(
            "rules",
            "The rules of the house for inviting",
            [],
            (session, _, cancellation) => session.Client.RulesAsync(cancellation),
            WireJson.Default.RulesView,
            (rules, _) => Print(rules)
        );

    public static Command Change()
    {
        var change = Commands.Made(
            "change",
            "Change the workspace and the rules of the house; what is not said stays",
            [
                Name,
                TimeZone,
                SenderName,
                ReplyTo,
                Language,
                Colour,
                AnswerDays,
                LongestAnswerDays,
                UsualStay,
                LongestStay,
                HostForOutsiders,
                Approval,
                ApprovalRole,
                ApproveOtherAddress,
                Inviters,
                AllowedDomain,
                BlockedDomain,
                ReminderDay,
                StrongSignInFrom,
                ClaimSilence,
                HeldSeats,
                OutsiderNames,
                CommonOptions.DryRun,
            ]
        );
        Session.On(
            change,
            async (session, parsed, cancellation) =>
            {
                var isDry = parsed.GetValue(CommonOptions.DryRun);
                var looks = (Option<string?>[])[Name, TimeZone, SenderName, ReplyTo, Language, Colour];
                var changesLooks = looks.Any(option => parsed.GetValue(option) is not null);
                if (changesLooks)
                {
                    var wish = With(await session.Client.WorkspaceAsync(cancellation), parsed);
                    var shown = await session.Client.ChangeAppearanceAsync(wish, isDry, cancellation);
                    if (session.Json)
                        Session.Print(shown, WireJson.Default.AppearanceView);
                    else
                        Print(shown);
                }
                if (changesLooks && !RuleOptions.Any(option => parsed.GetResult(option) is not null))
                {
                    Session.Say(
                        isDry
                            ? "Nothing was changed. It would be this."
                            : "The workspace is changed. Next: aboard workspace show"
                    );
                    return ExitStatus.Done;
                }
                var wanted = With(await session.Client.RulesAsync(cancellation), parsed);
                var rules = await session.Client.ChangeRulesAsync(wanted, isDry, cancellation);
                if (session.Json)
                    Session.Print(rules, WireJson.Default.RulesView);
                else
                    Print(rules);
                Session.Say(
                    isDry
                        ? "Nothing was changed. It would be these."
                        : "These are the rules now. Next: aboard workspace readiness --kind guest"
                );
                return ExitStatus.Done;
            }
        );
        return change;
    }

    private static readonly Option[] RuleOptions =
    [
        AnswerDays,
        LongestAnswerDays,
        UsualStay,
        LongestStay,
        HostForOutsiders,
        Approval,
        ApprovalRole,
        ApproveOtherAddress,
        Inviters,
        AllowedDomain,
        BlockedDomain,
        ReminderDay,
        StrongSignInFrom,
        ClaimSilence,
        HeldSeats,
        OutsiderNames,
    ];

    private static AppearanceView With(WorkspaceView workspace, ParseResult parsed)
    {
        return new AppearanceView(
            parsed.GetValue(SenderName) ?? workspace.SenderName,
            OrNone(ReplyTo) ?? (parsed.GetValue(ReplyTo) is null ? workspace.ReplyTo : null),
            parsed.GetValue(Language) ?? workspace.Language,
            OrNone(Colour) ?? (parsed.GetValue(Colour) is null ? workspace.Colour : null)
        )
        {
            Name = parsed.GetValue(Name) ?? workspace.Name,
            TimeZone = parsed.GetValue(TimeZone) ?? workspace.TimeZone,
            Version = workspace.Appearance,
        };

        string? OrNone(Option<string?> option) =>
            parsed.GetValue(option) is { } said && said != None ? said : null;
    }

    private static void Print(AppearanceView shown)
    {
        Say("name", shown.Name ?? "");
        Say("time zone", shown.TimeZone ?? "");
        Say("sender", shown.SenderName);
        Say("answers go to", shown.ReplyTo ?? "nowhere else");
        Say("language", shown.Language);
        Say("colour", shown.Colour ?? "the usual one");
    }

    private static RulesView With(RulesView rules, ParseResult parsed)
    {
        var stays = Stays(rules.LongestStayDays, LongestStay);
        var usual = Stays(rules.UsualStayDays ?? new Dictionary<string, int>(), UsualStay);
        var inviters = rules.Inviters.ToDictionary();
        foreach (var (kind, roles) in Pairs(parsed, Inviters))
        {
            if (roles == None)
                inviters.Remove(kind);
            else
                inviters[kind] = roles.Split(',', StringSplitOptions.TrimEntries);
        }
        return rules with
        {
            AnswerDays = parsed.GetValue(AnswerDays) ?? rules.AnswerDays,
            LongestAnswerDays = parsed.GetValue(LongestAnswerDays) ?? rules.LongestAnswerDays,
            LongestStayDays = stays,
            UsualStayDays = usual,
            HostForOutsiders = parsed.GetValue(HostForOutsiders) ?? rules.HostForOutsiders,
            Approval = Words(parsed, Approval) ?? rules.Approval,
            ApprovalRoles = Words(parsed, ApprovalRole) ?? rules.ApprovalRoles,
            ApproveOtherAddress = parsed.GetValue(ApproveOtherAddress) ?? rules.ApproveOtherAddress,
            Inviters = inviters,
            AllowedDomains = Words(parsed, AllowedDomain) ?? rules.AllowedDomains,
            BlockedDomains = Words(parsed, BlockedDomain) ?? rules.BlockedDomains,
            ReminderDays =
                Words(parsed, ReminderDay)?.Select(day => Number(day, ReminderDay.Name)).ToList()
                ?? rules.ReminderDays,
            ClaimSilence = parsed.GetValue(ClaimSilence) ?? rules.ClaimSilence,
            HeldSeats = parsed.GetValue(HeldSeats) switch
            {
                null => rules.HeldSeats,
                None => null,
                var pool => pool,
            },
            OutsiderNames = parsed.GetValue(OutsiderNames) switch
            {
                null => rules.OutsiderNames,
                None => "",
                var pattern => pattern,
            },
            StrongSignInFrom = parsed.GetValue(StrongSignInFrom) switch
            {
                null => rules.StrongSignInFrom,
                None => null,
                var day => Day(day, StrongSignInFrom.Name),
            },
        };

        Dictionary<string, int> Stays(IReadOnlyDictionary<string, int> before, Option<string[]> option)
        {
            var after = before.ToDictionary();
            foreach (var (kind, days) in Pairs(parsed, option))
            {
                if (days == None)
                    after.Remove(kind);
                else
                    after[kind] = Number(days, option.Name);
            }
            return after;
        }
    }

    private static void Print(RulesView rules)
    {
        Say("days to answer", $"{rules.AnswerDays}, at most {rules.LongestAnswerDays}");
        Say(
            "longest stay",
            Joined(rules.LongestStayDays.Select(stay => $"{stay.Key} {stay.Value} days"), "any")
        );
        Say(
            "usual stay",
            Joined(
                (rules.UsualStayDays ?? new Dictionary<string, int>()).Select(stay =>
                    $"{stay.Key} {stay.Value} days"
                ),
                "no end"
            )
        );
        Say("host for outsiders", rules.HostForOutsiders ? "needed" : "not needed");
        Say("approval of kinds", Joined(rules.Approval, None));
        Say("approval of roles", Joined(rules.ApprovalRoles, None));
        Say("another address", rules.ApproveOtherAddress ? "waits for approval" : "needs no approval");
        Say(
            "who may invite",
            Joined(
                rules.Inviters.Select(who => $"{who.Key}: {string.Join(" or ", who.Value)}"),
                "everybody with the duty"
            )
        );
        Say("allowed domains", Joined(rules.AllowedDomains, "any"));
        Say("blocked domains", Joined(rules.BlockedDomains, None));
        Say(
            "strong sign-in",
            rules.StrongSignInFrom is { } from
                ? $"for holders of duties from {from:yyyy-MM-dd}"
                : "as everybody likes"
        );
        Say("names of outsiders", rules.OutsiderNames is { Length: > 0 } names ? names : "as they come");
        Say("silence to a claim", rules.ClaimSilence ?? "let-be");
        Say("seats when held", rules.HeldSeats is { } pool ? $"of {pool}" : "not counted");
        Say(
            "reminders",
            rules.ReminderDays.Count == 0 ? None : $"after {Joined(rules.ReminderDays, "")} days"
        );
    }

    private static DateOnly Day(string written, string option) =>
        DateOnly.TryParseExact(written, "yyyy-MM-dd", out var day)
            ? day
            : throw new UsageException($"{option}: \"{written}\" is not a day like 2031-03-01.");

    private static void Say(string what, string rule) => Console.WriteLine($"{what, -20}{rule}");

    private static string Joined<T>(IEnumerable<T> words, string nothing) =>
        string.Join(", ", words) is { Length: > 0 } joined ? joined : nothing;

    private static Option<string[]> Several(string name, string description) =>
        new(name) { Description = description + "; may be given several times" };

    /// <summary>What an option lists: nothing for <c>none</c>, null when it is not given.</summary>
    private static List<string>? Words(ParseResult parsed, Option<string[]> option) =>
        parsed.GetValue(option) is { Length: > 0 } words ? [.. words.Where(word => word != None)] : null;

    private static IEnumerable<(string Kind, string Value)> Pairs(ParseResult parsed, Option<string[]> option)
    {
        foreach (var written in parsed.GetValue(option) ?? [])
        {
            if (written.Split('=', 2, StringSplitOptions.TrimEntries) is not [var kind, var value])
                throw new UsageException($"{option.Name}: \"{written}\" is not like guest=90.");
            yield return (kind, value);
        }
    }

    private static int Number(string written, string option) =>
        int.TryParse(written, NumberStyles.None, CultureInfo.InvariantCulture, out var number)
            ? number
            : throw new UsageException($"{option}: \"{written}\" is not a number.");
}
