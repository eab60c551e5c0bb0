using System.CommandLine;
using ComeAboard.Client;
using ComeAboard.Client.Departures;

namespace ComeAboard.Cli.Departures;

/// <summary><c>aboard departures …</c>: plans, what is carried out of them, and what proves it.</summary>
public static class DepartureCommands
{
    private static readonly Option<string?> State = new("--state")
    {
        Description = "Only these: planned, running, stuck, done or undone",
    };

    private static readonly Argument<Guid> Id = new("ID")
    {
        Description = "The id of the departure, as in the list",
    };

    private static readonly Argument<string> Step = new("STEP")
    {
        Description = "The number of the step, or the name of the connected system",
    };

    private static readonly Option<string> Reason = new("--reason")
    {
        Description = "How it was made sure, and by whom; it stands in the receipt",
        Required = true,
    };

    private static readonly Option<string?> Beside = new("--file")
    {
        Description = "A file that shows it, such as a letter or a picture; up to 2 MiB",
        HelpName = "FILE",
    };

    private static readonly Listing<DepartureView> Table = new(
        new("Who", d => $"{d.Person.Name} <{d.Person.Address}>"),
        new("State", d => d.State),
        new("Last day", d => d.On is { } day ? Texts.Day(day, Texts.Today) : "at once", 1),
        new("Confirmed", d => $"{d.Steps.Count(IsSettled)} of {d.Steps.Count}", 2, true),
        new("Waits for", WaitsFor, 3),
        new("Decided by", d => d.RequestedBy, 4),
        new("Id", d => d.Id.ToString())
    );

    private static readonly Listing<DepartureStepView> Steps = new(
        new("No", s => s.Number.ToString(), 0, true),
        new("Step", s => s.Sentence),
        new("State", s => s.State),
        new("Answer", s => StepFiles.Said(s.By, s.Answer, s.File), 1)
    );

    public static Command Make()
    {
        var departures = new Command(
            "departures",
            "Ends of access: planned, carried out everywhere, confirmed, proved"
        )
        {
            StartCommands.Plan(),
            ProgressCommand.Make(),
            StartCommands.Start(),
            Commands.List(
                "List departures, newest first",
                [State],
                (session, parsed, cancellation) =>
                    Commands.AllAsync(cursor =>
                        session.Client.DeparturesAsync(parsed.GetValue(State), cursor, cancellation)
                    ),
                Table,
                WireJson.Default.DepartureView,
                "There is none.",
                parsed =>
                    "departures?format=csv"
                    + (parsed.GetValue(State) is { } state ? "&state=" + Uri.EscapeDataString(state) : "")
            ),
            Commands.Do(
                "show",
                "Show a departure step by step",
                [Id],
                (session, parsed, cancellation) =>
                    session.Client.DepartureAsync(parsed.GetValue(Id), cancellation),
                WireJson.Default.DepartureView,
                (departure, _) => Print(departure)
            ),
            Commands.Do(
                "retry",
                "Try what is due now, whenever its next try would have been",
                [Id],
                (session, parsed, cancellation) =>
                    session.Client.RetryDepartureAsync(parsed.GetValue(Id), cancellation),
                WireJson.Default.DepartureView,
                (departure, parsed) =>
                    Commands.Said(
                        parsed,
                        $"What is due for {departure.Person.Name} is tried now.",
                        $"aboard departures show {departure.Id}"
                    )
            ),
            Commands.Do(
                "confirm",
                "Say that a step is so which the system did not confirm",
                [Id, Step, Reason, Beside, CommonOptions.DryRun],
                async (session, parsed, cancellation) =>
                    await session.Client.ConfirmStepAsync(
                        parsed.GetValue(Id),
                        parsed.GetValue(Step)!,
                        parsed.GetValue(Reason)!,
                        await StepFiles.ReadAsync(parsed.GetValue(Beside), cancellation),
                        parsed.GetValue(CommonOptions.DryRun),
                        cancellation
                    ),
                WireJson.Default.DepartureView,
                (departure, parsed) =>
                {
                    Print(departure);
                    Commands.Said(
                        parsed,
                        "Your word stands for it, and your reason in the receipt.",
                        $"aboard departures receipt {departure.Id}"
                    );
                }
            ),
            Withdraw(),
        };
        departures.Add(ReceiptCommands.Make(Id));
        departures.Add(StepFiles.Make(Id, Step));
        return departures;
    }

    /// <summary>Takes a planned end back.</summary>
    public static async Task WithdrawAsync(
        Session session,
        ParseResult parsed,
        string person,
        CancellationToken cancellation
    )
    {
        var isDry = parsed.GetValue(CommonOptions.DryRun);
        var departure = await session.Client.WithdrawEndAsync(person, isDry, cancellation);
        var leaver = departure.Person;
        if (session.Json)
            Session.Print(departure, WireJson.Default.DepartureView);
        else
            Console.WriteLine(
                $"{(isDry ? "Would be taken back" : "Taken back")}: {leaver.Name} <{leaver.Address}> stays until {Texts.Day(departure.Agreed, Texts.Today)}."
            );
        Commands.Said(
            parsed,
            $"The planned end of {leaver.Name} is taken back.",
            $"aboard people show {leaver.Address}"
        );
    }

    private static Command Withdraw()
    {
        var withdraw = Commands.Made(
            "withdraw",
            "Take a planned end back: the stay that was agreed before goes on",
            [Id, CommonOptions.DryRun]
        );
        Session.On(
            withdraw,
            async (session, parsed, cancellation) =>
            {
                var departure = await session.Client.DepartureAsync(parsed.GetValue(Id), cancellation);
                await WithdrawAsync(session, parsed, departure.Person.Id.ToString(), cancellation);
                return ExitStatus.Done;
            }
        );
        return withdraw;
    }

    /// <summary>Whether a step is so, by the system's word or by somebody's.</summary>
    public static bool IsSettled(DepartureStepView step) => step.State is "confirmed" or "by hand" or "done";

    private static string WaitsFor(DepartureView departure) =>
        string.Join(
            "; ",
            departure
                .Steps.Where(step => step.Kind == "close-account" && !IsSettled(step))
                .Select(step => step.Answer.Length > 0 ? $"{step.Subject}: {step.Answer}" : step.Subject)
        );

    private static void Print(DepartureView departure)
    {
        Console.WriteLine($"{departure.Person.Name} <{departure.Person.Address}>: {departure.State}");
        new Beside()
            .Add("decided by", $"{departure.RequestedBy}, {Texts.Instant(departure.RequestedAt)}")
            .Add("last day", departure.On is { } day ? Texts.Day(day, Texts.Today) : "at once")
            .Add("ended here", departure.DoneAt is { } at ? Texts.Instant(at) : null)
            .Add("confirmed", departure.ConfirmedAt is { } all ? Texts.Instant(all) : null)
            .Print();
        Steps.Print(departure.Steps);
        if (departure.Steps.FirstOrDefault(step => step.State is "stuck") is { } stuck)
            Session.Say(
                $"{stuck.Subject} waits since {(stuck.Since is { } since ? Texts.Instant(since) : "?")}, {Texts.Many(stuck.Tries, "try", "tries")}. Next: aboard departures retry {departure.Id}   or: aboard departures confirm {departure.Id} {stuck.Number} --reason TEXT"
            );
        else if (departure.Receipt is not null)
            Session.Say($"Next: aboard departures receipt {departure.Id} --out receipt.jws");
    }
}
