using ComeAboard.Core.Connections;
using ComeAboard.Standins;
using Npgsql;

namespace ComeAboard.Service.Tests.World;

/// <summary>A real PostgreSQL server that members have login roles on, over TLS, prepared by the script that ships.</summary>
public sealed class RoleServer : IAsyncDisposable
{
    public const string Secret = "low water";

    /// <summary>A group role that may be given to members, and that may make tables.</summary>
    public const string Group = "readers";

    private readonly DirectoryInfo _directory = Directory.CreateTempSubdirectory("aboard-roles-");
    private readonly int _port = Ports.Free();

    public string Url => $"postgres://127.0.0.1:{_port}/charts";
    public string Certificate { get; private set; } = "";

    public static async Task<RoleServer> StartAsync()
    {
        var server = new RoleServer();
        server.Certificate = Vouching.Write(server._directory.FullName);
        await PostgresCluster.MakeAsync(server._directory.FullName, "keeper_of_all");
        await File.WriteAllTextAsync(
            Path.Combine(server._directory.FullName, "data", "pg_hba.conf"),
            "hostssl all come_aboard 127.0.0.1/32 scram-sha-256\nhost all come_aboard all reject\nhost all all 127.0.0.1/32 trust\nlocal all all trust\n"
        );
        await server.StartAgainAsync();
        await server.DoAsync("postgres", "CREATE DATABASE charts");
        await server.DoAsync("postgres", "CREATE DATABASE lists");
        // Run twice, it comes to the same.
        foreach (var database in (string[])["charts", "lists", "charts"])
            await server.DoAsync(database, PostgresSetUp.Script);
        await server.DoAsync(
            "charts",
            $"ALTER ROLE come_aboard PASSWORD '{Secret}'; CREATE ROLE {Group}; GRANT {Group} TO come_aboard_keeper WITH ADMIN OPTION; GRANT CREATE ON SCHEMA public TO {Group}"
        );
        await server.DoAsync("lists", $"GRANT CREATE ON SCHEMA public TO {Group}");
        return server;
    }

    public Task StartAgainAsync() =>
        PostgresCluster.StartAsync(
            _directory.FullName,
            _port,
            $"-c ssl=on -c ssl_cert_file={_directory.FullName}/server.pem -c ssl_key_file={_directory.FullName}/server.key"
        );

    public Task StopAsync() => PostgresCluster.StopAsync(_directory.FullName);

    /// <summary>Signs in as a role, with what it has its session be like.</summary>
    public async Task<NpgsqlConnection> SignInAsync(
        string role,
        string database = "charts",
        string options = ""
    )
    {
        var settings = new NpgsqlConnectionStringBuilder
        {
            Host = "127.0.0.1",
            Port = _port,
            Username = role,
            Database = database,
            Pooling = false,
            Options = options,
            Timeout = 30,
        };
        if (role == "come_aboard")
            settings.Password = Secret;
        var connection = new NpgsqlConnection(settings.ConnectionString);
        await connection.OpenAsync();
        return connection;
    }

    public async Task DoAsync(string database, string sql, string role = "keeper_of_all")
    {
        await using var connection = await SignInAsync(role, database);
        await using var command = new NpgsqlCommand(sql, connection);
        await command.ExecuteNonQueryAsync();
    }

    /// <summary>What it answers to a question of whoever may everything, one value of a line each.</summary>
    public async Task<string> AskAsync(string sql, string database = "charts")
    {
        await using var connection = await SignInAsync("keeper_of_all", database);
        await using var command = new NpgsqlCommand(sql, connection);
        await using var read = await command.ExecuteReaderAsync();
        var values = new List<string>();
        while (await read.ReadAsync())
            values.Add(read.GetValue(0).ToString() ?? "");
        return string.Join('\n', values);
    }

    public async ValueTask DisposeAsync()
    {
        await StopAsync();
        _directory.Delete(recursive: true);
    }
}
