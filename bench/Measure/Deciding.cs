using System.Diagnostics;
using System.Net.Http.Headers;
using System.Text;
using System.Text.Json;
using ComeAboard.Client;
using ComeAboard.Client.Access;
using ComeAboard.Client.Accounts;
using ComeAboard.Core.Access;
using ComeAboard.Service;
using ComeAboard.Storage;
using ComeAboard.Storage.Access;
using ComeAboard.Storage.Accounts;
using Microsoft.EntityFrameworkCore;

namespace ComeAboard.Measure;

/// <summary>
/// V2: access decisions over HTTP with 100,000 members and 1,000,000 grants, against an endpoint of the same service that
/// reads the same body and answers a constant; and how soon a removal is seen by the other of two nodes.
/// </summary>
public static class Deciding
{
    internal const int Members = 100_000;
    private const int GrantsEach = 10;
    private const int AtOnce = 32;
    private const int Removals = 300;

    // Many short pairs: the machine's speed drifts within seconds, and then both of a pair feel it alike.
    private const int Pairs = 12;
    private static readonly TimeSpan RunTime = TimeSpan.FromSeconds(2);

    /// <summary>The service as it is, with the reference's endpoint beside its own.</summary>
    public static async Task ServeAsync()
    {
        var settings = ServiceSettings.Read(
            new ConfigurationBuilder().AddEnvironmentVariables("COMEABOARD_").Build()
        );
        var app = ServiceHost.Build(settings);
        app.MapPost(
                "/constant",
                async http =>
                {
                    await JsonSerializer.DeserializeAsync(
                        http.Request.Body,
                        WireJson.Default.EvaluationRequest
                    );
                    http.Response.ContentType = "application/json";
                    await JsonSerializer.SerializeAsync(
                        http.Response.Body,
                        new EvaluationAnswer(true),
                        WireJson.Default.EvaluationAnswer
                    );
                }
            )
            .WithMetadata(new ComeAboard.Service.SignIn.NoSignIn.Marked());
        await app.RunAsync();
    }

    public static async Task<IEnumerable<Figure>> MeasureAsync()
    {
        var figures = new List<Figure>();
        figures.AddRange(await OnAsync("SQLite", null));
        using var cluster = new PostgresCluster();
        figures.AddRange(await OnAsync("PostgreSQL", cluster.Connection));
        return figures;
    }

    private static async Task<IEnumerable<Figure>> OnAsync(string engine, string? postgres)
    {
        using var place = new ServicePlace(postgres);
        var (first, token) = await place.OpenAsync();
        Places.End(first);
        var database = postgres is null ? Database.Sqlite(place.DatabasePath) : Database.Postgres(postgres);
        await FillAsync(database);
        await SettleAsync(database);
        var (service, url) = place.ServeWith(Environment.ProcessPath!, "decide");
        await Places.UntilReadyAsync(url);
        using var client = new AboardClient(url, "the-lantern-tide", token);
        var asked = AskedAt(url);
        var (ours, reference) = (new List<Load>(), new List<Load>());
        for (var run = 0; run <= Pairs; run++)
        {
            var own = await LoadAsync(asked, token, Members);
            var constant = await LoadAsync(new Uri(url, "/constant"), token, Members);
            if (run == 0)
                continue;
            ours.Add(own);
            reference.Add(constant);
        }
        var figures = new List<Figure>
        {
            new(
                "V2",
                $"access decisions on {engine}, 32 at once",
                "requests/s",
                [.. ours.Select(l => l.PerSecond)],
                [.. reference.Select(l => l.PerSecond)],
                "≥ 0.8",
                r => r >= 0.8
            ),
            new(
                "V2",
                $"access decisions on {engine}, slowest of a hundred (p99)",
                "ms",
                [.. ours.Select(l => l.P99)],
                [.. reference.Select(l => l.P99)],
                "≤ 1.5",
                r => r <= 1.5
            ),
        };
        if (postgres is not null)
        {
            var (other, otherUrl) = place.ServeWith(Environment.ProcessPath!, "decide");
            await Places.UntilReadyAsync(otherUrl);
            using var there = new AboardClient(otherUrl, "the-lantern-tide", token);
            var seen = await RemovalsAsync(client, there);
            figures.Add(
                new(
                    "V2",
                    $"a removal seen by the other node, p99 of {Removals}",
                    "ms",
                    [Rank(seen, 0.99)],
                    [],
                    "≤ 1000",
                    ms => ms <= 1000
                )
            );
            Places.End(other);
        }
        Places.End(service);
        return figures;
    }

    private static async Task<List<double>> RemovalsAsync(AboardClient here, AboardClient there)
    {
        var times = new List<double>();
        for (var n = 0; n < Removals; n++)
        {
            var who = $"sailor{n}@harbour.example";
            var question = new EvaluationRequest(
                new("user", who),
                new("view"),
                new("resource", "Register 1")
            );
            if (!(await there.EvaluateAsync(question)).Decision)
                throw new InvalidOperationException($"{who} should have access.");
            await here.PeopleStepsAsync(new PeopleStepRequest("pause", [who]));
            var since = Stopwatch.GetTimestamp();
            if ((await here.EvaluateAsync(question)).Decision)
                throw new InvalidOperationException("The node that took the removal still allows it.");
            while ((await there.EvaluateAsync(question)).Decision)
                await Task.Delay(5);
            times.Add(Stopwatch.GetElapsedTime(since).TotalMilliseconds);
        }
        return [.. times.Order()];
    }

    /// <summary>100 resources, 100,000 members with ten grants each; all of them have one at "Register 1".</summary>
    public static async Task FillAsync(Database database, int members = Members)
    {
        await using var look = database.Open();
        var workspace = await look.Workspaces.Select(w => w.Id).FirstAsync();
        var now = DateTimeOffset.FromUnixTimeMilliseconds(DateTimeOffset.UtcNow.ToUnixTimeMilliseconds());
        var area = Guid.CreateVersion7(now);
        Guid[] resources =
        [
            .. Enumerable.Range(0, 100).Select(n => Guid.CreateVersion7(now.AddMilliseconds(n))),
        ];
        await LoadAsync<AreaRow>(
            database,
            workspace,
            [
                new AreaRow
                {
                    WorkspaceId = workspace,
                    Id = area,
                    Name = "Collection",
                    NameKey = "collection",
                },
            ]
        );
        await LoadAsync<ResourceRow>(
            database,
            workspace,
            [
                .. resources.Select(
                    (id, n) =>
                        new ResourceRow
                        {
                            WorkspaceId = workspace,
                            Id = id,
                            AreaId = area,
                            Name = $"Register {n}",
                            NameKey = $"register {n}",
                        }
                ),
            ]
        );
        foreach (var lot in Enumerable.Range(0, members).Chunk(5_000))
        {
            List<(Guid Id, int N)> people =
            [
                .. lot.Select(n => (Guid.CreateVersion7(now.AddMilliseconds(n)), n)),
            ];
            await LoadAsync<MemberRow>(
                database,
                workspace,
                [
                    .. people.Select(p =>
                        new MemberRow
                        {
                            WorkspaceId = workspace,
                            Id = p.Id,
                            AccountId = p.Id,
                            Address = $"sailor{p.N}@harbour.example",
                            AddressKey = $"sailor{p.N}@harbour.example",
                            Name = $"Sailor {p.N}",
                            Kind = Kind.Guest,
                            LastDay = null,
                            JoinedAt = now,
                        }.WithSearchText()
                    ),
                ]
            );
            await LoadAsync<GrantRow>(
                database,
                workspace,
                [
                    .. people.SelectMany(p =>
                        Enumerable
                            .Range(0, GrantsEach)
                            .Select(g => new GrantRow
                            {
                                WorkspaceId = workspace,
                                Id = Guid.CreateVersion7(now),
                                HolderKind = HolderKind.Member,
                                HolderId = p.Id,
                                RoleId = (g % 2 == 0 ? Role.View : Role.Edit).Id,
                                ResourceId =
                                    g == 0 ? resources[1] : resources[(p.N * 7 + g * 13) % resources.Length],
                                GivenAt = now,
                                GivenByName = "Mira Tollander",
                            })
                    ),
                ]
            );
        }
    }

    /// <summary>What filling leaves to be done later is done now, by the engine and by this process.</summary>
    public static async Task SettleAsync(Database database)
    {
        await using var context = database.Open();
        await context.Database.ExecuteSqlRawAsync(context.Database.IsNpgsql() ? "VACUUM ANALYZE" : "ANALYZE");
        if (context.Database.IsNpgsql())
            await context.Database.ExecuteSqlRawAsync("CHECKPOINT");
        GC.Collect();
    }

    public static async Task LoadAsync<T>(Database database, Guid workspace, IReadOnlyList<T> rows)
        where T : class
    {
        await using var context = database.Open(workspace);
        await using var transaction = await context.Database.BeginTransactionAsync();
        await RowLoader.LoadAsync(context, typeof(T), [.. rows]);
        await transaction.CommitAsync();
    }

    /// <summary>Where decisions are asked for.</summary>
    internal static Uri AskedAt(Uri service) =>
        new(service, "/api/v1/workspaces/the-lantern-tide/access/v1/evaluation");

    internal static async Task<Load> LoadAsync(Uri url, string token, int members)
    {
        using var http = new HttpClient(new SocketsHttpHandler { MaxConnectionsPerServer = AtOnce });
        http.DefaultRequestHeaders.Authorization = new AuthenticationHeaderValue("Bearer", token);
        var watch = Stopwatch.StartNew();
        var times = await Task.WhenAll(
            Enumerable
                .Range(0, AtOnce)
                .Select(async lane =>
                {
                    var own = new List<double>();
                    for (var n = lane; watch.Elapsed < RunTime; n += AtOnce)
                    {
                        var body =
                            $$$"""{"subject":{"type":"user","id":"sailor{{{n * 37 % members}}}@harbour.example"},"action":{"name":"edit"},"resource":{"type":"resource","id":"Register {{{n % 100}}}"}}""";
                        using var content = new StringContent(body, Encoding.UTF8, "application/json");
                        var started = Stopwatch.GetTimestamp();
                        using var answer = await http.PostAsync(url, content);
                        own.Add(Stopwatch.GetElapsedTime(started).TotalMilliseconds);
                        answer.EnsureSuccessStatusCode();
                    }
                    return own;
                })
        );
        var all = times.SelectMany(t => t).Order().ToList();
        return new Load(all.Count / watch.Elapsed.TotalSeconds, Rank(all, 0.99));
    }

    /// <summary>The nearest rank: of 300 ordered values, the 297th is the p99.</summary>
    private static double Rank(List<double> ordered, double part) =>
        ordered[(int)Math.Ceiling(ordered.Count * part) - 1];

    internal sealed record Load(double PerSecond, double P99);
}
