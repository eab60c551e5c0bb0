using System.CommandLine;
using System.Text.Json.Serialization;
using ComeAboard.Client;
using ComeAboard.Core;
using ComeAboard.Core.Invitations;
using ComeAboard.Core.Matching;
using CsvHelper;
using Spectre.Console;

namespace ComeAboard.Cli.Accounts;

/// <summary>Two rows that may be one human, as JSON.</summary>
/// <param name="Left">What the one row calls itself, else its line.</param>
/// <param name="Right">What the other row calls itself, else its line.</param>
/// <param name="Verdict">same, likely or unlikely.</param>
/// <param name="Score">The probability that they are one, 0 to 1.</param>
/// <param name="Reasons">Why, the strongest first.</param>
public sealed record MatchedPair(
    string Left,
    string Right,
    string Verdict,
    double Score,
    IReadOnlyList<string> Reasons
);

[JsonSourceGenerationOptions(PropertyNamingPolicy = JsonKnownNamingPolicy.CamelCase)]
[JsonSerializable(typeof(MatchedPair))]
internal sealed partial class MatchJson : JsonSerializerContext;

/// <summary><c>aboard accounts match LEFT.csv [RIGHT.csv]</c>: who is the same human, on the spot and without a server.</summary>
public static class MatchCommand
{
    private static readonly Argument<FileInfo> Left = new("LEFT.csv") { Description = "A list of people" };
    private static readonly Argument<FileInfo?> Right = new("RIGHT.csv")
    {
        Description = "Another one; without it, who is twice in the first",
        Arity = ArgumentArity.ZeroOrOne,
    };
    private static readonly Option<string> Least = new("--least")
    {
        Description = "Show what is at least so certain: likely or same",
        DefaultValueFactory = _ => "likely",
    };

    private static readonly Listing<Shown> Table = new(
        new("Left", shown => shown.Left),
        new("Right", shown => shown.Right),
        new("Verdict", shown => shown.Pair.Verdict),
        new("Score", shown => Texts.Probability(shown.Pair.Score), 2, true),
        new("Why", shown => string.Join("; ", shown.Pair.Reasons.Take(2)), 3)
    );

    private sealed record Shown(string Left, string Right, MatchedPair Pair);

    private sealed record Rows(IReadOnlyList<string> Names, IReadOnlyList<MatchRecord> Records);

    public static Command Make()
    {
        Least.AcceptOnlyFromAmong("likely", "same");
        var match = Commands.Made(
            "match",
            "Find who is the same human in two files, or twice in one; nothing is sent anywhere",
            [Left, Right, Least]
        );
        Session.On(match, (_, parsed, cancellation) => RunAsync(parsed, cancellation));
        return match;
    }

    private static async Task<int> RunAsync(ParseResult parsed, CancellationToken cancellation)
    {
        var left = await ReadAsync(parsed.GetValue(Left)!, cancellation);
        var right = parsed.GetValue(Right) is { } other ? await ReadAsync(other, cancellation) : null;
        var least = parsed.GetValue(Least) == "same" ? MatchThresholds.Same : MatchThresholds.Likely;
        var found = Find(left, right, least);
        var isJson = parsed.GetValue(CommonOptions.Json);
        var shown = new List<Shown>();
        foreach (var pair in found.Pairs)
        {
            var one = new MatchedPair(
                left.Names[pair.Left],
                (right ?? left).Names[pair.Right],
                pair.Verdict.ToString().ToLowerInvariant(),
                Math.Round(pair.Score, 3),
                [.. found.Explain(pair.Left, pair.Right).Select(reason => reason.Sentence)]
            );
            if (isJson)
                Session.Print(one, MatchJson.Default.MatchedPair);
            else
                shown.Add(
                    new Shown(
                        Said(one.Left, left.Records[pair.Left]),
                        Said(one.Right, (right ?? left).Records[pair.Right]),
                        one
                    )
                );
        }
        if (!isJson && shown.Count > 0)
            Table.Print(shown);
        var same = found.Pairs.Count(pair => pair.Verdict == MatchVerdict.Same);
        Session.Say(
            found.Pairs.Count == 0
                ? "Nobody was found who is there twice."
                : $"{found.Pairs.Count} pairs, {same} of them the same. Nothing was changed."
        );
        return ExitStatus.Done;
    }

    private static Matcher Find(Rows left, Rows? right, double least)
    {
        if (Console.IsErrorRedirected)
            return Work(null);
        Matcher? found = null;
        AnsiConsole
            .Create(new AnsiConsoleSettings { Out = new AnsiConsoleOutput(Console.Error) })
            .Progress()
            .AutoClear(true)
            .Start(shown =>
            {
                var task = shown.AddTask("Matching", maxValue: 1);
                found = Work(new Told(task));
            });
        return found!;

        Matcher Work(IProgress<double>? progress) =>
            right is null
                ? Matcher.Within(left.Records, least, Environment.ProcessorCount, progress)
                : Matcher.Between(left.Records, right.Records, least, Environment.ProcessorCount, progress);
    }

    /// <summary>Tells at once, on the thread that works.</summary>
    private sealed class Told(ProgressTask task) : IProgress<double>
    {
        public void Report(double value) => task.Value = Math.Max(task.Value, value);
    }

    private static async Task<Rows> ReadAsync(FileInfo file, CancellationToken cancellation)
    {
        var csv = await Files.ReadAsync(file.ToString(), cancellation);
        try
        {
            using var reader = CsvReader.Create(
                csv,
                new CsvReaderOptions
                {
                    Separator = SheetHeadings.SeparatorOf(csv),
                    HasHeader = true,
                    SkipEmptyLines = true,
                }
            );
            reader.ReadHeader();
            if (!MatchSheet.Read([.. reader.Headers ?? []]).Try(out var sheet, out var refusal))
                throw Wrong(refusal.Code, $"{file.Name}: {refusal.Sentence}", refusal.Remedy);
            var (names, records) = (new List<string>(), new List<MatchRecord>());
            while (reader.Read())
            {
                var cells = new string[reader.FieldCount];
                for (var i = 0; i < cells.Length; i++)
                    cells[i] = reader.GetString(i);
                var (id, record) = sheet.Row(cells);
                names.Add(id.Length > 0 ? id : $"{records.Count + 2}");
                records.Add(record);
            }
            return new Rows(names, records);
        }
        catch (CsvFormatException fault)
        {
            throw Wrong(
                "sheet.not-readable",
                $"{file.Name} cannot be read as CSV: {fault.Message}",
                "Save it as CSV once more."
            );
        }
    }

    private static RefusedException Wrong(string code, string sentence, string remedy) =>
        new(
            new Problem
            {
                Title = sentence,
                Detail = remedy,
                Status = 422,
                Code = code,
            }
        );

    /// <summary>What the row calls itself, and whom it is about.</summary>
    private static string Said(string id, MatchRecord record)
    {
        var name = record.Name ?? $"{record.GivenName} {record.FamilyName}".Trim();
        return $"{id} {(name.Length > 0 ? name : record.Address)}";
    }
}
