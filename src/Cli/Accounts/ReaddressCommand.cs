using System.CommandLine;
using ComeAboard.Client;
using ComeAboard.Client.Accounts;

namespace ComeAboard.Cli.Accounts;

/// <summary><c>aboard accounts readdress</c>: new addresses for many, by a pattern or a file.</summary>
public static class ReaddressCommand
{
    private static readonly Option<string?> Pattern = new("--pattern")
    {
        Description = "How addresses are made of names, such as {given}.{family}@new.example",
    };
    private static readonly Option<string?> From = new("--from")
    {
        Description = "Only addresses at this proved domain",
    };
    private static readonly Option<FileInfo?> File = new("--file")
    {
        Description = "A CSV file with the columns address and new_address",
    };
    private static readonly Option<string?> Reason = new("--reason")
    {
        Description = "What the holders are told why",
    };

    private static readonly Listing<ReaddressView> Table = new(
        new("Address", one => one.Address),
        new("Would be", one => one.To),
        new("Verdict", one => one.Verdict),
        new("Name", one => one.Name, 2),
        new("Why not", one => one.Sentence, 1)
    );

    public static Command Make()
    {
        var readdress = Commands.Made(
            "readdress",
            "New addresses for many: held accounts are corrected, others get a proposal; who would collide keeps theirs",
            [Pattern, From, File, Reason, CommonOptions.DryRun]
        );
        Session.On(readdress, RunAsync);
        return readdress;
    }

    private static async Task<int> RunAsync(
        Session session,
        ParseResult parsed,
        CancellationToken cancellation
    )
    {
        var (pattern, file) = (parsed.GetValue(Pattern), parsed.GetValue(File));
        if (pattern is null == file is null)
            throw new UsageException("Give either --pattern or --file.");
        var entries = file is null
            ? null
            : (await NamedColumns.ReadAsync(file, "address", "new_address", cancellation))
                .Select(row => new ReaddressEntry(row.One, row.Other))
                .ToList();
        var request = new ReaddressRequest(pattern, parsed.GetValue(From), entries, parsed.GetValue(Reason));
        var isDry = parsed.GetValue(CommonOptions.DryRun);
        var answer = await session.Client.ReaddressAsync(request, dryRun: true, cancellation);
        if (!isDry)
        {
            var willBe = answer.Items.Count(IsDone);
            if (!session.Json)
                Table.Print(answer.Items);
            if (willBe > 0 && !session.Confirm($"Write to {willBe} people about their new address?"))
            {
                Session.Say("Nothing was changed.");
                return ExitStatus.Failed;
            }
            answer = await session.Client.ReaddressAsync(request, dryRun: false, cancellation);
        }
        if (session.Json)
            foreach (var one in answer.Items)
                Session.Print(one, WireJson.Default.ReaddressView);
        else if (isDry)
            Table.Print(answer.Items);
        var counts = string.Join(", ", answer.Counts.Select(count => $"{count.Value} {count.Key}"));
        Session.Say(
            isDry
                ? $"Nothing was changed. It would be: {counts}."
                : $"{counts}. A new address counts once its holder has shown that it is theirs."
        );
        var left = answer.Items.Any(one => !IsDone(one) && one.Verdict != "same");
        return !left ? ExitStatus.Done
            : answer.Items.Any(IsDone) ? ExitStatus.DoneInPart
            : ExitStatus.Refused;
    }

    private static bool IsDone(ReaddressView one) => one.Verdict is "correct" or "propose";
}
