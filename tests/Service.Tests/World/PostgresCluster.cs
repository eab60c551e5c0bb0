using System.Diagnostics;
using System.Net;
using System.Net.Sockets;
using ComeAboard.Standins;
using Npgsql;
using Xunit;

[assembly: AssemblyFixture(typeof(ComeAboard.Service.Tests.World.PostgresCluster))]

namespace ComeAboard.Service.Tests.World;

/// <summary>A PostgreSQL server of Debian's package, of our own, on loopback, in a temporary directory.</summary>
public sealed class PostgresCluster : IAsyncLifetime
{
    private readonly string _directory = Path.Combine(
        Path.GetTempPath(),
        "aboard-pg-" + Guid.NewGuid().ToString("N")[..8]
    );
    private int _port;
    private int _databases;

    public async ValueTask InitializeAsync()
    {
        Directory.CreateDirectory(_directory);
        _port = Ports.Free();
        await MakeAsync(_directory, "aboard");
        // Thrown away afterwards: nothing of it has to outlive the machine, and a slow disk holds no scene up.
        await StartAsync(_directory, _port, "-c max_connections=800 -c full_page_writes=off");
    }

    /// <summary>Makes a server in a directory, which becomes its user's; whoever may everything there has a name.</summary>
    internal static async Task MakeAsync(string directory, string superuser)
    {
        if (IsRoot)
            await RunAsync("chown", "-R", "postgres", directory);
        await RunAsPostgresAsync(
            "initdb",
            "-D",
            directory + "/data",
            "-A",
            "trust",
            "-U",
            superuser,
            "--no-sync",
            "-E",
            "UTF8"
        );
    }

    /// <summary>Starts the server of a directory on loopback.</summary>
    internal static Task StartAsync(string directory, int port, string settings) =>
        RunAsPostgresAsync(
            "pg_ctl",
            "-D",
            directory + "/data",
            "-w",
            "-l",
            directory + "/log",
            "-o",
            $"-p {port} -k {directory} -c listen_addresses=127.0.0.1 -c fsync=off {settings}",
            "start"
        );

    /// <summary>Stops the server of a directory at once.</summary>
    internal static Task StopAsync(string directory) =>
        RunAsPostgresAsync("pg_ctl", "-D", directory + "/data", "-m", "immediate", "stop");

    /// <summary>The connection string of a new, empty database.</summary>
    public async Task<string> NewDatabaseAsync()
    {
        var name = "aboard_" + Interlocked.Increment(ref _databases);
        await using var connection = new NpgsqlConnection(ConnectionTo("postgres"));
        await connection.OpenAsync();
        await using var create = new NpgsqlCommand($"CREATE DATABASE {name}", connection);
        await create.ExecuteNonQueryAsync();
        return ConnectionTo(name);
    }

    public async ValueTask DisposeAsync()
    {
        NpgsqlConnection.ClearAllPools();
        await StopAsync(_directory);
        Directory.Delete(_directory, true);
    }

    private static bool IsRoot => Environment.UserName == "root";

    private string ConnectionTo(string database) =>
        $"Host=127.0.0.1;Port={_port};Username=aboard;Database={database};Maximum Pool Size=40;Connection Idle Lifetime=10;Connection Pruning Interval=5;{Waiting}";

    // Many scenes at once on a machine that stands still for a moment: nobody is to give up for that. How long the service waits
    // by itself is what scenes of a far harbour are about.
    private const string Waiting =
        "Timeout=30;Command Timeout=30;Options=-c lock_timeout=30000 -c idle_in_transaction_session_timeout=60000";

    /// <summary>The same with what the service waits by itself.</summary>
    internal static NpgsqlConnectionStringBuilder Impatient(string connection)
    {
        var impatient = new NpgsqlConnectionStringBuilder(connection);
        foreach (var key in new NpgsqlConnectionStringBuilder(Waiting).Keys)
            impatient.Remove((string)key);
        return impatient;
    }

    private static Task RunAsPostgresAsync(string program, params string[] arguments)
    {
        var bin = Directory.GetDirectories("/usr/lib/postgresql").Order().Last() + "/bin/" + program;
        return IsRoot
            ? RunAsync("runuser", ["-u", "postgres", "--", bin, .. arguments])
            : RunAsync(bin, arguments);
    }

    private static async Task RunAsync(string program, params string[] arguments)
    {
        var start = new ProcessStartInfo(program) { WorkingDirectory = "/tmp" };
        foreach (var argument in arguments)
            start.ArgumentList.Add(argument);
        using var process = Process.Start(start)!;
        await process.WaitForExitAsync();
        Assert.Equal(0, process.ExitCode);
    }
}
