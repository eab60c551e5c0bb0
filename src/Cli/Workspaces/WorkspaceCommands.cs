using System.CommandLine;
using ComeAboard.Cli.Invitations;
using ComeAboard.Client;
using ComeAboard.Client.Workspaces;

namespace ComeAboard.Cli.Workspaces;

/// <summary><c>aboard workspace show | overview | rules | change | readiness</c></summary>
public static class WorkspaceCommands
{
    private static readonly Option<string?> Kind = new("--kind")
    {
        Description = "staff, guest, partner or client",
    };
    private static readonly Option<string?> Preset = new("--preset") { Description = "A preset" };
    private static readonly Option<string?> Organisation = new("--organisation")
    {
        Description = "The organisation of the invitee",
    };
    private static readonly Option<string?> Host = new("--host") { Description = "The host's address" };
    private static readonly Option<string?> From = new("--from")
    {
        Description = "The first day of the stay, such as 2027-01-01",
    };
    private static readonly Option<bool> NoEnd = new("--no-end") { Description = "The stay has no end" };
    private static readonly Option<string?> Until = new("--until")
    {
        Description = "The last day of the stay, such as 2027-01-31",
    };
    private static readonly Option<string?> Address = new("--address")
    {
        Description = "The address, if it is known already",
    };

    public static Command Make() =>
        new("workspace", "The workspace itself")
        {
            Commands.Do(
                "show",
                "Show the workspace",
                [],
                (session, _, cancellation) => session.Client.WorkspaceAsync(cancellation),
                WireJson.Default.WorkspaceView,
                (workspace, _) =>
                    Console.WriteLine(
                        $"{workspace.Name} ({workspace.ShortName}), {workspace.TimeZone}, today {Texts.Plain(workspace.Today)}, {workspace.Roles.Count} roles\n"
                            + $"mails from {workspace.SenderName}, answers to {workspace.ReplyTo ?? "nowhere else"}, in {workspace.Language}"
                    )
            ),
            Commands.Do(
                "overview",
                "What waits, who is here, and what ends soon",
                [],
                (session, _, cancellation) => session.Client.OverviewAsync(cancellation),
                WireJson.Default.OverviewView,
                (overview, _) => Print(overview)
            ),
            RuleCommands.Show(),
            RuleCommands.Change(),
            Readiness(),
        };

    private static void Print(OverviewView overview)
    {
        Console.WriteLine("people       " + Counts(overview.People));
        Console.WriteLine("invitations  " + Counts(overview.Invitations));
        Console.WriteLine($"mail         {overview.WaitingMail} not taken by the mail server yet");
        Console.WriteLine(
            $"administrators without an end date  {overview.Administrators}"
                + (overview.Administrators < 2 ? "; have two, so that nobody is locked out" : "")
        );
        foreach (var person in overview.EndingSoon)
            Console.WriteLine($"  ends soon    {person.Name, -24} {Texts.Day(person.Until, Texts.Today)}");
        foreach (var invitation in overview.ExpiringSoon)
            Console.WriteLine($"  expires soon {invitation.Address}");
    }

    private static string Counts(IReadOnlyDictionary<string, long> counts) =>
        string.Join(
            ", ",
            counts.Where(count => count.Value > 0).Select(count => $"{count.Value} {count.Key}")
        );

    private static Command Readiness()
    {
        var readiness = Commands.Made(
            "readiness",
            "Everything that would stop an invitation, at once",
            [
                Kind,
                Giving.Role,
                Giving.Resource,
                Giving.Group,
                Giving.Seat,
                Preset,
                Organisation,
                Host,
                From,
                Until,
                NoEnd,
                Address,
            ]
        );
        Session.On(
            readiness,
            async (session, parsed, cancellation) =>
            {
                var answer = await session.Client.ReadinessAsync(
                    new ReadinessRequest(
                        parsed.GetValue(Kind),
                        null,
                        Giving.Read(parsed),
                        parsed.GetValue(Preset),
                        parsed.GetValue(Organisation),
                        parsed.GetValue(Host),
                        Texts.ReadDay(parsed.GetValue(Until), "--until"),
                        parsed.GetValue(Address)
                    )
                    {
                        From = Texts.ReadDay(parsed.GetValue(From), "--from"),
                        NoEnd = parsed.GetValue(NoEnd),
                    },
                    cancellation
                );
                if (session.Json)
                    Session.Print(answer, WireJson.Default.ReadinessView);
                else
                    foreach (var blocker in answer.Blockers)
                        Console.WriteLine(
                            $"{(blocker.Stops ? "stops " : "delays")} {blocker.Sentence} {blocker.Remedy} [{blocker.Code}]{(blocker.Command is { } command ? $"\n         {command}" : "")}"
                        );
                Session.Say(
                    answer.Ready
                        ? "Nothing stands in the way. Next: aboard invitations send ADDRESS"
                        : $"{Texts.Many(answer.Blockers.Count(blocker => blocker.Stops), "thing stands", "things stand")} in the way."
                );
                return answer.Ready ? ExitStatus.Done : ExitStatus.Refused;
            }
        );
        return readiness;
    }
}
