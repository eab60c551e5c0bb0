using System.Diagnostics;
using System.Net;
using System.Net.Sockets;
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
        if (IsRoot)
            await RunAsync("chown", "postgres", _directory);
        _port = FreePort();
        await RunAsPostgresAsync(
            "initdb",
            "-D",
            Data,
            "-A",
            "trust",
            "-U",
            "aboard",
            "--no-sync",
            "-E",
            "UTF8"
        );
        await RunAsPostgresAsync(
            "pg_ctl",
            "-D",
            Data,
            "-w",
            "-l",
            Path.Combine(_directory, "log"),
            "-o",
            // Thrown away afterwards: nothing of it has to outlive the machine, and a slow disk holds no scene up.
            $"-p {_port} -k {_directory} -c listen_addresses=127.0.0.1 -c max_connections=800 -c fsync=off -c full_page_writes=off",
            "start"
        );
    }

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
        await RunAsPostgresAsync("pg_ctl", "-D", Data, "-m", "immediate", "stop");
        Directory.Delete(_directory, true);
    }

    private string Data => Path.Combine(_directory, "data");

    internal static bool IsRoot => Environment.UserName == "root";

    private string ConnectionTo(string database) =>
        $"Host=127.0.0.1;Port={_port};Username=aboard;Database={database};Maximum Pool Size=40;Connection Idle Lifetime=10;Connection Pruning Interval=5";

    internal static Task RunAsPostgresAsync(string program, params string[] arguments)
    {
        var bin = Directory.GetDirectories("/usr/lib/postgresql").Order().Last() + "/bin/" + program;
        return IsRoot
            ? RunAsync("runuser", ["-u", "postgres", "--", bin, .. arguments])
            : RunAsync(bin, arguments);
    }

    internal static async Task RunAsync(string program, params string[] arguments)
    {
        var start = new ProcessStartInfo(program) { WorkingDirectory = "/tmp" };
        foreach (var argument in arguments)
            start.ArgumentList.Add(argument);
        using var process = Process.Start(start)!;
        await process.WaitForExitAsync();
        Assert.Equal(0, process.ExitCode);
    }

    public static int FreePort()
    {
        using var probe = new TcpListener(IPAddress.Loopback, 0);
        probe.Start();
        return ((IPEndPoint)probe.LocalEndpoint).Port;
    }
}
