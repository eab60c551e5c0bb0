using System.CommandLine;
using ComeAboard.Client;
using ComeAboard.Client.Departures;

namespace ComeAboard.Cli.Departures;

/// <summary><c>aboard people reinstate</c>: takes an end back that came about.</summary>
public static class ReinstateCommand
{
    private static readonly Argument<string> Address = new("ADDRESS")
    {
        Description = "Whose end is taken back",
    };

    public static Command Make()
    {
        var reinstate = Commands.Made(
            "reinstate",
            "Take an end back within 30 days: exactly as it was, minus what others have by now",
            [Address, CommonOptions.DryRun]
        );
        Session.On(
            reinstate,
            async (session, parsed, cancellation) =>
            {
                var address = parsed.GetValue(Address)!;
                var plan = await session.Client.ReinstateAsync(address, dryRun: true, cancellation);
                var isDry = parsed.GetValue(CommonOptions.DryRun);
                if (!session.Json)
                    Show(plan);
                else if (isDry)
                    Session.Print(plan, WireJson.Default.ReinstateView);
                if (isDry)
                    return ExitStatus.Done;
                if (!session.Confirm($"Reinstate {plan.Person.Name}?"))
                {
                    Session.Say("Nothing was changed.");
                    return ExitStatus.Failed;
                }
                var done = await session.Client.ReinstateAsync(address, cancellation: cancellation);
                if (session.Json)
                    Session.Print(done, WireJson.Default.ReinstateView);
                else
                    Console.WriteLine(
                        $"Reinstated: {done.Person.Name} <{done.Person.Address}> is here again and is told by mail."
                    );
                Session.Say($"Next: aboard people show {done.Person.Address}");
                return ExitStatus.Done;
            }
        );
        return reinstate;
    }

    private static void Show(ReinstateView plan)
    {
        Console.WriteLine(
            $"{plan.Person.Name} <{plan.Person.Address}> is here again{(plan.Until is { } day ? $" until {Texts.Day(day, Texts.Today)}" : "")}"
        );
        new Beside()
            .Add("as before", plan.Lines.Where(line => line.IsRestored).Select(line => line.Sentence))
            .Add("not", plan.Lines.Where(line => !line.IsRestored).Select(line => line.Sentence))
            .Print();
    }
}
