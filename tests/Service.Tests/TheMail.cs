using System.Collections.Concurrent;
using System.Text.Json;
using ComeAboard.Client.Invitations;
using ComeAboard.Core;
using ComeAboard.Service.Access;
using ComeAboard.Service.Applications;
using ComeAboard.Service.Connections;
using ComeAboard.Service.Jobs;
using ComeAboard.Service.Mail;
using ComeAboard.Service.Tests.World;
using ComeAboard.Service.Workspaces;
using ComeAboard.Storage;
using ComeAboard.Storage.Mail;
using Microsoft.AspNetCore.DataProtection;
using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.DependencyInjection;
using Microsoft.Extensions.Logging.Abstractions;
using Xunit;
using Patience = ComeAboard.Service.Tests.World.Patience;

namespace ComeAboard.Service.Tests;

public sealed class TheMail_on_SQLite(SqliteHarbour harbour) : TheMail(harbour), IClassFixture<SqliteHarbour>;

public sealed class TheMail_on_PostgreSQL(PostgresHarbour harbour)
    : TheMail(harbour),
        IClassFixture<PostgresHarbour>;

/// <summary>The outbox: what the mail server does to it, and two nodes working on it.</summary>
public abstract class TheMail(Harbour harbour)
{
    [Fact]
    public async Task While_the_mail_server_is_away_invitations_wait_and_say_so_and_then_go_out()
    {
        var ship = await harbour.NewShipAsync();
        // The administrator's own proof of address goes out first.
        await UntilAsync(async () => (await ship.Client.OverviewAsync()).WaitingMail == 0);
        await harbour.RestartMailAsync(stop: true);
        var sent = await ship.InviteAsync(ship.Address("ines"));
        await UntilAsync(async () =>
            (await ship.Client.InvitationAsync(sent.Id)).Delivery!.Sentence.Contains(
                "cannot be reached",
                StringComparison.Ordinal
            )
        );
        Assert.Equal("queued", (await ship.Client.InvitationAsync(sent.Id)).State);
        Assert.Equal(1, (await ship.Client.OverviewAsync()).WaitingMail);

        await harbour.RestartMailAsync(stop: false);
        await ship.SecretAsync(ship.Address("ines"));
        await UntilAsync(async () => (await ship.Client.InvitationAsync(sent.Id)).State == "sent");
    }

    [Fact]
    public async Task A_list_says_of_each_how_its_last_mail_stands_and_how_many_there_are_whomever_it_shows()
    {
        var ship = await harbour.NewShipAsync();
        var other = await harbour.NewShipAsync();
        var back = await ship.InviteAsync(ship.Address("nobody"));
        var there = await ship.InviteAsync(ship.Address("ines"));
        await UntilAsync(async () => (await ship.Client.InvitationAsync(back.Id)).State == "bounced");
        await UntilAsync(async () => (await ship.Client.InvitationAsync(there.Id)).State == "sent");
        await harbour.RestartMailAsync(stop: true);
        await ship.Client.ResendInvitationAsync(back.Id);

        var page = await ship.Client.InvitationsAsync();
        Assert.Equal(
            [(there.Id, "accepted", "2.0.0 Message taken")],
            page.Items.Where(i => i.Id == there.Id).Select(MailOf)
        );
        // The one that came back is not the last any more.
        var last = page.Items.Single(i => i.Id == back.Id).Delivery!;
        Assert.NotEqual("bounced", last.State);
        Assert.NotNull(last.NextTryAt);
        var shown = (await ship.Client.InvitationAsync(back.Id)).Delivery!;
        Assert.Equal((last.State, last.NextTryAt is null), (shown.State, shown.NextTryAt is null));
        var none = await ship.Client.InvitationsAsync(search: "nowhere to be found");
        Assert.Empty(none.Items);
        Assert.Equal((1, 1, 0), (none.Counts["sent"], none.Counts["queued"], none.Counts["bounced"]));
        Assert.All((await other.Client.InvitationsAsync()).Counts, count => Assert.Equal(0, count.Value));
        await harbour.RestartMailAsync(stop: false);

        static (Guid, string, string?) MailOf(InvitationView of) =>
            (of.Id, of.Delivery!.State, of.Delivery.Answer);
    }

    [Fact]
    public async Task An_address_that_does_not_exist_bounces_with_the_servers_words()
    {
        var ship = await harbour.NewShipAsync();
        var sent = await ship.InviteAsync(ship.Address("nobody"));
        await UntilAsync(async () => (await ship.Client.InvitationAsync(sent.Id)).State == "bounced");
        Assert.Contains(
            "mailbox does not exist",
            (await ship.Client.InvitationAsync(sent.Id)).Delivery!.Sentence,
            StringComparison.Ordinal
        );
        Assert.Equal("queued", (await ship.Client.ResendInvitationAsync(sent.Id)).State);
    }

    [Fact]
    public async Task A_server_that_says_later_is_asked_again_under_the_same_message_id()
    {
        var ship = await harbour.NewShipAsync();
        var usual = harbour.Smtp.Verdict;
        var asked = 0;
        harbour.Smtp.Verdict = to =>
            to == ship.Address("slow") && Interlocked.Increment(ref asked) == 1
                ? "451 4.3.0 Not now"
                : usual(to);
        var sent = await ship.InviteAsync(ship.Address("slow"));
        await ship.SecretAsync(ship.Address("slow"));
        await UntilAsync(async () => (await ship.Client.InvitationAsync(sent.Id)).State == "sent");
        Assert.True((await ship.Client.InvitationAsync(sent.Id)).Delivery!.Tries >= 2);
        Assert.Single(harbour.Inbox.To(ship.Address("slow")));
        harbour.Smtp.Verdict = usual;
    }

    [Fact]
    public async Task Two_nodes_on_one_outbox_send_every_mail_once()
    {
        var ship = await harbour.NewShipAsync();
        await Task.WhenAll(
            Enumerable
                .Range(0, 80)
                .Select(i =>
                    (i % 2 == 0 ? ship.Client : ship.OtherNode).SendInvitationAsync(
                        new(ship.Address("guest" + i), "guest", "view"),
                        "k" + i
                    )
                )
        );
        await UntilAsync(async () => (await ship.Client.InvitationsAsync()).Counts["sent"] == 80);
        for (var i = 0; i < 80; i++)
            Assert.Single(harbour.Inbox.To(ship.Address("guest" + i)));
        Assert.Equal(
            80,
            harbour
                .Inbox.To()
                .Where(m => m.Recipients[0].EndsWith(ship.Name + "-guests.example", StringComparison.Ordinal))
                .Select(m => m.Message.MessageId)
                .Distinct()
                .Count()
        );
    }

    [Fact]
    public async Task A_revoked_invitation_whose_mail_still_waits_is_never_sent()
    {
        var ship = await harbour.NewShipAsync();
        // The administrator's own proof of address goes out first.
        await UntilAsync(async () => (await ship.Client.OverviewAsync()).WaitingMail == 0);
        await harbour.RestartMailAsync(stop: true);
        var sent = await ship.InviteAsync(ship.Address("ines"));
        await ship.Client.RevokeInvitationAsync(sent.Id);
        await harbour.RestartMailAsync(stop: false);
        await ship.InviteAsync(ship.Address("wren"));
        await ship.SecretAsync(ship.Address("wren"));
        Assert.Empty(harbour.Inbox.To(ship.Address("ines")));
    }

    [Fact]
    public async Task What_is_revoked_while_a_slow_server_lets_a_mail_wait_is_not_sent()
    {
        var ship = await harbour.NewShipAsync();
        await UntilAsync(async () => (await ship.Client.OverviewAsync()).WaitingMail == 0);
        // Whoever is connected is let go, and who comes now waits to be greeted.
        var (asked, greet) = (new TaskCompletionSource(), new TaskCompletionSource());
        await harbour.RestartMailAsync(
            stop: false,
            () =>
            {
                asked.TrySetResult();
                return greet.Task;
            }
        );
        var sent = await ship.InviteAsync(ship.Address("ines"));
        await asked.Task.WaitAsync(TimeSpan.FromSeconds(15));
        await ship.Client.RevokeInvitationAsync(sent.Id);
        greet.SetResult();
        await ship.InviteAsync(ship.Address("wren"));
        await ship.SecretAsync(ship.Address("wren"));
        Assert.Empty(harbour.Inbox.To(ship.Address("ines")));
    }

    [Fact]
    public async Task A_mail_at_which_the_server_breaks_off_and_one_that_hangs_up_cost_nobody_elses()
    {
        var ship = await harbour.NewShipAsync();
        var bad = ship.Address("bad");
        (harbour.Smtp.BreaksOffAt, harbour.Smtp.MailsPerConnection) = (to => to == bad, 3);
        try
        {
            var broken = await ship.InviteAsync(bad);
            for (var n = 0; n < 20; n++)
                await ship.InviteAsync(ship.Address("good" + n));
            await UntilAsync(async () => (await ship.Client.InvitationsAsync()).Counts["sent"] == 20);
            for (var n = 0; n < 20; n++)
                Assert.Single(harbour.Inbox.To(ship.Address("good" + n)));
            Assert.Equal(1, (await ship.Client.OverviewAsync()).WaitingMail);
            Assert.Contains(
                "broke off at this mail",
                (await ship.Client.InvitationAsync(broken.Id)).Delivery!.Sentence,
                StringComparison.Ordinal
            );
        }
        finally
        {
            (harbour.Smtp.BreaksOffAt, harbour.Smtp.MailsPerConnection) = (_ => false, int.MaxValue);
        }
        await ship.SecretAsync(bad);
    }

    [Fact]
    public async Task A_mail_at_which_the_server_hangs_holds_up_no_lot_after_it()
    {
        var ship = await harbour.NewShipAsync();
        var slow = ship.Address("slow");
        await using var rows = harbour.Database.Open(ship.Id);
        using var worker = Apart(harbour.Database, Of<AccessWorlds>());
        using var held = new ManualResetEventSlim();
        harbour.Smtp.BreaksOffAt = to =>
        {
            if (to == slow)
                held.Wait(TimeSpan.FromSeconds(60));
            return false;
        };
        try
        {
            await AwaitAsync(rows, [Waits(ship, "slow", 0)]);
            await worker.StartAsync(CancellationToken.None);
            foreach (var next in (string[])["first", "second", "third"])
            {
                await AwaitAsync(rows, [Waits(ship, next, 0)]);
                await UntilAsync(() => Task.FromResult(harbour.Inbox.To(ship.Address(next)).Count == 1));
            }
            Assert.Empty(harbour.Inbox.To(slow));
        }
        finally
        {
            harbour.Smtp.BreaksOffAt = _ => false;
            held.Set();
            await worker.StopAsync(CancellationToken.None);
        }
        Assert.Single(harbour.Inbox.To(slow));
    }

    [Fact]
    public async Task Where_nothing_can_be_written_down_few_mails_go_out_and_sending_ends()
    {
        const int Waiting = 60;
        var ship = await harbour.NewShipAsync();
        await using var rows = harbour.Database.Open(ship.Id);
        await AwaitAsync(rows, Enumerable.Range(0, Waiting).Select(n => Waits(ship, "kept", n)));
        using var worker = Apart(Database.Sqlite("/nowhere/at-all.db"), Of<AccessWorlds>());
        using var stop = new CancellationTokenSource();
        var sending = worker.SendDueAsync(stop.Token);
        await UntilAsync(() => Task.FromResult(harbour.Inbox.To(ship.Address("kept")).Count >= 16));
        await stop.CancelAsync();
        var fault = await Xunit.Record.ExceptionAsync(() => sending.WaitAsync(TimeSpan.FromSeconds(30)));
        Assert.NotNull(fault);
        Assert.IsNotType<TimeoutException>(fault);
        Assert.InRange(harbour.Inbox.To(ship.Address("kept")).Count, 16, 32);
        Assert.Equal(
            Waiting,
            await rows.Deliveries.Where(d => d.DueAt >= Due && d.SettledAt == null).ExecuteDeleteAsync()
        );
    }

    [Fact]
    public async Task A_mail_that_cannot_be_put_together_holds_up_no_other_and_says_so()
    {
        var ship = await harbour.NewShipAsync();
        await using var rows = harbour.Database.Open(ship.Id);
        var torn = Waits(ship, "torn", 0);
        torn.Sealed = Seal.Protect("No letter."u8.ToArray());
        await AwaitAsync(rows, [torn, .. Enumerable.Range(1, 12).Select(n => Waits(ship, "whole", n))]);
        using var worker = Apart(harbour.Database, Of<AccessWorlds>());
        // By that clock what other scenes left to be sent is due as well, and takes its turn.
        var waits = await Patience.UntilAsync(
            async () =>
            {
                await worker.SendDueAsync();
                return await rows
                    .Deliveries.AsNoTracking()
                    .Where(d => d.DueAt >= Due && d.SettledAt == null)
                    .ToListAsync();
            },
            left => left.Count == 1,
            tries: 20
        );
        Assert.Equal(12, harbour.Inbox.To(ship.Address("whole")).Count);
        Assert.Equal(
            [(torn.Id, DeliveryState.Deferred, "the mail could not be put together", 1, default(Guid?))],
            waits.Select(d => (d.Id, d.State, d.Answer, d.Tries, d.Lease))
        );
        await rows.Deliveries.Where(d => d.Id == torn.Id).ExecuteDeleteAsync();
    }

    [Fact]
    public async Task Mails_whose_letters_cannot_be_read_are_tried_again_soon()
    {
        var ship = await harbour.NewShipAsync();
        await ship.BringAboardAsync(ship.Address("guest"));
        await using var rows = harbour.Database.Open(ship.Id);
        var invitation = await rows.Invitations.Select(i => i.Id).FirstAsync();
        await AwaitAsync(rows, Enumerable.Range(0, 3).Select(n => Waits(ship, "again", n, invitation)));
        using var worker = Apart(
            harbour.Database,
            new AccessWorlds(Database.Sqlite("/nowhere/at-all.db"), Later)
        );
        Assert.NotNull(await Xunit.Record.ExceptionAsync(() => worker.SendDueAsync()));
        var left = rows.Deliveries.Where(d => d.DueAt >= Due && d.SettledAt == null);
        Assert.Equal(
            Enumerable.Repeat((default(Guid?), 0), 3),
            from mail in await left.AsNoTracking().ToListAsync()
            where mail.DueAt < Later.GetUtcNow() + TimeSpan.FromSeconds(2)
            select (mail.Lease, mail.Tries)
        );
        await left.ExecuteDeleteAsync();
    }

    // By a clock of its own: the workers of the nodes do not see what waits by it.
    private static readonly ShiftedClock Later = new() { Offset = TimeSpan.FromDays(400) };
    private static readonly DateTimeOffset Due = DateTimeOffset.UtcNow.AddDays(399);

    private IDataProtector Seal => Of<IDataProtectionProvider>().CreateProtector("ComeAboard.Mail.Letter.v1");

    private T Of<T>()
        where T : notnull => harbour.Node.Services.GetRequiredService<T>();

    /// <summary>A worker that sees what is due by the later clock, and writes down what came of it in a database.</summary>
    private OutboxWorker Apart(Database writesTo, AccessWorlds worlds) =>
        new(
            harbour.Database,
            new MailQueues(harbour.Database, Of<WriteGate>(), Later),
            new Settlement(
                new WorkspaceWriter(
                    writesTo,
                    Of<WriteGate>(),
                    Later,
                    Of<OutboxBell>(),
                    Of<SignOutBell>(),
                    Of<CarryBell>(),
                    Of<AccessWorlds>()
                ),
                Of<DeliverySteps>(),
                Of<ServiceSettings>(),
                NullLogger<Settlement>.Instance
            ),
            Of<Outbox>(),
            worlds,
            Of<OutboxBell>(),
            Of<ServiceSettings>(),
            new FirstAnswer(TimeSpan.Zero),
            Later,
            NullLogger<OutboxWorker>.Instance
        );

    /// <summary>A mail that is due by the later clock.</summary>
    private DeliveryRow Waits(Ship ship, string to, int number, Guid? invitation = null) =>
        new()
        {
            WorkspaceId = ship.Id,
            Id = Guid.CreateVersion7(),
            Purpose = invitation is null ? Purposes.Notice : Purposes.Invitation,
            InvitationId = invitation,
            ToAddress = ship.Address(to),
            MessageId = $"{to}{number}.{ship.Name}@come-aboard.example",
            Sealed = Seal.Protect(
                JsonSerializer.SerializeToUtf8Bytes(
                    new Letter("The Lantern Tide", null, "", "Kept", "Kept.", "<p>Kept.</p>")
                )
            ),
            State = DeliveryState.Due,
            Lane = DeliveryRow.LaneOf(Urgency.AtOnce, ship.Id),
            DueAt = Due,
            CreatedAt = Due,
        };

    private static async Task AwaitAsync(ComeAboardContext rows, IEnumerable<DeliveryRow> mails)
    {
        rows.Deliveries.AddRange(mails);
        await rows.SaveChangesAsync();
        rows.ChangeTracker.Clear();
    }

    [Fact]
    public async Task The_words_of_a_mail_are_sealed_while_they_wait_and_gone_once_sent()
    {
        var ship = await harbour.NewShipAsync();
        await ship.InviteAsync(ship.Address("ines"), message: "Bring boots.");
        var secret = await ship.SecretAsync(ship.Address("ines"));
        await UntilAsync(async () =>
        {
            await using var rows = harbour.Database.Open(ship.Id);
            return rows.Deliveries.All(d => d.Sealed == null);
        });
        await using var stored = harbour.Database.Open(ship.Id);
        Assert.DoesNotContain(
            stored.Invitations.Select(i => i.SecretHash),
            hash => hash!.Contains(secret, StringComparison.Ordinal)
        );
        Assert.DoesNotContain(
            stored.Record.Select(r => r.Details),
            details => details!.Contains("boots", StringComparison.Ordinal)
        );
    }

    private static async Task UntilAsync(Func<Task<bool>> isTrue)
    {
        for (var tries = 0; tries < 300; tries++)
        {
            if (await isTrue())
                return;
            await Task.Delay(50);
        }
        Assert.Fail("It did not come true in 15 seconds.");
    }
}

public sealed class MailInLots
{
    [Theory]
    [InlineData(32, 80, 64)]
    [InlineData(64, 320, 60)]
    [InlineData(128, 100, 128)]
    [InlineData(128, 0, 128)]
    [InlineData(32, 8_000, 16)]
    [InlineData(1, 2, 16)]
    public void A_lot_is_what_goes_out_in_a_moment(int sent, int milliseconds, int next) =>
        Assert.Equal(next, OutboxWorker.LotOf(sent, TimeSpan.FromMilliseconds(milliseconds)));

    [Fact]
    public async Task What_waits_behind_a_mail_is_read_whole_while_other_senders_take_it_out()
    {
        var queue = new ConcurrentQueue<string>();
        var isOver = false;
        var taking = Task.Run(
            () =>
            {
                while (!Volatile.Read(ref isOver))
                {
                    for (var n = 0; n < 40; n++)
                        queue.Enqueue("a mail");
                    while (queue.TryDequeue(out _)) { }
                }
            },
            TestContext.Current.CancellationToken
        );
        try
        {
            for (var look = 0; look < 50_000; look++)
                Assert.DoesNotContain(null, OutboxWorker.WithWaiting("one mail", queue));
        }
        finally
        {
            Volatile.Write(ref isOver, true);
            await taking;
        }
        Assert.Equal(["one mail"], OutboxWorker.WithWaiting("one mail", queue));
    }
}
