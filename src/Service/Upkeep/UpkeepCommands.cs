using System.CommandLine;
using System.Globalization;
using ComeAboard.Core;
using ComeAboard.Storage;

namespace ComeAboard.Service.Upkeep;

/// <summary><c>come-aboard backup</c>, <c>restore</c> and <c>check</c>.</summary>
public static class UpkeepCommands
{
    /// <summary>The three of them.</summary>
    /// <param name="config">The option that names the settings file.</param>
    public static IEnumerable<Command> All(Option<string?> config) =>
        [BackUp(config), Restore(config), Check(config)];

    private static Command BackUp(Option<string?> config)
    {
        var file = new Argument<string>("FILE") { Description = "The file to make; it does not exist yet" };
        var backup = new Command(
            "backup",
            "Copy the whole database, of either engine, into one file while the service runs, and check it"
        )
        {
            config,
            file,
        };
        backup.SetAction(
            (parsed, stop) =>
                Commands.GuardAsync(async () =>
                {
                    var copies = CopiesOf(ServiceSettings.Load(parsed.GetValue(config)));
                    var path = parsed.GetRequiredValue(file);
                    if (
                        !(await copies.BackUpAsync(path, Progress(), stop)).Try(
                            out var result,
                            out var refusal
                        )
                    )
                        return Commands.Refuse(refusal);
                    Say(result);
                    return result.Findings.Count == 0
                        ? Done(
                            $"Backed up to {path}, {Size(path)}, and read through: all of it adds up.\n"
                                + "It holds everything about everybody: keep it as safe as the database. With Keys:File or Keys:Certificate, keep those, too, elsewhere.\n"
                                + $"Next: come-aboard check {path} where it is kept; come-aboard restore {path} makes a database out of it."
                        )
                        : Failed(
                            $"Backed up to {path} as it is, but the database does not add up; see above."
                        );
                })
        );
        return backup;
    }

    private static Command Restore(Option<string?> config)
    {
        var file = new Argument<string>("FILE")
        {
            Description = "The back-up, of this version or an earlier",
        };
        var allowsFindings = new Option<bool>("--despite-findings")
        {
            Description = "Restore it even if something in it does not add up",
        };
        var restore = new Command(
            "restore",
            "Make the database, of either engine, out of a back-up where there is none yet"
        )
        {
            config,
            file,
            allowsFindings,
        };
        restore.SetAction(
            (parsed, stop) =>
                Commands.GuardAsync(async () =>
                {
                    var allows = parsed.GetValue(allowsFindings);
                    var copies = CopiesOf(ServiceSettings.Load(parsed.GetValue(config)));
                    if (
                        !(
                            await copies.RestoreAsync(parsed.GetRequiredValue(file), allows, Progress(), stop)
                        ).Try(out var result, out var refusal)
                    )
                        return Commands.Refuse(refusal);
                    Say(result);
                    if (result.Findings.Count > 0 && !allows)
                        return Failed(
                            "Nothing was restored: the back-up does not add up. --despite-findings restores it all the same."
                        );
                    var mails = result.WaitingMails switch
                    {
                        0 => "No mail waits.",
                        1 =>
                            "1 mail waits and will be sent, even if it was sent after the back-up was taken.",
                        var many =>
                            $"{many} mails wait and will be sent, even those that were sent after the back-up was taken.",
                    };
                    return Done(
                        "Restored. Whatever happened after the back-up is undone: look for people whose access has ended since. "
                            + $"Everybody signs in anew. {mails}\nNext: come-aboard serve"
                    );
                })
        );
        return restore;
    }

    private static Command Check(Option<string?> config)
    {
        var file = new Argument<string?>("FILE")
        {
            Description = "A back-up to check; the database itself when absent",
            Arity = ArgumentArity.ZeroOrOne,
        };
        var check = new Command(
            "check",
            "Read a database or a back-up through: chain of the record, counts, seats, references"
        )
        {
            config,
            file,
        };
        check.SetAction(
            (parsed, stop) =>
                Commands.GuardAsync(async () =>
                {
                    var outcome = parsed.GetValue(file) is { } path
                        ? await Copies.CheckAsync(path, stop)
                        : await CopiesOf(ServiceSettings.Load(parsed.GetValue(config))).CheckAsync(stop);
                    if (!outcome.Try(out var result, out var refusal))
                        return Commands.Refuse(refusal);
                    Say(result);
                    return result.Findings.Count == 0
                        ? Done("All of it adds up.")
                        : Failed("It does not add up; see above.");
                })
        );
        return check;
    }

    private static Copies CopiesOf(ServiceSettings settings) =>
        new(
            settings.OpenDatabase(),
            settings.Engine == Engine.Sqlite ? settings.DatabasePath : null,
            TimeProvider.System
        );

    private static void Say(CheckResult result)
    {
        foreach (var finding in result.Findings)
            Console.WriteLine($"{finding.Workspace ?? "the database"}: {finding.Sentence} [{finding.Code}]");
        var latest = result.Latest is { } at
            ? $", the last of {at.UtcDateTime.ToString("yyyy-MM-dd HH:mm:ss", CultureInfo.InvariantCulture)} UTC"
            : "";
        Console.WriteLine(
            $"{Many(result.Workspaces, "workspace")}, {Many(result.Members, "person", "people")}, {Many(result.Invitations, "invitation")}, "
                + $"{Many(result.Entries, "entry", "entries")} in the record{latest}"
        );
    }

    private static string Many(long count, string one, string? several = null) =>
        $"{count.ToString("N0", CultureInfo.InvariantCulture)} {(count == 1 ? one : several ?? one + "s")}";

    private static string Size(string path) => $"{new FileInfo(path).Length / 1e6:0.0} MB".Replace(',', '.');

    // Only for somebody who looks on.
    private static Action<long>? Progress() =>
        Console.IsErrorRedirected ? null : rows => Console.Error.Write($"\r{rows:N0} rows ");

    private static int Done(string sentence)
    {
        Console.Error.WriteLine(sentence);
        return 0;
    }

    private static int Failed(string sentence)
    {
        Console.Error.WriteLine(sentence);
        return 1;
    }
}
