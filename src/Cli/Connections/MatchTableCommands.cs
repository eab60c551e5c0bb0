using System.CommandLine;
using ComeAboard.Client;
using ComeAboard.Client.Connections;
using Spectre.Console;

namespace ComeAboard.Cli.Connections;

/// <summary>The match table of a connection: <c>preview</c>, <c>decide</c>, <c>run</c> and <c>show</c>.</summary>
public static class MatchTableCommands
{
    private const int AtOnce = 2_000;
    private const int Shown = 60;
    private static readonly TimeSpan Beat = TimeSpan.FromMilliseconds(300);

    private static readonly Option<string?> Verdict = new("--verdict")
    {
        Description = "Only same, likely, new, conflicting, leave-out, to-decide, refused or gone",
    };
    private static readonly Option<string?> Search = new("--search")
    {
        Description = "Only those with this in their name, address or organisation",
        HelpName = "TEXT",
    };
    private static readonly Option<FileInfo?> NewFile = new("--file")
    {
        Description = "Hand in a new file first",
        HelpName = "FILE",
    };
    private static readonly Option<bool> Believe = new("--believe")
    {
        Description =
            "Believe it however few are left; else one that suddenly shows far fewer changes nothing",
    };
    private static readonly Option<FileInfo?> DecideFile = new("--decide")
    {
        Description =
            "Decide by a CSV file first, with the columns key, decision (join, bring-in, leave-out, stays, open) and person, as preview --csv prints it",
        HelpName = "FILE",
    };
    private static readonly Argument<string[]> Records = new("RECORD")
    {
        Description = "Records, by their number or key",
        Arity = ArgumentArity.ZeroOrMore,
    };
    private static readonly Option<string> As = new("--as")
    {
        Description =
            "join, bring-in, leave-out, stays (of those who are gone), or open to take back what was said",
        HelpName = "DECISION",
        Required = true,
    };
    private static readonly Option<string?> Person = new("--person")
    {
        Description = "With whom a record is joined, where not with whom the table names",
        HelpName = "ADDRESS",
    };

    private static readonly Listing<SourceRecordView> Table = new(
        new("No", record => record.Number.ToString(), 0, true),
        new("There", Said),
        new("Verdict", record => record.GoneSince is null ? record.Verdict : "gone"),
        new("Score", record => record.Score > 0 ? Texts.Probability(record.Score) : "", 3, true),
        new("Here", record => record.Person is { } one ? $"{one.Name} <{one.Address}>" : "", 1),
        new("Is to be", Fate),
        new("Why", Why, 2)
    );

    public static Command Preview()
    {
        var preview = Commands.Made(
            "preview",
            "Show what would be carried out there; or, of one that people are only read from, who of it is who here",
            [ConnectionCommands.Name, NewFile, Verdict, Search, Believe, Commands.Csv]
        );
        Session.On(
            preview,
            async (session, parsed, cancellation) =>
            {
                var name = parsed.GetValue(ConnectionCommands.Name)!;
                if (
                    !IsAboutReading(parsed)
                    && await CarryingCommands.CarriesAsync(session, name, cancellation)
                )
                    return await CarryingCommands.PreviewAsync(session, name, null, cancellation);
                if (parsed.GetValue(NewFile) is { } file)
                    await session.Client.HandInAsync(
                        name,
                        new MemoryStream(await Files.ReadAsync(file.ToString(), cancellation)),
                        file.Name,
                        cancellation
                    );
                await session.Client.ReadConnectionAsync(name, parsed.GetValue(Believe), cancellation);
                var read = await RestAsync(session, name, "Reading", cancellation);
                if (read.Problem is { } fault)
                    return session.Refuse(fault);
                return await PrintAsync(session, parsed, read, cancellation);
            }
        );
        return preview;
    }

    private static bool IsAboutReading(ParseResult parsed) =>
        parsed.GetValue(NewFile) is not null
        || parsed.GetValue(Verdict) is not null
        || parsed.GetValue(Search) is not null
        || parsed.GetValue(Believe)
        || parsed.GetValue(Commands.Csv);

    public static Command Show()
    {
        var show = Commands.Made(
            "show",
            "Show how it is read, and who of it is who here, as it was read last",
            [ConnectionCommands.Name, Verdict, Search, Commands.Csv]
        );
        Session.On(
            show,
            async (session, parsed, cancellation) =>
            {
                var connection = await session.Client.ConnectionAsync(
                    parsed.GetValue(ConnectionCommands.Name)!,
                    cancellation
                );
                if (session.Json)
                {
                    Session.Print(connection, WireJson.Default.ConnectionView);
                    return ExitStatus.Done;
                }
                if (!parsed.GetValue(Commands.Csv))
                {
                    ConnectionCommands.Print(connection);
                    if (connection.LastReadAt is null)
                    {
                        Session.Say(
                            $"Nobody was read out of it as yet. What is carried out to it: aboard connections status \"{connection.Name}\""
                        );
                        return ExitStatus.Done;
                    }
                }
                return await PrintAsync(session, parsed, connection, cancellation);
            }
        );
        return show;
    }

    public static Command Decide()
    {
        var decide = Commands.Made(
            "decide",
            "Decide what is to be done with records; it is kept, and nothing is done as yet",
            [ConnectionCommands.Name, Records, As, Person, Verdict, Search, CommonOptions.DryRun]
        );
        Session.On(
            decide,
            async (session, parsed, cancellation) =>
            {
                var answer = await session.Client.DecideAsync(
                    parsed.GetValue(ConnectionCommands.Name)!,
                    DecisionsOf(parsed),
                    parsed.GetValue(CommonOptions.DryRun),
                    cancellation
                );
                if (session.Json)
                    Session.Print(answer, WireJson.Default.DecideAnswer);
                SayRefused(answer);
                if (answer.Decided > 0)
                    Commands.Said(
                        parsed,
                        $"{Texts.Many(answer.Decided, "record is", "records are")} decided. {ConnectionCommands.CountsOf(answer.Connection)}",
                        $"aboard connections run \"{answer.Connection.Name}\""
                    );
                return answer.Refused.Count == 0 ? ExitStatus.Done
                    : answer.Decided > 0 ? ExitStatus.DoneInPart
                    : ExitStatus.Refused;
            }
        );
        return decide;
    }

    private static DecideRequest DecisionsOf(ParseResult parsed)
    {
        var (named, said) = (parsed.GetValue(Records) ?? [], DecisionOf(parsed.GetValue(As)!));
        if (named.Length > 0)
            return new DecideRequest([
                .. named.Select(key => new RecordDecision(key, said, parsed.GetValue(Person))),
            ]);
        if (parsed.GetValue(Verdict) is null && parsed.GetValue(Search) is null)
            throw new UsageException("Name records, or say which by --verdict or --search.");
        return new DecideRequest(null, said, parsed.GetValue(Verdict), parsed.GetValue(Search));
    }

    public static Command Run()
    {
        var run = Commands.Made(
            "run",
            "Do what is decided: join profiles, bring in who is new; nobody is ended by it",
            [ConnectionCommands.Name, DecideFile, CommonOptions.Yes, CommonOptions.DryRun]
        );
        Session.On(run, RunAsync);
        return run;
    }

    private static async Task<int> RunAsync(
        Session session,
        ParseResult parsed,
        CancellationToken cancellation
    )
    {
        var name = parsed.GetValue(ConnectionCommands.Name)!;
        var isDry = parsed.GetValue(CommonOptions.DryRun);
        var left = 0;
        if (parsed.GetValue(DecideFile) is { } file)
            left = await DecideAsync(session, name, file, isDry, cancellation);
        var before = await session.Client.ConnectionAsync(name, cancellation);
        var plan = await session.Client.RunConnectionAsync(name, dryRun: true, cancellation);
        var what =
            $"{Texts.Many(before.Counts["to-join"], "profile", "profiles")} to join, {Texts.Many(before.Counts["to-bring-in"], "person", "people")} to bring in, {before.Counts["to-decide"]} left to be decided";
        if (isDry)
        {
            if (session.Json)
                Session.Print(plan, WireJson.Default.ConnectionView);
            Session.Say($"Nothing was changed. It would be: {what}.");
            return ExitStatus.Done;
        }
        if (!session.Confirm($"{before.Name}: {what}. Do it?"))
        {
            Session.Say("Nothing was changed.");
            return ExitStatus.Failed;
        }
        await session.Client.RunConnectionAsync(name, cancellation: cancellation);
        var done = await RestAsync(session, name, "Doing", cancellation);
        if (done.Problem is { } fault)
            return session.Refuse(fault);
        if (session.Json)
            Session.Print(done, WireJson.Default.ConnectionView);
        var refused = await Commands.AllAsync(cursor =>
            session.Client.SourceRecordsAsync(name, "refused", null, cursor, null, cancellation)
        );
        if (!session.Json && refused.Count > 0)
            Table.Print([.. refused.Take(Shown)]);
        Session.Say($"{done.Name}: {ConnectionCommands.CountsOf(done)}");
        return refused.Count + left == 0 ? ExitStatus.Done
            : refused.Count < before.Counts["to-join"] + before.Counts["to-bring-in"] ? ExitStatus.DoneInPart
            : ExitStatus.Refused;
    }

    /// <summary>Decides by a file; how many rows were refused.</summary>
    private static async Task<int> DecideAsync(
        Session session,
        string name,
        FileInfo file,
        bool isDry,
        CancellationToken cancellation
    )
    {
        var rows = await NamedColumns.ReadAsync(file, ["key", "decision"], ["person", "state"], cancellation);
        // A row about which nothing is said, or of which everything is done, leaves what stands.
        var wishes = rows.Where(row => row[1].Length > 0 && row[3] != "done")
            .Select(row => new RecordDecision(
                row[0],
                DecisionOf(row[1]),
                row[1] == "join" && row[2].Length > 0 ? row[2] : null
            ))
            .ToList();
        var (decided, refused) = (0, 0);
        foreach (var lot in wishes.Chunk(AtOnce))
        {
            var answer = await session.Client.DecideAsync(name, new DecideRequest(lot), isDry, cancellation);
            SayRefused(answer);
            decided += answer.Decided;
            refused += answer.Refused.Count;
        }
        Session.Say($"{decided} of {wishes.Count} decisions {(isDry ? "would be" : "are")} kept.");
        return refused;
    }

    private static string DecisionOf(string written) => written == "open" ? "" : written;

    private static void SayRefused(DecideAnswer answer)
    {
        foreach (var one in answer.Refused)
            Session.Say($"  ✗ {one.Key, -30} {one.Problem.Title} {one.Problem.Detail} [{one.Problem.Code}]");
    }

    private static async Task<int> PrintAsync(
        Session session,
        ParseResult parsed,
        ConnectionView connection,
        CancellationToken cancellation
    )
    {
        var (verdict, search) = (parsed.GetValue(Verdict), parsed.GetValue(Search));
        if (parsed.GetValue(Commands.Csv))
            return await Commands.PrintCsvAsync(
                session,
                $"connections/{connection.Id}/records?format=csv&verdict={Uri.EscapeDataString(verdict ?? "")}&search={Uri.EscapeDataString(search ?? "")}",
                cancellation
            );
        if (session.Json)
        {
            foreach (
                var record in await Commands.AllAsync(cursor =>
                    session.Client.SourceRecordsAsync(
                        connection.Name,
                        verdict,
                        search,
                        cursor,
                        null,
                        cancellation
                    )
                )
            )
                Session.Print(record, WireJson.Default.SourceRecordView);
            return ExitStatus.Done;
        }
        var page = await session.Client.SourceRecordsAsync(
            connection.Name,
            verdict,
            search,
            limit: Shown,
            cancellation: cancellation
        );
        if (page.Items.Count > 0)
            Table.Print(page.Items);
        if (page.Next is not null)
            Console.WriteLine($"The first {Shown}, what needs somebody first; --json or --csv has all.");
        Console.WriteLine(ConnectionCommands.CountsOf(connection));
        Session.Say(
            $"Nobody here was changed. Decide: aboard connections decide \"{connection.Name}\" NO --as join   Do it: aboard connections run \"{connection.Name}\""
        );
        return ExitStatus.Done;
    }

    /// <summary>Waits until the work on it is over, and tells how far it is where somebody looks.</summary>
    private static async Task<ConnectionView> RestAsync(
        Session session,
        string name,
        string what,
        CancellationToken cancellation
    )
    {
        if (Console.IsErrorRedirected)
            return await WaitAsync(_ => { });
        ConnectionView? rested = null;
        await AnsiConsole
            .Create(new AnsiConsoleSettings { Out = new AnsiConsoleOutput(Console.Error) })
            .Progress()
            .AutoClear(true)
            .StartAsync(async shown =>
            {
                var task = shown.AddTask(what, maxValue: 1);
                rested = await WaitAsync(view =>
                    task.Value = view.Total > 0 ? (double)view.Done / view.Total : 0
                );
            });
        return rested!;

        async Task<ConnectionView> WaitAsync(Action<ConnectionView> told)
        {
            while (true)
            {
                var view = await session.Client.ConnectionAsync(name, cancellation);
                if (view.State == "resting")
                    return view;
                told(view);
                await Task.Delay(Beat, cancellation);
            }
        }
    }

    private static string Why(SourceRecordView record) =>
        record.Problem?.Title
        ?? (
            record.GoneSince is { } since
                ? $"gone there since {Texts.Instant(since)}; {string.Join("; ", record.Reasons.Take(2))}"
                : string.Join("; ", record.Reasons.Take(2))
        );

    private static string Said(SourceRecordView record) =>
        record.Address.Length > 0 && record.Address != record.Name
            ? $"{record.Name} <{record.Address}>"
            : record.Name;

    private static string Fate(SourceRecordView record) =>
        record.GoneSince is not null
            ? (record.StaysBy.Length > 0 ? "stays here" : "looked at: ended, or stays")
        : record.State == "done"
            ? (
                record.Decision == "join" ? "joined"
                : record.InvitationId is null ? "done"
                : "invited"
            )
        : record.State == "refused" ? "refused"
        : record.Decision switch
        {
            "join" when record.Changes.Count > 0 =>
                $"joined: {string.Join(", ", record.Changes.Select(one => one.Field))}",
            "join" => "joined",
            "bring-in" => "brought in",
            "leave-out" => "left out",
            _ => "decided",
        };
}
