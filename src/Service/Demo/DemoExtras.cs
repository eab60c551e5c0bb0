using System.Text;
using ComeAboard.Client.Invitations;
using ComeAboard.Core;
using ComeAboard.Service.Invitations;
using ComeAboard.Service.Mail;
using ComeAboard.Service.Workspaces;

namespace ComeAboard.Service.Demo;

/// <summary>What the demo world holds beside people: presets, drafts, a join link, a list, somebody who waits.</summary>
public static class DemoExtras
{
    /// <summary>Lets it happen, by the same handlers as in real life.</summary>
    /// <param name="services">The service's own parts.</param>
    /// <param name="visitor">The administrator who does it.</param>
    /// <param name="today">Today there.</param>
    /// <param name="accept">Has somebody accept the invitation that was mailed to them.</param>
    public static async Task AddAsync(
        IServiceProvider services,
        Visitor visitor,
        DateOnly today,
        Func<string, string, Task> accept
    )
    {
        var (inviting, links) = (
            services.GetRequiredService<Inviting>(),
            services.GetRequiredService<JoinLinks>()
        );
        await PresetsAsync(services, visitor);
        foreach (
            var draft in (InvitationRequest[])
                [
                    new("anselm.tarn@saltmarsh-university.example", "guest", Name: "Anselm Tarn")
                    {
                        Draft = true,
                        Organisation = "Saltmarsh University",
                        Title = "Researcher",
                        Host = "ilse@lantern-tide.example",
                        Note = "Waits for the dates of the winter lay-up",
                    },
                    new("bettine@copper-quay-museum.example", "partner", "edit", "Bettine Stroom")
                    {
                        Draft = true,
                        Organisation = "Copper Quay Museum",
                    },
                ]
        )
            DemoWorld.Expect(await inviting.SendAsync(visitor, draft, null));
        DemoWorld.Expect(
            await inviting.SendAsync(
                visitor,
                new InvitationRequest(
                    "henrike.moor@hafenfreunde.example",
                    "guest",
                    "view",
                    Name: "Henrike Moor",
                    Message: "Schön, dass Sie uns am Hafentag helfen.",
                    Until: today.AddDays(20),
                    Language: "de"
                )
                {
                    From = today.AddDays(6),
                    Host = "oona@lantern-tide.example",
                    Organisation = "Hafenfreunde",
                },
                null
            )
        );
        var link = await links.AddAsync(
            visitor,
            new JoinLinkRequest(
                "Harbour day crew",
                "guest",
                "view",
                StayDays: 3,
                Cap: 12,
                Domains: ["hafenfreunde.example"],
                NeedsApproval: true,
                Days: 10,
                Language: "de"
            )
        );
        DemoWorld.Expect(link);
        var secret = link.Value.Address[(link.Value.Address.LastIndexOf('/') + 1)..];
        DemoWorld.Expect(
            await services
                .GetRequiredService<HeldLinks>()
                .AskAsync(secret, "zeno.schot@hafenfreunde.example", "Zeno Schot", "page")
        );
        await SendMailAsync(services);
        await accept("zeno.schot@hafenfreunde.example", "Zeno Schot");
        await ListAsync(services, visitor);
        await SendMailAsync(services);
    }

    private static async Task PresetsAsync(IServiceProvider services, Visitor visitor)
    {
        var presets = services.GetRequiredService<Presets>();
        foreach (
            var preset in (PresetRequest[])
                [
                    new(
                        "Visiting researcher",
                        "guest",
                        "view",
                        90,
                        null,
                        "The reading room is open to you from nine to five."
                    ),
                    new("Loan partner", "partner", "edit", 365),
                    new(
                        "Film crew",
                        "client",
                        "view",
                        14,
                        null,
                        "Please keep to the deck plan we agreed on."
                    ),
                ]
        )
            DemoWorld.Expect(await presets.AddAsync(visitor, preset, new Wanted()));
    }

    private static async Task ListAsync(IServiceProvider services, Visitor visitor)
    {
        static Stream Open() => typeof(DemoExtras).Assembly.GetManifestResourceStream("harbour-day.csv")!;
        await using var list = Open();
        var table = Tables.Read(Open, list.Length);
        DemoWorld.Expect(table);
        var batches = services.GetRequiredService<Batches>();
        DemoWorld.Expect(
            await batches.AddAsync(
                visitor,
                "harbour-day.csv",
                "csv",
                Batches.DigestOf(list),
                table.Value,
                new BatchDefaults(Preset: "Visiting researcher"),
                true
            )
        );
        await services.GetRequiredService<BatchRunner>().RunDueAsync();
    }

    private static async Task SendMailAsync(IServiceProvider services)
    {
        while (await services.GetRequiredService<OutboxWorker>().SendDueAsync() > 0) { }
    }
}
