using System.CommandLine;
using ComeAboard.Client;
using ComeAboard.Client.Access;
using ComeAboard.Client.Workspaces;

namespace ComeAboard.Cli.Workspaces;

/// <summary><c>aboard workspace show | readiness</c></summary>
public static class WorkspaceCommands
{
    private static readonly Option<string?> Kind = new("--kind")
    {
        Description = "staff, guest, partner or client",
    };
    private static readonly Option<string?> Role = new("--role") { Description = "A role" };
    private static readonly Option<string[]> Group = new("--group") { Description = "A group" };
    private static readonly Option<string[]> Seat = new("--seat") { Description = "A seat pool" };
    private static readonly Option<string?> Preset = new("--preset") { Description = "A preset" };
    private static readonly Option<string?> Organisation = new("--organisation")
    {
        Description = "The organisation of the invitee",
    };
    private static readonly Option<string?> Host = new("--host") { Description = "The host's address" };
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
                        $"{workspace.Name} ({workspace.ShortName}), {workspace.TimeZone}, today {Texts.Plain(workspace.Today)}, {workspace.Roles.Count} roles"
                    )
            ),
            Readiness(),
        };

    private static Command Readiness()
    {
        var readiness = Commands.Made(
            "readiness",
            "Everything that would stop an invitation, at once",
            [Kind, Role, Group, Seat, Preset, Organisation, Host, Until, Address]
        );
        Session.On(
            readiness,
            async (session, parsed, cancellation) =>
            {
                var answer = await session.Client.ReadinessAsync(
                    new ReadinessRequest(
                        parsed.GetValue(Kind),
                        parsed.GetValue(Role),
                        new BundleView(null, parsed.GetValue(Group), parsed.GetValue(Seat)),
                        parsed.GetValue(Preset),
                        parsed.GetValue(Organisation),
                        parsed.GetValue(Host),
                        Texts.ReadDay(parsed.GetValue(Until), "--until"),
                        parsed.GetValue(Address)
                    ),
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
                        : $"{answer.Blockers.Count(blocker => blocker.Stops)} things stand in the way."
                );
                return answer.Ready ? ExitStatus.Done : ExitStatus.Refused;
            }
        );
        return readiness;
    }
}
