using System.CommandLine;
using System.CommandLine.Parsing;
using ComeAboard.Cli;
using ComeAboard.Cli.Access;
using ComeAboard.Cli.Accounts;
using ComeAboard.Cli.Applications;
using ComeAboard.Cli.Connections;
using ComeAboard.Cli.Departures;
using ComeAboard.Cli.Invitations;
using ComeAboard.Cli.Record;
using ComeAboard.Cli.SignIn;
using ComeAboard.Cli.Workspaces;

var root = new RootCommand("aboard: invite people, see who has answered, end access.");
var people = PeopleCommands.Make();
people.Subcommands.Add(EndCommand.Make());
people.Subcommands.Add(ReinstateCommand.Make());
people.Subcommands.Add(EraseCommand.Make());
people.Subcommands.Add(SweepCommands.OfPerson());
AccessCommands.AddTo(people);
people.Subcommands.Add(HeldCommands.Reset());
root.Subcommands.Add(InvitationCommands.Make());
root.Subcommands.Add(LinkCommands.Make());
root.Subcommands.Add(BatchCommands.Make());
root.Subcommands.Add(PresetCommands.Make());
root.Subcommands.Add(people);
root.Subcommands.Add(RoleCommands.Make());
root.Subcommands.Add(ResourceCommands.Make());
root.Subcommands.Add(GroupCommands.Make());
root.Subcommands.Add(OrganisationCommands.Make());
root.Subcommands.Add(SeatCommands.Make());
root.Subcommands.Add(DomainCommands.Make());
root.Subcommands.Add(ProviderCommands.Make());
root.Subcommands.Add(ApplicationCommands.Make());
root.Subcommands.Add(ClaimCommands.Make());
root.Subcommands.Add(ConnectionCommands.Make());
root.Subcommands.Add(DepartureCommands.Make());
root.Subcommands.Add(HeldCommands.Make());
root.Subcommands.Add(WorkspaceCommands.Make());
root.Subcommands.Add(RecordCommands.Make());
root.Subcommands.Add(TokenCommands.Make());
SignInCommands.AddTo(root);
CommonOptions.AddTo(root);

// A word that begins with @ is a part of an address here, never the name of a file with more words.
var parsed = root.Parse(args, new ParserConfiguration { ResponseFileTokenReplacer = null });
var errors = parsed.Errors.Select(error => Plainly(error.Message)).ToList();

// A word with two hyphens is an option that is not there, not the name of somebody, unless "--" stands before it.
if (parsed.Tokens.All(token => token.Type != TokenType.DoubleDash))
    errors.AddRange(
        parsed
            .CommandResult.Children.OfType<ArgumentResult>()
            .SelectMany(argument => argument.Tokens)
            .Where(token => token.Value.StartsWith("--", StringComparison.Ordinal))
            .Select(token => $"There is no option {token.Value} here.")
    );
if (errors.Count > 0)
{
    foreach (var error in errors)
        Console.Error.WriteLine(error);
    // The help of the command that was meant, not of all of them.
    var words = new Stack<string>();
    for (SymbolResult? at = parsed.CommandResult; at is CommandResult command; at = at.Parent)
        words.Push(command == parsed.RootCommandResult ? "aboard" : command.Command.Name);
    Console.Error.WriteLine($"See: {string.Join(' ', words)} --help");
    return ExitStatus.WrongUsage;
}
return await parsed.InvokeAsync();

static string Plainly(string message) =>
    message
        .Replace(" as expected type 'System.Int32'", ": it is not a whole number", StringComparison.Ordinal)
        .Replace(" as expected type 'System.Guid'", ": it is not an id", StringComparison.Ordinal)
        .Replace(
            " as expected type 'System.Boolean'",
            ": it is neither true nor false",
            StringComparison.Ordinal
        )
        .Replace("Cannot parse argument", "Cannot read", StringComparison.Ordinal)
        .Replace(" for option ", " for ", StringComparison.Ordinal);
