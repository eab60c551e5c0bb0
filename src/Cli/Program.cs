using System.CommandLine;
using ComeAboard.Cli;
using ComeAboard.Cli.Accounts;
using ComeAboard.Cli.Departures;
using ComeAboard.Cli.Invitations;
using ComeAboard.Cli.Record;
using ComeAboard.Cli.SignIn;

var root = new RootCommand("aboard: invite people, see who has answered, end access.");
var people = PeopleCommands.Make();
people.Subcommands.Add(EndCommand.Make());
root.Subcommands.Add(InvitationCommands.Make());
root.Subcommands.Add(LinkCommands.Make());
root.Subcommands.Add(BatchCommands.Make());
root.Subcommands.Add(PresetCommands.Make());
root.Subcommands.Add(people);
root.Subcommands.Add(RecordCommands.Make());
SignInCommands.AddTo(root);
CommonOptions.AddTo(root);

var parsed = root.Parse(args);
if (parsed.Errors.Count > 0)
{
    foreach (var error in parsed.Errors)
        Console.Error.WriteLine(error.Message);
    Console.Error.WriteLine("See: aboard --help");
    return ExitStatus.WrongUsage;
}
return await parsed.InvokeAsync();
