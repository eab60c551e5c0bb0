using System.CommandLine;
using System.Text.Json;
using ComeAboard.Client;
using ComeAboard.Client.Departures;

namespace ComeAboard.Cli.Departures;

/// <summary>Receipts: handed out, and verified without asking anybody.</summary>
public static class ReceiptCommands
{
    private static readonly Option<string?> Out = new("--out")
    {
        Description = "The file to write; standard output when absent",
        HelpName = "FILE",
    };

    private static readonly Argument<string> File = new("RECEIPT")
    {
        Description = "The file with the receipt; - for standard input",
    };

    private static readonly Option<string?> Keys = new("--keys")
    {
        Description = "The file with the keys, as aboard departures keys saves them; asked for when absent",
        HelpName = "FILE",
    };

    private static readonly Listing<ReceiptStep> Steps = new(
        new("No", s => s.Number.ToString(), 0, true),
        new("Step", s => s.Sentence),
        new("State", s => s.State),
        new("When", s => Texts.Instant(s.At), 2),
        new("Answer", s => StepFiles.Said(s.By, s.Answer, s.File), 1)
    );

    public static IEnumerable<Command> Make(Argument<Guid> id)
    {
        yield return Receipt(id);
        yield return SaveKeys();
        yield return Verify();
    }

    private static Command Receipt(Argument<Guid> id)
    {
        var receipt = Commands.Made("receipt", "Get the signed receipt of a departure", [id, Out]);
        Session.On(
            receipt,
            async (session, parsed, cancellation) =>
            {
                var departure = await session.Client.DepartureAsync(parsed.GetValue(id), cancellation);
                if (departure.Receipt is not { } signed)
                    return session.Refuse(
                        new Problem
                        {
                            Code = "receipt.none",
                            Title =
                                departure.State == "done"
                                    ? "There is no receipt any more: it was erased with the person's data."
                                    : "There is no receipt as yet: something is still to be confirmed.",
                            Detail = $"See what: aboard departures show {departure.Id}",
                            Status = 409,
                        }
                    );
                await WriteAsync(parsed.GetValue(Out), signed + "\n", cancellation);
                Session.Say(
                    "Verify it, also without this service: aboard departures verify FILE --keys KEYS.json"
                );
                return ExitStatus.Done;
            }
        );
        return receipt;
    }

    private static Command SaveKeys()
    {
        var keys = Commands.Made(
            "keys",
            "Get the keys with which receipts can be verified (RFC 7517), to be kept with them",
            [Out]
        );
        Session.On(
            keys,
            async (session, parsed, cancellation) =>
            {
                var shown = await session.Client.ReceiptKeysAsync(cancellation);
                await WriteAsync(
                    parsed.GetValue(Out),
                    JsonSerializer.Serialize(shown, WireJson.Default.ReceiptKeys) + "\n",
                    cancellation
                );
                return ExitStatus.Done;
            }
        );
        return keys;
    }

    private static Command Verify()
    {
        var verify = Commands.Made(
            "verify",
            "Verify a receipt; with --keys nothing is asked of anybody",
            [File, Keys]
        );
        Session.On(
            verify,
            async (session, parsed, cancellation) =>
            {
                var receipt = await TextAsync(parsed.GetValue(File)!, cancellation);
                var keys = parsed.GetValue(Keys) is { } file
                    ? await TextAsync(file, cancellation)
                    : JsonSerializer.Serialize(
                        await session.Client.ReceiptKeysAsync(cancellation),
                        WireJson.Default.ReceiptKeys
                    );
                var (says, problem) = ReceiptSeal.Verify(receipt, keys);
                if (problem is not null)
                {
                    session.Refuse(problem);
                    return ExitStatus.Failed;
                }
                if (session.Json)
                    Session.Print(says!, WireJson.Default.Receipt);
                else
                    Print(says!);
                return ExitStatus.Done;
            }
        );
        return verify;
    }

    private static void Print(Receipt says)
    {
        Console.WriteLine(
            $"Genuine: signed by {says.Workspace} ({says.Issuer}), {Texts.Instant(says.SignedAt)}"
        );
        new Beside()
            .Add("who left", $"{says.Person.Name} <{says.Person.Address}>, {says.Kind}")
            .Add("decided by", $"{says.DecidedBy}, {Texts.Instant(says.DecidedAt)}")
            .Add("last day", says.LastDay is { } day ? Texts.Day(day, Texts.Today) : "at once")
            .Add("ended", Texts.Instant(says.EndedAt))
            .Add("record", $"entry {says.Record.Sequence}, {says.Record.Hash}")
            .Print();
        Steps.Print(says.Steps);
    }

    private static async Task<string> TextAsync(string file, CancellationToken cancellation) =>
        System.Text.Encoding.UTF8.GetString(await Files.ReadAsync(file, cancellation));

    private static Task WriteAsync(string? file, string text, CancellationToken cancellation) =>
        Files.WriteAsync(file ?? "-", System.Text.Encoding.UTF8.GetBytes(text), cancellation);
}
