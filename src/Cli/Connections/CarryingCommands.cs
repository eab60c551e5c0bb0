using System.CommandLine;
using ComeAboard.Client;
using ComeAboard.Client.Connections;

namespace ComeAboard.Cli.Connections;

/// <summary>Carrying access out: <c>map</c>, <c>unmap</c>, <c>preview</c>, <c>status</c>, <c>pause</c> and <c>resume</c>.</summary>
public static class CarryingCommands
{
    private const int Shown = 60;

    private static readonly Option<string?> Role = new("--role")
    {
        Description = "Whoever this role is given to",
    };

    private static readonly Option<string?> Group = new("--group")
    {
        Description = "Whoever is in this group",
    };

    private static readonly Option<string?> Resource = new("--resource")
    {
        Description = "Whoever may do something at this resource: view at least, or the level after a colon",
        HelpName = "RESOURCE[:LEVEL]",
    };

    private static readonly Option<string> To = new("--to")
    {
        Description =
            "What they have there: accounts, for an account and nothing more, or group: and the name of a group there",
        HelpName = "accounts|group:THEIRS",
        Required = true,
    };

    private static readonly Argument<string> Line = new("LINE")
    {
        Description = "The line, by its number in the status or its id",
    };

    private static readonly Option<string?> State = new("--state")
    {
        Description = "Show the accounts in this state: due, stuck, confirmed, told or \"by hand\"",
    };

    private static readonly Listing<ThereChangeView> Changes = new(
        new("Who", change => $"{change.Name} <{change.Address}>"),
        new(
            "Account there",
            change =>
                change.IsTakenOver ? "there already: taken over"
                : change.Deeds[0] == "make" ? "none as yet"
                : "made by us",
            1
        ),
        new("Is to be", change => change.Sentence)
    );

    private static readonly Listing<AccountThereView> Accounts = new(
        new("Who", account => $"{account.Name} <{account.Address}>"),
        new("Is to be", account => Said(account.Wanted, account.Groups)),
        new(
            "Was read as",
            account => account.Held.Length > 0 ? Said(account.Held, account.HeldGroups) : "",
            2
        ),
        new("State", account => account.State),
        new("Since", account => account.Since is { } since ? Texts.Instant(since) : "", 3),
        new("Tries", account => account.Tries > 0 ? account.Tries.ToString() : "", 4, true),
        new("Answer", account => account.Answer, 1)
    );

    public static Command Map()
    {
        var map = Commands.Made(
            "map",
            "Say who has what there: shows what follows from it there, asks, and has it carried out",
            [ConnectionCommands.Name, Role, Group, Resource, To, CommonOptions.DryRun]
        );
        Session.On(
            map,
            async (session, parsed, cancellation) =>
            {
                var name = parsed.GetValue(ConnectionCommands.Name)!;
                var request = RequestOf(parsed);
                // What it says wrongly is said before anything is asked of anybody.
                await session.Client.AddMappingAsync(name, request, dryRun: true, cancellation);
                if (parsed.GetValue(CommonOptions.DryRun))
                    return await PreviewAsync(session, name, new PreviewRequest(request), cancellation);
                if (!session.Yes)
                {
                    await PreviewAsync(
                        session,
                        name,
                        new PreviewRequest(request),
                        cancellation,
                        isQuestion: true
                    );
                    if (!session.Confirm("Have that carried out from now on?"))
                    {
                        Session.Say("Nothing was changed.");
                        return ExitStatus.Failed;
                    }
                }
                var line = await session.Client.AddMappingAsync(name, request, cancellation: cancellation);
                if (session.Json)
                    Session.Print(line, WireJson.Default.MappingView);
                else
                    Console.WriteLine($"{name}: {Said(line)}");
                Session.Say($"It is carried out from now on. Next: aboard connections status \"{name}\"");
                return ExitStatus.Done;
            }
        );
        return map;
    }

    public static Command Unmap()
    {
        var unmap = Commands.Made(
            "unmap",
            "Take a line of the mapping away: whoever has something there by it alone loses it there",
            [ConnectionCommands.Name, Line, CommonOptions.DryRun]
        );
        Session.On(
            unmap,
            async (session, parsed, cancellation) =>
            {
                var name = parsed.GetValue(ConnectionCommands.Name)!;
                var mapping = (await session.Client.LaneAsync(name, cancellation)).Mapping;
                var said = parsed.GetValue(Line)!;
                var line =
                    (
                        int.TryParse(said, out var number)
                            ? mapping.ElementAtOrDefault(number - 1)
                            : mapping.FirstOrDefault(one => one.Id.ToString() == said)
                    ) ?? throw new UsageException($"The mapping of {name} has no line {said}.");
                var preview = new PreviewRequest(null, line.Id);
                if (parsed.GetValue(CommonOptions.DryRun))
                    return await PreviewAsync(session, name, preview, cancellation);
                if (!session.Yes)
                {
                    await PreviewAsync(session, name, preview, cancellation, isQuestion: true);
                    if (!session.Confirm($"Take away: {Said(line)}?"))
                    {
                        Session.Say("Nothing was changed.");
                        return ExitStatus.Failed;
                    }
                }
                var removed = await session.Client.RemoveMappingAsync(
                    name,
                    line.Id,
                    cancellation: cancellation
                );
                if (session.Json)
                    Session.Print(removed, WireJson.Default.MappingView);
                Session.Say($"Taken away: {Said(removed)}. Next: aboard connections status \"{name}\"");
                return ExitStatus.Done;
            }
        );
        return unmap;
    }

    public static Command Status()
    {
        var status = Commands.Made(
            "status",
            "Show how carrying out to it stands: what waits, since when and why, what was confirmed last",
            [ConnectionCommands.Name, State]
        );
        Session.On(
            status,
            async (session, parsed, cancellation) =>
            {
                var name = parsed.GetValue(ConnectionCommands.Name)!;
                var lane = await session.Client.LaneAsync(name, cancellation);
                if (parsed.GetValue(State) is not { } state)
                {
                    if (session.Json)
                        Session.Print(lane, WireJson.Default.LaneView);
                    else
                        Print(lane);
                    return ExitStatus.Done;
                }
                var accounts = await Commands.AllAsync(cursor =>
                    session.Client.AccountsThereAsync(name, state, cursor, cancellation)
                );
                if (session.Json)
                    foreach (var account in accounts)
                        Session.Print(account, WireJson.Default.AccountThereView);
                else if (accounts.Count == 0)
                    Console.WriteLine("None.");
                else
                    Accounts.Print(accounts);
                return ExitStatus.Done;
            }
        );
        return status;
    }

    public static Command Pause() =>
        Held("pause", "Have carrying out to it wait; what ends here still ends here at once", true);

    public static Command Resume() => Held("resume", "Have carrying out to it go on", false);

    /// <summary>Whether something is carried out to a connection.</summary>
    public static async Task<bool> CarriesAsync(Session session, string name, CancellationToken cancellation)
    {
        try
        {
            return (await session.Client.LaneAsync(name, cancellation)).State != "nothing-mapped";
        }
        catch (RefusedException refused) when (refused.Problem.Status == 403)
        {
            // Whoever may only look after its records sees those.
            return false;
        }
    }

    /// <summary>Shows what would be carried out at this moment.</summary>
    public static async Task<int> PreviewAsync(
        Session session,
        string name,
        PreviewRequest? request,
        CancellationToken cancellation,
        bool isQuestion = false
    )
    {
        var preview = await session.Client.PreviewCarryingAsync(name, request, cancellation);
        if (session.Json)
        {
            if (!isQuestion)
                Session.Print(preview, WireJson.Default.PushPreview);
            return ExitStatus.Done;
        }
        if (preview.Total > 0)
            Changes.Print([.. preview.Changes.Take(Shown)]);
        if (preview.Total > Shown)
            Console.WriteLine($"The first {Shown} of {preview.Total}; --json has a thousand.");
        Console.WriteLine(
            preview.Total == 0
                ? "It holds what it ought to: nothing would be done."
                : $"{Texts.Many(preview.Total, "account", "accounts")}: {string.Join(", ", preview.Counts.Select(one => $"{one.Value} × {one.Key}"))}."
        );
        foreach (var group in preview.MissingGroups)
            Console.WriteLine(
                $"It has no group \"{group}\": whoever is to be in it waits until there is one."
            );
        if (preview.LeftOver > 0)
            Console.WriteLine(
                $"{Texts.Many(preview.LeftOver, "account there belongs", "accounts there belong")} to nobody who ought to have one; nothing is done to them."
            );
        if (!isQuestion)
            Session.Say("Nothing was changed.");
        return ExitStatus.Done;
    }

    private static Command Held(string verb, string description, bool isPaused) =>
        Commands.Do(
            verb,
            description,
            [ConnectionCommands.Name],
            (session, parsed, cancellation) =>
                session.Client.PauseLaneAsync(
                    parsed.GetValue(ConnectionCommands.Name)!,
                    isPaused,
                    cancellation
                ),
            WireJson.Default.LaneView,
            (lane, _) => Print(lane)
        );

    private static MappingRequest RequestOf(ParseResult parsed)
    {
        var (resource, level) = (parsed.GetValue(Resource), (string?)null);
        // A resource may have a colon in its name; a level never has anything but letters.
        if (resource?.LastIndexOf(':') is > 0 and var at && IsLevel(resource[(at + 1)..]))
            (resource, level) = (resource[..at].Trim(), resource[(at + 1)..].Trim());
        return new MappingRequest(
            parsed.GetValue(To)!,
            parsed.GetValue(Role),
            parsed.GetValue(Group),
            resource,
            level
        );

        static bool IsLevel(string text) =>
            text.Trim().ToLowerInvariant() is "none" or "view" or "contribute" or "edit" or "manage";
    }

    private static void Print(LaneView lane)
    {
        Console.WriteLine($"{lane.Name} ({lane.Type}): {Word(lane)}");
        new Beside()
            .Add("accounts", $"{lane.On} on, {lane.Off} off, as they were last read")
            .Add(
                "waits",
                lane.Waiting > 0
                    ? $"{Texts.Many(lane.Waiting, "account", "accounts")}, the oldest since {Texts.Instant(lane.Since!.Value)}{(lane.Stuck > 0 ? $"; {lane.Stuck} stuck" : "")}"
                    : "nothing"
            )
            .Add("why", lane.Answer)
            .Add("away since", lane.DownSince is { } down ? Texts.Instant(down) : null)
            .Add("next try", lane.NextTry is { } next ? Texts.Instant(next) : null)
            .Add("confirmed", lane.ConfirmedAt is { } at ? Texts.Instant(at) : "never")
            .Add(
                "swept",
                lane.SweepAnswer.Length > 0
                        ? "not since "
                            + (lane.SweptAt is { } before ? Texts.Instant(before) : "it is there")
                            + ": "
                            + lane.SweepAnswer
                    : lane.SweptAt is { } swept ? Texts.Instant(swept)
                    : null
            )
            .Add(
                "left over",
                lane.LeftOver > 0 ? $"{lane.LeftOver}: aboard connections sweep \"{lane.Name}\"" : null
            )
            .Add("mapping", lane.Mapping.Select((line, at) => $"{at + 1}  {Said(line)}"))
            .Print();
    }

    private static string Word(LaneView lane) =>
        lane.State switch
        {
            "nothing-mapped" => "nothing is carried out to it",
            "away" => "does not answer",
            "working" => "at work",
            _ => lane.State,
        };

    private static string Said(MappingView line) =>
        $"{line.Of} {(line.Subject.Length > 0 ? line.Subject : "(not here any more)")}{(line.Level.Length > 0 ? ":" + line.Level : "")} → {line.To}";

    /// <summary>What an account is, and the groups it is in.</summary>
    public static string Said(string state, IReadOnlyList<string> groups) =>
        groups.Count > 0 ? $"{state}, in {string.Join(", ", groups)}" : state;
}
