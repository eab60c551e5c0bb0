using System.CommandLine;
using ComeAboard.Client;
using ComeAboard.Client.Access;
using ComeAboard.Client.Accounts;

namespace ComeAboard.Cli.Access;

/// <summary><c>aboard groups …</c></summary>
public static class GroupCommands
{
    private static readonly Argument<string> Group = new("GROUP") { Description = "Its name or id" };
    private static readonly Argument<string[]> People = new("ADDRESS")
    {
        Description = "People's addresses",
        Arity = ArgumentArity.OneOrMore,
    };
    private static readonly Option<string?> About = new("--about") { Description = "A line about it" };
    private static readonly Option<string> Role = new("--role") { Description = "The role", Required = true };
    private static readonly Option<string?> Resource = new("--resource")
    {
        Description = "At which resource; the whole workspace when left out",
    };
    private static readonly Option<string?> Until = new("--until")
    {
        Description = "Its last day, such as 2027-01-31",
    };

    private static readonly Option<string?> FromDirect = new("--from-direct")
    {
        Description = "The role they have directly: ROLE, or ROLE@RESOURCE",
    };
    private static readonly Option<string[]> Only = new("--people")
    {
        Description = "Whom alone, by address; everybody who has it when left out",
        AllowMultipleArgumentsPerToken = true,
    };
    private static readonly Option<bool> Undo = new("--undo") { Description = "Undo the last move into it" };

    private static readonly Listing<GroupView> Table = new(
        new("Group", g => g.Name),
        new("Members", g => g.Members.ToString(), 0, true),
        new("Gives", g => string.Join(", ", g.Grants.Select(Texts.Grant)), 1),
        new("About", g => g.About, 2)
    );

    private static readonly NamedCommands<GroupRequest, GroupView, GroupView> Groups = new(
        "group",
        Group,
        client => client.Groups,
        WireJson.Default.GroupView,
        WireJson.Default.GroupView
    );

    public static Command Make() =>
        new("groups", "Named sets of members, and what is given to them")
        {
            Groups.List(Table, "There is no group. Make one: aboard groups add NAME", "groups?format=csv"),
            Show(),
            Groups.AddAndChange(
                [About],
                (parsed, name, before) => new GroupRequest(name, parsed.GetValue(About) ?? before?.About),
                (group, parsed) =>
                    Commands.Said(
                        parsed,
                        $"The group {group.Name} is kept.",
                        $"aboard groups join \"{group.Name}\" ADDRESS"
                    )
            ),
            Groups.Remove("members"),
            Members("join", "Put people into a group"),
            Members("leave", "Take people out of a group"),
            Commands.Do(
                "move-in",
                "Move people who have a role directly under a group: nobody loses anything on any day",
                [Group, FromDirect, Only, Undo, CommonOptions.DryRun],
                MoveInAsync,
                WireJson.Default.MoveInAnswer,
                SayMoved
            ),
            Commands.Do(
                "grant",
                "Give everybody in a group a role",
                [Group, Role, Resource, Until, CommonOptions.DryRun],
                (session, parsed, cancellation) =>
                    session.Client.GrantAsync(
                        new GrantRequest(
                            parsed.GetValue(Role)!,
                            Group: parsed.GetValue(Group),
                            Resource: parsed.GetValue(Resource),
                            Until: Texts.ReadDay(parsed.GetValue(Until), "--until")
                        ),
                        parsed.GetValue(CommonOptions.DryRun),
                        cancellation
                    ),
                WireJson.Default.GrantAnswer,
                (answer, parsed) => Said(parsed, answer, "Given")
            ),
            Commands.Do(
                "take",
                "Take a role from a group",
                [Group, Role, Resource, CommonOptions.DryRun],
                async (session, parsed, cancellation) =>
                {
                    var group = await session.Client.Groups.ShowAsync(parsed.GetValue(Group)!, cancellation);
                    return await session.Client.TakeGrantAsync(
                        Texts.Find(group.Grants, parsed.GetValue(Role)!, parsed.GetValue(Resource)).Id,
                        parsed.GetValue(CommonOptions.DryRun),
                        cancellation: cancellation
                    );
                },
                WireJson.Default.GrantAnswer,
                (answer, parsed) => Said(parsed, answer, "Taken")
            ),
        };

    private static Task<MoveInAnswer> MoveInAsync(
        Session session,
        ParseResult parsed,
        CancellationToken cancellation
    )
    {
        var (group, isDry) = (parsed.GetValue(Group)!, parsed.GetValue(CommonOptions.DryRun));
        if (parsed.GetValue(Undo))
            return parsed.GetValue(FromDirect) is null
                ? session.Client.UndoMoveIntoGroupAsync(group, isDry, cancellation)
                : throw new UsageException("Give either --from-direct or --undo.");
        if (parsed.GetValue(FromDirect) is not { } written)
            throw new UsageException("Say what they have directly: --from-direct ROLE[@RESOURCE].");
        var at = written.IndexOf('@', StringComparison.Ordinal);
        return session.Client.MoveIntoGroupAsync(
            group,
            new MoveInRequest(
                at < 0 ? written : written[..at],
                at < 0 ? null : written[(at + 1)..],
                parsed.GetValue(Only)
            ),
            isDry,
            cancellation
        );
    }

    private static void SayMoved(MoveInAnswer answer, ParseResult parsed)
    {
        var isUndo = parsed.GetValue(Undo);
        Console.WriteLine(
            isUndo
                ? $"{answer.Gives}, directly again and not by {answer.Group}:"
                : $"{answer.Gives}, by {answer.Group} and not directly:"
        );
        foreach (var person in answer.People)
        {
            Console.WriteLine(
                $"  {person.Name}{(isUndo ? "" : person.Joins ? ", joins the group" : ", is in the group")}"
            );
            foreach (var gain in person.Gains)
                Console.WriteLine($"      gains {gain}");
        }
        if (!isUndo)
            Console.WriteLine("None of them loses anything on any day.");
        Commands.Print(answer.Difference);
        Commands.Said(
            parsed,
            answer.People.Count == 1 ? "1 person." : $"{answer.People.Count} people.",
            isUndo
                ? $"aboard groups show \"{answer.Group}\""
                : $"aboard groups show \"{answer.Group}\"; to undo it: aboard groups move-in \"{answer.Group}\" --undo"
        );
    }

    private static void Said(ParseResult parsed, GrantAnswer answer, string done)
    {
        Commands.Print(answer.Difference);
        Commands.Said(
            parsed,
            $"{done}: {Texts.Grant(answer.Grant)} ({answer.Grant.Holder}).",
            $"aboard groups show \"{answer.Grant.Holder}\""
        );
    }

    private static Command Show()
    {
        var show = Commands.Made("show", "Show a group, its grants and its members", [Group]);
        Session.On(
            show,
            async (session, parsed, cancellation) =>
            {
                var group = await session.Client.Groups.ShowAsync(parsed.GetValue(Group)!, cancellation);
                if (session.Json)
                {
                    Session.Print(group, WireJson.Default.GroupView);
                    return ExitStatus.Done;
                }
                Console.WriteLine($"{group.Name}{(group.About.Length > 0 ? ": " + group.About : "")}");
                foreach (var grant in group.Grants)
                    Console.WriteLine($"  gives {Texts.Grant(grant)}");
                var members = await Commands.AllAsync(cursor =>
                    session.Client.GroupMembersAsync(group.Id.ToString(), cursor, cancellation: cancellation)
                );
                foreach (var person in members)
                    Console.WriteLine($"  {person.Name, -24} {person.Address}");
                Console.WriteLine($"{group.Members} members");
                return ExitStatus.Done;
            }
        );
        return show;
    }

    private static Command Members(string verb, string description) =>
        Commands.Do(
            verb,
            description,
            [Group, People, CommonOptions.DryRun],
            async (session, parsed, cancellation) =>
            {
                var group = parsed.GetValue(Group)!;
                var people = parsed.GetValue(People)!;
                var dryRun = parsed.GetValue(CommonOptions.DryRun);
                if (verb == "join")
                    return await session.Client.PutIntoGroupAsync(
                        group,
                        new PeopleRequest(people),
                        dryRun,
                        cancellation
                    );
                EditAnswer? answer = null;
                foreach (var person in people)
                {
                    var one = await session.Client.TakeFromGroupAsync(group, person, dryRun, cancellation);
                    answer = answer is null ? one : one with { Done = answer.Done + one.Done };
                }
                return answer!;
            },
            WireJson.Default.EditAnswer,
            (answer, parsed) =>
            {
                Commands.Print(answer.Difference);
                Commands.Said(
                    parsed,
                    $"{answer.Done} people.",
                    $"aboard groups show \"{parsed.GetValue(Group)}\""
                );
            }
        );
}
