using System.CommandLine;
using ComeAboard.Client;
using ComeAboard.Client.Access;
using ComeAboard.Client.Accounts;

namespace ComeAboard.Cli.Accounts;

/// <summary><c>aboard people grant | take | pause | resume | extend | sign-out | kind | change | explain | see-as | activity</c></summary>
public static class AccessCommands
{
    private static readonly Argument<string[]> People = new("ADDRESS")
    {
        Description = "People's addresses, or ids",
        Arity = ArgumentArity.OneOrMore,
    };
    private static readonly Argument<string> Person = new("ADDRESS")
    {
        Description = "The person's address, or id",
    };
    private static readonly Option<string> Role = new("--role") { Description = "The role", Required = true };
    private static readonly Option<string?> Resource = new("--resource")
    {
        Description = "At which resource; the whole workspace when left out",
    };
    private static readonly Option<string?> LastDay = new("--until")
    {
        Description = "The last day of their stay from now on, such as 2027-06-30",
        HelpName = "DATE",
        Required = true,
    };
    private static readonly Option<string?> Until = new("--until")
    {
        Description = "Its last day, such as 2027-01-31",
    };
    private static readonly Option<string?> From = new("--from")
    {
        Description = "Its first day, such as 2027-01-31",
    };
    private static readonly Option<bool> Tell = new("--tell") { Description = "Tell the person by mail" };
    private static readonly Option<string?> Reason = new("--reason")
    {
        Description = "A line for the record",
    };
    private static readonly Option<string> Kind = new("--kind")
    {
        Description = "staff, guest, partner or client",
        Required = true,
    };
    private static readonly Option<string?> At = new("--at") { Description = "Only at this resource" };
    private static readonly Option<string?> Name = new("--name") { Description = "Their name" };
    private static readonly Option<bool> OrganisationAsWritten = new("--organisation-as-written")
    {
        Description = "Keep the organisation as it is written, though nobody here knows it",
    };
    private static readonly Option<string?> Manager = new("--manager")
    {
        Description = "Whom they report to",
    };
    private static readonly Option<string?> Organisation = new("--organisation")
    {
        Description = "Their organisation, by name or code; empty for none",
    };
    private static readonly Option<string?> Title = new("--title") { Description = "Their job title" };
    private static readonly Option<string?> Department = new("--department")
    {
        Description = "Their department",
    };
    private static readonly Option<string?> Host = new("--host") { Description = "Their host's address" };
    private static readonly Option<string?> Country = new("--country") { Description = "Their country" };
    private static readonly Option<string?> Note = new("--note")
    {
        Description = "A line to tell people apart",
    };
    private static readonly Option<bool?> Leads = new("--leads")
    {
        Description = "Whether they may invite colleagues of their organisation: true or false",
    };

    private static readonly Listing<PlaceAccess> Table = new(
        new("Place", p => p.IsResource ? $"{p.Area} › {p.Place}" : p.Place),
        new("Level", p => p.Level),
        new("Because", p => string.Join("; ", p.Paths.Where(path => path.Counts).Select(Where)), 1),
        new("Also given", p => string.Join("; ", p.Paths.Where(path => !path.Counts).Select(Where)), 3),
        new("Cut", p => p.Cut, 2)
    );

    public static void AddTo(Command people)
    {
        people.Subcommands.Add(Grant());
        people.Subcommands.Add(
            Step(
                "take",
                "Take a role that was given directly",
                [Role, Resource],
                parsed =>
                    new(
                        "take",
                        parsed.GetValue(People)!,
                        Role: parsed.GetValue(Role),
                        Resource: parsed.GetValue(Resource)
                    )
            )
        );
        people.Subcommands.Add(
            Step(
                "pause",
                "Keep people out for a while",
                [Reason],
                parsed => new("pause", parsed.GetValue(People)!, Reason: parsed.GetValue(Reason))
            )
        );
        people.Subcommands.Add(
            Step("resume", "Let them in again", [], parsed => new("resume", parsed.GetValue(People)!))
        );
        people.Subcommands.Add(
            Step(
                "extend",
                "Have their stay go on until a later day",
                [LastDay, Reason],
                parsed =>
                    new(
                        "extend",
                        parsed.GetValue(People)!,
                        Until: Texts.ReadDay(parsed.GetValue(LastDay), "--until"),
                        Reason: parsed.GetValue(Reason)
                    )
            )
        );
        people.Subcommands.Add(
            Step(
                "sign-out",
                "Close their sign-ins and revoke their tokens",
                [],
                parsed => new("sign-out", parsed.GetValue(People)!)
            )
        );
        people.Subcommands.Add(
            Step(
                "kind",
                "Change as what they are here",
                [Kind],
                parsed => new("kind", parsed.GetValue(People)!, Kind: parsed.GetValue(Kind))
            )
        );
        people.Subcommands.Add(
            Step(
                "change",
                "Change details; what is not said stays",
                [
                    Name,
                    Organisation,
                    OrganisationAsWritten,
                    Title,
                    Department,
                    Manager,
                    Country,
                    Host,
                    Note,
                    Leads,
                ],
                parsed =>
                    new(
                        "change",
                        parsed.GetValue(People)!,
                        Details: new DetailsRequest(
                            parsed.GetValue(Name),
                            parsed.GetValue(Organisation),
                            parsed.GetValue(Title),
                            parsed.GetValue(Department),
                            parsed.GetValue(Manager),
                            parsed.GetValue(Country),
                            parsed.GetValue(Note),
                            parsed.GetValue(Host),
                            parsed.GetValue(Leads)
                        )
                        {
                            OrganisationAsWritten = parsed.GetValue(OrganisationAsWritten),
                        }
                    )
            )
        );
        people.Subcommands.Add(Explain());
        people.Subcommands.Add(LookingCommands.SeeAs());
        people.Subcommands.Add(LookingCommands.Activity());
    }

    private static Command Grant() =>
        Commands.Do(
            "grant",
            "Give somebody a role",
            [Person, Role, Resource, From, Until, Tell, CommonOptions.DryRun],
            (session, parsed, cancellation) =>
                session.Client.GrantAsync(
                    new GrantRequest(
                        parsed.GetValue(Role)!,
                        parsed.GetValue(Person),
                        Resource: parsed.GetValue(Resource),
                        From: Texts.ReadDay(parsed.GetValue(From), "--from"),
                        Until: Texts.ReadDay(parsed.GetValue(Until), "--until"),
                        Tell: parsed.GetValue(Tell)
                    ),
                    parsed.GetValue(CommonOptions.DryRun),
                    cancellation
                ),
            WireJson.Default.GrantAnswer,
            (answer, parsed) =>
            {
                Commands.Print(answer.Difference);
                if (answer.Told.Count > 0)
                    Console.WriteLine($"Told by mail: {string.Join(", ", answer.Told)}");
                Commands.Said(
                    parsed,
                    $"Given: {Texts.Grant(answer.Grant)} ({answer.Grant.Holder}).",
                    $"aboard people explain {parsed.GetValue(Person)}"
                );
            }
        );

    private static Command Step(
        string verb,
        string description,
        IEnumerable<Symbol> words,
        Func<ParseResult, PeopleStepRequest> request
    )
    {
        var command = Commands.Made(verb, description, [People, .. words, CommonOptions.DryRun]);
        Session.On(
            command,
            async (session, parsed, cancellation) =>
            {
                var answer = await session.Client.PeopleStepsAsync(
                    request(parsed),
                    parsed.GetValue(CommonOptions.DryRun),
                    cancellation
                );
                if (session.Json)
                    Session.Print(answer, WireJson.Default.PeopleStepAnswer);
                else
                {
                    foreach (var done in answer.Done)
                        Console.WriteLine($"  {done.Name, -24} {done.Address, -44} {done.State}");
                    Commands.Print(answer.Difference);
                }
                foreach (var refused in answer.Refused)
                    Session.Say(
                        $"{refused.Person}: {refused.Problem.Title} {refused.Problem.Detail} [{refused.Problem.Code}]"
                    );
                Commands.Said(
                    parsed,
                    $"{verb}: done for {answer.Done.Count} of {answer.Done.Count + answer.Refused.Count}.",
                    $"aboard people explain {parsed.GetValue(People)![0]}"
                );
                return ExitStatus.Of([
                    .. answer.Done.Select(_ => ExitStatus.Done),
                    .. answer.Refused.Select(refused => ExitStatus.Of(refused.Problem)),
                ]);
            }
        );
        return command;
    }

    private static Command Explain() =>
        Commands.Do(
            "explain",
            "What somebody may do, and why",
            [Person, At],
            (session, parsed, cancellation) =>
                session.Client.PersonAccessAsync(parsed.GetValue(Person)!, cancellation),
            WireJson.Default.PersonAccess,
            (access, parsed) =>
            {
                Console.WriteLine(
                    $"{access.Person.Name}, {access.Person.Kind}, {access.Person.State}{(access.Cut.Length > 0 ? $" – gets nothing today: {access.Cut}" : "")}"
                );
                var at = parsed.GetValue(At);
                List<PlaceAccess> places =
                [
                    .. access.Places.Where(place =>
                        at is null || place.Place.Equals(at, StringComparison.OrdinalIgnoreCase)
                    ),
                ];
                if (places.Count == 0)
                    Console.WriteLine(
                        at is null ? "Nothing is given to them." : $"Nothing is given to them at {at}."
                    );
                else
                    Table.Print(places);
                foreach (var duty in access.Duties)
                    Console.WriteLine($"duty {duty.Duty, -10} {string.Join("; ", duty.Paths.Select(Where))}");
                if (access.Groups.Count > 0)
                    Console.WriteLine($"groups: {string.Join(", ", access.Groups)}");
                if (access.Seats.Count > 0)
                    Console.WriteLine($"seats:  {string.Join(", ", access.Seats)}");
                if (access.Owns.Count > 0)
                    Console.WriteLine($"owns:   {string.Join(", ", access.Owns)}");
            }
        );

    private static string Where(PathView path) =>
        path.Role
        + (path.Resource is { } at ? $" at {at}" : "")
        + (path.ThroughName.Length > 0 ? $" via {path.ThroughName}" : "")
        + (path.Until is { } until ? $" until {Texts.Plain(until)}" : "");
}
