using System.CommandLine;
using ComeAboard.Client;
using ComeAboard.Client.Accounts;

namespace ComeAboard.Cli.Accounts;

/// <summary><c>aboard people list | show</c></summary>
public static class PeopleCommands
{
    private static readonly Option<string?> State = new("--state")
    {
        Description = "active, upcoming, paused or ended",
    };
    private static readonly Option<string?> Search = new("--search")
    {
        Description = "Any part of a name or address",
    };
    private static readonly Argument<string> Address = new("ADDRESS")
    {
        Description = "The person's address, or id",
    };

    private static readonly Listing<PersonView> Table = new(
        new("Name", p => p.Name),
        new("Address", p => p.Address),
        new("Kind", p => p.Kind, 1),
        new("Role", p => p.Role + (p.IsAdministrator ? " *" : ""), 3),
        new("State", p => p.State, 2),
        new("Until", p => Texts.Day(p.EndedAt is { } left ? Texts.DayOf(left) : p.Until, Texts.Today), 2),
        new("Joined", p => Texts.Plain(Texts.DayOf(p.JoinedAt)), 4),
        new("Invited by", p => p.InvitedBy ?? "set up", 5)
    );

    public static Command Make()
    {
        var people = new Command("people", "Who is here, and ending their access");
        people.Subcommands.Add(List());
        people.Subcommands.Add(Show());
        return people;
    }

    private static Command List()
    {
        var list = new Command("list", "List people, newest first")
        {
            State,
            Search,
            CommonOptions.Limit,
            Commands.Csv,
        };
        Session.On(
            list,
            async (session, parsed, cancellation) =>
            {
                if (parsed.GetValue(Commands.Csv))
                    return await Commands.PrintCsvAsync(
                        session,
                        $"people?format=csv&state={Uri.EscapeDataString(parsed.GetValue(State) ?? "")}&search={Uri.EscapeDataString(parsed.GetValue(Search) ?? "")}",
                        cancellation
                    );
                var found = new List<PersonView>();
                string? cursor = null;
                var limit = parsed.GetValue(CommonOptions.Limit);
                do
                {
                    var page = await session.Client.PeopleAsync(
                        parsed.GetValue(State),
                        parsed.GetValue(Search),
                        cursor,
                        Math.Clamp(limit - found.Count, 1, 200),
                        cancellation
                    );
                    found.AddRange(page.Items);
                    cursor = page.Next;
                } while (cursor is not null && found.Count < limit);
                if (session.Json)
                {
                    foreach (var person in found)
                        Session.Print(person, WireJson.Default.PersonView);
                    return ExitStatus.Done;
                }
                if (found.Count == 0)
                    Console.WriteLine(
                        "Nobody fits. Invite somebody: aboard invitations send ADDRESS --kind guest"
                    );
                else
                    Table.Print(found);
                Console.WriteLine(
                    $"{Texts.Many(found.Count, "person", "people")}, {found.Count(p => p.State == "active")} active (* administrator); days are those of {Texts.Zone.Id}"
                );
                return ExitStatus.Done;
            }
        );
        return list;
    }

    private static Command Show()
    {
        var show = new Command("show", "Show one person with their history") { Address };
        Session.On(
            show,
            async (session, parsed, cancellation) =>
            {
                var person = await session.Client.PersonAsync(parsed.GetValue(Address)!, cancellation);
                if (session.Json)
                {
                    Session.Print(person, WireJson.Default.PersonView);
                    return ExitStatus.Done;
                }
                Describe(person);
                Texts.PrintHistory((await session.Client.PersonHistoryAsync(person.Id, cancellation)).Items);
                return ExitStatus.Done;
            }
        );
        return show;
    }

    private static void Describe(PersonView person)
    {
        Console.WriteLine($"{person.Name}  {person.Address}");
        Console.WriteLine(
            $"  State      {person.State}{(person.EndedAt is { } ended ? $" since {Texts.Instant(ended)}" : "")}"
        );
        Console.WriteLine(
            $"  As         {person.Kind}, role {person.Role}{(person.IsAdministrator ? ", administrator" : "")}"
        );
        Console.WriteLine(
            person.EndedAt is { } left
                ? $"  Left       {Texts.Day(Texts.DayOf(left), Texts.Today)}"
                : $"  Until      {Texts.Day(person.Until, Texts.Today)}"
        );
        Console.WriteLine(
            $"  Joined     {Texts.Instant(person.JoinedAt)}, invited by {person.InvitedBy ?? "nobody: they set the workspace up"}"
        );
        if (person.From is { } from)
            Line("From", Texts.Day(from, Texts.Today));
        Line("Standard", person.NameByStandard ?? "");
        Line("Organisation", person.Organisation + (person.Leads ? ", leads it" : ""));
        Line("Title", person.Title);
        Line("Department", person.Department);
        Line("Manager", person.Manager);
        Line("Country", person.Country);
        Line("Host", person.Host);
        Line("Note", person.Note);
        Line("Also at", string.Join(", ", person.AlsoAt));
        Line("Last here", person.LastSeenAt is { } seen ? Texts.Instant(seen) : "never");
        if (person.InvitedAs.Length > 0)
            Console.WriteLine($"  Invited as {person.InvitedAs}, on the word of {person.VouchedBy}");
        Console.WriteLine($"  Id         {person.Id}");

        static void Line(string what, string text)
        {
            if (text.Length > 0)
                Console.WriteLine($"  {what, -10} {text}");
        }
    }
}
