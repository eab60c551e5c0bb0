using System.CommandLine;
using System.Globalization;
using ComeAboard.Client;
using ComeAboard.Client.Invitations;

namespace ComeAboard.Cli.Invitations;

/// <summary><c>aboard invitations resend|remind|extend|revoke|approve|refuse|send-draft|correct|link</c></summary>
public static class StepCommands
{
    private static readonly Option<string> By = new("--by")
    {
        Description = "How much more time from now: 14d or 2w",
        Required = true,
    };
    private static readonly Option<string?> Reason = new("--reason")
    {
        Description = "Why, in plain words, for the person",
    };
    private static readonly Argument<string> Id = new("ID")
    {
        Description = "The invitation's id, or the address it went to",
    };
    private static readonly Option<string> Address = new("--address")
    {
        Description = "The right address",
        Required = true,
    };

    public static IEnumerable<Command> Make() =>
        [
            Step("resend", "resend", "Send again with a new link; the old one dies", "sent again"),
            Step("remind", "remind", "Remind now", "reminded of"),
            Step("extend", "extend", "Give more time to answer; revives an expired one", "extended", By),
            Step("revoke", "revoke", "Take back; the link dies", "taken back"),
            Step("send-draft", "send", "Send drafts", "sent"),
            Step("approve", "approve", "Let in those who accepted and wait", "approved"),
            Step("refuse", "refuse", "Turn down those who accepted and wait", "refused", Reason),
            Correct(),
            Link(),
        ];

    private static Command Step(
        string verb,
        string step,
        string description,
        string done,
        Option? more = null
    )
    {
        var command = new Command(verb, description)
        {
            Selection.Ids,
            Selection.All,
            Selection.State,
            Selection.Kind,
            Selection.Search,
            Selection.Batch,
            Selection.Link,
            CommonOptions.DryRun,
        };
        if (more is not null)
            command.Options.Add(more);
        Session.On(
            command,
            async (session, parsed, cancellation) =>
            {
                var days = more == By ? ReadDays(parsed.GetValue(By)!) : (int?)null;
                var names = parsed.GetValue(Selection.Ids) ?? [];
                if (names.Length > 0 == parsed.GetValue(Selection.All))
                    throw new UsageException(
                        "Which ones? Name ids or addresses, or give --all with --state, --search …"
                    );
                if (step == "refuse" && parsed.GetValue(Reason) is { } reason)
                    return await RefuseAsync(
                        session,
                        names,
                        reason,
                        parsed.GetValue(CommonOptions.DryRun),
                        cancellation
                    );
                return names.Length > 0
                    ? await NamedAsync(session, parsed, step, done, names, days, cancellation)
                    : await AllAsync(session, parsed, step, done, days, cancellation);
            }
        );
        return command;
    }

    private static async Task<int> NamedAsync(
        Session session,
        ParseResult parsed,
        string step,
        string done,
        IReadOnlyList<string> names,
        int? days,
        CancellationToken cancellation
    )
    {
        var isRehearsal = parsed.GetValue(CommonOptions.DryRun);
        var outcomes = new List<int>();
        foreach (var name in names)
        {
            try
            {
                var id = await Selection.FindAsync(session.Client, name, cancellation);
                var answer = await session.Client.TakeStepsAsync(
                    new StepsRequest(step, [id], Days: days, DryRun: isRehearsal),
                    cancellation
                );
                if (answer.Refused is [var refused, ..])
                {
                    outcomes.Add(session.Refuse(refused.Problem, name));
                    continue;
                }
                var invitation = await session.Client.InvitationAsync(id, cancellation);
                if (session.Json)
                    Session.Print(invitation, WireJson.Default.InvitationView);
                else
                    Console.WriteLine(
                        isRehearsal
                            ? $"Would be {done}: {invitation.Address}, which is {invitation.State} now"
                            : $"{char.ToUpperInvariant(done[0])}{done[1..]}: {invitation.Address} ({invitation.State})"
                    );
                outcomes.Add(ExitStatus.Done);
            }
            catch (RefusedException refused)
            {
                outcomes.Add(session.Refuse(refused.Problem, name));
            }
        }
        return ExitStatus.Of(outcomes);
    }

    private static async Task<int> AllAsync(
        Session session,
        ParseResult parsed,
        string step,
        string done,
        int? days,
        CancellationToken cancellation
    )
    {
        var isRehearsal = parsed.GetValue(CommonOptions.DryRun);
        var request = new StepsRequest(
            step,
            null,
            parsed.GetValue(Selection.State),
            parsed.GetValue(Selection.Kind),
            parsed.GetValue(Selection.Search),
            parsed.GetValue(Selection.Batch),
            parsed.GetValue(Selection.Link),
            days,
            true
        );
        var answer = await session.Client.TakeStepsAsync(request, cancellation);
        if (!isRehearsal)
        {
            if (!session.Confirm($"{answer.Done + answer.Left} invitations would be {done}. Go on?"))
                return ExitStatus.Failed;
            answer = await session.Client.TakeStepsAsync(request with { DryRun = false }, cancellation);
        }
        if (session.Json)
            Session.Print(answer, WireJson.Default.StepsAnswer);
        else
            Console.WriteLine(
                $"{answer.Done} {(isRehearsal ? "would be " : "")}{done}, {answer.RefusedCount} not"
                    + (answer.Left > 0 ? $", {answer.Left} left for another run" : "")
            );
        foreach (var refused in answer.Refused.Take(20))
            Session.Say($"  {refused.Address}: {refused.Problem.Title}");
        return answer.RefusedCount == 0 ? ExitStatus.Done
            : answer.Done == 0 ? ExitStatus.Refused
            : ExitStatus.DoneInPart;
    }

    private static async Task<int> RefuseAsync(
        Session session,
        IReadOnlyList<string> names,
        string reason,
        bool isRehearsal,
        CancellationToken cancellation
    )
    {
        var outcomes = new List<int>();
        foreach (var name in names)
        {
            try
            {
                var id = await Selection.FindAsync(session.Client, name, cancellation);
                var invitation = isRehearsal
                    ? await session.Client.InvitationAsync(id, cancellation)
                    : await session.Client.RefuseAsync(id, reason, cancellation);
                if (session.Json)
                    Session.Print(invitation, WireJson.Default.InvitationView);
                else
                    Console.WriteLine(
                        $"{(isRehearsal ? "Would be refused" : "Refused")}: {invitation.Address} ({invitation.State})"
                    );
                outcomes.Add(ExitStatus.Done);
            }
            catch (RefusedException refused)
            {
                outcomes.Add(session.Refuse(refused.Problem, name));
            }
        }
        return ExitStatus.Of(outcomes);
    }

    private static Command Correct()
    {
        var correct = new Command("correct", "Put the right address in and send again")
        {
            Id,
            Address,
            CommonOptions.DryRun,
        };
        Session.On(
            correct,
            async (session, parsed, cancellation) =>
            {
                var id = await Selection.FindAsync(session.Client, parsed.GetValue(Id)!, cancellation);
                var before = await session.Client.InvitationAsync(id, cancellation);
                var address = parsed.GetValue(Address)!;
                var after = parsed.GetValue(CommonOptions.DryRun)
                    ? before
                    : await session.Client.CorrectAsync(id, address, cancellation);
                if (session.Json)
                    Session.Print(after, WireJson.Default.InvitationView);
                else if (parsed.GetValue(CommonOptions.DryRun))
                    Console.WriteLine(
                        $"Would be corrected from {before.Address} to {address} and sent again"
                    );
                else
                    Console.WriteLine($"Corrected from {before.Address} to {after.Address} ({after.State})");
                return ExitStatus.Done;
            }
        );
        return correct;
    }

    private static Command Link()
    {
        var link = new Command(
            "link",
            "Make a link to hand over by another way; the mailed one goes on counting"
        )
        {
            Id,
        };
        Session.On(
            link,
            async (session, parsed, cancellation) =>
            {
                var id = await Selection.FindAsync(session.Client, parsed.GetValue(Id)!, cancellation);
                var fresh = await session.Client.FreshLinkAsync(id, cancellation);
                if (session.Json)
                    Session.Print(fresh, WireJson.Default.FreshLink);
                else
                    Console.WriteLine(fresh.Link);
                Session.Say(
                    $"It is shown once, and counts until {Texts.Instant(fresh.Deadline)} ({Texts.Zone.Id})."
                );
                return ExitStatus.Done;
            }
        );
        return link;
    }

    private static int ReadDays(string text)
    {
        var unit = text.Length > 0 ? char.ToLowerInvariant(text[^1]) : ' ';
        var factor = unit == 'w' ? 7 : 1;
        var number = unit is 'd' or 'w' ? text[..^1] : text;
        return
            int.TryParse(number, NumberStyles.None, CultureInfo.InvariantCulture, out var days)
            && days is > 0 and <= 3650
            ? days * factor
            : throw new UsageException($"--by: \"{text}\" is not a time like 14d or 2w.");
    }
}
