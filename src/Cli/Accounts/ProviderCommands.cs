using System.CommandLine;
using ComeAboard.Client;
using ComeAboard.Client.Accounts;

namespace ComeAboard.Cli.Accounts;

/// <summary><c>aboard providers …</c>: the providers (OpenID Connect) by which people at proved domains sign in.</summary>
public static class ProviderCommands
{
    private static readonly Argument<string> Name = new("NAME")
    {
        Description = "What people know the provider by, such as \"Harbour Museum\"",
    };

    private static readonly Option<string> Issuer = new("--issuer")
    {
        Description = "Its issuer, exactly as it says it itself",
        HelpName = "URL",
        Required = true,
    };

    private static readonly Option<string> ClientId = new("--client-id")
    {
        Description = "Under which client id it knows this service",
        HelpName = "ID",
        Required = true,
    };

    private static readonly Option<bool> SecretStdin = new("--secret-stdin")
    {
        Description = "Read the secret it gave from standard input",
    };

    private static readonly Option<string[]> Domains = new("--domain")
    {
        Description = "A proved mail domain whose people sign in by it; may be given several times",
        HelpName = "DOMAIN",
    };

    private static readonly Option<string?> JoinLink = new("--join-link")
    {
        Description = "The label of a join link by which whoever it vouches for joins without an invitation",
        HelpName = "LABEL",
    };

    private static readonly Listing<ProviderView> Table = new(
        new("Name", p => p.Name),
        new("Domains", p => string.Join(", ", p.Domains)),
        new("Issuer", p => p.Issuer, 1),
        new("Joins by", p => p.JoinLink.Length > 0 ? p.JoinLink : "invitation", 2),
        new("Used by", p => p.UsedBy.ToString(), 3)
    );

    public static Command Make() =>
        new("providers", "Providers (OpenID Connect) by which people at proved domains sign in")
        {
            Commands.List(
                "List the providers",
                [],
                async (session, _, cancellation) => (await session.Client.ProvidersAsync(cancellation)).Items,
                Table,
                WireJson.Default.ProviderView,
                "There is no provider. Add one: aboard providers add NAME --issuer URL --client-id ID --domain DOMAIN",
                _ => "providers?format=csv"
            ),
            Commands.Do(
                "add",
                "Add a provider, after asking it who it is",
                [Name, Issuer, ClientId, SecretStdin, Domains, JoinLink, CommonOptions.DryRun],
                async (session, parsed, cancellation) =>
                    await session.Client.AddProviderAsync(
                        await ReadAsync(parsed),
                        parsed.GetValue(CommonOptions.DryRun),
                        cancellation
                    ),
                WireJson.Default.ProviderView,
                (provider, parsed) =>
                {
                    Print(provider);
                    Commands.Said(
                        parsed,
                        $"{provider.Name} is in the list.",
                        $"tell the provider the address above, then sign in with an address at {provider.Domains[0]}"
                    );
                }
            ),
            Commands.Do(
                "change",
                "Say anew under which client id it knows this service, for which domains, and who joins by it",
                [Name, ClientId, SecretStdin, Domains, JoinLink, CommonOptions.DryRun],
                async (session, parsed, cancellation) =>
                    await session.Client.ChangeProviderAsync(
                        parsed.GetValue(Name)!,
                        await ReadAsync(parsed),
                        parsed.GetValue(CommonOptions.DryRun),
                        cancellation
                    ),
                WireJson.Default.ProviderView,
                (provider, parsed) =>
                {
                    Print(provider);
                    Commands.Said(parsed, $"{provider.Name} is changed.", "aboard providers list");
                }
            ),
            Commands.Do(
                "remove",
                "Remove a provider; nobody signs in by it any more",
                [Name, CommonOptions.DryRun],
                (session, parsed, cancellation) =>
                    session.Client.RemoveProviderAsync(
                        parsed.GetValue(Name)!,
                        parsed.GetValue(CommonOptions.DryRun),
                        cancellation
                    ),
                WireJson.Default.ProviderView,
                (provider, parsed) =>
                    Commands.Said(
                        parsed,
                        provider.UsedBy == 0
                            ? $"{provider.Name} is not in the list any more."
                            : $"{provider.Name} is not in the list any more; {provider.UsedBy} of the accounts here had it among their ways in.",
                        "aboard providers list"
                    )
            ),
        };

    private static async Task<ProviderRequest> ReadAsync(ParseResult parsed) =>
        new(
            parsed.GetValue(Name)!,
            parsed.GetValue(Issuer) ?? "",
            parsed.GetValue(ClientId) ?? "",
            parsed.GetValue(SecretStdin) ? (await Console.In.ReadLineAsync())?.Trim() : null,
            parsed.GetValue(Domains) ?? [],
            parsed.GetValue(JoinLink)
        );

    private static void Print(ProviderView provider)
    {
        Console.WriteLine($"{provider.Name}: {provider.Issuer}");
        Console.WriteLine($"  for      {string.Join(", ", provider.Domains)}");
        Console.WriteLine(
            $"  joining  {(provider.JoinLink.Length > 0 ? $"by the link \"{provider.JoinLink}\"" : "only with an invitation")}"
        );
        Console.WriteLine($"  address  {provider.RedirectUri}");
    }
}
