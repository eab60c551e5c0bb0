using ComeAboard.Client;
using ComeAboard.Client.Applications;

namespace ComeAboard.Service.Demo;

/// <summary>The applications that the ship has registered.</summary>
public static class DemoApplications
{
    /// <summary>Registers them; nobody keeps their secrets.</summary>
    /// <param name="client">An administrator's client.</param>
    /// <param name="administrator">The administrator's address.</param>
    public static async Task MakeAsync(AboardClient client, string administrator)
    {
        const string pictures = "https://pictures.lantern-tide.example";
        await client.AddApplicationAsync(
            new ApplicationRequest(
                "Picture library",
                "Picture library",
                [pictures + "/back"],
                [pictures + "/"],
                pictures + "/signed-out"
            )
        );
        await client.AddApplicationAsync(
            new ApplicationRequest("Crew board", Duties: ["people"], ActsFor: administrator)
        );
    }
}
