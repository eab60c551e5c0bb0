using ComeAboard.Service.Jobs;
using ComeAboard.Service.Mail;
using ComeAboard.Service.Tests.World;
using ComeAboard.Service.Workspaces;
using ComeAboard.Storage.Mail;
using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.DependencyInjection;
using Xunit;

namespace ComeAboard.Service.Tests;

public sealed class Leasing_on_SQLite(SqliteHarbour harbour) : Leasing(harbour), IClassFixture<SqliteHarbour>;

public sealed class Leasing_on_PostgreSQL(PostgresHarbour harbour)
    : Leasing(harbour),
        IClassFixture<PostgresHarbour>;

/// <summary>Work that one process has taken on for a while, and what processes count together.</summary>
public abstract class Leasing(Harbour harbour)
{
    [Fact]
    public async Task A_renewal_that_fails_is_tried_again_and_one_that_is_lost_ends()
    {
        var (asked, failures) = (0, 0);
        await using var lease = new Lease();
        lease.Keep(
            _ =>
                Interlocked.Increment(ref asked) switch
                {
                    1 => throw new TimeoutException("the database is away"),
                    2 => Task.FromResult(true),
                    _ => Task.FromResult(false),
                },
            _ => failures++
        );
        for (var tries = 0; tries < 400 && Volatile.Read(ref asked) < 3; tries++)
            await Task.Delay(50);
        Assert.Equal((3, 1), (asked, failures));
        Assert.True(lease.IsHeld);
        // Let go early, and once more when its time comes.
        await lease.DisposeAsync();
    }

    [Fact]
    public async Task Mail_whose_lease_is_over_is_taken_by_another_and_no_longer_renewed_by_the_first()
    {
        var ship = await harbour.NewShipAsync();
        var queues = new MailQueues(
            harbour.Database,
            harbour.Node.Services.GetRequiredService<WriteGate>(),
            new ShiftedClock { Offset = TimeSpan.FromDays(900) }
        );
        await using (var rows = harbour.Database.Open(ship.Id))
        {
            // Whoever leases takes whatever is due: mails of setting up are on their way first.
            Assert.False(
                await Patience.UntilAsync(
                    () => rows.Deliveries.IgnoreQueryFilters().AnyAsync(d => d.SettledAt == null),
                    isWaiting => !isWaiting
                )
            );
            rows.Deliveries.Add(
                new DeliveryRow
                {
                    WorkspaceId = ship.Id,
                    Id = Guid.CreateVersion7(),
                    Purpose = "test",
                    ToAddress = ship.Address("x"),
                    MessageId = "x",
                    State = DeliveryState.Due,
                    Lane = DeliveryRow.LaneOf(Urgency.Soon, ship.Id),
                    DueAt = DateTimeOffset.UtcNow.AddDays(899),
                    CreatedAt = DateTimeOffset.UtcNow,
                }
            );
            await rows.SaveChangesAsync();
        }
        await using var first = new Lease();
        await using var second = new Lease();
        Assert.Single(await OwnAsync(first));
        Assert.Empty(await OwnAsync(second));
        await Sql.RunGlobalAsync(
            harbour,
            harbour.Engine == Storage.Engine.Postgres
                ? "UPDATE deliveries SET leased_until = now() - interval '1 s' WHERE purpose = 'test'"
                : "UPDATE deliveries SET leased_until = 1 WHERE purpose = 'test'"
        );
        Assert.Single(await OwnAsync(second));
        Assert.False(await queues.RenewAsync(first.Id, default));
        Assert.True(await queues.RenewAsync(second.Id, default));
        await using var all = harbour.Database.Open(ship.Id);
        await all.Deliveries.Where(d => d.Purpose == "test").ExecuteDeleteAsync();

        async Task<List<DeliveryRow>> OwnAsync(Lease lease) =>
            [.. (await queues.LeaseAsync(lease, 50, default)).Where(d => d.Purpose == "test")];
    }

    [Theory]
    [InlineData(7)]
    [InlineData(1_000)]
    public async Task However_many_come_at_once_a_budget_is_given_out_once(int most)
    {
        var whose = Guid.NewGuid().ToString();
        var (here, there) = (BudgetsOf(harbour.Node), BudgetsOf(harbour.OtherNode));
        var waits = await Task.WhenAll(
            Enumerable
                .Range(0, most + 60)
                .Select(n =>
                    (n % 2 == 0 ? here : there).TakeAsync("test", whose, most, TimeSpan.FromHours(1))
                )
        );
        // Of a large budget processes may leave some of what they took at once unused; none is given twice.
        Assert.InRange(waits.Count(wait => wait is null), most < 100 ? most : most * 9 / 10, most);
        Assert.All(waits, wait => Assert.True(wait is null || wait <= TimeSpan.FromHours(1)));
        Assert.Null(await here.TakeAsync("test", whose + "!", most, TimeSpan.FromHours(1)));

        static Budgets BudgetsOf(Microsoft.AspNetCore.Builder.WebApplication node) =>
            node.Services.GetRequiredService<Budgets>();
    }

    [Fact]
    public async Task Several_at_once_are_taken_whole_or_not_at_all()
    {
        var whose = Guid.NewGuid().ToString();
        var budgets = harbour.Node.Services.GetRequiredService<Budgets>();
        Assert.Null(await TakeAsync(60));
        var wait = await TakeAsync(50);
        Assert.InRange(wait!.Value, TimeSpan.FromMinutes(50), TimeSpan.FromHours(1));
        // What did not fit has used nothing up.
        Assert.Null(await TakeAsync(40));
        Assert.NotNull(await TakeAsync(2));
        // What then was not done is given back, and can be taken again.
        await budgets.GiveBackAsync("several", whose, 40);
        Assert.NotNull(await TakeAsync(45));
        Assert.Null(await TakeAsync(40));
        Assert.NotNull(await budgets.TakeAsync("several", whose, 100, TimeSpan.FromHours(1)));
        // However they come, never more than there are.
        var other = whose + "!";
        var taken = await Task.WhenAll(
            Enumerable
                .Range(2, 20)
                .Select(async n =>
                    await budgets.TakeAsync("several", other, 100, TimeSpan.FromHours(1), n) is null ? n : 0
                )
        );
        Assert.InRange(taken.Sum(), 1, 100);

        Task<TimeSpan?> TakeAsync(int count) =>
            budgets.TakeAsync("several", whose, 100, TimeSpan.FromHours(1), count);
    }
}
