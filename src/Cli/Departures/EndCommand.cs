using System.CommandLine;
using ComeAboard.Client;
using ComeAboard.Client.Departures;

namespace ComeAboard.Cli.Departures;

/// <summary><c>aboard people end</c>: shows the plan, asks, and ends.</summary>
public static class EndCommand
{
    private static readonly Argument<string[]> Addresses = new("ADDRESS")
    {
        Description = "Whose access ends",
        Arity = ArgumentArity.OneOrMore,
    };

    private static readonly Option<string?> On = new("--on")
    {
        Description = "The last day of access, such as 2027-01-31; at once when absent",
    };

    private static readonly Option<bool> TakeBack = new("--take-back")
    {
        Description = "Take a planned end back: the stay that was agreed before goes on",
    };

    public static Command Make()
    {
        var end = new Command(
            "end",
            "End people's access to this workspace, now or after a day; a planned end can be moved or taken back"
        )
        {
            Addresses,
            On,
            TakeBack,
            CommonOptions.DryRun,
        };
        Session.On(end, EndAsync);
        return end;
    }

    private static async Task<int> EndAsync(
        Session session,
        ParseResult parsed,
        CancellationToken cancellation
    )
    {
        var on = Texts.ReadDay(parsed.GetValue(On), "--on");
        if (parsed.GetValue(TakeBack))
            return on is null
                ? await TakeBackAsync(session, parsed, cancellation)
                : throw new UsageException("Give either --on or --take-back.");
        var outcomes = new List<int>();
        var ready = new List<DeparturePlanView>();
        foreach (var address in parsed.GetValue(Addresses)!)
        {
            try
            {
                var plan = await session.Client.PlanDepartureAsync(address, on, cancellation);
                if (session.Json && parsed.GetValue(CommonOptions.DryRun))
                    Session.Print(plan, WireJson.Default.DeparturePlanView);
                if (plan.Problem is { } problem)
                    outcomes.Add(session.Refuse(problem, address));
                else
                    ready.Add(plan);
            }
            catch (RefusedException refused) when (refused.Problem.Status is 404 or 409 or 422)
            {
                outcomes.Add(session.Refuse(refused.Problem, address));
            }
        }
        foreach (var plan in ready)
            Show(session, plan);
        if (parsed.GetValue(CommonOptions.DryRun))
        {
            outcomes.AddRange(ready.Select(_ => ExitStatus.Done));
            return ExitStatus.Of(outcomes);
        }
        if (
            ready.Count > 0
            && !session.Confirm($"End the access of {string.Join(", ", ready.Select(p => p.Person.Name))}?")
        )
        {
            Session.Say("Nothing was changed.");
            return ExitStatus.Failed;
        }
        foreach (var plan in ready)
            outcomes.Add(await EndOneAsync(session, plan, on, cancellation));
        return ExitStatus.Of(outcomes);
    }

    private static async Task<int> TakeBackAsync(
        Session session,
        ParseResult parsed,
        CancellationToken cancellation
    )
    {
        var outcomes = new List<int>();
        foreach (var address in parsed.GetValue(Addresses)!)
        {
            try
            {
                var isDry = parsed.GetValue(CommonOptions.DryRun);
                var departure = await session.Client.WithdrawEndAsync(address, isDry, cancellation);
                if (session.Json)
                    Session.Print(departure, WireJson.Default.DepartureView);
                else
                    Console.WriteLine(
                        $"{(isDry ? "Would be taken back" : "Taken back")}: {departure.Name} <{departure.Address}> stays until {Texts.Day(departure.Agreed, Texts.Today)}."
                    );
                Commands.Said(
                    parsed,
                    $"The planned end of {departure.Name} is taken back.",
                    $"aboard people show {departure.Address}"
                );
                outcomes.Add(ExitStatus.Done);
            }
            catch (RefusedException refused) when (refused.Problem.Status is 403 or 404 or 409)
            {
                outcomes.Add(session.Refuse(refused.Problem, address));
            }
        }
        return ExitStatus.Of(outcomes);
    }

    private static async Task<int> EndOneAsync(
        Session session,
        DeparturePlanView plan,
        DateOnly? on,
        CancellationToken cancellation
    )
    {
        try
        {
            var departure = await session.Client.EndAsync(plan.Person.Id.ToString(), on, cancellation);
            if (session.Json)
                Session.Print(departure, WireJson.Default.DepartureView);
            else
                Console.WriteLine(
                    departure.State == "done"
                        ? $"Ended: {departure.Name} <{departure.Address}> has no access any more and is told by mail."
                        : $"Planned: the access of {departure.Name} <{departure.Address}> ends after {Texts.Day(departure.On, Texts.Today)}."
                );
            Session.Say($"Next: aboard people show {departure.Address}");
            return ExitStatus.Done;
        }
        catch (RefusedException refused) when (refused.Problem.Status is 404 or 409 or 412 or 422)
        {
            return session.Refuse(refused.Problem, plan.Person.Address);
        }
    }

    /// <summary>The plan is part of the question, so it goes where questions go; a rehearsal's result goes to standard output.</summary>
    private static void Show(Session session, DeparturePlanView plan)
    {
        if (session.Json)
            return;
        Console.WriteLine(
            $"{plan.Person.Name} <{plan.Person.Address}>, {plan.Person.Kind}: ends {(plan.On is { } day ? $"after {Texts.Day(day, Texts.Today)}" : "at once")}"
        );
        new Beside().Add("loses", plan.Losses).Add("keeps", plan.Stays).Print();
    }
}
