using System.CommandLine;
using ComeAboard.Client;
using ComeAboard.Client.Record;

namespace ComeAboard.Cli.Record;

/// <summary><c>aboard record list | verify</c></summary>
public static class RecordCommands
{
    private static readonly Listing<RecordEntryView> Table = new(
        new("No", e => e.Sequence.ToString(), 0, true),
        new("When", e => Texts.Instant(e.At)),
        new("What", e => e.Action),
        new("Who", e => e.ActorName ?? e.Actor, 2),
        new("About", About, 1),
        new("Change", e => Texts.Change(e), 3),
        new("Through", e => e.Via, 4)
    );

    private static readonly Option<int> Limit = new("--limit")
    {
        Description = "List at most so many",
        DefaultValueFactory = _ => 50,
    };

    public static Command Make()
    {
        var record = new Command("record", "Everything that happened, and the proof that it is whole");
        record.Subcommands.Add(List());
        record.Subcommands.Add(Verify());
        return record;
    }

    private static Command List()
    {
        var list = new Command("list", "List the record, newest first") { Limit, Commands.Csv };
        Session.On(
            list,
            async (session, parsed, cancellation) =>
            {
                if (parsed.GetValue(Commands.Csv))
                    return await Commands.PrintCsvAsync(session, "record?format=csv", cancellation);
                var limit = parsed.GetValue(Limit);
                var found = new List<RecordEntryView>();
                string? cursor = null;
                do
                {
                    var page = await session.Client.RecordAsync(
                        cursor,
                        Math.Clamp(limit - found.Count, 1, 200),
                        cancellation
                    );
                    found.AddRange(page.Items);
                    cursor = page.Next;
                } while (cursor is not null && found.Count < limit);
                if (session.Json)
                {
                    foreach (var entry in found)
                        Session.Print(entry, WireJson.Default.RecordEntryView);
                    return ExitStatus.Done;
                }
                Table.Print(found);
                Session.Say($"Times are those of {Texts.Zone.Id}.");
                if (cursor is not null)
                    Session.Say($"There are more; list them with --limit {limit * 10}.");
                return ExitStatus.Done;
            }
        );
        return list;
    }

    private static Command Verify()
    {
        var verify = new Command("verify", "Check that no entry was changed, left out or moved");
        Session.On(
            verify,
            async (session, _, cancellation) =>
            {
                var found = await session.Client.VerifyRecordAsync(cancellation);
                if (session.Json)
                    Session.Print(found, WireJson.Default.RecordVerification);
                else if (found.Whole)
                    Console.WriteLine(
                        $"The record is whole: {Texts.Many(found.Entries, "entry", "entries")}, head {found.Head}"
                    );
                else
                    Console.WriteLine(
                        $"The record is NOT whole: {found.FaultSentence} [{found.FaultCode}] {found.Entries} entries before it are good."
                    );
                return found.Whole ? ExitStatus.Done : ExitStatus.Failed;
            }
        );
        return verify;
    }

    private static string About(RecordEntryView entry)
    {
        if (entry.Details is not { } details)
            return entry.Subject;
        foreach (var name in (ReadOnlySpan<string>)["address", "name", "label"])
        {
            if (details.TryGetProperty(name, out var value))
                return value.ToString();
        }
        return entry.Subject;
    }
}
