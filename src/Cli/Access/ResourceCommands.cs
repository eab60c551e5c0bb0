using System.CommandLine;
using ComeAboard.Client;
using ComeAboard.Client.Access;

namespace ComeAboard.Cli.Access;

/// <summary><c>aboard resources …</c>, with the areas they are in.</summary>
public static class ResourceCommands
{
    private static readonly Argument<string> Resource = new("RESOURCE") { Description = "Its name or id" };
    private static readonly Argument<string> AreaName = new("AREA") { Description = "Its name or id" };
    private static readonly Option<string?> Area = new("--area") { Description = "The area it belongs to" };
    private static readonly Option<string?> About = new("--about") { Description = "A line about it" };
    private static readonly Option<string?> Owner = new("--owner")
    {
        Description = "The address of the member who owns it; of a list: whose, or me",
    };
    private static readonly Option<string?> NewName = new("--name") { Description = "Another name" };
    private static readonly Option<string?> Search = new("--search")
    {
        Description = "Any part of a name or address",
    };
    private static readonly Option<string?> Level = new("--level")
    {
        Description = "none, view, contribute, edit or manage",
    };
    private static readonly Option<string?> Person = new("--person") { Description = "A person's address" };
    private static readonly Option<string?> Organisation = new("--organisation")
    {
        Description = "An organisation's name or code",
    };
    private static readonly Option<string> From = new("--from")
    {
        Description = "Who owns them now",
        Required = true,
    };
    private static readonly Option<string> To = new("--to") { Description = "Who will", Required = true };
    private static readonly Argument<string[]> Some = new("RESOURCE")
    {
        Description = "Which; all they own when none is named",
        Arity = ArgumentArity.ZeroOrMore,
    };
    private static readonly Option<bool> Private = new("--private-entries")
    {
        Description = "People below edit see only what they made themselves",
    };
    private static readonly Option<string[]> Needs = new("--needs")
    {
        Description = "AREA=LEVEL that whoever sees it needs; may be given several times",
    };

    private static readonly Listing<ResourceView> Table = new(
        new("Resource", r => r.Name),
        new("Area", r => r.Area),
        new("Owner", r => r.Owner, 1),
        new("People", r => r.People.ToString(), 0, true),
        new("Outsiders", r => r.Outsiders.ToString(), 0, true),
        new("About", r => r.About, 2)
    );

    private static readonly Listing<AreaView> AreaTable = new(
        new("Area", a => a.Name),
        new("Entries", a => a.PrivateEntries ? "private" : "seen by all", 1),
        new("Resources", a => a.Resources.ToString(), 0, true),
        new("Needs", a => string.Join(", ", a.Needs.Select(n => $"{n.Area} {n.Level}")))
    );

    private static readonly NamedCommands<ResourceRequest, ResourceView, ResourceView> Resources = new(
        "resource",
        Resource,
        client => client.Resources,
        WireJson.Default.ResourceView,
        WireJson.Default.ResourceView
    );

    public static Command Make() =>
        new("resources", "What people get access to, and who has it")
        {
            Commands.List(
                "List resources by area",
                [Area, Search, Owner],
                async (session, parsed, cancellation) =>
                    (
                        await session.Client.FindResourcesAsync(
                            parsed.GetValue(Area),
                            parsed.GetValue(Search),
                            parsed.GetValue(Owner),
                            cancellation
                        )
                    ).Items,
                Table,
                WireJson.Default.ResourceView,
                "There is no resource. Make one: aboard resources add NAME --area AREA",
                _ => "resources?format=csv"
            ),
            Resources.Show(Print),
            ResourceAccessCommand.Make(),
            AddAndChange(),
            Resources.Remove("grants there"),
            Switch("off", "Switch a person or an organisation off for a resource, whatever is given to them"),
            Switch("on", "Switch them on again"),
            HandOver(),
            Commands
                .List(
                    "List areas",
                    [],
                    async (session, _, cancellation) =>
                        (await session.Client.Areas.ListAsync(cancellation)).Items,
                    AreaTable,
                    WireJson.Default.AreaView,
                    "There is no area. Make one: aboard resources area NAME",
                    _ => "areas?format=csv"
                )
                .Named("areas"),
            SaveArea(),
        };

    private static Command Named(this Command list, string name)
    {
        var named = new Command(name, list.Description);
        foreach (var option in list.Options)
            named.Options.Add(option);
        named.Action = list.Action;
        return named;
    }

    private static Command[] AddAndChange() =>
        Resources.AddAndChange(
            [Area, About, Owner],
            (parsed, name, before) =>
                new ResourceRequest(
                    name,
                    parsed.GetValue(Area)
                        ?? before?.Area
                        ?? throw new UsageException("In which area? Give --area."),
                    parsed.GetValue(About) ?? before?.About,
                    parsed.GetValue(Owner) ?? before?.OwnerId?.ToString()
                ),
            (resource, parsed) =>
            {
                Print(resource);
                if (resource.Difference is { Total: > 0 } difference)
                    Commands.Print(difference);
                Commands.Said(
                    parsed,
                    $"The resource {resource.Name} is kept.",
                    $"aboard resources access \"{resource.Name}\""
                );
            }
        );

    private static Command Switch(string verb, string description) =>
        Commands.Do(
            verb,
            description,
            [Resource, Person, Organisation, CommonOptions.DryRun],
            async (session, parsed, cancellation) =>
            {
                var (person, organisation) = (parsed.GetValue(Person), parsed.GetValue(Organisation));
                if (person is null == organisation is null)
                    throw new UsageException("Whom? Give either --person or --organisation.");
                var resource = parsed.GetValue(Resource)!;
                var dryRun = parsed.GetValue(CommonOptions.DryRun);
                if (verb == "off")
                    return await session.Client.SwitchOffAsync(
                        resource,
                        new SwitchRequest(person, organisation),
                        dryRun,
                        cancellation
                    );
                var holder = person is not null
                    ? (await session.Client.PersonAsync(person, cancellation)).Id
                    : (await session.Client.Organisations.ShowAsync(organisation!, cancellation)).Id;
                return await session.Client.SwitchOnAsync(resource, holder, dryRun, cancellation);
            },
            WireJson.Default.EditAnswer,
            (answer, parsed) =>
            {
                Commands.Print(answer.Difference);
                Commands.Said(
                    parsed,
                    $"Switched {verb}.",
                    $"aboard resources access \"{parsed.GetValue(Resource)}\""
                );
            }
        );

    private static Command HandOver() =>
        Commands.Do(
            "handover",
            "Hand resources from one owner to another, in one step",
            [Some, From, To, CommonOptions.DryRun],
            (session, parsed, cancellation) =>
                session.Client.HandOverAsync(
                    new HandoverRequest(parsed.GetValue(From)!, parsed.GetValue(To)!, parsed.GetValue(Some)),
                    parsed.GetValue(CommonOptions.DryRun),
                    cancellation
                ),
            WireJson.Default.HandoverAnswer,
            (answer, parsed) =>
                Commands.Said(
                    parsed,
                    answer.Resources.Count == 0
                        ? "There was nothing to hand over."
                        : $"{string.Join(", ", answer.Resources)} now owned by {answer.To}.",
                    $"aboard resources list --owner {parsed.GetValue(To)}"
                )
        );

    private static Command SaveArea() =>
        Commands.Do(
            "area",
            "Make an area, or change the one of that name",
            [AreaName, NewName, Private, Needs, CommonOptions.DryRun],
            async (session, parsed, cancellation) =>
            {
                var name = parsed.GetValue(AreaName)!;
                var before = (await session.Client.Areas.ListAsync(cancellation)).Items.FirstOrDefault(a =>
                    a.Name.Equals(name, StringComparison.OrdinalIgnoreCase)
                );
                var needs = parsed.GetValue(Needs);
                var request = new AreaRequest(
                    parsed.GetValue(NewName) ?? before?.Name ?? name,
                    parsed.GetValue(Private) || before?.PrivateEntries == true,
                    needs is { Length: > 0 } ? Commands.Levels(needs) : before?.Needs
                );
                var dryRun = parsed.GetValue(CommonOptions.DryRun);
                return before is null
                    ? await session.Client.Areas.AddAsync(request, dryRun, cancellation)
                    : await session.Client.Areas.ChangeAsync(
                        before.Id.ToString(),
                        request,
                        dryRun,
                        before.Version,
                        cancellation
                    );
            },
            WireJson.Default.AreaView,
            (area, parsed) =>
                Commands.Said(parsed, $"The area {area.Name} is kept.", "aboard resources areas")
        );

    private static void Print(ResourceView resource)
    {
        Console.WriteLine($"{resource.Name} ({resource.Area})");
        if (resource.About.Length > 0)
            Console.WriteLine($"  {resource.About}");
        Console.WriteLine($"  owner   {(resource.Owner.Length > 0 ? resource.Owner : "nobody")}");
        Console.WriteLine($"  access  {resource.People} people, {resource.Outsiders} of them outsiders");
    }
}
