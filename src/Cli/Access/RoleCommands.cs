using System.CommandLine;
using ComeAboard.Client;
using ComeAboard.Client.Access;
using Spectre.Console;

namespace ComeAboard.Cli.Access;

/// <summary><c>aboard roles …</c></summary>
public static class RoleCommands
{
    private static readonly Argument<string> Role = new("ROLE") { Description = "Its name or id" };
    private static readonly Argument<string[]> Some = new("ROLE")
    {
        Description = "Their names; all roles when none is named",
        Arity = ArgumentArity.ZeroOrMore,
    };
    private static readonly Option<string?> Sentence = new("--sentence")
    {
        Description =
            "What its holder can do, in one plain sentence that fits behind \"You can\": Enter deck bookings.",
    };
    private static readonly Option<string?> Everywhere = new("--everywhere")
    {
        Description = "The level in every area not named: none, view, contribute, edit or manage",
    };
    private static readonly Option<string[]> Areas = new("--in")
    {
        Description = "AREA=LEVEL; may be given several times",
    };
    private static readonly Option<string?> Duties = new("--duties")
    {
        Description =
            "invite, approve, people, access, seats, claims, record, settings; separated by commas, or none",
    };
    private static readonly Option<bool> Raise = new("--raise")
    {
        Description = "Where an area needs another: raise the role there as well",
    };
    private static readonly Option<bool> Lower = new("--lower")
    {
        Description = "Where an area needs another: leave the area out",
    };

    private static readonly Listing<RoleDetail> Table = new(
        new("Role", r => r.Name),
        new("Elsewhere", r => r.Everywhere, 1),
        new("Areas", r => string.Join(", ", r.Areas.Select(a => $"{a.Area} {a.Level}")), 3),
        new("Duties", r => string.Join(", ", r.Duties), 2),
        new("Given", r => r.Holders.ToString(), 0, true),
        new("Sentence", r => r.Sentence, 4)
    );

    private static readonly NamedCommands<RoleRequest, RoleDetail, RoleChange> Roles = new(
        "role",
        Role,
        client => client.Roles,
        WireJson.Default.RoleDetail,
        WireJson.Default.RoleChange
    );

    public static Command Make() =>
        new("roles", "What can be given: levels in areas, and duties")
        {
            Commands.List(
                "List roles",
                [],
                async (session, _, cancellation) =>
                    (await session.Client.Roles.ListAsync(cancellation)).Items,
                Table,
                WireJson.Default.RoleDetail,
                "There is no role.",
                _ => "roles?format=csv"
            ),
            Commands.Do(
                "show",
                "Show a role",
                [Role],
                (session, parsed, cancellation) =>
                    session.Client.Roles.ShowAsync(parsed.GetValue(Role)!, cancellation),
                WireJson.Default.RoleDetail,
                (role, _) => Print(role)
            ),
            Commands.Do(
                "compare",
                "Lay roles side by side",
                [Some],
                (session, parsed, cancellation) =>
                    session.Client.CompareRolesAsync(parsed.GetValue(Some) ?? [], cancellation),
                WireJson.Default.MatrixView,
                (matrix, _) => Print(matrix)
            ),
            AddAndChange(),
            Roles.Remove("grants"),
        };

    private static Command[] AddAndChange() =>
        Roles.AddAndChange(
            [Sentence, Everywhere, Areas, Duties, Raise, Lower],
            async (session, parsed, name, before, cancellation) =>
            {
                var request = Read(parsed, name, before);
                if (!parsed.GetValue(Raise) && !parsed.GetValue(Lower))
                    return request;
                var tried = await Roles.SaveAsync(session, before, request, true, cancellation);
                return request with { Areas = parsed.GetValue(Raise) ? tried.Raised : tried.Lowered };
            },
            (change, parsed) =>
            {
                Print(change.Role);
                foreach (var gap in change.Gaps)
                    Session.Say(
                        $"{gap.Area} needs {gap.AtLeast} in {gap.Needs}, and the role has {gap.Has} there: --raise, or --lower."
                    );
                Commands.Print(change.Difference);
                Commands.Said(parsed, $"The role {change.Role.Name} is kept.", "aboard roles compare");
            }
        );

    private static RoleRequest Read(ParseResult parsed, string name, RoleDetail? before)
    {
        var areas = (before?.Areas ?? []).ToDictionary(a => a.Area, a => a.Level);
        foreach (var (area, level) in Commands.Levels(parsed.GetValue(Areas)))
            areas[area] = level;
        var duties = parsed.GetValue(Duties);
        return new RoleRequest(
            name,
            parsed.GetValue(Sentence)
                ?? before?.Sentence
                ?? throw new UsageException("What can its holder do? Give --sentence."),
            parsed.GetValue(Everywhere) ?? before?.Everywhere,
            [.. areas.Select(a => new AreaLevel(a.Key, a.Value))],
            duties is null ? before?.Duties
                : duties == "none" ? []
                : Commands.Words(duties)
        );
    }

    private static void Print(RoleDetail role)
    {
        Console.WriteLine($"{role.Name}: {role.Sentence}");
        foreach (var (area, level) in role.Areas)
            Console.WriteLine($"  {area, -20} {level}");
        Console.WriteLine($"  {"everything else", -20} {role.Everywhere}");
        Console.WriteLine($"  duties: {(role.Duties.Count == 0 ? "none" : string.Join(", ", role.Duties))}");
        if (role.Holders > 0)
            Console.WriteLine($"  given {role.Holders} times");
    }

    private static void Print(MatrixView matrix)
    {
        var table = new Table().Border(TableBorder.Simple).AddColumn("");
        foreach (var role in matrix.Roles)
            table.AddColumn(new TableColumn(new Text(role.Name)));
        foreach (var line in matrix.Lines)
            table.AddRow([
                new Text((line.Differs ? "≠ " : "  ") + (line.IsDuty ? "duty " : "") + line.What),
                .. line.Cells.Select(cell => new Text(cell is "none" or "no" ? "–" : cell)),
            ]);
        if (Console.IsOutputRedirected)
            AnsiConsole.Profile.Width = 400;
        AnsiConsole.Write(table);
        Console.WriteLine("≠ marks where they differ.");
    }
}
