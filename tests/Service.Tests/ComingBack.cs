using ComeAboard.Client;
using ComeAboard.Client.Access;
using ComeAboard.Client.Accounts;
using ComeAboard.Client.Departures;
using ComeAboard.Client.Invitations;
using ComeAboard.Service.Tests.World;
using ComeAboard.Storage.Departures;
using Xunit;
using static ComeAboard.Service.Tests.World.Refusing;

namespace ComeAboard.Service.Tests;

public sealed class ComingBack_on_SQLite(SqliteHarbour harbour)
    : ComingBack(harbour),
        IClassFixture<SqliteHarbour>;

public sealed class ComingBack_on_PostgreSQL(PostgresHarbour harbour)
    : ComingBack(harbour),
        IClassFixture<PostgresHarbour>;

/// <summary>Ending the wrong person costs one command to mend.</summary>
public abstract class ComingBack(Harbour harbour)
{
    [Fact]
    public async Task Reinstated_right_away_everything_is_as_it_was()
    {
        var ship = await harbour.NewShipAsync();
        var oona = await HostAsync(ship);
        var before = await EveryRow.DumpAsync(harbour, ship, typeof(DepartureRow), typeof(ReceiptKeyRow));
        await ship.Client.EndAsync(oona);
        Assert.NotEqual(
            before,
            await EveryRow.DumpAsync(harbour, ship, typeof(DepartureRow), typeof(ReceiptKeyRow))
        );
        var tried = await ship.Client.ReinstateAsync(oona, dryRun: true);
        var done = await ship.OtherNode.ReinstateAsync(oona);
        Assert.Equal(tried.Lines, done.Lines);
        Assert.Contains("They own Rigging plans again.", tried.Lines.Select(line => line.Sentence));
        EveryRow.Same(
            before,
            await EveryRow.DumpAsync(harbour, ship, typeof(DepartureRow), typeof(ReceiptKeyRow)),
            "ended and reinstated"
        );
        Assert.Equal("undone", (await ship.Client.DeparturesAsync()).Items[0].State);
        Assert.Equal("reinstate.here", await CodeOf(ship.Client.ReinstateAsync(oona)));
        Assert.True((await ship.Client.VerifyRecordAsync()).Whole);
    }

    [Fact]
    public async Task What_others_have_by_now_stays_theirs_and_is_said_beforehand()
    {
        var ship = await harbour.NewShipAsync();
        var oona = await HostAsync(ship);
        var teodor = ship.Address("teodor");
        await ship.BringAboardAsync(teodor, "staff", "manage");
        await ship.Client.EndAsync(oona, to: teodor);
        // Handed on once more, and the seat given to somebody else.
        await ship.Client.HandOverAsync(new HandoverRequest(teodor, ship.Administrator));
        await ship.Client.GiveSeatsAsync("Desks", new PeopleRequest([teodor]));
        var back = await ship.Client.ReinstateAsync(oona);
        Assert.Equal(
            [
                "They have a seat of Desks again – not: somebody else has it by now, and keeps it.",
                "They own Rigging plans again – not: somebody else has it by now, and keeps it.",
            ],
            back.Lines.Where(line => !line.IsRestored).Select(line => line.Sentence).Order().Distinct()
        );
        Assert.Equal("active", (await ship.Client.PersonAsync(oona)).State);
    }

    [Fact]
    public async Task Nobody_comes_back_too_late_twice_or_by_somebody_who_may_not_say_so()
    {
        var ship = await harbour.NewShipAsync();
        var (hamish, petra) = (ship.Address("hamish"), ship.Address("petra"));
        await ship.BringAboardAsync(hamish);
        await ship.BringAboardAsync(petra);
        Assert.Equal("person.not-found", await CodeOf(ship.Client.ReinstateAsync(ship.Address("nobody"))));
        await ship.Client.EndAsync(hamish);
        using var guest = await ship.ClientOfAsync(petra);
        Assert.Equal("right.missing", await CodeOf(guest.ReinstateAsync(hamish)));
        // Invited again meanwhile, they are here in another capacity.
        await ship.InviteAsync(hamish);
        await ship.Client.AcceptAsync(
            new AcceptRequest(await ship.SecretAsync(hamish, 2), Ship.Password, Address: hamish)
        );
        var first = (await ship.Client.DeparturesAsync()).Items.Single().Person.Id;
        Assert.Equal("reinstate.here-again", await CodeOf(ship.Client.ReinstateAsync(first.ToString())));
        await ship.Client.EndAsync(petra);
        await harbour.LetPassAsync(TimeSpan.FromDays(31));
        Assert.Equal("reinstate.too-late", await CodeOf(ship.Client.ReinstateAsync(petra)));
    }

    [Fact]
    public async Task An_organisation_that_is_full_by_now_takes_nobody_back()
    {
        var ship = await harbour.NewShipAsync();
        await ship.Client.Organisations.AddAsync(new OrganisationRequest("Rope works", "guest", Cap: 1));
        var (hamish, petra) = (ship.Address("hamish"), ship.Address("petra"));
        foreach (var address in (string[])[hamish, petra])
        {
            await ship.BringAboardAsync(address);
            await ship.Client.PeopleStepsAsync(
                new PeopleStepRequest(
                    "change",
                    [address],
                    Details: new DetailsRequest(Organisation: "Rope works")
                )
            );
            if (address == hamish)
                await ship.Client.EndAsync(address);
        }
        Assert.Equal("organisation.full", await CodeOf(ship.Client.ReinstateAsync(hamish)));
        await ship.Client.EndAsync(petra);
        await ship.Client.ReinstateAsync(hamish);
    }

    /// <summary>Somebody of the staff who has everything that can be had.</summary>
    private static async Task<string> HostAsync(Ship ship)
    {
        var (oona, client) = (ship.Address("oona"), ship.Client);
        await ship.BringAboardAsync(oona, "staff", "manage");
        await client.Areas.AddAsync(new AreaRequest("Deck"));
        await client.Resources.AddAsync(new ResourceRequest("Rigging plans", "Deck", Owner: oona));
        await client.Pools.AddAsync(new PoolRequest("Desks", 1));
        await client.GiveSeatsAsync("Desks", new PeopleRequest([oona]));
        await client.GrantAsync(new GrantRequest("edit", oona, Resource: "Rigging plans"));
        var hers = await ship.ClientOfAsync(oona);
        await hers.SendInvitationAsync(
            new InvitationRequest(ship.Address("invited"), "guest", "view"),
            "one"
        );
        await hers.AddLinkAsync(new JoinLinkRequest("Harbour day", "guest", "view", Cap: 10));
        await ship.BringAboardAsync(ship.Address("guest"));
        await client.PeopleStepsAsync(
            new PeopleStepRequest("change", [ship.Address("guest")], Details: new DetailsRequest(Host: oona))
        );
        return oona;
    }
}
