using System.CommandLine;
using ComeAboard.Cli.Invitations;
using ComeAboard.Client;
using ComeAboard.Client.Connections;
using ComeAboard.Client.Invitations;

namespace ComeAboard.Cli.Connections;

/// <summary><c>aboard connections …</c>: outside systems that people are read from, or access is carried out to.</summary>
public static class ConnectionCommands
{
    /// <summary>The connection that is meant.</summary>
    public static Argument<string> Name { get; } =
        new("NAME") { Description = "What people know it by, such as \"Harbour authority\", or its id" };

    private static readonly Option<string> Type = new("--type")
    {
        Description = "What it is: file (LDIF, CSV or XLSX), ldap, scim, postgres or webhook",
        Required = true,
    };

    private static readonly Option<FileInfo?> FileOption = new("--file")
    {
        Description = "The file, for the type file",
        HelpName = "FILE",
    };

    private static readonly Option<string?> Url = new("--url")
    {
        Description =
            "Where it is: ldaps://HOST, ldap://HOST (StartTLS), https://HOST/PATH or postgres://HOST/DATABASE",
        HelpName = "URL",
    };

    private static readonly Option<string?> Base = new("--base")
    {
        Description = "Below which entry people are (LDAP), such as ou=people,o=harbour",
        HelpName = "DN",
    };

    private static readonly Option<string?> Filter = new("--filter")
    {
        Description = "Which of its entries are people, where not the usual ones",
    };

    private static readonly Option<string?> SignInAs = new("--sign-in-as")
    {
        Description =
            "The entry to sign in with (LDAP), or the login (PostgreSQL; come_aboard where not said)",
        HelpName = "DN",
    };

    private static readonly Option<bool> SecretStdin = new("--secret-stdin")
    {
        Description =
            "Read its password, its bearer token, or what webhooks are signed with from standard input",
    };

    private static readonly Option<FileInfo?> Certificate = new("--certificate")
    {
        Description =
            "The certificates (PEM) of the authority that vouches for it, where that is no public one",
        HelpName = "FILE",
    };

    private static readonly Option<string?> Newcomers = new("--newcomers")
    {
        Description = "What becomes of those who are new: invite, add or nothing",
    };

    private static readonly Option<string[]> Wins = new("--wins")
    {
        Description =
            "Whose value of a field wins, as FIELD=filled|theirs|ours; fields are name, organisation, title, department, manager, country",
        HelpName = "FIELD=WHOSE",
    };

    private static readonly Option<int?> Every = new("--every")
    {
        Description = "Read it again after so many hours; 0 for by hand only",
        HelpName = "HOURS",
    };

    private static readonly Option<int?> Floor = new("--floor")
    {
        Description =
            "How many of a hundred may be gone at once before nothing is believed; 10 where not said",
        HelpName = "SHARE",
    };

    private static readonly Option<string?> TokenUrl = new("--token-url")
    {
        Description = "Where a token is asked for with the secret (OAuth 2.0 client credentials)",
        HelpName = "URL",
    };

    private static readonly Option<string?> ClientId = new("--client-id")
    {
        Description = "As which client the token is asked for",
    };

    private static readonly Option<bool?> AllowPrivate = new("--allow-private")
    {
        Description = "An address of this network is meant; the operator has to allow it, too",
        Arity = ArgumentArity.ZeroOrOne,
    };

    private static readonly Option<string?> Kind = new("--kind")
    {
        Description = "The kind of those who are new",
    };

    private static readonly Option<string?> Preset = new("--preset")
    {
        Description = "A preset that says what those who are new get",
    };

    private static readonly Option<string?> Host = new("--host")
    {
        Description = "The address of the host of those who are new",
    };

    private static readonly Option<string?> Until = new("--until")
    {
        Description = "The last day of those who are new",
        HelpName = "DATE",
    };

    private static readonly Listing<ConnectionView> Table = new(
        new("Name", c => c.Name),
        new("Type", c => c.Type, 3),
        new("At", c => c.Place, 4),
        new("Last read", c => c.LastReadAt is { } at ? Texts.Instant(at) : "never", 2),
        new("To decide", c => c.Counts["to-decide"].ToString(), 0, true),
        new("To do", c => (c.Counts["to-join"] + c.Counts["to-bring-in"]).ToString(), 0, true),
        new("Gone", c => c.Counts["gone"].ToString(), 1, true),
        new("State", c => c.Problem is null ? c.State : "stopped: " + c.Problem.Title, 1)
    );

    public static Command Make()
    {
        Symbol[] how =
        [
            Url,
            Base,
            Filter,
            SignInAs,
            SecretStdin,
            Certificate,
            TokenUrl,
            ClientId,
            AllowPrivate,
            Newcomers,
            Wins,
            Every,
            Floor,
            Kind,
            Preset,
            Giving.Role,
            Giving.Resource,
            Giving.Group,
            Giving.Seat,
            Host,
            Until,
            CommonOptions.DryRun,
        ];
        return new Command(
            "connections",
            "Outside systems that people are read from, or access is carried out to"
        )
        {
            Commands.List(
                "List the connections",
                [],
                async (session, _, cancellation) =>
                    (await session.Client.ConnectionsAsync(cancellation)).Items,
                Table,
                WireJson.Default.ConnectionView,
                "There is no connection. Add one: aboard connections add NAME --type file --file people.ldif",
                _ => "connections?format=csv"
            ),
            Commands.Do(
                "add",
                "Add an outside system; nobody is read, joined or invited as yet",
                [Name, Type, FileOption, .. how],
                AddAsync,
                WireJson.Default.ConnectionView,
                (connection, parsed) =>
                {
                    Print(connection);
                    Commands.Said(
                        parsed,
                        $"{connection.Name} is in the list; nobody here is changed by it.",
                        $"aboard connections preview \"{connection.Name}\""
                    );
                }
            ),
            Commands.Do(
                "change",
                "Change how it is read; what is not named stays, and so does what was decided",
                [Name, .. how],
                ChangeAsync,
                WireJson.Default.ConnectionView,
                (connection, parsed) =>
                {
                    Print(connection);
                    Commands.Said(parsed, $"{connection.Name} is changed.", "aboard connections list");
                }
            ),
            Commands.Do(
                "test",
                "Ask it whether it answers, and show the first of its people",
                [Name],
                (session, parsed, cancellation) =>
                    session.Client.TestConnectionAsync(parsed.GetValue(Name)!, cancellation),
                WireJson.Default.ConnectionTest,
                (test, _) =>
                {
                    foreach (var one in test.Sample)
                        Console.WriteLine(
                            $"  {one.Name}{(one.Address.Length > 0 ? $" <{one.Address}>" : "")}{(one.Title.Length > 0 ? ", " + one.Title : "")}"
                        );
                    Console.WriteLine(
                        test.IsWhole && test.Seen == 0 ? "It answers."
                        : test.IsWhole ? $"It answers: {Texts.Many(test.Seen, "person", "people")}."
                        : $"It answers: {test.Seen} people on its first page, and more."
                    );
                }
            ),
            CarryingCommands.Map(),
            CarryingCommands.Unmap(),
            MatchTableCommands.Preview(),
            CarryingCommands.Status(),
            SweepCommands.Sweep(),
            SweepCommands.Deliveries(),
            SweepCommands.SendAgain(),
            SweepCommands.Script(),
            CarryingCommands.Pause(),
            CarryingCommands.Resume(),
            MatchTableCommands.Decide(),
            MatchTableCommands.Run(),
            MatchTableCommands.Show(),
            Commands.Do(
                "remove",
                "Remove a connection and what was read of it; nobody leaves by it",
                [Name, CommonOptions.DryRun],
                (session, parsed, cancellation) =>
                    session.Client.RemoveConnectionAsync(
                        parsed.GetValue(Name)!,
                        parsed.GetValue(CommonOptions.DryRun),
                        cancellation
                    ),
                WireJson.Default.ConnectionView,
                (connection, parsed) =>
                    Commands.Said(
                        parsed,
                        $"{connection.Name} is not in the list any more; everybody who came by it stays.",
                        "aboard connections list"
                    )
            ),
        };
    }

    /// <summary>Prints how a connection is read, and what stands.</summary>
    public static void Print(ConnectionView connection)
    {
        Console.WriteLine($"{connection.Name} ({connection.Type})");
        Line("at", connection.Place);
        Line("below", connection.Base);
        Line("filter", connection.Filter);
        Line("signs in as", connection.SignInAs);
        // Such systems are carried out to, and nobody is read out of them.
        if (connection.Type is "postgres" or "webhook")
            return;
        Line(
            "newcomers",
            connection.Newcomers switch
            {
                "invite" => "are invited" + Gets(connection.Defaults),
                "add" => "get an account of the workspace",
                _ => "are left alone",
            }
        );
        Line(
            "values",
            string.Join(
                ", ",
                connection
                    .Wins.GroupBy(one => one.Value)
                    .Select(same => $"{same.Key}: {string.Join(" ", same.Select(one => one.Key))}")
            )
        );
        Line("read", connection.EveryHours > 0 ? $"every {connection.EveryHours} hours" : "by hand");
        Line("floor", $"nothing is believed when more than {connection.Floor} of 100 are gone at once");
        if (connection.LastReadAt is { } at)
            Line("last read", Texts.Instant(at));

        static void Line(string what, string text)
        {
            if (text.Length > 0)
                Console.WriteLine($"  {what, -12} {text}");
        }
    }

    /// <summary>What stands of a connection, in one line.</summary>
    public static string CountsOf(ConnectionView connection)
    {
        var counts = connection.Counts;
        var verdicts = ((string[])["same", "likely", "new", "conflicting", "leave-out", "gone"])
            .Where(word => counts[word] > 0)
            .Select(word => $"{counts[word]} {word}");
        return string.Join(", ", verdicts)
            + $". To do: {counts["to-join"]} to join, {counts["to-bring-in"]} to bring in; {counts["to-decide"]} to decide; {counts["done"]} done"
            + (counts["refused"] > 0 ? $", {counts["refused"]} refused." : ".");
    }

    private static string Gets(BatchDefaults defaults)
    {
        string?[] said =
        [
            defaults.Kind is { } kind ? "as " + kind : null,
            defaults.Preset is { } preset ? $"by the preset \"{preset}\"" : null,
            defaults.Role is { } role ? role : null,
            defaults.Gives is { } gives ? Texts.Gives(gives) : null,
            defaults.Host is { } host ? "hosted by " + host : null,
        ];
        var words = said.OfType<string>().ToList();
        return words.Count > 0 ? ": " + string.Join(", ", words) : "";
    }

    private static async Task<ConnectionView> AddAsync(
        Session session,
        ParseResult parsed,
        CancellationToken cancellation
    )
    {
        var isDry = parsed.GetValue(CommonOptions.DryRun);
        var file = parsed.GetValue(FileOption);
        // What cannot be read is said before anything is kept.
        var content = file is null ? null : await Files.ReadAsync(file.ToString(), cancellation);
        var added = await session.Client.AddConnectionAsync(
            await ReadAsync(parsed, null, cancellation),
            isDry,
            cancellation
        );
        if (content is null || isDry)
            return added;
        try
        {
            return await session.Client.HandInAsync(
                added.Name,
                new MemoryStream(content),
                file!.Name,
                cancellation
            );
        }
        catch (RefusedException)
        {
            await session.Client.RemoveConnectionAsync(added.Name, false, cancellation);
            throw;
        }
    }

    private static async Task<ConnectionView> ChangeAsync(
        Session session,
        ParseResult parsed,
        CancellationToken cancellation
    )
    {
        var name = parsed.GetValue(Name)!;
        var before = await session.Client.ConnectionAsync(name, cancellation);
        return await session.Client.ChangeConnectionAsync(
            name,
            await ReadAsync(parsed, before, cancellation),
            parsed.GetValue(CommonOptions.DryRun),
            cancellation
        );
    }

    private static async Task<ConnectionRequest> ReadAsync(
        ParseResult parsed,
        ConnectionView? before,
        CancellationToken cancellation
    )
    {
        var defaults = before?.Defaults ?? new BatchDefaults();
        var wins = (before?.Wins ?? new Dictionary<string, string>()).ToDictionary(
            one => one.Key,
            one => one.Value
        );
        foreach (var written in parsed.GetValue(Wins) ?? [])
            if (written.Split('=') is [var field, var whose])
                wins[field.Trim()] = whose.Trim();
            else
                throw new UsageException(
                    $"\"{written}\" does not say whose value wins, such as title=theirs."
                );
        return new ConnectionRequest(
            before?.Name ?? parsed.GetValue(Name)!,
            before?.Type ?? parsed.GetValue(Type),
            parsed.GetValue(Url) ?? (before?.Type == "file" ? null : before?.Place),
            parsed.GetValue(Base) ?? before?.Base,
            parsed.GetValue(Filter) ?? before?.Filter,
            parsed.GetValue(SignInAs) ?? before?.SignInAs,
            parsed.GetValue(SecretStdin) ? (await Console.In.ReadLineAsync(cancellation))?.Trim() : null,
            parsed.GetValue(Certificate) is { } pem
                ? System.Text.Encoding.UTF8.GetString(await Files.ReadAsync(pem.ToString(), cancellation))
                : null,
            parsed.GetValue(Newcomers) ?? before?.Newcomers,
            defaults with
            {
                Kind = parsed.GetValue(Kind) ?? defaults.Kind,
                Preset = parsed.GetValue(Preset) ?? defaults.Preset,
                Host = parsed.GetValue(Host) ?? defaults.Host,
                Until = Texts.ReadDay(parsed.GetValue(Until), "--until") ?? defaults.Until,
                Gives = Giving.Read(parsed, defaults.Gives),
            },
            wins,
            parsed.GetValue(Every) ?? before?.EveryHours,
            parsed.GetValue(Floor) ?? before?.Floor
        )
        {
            TokenUrl = parsed.GetValue(TokenUrl),
            ClientId = parsed.GetValue(ClientId),
            AllowPrivate = parsed.GetResult(AllowPrivate) is null
                ? null
                : parsed.GetValue(AllowPrivate) ?? true,
        };
    }
}
