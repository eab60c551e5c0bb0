using ComeAboard.Client;
using ComeAboard.Service.Access;
using ComeAboard.Service.Jobs;
using ComeAboard.Service.Workspaces;
using ComeAboard.Standins;
using ComeAboard.Standins.Mail;
using ComeAboard.Storage;
using Microsoft.AspNetCore.Builder;
using Microsoft.AspNetCore.Identity;
using Microsoft.Extensions.Configuration;
using Microsoft.Extensions.DependencyInjection;
using Xunit;

namespace ComeAboard.Service.Tests.World;

/// <summary>
/// The real service on loopback, as two processes' worth of nodes over one database, with a stand-in mail server and a
/// clock that can be moved on. One for each test class; every test has a workspace of its own in it.
/// </summary>
public abstract class Harbour(PostgresCluster? cluster) : IAsyncLifetime
{
    private readonly DirectoryInfo _directory = Directory.CreateTempSubdirectory("aboard-test-");
    private int _ships;

    public ShiftedClock Clock { get; } = new();
    public Inbox Inbox { get; } = new();
    public SmtpStandin Smtp { get; private set; } = null!;
    public ServiceSettings Settings { get; private set; } = null!;
    public WebApplication Node { get; private set; } = null!;
    public WebApplication OtherNode { get; private set; } = null!;
    public Database Database => Node.Services.GetRequiredService<Database>();
    public Engine Engine => Settings.Engine;

    /// <summary>The port of the name server it asks; none is there unless a scene starts one.</summary>
    public int Dns { get; } = Ports.Free();

    /// <summary>
    /// A client at a node that has heard of every change before each call. What another node changes is in force within a second,
    /// and scenes that are not about that do not wait for it.
    /// </summary>
    public static AboardClient ClientAt(WebApplication node, string workspace, string token) =>
        new(
            UrlOf(node),
            workspace,
            async stop =>
            {
                try
                {
                    await node
                        .Services.GetRequiredService<AccessWorlds>()
                        .CatchUpAsync(stop)
                        .WaitAsync(TimeSpan.FromSeconds(1), stop);
                }
                catch (Exception)
                {
                    // The database is away, or hangs: the call is what finds out.
                }
                return token;
            },
            "aboard/test"
        );

    public static Uri UrlOf(WebApplication node) => new(node.Urls.First());

    public async ValueTask InitializeAsync()
    {
        Smtp = new SmtpStandin(Inbox);
        var gathered = new Dictionary<string, string?>
        {
            ["Listen"] = "http://127.0.0.1:0",
            ["PublicUrl"] = "http://127.0.0.1:1",
            ["Database:Path"] = Path.Combine(_directory.FullName, "test.db"),
            ["Mail:Port"] = Smtp.Port.ToString(),
            ["Mail:Tls"] = "none",
            ["Mail:FirstRetrySeconds"] = "1",
            ["Limits:SignInsPerMinute"] = "100000",
            ["Limits:CodesPerHour"] = "100000",
            ["Limits:InvitationsPerHour"] = "100000",
            // Scenes bring about much that is warned of; whoever looks for why one fails reads it.
            ["Log"] = Environment.GetEnvironmentVariable("COMEABOARD_TEST_LOG") ?? "Fatal",
            // Nothing is asked outside this machine.
            ["Dns:Servers"] = $"127.0.0.1:{Dns}",
            ["Dns:TimeoutSeconds"] = "1",
        };
        if (cluster is not null)
        {
            gathered["Database:Engine"] = "postgres";
            gathered["Database:Connection"] = await cluster.NewDatabaseAsync();
        }
        Adjust(gathered);
        Settings = ServiceSettings.Read(new ConfigurationBuilder().AddInMemoryCollection(gathered).Build());
        // Both nodes migrate at once, as two processes started together would.
        await Task.WhenAll(Settings.OpenDatabase().MigrateAsync(), Settings.OpenDatabase().MigrateAsync());
        Node = ServiceHost.Build(Settings, Clock, Adjust);
        OtherNode = ServiceHost.Build(Settings, Clock, Adjust);
        await Node.StartAsync();
        await OtherNode.StartAsync();
    }

    /// <summary>Hashes passwords with little work: the scenes make thousands, and none of them is worth guessing.</summary>
    public static void Quickly(IServiceCollection services)
    {
        services.Configure<PasswordHasherOptions>(options => options.IterationCount = 1_000);
        Contract.Watch(services);
        Unforeseen.Watch(services);
    }

    private void Adjust(IServiceCollection services)
    {
        Quickly(services);
        // A node whose code runs for the first time, beside five other scenes, holds the file for longer than a node at work.
        if (cluster is null)
            services.AddSingleton(Database.Sqlite(Settings.DatabasePath, busySeconds: 20));
    }

    /// <summary>Lets a harbour differ from the others in its settings.</summary>
    protected virtual void Adjust(Dictionary<string, string?> settings) { }

    /// <summary>A new workspace with its first administrator.</summary>
    public async Task<Ship> NewShipAsync()
    {
        var settingUp = Node.Services.GetRequiredService<SettingUp>();
        var shortName = "lantern-tide-" + Interlocked.Increment(ref _ships);
        var wish = Core
            .Workspaces.WorkspaceSettings.Read("The Lantern Tide", shortName, "Europe/Lisbon", null)
            .Value;
        var (workspace, secret) = (await settingUp.MakeAsync(wish)).Value;
        var mira = $"mira@{shortName}.example";
        _ = (await settingUp.TakeAsync(secret.Reveal(), "Mira Tollander", mira, Ship.Password, "page")).Value;
        return await Ship.BoardAsync(this, workspace.Id, shortName, mira);
    }

    /// <summary>Moves the clock on, and has what time brings written down.</summary>
    public async Task LetPassAsync(TimeSpan time)
    {
        Clock.Offset += time;
        await Patience.ThroughAsync(Node.Services.GetRequiredService<Clockwork>().CatchUpAsync);
    }

    public async Task RestartMailAsync(bool stop, Func<Task>? greeting = null)
    {
        var port = Smtp.Port;
        await Smtp.DisposeAsync();
        if (!stop)
            Smtp = new SmtpStandin(Inbox, port, greeting);
    }

    /// <summary>Whether a scene damaged its rows on purpose.</summary>
    public bool IsDamaged { get; set; }

    public async ValueTask DisposeAsync()
    {
        await Node.StopAsync();
        await OtherNode.StopAsync();
        // Whatever the scenes did, all of it adds up afterwards.
        var findings = (await new Upkeep.DatabaseCheck(Database).RunAsync()).Findings;
        Assert.True(IsDamaged || findings.Count == 0, string.Join('\n', findings));
        Contract.Check();
        Unforeseen.Check();
        await Node.DisposeAsync();
        await OtherNode.DisposeAsync();
        await Smtp.DisposeAsync();
        _directory.Delete(true);
    }
}

public sealed class SqliteHarbour() : Harbour(null);

public sealed class PostgresHarbour(PostgresCluster cluster) : Harbour(cluster);

/// <summary>The system's clock, moved on by as much as a test likes.</summary>
public sealed class ShiftedClock : TimeProvider
{
    private DateTimeOffset? _stands;

    public TimeSpan Offset { get; set; }

    public override DateTimeOffset GetUtcNow() => (_stands ?? base.GetUtcNow()) + Offset;

    /// <summary>Lets it stand, but for what it is moved on, until what is given back is disposed of: a scene that is about single steps of time.</summary>
    public IDisposable Stand()
    {
        _stands = base.GetUtcNow();
        return new Standing(this);
    }

    private sealed class Standing(ShiftedClock clock) : IDisposable
    {
        public void Dispose() => clock._stands = null;
    }
}
