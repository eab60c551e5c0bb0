using System.Text.Json.Nodes;
using ComeAboard.Client.Connections;
using ComeAboard.Service.Tests.World;
using Xunit;
using static ComeAboard.Service.Tests.World.Refusing;

namespace ComeAboard.Service.Tests;

// A system that is told by signed webhooks, and cannot be asked.
public abstract partial class CarriedOut
{
    [Fact]
    public async Task Told_by_webhooks_a_system_gets_every_event_signed_and_whole_and_the_receipt_says_that_it_was_not_asked()
    {
        var ship = await harbour.NewShipAsync();
        await using var there = await WebhookPeer.StartAsync(harbour.Clock.Offset);
        await ship.Client.AddConnectionAsync(
            new ConnectionRequest(Name, "webhook", there.Url, Secret: "too short")
        );
        Assert.Equal("connection.refused", await CodeOf(ship.Client.TestConnectionAsync(Name)));
        var wish = new ConnectionRequest(Name, Url: there.Url, Secret: "a secret of another receiver");
        await ship.Client.ChangeConnectionAsync(Name, wish);
        // A signature by another secret is refused over there.
        Assert.Equal("connection.unreachable", await CodeOf(ship.Client.TestConnectionAsync(Name)));
        await ship.Client.ChangeConnectionAsync(Name, wish with { Secret = WebhookPeer.Secret });
        await ship.Client.TestConnectionAsync(Name);
        Assert.Equal("comeaboard.trial", TypeOf((await there.TookAsync()).Single()));
        Assert.Equal(1, there.Refused);

        var hamish = ship.Address("hamish");
        await ship.BringAboardAsync(hamish);
        var line = new MappingRequest("group:Readers", Role: "view");
        var preview = await ship.Client.PreviewCarryingAsync(Name, new PreviewRequest(line));
        Assert.Equal(["make", "join-group Readers"], preview.Changes.Single().Deeds);
        await ship.Client.AddMappingAsync(Name, line);
        await SettledAsync(ship);
        var data = DataOf((await there.TookAsync())[^1]);
        Assert.Equal(
            (hamish, "on", "Readers"),
            (data["address"]!.ToString(), data["account"]!.ToString(), data["groups"]![0]!.ToString())
        );
        Assert.Equal("told", (await ship.Client.AccountsThereAsync(Name)).Items.Single().State);
        Assert.Equal(0, (await ship.Client.PreviewCarryingAsync(Name)).Total);
        Assert.Equal("connection.not-asked", await CodeOf(ship.Client.SweepAsync(Name)));

        // Refused and put off, it is the same event again, by the same id.
        await there.AnswerAsync(503);
        var departure = await ship.Client.EndAsync(hamish);
        await Patience.UntilAsync(() => ship.Client.EventsSentAsync(Name), sent => sent.Items[0].Tries > 1);
        await there.AnswerAsync(204);
        await ship.Client.RetryDepartureAsync(departure.Id);
        departure = await DoneAsync(ship, departure.Id);
        Assert.Equal("done", departure.Steps[^1].State);
        Assert.Contains("cannot be asked", departure.Steps[^1].Answer, StringComparison.Ordinal);
        var says = Client
            .Departures.ReceiptSeal.Verify(
                departure.Receipt!,
                System.Text.Json.JsonSerializer.Serialize(
                    await ship.Client.ReceiptKeysAsync(),
                    Client.WireJson.Default.ReceiptKeys
                )
            )
            .Says!;
        Assert.Equal("done", says.Steps[^1].State);
        var sent = (await ship.Client.EventsSentAsync(Name)).Items;
        var took = await there.TookAsync();
        Assert.Equal(
            ("gone", sent[0].Id.ToString()),
            (DataOf(took[^1])["account"]!.ToString(), took[^1]["id"]!.ToString())
        );
        Assert.True(sent[0].Tries > 1);
        Assert.Equal(took.Count, sent.Count(one => one.State == "accepted"));
        Assert.Equal("failed", sent[^1].State);
        // Sent again by hand, it is the same to the last sign.
        var again = await ship.Client.SendEventAgainAsync(Name, sent[0].Id);
        var both = (await there.TookAsync()).TakeLast(2).Select(one => one.ToJsonString()).ToList();
        Assert.Equal(both[0], both[1]);
        Assert.Equal((sent[0].Tries + 1, sent[0].AcceptedAt), (again.Tries, again.AcceptedAt));
        Assert.Equal("not-found", await CodeOf(ship.Client.SendEventAgainAsync(Name, Guid.NewGuid())));
        Assert.Equal(1, there.Refused);

        static JsonNode DataOf(JsonObject took) => took["event"]!["data"]!;
        static string TypeOf(JsonObject took) => took["event"]!["type"]!.ToString();
    }
}
