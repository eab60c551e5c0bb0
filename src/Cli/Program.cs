using System.CommandLine;
using System.CommandLine.Parsing;
using ComeAboard.Cli;
using ComeAboard.Cli.Access;
using ComeAboard.Cli.Accounts;
using ComeAboard.Cli.Departures;
using ComeAboard.Cli.Invitations;
using ComeAboard.Cli.Record;
using ComeAboard.Cli.SignIn;
using ComeAboard.Cli.Workspaces;

var root = new RootCommand("aboard: invite people, see who has answered, end access.");
var people = PeopleCommands.Make();
people.Subcommands.Add(EndCommand.Make());
AccessCommands.AddTo(people);
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
root.Subcommands.Add(WorkspaceCommands.Make());
root.Subcommands.Add(RecordCommands.Make());
root.Subcommands.Add(TokenCommands.Make());
SignInCommands.AddTo(root);
CommonOptions.AddTo(root);

// A word that begins with @ is a part of an address here, never the name of a file with more words.
var parsed = root.Parse(args, new ParserConfiguration { ResponseFileTokenReplacer = null });
if (parsed.Errors.Count > 0)
{
    foreach (var error in parsed.Errors)
        Console.Error.WriteLine(error.Message);
    // The help of the command that was meant, not of all of them.
    var words = new Stack<string>();
    for (SymbolResult? at = parsed.CommandResult; at is CommandResult command; at = at.Parent)
        words.Push(command == parsed.RootCommandResult ? "aboard" : command.Command.Name);
    Console.Error.WriteLine($"See: {string.Join(' ', words)} --help");
    return ExitStatus.WrongUsage;
}
return await parsed.InvokeAsync();
