using System.CommandLine;
using ComeAboard.Client;
using ComeAboard.Client.Access;

namespace ComeAboard.Cli.Access;

/// <summary><c>aboard resources access</c>: who has access, at what level, from where.</summary>
public static class ResourceAccessCommand
{
    private static readonly Argument<string> Resource = new("RESOURCE") { Description = "Its name or id" };
    private static readonly Option<string?> Search = new("--search")
    {
        Description = "Any part of a name or address",
    };
    private static readonly Option<string?> Kind = new("--kind")
    {
        Description = "staff, guest, partner or client",
    };
    private static readonly Option<string?> Level = new("--level")
    {
        Description = "none, view, contribute, edit or manage",
    };

    private static readonly Listing<AccessLine> AccessTable = new(
        new("Name", l => l.Name),
        new("Address", l => l.Address, 3),
        new("Kind", l => l.Kind, 2),
        new("Level", l => l.Level),
        new("From where", Where),
        new("Until", l => Texts.Day(l.Until, Texts.Today), 1),
        new("Cut", l => l.Cut, 4)
    );

    public static Command Make()
    {
        var access = Commands.Made(
            "access",
            "Who has access, at what level, from where, until when",
            [Resource, Search, Kind, Level, CommonOptions.Limit, Commands.Csv]
        );
        Session.On(
            access,
            async (session, parsed, cancellation) =>
            {
                var name = parsed.GetValue(Resource)!;
                if (parsed.GetValue(Commands.Csv))
                    return await Commands.PrintCsvAsync(
                        session,
                        $"resources/{Uri.EscapeDataString(name)}/access?format=csv",
                        cancellation
                    );
                var found = new List<AccessLine>();
                var limit = parsed.GetValue(CommonOptions.Limit);
                AccessPage page;
                string? cursor = null;
                do
                {
                    page = await session.Client.ResourceAccessAsync(
                        name,
                        parsed.GetValue(Search),
                        parsed.GetValue(Kind),
                        parsed.GetValue(Level),
                        cursor,
                        Math.Clamp(limit - found.Count, 1, 200),
                        cancellation
                    );
                    found.AddRange(page.Items);
                    cursor = page.Next;
                } while (cursor is not null && found.Count < limit);
                if (session.Json)
                    Session.Print(page with { Items = found, Next = cursor }, WireJson.Default.AccessPage);
                else
                    Print(name, found, page);
                return ExitStatus.Done;
            }
        );
        return access;
    }

    private static void Print(string resource, List<AccessLine> found, AccessPage page)
    {
        if (found.Count == 0)
            Console.WriteLine($"Nobody has access to {resource}.");
        else
            AccessTable.Print(found);
        foreach (var off in page.SwitchedOff)
            Console.WriteLine(
                $"Switched off here: {off.Name}{(off.IsOrganisation ? " (organisation)" : "")}"
            );
        Console.WriteLine(
            $"{page.Total} people; give somebody a role here: aboard people grant ADDRESS --role ROLE --resource \"{resource}\""
        );
    }

    private static string Where(AccessLine line) =>
        string.Join(
            ", ",
            line.Paths.Where(path => path.Counts || line.Level == "none")
                .Select(path =>
                    path.ThroughName.Length > 0
                        ? $"{path.Role} via {path.ThroughName}"
                        : path.Role + " directly"
                )
        );
}
