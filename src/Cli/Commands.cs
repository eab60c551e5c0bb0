using System.CommandLine;
using System.Text.Json.Serialization.Metadata;
using ComeAboard.Client.Access;
using ComeAboard.Client.Workspaces;

namespace ComeAboard.Cli;

/// <summary>Commands that are all of the same kind: a list, one thing shown, something changed.</summary>
public static class Commands
{
    /// <summary>A list saved as CSV, just as the service filters it.</summary>
    public static Option<bool> Csv { get; } =
        new("--csv") { Description = "Print the whole list as CSV (RFC 4180)" };

    /// <summary>A command that lists things.</summary>
    /// <param name="description">What it lists.</param>
    /// <param name="options">What narrows it.</param>
    /// <param name="fetch">Gets them.</param>
    /// <param name="table">Shows them.</param>
    /// <param name="json">Writes one as JSON.</param>
    /// <param name="empty">What is said when there are none.</param>
    /// <param name="csv">The path of the same list as CSV.</param>
    public static Command List<T>(
        string description,
        IEnumerable<Option> options,
        Func<Session, ParseResult, CancellationToken, Task<IReadOnlyList<T>>> fetch,
        Listing<T> table,
        JsonTypeInfo<T> json,
        string empty,
        Func<ParseResult, string>? csv = null
    )
    {
        var list = new Command("list", description);
        foreach (var option in options)
            list.Options.Add(option);
        if (csv is not null)
            list.Options.Add(Csv);
        Session.On(
            list,
            async (session, parsed, cancellation) =>
            {
                if (csv is not null && parsed.GetValue(Csv))
                    return await PrintCsvAsync(session, csv(parsed), cancellation);
                var found = await fetch(session, parsed, cancellation);
                if (session.Json)
                    foreach (var one in found)
                        Session.Print(one, json);
                else if (found.Count == 0)
                    Console.WriteLine(empty);
                else
                    table.Print(found);
                return ExitStatus.Done;
            }
        );
        return list;
    }

    /// <summary>Prints a list as CSV, whole, as the service narrows it.</summary>
    /// <param name="session">The session.</param>
    /// <param name="list">The path of the list within the workspace, with what narrows it.</param>
    /// <param name="cancellation">Stops waiting.</param>
    public static async Task<int> PrintCsvAsync(Session session, string list, CancellationToken cancellation)
    {
        await Files.WriteAsync("-", await session.Client.CsvAsync(list, cancellation), cancellation);
        return ExitStatus.Done;
    }

    /// <summary>A command that gets something, and prints it as JSON or in words.</summary>
    public static Command Do<T>(
        string verb,
        string description,
        IEnumerable<Symbol> words,
        Func<Session, ParseResult, CancellationToken, Task<T>> work,
        JsonTypeInfo<T> json,
        Action<T, ParseResult> print
    )
    {
        var command = Made(verb, description, words);
        Session.On(
            command,
            async (session, parsed, cancellation) =>
            {
                var answer = await work(session, parsed, cancellation);
                if (session.Json)
                    Session.Print(answer, json);
                else
                    print(answer, parsed);
                return ExitStatus.Done;
            }
        );
        return command;
    }

    /// <summary>Puts several commands under one, where they are listed.</summary>
    public static void Add(this Command command, IEnumerable<Command> several)
    {
        foreach (var one in several)
            command.Subcommands.Add(one);
    }

    /// <summary>All of a list that comes in pages.</summary>
    public static async Task<IReadOnlyList<T>> AllAsync<T>(Func<string?, Task<Page<T>>> page)
    {
        var (all, cursor) = (new List<T>(), (string?)null);
        do
        {
            var read = await page(cursor);
            all.AddRange(read.Items);
            cursor = read.Next;
        } while (cursor is not null);
        return all;
    }

    /// <summary>A command with its arguments and options.</summary>
    public static Command Made(string verb, string description, IEnumerable<Symbol> words)
    {
        var command = new Command(verb, description);
        foreach (var word in words)
        {
            if (word is Argument argument)
                command.Arguments.Add(argument);
            else
                command.Options.Add((Option)word);
        }
        return command;
    }

    /// <summary>Says what an edit changes, for whom.</summary>
    public static void Print(DifferenceView difference)
    {
        if (difference.Total == 0)
        {
            Console.WriteLine("Nothing changes today in what anybody may do.");
            return;
        }
        var sides = new[] { Side(difference.Gaining, "gain"), Side(difference.Losing, "lose") };
        Console.WriteLine($"{string.Join(", ", sides.OfType<string>())}:");
        const int shown = 20;
        foreach (var change in difference.Changes.Take(shown))
            Console.WriteLine(
                $"  {change.Person, -24} {change.Place ?? "duties", -24} {change.Before} → {change.After}"
            );
        if (difference.Total > shown)
            Console.WriteLine($"  … and {difference.Total - shown} more changes");
    }

    private static string? Side(int people, string verb) =>
        people switch
        {
            0 => null,
            1 => $"1 person {verb}s something",
            _ => $"{people} people {verb} something",
        };

    /// <summary>The last line of a changing command.</summary>
    public static void Said(ParseResult parsed, string what, string next) =>
        Session.Say(
            parsed.GetValue(CommonOptions.DryRun)
                ? $"Nothing was changed. It would be: {what}"
                : $"{what} Next: {next}"
        );

    /// <summary>Reads words written as AREA=LEVEL.</summary>
    public static IReadOnlyList<AreaLevel> Levels(IEnumerable<string>? written) =>
        [
            .. (written ?? []).Select(text =>
                text.LastIndexOf('=') is > 0 and var at
                    ? new AreaLevel(text[..at].Trim(), text[(at + 1)..].Trim())
                    : throw new UsageException(
                        $"\"{text}\" is not an area and a level, such as Collection=view."
                    )
            ),
        ];

    /// <summary>Splits words separated by commas.</summary>
    public static IReadOnlyList<string> Words(string? written) =>
        (written ?? "").Split(',', StringSplitOptions.RemoveEmptyEntries | StringSplitOptions.TrimEntries);
}
