using System.CommandLine;
using ComeAboard.Client;
using ComeAboard.Client.Invitations;

namespace ComeAboard.Cli.Invitations;

/// <summary><c>aboard batches …</c></summary>
public static class BatchCommands
{
    private static readonly Argument<Guid> Id = new("BATCH") { Description = "The batch's id" };
    private static readonly Option<string?> Verdict = new("--verdict")
    {
        Description =
            "Only entries that are open, sent, ready, personal, member, invited, repeated, wrong, blocked or stopped",
    };
    private static readonly Option<string?> Results = new("--results")
    {
        Description = "Write what came of every entry to this file as CSV",
    };
    private static readonly Argument<int> Number = new("NUMBER") { Description = "The entry's number" };
    private static readonly Option<string?> Address = new("--address") { Description = "The right address" };
    private static readonly Option<string?> Name = new("--name") { Description = "The name" };
    private static readonly Option<string?> Kind = new("--kind") { Description = "The kind" };
    private static readonly Option<string?> Role = new("--role") { Description = "The role" };
    private static readonly Option<string?> Until = new("--until") { Description = "The last day" };
    private static readonly Option<string?> Organisation = new("--organisation")
    {
        Description = "The organisation",
    };
    private static readonly Option<bool> OrganisationAsWritten = new("--organisation-as-written")
    {
        Description = "Keep the organisation as it is written, though nobody here knows it",
    };
    private static readonly Option<string?> Host = new("--host") { Description = "The host's address" };

    public static Command Make()
    {
        var batches = new Command("batches", "Runs of many invitations, from files and pasted lists")
        {
            List(),
            Show(),
            Mend(),
            Send(),
            Watch(),
        };
        return batches;
    }

    /// <summary>Waits until a batch rests, telling on standard error how far it is.</summary>
    public static async Task<BatchView> WatchAsync(Session session, Guid id, CancellationToken cancellation)
    {
        BatchView? last = null;
        var isTerminal = !Console.IsErrorRedirected;
        await foreach (var batch in session.Client.WatchBatchAsync(id, cancellation))
        {
            last = batch;
            if (batch.State is not ("reading" or "sending"))
                continue;
            var line =
                $"{batch.State} {batch.Done} of {batch.Total}"
                + (batch.PerSecond is { } rate ? $" · {rate:0} a second" : "")
                + (batch.SecondsLeft is { } left ? $" · {Time(left)} left" : "");
            if (isTerminal)
                await Console.Error.WriteAsync($"\r{line, -60}");
            else
                Session.Say(line);
        }
        if (isTerminal)
            await Console.Error.WriteAsync($"\r{"", -60}\r");
        return last ?? await session.Client.BatchAsync(id, cancellation);
    }

    /// <summary>What came of a batch, and the entries that are still open.</summary>
    public static async Task DescribeAsync(Session session, BatchView batch, CancellationToken cancellation)
    {
        var open = await session.Client.BatchEntriesAsync(batch.Id, "open", null, 50, cancellation);
        PrintOpen(open.Items);
        if (open.Items.Count == 0)
            PrintOpen([
                .. (
                    await session.Client.BatchEntriesAsync(batch.Id, null, null, 200, cancellation)
                ).Items.Where(entry => entry.Notes.Count > 0),
            ]);
        Console.WriteLine($"{batch.Name}: {CountsOf(batch.Counts)}");
        if (batch.Fault is { } fault)
            Session.Say(fault);
        var left = batch.Counts["wrong"] + batch.Counts["blocked"];
        var ready = batch.Counts["ready"] + batch.Counts["personal"];
        if (left > 0)
        {
            // The command itself for the first of them, with what was probably meant.
            var first = open.Items.FirstOrDefault(entry => entry.Verdict is "wrong" or "blocked");
            var mend =
                $"aboard batches mend {batch.Id} {first?.Number.ToString() ?? "NUMBER"} --address {first?.Suggestion ?? "RIGHT"}";
            Session.Say(
                $"{Texts.Many(left, "entry waits", "entries wait")} to be mended: {mend}, then aboard batches send {batch.Id}"
            );
        }
        else if (ready > 0)
            Session.Say($"Next: aboard batches send {batch.Id}");
        else
            Session.Say("Next: aboard invitations list --state pending");
    }

    /// <summary>Entries with what is wrong with them.</summary>
    public static void PrintOpen(IReadOnlyList<BatchEntryView> entries)
    {
        if (entries.Count > 0)
            Table.Print(entries);
    }

    /// <summary>Counts in words, without those that are none.</summary>
    public static string CountsOf(IReadOnlyDictionary<string, int> counts) =>
        string.Join(
            " · ",
            counts.Where(c => c.Value > 0).OrderByDescending(c => c.Value).Select(c => $"{c.Value} {c.Key}")
        );

    /// <summary>The exit status: done when everything could be sent, in part when some could.</summary>
    public static int StatusOf(BatchView batch, bool held)
    {
        if (batch.State == "stopped")
            return ExitStatus.Failed;
        var good = batch.Counts["sent"] + (held ? batch.Counts["ready"] + batch.Counts["personal"] : 0);
        var harmless = batch.Counts["repeated"] + batch.Counts["member"] + batch.Counts["invited"];
        if (good + harmless == batch.Entries)
            return ExitStatus.Done;
        return good > 0 ? ExitStatus.DoneInPart : ExitStatus.Refused;
    }

    private static readonly Listing<BatchEntryView> Table = new(
        new("No", e => e.Number.ToString(), IsNumber: true),
        new("Address", e => e.Address.Length > 44 ? e.Address[..43] + "…" : e.Address),
        new("Verdict", e => e.Verdict),
        new("Why", e => e.Problem?.Title ?? string.Join(' ', e.Notes.Select(n => n.Sentence)), 1),
        new("Meant?", e => e.Suggestion ?? "", 2)
    );

    private static readonly Listing<BatchView> Batches = new(
        new("Name", b => b.Name),
        new("State", b => b.State),
        new("Entries", b => b.Entries.ToString(), IsNumber: true),
        new("Sent", b => b.Counts["sent"].ToString(), IsNumber: true),
        new("Open", b => (b.Counts["wrong"] + b.Counts["blocked"]).ToString(), 1, true),
        new("Handed in", b => Texts.Instant(b.CreatedAt), 2),
        new("By", b => b.CreatedBy, 3),
        new("Id", b => b.Id.ToString(), 4)
    );

    private static Command List() =>
        Commands.List(
            "List batches, newest first",
            [],
            (session, _, cancellation) =>
                Commands.AllAsync(cursor => session.Client.BatchesAsync(cursor, 200, cancellation)),
            Batches,
            WireJson.Default.BatchView,
            "There is no batch. Make one: aboard invitations import FILE --kind guest",
            _ => "batches?format=csv"
        );

    private static Command Show()
    {
        var show = new Command("show", "Show a batch and the entries that are open") { Id, Verdict, Results };
        Session.On(
            show,
            async (session, parsed, cancellation) =>
            {
                var id = parsed.GetValue(Id);
                var batch = await session.Client.BatchAsync(id, cancellation);
                if (parsed.GetValue(Results) is { } file)
                    await Files.WriteAsync(
                        file,
                        await session.Client.BatchResultsAsync(id, cancellation),
                        cancellation
                    );
                if (parsed.GetValue(Verdict) is { } verdict)
                {
                    var entries = await EntriesAsync(session.Client, id, verdict, cancellation);
                    if (session.Json)
                        foreach (var entry in entries)
                            Session.Print(entry, WireJson.Default.BatchEntryView);
                    else
                        PrintOpen(entries);
                }
                else if (session.Json)
                    Session.Print(batch, WireJson.Default.BatchView);
                else
                    await DescribeAsync(session, batch, cancellation);
                return ExitStatus.Done;
            }
        );
        return show;
    }

    private static Task<IReadOnlyList<BatchEntryView>> EntriesAsync(
        AboardClient client,
        Guid id,
        string verdict,
        CancellationToken cancellation
    ) => Commands.AllAsync(cursor => client.BatchEntriesAsync(id, verdict, cursor, 200, cancellation));

    private static Command Mend()
    {
        var mend = new Command("mend", "Put one entry right; it is judged anew")
        {
            Id,
            Number,
            Address,
            Name,
            Kind,
            Role,
            Until,
            Host,
            Organisation,
            OrganisationAsWritten,
            CommonOptions.DryRun,
        };
        Session.On(
            mend,
            async (session, parsed, cancellation) =>
            {
                var entry = await session.Client.MendAsync(
                    parsed.GetValue(Id),
                    parsed.GetValue(Number),
                    new MendRequest(
                        parsed.GetValue(Address),
                        parsed.GetValue(Name),
                        parsed.GetValue(Kind),
                        parsed.GetValue(Role),
                        null,
                        Texts.ReadDay(parsed.GetValue(Until), "--until"),
                        parsed.GetValue(Host)
                    )
                    {
                        Organisation = parsed.GetValue(Organisation),
                        OrganisationAsWritten = parsed.GetValue(OrganisationAsWritten),
                    },
                    parsed.GetValue(CommonOptions.DryRun),
                    cancellation
                );
                if (session.Json)
                    Session.Print(entry, WireJson.Default.BatchEntryView);
                else
                    Console.WriteLine($"{entry.Number}  {entry.Address}: {entry.Verdict}");
                if (entry.Problem is not { } problem)
                {
                    Commands.Said(
                        parsed,
                        $"Entry {entry.Number} is {entry.Verdict}.",
                        $"aboard batches send {parsed.GetValue(Id)}"
                    );
                    return ExitStatus.Done;
                }
                Session.Say($"{problem.Title} {problem.Detail}");
                return ExitStatus.Refused;
            }
        );
        return mend;
    }

    private static Command Send()
    {
        var send = new Command("send", "Send what can be sent") { Id, CommonOptions.DryRun };
        Session.On(
            send,
            async (session, parsed, cancellation) =>
            {
                var id = parsed.GetValue(Id);
                var batch = await session.Client.BatchAsync(id, cancellation);
                if (parsed.GetValue(CommonOptions.DryRun))
                {
                    Console.WriteLine(
                        $"{Texts.Many(batch.Counts["ready"] + batch.Counts["personal"], "entry", "entries")} would be sent."
                    );
                    return ExitStatus.Done;
                }
                await session.Client.SendBatchAsync(id, cancellation);
                batch = await WatchAsync(session, id, cancellation);
                if (session.Json)
                    Session.Print(batch, WireJson.Default.BatchView);
                else
                    await DescribeAsync(session, batch, cancellation);
                return StatusOf(batch, false);
            }
        );
        return send;
    }

    private static Command Watch()
    {
        var watch = new Command("watch", "Show how far a batch is, until it rests") { Id };
        Session.On(
            watch,
            async (session, parsed, cancellation) =>
            {
                var batch = await WatchAsync(session, parsed.GetValue(Id), cancellation);
                if (session.Json)
                    Session.Print(batch, WireJson.Default.BatchView);
                else
                    await DescribeAsync(session, batch, cancellation);
                return batch.State == "stopped" ? ExitStatus.Failed : ExitStatus.Done;
            }
        );
        return watch;
    }

    private static string Time(double seconds) => seconds < 90 ? $"{seconds:0} s" : $"{seconds / 60:0} min";
}
