using System.Net;
using ComeAboard.Client;
using ComeAboard.Client.Access;
using ComeAboard.Client.Invitations;
using ComeAboard.Core;
using ComeAboard.Service.Access;
using ComeAboard.Service.Accounts;
using ComeAboard.Service.Tests.World;
using ComeAboard.Service.Workspaces;
using ComeAboard.Storage;
using ComeAboard.Storage.Access;
using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.DependencyInjection;
using Npgsql;
using Xunit;
using static ComeAboard.Service.Tests.World.Refusing;

namespace ComeAboard.Service.Tests;

/// <summary>A database that is there and does not answer, and a process that vanished with a lock: nobody waits for ever.</summary>
public sealed class Hanging(FarHarbour harbour) : IClassFixture<FarHarbour>
{
    // Far more than is promised, and far less than waiting for the database would take.
    private static readonly TimeSpan Soon = TimeSpan.FromSeconds(20);

    [Fact]
    public async Task While_the_database_hangs_everybody_is_answered_and_afterwards_all_goes_on()
    {
        var ship = await harbour.NewShipAsync();
        await ship.Client.Areas.AddAsync(new AreaRequest("Bridge"));
        await ship.Client.Resources.AddAsync(new ResourceRequest("Log book", "Bridge"));
        Assert.True(await DecideAsync(ship));
        harbour.Way.IsFrozen = true;
        try
        {
            await Task.WhenAll([
                    .. Enumerable
                        .Range(0, 6)
                        .Select(async n =>
                            Assert.StartsWith(
                                "storage.",
                                await CodeOf(ship.Client.Areas.AddAsync(new AreaRequest("Deck " + n))),
                                StringComparison.Ordinal
                            )
                        ),
                    Refused(ship.Client.InvitationsAsync()),
                    Refused(
                        ship.Client.SendInvitationAsync(
                            new InvitationRequest(ship.Address("x"), "guest", "view"),
                            "x"
                        )
                    ),
                    NotReadyAsync(),
                ])
                .WaitAsync(Soon);
            Assert.Null(await DecideAsync(ship).WaitAsync(Soon));
        }
        finally
        {
            harbour.Way.IsFrozen = false;
        }
        await UntilAsync(async () => await DecideAsync(ship) is true);
        // What was refused was not written, whatever went through once the ice broke.
        Assert.DoesNotContain(
            (await ship.Client.Areas.ListAsync()).Items,
            area => area.Name.StartsWith("Deck", StringComparison.Ordinal)
        );
        await ship.Client.Areas.AddAsync(new AreaRequest("Deck 1"));

        static async Task Refused(Task call) =>
            Assert.StartsWith("storage.", await CodeOf(call), StringComparison.Ordinal);

        async Task NotReadyAsync()
        {
            using var looking = new HttpClient { BaseAddress = Harbour.UrlOf(harbour.Node) };
            var answer = await looking.GetAsync(new Uri("/health/ready", UriKind.Relative));
            Assert.Equal(HttpStatusCode.ServiceUnavailable, answer.StatusCode);
        }
    }

    [Fact]
    public async Task A_process_that_vanished_with_a_lock_holds_nobody_up_for_long()
    {
        var ship = await harbour.NewShipAsync();
        await using var vanished = harbour.Database.Open(ship.Id);
        await using var transaction = await vanished.Database.BeginTransactionAsync();
        await vanished
            .Workspaces.FromSql($"SELECT * FROM workspaces WHERE id = {ship.Id} FOR UPDATE")
            .ToListAsync();
        // Nothing more is heard of it. Whoever writes is told to wait, all of them together, and not for long.
        var codes = await Task.WhenAll(
                Enumerable
                    .Range(0, 6)
                    .Select(n => CodeOf(ship.Client.Areas.AddAsync(new AreaRequest("Deck " + n))))
            )
            .WaitAsync(Soon);
        Assert.All(codes, code => Assert.StartsWith("storage.", code, StringComparison.Ordinal));
        await UntilAsync(async () =>
        {
            try
            {
                await ship.Client.Areas.AddAsync(new AreaRequest("Deck"));
                return true;
            }
            catch (RefusedException refused)
                when (refused.Problem.Code.StartsWith("storage.", StringComparison.Ordinal))
            {
                return false;
            }
        });
    }

    [Fact]
    public async Task Many_who_come_at_once_stand_in_line_and_none_is_told_that_it_is_busy()
    {
        var ship = await harbour.NewShipAsync();
        var accounts = harbour.Node.Services.GetRequiredService<AccountWriter>();
        // Each has its turn for a moment; all of them together for longer than anybody waits for a lock.
        var outcomes = await Task.WhenAll(
            Enumerable
                .Range(0, 20)
                .Select(_ =>
                    accounts.WriteAsync<bool>(
                        [],
                        [ship.Id],
                        Caller.Clock,
                        async _ =>
                        {
                            await Task.Delay(250);
                            return true;
                        }
                    )
                )
        );
        Assert.All(outcomes, outcome => Assert.True(outcome.Value));
    }

    [Fact]
    public async Task Who_waits_behind_work_that_nobody_waits_for_is_answered_soon()
    {
        var (changes, accounts) = (
            harbour.Node.Services.GetRequiredService<WorkspaceWriter>(),
            harbour.Node.Services.GetRequiredService<AccountWriter>()
        );
        var asked = new List<Task<Outcome<bool>>>();
        var hang = new TaskCompletionSource(TaskCreationOptions.RunContinuationsAsynchronously);
        // By both doors: a statement, rows in one round trip, rows that are copied, what is kept, and what is undone.
        foreach (var (ask, answer) in Ways())
        {
            foreach (var byAccounts in new[] { false, true })
            {
                var ship = (await harbour.NewShipAsync()).Id;
                var isIn = new TaskCompletionSource(TaskCreationOptions.RunContinuationsAsynchronously);
                asked.Add(ChangeAsync(byAccounts, ship, context => HangAsync(context, isIn), answer));
                await isIn.Task.WaitAsync(Soon);
                using var patience = Storage.Patience.Within(Storage.Patience.OfRequest);
                asked.Add(ChangeAsync(byAccounts, ship, _ => Task.CompletedTask, true));

                async Task HangAsync(ComeAboardContext context, TaskCompletionSource isIn)
                {
                    await context
                        .Workspaces.Where(w => w.Id == ship)
                        .ExecuteUpdateAsync(set =>
                            set.SetProperty(w => w.MatchDueAt, DateTimeOffset.UnixEpoch)
                        );
                    isIn.SetResult();
                    await hang.Task;
                    context.Turn(ship);
                    await ask(context, ship);
                }
            }
        }
        harbour.Way.IsFrozen = true;
        try
        {
            hang.SetResult();
            var all = Task.WhenAll(asked);
            Assert.Same(all, await Task.WhenAny(all, Task.Delay(Soon)));
            Assert.All(asked, one => Assert.NotNull(StorageFaults.Explain(one.Exception!)));
        }
        finally
        {
            harbour.Way.IsFrozen = false;
        }

        static IEnumerable<(Func<ComeAboardContext, Guid, Task> Ask, Outcome<bool> Answer)> Ways() =>
            [
                ((context, _) => context.Accounts.AnyAsync(), true),
                ((context, ship) => LoadAsync(context, ship, 1), true),
                ((context, ship) => LoadAsync(context, ship, 100), true),
                ((_, _) => Task.CompletedTask, true),
                ((_, _) => Task.CompletedTask, new Refusal("no", "No.", "Do not.")),
            ];

        Task<Outcome<bool>> ChangeAsync(
            bool byAccounts,
            Guid ship,
            Func<ComeAboardContext, Task> change,
            Outcome<bool> answer
        )
        {
            return byAccounts
                ? accounts.WriteAsync<bool>([], [ship], Caller.Clock, write => RunAsync(write.Rows))
                : changes.WriteAsync<bool>(ship, Caller.Clock, write => RunAsync(write.Rows));

            async Task<Outcome<bool>> RunAsync(ComeAboardContext context)
            {
                await change(context);
                return answer;
            }
        }

        static Task LoadAsync(ComeAboardContext context, Guid ship, int rows) =>
            RowLoader.LoadAsync(
                context,
                typeof(AccessChangeRow),
                [
                    .. Enumerable
                        .Range(0, rows)
                        .Select(_ => new AccessChangeRow
                        {
                            WorkspaceId = ship,
                            Version = 1,
                            Kind = AccessSubjectKind.Member,
                            SubjectId = Guid.NewGuid(),
                        }),
                ]
            );
    }

    [Fact]
    public async Task Who_waits_for_the_same_reading_hears_together_that_the_database_hangs()
    {
        var ship = await harbour.NewShipAsync();
        var worlds = harbour.Node.Services.GetRequiredService<AccessWorlds>();
        await using var rows = harbour.Database.Open(ship.Id);
        var workspace = await rows.Workspaces.AsNoTracking().SingleAsync(w => w.Id == ship.Id);
        // Another process changed who may do what.
        workspace.AccessVersion++;
        harbour.Way.IsFrozen = true;
        try
        {
            // One after another they would wait for far longer.
            var all = Task.WhenAll(Enumerable.Range(0, 20).Select(_ => worlds.OfAsync(workspace)));
            Assert.Same(all, await Task.WhenAny(all, Task.Delay(Soon)));
            Assert.NotNull(StorageFaults.Explain(all.Exception!));
        }
        finally
        {
            harbour.Way.IsFrozen = false;
        }
    }

    [Fact]
    public async Task What_was_begun_before_the_database_hangs_is_given_up_soon()
    {
        var ship = await harbour.NewShipAsync();
        using var patience = Storage.Patience.Within(Storage.Patience.OfRequest);
        await using var reading = harbour.Database.Open(ship.Id);
        await using var writing = harbour.Database.Open(ship.Id);
        var moment = await harbour.Database.MomentAsync(reading);
        var change = await writing.Database.BeginTransactionAsync();
        foreach (var rows in new[] { reading, writing })
            Assert.True(await rows.Workspaces.AnyAsync());
        harbour.Way.IsFrozen = true;
        try
        {
            var all = Task.WhenAll(moment.DisposeAsync().AsTask(), change.DisposeAsync().AsTask());
            Assert.Same(all, await Task.WhenAny(all, Task.Delay(Soon)));
            await all;
        }
        finally
        {
            harbour.Way.IsFrozen = false;
        }
    }

    [Fact]
    public async Task Who_finds_all_connections_in_use_waits_for_a_turn_though_not_for_ever()
    {
        var setting = new NpgsqlConnectionStringBuilder(harbour.Settings.DatabaseConnection)
        {
            MaxPoolSize = 1,
        };
        var narrow = Database.Postgres(setting.ConnectionString);
        await using var inUse = narrow.Open();
        await inUse.Database.OpenConnectionAsync();
        var never = AskAsync();
        Assert.Same(never, await Task.WhenAny(never, Task.Delay(Soon)));
        Assert.NotNull(StorageFaults.Explain(never.Exception!));
        await inUse.Database.CloseConnectionAsync();
        // Longer than one try to connect lasts. On a machine that stands still for a moment it may come too late once.
        Assert.True(await World.Patience.UntilAsync(GetTurnAsync, hadTurn => hadTurn, tries: 4));

        async Task<bool> GetTurnAsync()
        {
            await inUse.Database.OpenConnectionAsync();
            var asked = AskAsync();
            await Task.Delay(1_300);
            await inUse.Database.CloseConnectionAsync();
            return await Xunit.Record.ExceptionAsync(() => asked) is null;
        }

        async Task AskAsync()
        {
            await using var rows = narrow.Open();
            await rows.Accounts.AnyAsync();
        }
    }

    /// <summary>What is decided; null when nothing is.</summary>
    private static async Task<bool?> DecideAsync(Ship ship)
    {
        try
        {
            return (
                await ship.Client.EvaluateAsync(
                    new(new("user", ship.Administrator), new("view"), new("resource", "Log book"))
                )
            ).Decision;
        }
        catch (RefusedException refused)
            when (refused.Problem.Code.StartsWith("storage.", StringComparison.Ordinal))
        {
            return null;
        }
    }

    private static async Task UntilAsync(Func<Task<bool>> isTrue)
    {
        for (var tries = 0; tries < 300; tries++)
        {
            if (await isTrue())
                return;
            await Task.Delay(100);
        }
        Assert.Fail("It did not come true in 30 seconds.");
    }
}
