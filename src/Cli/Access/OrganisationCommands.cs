using System.CommandLine;
using ComeAboard.Client;
using ComeAboard.Client.Access;
using ComeAboard.Client.Accounts;

namespace ComeAboard.Cli.Access;

/// <summary><c>aboard organisations …</c></summary>
public static class OrganisationCommands
{
    private static readonly Argument<string> Organisation = new("ORGANISATION")
    {
        Description = "Its name, code or id",
    };
    private static readonly Option<string?> Name = new("--name") { Description = "Their name" };
    private static readonly Option<string?> Kind = new("--kind") { Description = "guest, partner or client" };
    private static readonly Option<string?> Code = new("--code")
    {
        Description = "A short code for recognition",
    };
    private static readonly Option<string?> Colour = new("--colour") { Description = "A colour as #rrggbb" };
    private static readonly Option<string?> Reference = new("--reference")
    {
        Description = "Its number in your books",
    };
    private static readonly Option<string?> Domains = new("--domains")
    {
        Description = "Its mail domains, separated by commas",
    };
    private static readonly Option<string?> Ends = new("--ends")
    {
        Description = "The last day of the agreement, such as 2027-01-31, or none",
    };
    private static readonly Option<int?> Cap = new("--cap")
    {
        Description = "How many people it may have here; -1 for any number",
    };
    private static readonly Option<string[]> Contacts = new("--contact")
    {
        Description = "NAME <ADDRESS>; may be given several times, and replaces those there were",
    };
    private static readonly Option<string?> Search = new("--search")
    {
        Description = "Any part of a name, code, number or domain",
    };
    private static readonly Option<string> Role = new("--role") { Description = "The role", Required = true };
    private static readonly Option<string?> Resource = new("--resource")
    {
        Description = "At which resource; the whole workspace when left out",
    };
    private static readonly Option<string?> Until = new("--until")
    {
        Description = "Its last day, such as 2027-01-31",
    };
    private static readonly Argument<string> Address = new("ADDRESS")
    {
        Description = "A colleague's address",
    };
    private static readonly Option<string?> Message = new("--message")
    {
        Description = "A message in plain words, without links",
    };

    private static readonly Listing<OrganisationView> Table = new(
        new("Organisation", o => o.Name),
        new("Code", o => o.Code, 2),
        new("Kind", o => o.Kind, 1),
        new("People", o => o.People + (o.Cap is { } cap ? $" of {cap}" : ""), 0, true),
        new("Invited", o => o.Invited.ToString(), 3, true),
        new("Agreement ends", o => Texts.Day(o.AgreementEnds, Texts.Today)),
        new("Gives", o => string.Join(", ", o.Grants.Select(Texts.Grant)), 4),
        new("Leads", o => string.Join(", ", o.Leads), 5)
    );

    private static readonly NamedCommands<
        OrganisationRequest,
        OrganisationView,
        OrganisationView
    > Organisations = new(
        "organisation",
        Organisation,
        client => client.Organisations,
        WireJson.Default.OrganisationView,
        WireJson.Default.OrganisationView
    );

    public static Command Make() =>
        new("organisations", "The firms and bodies outsiders belong to")
        {
            Commands.List(
                "List organisations",
                [Search, Kind],
                async (session, parsed, cancellation) =>
                    (
                        await session.Client.FindOrganisationsAsync(
                            parsed.GetValue(Search),
                            parsed.GetValue(Kind),
                            cancellation
                        )
                    ).Items,
                Table,
                WireJson.Default.OrganisationView,
                "There is none. Make one: aboard organisations add NAME --kind partner",
                _ => "organisations?format=csv"
            ),
            Organisations.Show(Print),
            AddAndChange(),
            Organisations.Remove("grants to it"),
            Grant(),
            Take(),
            Commands.Do(
                "colleagues",
                "For the lead of an organisation: your own people here",
                [],
                (session, _, cancellation) => session.Client.ColleaguesAsync(cancellation),
                WireJson.Default.ColleaguesView,
                (colleagues, _) => Print(colleagues)
            ),
            Commands.Do(
                "invite",
                "For the lead of an organisation: invite a colleague",
                [Address, Name, Message, Until],
                (session, parsed, cancellation) =>
                    session.Client.InviteColleagueAsync(
                        new ColleagueRequest(
                            parsed.GetValue(Address)!,
                            parsed.GetValue(Name),
                            parsed.GetValue(Message),
                            Texts.ReadDay(parsed.GetValue(Until), "--until")
                        ),
                        cancellation
                    ),
                WireJson.Default.InvitationView,
                (invitation, _) =>
                    Session.Say($"Invited {invitation.Address}. Next: aboard organisations colleagues")
            ),
        };

    private static Command[] AddAndChange() =>
        Organisations.AddAndChange(
            [Kind, Code, Colour, Reference, Domains, Ends, Cap, Contacts],
            Read,
            (organisation, parsed) =>
            {
                Print(organisation);
                if (organisation.Difference is { Total: > 0 } difference)
                    Commands.Print(difference);
                Commands.Said(
                    parsed,
                    $"{organisation.Name} is kept.",
                    $"aboard organisations grant \"{organisation.Name}\" --role ROLE"
                );
            }
        );

    private static OrganisationRequest Read(ParseResult parsed, string name, OrganisationView? before)
    {
        var (ends, cap) = (parsed.GetValue(Ends), parsed.GetValue(Cap));
        var contacts = parsed.GetValue(Contacts);
        return new OrganisationRequest(
            name,
            parsed.GetValue(Kind)
                ?? before?.Kind
                ?? throw new UsageException("As what do its people come? Give --kind."),
            parsed.GetValue(Code) ?? before?.Code,
            parsed.GetValue(Colour) ?? before?.Colour,
            parsed.GetValue(Reference) ?? before?.Reference,
            parsed.GetValue(Domains) is { } domains ? Commands.Words(domains) : before?.Domains,
            ends == "none" ? null : Texts.ReadDay(ends, "--ends") ?? before?.AgreementEnds,
            cap == -1 ? null : cap ?? before?.Cap,
            contacts is { Length: > 0 } ? [.. contacts.Select(ReadContact)] : null
        );
    }

    private static Command Grant() =>
        Commands.Do(
            "grant",
            "Give everybody of an organisation a role",
            [Organisation, Role, Resource, Until, CommonOptions.DryRun],
            (session, parsed, cancellation) =>
                session.Client.GrantAsync(
                    new GrantRequest(
                        parsed.GetValue(Role)!,
                        Organisation: parsed.GetValue(Organisation),
                        Resource: parsed.GetValue(Resource),
                        Until: Texts.ReadDay(parsed.GetValue(Until), "--until")
                    ),
                    parsed.GetValue(CommonOptions.DryRun),
                    cancellation
                ),
            WireJson.Default.GrantAnswer,
            (answer, parsed) =>
            {
                Commands.Print(answer.Difference);
                Commands.Said(
                    parsed,
                    $"Given: {Texts.Grant(answer.Grant)} ({answer.Grant.Holder}).",
                    $"aboard organisations show \"{answer.Grant.Holder}\""
                );
            }
        );

    private static Command Take() =>
        Commands.Do(
            "take",
            "Take a role from an organisation",
            [Organisation, Role, Resource, CommonOptions.DryRun],
            async (session, parsed, cancellation) =>
            {
                var organisation = await session.Client.Organisations.ShowAsync(
                    parsed.GetValue(Organisation)!,
                    cancellation
                );
                return await session.Client.TakeGrantAsync(
                    Texts.Find(organisation.Grants, parsed.GetValue(Role)!, parsed.GetValue(Resource)).Id,
                    parsed.GetValue(CommonOptions.DryRun),
                    cancellation: cancellation
                );
            },
            WireJson.Default.GrantAnswer,
            (answer, parsed) =>
            {
                Commands.Print(answer.Difference);
                Commands.Said(
                    parsed,
                    $"Taken: {Texts.Grant(answer.Grant)} ({answer.Grant.Holder}).",
                    $"aboard organisations show \"{answer.Grant.Holder}\""
                );
            }
        );

    private static ContactView ReadContact(string written)
    {
        var open = written.LastIndexOf('<');
        return open > 0 && written.EndsWith('>')
            ? new ContactView(written[..open].Trim(), written[(open + 1)..^1].Trim())
            : throw new UsageException($"\"{written}\" is not a contact like Name <address>.");
    }

    private static void Print(OrganisationView organisation)
    {
        var code = organisation.Code.Length > 0 ? $" [{organisation.Code}]" : "";
        Console.WriteLine($"{organisation.Name}{code}: {organisation.Kind}");
        var facts = new Beside();
        facts.Add(
            "agreement",
            $"{(organisation.IsOver ? "over: " : "until ")}{Texts.Day(organisation.AgreementEnds, Texts.Today)}"
        );
        facts.Add(
            "people",
            $"{organisation.People} here, {organisation.Invited} invited{(organisation.Cap is { } cap ? $", at most {cap}" : "")}"
        );
        facts.Add("reference", organisation.Reference);
        facts.Add("domains", string.Join(", ", organisation.Domains));
        facts.Add("leads", string.Join(", ", organisation.Leads));
        foreach (var grant in organisation.Grants)
            facts.Add("gives", Texts.Grant(grant));
        facts.Add("off at", string.Join(", ", organisation.OffAt));
        foreach (var contact in organisation.Contacts)
            facts.Add("contact", $"{contact.Name} <{contact.Address}> {contact.Title}");
        facts.Print();
    }

    private static void Print(ColleaguesView colleagues)
    {
        Console.WriteLine(
            $"{colleagues.Organisation}: invite at {string.Join(", ", colleagues.Domains)}{(colleagues.Cap is { } cap ? $", at most {cap} people" : "")}"
        );
        foreach (var one in colleagues.Here.Concat(colleagues.Invited))
            Console.WriteLine(
                $"  {one.Address, -44} {one.Name, -22} {one.State, -10} {Texts.Day(one.Until, Texts.Today)}"
            );
    }
}
