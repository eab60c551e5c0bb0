using System.Collections.Concurrent;
using System.Text.Json;
using ComeAboard.Client;
using ComeAboard.Client.Access;
using ComeAboard.Service.Tests.World;
using ComeAboard.Service.Upkeep;
using ComeAboard.Storage;
using ComeAboard.Storage.SignIn;
using Microsoft.EntityFrameworkCore;
using Xunit;

namespace ComeAboard.Service.Tests;

/// <summary>Back-ups are taken and checked while everybody works, and become databases of either engine.</summary>
public abstract class Copying(Harbour harbour, PostgresCluster cluster) : IDisposable
{
    private readonly DirectoryInfo _place = Directory.CreateTempSubdirectory("aboard-copies-");

    public void Dispose()
    {
        Microsoft.Data.Sqlite.SqliteConnection.ClearAllPools();
        _place.Delete(true);
        GC.SuppressFinalize(this);
    }

    [Fact]
    public async Task A_back_up_taken_under_load_adds_up_and_holds_whatever_was_answered_before()
    {
        var ship = await harbour.NewShipAsync();
        await ship.Client.Pools.AddAsync(new PoolRequest("Berths", 50));
        var answered = new ConcurrentQueue<string>();
        using var stop = new CancellationTokenSource();
        var working = Enumerable
            .Range(0, 4)
            .Select(worker =>
                Task.Run(async () =>
                {
                    for (var n = 0; !stop.IsCancellationRequested && n < 150; n++)
                    {
                        var address = ship.Address($"w{worker}n{n}");
                        await ship.InviteAsync(address);
                        answered.Enqueue(address);
                    }
                })
            )
            .ToList();
        while (answered.Count < 40)
            await Task.Delay(20);
        for (var copy = 0; copy < 3; copy++)
        {
            var before = answered.ToList();
            var file = At($"copy{copy}.aboard");
            var result = (await Here().BackUpAsync(file)).Value;
            Assert.Empty(result.Findings);
            Assert.Empty((await Here().CheckAsync()).Findings);
            await using var rows = Database.Sqlite(file).Open(ship.Id);
            var kept = await rows.Invitations.Select(i => i.Address).ToListAsync();
            Assert.Empty(before.Except(kept));
            Assert.Equal(UnixFileMode.UserRead | UnixFileMode.UserWrite, File.GetUnixFileMode(file));
        }
        await stop.CancelAsync();
        await Task.WhenAll(working);
        Assert.Equal("file.exists", (await Here().BackUpAsync(At("copy0.aboard"))).Refusal!.Code);
    }

    [Theory]
    [InlineData(Engine.Sqlite)]
    [InlineData(Engine.Postgres)]
    public async Task Restored_it_is_what_it_was_and_everybody_signs_in_anew(Engine engine)
    {
        var ship = await harbour.NewShipAsync();
        await ship.BringAboardAsync(ship.Address("ines"));
        await ship.InviteAsync(ship.Address("joao"));
        await ship.Client.Areas.AddAsync(new AreaRequest("Bridge"));
        using var browser = await ship.BrowserOfAsync(ship.Administrator);
        var file = At("back-up.aboard");
        Assert.Empty((await Here().BackUpAsync(file)).Value.Findings);

        var place = engine == Engine.Sqlite ? At("new.db") : null;
        var database = place is null
            ? Database.Postgres(await cluster.NewDatabaseAsync())
            : Database.Sqlite(place);
        var there = new Copies(database, place, harbour.Clock);
        Assert.Empty((await there.RestoreAsync(file)).Value.Findings);
        Assert.Empty((await there.CheckAsync()).Findings);
        Assert.Equal("restore.not-empty", (await there.RestoreAsync(file)).Refusal!.Code);

        await using var before = Database.Sqlite(file).Open();
        await using var after = database.Open();
        foreach (var type in before.Model.GetEntityTypes().Select(type => type.ClrType))
        {
            if (type == typeof(SessionRow))
                continue;
            var (old, now) = (await TextAsync(before, type), await TextAsync(after, type));
            if (type == typeof(Storage.Record.RecordRow))
                Assert.Empty(old.Except(now));
            else if (type != typeof(Storage.Workspaces.WorkspaceRow))
                Assert.Equal(old, now);
        }
        Assert.NotEqual(0, await before.Sessions.CountAsync());
        Assert.Equal(0, await after.Sessions.CountAsync());
        await using var theirs = database.Open(ship.Id);
        Assert.Equal(
            "workspace.restored",
            (await theirs.Record.OrderByDescending(r => r.Sequence).FirstAsync()).Action
        );
        // The engines go on numbering where the copy ends.
        theirs.ProtectionKeys.Add(new Storage.Workspaces.ProtectionKeyRow { Name = "next", Xml = "<key/>" });
        await theirs.SaveChangesAsync();
    }

    [Fact]
    public async Task What_does_not_add_up_is_named_and_not_restored_by_mistake()
    {
        var ship = await harbour.NewShipAsync();
        await ship.Client.Pools.AddAsync(new PoolRequest("Berths", 5));
        await ship.BringAboardAsync(ship.Address("ines"));
        var sound = At("sound.aboard");
        Assert.Empty((await Here().BackUpAsync(sound)).Value.Findings);
        foreach (
            var (damage, code) in new[]
            {
                ("UPDATE record SET actor = 'nobody' WHERE sequence = 2", "record.changed"),
                ("DELETE FROM record WHERE sequence = 2", "record.missing"),
                ("UPDATE invitation_counts SET count = count + 1", "count.wrong"),
                ("UPDATE seat_pools SET held = held + 1", "seat.wrong"),
                ("UPDATE grants SET role_id = id", "reference.dangling"),
                (
                    "PRAGMA foreign_keys=OFF; UPDATE account_addresses SET account_id = 'nobody'",
                    "file.damaged"
                ),
            }
        )
        {
            var file = At(Guid.NewGuid().ToString("N") + ".aboard");
            File.Copy(sound, file);
            await using (
                var connection = new Microsoft.Data.Sqlite.SqliteConnection(
                    $"Data Source={file};Pooling=False"
                )
            )
            {
                await connection.OpenAsync();
                await using var command = connection.CreateCommand();
#pragma warning disable CA2100 // The statements stand above.
                command.CommandText = damage;
#pragma warning restore CA2100
                await command.ExecuteNonQueryAsync();
            }
            var found = (await Copies.CheckAsync(file)).Value.Findings;
            Assert.Contains(found, finding => finding.Code == code);
            var place = At(Guid.NewGuid().ToString("N") + ".db");
            var there = new Copies(Database.Sqlite(place), place, harbour.Clock);
            Assert.NotEmpty((await there.RestoreAsync(file)).Value.Findings);
            Assert.Empty(Directory.EnumerateFiles(_place.FullName, Path.GetFileName(place) + "*"));
            Assert.NotEmpty((await there.RestoreAsync(file, allowsFindings: true)).Value.Findings);
            Assert.True(File.Exists(place));
        }
    }

    private string At(string name) => Path.Combine(_place.FullName, name);

    private Copies Here() => new(harbour.Database, harbour.Settings.DatabasePath, harbour.Clock);

    private static async Task<List<string>> TextAsync(ComeAboardContext rows, Type type)
    {
        var read = typeof(Copying)
            .GetMethod(
                nameof(RowsAsync),
                System.Reflection.BindingFlags.NonPublic | System.Reflection.BindingFlags.Static
            )!
            .MakeGenericMethod(type);
        return await (Task<List<string>>)read.Invoke(null, [rows])!;
    }

    private static async Task<List<string>> RowsAsync<T>(ComeAboardContext rows)
        where T : class
    {
        var properties = rows.Model.FindEntityType(typeof(T))!.GetProperties().ToList();
        var found = await rows.Set<T>().IgnoreQueryFilters().AsNoTracking().ToListAsync();
        return
        [
            .. found
                .Select(row =>
                    JsonSerializer.Serialize(
                        properties.Select(property => property.PropertyInfo!.GetValue(row))
                    )
                )
                .Order(StringComparer.Ordinal),
        ];
    }
}

public sealed class Copying_on_SQLite(SqliteHarbour harbour, PostgresCluster cluster)
    : Copying(harbour, cluster),
        IClassFixture<SqliteHarbour>;

public sealed class Copying_on_PostgreSQL(PostgresHarbour harbour, PostgresCluster cluster)
    : Copying(harbour, cluster),
        IClassFixture<PostgresHarbour>;
