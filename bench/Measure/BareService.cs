using System.Data.Common;
using System.Security.Cryptography;
using System.Threading.Channels;
using Microsoft.Data.Sqlite;
using Npgsql;

namespace ComeAboard.Measure;

/// <summary>
/// The reference of V4: an endpoint that reads the same body, writes the same rows into the same tables with their indexes by
/// prepared statements, with one commit for those that wait together, and answers as many bytes. It decides nothing. What the
/// rows are made of is taken from an invitation that the service itself has written there before.
/// </summary>
public static class BareService
{
    private const int MostTogether = 64;
    private static readonly string[] Tables = ["invitations", "deliveries", "record"];

    /// <param name="args">bare, sqlite or postgres, the path or connection, the address to listen on, the bytes of an answer.</param>
    public static async Task RunAsync(string[] args)
    {
        var builder = WebApplication.CreateSlimBuilder();
        builder.Logging.ClearProviders();
        builder.WebHost.UseUrls(args[3]);
        await using var app = builder.Build();
        await using DbConnection connection =
            args[1] == "postgres"
                ? new NpgsqlConnection(args[2])
                : new SqliteConnection($"Data Source={args[2]}");
        await connection.OpenAsync();
        if (connection is SqliteConnection)
            await RunAsync(
                connection,
                "PRAGMA journal_mode=WAL; PRAGMA synchronous=FULL; PRAGMA cache_size=-65536"
            );
        var writer = await Writer.OfAsync(connection);
        var asked = Channel.CreateUnbounded<(Wish Wish, TaskCompletionSource Done)>();
        _ = Task.Run(async () =>
        {
            while (await asked.Reader.WaitToReadAsync())
            {
                var group = new List<(Wish Wish, TaskCompletionSource Done)>();
                while (group.Count < MostTogether && asked.Reader.TryRead(out var one))
                    group.Add(one);
                await writer.WriteAsync([.. group.Select(one => one.Wish.Address)]);
                foreach (var (_, done) in group)
                    done.SetResult();
            }
        });
        var answer = new byte[int.Parse(args[4])];
        answer.AsSpan().Fill((byte)' ');
        app.MapGet("/health/ready", () => "ready");
        app.MapPost(
            "/insert",
            async (Wish wish, HttpContext http) =>
            {
                var done = new TaskCompletionSource(TaskCreationOptions.RunContinuationsAsynchronously);
                await asked.Writer.WriteAsync((wish, done));
                await done.Task;
                http.Response.StatusCode = StatusCodes.Status201Created;
                http.Response.ContentType = "application/json";
                http.Response.ContentLength = answer.Length;
                await http.Response.Body.WriteAsync(answer);
            }
        );
        await app.RunAsync();
    }

    private static async Task RunAsync(DbConnection connection, string sql)
    {
        await using var command = connection.CreateCommand();
        command.CommandText = sql;
        await command.ExecuteNonQueryAsync();
    }

    /// <summary>The statements, prepared once, with the values that are the same for all.</summary>
    private sealed class Writer
    {
        private readonly DbConnection _connection;
        private readonly List<Dictionary<string, DbParameter>> _columns = [];
        private readonly List<DbCommand> _inserts = [];
        private readonly List<DbCommand> _after = [];
        private long _sequence;

        private Writer(DbConnection connection) => _connection = connection;

        public static async Task<Writer> OfAsync(DbConnection connection)
        {
            var writer = new Writer(connection);
            foreach (var table in Tables)
                await writer.PrepareAsync(table);
            // The head of the record, and how many there are of each state: once for each commit.
            foreach (
                var sql in (string[])
                    [
                        "UPDATE workspaces SET record_sequence = record_sequence + 1, record_hash = record_hash",
                        "UPDATE invitation_counts SET count = count + 1 WHERE state = 'queued'",
                    ]
            )
            {
                var command = connection.CreateCommand();
                command.CommandText = sql;
                await command.PrepareAsync();
                writer._after.Add(command);
            }
            return writer;
        }

        public async Task WriteAsync(IReadOnlyList<string> addresses)
        {
            await using var transaction = await _connection.BeginTransactionAsync();
            foreach (var command in _inserts.Concat(_after))
                command.Transaction = transaction;
            foreach (var address in addresses)
            {
                Fill(address);
                foreach (var insert in _inserts)
                    await insert.ExecuteNonQueryAsync();
            }
            foreach (var command in _after)
                await command.ExecuteNonQueryAsync();
            await transaction.CommitAsync();
        }

        private async Task PrepareAsync(string table)
        {
            var command = _connection.CreateCommand();
            var columns = new Dictionary<string, DbParameter>();
            await using (var look = _connection.CreateCommand())
            {
                look.CommandText =
                    $"SELECT * FROM {table} ORDER BY {(table == "record" ? "sequence" : "id")} DESC LIMIT 1";
                await using var reader = await look.ExecuteReaderAsync();
                if (!await reader.ReadAsync())
                    throw new InvalidOperationException($"There is nothing in {table} to go by.");
                for (var at = 0; at < reader.FieldCount; at++)
                {
                    var parameter = command.CreateParameter();
                    parameter.ParameterName = $"@p{at}";
                    if (parameter is NpgsqlParameter typed)
                        typed.DataTypeName = reader.GetDataTypeName(at);
                    parameter.Value = reader.GetValue(at);
                    command.Parameters.Add(parameter);
                    columns[reader.GetName(at)] = parameter;
                    if (table == "record" && reader.GetName(at) == "sequence")
                        _sequence = Convert.ToInt64(parameter.Value);
                }
            }
            command.CommandText =
                $"INSERT INTO {table} ({string.Join(", ", columns.Keys.Select(name => $"\"{name}\""))}) VALUES ({string.Join(", ", columns.Values.Select(p => p.ParameterName))})";
            await command.PrepareAsync();
            _inserts.Add(command);
            _columns.Add(columns);
        }

        /// <summary>Puts in what differs from one to the next: ids, the address, hashes.</summary>
        private void Fill(string address)
        {
            var (invitation, delivery, record) = (_columns[0], _columns[1], _columns[2]);
            var (id, mail) = (Guid.CreateVersion7(), Guid.CreateVersion7());
            invitation["id"].Value = IdOf(id);
            invitation["address"].Value = invitation["address_key"].Value = address;
            invitation["search_text"].Value = address;
            invitation["secret_hash"].Value = Hash();
            delivery["id"].Value = IdOf(mail);
            delivery["invitation_id"].Value = IdOf(id);
            delivery["to_address"].Value = address;
            delivery["message_id"].Value = $"{mail}@lantern-tide.example";
            record["sequence"].Value = ++_sequence;
            record["subject"].Value = id.ToString();
            record["hash"].Value = Hash();
        }

        private object IdOf(Guid id) =>
            _connection is NpgsqlConnection ? id : id.ToString().ToUpperInvariant();

        private static string Hash() => Convert.ToHexStringLower(RandomNumberGenerator.GetBytes(32));
    }

    private sealed record Wish(string Address, string Kind);
}
