using System.CommandLine;
using System.Text;
using ComeAboard.Client;
using ComeAboard.Client.Accounts;

namespace ComeAboard.Cli.Accounts;

/// <summary><c>aboard accounts</c> and <c>aboard people reset</c>: accounts in the workspace's custody.</summary>
public static class HeldCommands
{
    private static readonly Argument<string> Address = new("ADDRESS") { Description = "The address" };
    private static readonly Option<string> Name = new("--name")
    {
        Description = "The person's name",
        Required = true,
    };
    private static readonly Option<FileInfo?> Sheet = new("--sheet")
    {
        Description = "Write the set-up link to a sheet to print and hand over (HTML), and mail nothing",
    };
    private static readonly Option<bool> SecondStep = new("--second-step")
    {
        Description = "Remove the second step with its recovery codes",
    };
    private static readonly Option<bool> Passkeys = new("--passkeys") { Description = "Remove all passkeys" };
    private static readonly Option<bool> Outside = new("--outside")
    {
        Description = "Remove sign-in with other organisations",
    };

    private static readonly Option<string?> NewName = new("--name")
    {
        Description = "The name the account is to have",
    };
    private static readonly Option<string?> NewAddress = new("--address")
    {
        Description = "The address it is to have; it counts once its holder has shown that it is theirs",
    };
    private static readonly Option<string?> Reason = new("--reason")
    {
        Description = "Why, as its holder is told",
    };

    private static readonly Option<string?> StepReason = new("--reason")
    {
        Description = "Why, for the record",
    };

    public static Command Make() =>
        new("accounts", "Accounts in the workspace's custody, at its proved domains")
        {
            Add(),
            Correct(
                "correct",
                "Correct the name of a held account at once, its address with its holder's help",
                [Address, NewName, NewAddress, CommonOptions.DryRun],
                (client, request, isDry, cancellation) =>
                    client.CorrectAccountAsync(request, isDry, cancellation)
            ),
            Correct(
                "propose",
                "Propose a name or an address to somebody whose account is their own",
                [Address, NewName, NewAddress, Reason, CommonOptions.DryRun],
                (client, request, isDry, cancellation) => client.ProposeAsync(request, isDry, cancellation)
            ),
            Step("pause", "Close the sign-ins of a held account, and let nobody sign in with it"),
            Step("resume", "Let a paused account be signed in to again"),
            Step("close", "Close a held account for good whose holder is nowhere any more"),
            MatchCommand.Make(),
            DuplicateCommands.List(),
            DuplicateCommands.Distinct(),
            MergeCommands.All(),
            ReaddressCommand.Make(),
        };

    private static Command Step(string verb, string description) =>
        Commands.Do(
            verb,
            description,
            [Address, StepReason, CommonOptions.DryRun],
            (session, parsed, cancellation) =>
                session.Client.StepAccountAsync(
                    new HeldStepRequest(verb, parsed.GetValue(Address)!, parsed.GetValue(StepReason)),
                    parsed.GetValue(CommonOptions.DryRun),
                    cancellation
                ),
            WireJson.Default.HeldStepAnswer,
            (account, parsed) =>
            {
                Console.WriteLine($"{account.Name} <{account.Address}>: {account.Standing}");
                Commands.Said(
                    parsed,
                    $"Sign-ins closed: {account.SignInsClosed}. A mail tells its holder.",
                    verb == "pause"
                        ? $"aboard accounts resume {account.Address}"
                        : "aboard claims list --state taken"
                );
            }
        );

    private static Command Correct(
        string verb,
        string description,
        IEnumerable<Symbol> words,
        Func<AboardClient, AccountCorrection, bool, CancellationToken, Task<AccountCorrected>> step
    ) =>
        Commands.Do(
            verb,
            description,
            words,
            (session, parsed, cancellation) =>
                step(
                    session.Client,
                    new AccountCorrection(
                        parsed.GetValue(Address)!,
                        parsed.GetValue(NewName),
                        parsed.GetValue(NewAddress),
                        verb == "propose" ? parsed.GetValue(Reason) : null
                    ),
                    parsed.GetValue(CommonOptions.DryRun),
                    cancellation
                ),
            WireJson.Default.AccountCorrected,
            (account, parsed) =>
            {
                Console.WriteLine($"{account.Name} <{account.Address}>");
                if (account.WaitingName.Length > 0)
                    Console.WriteLine($"  name     {account.WaitingName}, if its holder accepts it");
                if (account.WaitingAddress.Length > 0)
                    Console.WriteLine(
                        $"  address  {account.WaitingAddress}, once its holder has shown it is theirs"
                    );
                Commands.Said(
                    parsed,
                    account.LapsesAt is { } at
                        ? $"A mail tells its holder; they have until {Texts.Instant(at)}."
                        : "It counts at once.",
                    $"aboard people show {account.Address}"
                );
            }
        );

    /// <summary><c>aboard people reset</c></summary>
    public static Command Reset()
    {
        var reset = Commands.Made(
            "reset",
            "Remove ways in of an account that the workspace holds, and close its sign-ins",
            [Address, SecondStep, Passkeys, Outside, CommonOptions.DryRun]
        );
        Session.On(
            reset,
            async (session, parsed, cancellation) =>
            {
                var ways = new[] { (SecondStep, "second-step"), (Passkeys, "passkeys"), (Outside, "outside") }
                    .Where(way => parsed.GetValue(way.Item1))
                    .Select(way => way.Item2)
                    .ToList();
                if (ways.Count == 0)
                    throw new UsageException("Give --second-step, --passkeys or --outside.");
                var answer = await session.Client.ResetAsync(
                    parsed.GetValue(Address)!,
                    new ResetRequest(ways),
                    parsed.GetValue(CommonOptions.DryRun),
                    cancellation
                );
                if (session.Json)
                    Session.Print(answer, WireJson.Default.ResetAnswer);
                else
                    foreach (var (way, count) in answer.Removed)
                        Console.WriteLine($"  {way, -16}{count}");
                Commands.Said(
                    parsed,
                    $"Removed from {answer.Address}; sign-ins closed: {answer.SignInsClosed}.",
                    $"aboard people show {answer.Address}"
                );
                return ExitStatus.Done;
            }
        );
        return reset;
    }

    private static Command Add()
    {
        var add = Commands.Made(
            "add",
            "Make an account outright, with a one-time set-up link by mail or on a sheet",
            [Address, Name, Sheet, CommonOptions.DryRun]
        );
        Session.On(
            add,
            async (session, parsed, cancellation) =>
            {
                var isDry = parsed.GetValue(CommonOptions.DryRun);
                var sheet = parsed.GetValue(Sheet);
                var made = await session.Client.AddAccountAsync(
                    new HeldAccountRequest(
                        parsed.GetValue(Address)!,
                        parsed.GetValue(Name)!,
                        sheet is not null
                    ),
                    isDry,
                    cancellation
                );
                if (sheet is not null && !isDry)
                    await Files.WriteAsync(sheet.FullName, Encoding.UTF8.GetBytes(made.Sheet!), cancellation);
                if (session.Json)
                    Session.Print(made, WireJson.Default.HeldAccountView);
                else
                    Console.WriteLine(
                        $"{made.Name} <{made.Address}>, to be set up until {Texts.Instant(made.ExpiresAt)}"
                    );
                Commands.Said(
                    parsed,
                    sheet is null
                        ? $"A mail with the set-up link goes to {made.Address}."
                        : "Print the sheet and hand it over; its link is shown nowhere else.",
                    $"aboard people grant {made.Address} --role ROLE"
                );
                return ExitStatus.Done;
            }
        );
        return add;
    }
}
