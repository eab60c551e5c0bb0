using System.Diagnostics;
using System.Net.Http.Headers;
using ComeAboard.Core;
using ComeAboard.Core.Access;
using ComeAboard.Core.Invitations;
using ComeAboard.Storage;
using ComeAboard.Storage.Access;
using ComeAboard.Storage.Invitations;
using Microsoft.Data.Sqlite;
using Microsoft.EntityFrameworkCore;
using Npgsql;

namespace ComeAboard.Measure;

/// <summary>
/// V3: a page of pending invitations over HTTP – filtered, in order of deadline, searched, with the counts – in a
/// workspace with a million, against the engine's bare prepared keyset page of the same rows; both databases.
/// </summary>
public static class Listing
{
    private const int Few = 10_000;
    private const int Many = 1_000_000;
    private static readonly int Runs = Places.Runs;
    private const int Looks = 40;
    private const int WarmUp = 5;

    public static async Task<IEnumerable<Figure>> MeasureAsync()
    {
        var figures = new List<Figure>();
        foreach (var engine in Places.Engines)
        {
            using var cluster = PostgresCluster.On(engine);
            figures.AddRange(await OnAsync(engine, cluster?.Connection));
        }
        return figures;
    }

    private static async Task<IEnumerable<Figure>> OnAsync(string engine, string? postgres)
    {
        using var place = new ServicePlace(postgres);
        var (service, token) = await place.OpenAsync();
        var database = postgres is null ? Database.Sqlite(place.DatabasePath) : Database.Postgres(postgres);
        var workspace = await WorkspaceAsync(database);
        var pages = new (string Name, string Query)[]
        {
            ("by deadline", "state=pending&sort=deadline&kind=guest"),
            ("searched, rare", "state=pending&sort=deadline&search=lor4217%40"),
            ("searched, common", "state=pending&sort=deadline&search=harbour"),
        };
        await FillAsync(database, workspace, 0, Few);
        var few = pages.ToDictionary(page => page.Name, _ => new List<double>());
        using (var http = Http(place, token))
        {
            // As warm as it is later on: a service that has just been started is no measure for growth.
            for (var run = -WarmUp; run < Runs; run++)
            {
                foreach (var (name, query) in pages)
                {
                    var own = Figure.Median(await LooksAsync(http, query));
                    if (run >= 0)
                        few[name].Add(own);
                }
            }
        }
        await FillAsync(database, workspace, Few, Many);
        var figures = new List<Figure>();
        using (var http = Http(place, token))
        {
            foreach (var (name, query) in pages)
            {
                var (ours, reference) = (new List<double>(), new List<double>());
                for (var run = 0; run <= Runs; run++)
                {
                    var own = Figure.Median(await LooksAsync(http, query));
                    var bare = Figure.Median(await BareAsync(place.DatabasePath, postgres, workspace));
                    if (run == 0)
                        continue;
                    ours.Add(own);
                    reference.Add(bare);
                }
                // Three times the reference and two milliseconds more, put as a ratio.
                var bound = 3 + 2 / Figure.Median(reference);
                figures.Add(
                    new(
                        "V3",
                        $"a page of a million, {name}, {engine}",
                        "ms",
                        ours,
                        reference,
                        $"≤ {bound:0.0}",
                        r => r <= bound
                    )
                );
                figures.Add(
                    new(
                        "V3",
                        $"a million against ten thousand, {name}, {engine}",
                        "ms",
                        ours,
                        few[name],
                        "≤ 1.3",
                        r => r <= 1.3
                    )
                );
            }
        }
        Places.End(service);
        return figures;
    }

    private static HttpClient Http(ServicePlace place, string token)
    {
        var http = new HttpClient { BaseAddress = place.Url, Timeout = TimeSpan.FromMinutes(2) };
        http.DefaultRequestHeaders.Authorization = new AuthenticationHeaderValue("Bearer", token);
        return http;
    }

    private static async Task<List<double>> LooksAsync(HttpClient http, string query)
    {
        var path = new Uri(
            $"/api/v1/workspaces/the-lantern-tide/invitations?limit=50&{query}",
            UriKind.Relative
        );
        var times = new List<double>();
        for (var look = 0; look < Looks; look++)
        {
            var started = Stopwatch.GetTimestamp();
            await http.GetByteArrayAsync(path);
            times.Add(Stopwatch.GetElapsedTime(started).TotalMilliseconds);
        }
        return times[5..];
    }

    internal static async Task<Guid> WorkspaceAsync(Database database)
    {
        await using var rows = database.Open();
        return await rows.Workspaces.Select(w => w.Id).FirstAsync();
    }

    internal static async Task FillAsync(Database database, Guid workspace, int from, int to)
    {
        var now = DateTimeOffset.FromUnixTimeMilliseconds(DateTimeOffset.UtcNow.ToUnixTimeMilliseconds());
        foreach (var lot in Enumerable.Range(from, to - from).Chunk(20_000))
        {
            await using var rows = database.Open(workspace);
            await using var transaction = await rows.Database.BeginTransactionAsync();
            await RowLoader.LoadAsync(
                rows,
                typeof(InvitationRow),
                [.. lot.Select(n => (object)RowOf(workspace, n, now))]
            );
            await rows.Database.ExecuteSqlAsync(
                $"INSERT INTO invitation_counts (workspace_id, state, count) VALUES ({workspace}, {"sent"}, {lot.Length}) ON CONFLICT (workspace_id, state) DO UPDATE SET count = invitation_counts.count + excluded.count"
            );
            await transaction.CommitAsync();
        }
        await using var after = database.Open(workspace);
        await after.Database.ExecuteSqlRawAsync("ANALYZE");
    }

    private static InvitationRow RowOf(Guid workspace, int n, DateTimeOffset now) =>
        new InvitationRow
        {
            WorkspaceId = workspace,
            Id = Guid.CreateVersion7(now.AddMilliseconds(n)),
            Address = $"sailor{n}@harbour{n % 500}.example",
            AddressKey = $"sailor{n}@harbour{n % 500}.example",
            Name = $"Given{n} Family{n % 1000}",
            Kind = (Kind)(n % 4),
            Gives = BundleText.Of(Bundle.Of(Role.View)),
            LastDay = null,
            Message = "",
            Language = "en",
            State = InvitationState.Sent,
            SecretHash = $"{n:x64}",
            Deadline = now.AddDays(1 + n % 29).AddSeconds(n % 86_400),
            AnswerSeconds = 30 * 86_400,
            InvitedBy = workspace,
            InvitedByName = "Mira Tollander",
            CreatedAt = now,
            LastStepAt = now,
        }.WithSearchText();

    /// <summary>The same fifty rows by one prepared statement.</summary>
    private static async Task<List<double>> BareAsync(string path, string? postgres, Guid workspace)
    {
        System.Data.Common.DbConnection connection = postgres is null
            ? new SqliteConnection($"Data Source={path};Pooling=False")
            : new NpgsqlConnection(postgres);
        await using (connection)
        {
            await connection.OpenAsync();
            await using var command = connection.CreateCommand();
            command.CommandText =
                "SELECT * FROM invitations WHERE workspace_id = @w AND deadline > @d AND kind = @k ORDER BY deadline, id LIMIT 50";
            Add(command, "@w", workspace);
            Add(
                command,
                "@d",
                postgres is null ? DateTimeOffset.UtcNow.ToUnixTimeMilliseconds() : DateTimeOffset.UtcNow
            );
            Add(command, "@k", "guest");
            await command.PrepareAsync();
            var times = new List<double>();
            for (var look = 0; look < Looks; look++)
            {
                var started = Stopwatch.GetTimestamp();
                await using (var reader = await command.ExecuteReaderAsync())
                {
                    var values = new object[reader.FieldCount];
                    while (await reader.ReadAsync())
                        reader.GetValues(values);
                }
                times.Add(Stopwatch.GetElapsedTime(started).TotalMilliseconds);
            }
            return times[5..];
        }
    }

    private static void Add(System.Data.Common.DbCommand command, string name, object value)
    {
        var parameter = command.CreateParameter();
        (parameter.ParameterName, parameter.Value) = (name, value);
        command.Parameters.Add(parameter);
    }
}
