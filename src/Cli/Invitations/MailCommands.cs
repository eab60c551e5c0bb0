using System.CommandLine;
using ComeAboard.Client;
using ComeAboard.Client.Invitations;

namespace ComeAboard.Cli.Invitations;

/// <summary><c>aboard invitations report</c> and <c>bounced</c>: what becomes of the mail.</summary>
public static class MailCommands
{
    private static readonly Argument<string[]> FileNames = new("FILE")
    {
        Description = "Delivery reports as mail files (.eml), or - for standard input",
        Arity = ArgumentArity.OneOrMore,
    };
    private static readonly Option<string?> Forget = new("--forget")
    {
        Description = "Take this address off the list",
    };

    private static readonly Listing<BouncedAddressView> Table = new(
        new("Address", b => b.Address),
        new("Why", b => b.Sentence, 1),
        new("When", b => Texts.Instant(b.At), 2)
    );

    public static Command Report()
    {
        var report = new Command("report", "Hand in delivery reports (RFC 3464) that came by mail")
        {
            FileNames,
            CommonOptions.DryRun,
        };
        Session.On(
            report,
            async (session, parsed, cancellation) =>
            {
                var (matched, isDry) = (0, parsed.GetValue(CommonOptions.DryRun));
                foreach (var name in parsed.GetValue(FileNames)!)
                {
                    var mail = new MemoryStream(await Files.ReadAsync(name, cancellation));
                    var answer = await session.Client.TakeReportAsync(mail, isDry, cancellation);
                    matched += answer.Matched;
                    if (session.Json)
                        Session.Print(answer, WireJson.Default.ReportAnswer);
                    else if (answer.Matched == 0)
                        Console.WriteLine($"{name}: about no mail of this workspace");
                    else
                        foreach (var result in answer.Results)
                            Console.WriteLine($"{result.Address}: {result.Sentence}");
                }
                if (matched > 0)
                    Session.Say(
                        isDry ? "Nothing was changed." : "Next: aboard invitations list --state bounced"
                    );
                return matched > 0 ? ExitStatus.Done : ExitStatus.NotFound;
            }
        );
        return report;
    }

    public static Command Bounced()
    {
        var bounced = new Command("bounced", "List addresses at which mail came back for good")
        {
            Forget,
            CommonOptions.DryRun,
            Commands.Csv,
        };
        Session.On(
            bounced,
            async (session, parsed, cancellation) =>
            {
                if (parsed.GetValue(Commands.Csv))
                    return await Commands.PrintCsvAsync(
                        session,
                        "bounced-addresses?format=csv",
                        cancellation
                    );
                if (parsed.GetValue(Forget) is { } address)
                    return await ForgetAsync(session, parsed, address, cancellation);
                var found = (await session.Client.BouncedAddressesAsync(cancellation)).Items;
                if (session.Json)
                    foreach (var one in found)
                        Session.Print(one, WireJson.Default.BouncedAddressView);
                else if (found.Count == 0)
                    Console.WriteLine("No mail came back for good.");
                else
                    Table.Print(found);
                return ExitStatus.Done;
            }
        );
        return bounced;
    }

    private static async Task<int> ForgetAsync(
        Session session,
        ParseResult parsed,
        string address,
        CancellationToken cancellation
    )
    {
        await session.Client.ForgetBounceAsync(address, parsed.GetValue(CommonOptions.DryRun), cancellation);
        Commands.Said(parsed, $"{address} taken off the list.", $"aboard invitations resend {address}");
        return ExitStatus.Done;
    }
}
