using ComeAboard.Client;
using ComeAboard.Client.Accounts;
using ComeAboard.Standins.SignIn;

namespace ComeAboard.Service.Demo;

/// <summary>The ship's own sign-in, for which a stand-in answers: its crew comes in by it.</summary>
public static class DemoProvider
{
    private const string Name = "Lantern Tide crew";

    /// <summary>Starts the stand-in.</summary>
    /// <param name="port">The port, or 0 for any free one.</param>
    /// <param name="domain">The ship's mail domain.</param>
    public static Task<ProviderStandin> StartAsync(int port, string domain) =>
        ProviderStandin.StartAsync(
            Name,
            port,
            // In the ship's custody: they are let in, and their account is tied to it then.
            new KnownPerson("kofi", "Kofi Darkwater", "kofi@" + domain),
            new KnownPerson("oona", "Oona Fairweather", "oona@" + domain),
            // Has an account of his own, which only he can tie.
            new KnownPerson("teodor", "Teodor Brask", "teodor@" + domain),
            // Nobody has invited her.
            new KnownPerson("ebba", "Ebba Norrland", "ebba@" + domain)
        );

    /// <summary>Names it to the workspace, unless that is done; it may answer elsewhere than when the world was made.</summary>
    /// <param name="client">An administrator's client.</param>
    /// <param name="standin">The stand-in.</param>
    /// <param name="domain">The ship's mail domain.</param>
    public static async Task NameAsync(AboardClient client, ProviderStandin standin, string domain)
    {
        var named = (await client.ProvidersAsync()).Items.FirstOrDefault(one => one.Name == Name);
        if (named?.Issuer == standin.Issuer)
            return;
        try
        {
            if (named is not null)
                await client.RemoveProviderAsync(Name);
            await client.AddProviderAsync(
                new ProviderRequest(
                    Name,
                    standin.Issuer,
                    ProviderStandin.ClientId,
                    ProviderStandin.ClientSecret,
                    [domain]
                )
            );
        }
        catch (RefusedException refused)
        {
            // In a world that somebody has changed the domain may be gone, or have another.
            await Console.Error.WriteLineAsync($"The stand-in provider was not named: {refused.Message}");
        }
    }
}
