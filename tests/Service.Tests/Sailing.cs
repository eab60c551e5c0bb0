using ComeAboard.Client;
using ComeAboard.Client.Access;
using ComeAboard.Client.Accounts;
using ComeAboard.Client.Invitations;
using ComeAboard.Core.Invitations;
using ComeAboard.Service.Tests.World;
using ComeAboard.Storage.Mail;
using Microsoft.EntityFrameworkCore;
using Xunit;

namespace ComeAboard.Service.Tests;

public sealed class Sailing_on_SQLite(SqliteHarbour harbour) : Sailing(harbour), IClassFixture<SqliteHarbour>;

public sealed class Sailing_on_PostgreSQL(PostgresHarbour harbour)
    : Sailing(harbour),
        IClassFixture<PostgresHarbour>;

/// <summary>
/// Random walks over invitations, seats, join links, approvals, mails and departures, by turns through two nodes, laid
/// beside a book kept by hand: a line for each person, and what follows from it counted anew after every step.
/// </summary>
public abstract class Sailing(Harbour harbour)
{
    private static readonly int Walks = int.TryParse(
        Environment.GetEnvironmentVariable("COMEABOARD_TEST_WALKS"),
        out var walks
    )
        ? walks
        : 2;

    private const int Steps = 45;
    private const int Desks = 6;
    private const int Cap = 4;

    /// <summary>What is known of one invitation, by hand.</summary>
    private sealed class Line(Guid id, string address, bool hasSeat, bool byLink)
    {
        public Guid Id => id;
        public string Address => address;
        public bool HasSeat => hasSeat;
        public bool ByLink => byLink;
        public string State { get; set; } = "sent";
        public int Mails { get; set; } = 1;

        /// <summary>Whether they are a member by it, or were.</summary>
        public bool HasCome { get; set; }
        public bool HasGone { get; set; }
        public bool IsPending => State is "sent" or "waiting";
    }

    [Fact]
    public async Task Whatever_is_done_in_whatever_order_the_book_kept_by_hand_agrees()
    {
        for (var walk = 0; walk < Walks; walk++)
        {
            var seed = Random.Shared.Next();
            try
            {
                await WalkAsync(new Random(seed));
            }
            catch (Exception fault)
            {
                throw new InvalidOperationException(
                    $"The walk of seed {seed} went wrong: {fault.Message}",
                    fault
                );
            }
        }
    }

    private async Task WalkAsync(Random random)
    {
        var ship = await harbour.NewShipAsync();
        await ship.Client.Pools.AddAsync(new PoolRequest("Desks", Desks));
        var link = await ship.Client.AddLinkAsync(
            new JoinLinkRequest("Harbour day", "guest", "view", Cap: Cap, Days: 300)
        );
        var mate = ship.Address("mate0");
        await ship.BringAboardAsync(mate, "staff", "manage");
        var (mates, passed) = (1, 0);
        var (book, needsApproval, isOpen) = (new List<Line>(), false, true);
        for (var step = 0; step < Steps; step++)
        {
            var client = random.Next(2) == 0 ? ship.Client : ship.OtherNode;
            // Those that wait are few, and much can happen to them.
            var waiting = book.Where(l => l.State == "waiting").ToList();
            var among = waiting.Count > 0 && random.Next(2) == 0 ? waiting : book;
            var line = among.Count > 0 ? among[random.Next(among.Count)] : null;
            await OneAsync(step == 0 && random.Next(2) == 0 ? 12 : random.Next(20), client, line);
            await SettleAsync(ship, book);
            await AgreeAsync(ship, link.Link.Id, book, isOpen);
        }
        Assert.True((await ship.Client.VerifyRecordAsync()).Whole);

        async Task OneAsync(int which, AboardClient client, Line? line)
        {
            switch (which)
            {
                case 0 or 1 or 2:
                    var hasSeat = random.Next(2) == 0;
                    var address = ship.Address($"p{book.Count}");
                    var sent = await Try(() =>
                        client.SendInvitationAsync(
                            new InvitationRequest(address, "guest", "view", AnswerDays: 10)
                            {
                                Gives = hasSeat ? new BundleView(null, null, ["Desks"]) : null,
                                Host = random.Next(2) == 0 ? ship.Address($"mate{mates - 1}") : null,
                            },
                            address
                        )
                    );
                    Assert.Equal(hasSeat && SeatsLeft() == 0, sent is null);
                    if (sent is not null)
                        book.Add(new Line(sent.Id, address, hasSeat, false));
                    break;
                case 3 or 15:
                    var comer = ship.Address($"p{book.Count}");
                    if (await Try(() => AskAsync(client, link, comer)) is not null)
                        book.Add(
                            new Line(
                                (await client.InvitationsAsync(search: comer)).Items.Single().Id,
                                comer,
                                false,
                                true
                            )
                        );
                    break;
                case 4 when line is not null:
                    await TakeAsync(
                        line,
                        () => client.ResendInvitationAsync(line.Id),
                        MayRevive(line),
                        "sent",
                        true
                    );
                    break;
                case 5 when line is not null:
                    await TakeAsync(
                        line,
                        () => client.ExtendAsync(line.Id, 10),
                        line.State != "bounced" && MayRevive(line),
                        "sent",
                        false
                    );
                    break;
                case 6 when line is not null:
                    await TakeAsync(
                        line,
                        () => client.RevokeInvitationAsync(line.Id),
                        line.IsPending,
                        "revoked",
                        false
                    );
                    break;
                case 7 or 8 or 16 or 17 or 18 or 19 when line is { State: "sent" }:
                    var secret = await ship.SecretAsync(line.Address, line.Mails);
                    var came = await Try(() => client.AcceptAsync(new(secret, Ship.Password, "Somebody")));
                    Assert.Equal(line.ByLink && (!isOpen || UsesOf(book) >= Cap), came is null);
                    if (came is not null)
                    {
                        Assert.Equal(needsApproval, came.MemberId is null);
                        (line.State, line.HasCome) = (needsApproval ? "waiting" : "accepted", !needsApproval);
                    }
                    break;
                case 9 when line is { State: "sent" }:
                    await client.DeclineAsync(new(await ship.SecretAsync(line.Address, line.Mails)));
                    line.State = "declined";
                    break;
                case 10 when line is not null:
                    await TakeAsync(
                        line,
                        () => client.ApproveAsync(line.Id),
                        line.State == "waiting",
                        "accepted",
                        false
                    );
                    line.HasCome |= line.State == "accepted";
                    break;
                case 11 when line is not null:
                    await TakeAsync(
                        line,
                        () => client.RefuseAsync(line.Id),
                        line.State == "waiting",
                        "refused",
                        false
                    );
                    break;
                case 12:
                    needsApproval = !needsApproval;
                    var rules = await client.RulesAsync();
                    await client.ChangeRulesAsync(rules with { Approval = needsApproval ? ["guest"] : [] });
                    break;
                // Tokens count 90 days.
                case 13 when passed++ < 7:
                    await harbour.LetPassAsync(TimeSpan.FromDays(11));
                    foreach (var overdue in book.Where(l => l.State == "sent" && !l.ByLink))
                        overdue.State = "expired";
                    await TogetherAsync(client);
                    break;
                case 14:
                    await LeaveAsync(client, line);
                    break;
            }
        }

        int SeatsLeft() => Desks - book.Count(l => l.HasSeat && (l.IsPending || l.HasCome && !l.HasGone));

        bool MayRevive(Line line) =>
            line.State == "sent"
            || line.State is "expired" or "bounced" && (!line.HasSeat || SeatsLeft() > 0);

        // All that have expired at once, tried first: both say the same.
        async Task TogetherAsync(AboardClient client)
        {
            var all = new StepsRequest("extend", State: "expired", Days: 10);
            var tried = await client.TakeStepsAsync(all with { DryRun = true });
            var taken = await client.TakeStepsAsync(all);
            Assert.Equal((tried.Done, tried.RefusedCount), (taken.Done, taken.RefusedCount));
            var refused = taken.Refused.Select(no => no.Id).ToHashSet();
            Assert.Equal(tried.Refused.Select(no => no.Id), taken.Refused.Select(no => no.Id));
            foreach (var line in book.Where(l => l.State == "expired" && !refused.Contains(l.Id)))
                line.State = "sent";
        }

        // Somebody who came in leaves, or the mate who invites and hosts does and another takes their place.
        async Task LeaveAsync(AboardClient client, Line? line)
        {
            var isMate = line is not { HasCome: true, HasGone: false };
            var whom = isMate ? ship.Address($"mate{mates - 1}") : line!.Address;
            var plan = await client.PlanDepartureAsync(whom);
            var done = await client.EndAsync(whom);
            Assert.Equal(plan.Steps.Select(StepsOf.Planned), done.Steps.Select(StepsOf.Planned));
            if (!isMate)
            {
                line!.HasGone = true;
                return;
            }
            var next = ship.Address($"mate{mates++}");
            await ship.BringAboardAsync(next, "staff", "manage");
        }
    }

    private static async Task TakeAsync(
        Line line,
        Func<Task<InvitationView>> step,
        bool isExpected,
        string next,
        bool mails
    )
    {
        // Six mails a day go to one address, and no more.
        var done = await Try(step);
        if (done is null && mails && line.Mails >= InvitingRules.MostMailsADay)
            return;
        Assert.Equal(isExpected, done is not null);
        if (done is null)
            return;
        line.State = next;
        if (mails)
            line.Mails++;
    }

    private static int UsesOf(List<Line> book) =>
        book.Count(l => l.ByLink && (l.State == "waiting" || l.HasCome));

    /// <summary>Waits until the mail server has taken what was written, so that states are what they come to.</summary>
    private async Task SettleAsync(Ship ship, List<Line> book)
    {
        for (var tries = 0; tries < 400; tries++)
        {
            await using var rows = harbour.Database.Open(ship.Id);
            if (!await rows.Deliveries.AnyAsync(d => d.SettledAt == null))
                return;
            await Task.Delay(15);
        }
        Assert.Fail($"Mail still waits ({book.Count} lines).");
    }

    private async Task AgreeAsync(Ship ship, Guid link, List<Line> book, bool isOpen)
    {
        await using var rows = harbour.Database.Open(ship.Id);
        var kept = await rows.Invitations.AsNoTracking().ToDictionaryAsync(i => i.Id);
        foreach (var line in book)
            Assert.Equal((line.Address, line.State), (line.Address, kept[line.Id].State.Word()));
        // The kept counts are what counting would give.
        var counts = await rows.InvitationCounts.AsNoTracking().ToDictionaryAsync(c => c.State, c => c.Count);
        foreach (var state in Enum.GetValues<InvitationState>())
            Assert.Equal(kept.Values.Count(i => i.State == state), counts.GetValueOrDefault(state));
        var pool = await rows.SeatPools.AsNoTracking().SingleAsync();
        Assert.Equal(
            (
                book.Count(l => l.HasSeat && l.IsPending),
                book.Count(l => l.HasSeat && l.HasCome && !l.HasGone)
            ),
            (pool.Account.Reserved, pool.Account.Held)
        );
        Assert.Equal(pool.Account.Reserved, await rows.SeatReservations.CountAsync());
        Assert.Equal(pool.Account.Held, await rows.Seats.CountAsync());
        var door = await rows.JoinLinks.AsNoTracking().SingleAsync(l => l.Id == link);
        Assert.Equal((UsesOf(book), isOpen), (door.Uses, door.ClosedAt is null));
        // No mail waits for somebody who is not asked any more.
        Assert.Empty(
            await (
                from d in rows.Deliveries
                join i in rows.Invitations on d.InvitationId equals (Guid?)i.Id
                where
                    d.SettledAt == null
                    && (d.Purpose == "invitation" || d.Purpose == "reminder")
                    && i.State != InvitationState.Queued
                    && i.State != InvitationState.Sent
                select d.Id
            ).ToListAsync()
        );
        await OpenThings.NameNobodyGoneAsync(harbour, ship);
    }

    private static async Task<object?> AskAsync(AboardClient client, NewJoinLink link, string address)
    {
        await client.AskByLinkAsync(new JoinRequest(link.Address[^43..], address));
        return link;
    }

    private static async Task<T?> Try<T>(Func<Task<T>> step)
        where T : class?
    {
        try
        {
            return await step();
        }
        catch (RefusedException)
        {
            return null;
        }
    }
}
