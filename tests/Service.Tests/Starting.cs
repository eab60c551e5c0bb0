using System.Net;
using ComeAboard.Client.Access;
using ComeAboard.Service.Jobs;
using ComeAboard.Service.Tests.World;
using ComeAboard.Storage;
using ComeAboard.Storage.Access;
using Microsoft.EntityFrameworkCore;
using Xunit;
using static ComeAboard.Service.Tests.World.Refusing;

namespace ComeAboard.Service.Tests;

/// <summary>What a start makes of the database it finds, and a service of one that goes away under it.</summary>
public sealed class Starting(PostgresCluster cluster)
{
    private readonly DirectoryInfo _directory = Directory.CreateTempSubdirectory("aboard-start-");

    [Fact]
    public async Task A_start_goes_on_where_one_was_killed_while_it_migrated()
    {
        var database = Database.Sqlite(Path.Combine(_directory.FullName, "killed.db"));
        await using (var rows = database.Open())
        {
            await rows.Database.ExecuteSqlRawAsync(
                """
                CREATE TABLE "__EFMigrationsLock" ("Id" INTEGER NOT NULL PRIMARY KEY, "Timestamp" TEXT NOT NULL);
                INSERT INTO "__EFMigrationsLock" VALUES (1, '2026-11-01 00:00:00');
                """
            );
        }
        await database.MigrateAsync().WaitAsync(TimeSpan.FromSeconds(60));
        await using var made = database.Open();
        Assert.Equal(0, await made.Workspaces.CountAsync());
    }

    [Fact]
    public async Task A_connection_to_a_file_keeps_many_pages_only_once_it_puts_many_rows_in()
    {
        var database = Database.Sqlite(Path.Combine(_directory.FullName, "pages.db"));
        await database.MigrateAsync();
        var (few, many) = (await LoadAsync(10), await LoadAsync(200));
        Assert.Equal((-8192, -8192), (few.Before, few.Then));
        Assert.Equal((-8192, -32768), (many.Before, many.Then));

        async Task<(int Before, int Then)> LoadAsync(int count)
        {
            var ship = Guid.NewGuid();
            await using var rows = database.Open(ship);
            await using var undone = await rows.Database.BeginTransactionAsync();
            var before = await PagesAsync(rows);
            var added = Enumerable
                .Range(0, count)
                .Select(_ => new AccessChangeRow
                {
                    WorkspaceId = ship,
                    Version = 1,
                    Kind = AccessSubjectKind.Member,
                    SubjectId = Guid.NewGuid(),
                });
            await RowLoader.LoadAsync(rows, typeof(AccessChangeRow), [.. added]);
            return (before, await PagesAsync(rows));
        }

        static Task<int> PagesAsync(ComeAboardContext rows) =>
            rows
                .Database.SqlQueryRaw<int>("SELECT cache_size AS \"Value\" FROM pragma_cache_size")
                .SingleAsync();
    }

    [Fact]
    public async Task Work_in_the_background_begins_with_the_first_answer_and_by_itself_where_nobody_asks()
    {
        var first = new FirstAnswer(Timeout.InfiniteTimeSpan);
        using var waiting = new Noted(first);
        await waiting.StartAsync(CancellationToken.None);
        await Task.Delay(50);
        Assert.False(waiting.Begun.IsCompleted);
        first.Give();
        first.Give();
        await waiting.Begun.WaitAsync(TimeSpan.FromSeconds(60));

        using var unasked = new Noted(new FirstAnswer(TimeSpan.FromMilliseconds(1)));
        await unasked.StartAsync(CancellationToken.None);
        await unasked.Begun.WaitAsync(TimeSpan.FromSeconds(60));

        using var stopped = new Noted(new FirstAnswer(Timeout.InfiniteTimeSpan));
        await stopped.StartAsync(CancellationToken.None);
        await stopped.StopAsync(CancellationToken.None).WaitAsync(TimeSpan.FromSeconds(60));
        Assert.False(stopped.Begun.IsCompleted);
    }

    private sealed class Noted(FirstAnswer first) : BackgroundWork(first)
    {
        private readonly TaskCompletionSource _begun = new();

        public Task Begun => _begun.Task;

        protected override Task GoOnAsync(CancellationToken stop)
        {
            _begun.SetResult();
            return Task.CompletedTask;
        }
    }

    /// <summary>The mapper is told not to look for such attributes: one would say nothing.</summary>
    [Fact]
    public void No_row_says_by_attributes_how_it_is_kept()
    {
        var said =
            from type in typeof(ComeAboardContext).Assembly.GetTypes()
            from member in type.GetMembers().Append(type)
            from attribute in member.CustomAttributes
            let space = attribute.AttributeType.Namespace ?? ""
            where
                space.StartsWith("System.ComponentModel.DataAnnotations", StringComparison.Ordinal)
                || space == typeof(DbContext).Namespace
            select $"{type.Name}.{member.Name}: {attribute.AttributeType.Name}";
        Assert.Empty(said);
    }

    [Fact]
    public async Task A_start_that_waits_for_another_says_so()
    {
        var file = Path.Combine(_directory.FullName, "busy.db");
        var said = new TaskCompletionSource<string>();
        Task waiting;
        await using (
            new FileStream(file + ".migrating", FileMode.OpenOrCreate, FileAccess.ReadWrite, FileShare.None)
        )
        {
            waiting = Database.Sqlite(file).MigrateAsync(waits: said.SetResult);
            Assert.Contains(
                "another process",
                await said.Task.WaitAsync(TimeSpan.FromSeconds(30)),
                StringComparison.Ordinal
            );
            Assert.False(waiting.IsCompleted);
        }
        await waiting.WaitAsync(TimeSpan.FromSeconds(60));
    }

    [Theory]
    [InlineData(Engine.Sqlite)]
    [InlineData(Engine.Postgres)]
    public async Task What_is_newer_than_the_program_is_refused_by_name_and_what_is_not_there_is_not_made(
        Engine engine
    )
    {
        var file = Path.Combine(_directory.FullName, "new.db");
        var database =
            engine == Engine.Sqlite
                ? Database.Sqlite(file)
                : Database.Postgres(await cluster.NewDatabaseAsync());
        var missing = await Assert.ThrowsAsync<UnusableDatabaseException>(() =>
            database.MigrateAsync(makes: false)
        );
        Assert.Contains("come-aboard init", missing.Message, StringComparison.Ordinal);
        Assert.False(File.Exists(file));
        await database.MigrateAsync();
        await database.MigrateAsync(makes: false);
        await using (var rows = database.Open())
            await rows.Database.ExecuteSqlRawAsync(
                engine == Engine.Sqlite
                    ? "INSERT INTO \"__EFMigrationsHistory\" VALUES ('29990101000000_Tomorrow', '99.0')"
                    : "INSERT INTO \"__EFMigrationsHistory\" VALUES ('29990101000000_Tomorrow', '99.0')"
            );
        var newer = await Assert.ThrowsAsync<UnusableDatabaseException>(() => database.MigrateAsync());
        Assert.Contains("29990101000000_Tomorrow", newer.Message, StringComparison.Ordinal);
    }

    [Fact]
    public async Task A_file_that_is_taken_away_makes_the_service_unready_and_nothing_is_said_to_be_kept()
    {
        await using var harbour = new SqliteHarbour();
        await harbour.InitializeAsync();
        var ship = await harbour.NewShipAsync();
        using var http = new HttpClient { BaseAddress = Harbour.UrlOf(harbour.Node) };
        var ready = new Uri("/health/ready", UriKind.Relative);
        Assert.Equal(HttpStatusCode.OK, (await http.GetAsync(ready)).StatusCode);
        var (file, aside) = (harbour.Settings.DatabasePath, Path.Combine(_directory.FullName, "aside.db"));
        File.Move(file, aside);
        Assert.Equal(HttpStatusCode.ServiceUnavailable, (await http.GetAsync(ready)).StatusCode);
        Assert.Equal("storage.moved", await CodeOf(ship.Client.Areas.AddAsync(new AreaRequest("Deck"))));
        // Another file in its place is no better, whatever is in it.
        File.Copy(aside, file);
        Assert.Equal("storage.moved", await CodeOf(ship.Client.Areas.AddAsync(new AreaRequest("Deck"))));
        Assert.Equal(HttpStatusCode.ServiceUnavailable, (await http.GetAsync(ready)).StatusCode);
        File.Move(aside, file, overwrite: true);
        await ship.Client.Areas.AddAsync(new AreaRequest("Deck"));
        Assert.Equal(HttpStatusCode.OK, (await http.GetAsync(ready)).StatusCode);
    }
}
