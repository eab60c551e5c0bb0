using System.CommandLine;
using ComeAboard.Client;
using ComeAboard.Client.Connections;
using ComeAboard.Core.Connections;

namespace ComeAboard.Cli.Connections;

/// <summary>
/// What connected systems really hold, and what those were told that cannot be asked: <c>aboard connections sweep | deliveries |
/// send-again | script</c>, <c>aboard people sweep</c>.
/// </summary>
public static class SweepCommands
{
    private const int Shown = 60;

    private static readonly Option<string[]> Remove = Which("--remove", "Remove these there, and ask again");
    private static readonly Option<string?> Adopt = new("--adopt")
    {
        Description = "Say whose this one is; from then on it follows what they may do here",
        HelpName = "WHICH",
    };

    private static readonly Option<string[]> Leave = Which(
        "--leave",
        "Leave these as they are, for a reason until a day"
    );

    private static readonly Option<string?> Person = new("--person")
    {
        Description = "For --adopt: whose it is",
        HelpName = "ADDRESS",
    };

    private static readonly Option<string?> Reason = new("--reason") { Description = "For --leave: why" };

    private static readonly Option<string?> Until = new("--until")
    {
        Description = "For --leave: the last day, such as 2027-01-31",
        HelpName = "DATE",
    };

    private static readonly Argument<string> Whom = new("ADDRESS")
    {
        Description = "The person's address, or id",
    };
    private static readonly Argument<Guid> Delivery = new("ID") { Description = "The id of the event" };

    private static readonly Listing<ThereChangeView> Otherwise = new(
        new("Otherwise there", change => $"{change.Name} <{change.Address}>"),
        new("Is to be", change => change.Sentence)
    );

    private static readonly Listing<LeftOverView> LeftOver = new(
        new("Left over", one => one.SignInName),
        new("Name there", one => one.Name, 1),
        new("Found", one => Texts.Instant(one.FoundAt), 3),
        new("State", one => one.Until is { } day ? $"left until {Texts.Day(day, Texts.Today)}" : one.State),
        new("Because", one => one.Reason.Length > 0 ? $"{one.Reason} ({one.By})" : "", 2)
    );

    private static readonly Listing<EventSentView> Events = new(
        new("At", one => Texts.Instant(one.At)),
        new("What it was told", one => one.Sentence),
        new("State", one => one.State),
        new("Tries", one => one.Tries.ToString(), 2, true),
        new("Answer", one => one.Answer, 1),
        new("Id", one => one.Id.ToString(), 3)
    );

    private static readonly Listing<PersonThereView> Elsewhere = new(
        new("In", one => $"{one.Connection} ({one.Type})"),
        new("Is to be", one => CarryingCommands.Said(one.Wanted, one.Groups)),
        new("Is", one => one.Held.Length > 0 ? CarryingCommands.Said(one.Held, one.HeldGroups) : ""),
        new("So", one => one.State),
        new("Answer", one => one.Answer, 1)
    );

    /// <summary><c>sweep</c> of a connection.</summary>
    public static Command Sweep()
    {
        var sweep = Commands.Made(
            "sweep",
            "Read it whole: put right what is otherwise, list what nobody ought to have, and do with that what is said",
            [ConnectionCommands.Name, Remove, Adopt, Leave, Person, Reason, Until, CommonOptions.DryRun]
        );
        Session.On(
            sweep,
            async (session, parsed, cancellation) =>
            {
                var name = parsed.GetValue(ConnectionCommands.Name)!;
                var wishes = WishesOf(parsed);
                if (wishes.Count > 1)
                    throw new UsageException("Remove, adopt or leave: one of them at a time.");
                var swept = await session.Client.SweepAsync(name, cancellation);
                if (wishes is [var wish])
                    return await DecideAsync(session, parsed, swept, wish, cancellation);
                if (session.Json)
                    Session.Print(swept, WireJson.Default.SweepView);
                else
                    Print(swept);
                return ExitStatus.Done;
            }
        );
        return sweep;
    }

    /// <summary><c>deliveries</c>.</summary>
    public static Command Deliveries()
    {
        var deliveries = Commands.Made(
            "deliveries",
            "List what a system that is only told was told, newest first",
            [ConnectionCommands.Name, CommonOptions.Limit]
        );
        Session.On(
            deliveries,
            async (session, parsed, cancellation) =>
            {
                var name = parsed.GetValue(ConnectionCommands.Name)!;
                var limit = parsed.GetValue(CommonOptions.Limit);
                var (sent, cursor) = (new List<EventSentView>(), (string?)null);
                do
                {
                    var page = await session.Client.EventsSentAsync(
                        name,
                        cursor,
                        Math.Clamp(limit - sent.Count, 1, 200),
                        cancellation
                    );
                    sent.AddRange(page.Items);
                    cursor = page.Next;
                } while (cursor is not null && sent.Count < limit);
                if (session.Json)
                    foreach (var one in sent)
                        Session.Print(one, WireJson.Default.EventSentView);
                else if (sent.Count == 0)
                    Console.WriteLine("It was told nothing as yet.");
                else
                    Events.Print(sent);
                return ExitStatus.Done;
            }
        );
        return deliveries;
    }

    /// <summary><c>send-again</c>.</summary>
    public static Command SendAgain() =>
        Commands.Do(
            "send-again",
            "Send an event again, as it was written and by the same id",
            [ConnectionCommands.Name, Delivery],
            (session, parsed, cancellation) =>
                session.Client.SendEventAgainAsync(
                    parsed.GetValue(ConnectionCommands.Name)!,
                    parsed.GetValue(Delivery),
                    cancellation
                ),
            WireJson.Default.EventSentView,
            (sent, _) =>
                Console.WriteLine(
                    $"{sent.Sentence}: {sent.Answer} Sent {Texts.Many(sent.Tries, "time", "times")}."
                )
        );

    /// <summary><c>script</c>.</summary>
    public static Command Script()
    {
        var script = new Command(
            "script",
            "Print what a superuser runs in every database of a PostgreSQL server that is to be connected"
        );
        script.SetAction(_ =>
        {
            Console.Out.WriteLine(PostgresSetUp.Script);
            return ExitStatus.Done;
        });
        return script;
    }

    /// <summary><c>aboard people sweep</c>.</summary>
    public static Command OfPerson()
    {
        var sweep = Commands.Made(
            "sweep",
            "Ask every connected system at this moment what somebody has there",
            [Whom]
        );
        Session.On(
            sweep,
            async (session, parsed, cancellation) =>
            {
                var there = await session.Client.ElsewhereAsync(parsed.GetValue(Whom)!, cancellation);
                if (session.Json)
                    foreach (var one in there)
                        Session.Print(one, WireJson.Default.PersonThereView);
                else if (there.Count == 0)
                    Console.WriteLine("Nothing is carried out to any system.");
                else
                    Elsewhere.Print(there);
                return there.Any(one => one.State is "otherwise" or "not answered")
                    ? ExitStatus.Failed
                    : ExitStatus.Done;
            }
        );
        return sweep;
    }

    private static Option<string[]> Which(string name, string description) =>
        new(name)
        {
            Description = description + ": by the name they are signed in with, their key, or all",
            HelpName = "WHICH",
            AllowMultipleArgumentsPerToken = true,
        };

    private static List<LeftOverRequest> WishesOf(ParseResult parsed)
    {
        var wishes = new List<LeftOverRequest>();
        if (parsed.GetValue(Remove) is { Length: > 0 } remove)
            wishes.Add(new LeftOverRequest(remove, "remove"));
        if (parsed.GetValue(Adopt) is { } adopt)
            wishes.Add(new LeftOverRequest([adopt], "adopt", parsed.GetValue(Person)));
        if (parsed.GetValue(Leave) is { Length: > 0 } leave)
            wishes.Add(
                new LeftOverRequest(
                    leave,
                    "leave",
                    Reason: parsed.GetValue(Reason),
                    Until: Texts.ReadDay(parsed.GetValue(Until), "--until")
                )
            );
        return wishes;
    }

    private static async Task<int> DecideAsync(
        Session session,
        ParseResult parsed,
        SweepView swept,
        LeftOverRequest wish,
        CancellationToken cancellation
    )
    {
        var meant = wish
            .Keys.SelectMany(which =>
            {
                var found = swept
                    .LeftOver.Where(one =>
                        which.Equals("all", StringComparison.OrdinalIgnoreCase) && one.State == "found"
                        || one.Key == which
                        || one.SignInName.Equals(which, StringComparison.OrdinalIgnoreCase)
                    )
                    .ToList();
                return found.Count > 0
                    ? found
                    : throw new UsageException(
                        $"Nothing that is left over in {swept.Name} is called {which}."
                    );
            })
            .DistinctBy(one => one.Key)
            .ToList();
        if (!session.Json)
            LeftOver.Print(meant);
        var isDry = parsed.GetValue(CommonOptions.DryRun);
        var question = wish.Decision switch
        {
            "remove" => $"Remove {Texts.Many(meant.Count, "account", "accounts")} in {swept.Name}?",
            "adopt" => $"Is it the account of {wish.Person}?",
            _ => $"Leave {Texts.Many(meant.Count, "account", "accounts")} as they are?",
        };
        if (!isDry && !session.Confirm(question))
        {
            Session.Say("Nothing was changed.");
            return ExitStatus.Failed;
        }
        var outcomes = new List<int>();
        foreach (var some in meant.Chunk(200))
        {
            var answer = await session.Client.DecideLeftOversAsync(
                swept.Name,
                wish with
                {
                    Keys = [.. some.Select(one => one.Key)],
                },
                isDry,
                cancellation
            );
            if (session.Json)
                Session.Print(answer, WireJson.Default.LeftOverAnswer);
            outcomes.AddRange(Enumerable.Repeat(ExitStatus.Done, answer.Done));
            foreach (var refused in answer.Refused)
                outcomes.Add(
                    session.Refuse(refused.Problem, some.First(one => one.Key == refused.Key).SignInName)
                );
        }
        var done = outcomes.Count(one => one == ExitStatus.Done);
        Session.Say(
            isDry || done == 0 ? "Nothing was changed."
            : wish.Decision == "remove"
                ? $"{Texts.Many(done, "account is", "accounts are")} removed; asked again, they are not there."
            : wish.Decision == "adopt" ? $"It is theirs. Next: aboard connections status \"{swept.Name}\""
            : $"{Texts.Many(done, "account is", "accounts are")} left until {Texts.Day(wish.Until, Texts.Today)}."
        );
        return ExitStatus.Of(outcomes);
    }

    private static void Print(SweepView swept)
    {
        if (swept.Otherwise.Count > 0)
            Otherwise.Print([.. swept.Otherwise.Take(Shown)]);
        if (swept.LeftOver.Count > 0)
            LeftOver.Print([.. swept.LeftOver.Take(Shown)]);
        var open = swept.LeftOver.Count(one => one.State == "found");
        var leftOver =
            swept.LeftOverTotal == 0 ? "nothing left over"
            : open == swept.LeftOver.Count ? $"{swept.LeftOverTotal} left over"
            : $"{swept.LeftOverTotal} left over, of which {swept.LeftOver.Count - open} may stay for now";
        var otherwise =
            swept.OtherwiseTotal == 0
                ? "what it ought to hold, it holds"
                : $"{swept.OtherwiseTotal} otherwise, put right by itself";
        Console.WriteLine(
            $"{swept.Name} holds {Texts.Many(swept.Accounts, "account", "accounts")}: {otherwise}, {leftOver}."
        );
        foreach (var group in swept.MissingGroups)
            Console.WriteLine(
                $"It has no group \"{group}\": whoever is to be in it waits until there is one."
            );
        if (open > 0)
            Session.Say(
                $"Next: aboard connections sweep \"{swept.Name}\" --remove WHICH | --adopt WHICH --person ADDRESS | --leave WHICH --reason TEXT --until DATE"
            );
    }
}
