using System.CommandLine;
using ComeAboard.Client;

namespace ComeAboard.Cli.Departures;

/// <summary><c>aboard people end</c>: the short form of <c>aboard departures start</c>.</summary>
public static class EndCommand
{
    private static readonly Option<bool> TakeBack = new("--take-back")
    {
        Description = "Take a planned end back: the stay that was agreed before goes on",
    };

    public static Command Make()
    {
        var end = Commands.Made(
            "end",
            "End people's access, now or after a day; short for aboard departures start",
            [StartCommands.Addresses, StartCommands.On, StartCommands.To, TakeBack, CommonOptions.DryRun]
        );
        Session.On(end, EndAsync);
        return end;
    }

    private static async Task<int> EndAsync(
        Session session,
        ParseResult parsed,
        CancellationToken cancellation
    )
    {
        if (!parsed.GetValue(TakeBack))
            return await StartCommands.StartAsync(session, parsed, cancellation);
        if (parsed.GetValue(StartCommands.On) is not null)
            throw new UsageException("Give either --on or --take-back.");
        var outcomes = new List<int>();
        foreach (var address in parsed.GetValue(StartCommands.Addresses)!)
        {
            try
            {
                await DepartureCommands.WithdrawAsync(session, parsed, address, cancellation);
                outcomes.Add(ExitStatus.Done);
            }
            catch (RefusedException refused) when (refused.Problem.Status is 403 or 404 or 409)
            {
                outcomes.Add(session.Refuse(refused.Problem, address));
            }
        }
        return ExitStatus.Of(outcomes);
    }
}
