using System.CommandLine;
using ComeAboard.Client;
using ComeAboard.Client.Invitations;

namespace ComeAboard.Cli.Invitations;

/// <summary><c>aboard invitations import</c> and <c>template</c></summary>
public static class ImportCommand
{
    private static readonly Argument<string> FileName = new("FILE")
    {
        Description =
            "A CSV or XLSX file with headings, a text file of addresses (.txt), or - for addresses on standard input",
    };
    private static readonly Option<string?> Preset = new("--preset")
    {
        Description = "A preset that says what the file does not",
    };
    private static readonly Option<string?> Kind = new("--kind")
    {
        Description = "The kind of entries that say none",
    };
    private static readonly Option<string?> Until = new("--until")
    {
        Description = "The last day of entries that say none",
    };
    private static readonly Option<bool> NoEnd = new("--no-end")
    {
        Description =
            "Entries that say no last day stay without end; else as long as is usual for their kind",
    };
    private static readonly Option<bool> OrganisationsAsWritten = new("--organisations-as-written")
    {
        Description = "Keep organisations that nobody here knows as they are written",
    };
    private static readonly Option<string?> Message = new("--message")
    {
        Description = "The message of entries that say none",
    };
    private static readonly Option<string?> Results = new("--results")
    {
        Description = "Write what came of every entry to this file as CSV",
    };
    private static readonly Option<bool> Hold = new("--hold")
    {
        Description = "Keep and judge the list, send nothing yet; aboard batches send sends it",
    };
    private static readonly Option<string> Format = new("--format")
    {
        Description = "csv or xlsx",
        DefaultValueFactory = _ => "csv",
    };
    private static readonly Option<string?> Language = new("--language")
    {
        Description = "The language of the headings: en or de",
    };

    public static Command Make()
    {
        var import = new Command(
            "import",
            "Invite everybody in a file: the good entries at once, the others kept to be mended"
        )
        {
            FileName,
            Preset,
            Kind,
            Giving.Role,
            Giving.Resource,
            Giving.Group,
            Giving.Seat,
            Until,
            NoEnd,
            OrganisationsAsWritten,
            Message,
            Hold,
            Results,
            CommonOptions.DryRun,
        };
        Session.On(import, ImportAsync);
        return import;
    }

    public static Command Template()
    {
        var template = new Command("template", "Print an empty list with all headings, to be filled in")
        {
            Format,
            Language,
        };
        Session.On(
            template,
            async (session, parsed, cancellation) =>
            {
                var format = parsed.GetValue(Format)!;
                if (format is not ("csv" or "xlsx"))
                    throw new UsageException("--format: use csv or xlsx.");
                if (format == "xlsx" && !Console.IsOutputRedirected)
                    throw new UsageException(
                        "An XLSX file cannot be shown on a terminal: add > invitations.xlsx"
                    );
                var content = await session.Client.BatchTemplateAsync(
                    format,
                    parsed.GetValue(Language),
                    cancellation
                );
                await Files.WriteAsync("-", content, cancellation);
                return ExitStatus.Done;
            }
        );
        return template;
    }

    private static async Task<int> ImportAsync(
        Session session,
        ParseResult parsed,
        CancellationToken cancellation
    )
    {
        var name = parsed.GetValue(FileName)!;
        var content = await Files.ReadAsync(name, cancellation);
        var defaults = new BatchDefaults(
            parsed.GetValue(Kind),
            Until: Texts.ReadDay(parsed.GetValue(Until), "--until"),
            Message: parsed.GetValue(Message),
            Preset: parsed.GetValue(Preset)
        )
        {
            Gives = Giving.Read(parsed),
            NoEnd = parsed.GetValue(NoEnd),
            OrganisationAsWritten = parsed.GetValue(OrganisationsAsWritten),
        };
        var isPasted = name == "-" || name.EndsWith(".txt", StringComparison.OrdinalIgnoreCase);
        if (parsed.GetValue(CommonOptions.DryRun))
            return await CheckAsync(session, parsed, name, content, isPasted, defaults, cancellation);

        BatchView batch;
        if (isPasted)
        {
            var text = System.Text.Encoding.UTF8.GetString(content);
            batch = await session.Client.AddPastedAsync(
                new PastedRequest(text, name == "-" ? null : Path.GetFileName(name), defaults),
                cancellation
            );
        }
        else
        {
            batch = await session.Client.AddBatchAsync(
                new MemoryStream(content),
                Path.GetFileName(name),
                defaults,
                !parsed.GetValue(Hold),
                cancellation
            );
        }
        if (batch.HandedInBefore)
            Session.Say(
                $"This very file was handed in before, {Texts.Instant(batch.CreatedAt)} by {batch.CreatedBy}: here is that list. Nobody is invited twice."
            );
        SayHowRead(batch.UnknownColumns, batch.Encoding);
        batch = await BatchCommands.WatchAsync(session, batch.Id, cancellation);
        if (isPasted && !parsed.GetValue(Hold) && batch.Counts["ready"] + batch.Counts["personal"] > 0)
        {
            await session.Client.SendBatchAsync(batch.Id, cancellation);
            batch = await BatchCommands.WatchAsync(session, batch.Id, cancellation);
        }
        if (parsed.GetValue(Results) is { } results)
            await Files.WriteAsync(
                results,
                await session.Client.BatchResultsAsync(batch.Id, cancellation),
                cancellation
            );
        if (session.Json)
            Session.Print(batch, WireJson.Default.BatchView);
        else
            await BatchCommands.DescribeAsync(session, batch, cancellation);
        return BatchCommands.StatusOf(batch, parsed.GetValue(Hold));
    }

    private static void SayHowRead(IReadOnlyList<string> unknownColumns, string? encoding)
    {
        // What everybody writes today needs no word.
        if (encoding is not (null or "UTF-8"))
            Session.Say($"Read as {encoding}.");
        foreach (var column in unknownColumns)
            Session.Say($"The column \"{column}\" is not known and not used.");
    }

    private static async Task<int> CheckAsync(
        Session session,
        ParseResult parsed,
        string name,
        byte[] content,
        bool isPasted,
        BatchDefaults defaults,
        CancellationToken cancellation
    )
    {
        var text = isPasted ? System.Text.Encoding.UTF8.GetString(content) : "";
        var check = isPasted
            ? await session.Client.CheckPastedAsync(new PastedRequest(text, name, defaults), cancellation)
            : await session.Client.CheckBatchAsync(
                new MemoryStream(content),
                Path.GetFileName(name),
                defaults,
                cancellation
            );
        if (parsed.GetValue(Results) is { } results)
        {
            if (isPasted)
                throw new UsageException(
                    "--results with --dry-run takes a CSV or XLSX file; use --json for a pasted list."
                );
            await Files.WriteAsync(
                results,
                await session.Client.CheckBatchCsvAsync(
                    new MemoryStream(content),
                    Path.GetFileName(name),
                    defaults,
                    cancellation
                ),
                cancellation
            );
        }
        if (session.Json)
        {
            Session.Print(check, WireJson.Default.BatchCheck);
        }
        else
        {
            SayHowRead(check.UnknownColumns, check.Encoding);
            BatchCommands.PrintOpen([
                .. check.Items.Where(e => e.Problem is not null || e.Notes.Count > 0).Take(50),
            ]);
            Console.WriteLine(BatchCommands.CountsOf(check.Counts));
            Session.Say("Nothing was kept or sent.");
        }
        var good = check.Counts["ready"] + check.Counts["personal"];
        return good == check.Entries ? ExitStatus.Done
            : good == 0 ? ExitStatus.Refused
            : ExitStatus.DoneInPart;
    }
}
