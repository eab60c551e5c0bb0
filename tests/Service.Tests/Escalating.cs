using ComeAboard.Client;
using ComeAboard.Client.Access;
using ComeAboard.Client.Accounts;
using ComeAboard.Client.Invitations;
using ComeAboard.Core.Access;
using ComeAboard.Service.Tests.World;
using ComeAboard.Storage.Access;
using Xunit;

namespace ComeAboard.Service.Tests;

public sealed class Escalating_on_SQLite(SqliteHarbour harbour)
    : Escalating(harbour),
        IClassFixture<SqliteHarbour>;

public sealed class Escalating_on_PostgreSQL(PostgresHarbour harbour)
    : Escalating(harbour),
        IClassFixture<PostgresHarbour>;

/// <summary>Somebody with little tries every way there is to get more, for themselves or for an accomplice.</summary>
public abstract class Escalating(Harbour harbour)
{
    /// <summary>Each duty alone, and those that are most dangerous together.</summary>
    public static TheoryData<string> DutiesToTry =>
        [
            "",
            "invite",
            "approve",
            "people",
            "access",
            "seats",
            "claims",
            "record",
            "settings",
            "invite,approve,people",
            "invite,access,settings",
            "people,access,seats,record",
        ];

    [Theory]
    [MemberData(nameof(DutiesToTry))]
    public async Task Nobody_gets_or_gives_more_than_they_hold_by_any_way(string duties)
    {
        var ship = await harbour.NewShipAsync();
        var today = (await ship.Client.WorkspaceAsync()).Today;
        await ship.Client.Areas.AddAsync(new AreaRequest("Collection"));
        await ship.Client.Resources.AddAsync(new ResourceRequest("Register", "Collection"));
        await ship.Client.Roles.AddAsync(
            new RoleRequest(
                "clerk",
                "Looks on.",
                "view",
                null,
                duties.Split(',', StringSplitOptions.RemoveEmptyEntries)
            )
        );
        await ship.Client.Groups.AddAsync(new GroupRequest("Officers"));
        await ship.Client.GrantAsync(new GrantRequest("manage", Group: "Officers"));
        await ship.Client.Organisations.AddAsync(new OrganisationRequest("Harbour board", "partner"));
        await ship.Client.GrantAsync(new GrantRequest("edit", Organisation: "Harbour board"));
        var clerk = ship.Address("clerk");
        await ship.BringAboardAsync(clerk, "staff", "clerk");
        var mate = ship.Address("mate");
        await ship.BringAboardAsync(mate, "partner", "view");
        var pending = await ship.InviteAsync(ship.Address("officer"), "staff", "manage");
        var officer = await ship.SecretAsync(ship.Address("officer"));
        var draft = await ship.Client.SendInvitationAsync(
            new InvitationRequest(ship.Address("later"), "staff", "manage") { Draft = true },
            "d"
        );
        var link = await ship.Client.AddLinkAsync(new JoinLinkRequest("Officers", "staff", "manage"));
        var list = await ship.Client.AddBatchAsync(
            new MemoryStream(
                System.Text.Encoding.UTF8.GetBytes($"Address,Role\n{ship.Address("listed")},manage")
            ),
            "officers.csv",
            new BatchDefaults("staff"),
            false
        );
        while ((await ship.Client.BatchAsync(list.Id)).State != "resting")
            await Task.Delay(20);
        using var attacker = await ship.ClientOfAsync(clerk);
        var role = (await ship.Client.Roles.ShowAsync("clerk")).Id.ToString();
        var own = (await ship.Client.PersonAccessAsync(clerk)).Grants[0];
        var more = new RoleRequest("clerk", "Looks on.", "manage", null, ["access", "people", "settings"]);
        var (accomplice, n) = (ship.Address("accomplice"), 0);

        // Each is tried whether or not the one before it was refused, so that one may build upon another.
        List<Func<Task>> ways =
        [
            () => InviteAsync(new(accomplice, "staff", "manage")),
            () => InviteAsync(new(accomplice, "staff", "edit") { Resource = "Register" }),
            () => InviteAsync(new(accomplice, "staff") { Gives = new BundleView(null, ["Officers"]) }),
            () => InviteAsync(new(accomplice, "partner", "view") { Organisation = "Harbour board" }),
            () => InviteAsync(new(accomplice, "staff", "manage") { Draft = true }),
            () => attacker.Presets.AddAsync(new PresetRequest("more", "staff", "manage")),
            () => InviteAsync(new(accomplice) { Preset = "more" }),
            () => attacker.AddLinkAsync(new JoinLinkRequest("more", "staff", "manage")),
            () => attacker.CorrectAsync(pending.Id, accomplice),
            () => attacker.FreshLinkAsync(pending.Id),
            () => attacker.ResendInvitationAsync(pending.Id),
            () => attacker.RemindAsync(pending.Id),
            () => attacker.ExtendAsync(pending.Id, 20),
            () => attacker.RenewLinkAsync(link.Link.Id),
            () => attacker.MendAsync(list.Id, 1, new MendRequest(Address: accomplice)),
            () => attacker.SendBatchAsync(list.Id),
            () => attacker.TakeStepsAsync(new StepsRequest("resend", [pending.Id, draft.Id])),
            () => attacker.EndAsync(ship.Administrator),
            () => attacker.PeopleStepsAsync(new PeopleStepRequest("pause", [ship.Administrator])),
            () => attacker.SendDraftAsync(draft.Id),
            () => attacker.ChangeDraftAsync(draft.Id, new InvitationRequest(accomplice, "staff", "manage")),
            () =>
                attacker.AddBatchAsync(
                    new MemoryStream("Address,Role\na@x.example,manage"u8.ToArray()),
                    "x.csv",
                    new BatchDefaults("staff"),
                    true
                ),
            () => attacker.GrantAsync(new GrantRequest("manage", clerk)),
            () => attacker.GrantAsync(new GrantRequest("edit", clerk, Resource: "Register")),
            () => attacker.GrantAsync(new GrantRequest("edit", mate, From: today.AddDays(1))),
            () => attacker.GrantAsync(new GrantRequest("manage", Organisation: "Harbour board")),
            () => attacker.ChangeGrantAsync(own.Id, new GrantChangeRequest("manage")),
            () => attacker.Roles.AddAsync(more with { Name = "more" }),
            () => attacker.Roles.ChangeAsync(role, more),
            () => attacker.GrantAsync(new GrantRequest("more", clerk)),
            () => attacker.PutIntoGroupAsync("Officers", new PeopleRequest([clerk])),
            () => attacker.Groups.AddAsync(new GroupRequest("Ours")),
            () => attacker.PutIntoGroupAsync("Ours", new PeopleRequest([clerk, mate])),
            () => attacker.GrantAsync(new GrantRequest("edit", Group: "Ours")),
            () => attacker.PeopleStepsAsync(new PeopleStepRequest("grant", [clerk, mate], Role: "edit")),
            () => attacker.PeopleStepsAsync(new PeopleStepRequest("kind", [mate], "staff")),
            () => attacker.ChangePersonAsync(mate, new DetailsRequest(Organisation: "Harbour board")),
            () => attacker.ChangePersonAsync(mate, new DetailsRequest(Leads: true)),
            () =>
                attacker.Resources.ChangeAsync(
                    "Register",
                    new ResourceRequest("Register", "Collection", Owner: clerk)
                ),
            () => attacker.HandOverAsync(new HandoverRequest(ship.Administrator, clerk)),
        ];
        foreach (var way in ways)
        {
            try
            {
                await way();
            }
            catch (RefusedException)
            {
                n++;
            }
        }
        Assert.True(n > 10, $"only {n} ways were refused");
        await harbour.LetPassAsync(TimeSpan.Zero);

        // Nobody but the administrator has more than to look on, now or at any later day; nor will whoever accepts.
        await using var rows = harbour.Database.Open(ship.Id);
        var world = (await AccessPicture.ReadAsync(rows, 0)).World;
        DutyWords.Read(duties.Split(',', StringSplitOptions.RemoveEmptyEntries)).Try(out var held, out _);
        var administrator = world.ByAddress[ship.Administrator];
        foreach (var person in world.People.Keys.Where(id => id != administrator))
        foreach (var day in new[] { today, today.AddDays(2), DateOnly.MaxValue })
        {
            Assert.Equal(Duties.None, world.DutiesOf(person, day) & ~held);
            Assert.All(world.Places(), place => Assert.True(world.LevelOf(person, place, day) <= Level.View));
        }
        foreach (var invitation in rows.Invitations.Where(i => i.Id != pending.Id && i.Id != draft.Id))
            Assert.Null(GivingRules.Forbids(world, world.ByAddress[clerk], invitation.Bundle, today));
        Assert.Equal(ship.Address("officer"), (await ship.Client.InvitationAsync(pending.Id)).Address);
        Assert.NotNull((await ship.AcceptAsync(officer, "Officer")).MemberId);
        Assert.True((await ship.Client.VerifyRecordAsync()).Whole);

        Task InviteAsync(InvitationRequest request) =>
            attacker.SendInvitationAsync(request, Guid.NewGuid().ToString());
    }

    [Fact]
    public async Task What_somebody_gave_and_no_longer_holds_takes_effect_only_when_approved()
    {
        var ship = await harbour.NewShipAsync();
        var kofi = ship.Address("kofi");
        await ship.BringAboardAsync(kofi, "staff", "manage");
        using var second = await ship.ClientOfAsync(kofi);
        var ines = ship.Address("ines");
        await second.SendInvitationAsync(new InvitationRequest(ines, "staff", "edit"), "k");
        await ship.Client.GrantAsync(new GrantRequest("view", kofi));
        await ship.Client.PeopleStepsAsync(new PeopleStepRequest("take", [kofi], Role: "manage"));
        Assert.Null((await ship.AcceptAsync(await ship.SecretAsync(ines), "Ines")).MemberId);
        var waiting = Assert.Single((await ship.Client.InvitationsAsync("waiting")).Items);
        Assert.Equal("accepted", (await ship.Client.ApproveAsync(waiting.Id)).State);
        Assert.Equal("edit", (await ship.Client.PersonAsync(ines)).Role);
    }
}
