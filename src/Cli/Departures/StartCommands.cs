using System.CommandLine;
using ComeAboard.Client;
using ComeAboard.Client.Departures;

namespace ComeAboard.Cli.Departures;

/// <summary><c>aboard departures plan</c> and <c>start</c>: what ending people's access comes to, and doing it.</summary>
public static class StartCommands
{
    /// <summary>Whose access ends.</summary>
    public static Argument<string[]> Addresses { get; } =
        new("ADDRESS") { Description = "Whose access ends", Arity = ArgumentArity.ZeroOrMore };

    /// <summary>The last day of access.</summary>
    public static Option<string?> On { get; } =
        new("--on")
        {
            Description = "The last day of access, such as 2027-01-31; at once when absent",
            HelpName = "DATE",
        };

    /// <summary>Who takes over.</summary>
    public static Option<string?> To { get; } =
        new("--to")
        {
            Description = "Who takes over what they own, host and were asked; whoever ends it when absent",
            HelpName = "ADDRESS",
        };

    private static readonly Option<Guid?> Link = new("--link")
    {
        Description = "Everybody who came in by this join link",
        HelpName = "ID",
    };

    private static readonly Option<string?> Organisation = new("--organisation")
    {
        Description = "Everybody of this organisation",
    };

    private static readonly Option<string?> Kind = new("--kind")
    {
        Description =
            "Everybody of this kind – staff, guest, partner, client –, alone or to narrow the others",
    };

    private static readonly Option<string?> Search = new("--search")
    {
        Description =
            "Everybody with this in their name, address or organisation, alone or to narrow the others",
    };

    /// <summary><c>plan</c>.</summary>
    public static Command Plan() =>
        Selecting("plan", "Show what ending people's access would do; nothing is done", PlanAsync);

    /// <summary><c>start</c>.</summary>
    public static Command Start() =>
        Selecting("start", "End people's access, at once or after a day", StartAsync);

    /// <summary>Ends the access of those who are named, after showing what that comes to.</summary>
    public static async Task<int> StartAsync(
        Session session,
        ParseResult parsed,
        CancellationToken cancellation
    )
    {
        var (plans, outcomes, total) = await PlansAsync(session, parsed, cancellation);
        var isDry = parsed.GetValue(CommonOptions.DryRun);
        foreach (var plan in plans)
            if (!session.Json)
                Show(plan);
            else if (isDry)
                Session.Print(plan, WireJson.Default.DeparturePlanView);
        if (isDry || plans.Count == 0)
            return ExitStatus.Of([.. outcomes, .. plans.Select(_ => ExitStatus.Done)]);
        var isMore = total > plans.Count;
        if (isMore)
            Session.Say($"Those are the first {plans.Count} of {total}.");
        if (!session.Confirm($"End the access of {(isMore ? $"all {total}" : Names(plans))}?"))
        {
            Session.Say("Nothing was changed.");
            return ExitStatus.Failed;
        }
        var answer = await session.Client.StartDeparturesAsync(
            isMore
                ? RequestOf(parsed)
                : RequestOf(parsed) with
                {
                    People = [.. plans.Select(plan => plan.Person.Id.ToString())],
                    Link = null,
                    Organisation = null,
                    Kind = null,
                    Search = null,
                },
            cancellation
        );
        foreach (var departure in answer.Departures)
        {
            if (session.Json)
                Session.Print(departure, WireJson.Default.DepartureView);
            else
                Console.WriteLine(Said(departure));
            outcomes.Add(ExitStatus.Done);
        }
        foreach (var refused in answer.Refused)
            outcomes.Add(session.Refuse(refused.Problem, refused.Address));
        if (answer.Total > answer.Departures.Count)
            Session.Say($"{answer.Total} people are out; what else there is to do for each is done now.");
        Session.Say(
            answer.Total > answer.Departures.Count ? "Next: aboard departures progress"
            : answer.Departures is [var only] ? $"Next: aboard departures show {only.Id}"
            : "Next: aboard departures list"
        );
        return ExitStatus.Of(outcomes);
    }

    private static Command Selecting(
        string verb,
        string description,
        Func<Session, ParseResult, CancellationToken, Task<int>> work
    )
    {
        var command = Commands.Made(
            verb,
            description,
            [Addresses, Link, Organisation, Kind, Search, On, To, CommonOptions.DryRun]
        );
        Session.On(command, work);
        return command;
    }

    private static async Task<int> PlanAsync(
        Session session,
        ParseResult parsed,
        CancellationToken cancellation
    )
    {
        var (plans, outcomes, total) = await PlansAsync(session, parsed, cancellation);
        foreach (var plan in plans)
            if (session.Json)
                Session.Print(plan, WireJson.Default.DeparturePlanView);
            else
                Show(plan);
        if (total > plans.Count)
            Session.Say($"Those are the first {plans.Count} of {total}.");
        if (plans.Count > 0)
            Session.Say("Nothing was changed. The same words after aboard departures start do it.");
        return ExitStatus.Of([.. outcomes, .. plans.Select(_ => ExitStatus.Done)]);
    }

    /// <summary>The plans that can be carried out; what stands in the way of others is said.</summary>
    private static async Task<(List<DeparturePlanView> Plans, List<int> Outcomes, int Total)> PlansAsync(
        Session session,
        ParseResult parsed,
        CancellationToken cancellation
    )
    {
        var (plans, outcomes, total) = (new List<DeparturePlanView>(), new List<int>(), 0);
        var request = RequestOf(parsed);
        if (request.People is null)
        {
            var planned = await session.Client.PlanDeparturesAsync(request, cancellation);
            total = planned.Total;
            Take(planned.Plans);
        }
        else
            foreach (var address in request.People!)
            {
                try
                {
                    Take([
                        await session.Client.PlanDepartureAsync(
                            address,
                            request.On,
                            request.To,
                            cancellation
                        ),
                    ]);
                }
                catch (RefusedException refused) when (refused.Problem.Status is 404 or 409 or 422)
                {
                    outcomes.Add(session.Refuse(refused.Problem, address));
                }
            }
        return (plans, outcomes, Math.Max(total, plans.Count));

        void Take(IReadOnlyList<DeparturePlanView> some)
        {
            foreach (var plan in some)
                if (plan.Problem is { } problem)
                    outcomes.Add(session.Refuse(problem, plan.Person.Address));
                else
                    plans.Add(plan);
        }
    }

    private static DeparturesRequest RequestOf(ParseResult parsed)
    {
        var people = parsed.GetValue(Addresses) ?? [];
        var (link, organisation) = (Value(Link), Value(Organisation));
        var (kind, search) = (Value(Kind), Value(Search));
        var ways = (people.Length > 0 ? 1 : 0) + (link is null ? 0 : 1) + (organisation is null ? 0 : 1);
        if (ways > 1 || ways == 0 && kind is null && search is null)
            throw new UsageException(
                "Whose access? Name people, or --link, or --organisation, or --kind or --search."
            );
        return new DeparturesRequest(
            people.Length > 0 ? people : null,
            link,
            organisation,
            Texts.ReadDay(parsed.GetValue(On), "--on"),
            parsed.GetValue(To)
        )
        {
            Kind = kind,
            Search = search,
        };

        // The short form does not have them.
        T? Value<T>(Option<T> option) => parsed.GetResult(option) is null ? default : parsed.GetValue(option);
    }

    private static string Said(DepartureView departure)
    {
        var who = $"{departure.Person.Name} <{departure.Person.Address}>";
        var open = departure.Steps.Count(step =>
            step.Kind == "close-account" && !DepartureCommands.IsSettled(step)
        );
        return departure.State == "planned"
                ? $"Planned: the access of {who} ends after {Texts.Day(departure.On, Texts.Today)}."
            : open > 0
                ? $"Ended: {who} has no access here any more and is told by mail. {Texts.Many(open, "connected system is", "connected systems are")} still to confirm."
            : $"Ended: {who} has no access any more and is told by mail.";
    }

    private static string Names(List<DeparturePlanView> plans) =>
        plans.Count <= 5
            ? string.Join(", ", plans.Select(plan => plan.Person.Name))
            : $"{string.Join(", ", plans.Take(3).Select(plan => plan.Person.Name))} and {plans.Count - 3} more";

    /// <summary>The plan is part of the question, so it goes where questions go; a rehearsal's result goes to standard output.</summary>
    private static void Show(DeparturePlanView plan)
    {
        Console.WriteLine(
            $"{plan.Person.Name} <{plan.Person.Address}>, {plan.Person.Kind}: ends {(plan.On is { } day ? $"after {Texts.Day(day, Texts.Today)}" : "at once")}"
        );
        new Beside().Add("loses", plan.Losses).Add("keeps", plan.Stays).Print();
    }
}
