using System.CommandLine;
using ComeAboard.Client;
using ComeAboard.Client.Accounts;

namespace ComeAboard.Cli.Accounts;

/// <summary><c>aboard domains …</c>: the mail domains that the workspace proves to be its own.</summary>
public static class DomainCommands
{
    private static readonly Argument<string> Domain = new("DOMAIN")
    {
        Description = "A mail domain, such as harbour.example",
    };

    private static readonly Listing<DomainView> Table = new(
        new("Domain", d => d.Domain),
        new("State", d => d.State),
        new("Since", d => Texts.Instant(d.ProvedAt ?? d.AddedAt), 1),
        new("Last look", d => d.LastLook ?? "not yet", 2),
        new("Lost at", d => d.LostAt is { } at ? Texts.Instant(at) : "", 3)
    );

    public static Command Make() =>
        new("domains", "Mail domains that the workspace proves to be its own, by a record in DNS")
        {
            Commands.List(
                "List the domains",
                [],
                async (session, _, cancellation) => (await session.Client.DomainsAsync(cancellation)).Items,
                Table,
                WireJson.Default.DomainView,
                "There is no domain. Add one: aboard domains add harbour.example",
                _ => "domains?format=csv"
            ),
            Commands.Do(
                "add",
                "Add a domain, and print the record that shows it",
                [Domain, CommonOptions.DryRun],
                (session, parsed, cancellation) =>
                    session.Client.AddDomainAsync(
                        new DomainRequest(parsed.GetValue(Domain)!),
                        parsed.GetValue(CommonOptions.DryRun),
                        cancellation
                    ),
                WireJson.Default.DomainView,
                (domain, parsed) =>
                {
                    Print(domain);
                    Commands.Said(parsed, $"{domain.Domain} is in the list.", Next(domain));
                }
            ),
            Commands.Do(
                "check",
                "Look now whether a domain is shown",
                [Domain],
                (session, parsed, cancellation) =>
                    session.Client.CheckDomainAsync(parsed.GetValue(Domain)!, cancellation),
                WireJson.Default.DomainView,
                (domain, _) =>
                {
                    Print(domain);
                    Session.Say($"Next: {Next(domain)}");
                }
            ),
            Commands.Do(
                "remove",
                "Remove a domain",
                [Domain, CommonOptions.DryRun],
                (session, parsed, cancellation) =>
                    session.Client.RemoveDomainAsync(
                        parsed.GetValue(Domain)!,
                        parsed.GetValue(CommonOptions.DryRun),
                        cancellation
                    ),
                WireJson.Default.DomainView,
                (domain, parsed) =>
                    Commands.Said(
                        parsed,
                        $"{domain.Domain} is not in the list any more; its record can go.",
                        "aboard domains list"
                    )
            ),
        };

    private static void Print(DomainView domain)
    {
        Console.WriteLine($"{domain.Domain}: {Sentence(domain)}");
        if (domain.State == "proved")
            return;
        Console.WriteLine("  Put this record into DNS and leave it there:");
        Console.WriteLine($"  {domain.RecordName}. IN TXT \"{domain.RecordValue}\"");
    }

    private static string Sentence(DomainView domain) =>
        domain switch
        {
            { HeldElsewhere: true } =>
                "the record is seen, but another workspace proved the domain earlier and still holds it.",
            { State: "proved" } => $"proved since {Texts.Instant(domain.ProvedAt ?? domain.AddedAt)}.",
            { State: "lapsing", LostAt: { } at } =>
                $"not seen any more; lost from {Texts.Instant(at)} on unless it comes back.",
            { State: "lost" } => "lost; nothing is done by it until it is seen again.",
            { LastLook: "unanswered" } => "DNS does not answer; it is asked again by itself.",
            { LastLook: "missing" } => "not seen yet; it is looked for by itself every ten minutes.",
            _ => "not looked for yet.",
        };

    private static string Next(DomainView domain) =>
        domain.State == "proved" ? "aboard claims list" : $"aboard domains check {domain.Domain}";
}
