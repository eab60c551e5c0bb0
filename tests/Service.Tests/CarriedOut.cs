using System.Text.Json;
using System.Text.Json.Nodes;
using ComeAboard.Client;
using ComeAboard.Client.Access;
using ComeAboard.Client.Accounts;
using ComeAboard.Client.Connections;
using ComeAboard.Client.Departures;
using ComeAboard.Client.Invitations;
using ComeAboard.Service.Tests.World;
using Xunit;
using static ComeAboard.Service.Tests.World.Refusing;

namespace ComeAboard.Service.Tests;

public sealed class CarriedOut_on_SQLite(SqliteHarbour harbour)
    : CarriedOut(harbour),
        IClassFixture<SqliteHarbour>;

public sealed class CarriedOut_on_PostgreSQL(PostgresHarbour harbour)
    : CarriedOut(harbour),
        IClassFixture<PostgresHarbour>;

/// <summary>Access carried out to outside systems of their own processes, and departures that are confirmed there.</summary>
public abstract partial class CarriedOut(Harbour harbour)
{
    private const string Name = "Chart table";

    [Fact]
    public async Task Somebody_appears_there_with_their_access_and_is_gone_with_it()
    {
        var ship = await harbour.NewShipAsync();
        await using var there = await ScimService.StartAsync("Readers", "Writers");
        await ConnectAsync(ship, there);
        var hamish = ship.Address("hamish");
        await ship.BringAboardAsync(hamish);
        await there.PutAsync("old", "former@elsewhere.example");

        // What would be done is shown for a line that is not kept as yet, and nothing is done.
        var line = new MappingRequest("group:Readers", Role: "view");
        var preview = await ship.Client.PreviewCarryingAsync(Name, new PreviewRequest(line));
        Assert.Equal(
            ("make, join-group Readers", 1, 1),
            (string.Join(", ", preview.Changes.Single().Deeds), preview.Total, preview.LeftOver)
        );
        var missing = await ship.Client.PreviewCarryingAsync(
            Name,
            new PreviewRequest(line with { To = "group:Divers" })
        );
        Assert.Equal(["Divers"], missing.MissingGroups);
        Assert.False((await there.HoldsAsync()).ContainsKey(hamish));

        await ship.Client.AddMappingAsync(Name, line);
        await SettledAsync(ship);
        Assert.Equal((true, "Readers"), (await there.HoldsAsync())[hamish]);
        // Another role, another group; nothing is done twice.
        await ship.Client.AddMappingAsync(Name, new MappingRequest("group:Writers", Role: "edit"));
        await ship.Client.GrantAsync(new GrantRequest("edit", hamish));
        await UntilAsync(there, hamish, (true, "Readers Writers"));
        await ship.Client.PeopleStepsAsync(new PeopleStepRequest("pause", [hamish]));
        await UntilAsync(there, hamish, (false, ""));
        await ship.Client.PeopleStepsAsync(new PeopleStepRequest("resume", [hamish]));
        await UntilAsync(there, hamish, (true, "Readers Writers"));
        await SettledAsync(ship);

        var plan = await ship.Client.PlanDepartureAsync(hamish);
        Assert.Equal(("close-account", Name), (plan.Steps[^1].Kind, plan.Steps[^1].Subject));
        var departure = await ship.Client.EndAsync(hamish);
        Assert.Equal(plan.Steps.Select(StepOf), departure.Steps.Select(StepOf));
        departure = await DoneAsync(ship, departure.Id);
        Assert.Equal(
            ("confirmed", "Asked again, it has no such account."),
            (departure.Steps[^1].State, departure.Steps[^1].Answer)
        );
        Assert.Equal("former@elsewhere.example", (await there.HoldsAsync()).Keys.Single());

        // The receipt names the same steps, and is verified by the keys alone.
        var keys = JsonSerializer.Serialize(
            await ship.Client.ReceiptKeysAsync(),
            WireJson.Default.ReceiptKeys
        );
        var (says, problem) = ReceiptSeal.Verify(departure.Receipt!, keys);
        Assert.Null(problem);
        Assert.Equal(
            departure.Steps.Select(step => step.Sentence),
            says!.Steps.Select(step => step.Sentence)
        );
        Assert.All(says.Steps, step => Assert.Equal("confirmed", step.State));

        static (string, string, string) StepOf(DepartureStepView step) =>
            (step.Kind, step.Subject, step.Sentence);
    }

    [Fact]
    public async Task Whatever_the_other_side_does_a_departure_is_done_when_it_is_really_gone_and_not_before()
    {
        var ship = await harbour.NewShipAsync();
        await using var there = await ScimService.StartAsync("Readers");
        await ConnectAsync(ship, there);
        await ship.Client.AddMappingAsync(Name, new MappingRequest("group:Readers", Role: "view"));
        foreach (
            var (manner, answer) in ((JsonObject, string)[])
                [
                    (new JsonObject { ["away"] = true }, "It cannot be reached"),
                    (new JsonObject { ["lies"] = "delete" }, "It said that it was done, and did not do it"),
                    (new JsonObject { ["refuses"] = new JsonArray("DELETE") }, "It answered 400: Not today."),
                    (
                        new JsonObject { ["refuses"] = new JsonArray("DELETE", "GET"), ["status"] = 403 },
                        "It does not let us do this (403)."
                    ),
                ]
        )
        {
            var guest = ship.Address("guest" + answer.Length + manner.Count);
            await ship.BringAboardAsync(guest);
            await UntilAsync(there, guest, (true, "Readers"));
            await SettledAsync(ship);
            await there.BehaveAsync(manner);
            var departure = await ship.Client.EndAsync(guest);
            Assert.NotEqual("done", departure.State);
            // Here it is over at once, whatever becomes of it there.
            Assert.Equal("ended", (await ship.Client.PersonAsync(guest)).State);
            departure = await Patience.UntilAsync(
                () => ship.Client.DepartureAsync(departure.Id),
                one => one.State == "stuck"
            );
            Assert.StartsWith(answer, departure.Steps[^1].Answer, StringComparison.Ordinal);
            Assert.Equal("stuck", departure.Steps[^1].State);
            Assert.Null(departure.Receipt);
            Assert.Equal(departure.Id, (await ship.Client.DeparturesAsync("stuck")).Items.Single().Id);
            Assert.True((await ship.Client.LaneAsync(Name)).Stuck > 0);
            await there.BehaveAsync();
            await ship.Client.RetryDepartureAsync(departure.Id);
            departure = await DoneAsync(ship, departure.Id);
            Assert.NotNull(departure.Receipt);
            Assert.False((await there.HoldsAsync()).ContainsKey(guest));
        }
    }

    [Fact]
    public async Task Asked_to_be_left_alone_a_lane_waits_and_told_by_hand_it_believes()
    {
        var ship = await harbour.NewShipAsync();
        await using var there = await ScimService.StartAsync();
        await ConnectAsync(ship, there);
        await ship.Client.AddMappingAsync(Name, new MappingRequest("accounts", Role: "view"));
        var (one, other) = (ship.Address("one"), ship.Address("other"));
        await ship.BringAboardAsync(one);
        await ship.BringAboardAsync(other);
        await UntilAsync(there, other, (true, ""));
        await SettledAsync(ship);
        await there.BehaveAsync(new JsonObject { ["busy"] = 2 });
        var departure = await ship.Client.EndAsync(one);
        departure = await DoneAsync(ship, departure.Id);
        Assert.Equal(0, departure.Steps[^1].Tries);

        await there.BehaveAsync(new JsonObject { ["lies"] = "delete" });
        departure = await ship.Client.EndAsync(other);
        await Patience.UntilAsync(
            () => ship.Client.DepartureAsync(departure.Id),
            now => now.Steps[^1].Answer.Length > 0
        );
        Assert.Equal("departure.reason", await CodeOf(ship.Client.ConfirmStepAsync(departure.Id, Name, " ")));
        Assert.Equal(
            "departure.nothing-due",
            await CodeOf(ship.Client.ConfirmStepAsync(departure.Id, "1", "seen"))
        );
        departure = await ship.Client.ConfirmStepAsync(
            departure.Id,
            Name,
            "Their office says so by telephone."
        );
        Assert.Equal(("done", "by hand"), (departure.State, departure.Steps[^1].State));
        var keys = JsonSerializer.Serialize(
            await ship.Client.ReceiptKeysAsync(),
            WireJson.Default.ReceiptKeys
        );
        var says = ReceiptSeal.Verify(departure.Receipt!, keys).Says!;
        Assert.Equal(
            ("by hand", "Their office says so by telephone."),
            (says.Steps[^1].State, says.Steps[^1].Answer)
        );
        Assert.NotEmpty(says.Steps[^1].By);
    }

    [Fact]
    public async Task What_was_there_before_us_is_taken_over_and_never_removed()
    {
        var ship = await harbour.NewShipAsync();
        await using var there = await ScimService.StartAsync("Readers");
        await ConnectAsync(ship, there);
        var hamish = ship.Address("hamish");
        await there.PutAsync("u1", hamish.ToUpperInvariant());
        await ship.BringAboardAsync(hamish);
        var line = new MappingRequest("group:Readers", Role: "view");
        var preview = await ship.Client.PreviewCarryingAsync(Name, new PreviewRequest(line));
        Assert.True(preview.Changes.Single().IsTakenOver);
        Assert.Equal(["join-group Readers"], preview.Changes.Single().Deeds);
        await ship.Client.AddMappingAsync(Name, line);
        await UntilAsync(there, hamish.ToUpperInvariant(), (true, "Readers"));
        await SettledAsync(ship);
        Assert.Equal("connection.carries", await CodeOf(ship.Client.RemoveConnectionAsync(Name)));
        var departure = await ship.Client.EndAsync(hamish);
        departure = await DoneAsync(ship, departure.Id);
        Assert.Contains("it was there before us", departure.Steps[^1].Answer, StringComparison.Ordinal);
        Assert.Equal((false, ""), (await there.HoldsAsync())[hamish.ToUpperInvariant()]);
        // Taken away, a line closes what it opened; then the connection can be forgotten.
        var mapping = (await ship.Client.LaneAsync(Name)).Mapping.Single();
        var left = await ship.Client.PreviewCarryingAsync(Name, new PreviewRequest(null, mapping.Id));
        Assert.Equal(0, left.Total);
        await ship.Client.RemoveMappingAsync(Name, mapping.Id);
        await SettledAsync(ship);
        await ship.Client.RemoveConnectionAsync(Name);
        Assert.Equal("not-found", await CodeOf(ship.Client.LaneAsync(Name)));
    }

    [Fact]
    public async Task What_takes_no_change_in_part_is_written_whole_by_a_token_that_is_asked_for()
    {
        var ship = await harbour.NewShipAsync();
        await using var there = await ScimService.StartAsync("Readers", "Writers");
        await there.TakeWholeOnlyAsync();
        var tokens = there.Url.Replace("/scim", "/token", StringComparison.Ordinal);
        var wish = new ConnectionRequest(Name, "scim", there.Url, Secret: "high water")
        {
            TokenUrl = tokens,
            ClientId = "aboard",
        };
        await ship.Client.AddConnectionAsync(wish);
        Assert.Equal("connection.unreachable", await CodeOf(ship.Client.PreviewCarryingAsync(Name)));
        // A secret is for where it was given for.
        Assert.Equal(
            "connection.secret-again",
            await CodeOf(
                ship.Client.ChangeConnectionAsync(
                    Name,
                    wish with
                    {
                        Secret = null,
                        TokenUrl = tokens + "/other",
                    }
                )
            )
        );
        await ship.Client.ChangeConnectionAsync(Name, wish with { Secret = "low water" });
        var hamish = ship.Address("hamish");
        await ship.BringAboardAsync(hamish);
        await ship.Client.AddMappingAsync(Name, new MappingRequest("group:Readers", Role: "view"));
        await ship.Client.AddMappingAsync(Name, new MappingRequest("group:Writers", Role: "view"));
        await UntilAsync(there, hamish, (true, "Readers Writers"));
        await ship.Client.PeopleStepsAsync(new PeopleStepRequest("pause", [hamish]));
        await UntilAsync(there, hamish, (false, ""));
        await ship.Client.PeopleStepsAsync(new PeopleStepRequest("resume", [hamish]));
        await UntilAsync(there, hamish, (true, "Readers Writers"));
        await SettledAsync(ship);
        var departure = await ship.Client.EndAsync(hamish);
        await DoneAsync(ship, departure.Id);
        Assert.Empty(await there.HoldsAsync());
    }

    [Fact]
    public async Task Said_to_be_elsewhere_from_now_on_nothing_is_done_there_to_a_stranger_of_the_same_key()
    {
        var ship = await harbour.NewShipAsync();
        await using var before = await ScimService.StartAsync();
        await using var after = await ScimService.StartAsync();
        await ConnectAsync(ship, before);
        var (hamish, petra) = (ship.Address("hamish"), ship.Address("petra"));
        await ship.BringAboardAsync(hamish);
        await ship.BringAboardAsync(petra);
        await ship.Client.AddMappingAsync(Name, new MappingRequest("accounts", Role: "view"));
        await UntilAsync(before, petra, (true, ""));
        await SettledAsync(ship);
        foreach (var key in (string[])["t1", "t2"])
            await after.PutAsync(key, key + "@elsewhere.example");
        await ship.Client.ChangeConnectionAsync(
            Name,
            new ConnectionRequest(Name, Url: after.Url, Secret: ScimService.Token)
        );
        // Whoever is here is made anew there, by their address and not by a key of somewhere else.
        await UntilAsync(after, hamish, (true, ""));
        await SettledAsync(ship);
        var departure = await ship.Client.EndAsync(petra);
        await DoneAsync(ship, departure.Id);
        var held = await after.HoldsAsync();
        Assert.Equal((true, ""), held["t1@elsewhere.example"]);
        Assert.Equal((true, ""), held["t2@elsewhere.example"]);
        Assert.True(held.ContainsKey(hamish));
        Assert.False(held.ContainsKey(petra));
    }

    [Fact]
    public async Task A_receipt_signed_before_its_key_was_renewed_is_verified_by_the_keys_shown_since()
    {
        var ship = await harbour.NewShipAsync();
        var hamish = ship.Address("hamish");
        await ship.BringAboardAsync(hamish);
        var before = (await DoneAsync(ship, (await ship.Client.EndAsync(hamish)).Id)).Receipt!;
        var first = Assert.Single((await ship.Client.ReceiptKeysAsync()).Keys);
        await harbour.LetPassAsync(TimeSpan.FromDays(366));
        using var later = await ship.ClientOfAsync(ship.Administrator);
        var petra = ship.Address("petra");
        await later.SendInvitationAsync(new InvitationRequest(petra, "guest", "view"), petra);
        await ship.AcceptAsync(await ship.SecretAsync(petra), "Petra");
        var after = (await later.DepartureAsync((await later.EndAsync(petra)).Id)).Receipt!;
        var keys = await later.ReceiptKeysAsync();
        Assert.Equal(first.Kid, keys.Keys[^1].Kid);
        Assert.Equal(2, keys.Keys.Count);
        var shown = JsonSerializer.Serialize(keys, WireJson.Default.ReceiptKeys);
        Assert.Equal(
            (hamish, petra),
            (
                ReceiptSeal.Verify(before, shown).Says!.Person.Address,
                ReceiptSeal.Verify(after, shown).Says!.Person.Address
            )
        );
        // Whoever kept the keys of then believes what was signed then, and nothing that came after.
        var kept = JsonSerializer.Serialize(new ReceiptKeys([first]), WireJson.Default.ReceiptKeys);
        Assert.Null(ReceiptSeal.Verify(before, kept).Problem);
        Assert.Equal("receipt.key-unknown", ReceiptSeal.Verify(after, kept).Problem!.Code);
    }

    private static Task<ConnectionView> ConnectAsync(Ship ship, ScimService there) =>
        ship.Client.AddConnectionAsync(
            new ConnectionRequest(Name, "scim", there.Url, Secret: ScimService.Token)
        );

    private static async Task SettledAsync(Ship ship) =>
        Assert.Equal(
            "resting",
            (
                await Patience.UntilAsync(() => ship.Client.LaneAsync(Name), lane => lane.State == "resting")
            ).State
        );

    private static async Task<DepartureView> DoneAsync(Ship ship, Guid id)
    {
        var seen = await Patience.UntilAsync(
            () => ship.Client.DepartureAsync(id),
            one => one.State == "done"
        );
        Assert.Equal(("done", ""), (seen.State, seen.State == "done" ? "" : seen.Steps[^1].Answer));
        return seen;
    }

    private static async Task UntilAsync(ScimService there, string address, (bool, string) held) =>
        Assert.Equal(
            held,
            (
                await Patience.UntilAsync(there.HoldsAsync, all => all.GetValueOrDefault(address) == held)
            ).GetValueOrDefault(address)
        );
}
