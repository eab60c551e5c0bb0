using ComeAboard.Core;
using ComeAboard.Service.Invitations;
using ComeAboard.Service.Jobs;
using ComeAboard.Service.Tests.World;
using ComeAboard.Service.Workspaces;
using ComeAboard.Storage.Invitations;
using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.DependencyInjection;
using Xunit;

namespace ComeAboard.Service.Tests;

public sealed class TheDoor_on_SQLite(SqliteHarbour harbour) : TheDoor(harbour), IClassFixture<SqliteHarbour>;

public sealed class TheDoor_on_PostgreSQL(PostgresHarbour harbour)
    : TheDoor(harbour),
        IClassFixture<PostgresHarbour>;

/// <summary>The one door through which a workspace is changed, and work that is put off.</summary>
public abstract class TheDoor(Harbour harbour)
{
    private static readonly Refusal No = new("test.no", "No.", "Do not.", RefusalSort.Conflict);

    /// <summary>What a change may do before it is kept, or thought better of.</summary>
    private enum Way
    {
        Track,
        Statement,
        Insert,
        Record,
    }

    [Fact]
    public async Task However_many_change_at_once_a_change_that_is_refused_keeps_nothing_and_the_others_all()
    {
        var ship = await harbour.NewShipAsync();
        var writer = harbour.Node.Services.GetRequiredService<WorkspaceWriter>();
        var random = new Random(20261126);
        for (var round = 0; round < 4; round++)
        {
            var before = await CountAsync(ship);
            var wishes = Enumerable
                .Range(0, 40)
                .Select(n =>
                    (
                        Name: $"p{round}-{n}",
                        Way: (Way)random.Next(4),
                        Keep: random.Next(4) > 0,
                        Ends: random.Next(3)
                    )
                )
                .ToList();
            var answers = await Task.WhenAll(
                wishes.Select(wish => WriteAsync(writer, ship.Id, wish.Name, wish.Way, wish.Keep, wish.Ends))
            );
            var kept = new HashSet<string>();
            foreach (var (wish, answer) in wishes.Zip(answers))
            {
                Assert.Equal(
                    wish.Ends == 0 ? "kept"
                        : wish.Ends == 1 ? No.Code
                        : "fault",
                    answer
                );
                if (wish is { Ends: 0, Keep: true })
                    kept.Add(wish.Name);
            }
            await using var rows = harbour.Database.Open(ship.Id);
            var there = await rows
                .Presets.Where(p => p.Name.StartsWith("p" + round + "-"))
                .Select(p => p.Name)
                .ToListAsync();
            var byPresets = wishes
                .Where(w => w.Way != Way.Record && kept.Contains(w.Name))
                .Select(w => w.Name);
            Assert.Equal(byPresets.Order(), there.Order());
            Assert.Equal(kept.Count, await CountAsync(ship) - before);
            Assert.True((await ship.Client.VerifyRecordAsync()).Whole);
        }
    }

    /// <summary>Each kept change leaves one entry in the record, whatever else it does.</summary>
    private async Task<long> CountAsync(Ship ship)
    {
        await using var rows = harbour.Database.Open(ship.Id);
        return await rows.Record.CountAsync(r => r.Action == "test.done");
    }

    private static async Task<string> WriteAsync(
        WorkspaceWriter writer,
        Guid workspace,
        string name,
        Way way,
        bool keep,
        int ends
    )
    {
        try
        {
            var outcome = await writer.WriteAsync<string>(
                workspace,
                Caller.Operator,
                async write =>
                {
                    var row = new PresetRow
                    {
                        WorkspaceId = workspace,
                        Id = Guid.CreateVersion7(write.Now),
                        Name = name,
                        NameKey = name,
                    };
                    switch (way)
                    {
                        case Way.Track:
                            write.Rows.Presets.Add(row);
                            break;
                        case Way.Insert:
                            write.Insert(row);
                            await write.SaveAsync();
                            break;
                        case Way.Statement:
                            // Written and changed past what is tracked: nothing else tells that it was.
                            write.Insert(row);
                            await write.SaveAsync();
                            await write
                                .Rows.Presets.Where(p => p.Id == row.Id)
                                .ExecuteUpdateAsync(set => set.SetProperty(p => p.Message, "changed"));
                            break;
                    }
                    if (ends == 1)
                        return No;
                    write.Record("test.done", row.Id, ("name", name));
                    return ends == 2 ? throw new InvalidOperationException("on purpose") : "kept";
                },
                keep
            );
            return outcome.Succeeded ? outcome.Value : outcome.Refusal!.Code;
        }
        catch (InvalidOperationException)
        {
            return "fault";
        }
    }

    [Theory]
    [InlineData("kept", 90)]
    [InlineData("refused", 0)]
    [InlineData("fails", 0)]
    [InlineData("asks", 0)]
    public async Task What_is_written_while_a_change_goes_on_is_kept_or_undone_with_it(string end, int kept)
    {
        var ship = await harbour.NewShipAsync();
        var (writer, part) = (harbour.Node.Services.GetRequiredService<WorkspaceWriter>(), 0);
        var writing = writer.WriteAsync<bool>(
            ship.Id,
            Caller.Operator,
            async write =>
            {
                part = 0;
                for (var n = 0; n < 2; n++)
                    await write.SaveWhileAsync(() => GoOnAsync(write));
                Assert.Equal(45, await write.Rows.Record.CountAsync(e => e.Action == "test.part"));
                return end == "refused" ? No : true;
            }
        );
        if (end is "fails" or "asks")
            Assert.Contains(
                end == "asks" ? "while it is written to" : "cannot go on",
                (await Assert.ThrowsAsync<InvalidOperationException>(() => writing)).Message,
                StringComparison.Ordinal
            );
        else
            Assert.Equal(end == "kept", (await writing).Try(out _, out _));
        // Nothing of it is left over, and whoever changes something next finds the workspace as it is.
        await ship.InviteAsync(ship.Address("kofi"));
        await ship.Client.VerifyRecordAsync();
        await using var rows = harbour.Database.Open(ship.Id);
        Assert.Equal(kept, await rows.Record.CountAsync(e => e.Action == "test.part"));

        async Task GoOnAsync(WorkspaceWrite write)
        {
            for (var n = 0; n < 45; n++)
                write.Record("test.part", ship.Id);
            if (++part < 2)
                return;
            if (end == "asks")
                await write.Rows.Record.CountAsync();
            if (end == "fails")
                throw new InvalidOperationException("It cannot go on.");
        }
    }

    [Fact]
    public async Task A_statement_alone_is_undone_too_when_its_change_is_refused_among_others()
    {
        var ship = await harbour.NewShipAsync();
        await ship.Client.Presets.AddAsync(new("Visitor", "guest", "view"));
        var writer = harbour.Node.Services.GetRequiredService<WorkspaceWriter>();
        await Task.WhenAll(Enumerable.Range(0, 30).Select(n => ChangeAsync(n)));
        var kept = await ship.Client.Presets.ShowAsync("visitor");
        Assert.Equal("kept", kept.Message);

        async Task ChangeAsync(int n)
        {
            var (text, refuses) = n % 3 == 0 ? ("kept", false) : ("refused", true);
            await writer.WriteAsync<bool>(
                ship.Id,
                Caller.Operator,
                async write =>
                {
                    await write.Rows.Presets.ExecuteUpdateAsync(set => set.SetProperty(p => p.Message, text));
                    return refuses ? No : true;
                }
            );
        }
    }

    [Fact]
    public async Task Changes_that_are_run_twice_answer_and_leave_what_they_would_run_once()
    {
        var ship = await harbour.NewShipAsync();
        var people = Enumerable.Range(0, 6).Select(n => ship.Address("crew" + n)).ToList();
        foreach (var address in people)
            await ship.BringAboardAsync(address, "staff");
        await ship.Client.Groups.AddAsync(new("Watch"));
        await ship.Client.Pools.AddAsync(new("Berths", 50));
        var writer = harbour.Node.Services.GetRequiredService<WorkspaceWriter>();
        using var stop = new CancellationTokenSource();
        // Whatever waits with one of these is rolled back and run alone.
        var spoiling = Task.Run(async () =>
        {
            while (!stop.IsCancellationRequested)
                await Task.WhenAll(
                    Enumerable
                        .Range(0, 4)
                        .Select(n =>
                            WriteAsync(writer, ship.Id, "spoilt" + n, Way.Insert, keep: true, ends: 2)
                        )
                );
        });
        for (var round = 0; round < 3; round++)
        {
            var paused = ship.Client.PeopleStepsAsync(new("pause", people));
            var joined = ship.Client.PutIntoGroupAsync("watch", new([.. people.Take(4)]));
            var seated = ship.Client.GiveSeatsAsync("berths", new([.. people.Skip(2)]));
            var named = ship.Client.Groups.AddAsync(new("Group " + round));
            var asked = Task.WhenAll(
                Enumerable.Range(0, 5).Select(n => ship.InviteAsync(ship.Address($"guest{round}-{n}")))
            );
            await Task.WhenAll(paused, joined, seated, named, asked);
            Assert.Equal(people, (await paused).Done.Select(person => person.Address));
            Assert.Empty((await paused).Refused);
            Assert.Equal(4, (await joined).Done);
            Assert.Equal(4, (await seated).People.Count);
            Assert.Equal(4, (await seated).After.Held);
            Assert.Equal(5, (await asked).Select(invitation => invitation.Id).Distinct().Count());
            // Back to where it began.
            Assert.Equal(6, (await ship.Client.PeopleStepsAsync(new("resume", people))).Done.Count);
            foreach (var address in people.Take(4))
                await ship.Client.TakeFromGroupAsync("watch", address);
            foreach (var address in people.Skip(2))
                await ship.Client.TakeSeatAsync("berths", address);
        }
        await stop.CancelAsync();
        await spoiling;
        Assert.Equal(4, (await ship.Client.Groups.ListAsync()).Items.Count);
        Assert.Equal(0, (await ship.Client.Pools.ShowAsync("berths")).Held);
        await using var rows = harbour.Database.Open(ship.Id);
        var actions = (await rows.Record.Select(entry => entry.Action).ToListAsync()).CountBy(action =>
            action
        );
        foreach (var (action, count) in actions)
        {
            if (action is "member.paused" or "member.resumed")
                Assert.Equal(3 * 6, count);
            if (action is "group.joined" or "group.left" or "seat.given" or "seat.taken")
                Assert.Equal(3 * 4, count);
            Assert.NotEqual("test.done", action);
        }
        Assert.True((await ship.Client.VerifyRecordAsync()).Whole);
    }

    [Fact]
    public async Task Who_was_here_and_what_was_opened_is_noted_a_moment_later_and_changes_no_version()
    {
        var ship = await harbour.NewShipAsync();
        var ines = ship.Address("ines");
        var came = await ship.BringAboardAsync(ines, "staff");
        var before = await ship.Client.PersonAsync(ines);
        using var theirs = await ship.ClientOfAsync(ines);
        await theirs.WorkspaceAsync();
        var seen = await Patience.UntilAsync(
            () => ship.Client.PersonAsync(ines),
            person => person.LastSeenAt is not null
        );
        Assert.NotNull(seen.LastSeenAt);
        Assert.Equal(before.Version, seen.Version);
        Assert.Equal(ship.Name, came.ShortName);

        // Nobody who only looks waits for those who write.
        var sent = await ship.InviteAsync(ship.Address("kofi"));
        var secret = await ship.SecretAsync(ship.Address("kofi"));
        var (entered, mayGo) = (new TaskCompletionSource(), new TaskCompletionSource());
        var holding = harbour
            .Node.Services.GetRequiredService<WorkspaceWriter>()
            .WriteAsync<bool>(
                ship.Id,
                Caller.Operator,
                async _ =>
                {
                    entered.TrySetResult();
                    await mayGo.Task;
                    return true;
                }
            );
        await entered.Task;
        using var http = new HttpClient { BaseAddress = Harbour.UrlOf(harbour.Node) };
        var landing = http.GetAsync("/i/" + secret);
        Assert.Same(landing, await Task.WhenAny(landing, Task.Delay(TimeSpan.FromSeconds(20))));
        Assert.True((await landing).IsSuccessStatusCode);
        mayGo.SetResult();
        await holding;
        var opened = await Patience.UntilAsync(
            () => ship.Client.InvitationAsync(sent.Id),
            invitation => invitation.SeenAt is not null
        );
        Assert.NotNull(opened.SeenAt);
    }

    [Fact]
    public async Task A_list_that_fails_is_put_off_longer_each_time_and_the_last_time_is_said()
    {
        var ship = await harbour.NewShipAsync();
        var queue = harbour.Node.Services.GetRequiredService<BatchQueue>();
        var id = Guid.CreateVersion7();
        var row = NewBatch(ship.Id, id);
        await using (var rows = harbour.Database.Open(ship.Id))
        {
            rows.Batches.Add(row);
            await rows.SaveChangesAsync();
        }
        await using var lease = new Lease();
        var waits = new List<TimeSpan>();
        var goesOn = true;
        while (goesOn)
        {
            await using var rows = harbour.Database.Open(ship.Id);
            var now = await rows.Batches.AsNoTracking().FirstAsync(b => b.Id == id);
            // As the lease of this very process; the workers of the nodes leave it alone meanwhile.
            await rows
                .Batches.Where(b => b.Id == id)
                .ExecuteUpdateAsync(set => set.SetProperty(b => b.Lease, lease.Id));
            goesOn = await queue.PutOffAsync(lease, now);
            var put = await rows.Batches.AsNoTracking().FirstAsync(b => b.Id == id);
            Assert.Equal(now.Tries + 1, put.Tries);
            waits.Add(put.LeasedUntil!.Value - DateTimeOffset.UtcNow);
        }
        Assert.Equal(8, waits.Count);
        // Doubling, spread by half either way: two steps on it is longer for certain.
        for (var n = 2; n < waits.Count; n++)
            Assert.True(waits[n] > waits[n - 2] * 1.3, string.Join(' ', waits));
        await harbour
            .Node.Services.GetRequiredService<BatchLots>()
            .StopAsync(await OfAsync(id), "It failed again and again.");
        var stopped = await ship.Client.BatchAsync(id);
        Assert.Equal(("stopped", "It failed again and again."), (stopped.State, stopped.Fault));

        async Task<BatchRow> OfAsync(Guid batch)
        {
            await using var rows = harbour.Database.Open(ship.Id);
            return await rows.Batches.AsNoTracking().FirstAsync(b => b.Id == batch);
        }
    }

    private static BatchRow NewBatch(Guid workspace, Guid id) =>
        new()
        {
            WorkspaceId = workspace,
            Id = id,
            Name = "never done",
            Format = "list",
            Digest = "",
            State = BatchState.Reading,
            Defaults = "{}",
            Total = 1,
            CreatedBy = Guid.NewGuid(),
            CreatedByName = "Mira Tollander",
            CreatedAt = DateTimeOffset.UtcNow,
            LeasedUntil = DateTimeOffset.UtcNow.AddDays(1),
        };
}
