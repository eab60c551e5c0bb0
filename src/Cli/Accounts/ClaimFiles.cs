using System.CommandLine;
using System.Text;
using ComeAboard.Client;
using ComeAboard.Client.Accounts;

namespace ComeAboard.Cli.Accounts;

/// <summary><c>aboard claims import FILE</c>: steps for many claims, one row each, with the columns <c>address,action</c>.</summary>
public static class ClaimFiles
{
    private const int AtOnce = 200;

    private static readonly Argument<FileInfo> File = new("FILE")
    {
        Description = "A CSV file with the columns address and action: ask, ask-again, cancel, take, release",
    };
    private static readonly Option<string?> Results = new("--results")
    {
        Description = "Where to write what every row came to, as CSV",
    };

    public static Command Import()
    {
        var import = Commands.Made(
            "import",
            "Take a step with each claim of a file; all verdicts are said before anything happens",
            [File, Results, CommonOptions.DryRun, CommonOptions.Yes]
        );
        Session.On(import, RunAsync);
        return import;
    }

    private static async Task<int> RunAsync(
        Session session,
        ParseResult parsed,
        CancellationToken cancellation
    )
    {
        var rows = await NamedColumns.ReadAsync(parsed.GetValue(File)!, "address", "action", cancellation);
        var verdicts = await StepAsync(session, rows, true, cancellation);
        var isDry = parsed.GetValue(CommonOptions.DryRun);
        var willBe = verdicts.Count(one => one.Done);
        if (!isDry)
        {
            foreach (var one in verdicts.Where(one => !one.Done))
                Session.Say($"  ✗ {one.Address, -40} {one.Action, -10} {one.Sentence} [{one.Code}]");
            Session.Say($"{willBe} of {rows.Count} rows can be done.");
            if (
                willBe > 0
                && !parsed.GetValue(CommonOptions.Yes)
                && !Console.IsInputRedirected
                && !Asked("Do them?")
            )
                return ExitStatus.Failed;
        }
        var results = isDry ? verdicts : await StepAsync(session, rows, false, cancellation);
        if (parsed.GetValue(Results) is { } path)
            await Files.WriteAsync(path, Encoding.UTF8.GetBytes(Write(results)), cancellation);
        return ClaimCommands.Print(session, results, isDry);
    }

    private static bool Asked(string question)
    {
        Console.Error.Write(question + " (yes/no) ");
        return Console.ReadLine()?.Trim().StartsWith('y') == true;
    }

    /// <summary>Rows of the same action go together, and come back in the order of the file.</summary>
    private static async Task<IReadOnlyList<ClaimResult>> StepAsync(
        Session session,
        IReadOnlyList<(string Address, string Action)> rows,
        bool isDry,
        CancellationToken cancellation
    )
    {
        var results = new ClaimResult[rows.Count];
        var numbered = rows.Select((row, at) => (row.Address, row.Action, At: at));
        foreach (var alike in numbered.GroupBy(row => row.Action))
        foreach (var part in alike.Chunk(AtOnce))
        {
            foreach (
                var (row, result) in part.Zip(
                    await StepAsync(
                        session,
                        new ClaimStepRequest(alike.Key, [.. part.Select(row => row.Address)]),
                        isDry,
                        cancellation
                    )
                )
            )
                results[row.At] = result;
        }
        return results;
    }

    /// <summary>What is wrong with the action alone is said of each row that has it, and keeps no other row from being done.</summary>
    private static async Task<IReadOnlyList<ClaimResult>> StepAsync(
        Session session,
        ClaimStepRequest step,
        bool isDry,
        CancellationToken cancellation
    )
    {
        try
        {
            return (await session.Client.ClaimStepAsync(step, isDry, cancellation)).Results;
        }
        catch (RefusedException refused) when (refused.Problem.Code == "claim.action-unknown")
        {
            return
            [
                .. step.Addresses.Select(address => new ClaimResult(
                    address,
                    step.Action,
                    false,
                    refused.Problem.Code,
                    $"{refused.Problem.Title} {refused.Problem.Detail}",
                    null
                )),
            ];
        }
    }

    private static string Write(IReadOnlyList<ClaimResult> results)
    {
        var csv = new StringBuilder("address,action,done,state,code,sentence\r\n");
        foreach (var one in results)
            csv.Append(
                $"{Cell(one.Address)},{Cell(one.Action)},{(one.Done ? "yes" : "no")},{one.Claim?.State},{one.Code},{Cell(one.Sentence)}\r\n"
            );
        return csv.ToString();
    }

    // A cell that a spreadsheet would take for a formula is marked as text.
    private static string Cell(string text) =>
        $"\"{(text is ['=' or '+' or '-' or '@', ..] ? "'" : "")}{text.Replace("\"", "\"\"", StringComparison.Ordinal)}\"";
}
