using System.Collections.Immutable;
using System.Net.Sockets;
using ComeAboard.Core;
using ComeAboard.Core.Connections;
using Npgsql;

namespace ComeAboard.Service.Connections;

/// <summary>
/// A PostgreSQL server that members have login roles on: through functions that touch those and nothing else (<see cref="PostgresSetUp"/>).
/// </summary>
public sealed class PostgresTarget(Reach reach) : ITarget
{
    private const int UsualPort = 5432;
    private const string Login = "come_aboard";

    /// <inheritdoc/>
    public string Type => "postgres";

    // A session that is just coming in is not to be seen for as long as its server lets it wait.
    /// <inheritdoc/>
    public TimeSpan? LooksAgainAfter => TimeSpan.FromMinutes(2);

    /// <inheritdoc/>
    public Outcome<string> ReadPlace(string? url) =>
        Uri.TryCreate(url?.Trim(), UriKind.Absolute, out var place)
        && place.Scheme is "postgres" or "postgresql"
        && place.Host.Length > 0
        && place.UserInfo.Length + place.Query.Length + place.Fragment.Length == 0
        && place.AbsolutePath.Trim('/') is { Length: > 0 } database
        && !database.Contains('/')
            ? $"postgres://{place.Authority}/{database}"
            : new Refusal(
                "connection.place",
                $"\"{Words.Short(url ?? "")}\" is no address of a database.",
                "Write it like postgres://HOST/DATABASE or postgres://HOST:PORT/DATABASE; the database is one in which the script was run.",
                Field: "url"
            );

    /// <inheritdoc/>
    public async Task<ITargetSession> OpenAsync(
        SourceAccess access,
        IReadOnlySet<string> groups,
        CancellationToken stop
    )
    {
        var door = new PostgresDoor(
            reach,
            access,
            access.Settings.SignInAs is { Length: > 0 } said ? said : Login
        );
        var place = new Uri(access.Place);
        return new PostgresSession(
            door,
            await door.OpenAsync(Uri.UnescapeDataString(place.AbsolutePath.Trim('/')), stop),
            groups
        );
    }

    /// <summary>Connects to databases of one server: at an address that was looked at, over TLS, to whom its certificate names.</summary>
    internal sealed class PostgresDoor(Reach reach, SourceAccess access, string login)
    {
        private static readonly TimeSpan Patience = TimeSpan.FromSeconds(5);

        /// <summary>Opens a connection; whoever gets it disposes of it.</summary>
        public Task<NpgsqlConnection> OpenAsync(string database, CancellationToken stop) =>
            AskedAsync(
                async () =>
                {
                    var place = new Uri(access.Place);
                    var addresses = await reach.AddressesAsync(
                        place.Host,
                        access.Settings.AllowPrivate ?? true,
                        stop
                    );
                    var address =
                        addresses.FirstOrDefault(one => one.AddressFamily == AddressFamily.InterNetwork)
                        ?? addresses[0];
                    var settings = new NpgsqlConnectionStringBuilder
                    {
                        Host = address.ToString(),
                        Port = place.IsDefaultPort || place.Port < 0 ? UsualPort : place.Port,
                        Database = database,
                        Username = login,
                        Password = access.Secret,
                        SslMode = SslMode.Require,
                        Pooling = false,
                        Timeout = (int)Patience.TotalSeconds,
                        CommandTimeout = 30,
                        ApplicationName = "Come Aboard",
                        IncludeErrorDetail = false,
                    };
                    var builder = new NpgsqlDataSourceBuilder(settings.ConnectionString);
                    // Asking for TLS alone would take any certificate for good.
                    builder.UseSslClientAuthenticationOptionsCallback(options =>
                    {
                        var wanted = Reach.TlsOf(place.Host.Trim('[', ']'), access.Settings.Certificate);
                        (options.TargetHost, options.CertificateChainPolicy) = (
                            wanted.TargetHost,
                            wanted.CertificateChainPolicy
                        );
                        options.RemoteCertificateValidationCallback = null;
                    });
                    await using var source = builder.Build();
                    return await source.OpenConnectionAsync(stop);
                },
                stop
            );

        /// <summary>Has what goes wrong be trouble of the server, or of one role.</summary>
        public static async Task<T> AskedAsync<T>(Func<Task<T>> ask, CancellationToken stop)
        {
            try
            {
                return await ask();
            }
            catch (PostgresException no)
            {
                throw TroubleOf(no);
            }
            catch (Exception fault)
                when (fault is NpgsqlException or IOException or SocketException or TimeoutException)
            {
                throw new TargetException(
                    Trouble.Away,
                    "It cannot be reached: " + (fault.InnerException?.Message ?? fault.Message)
                );
            }
            catch (OperationCanceledException) when (!stop.IsCancellationRequested)
            {
                throw new TargetException(Trouble.Away, "It does not answer in time.");
            }
        }

        private static TargetException TroubleOf(PostgresException no)
        {
            var said = Words.Short(no.MessageText.TrimEnd('.'));
            return no.SqlState switch
            {
                PostgresErrorCodes.InvalidSchemaName or PostgresErrorCodes.UndefinedFunction =>
                    new TargetException(
                        Trouble.Barred,
                        "The script that it has to have was not run in that database: aboard connections script"
                    ),
                PostgresErrorCodes.InsufficientPrivilege => new TargetException(
                    Trouble.Barred,
                    $"It does not let us do this: {said}."
                ),
                PostgresErrorCodes.TooManyConnections or PostgresErrorCodes.InvalidCatalogName =>
                    new TargetException(Trouble.Away, $"It answered: {said}."),
                ['2', '8', ..] => new TargetException(Trouble.Barred, "It does not let that login in."),
                ['5', '7', 'P', ..] or ['5', '3', ..] => new TargetException(
                    Trouble.Away,
                    $"It answered: {said}."
                ),
                _ => new TargetException(Trouble.ThisOne, $"It answered: {said}."),
            };
        }
    }
}

/// <summary>A way to a PostgreSQL server while things are carried out there.</summary>
internal sealed class PostgresSession(
    PostgresTarget.PostgresDoor door,
    NpgsqlConnection connection,
    IReadOnlySet<string> managed
) : IAskedSession
{
    private const int EndingTries = 40;
    private static readonly TimeSpan EndingPause = TimeSpan.FromMilliseconds(50);
    private const string Columns =
        "SELECT role, name, is_gone, may_sign_in, sessions, ends, mark, display, groups FROM come_aboard.held()";

    /// <summary>A role; one that is gone is there as long as somebody is signed in as it.</summary>
    private sealed record RoleThere(HeldThere Held, bool IsGone);

    // One connection, which does one thing after another.
    /// <inheritdoc/>
    public int AtOnce => 1;

    /// <inheritdoc/>
    public bool Removes => true;

    /// <inheritdoc/>
    public async Task<HeldThere?> ReadAsync(string key, CancellationToken stop) =>
        (await RoleAsync(RoleOf(key), stop))?.Held;

    /// <inheritdoc/>
    public async Task<HeldThere?> FindAsync(Guid member, ProfileThere profile, CancellationToken stop) =>
        (
            await RolesAsync(
                Columns + " WHERE mark = $1 OR lower(name) = lower($2)",
                stop,
                member.ToString(),
                profile.Address
            )
        )
            .Where(one => !one.IsGone && Pairing.IsOf(one.Held, member, profile))
            .Select(one => one.Held)
            .FirstOrDefault();

    /// <inheritdoc/>
    public async Task<string> MakeAsync(Guid member, ProfileThere profile, CancellationToken stop) =>
        (
            await OneAsync<uint>(
                "SELECT come_aboard.make($1, $2, $3, $4)",
                stop,
                profile.Address,
                member.ToString(),
                profile.Name,
                Instant(profile.Ends)
            )
        ).ToString();

    /// <inheritdoc/>
    public async Task ApplyAsync(string key, ProfileThere profile, ThereStep step, CancellationToken stop)
    {
        var role = RoleOf(key);
        switch (step.Deed)
        {
            case ThereDeed.SwitchOff:
                await ShutAsync(role, stop);
                break;
            case ThereDeed.SwitchOn:
                await DoAsync("SELECT come_aboard.let_in($1, true)", stop, role);
                break;
            case ThereDeed.JoinGroup or ThereDeed.LeaveGroup:
                await DoAsync(
                    "SELECT come_aboard.put_in($1, $2, $3)",
                    stop,
                    role,
                    step.Group,
                    step.Deed == ThereDeed.JoinGroup
                );
                break;
            case ThereDeed.Rewrite:
                await DoAsync("SELECT come_aboard.rename($1, $2)", stop, role, profile.Address);
                var mark = (await ReadAsync(key, stop))?.OurMark ?? "";
                await DoAsync(
                    "SELECT come_aboard.describe($1, $2, $3, $4)",
                    stop,
                    role,
                    mark,
                    profile.Name,
                    Instant(profile.Ends)
                );
                break;
            case ThereDeed.Remove:
                await RemoveAsync(role, stop);
                break;
            default:
                throw new InvalidOperationException("A role that is there is not made.");
        }
    }

    /// <inheritdoc/>
    public void Forget() { }

    /// <inheritdoc/>
    public async Task<IReadOnlyList<string>> MissingAsync(CancellationToken stop)
    {
        var offered = await PostgresTarget.PostgresDoor.AskedAsync(
            async () =>
            {
                await using var command = Command("SELECT * FROM come_aboard.offered()", []);
                await using var read = await command.ExecuteReaderAsync(stop);
                var names = new HashSet<string>(StringComparer.Ordinal);
                while (await read.ReadAsync(stop))
                    names.Add(read.GetString(0));
                return names;
            },
            stop
        );
        return [.. managed.Where(name => !offered.Contains(name)).Order(StringComparer.Ordinal)];
    }

    /// <inheritdoc/>
    public async Task<IReadOnlyList<HeldThere>> AllAsync(CancellationToken stop) =>
        [.. (await RolesAsync(Columns, stop)).Select(one => one.Held)];

    /// <inheritdoc/>
    public ValueTask DisposeAsync() => connection.DisposeAsync();

    /// <summary>Lets nobody in any more, and – once that is committed – ends the sessions there are.</summary>
    private async Task ShutAsync(uint role, CancellationToken stop)
    {
        if (await RoleAsync(role, stop) is { IsGone: false })
            await DoAsync("SELECT come_aboard.let_in($1, false)", stop, role);
        for (
            var tries = 0;
            await OneAsync<long>("SELECT come_aboard.end_sessions($1)", stop, role) > 0;
            tries++
        )
        {
            if (tries == EndingTries)
                throw new TargetException(Trouble.ThisOne, "A session of theirs does not end.");
            await Task.Delay(EndingPause, stop);
        }
    }

    private async Task RemoveAsync(uint role, CancellationToken stop)
    {
        await ShutAsync(role, stop);
        if (await RoleAsync(role, stop) is null or { IsGone: true })
            return;
        var databases = await PostgresTarget.PostgresDoor.AskedAsync(
            async () =>
            {
                await using var command = Command("SELECT * FROM come_aboard.owned_in($1)", [role]);
                await using var read = await command.ExecuteReaderAsync(stop);
                var names = new List<string>();
                while (await read.ReadAsync(stop))
                    names.Add(read.GetString(0));
                return names;
            },
            stop
        );
        foreach (var database in databases)
            await HandOverAsync(role, database, stop);
        await DoAsync("SELECT come_aboard.hand_over($1)", stop, role);
        await DoAsync("SELECT come_aboard.remove($1)", stop, role);
    }

    private async Task HandOverAsync(uint role, string database, CancellationToken stop)
    {
        try
        {
            await using var there = await door.OpenAsync(database, stop);
            await PostgresTarget.PostgresDoor.AskedAsync(
                async () =>
                {
                    await using var command = new NpgsqlCommand("SELECT come_aboard.hand_over($1)", there);
                    Fill(command, [role]);
                    return await command.ExecuteNonQueryAsync(stop);
                },
                stop
            );
        }
        catch (TargetException no)
        {
            // They are let in no more; only what they own there keeps their role.
            throw new TargetException(
                Trouble.ThisOne,
                $"They own something in the database {database}, and it cannot be handed over: {no.Message}"
            );
        }
    }

    private async Task<RoleThere?> RoleAsync(uint role, CancellationToken stop) =>
        await RolesAsync(Columns + " WHERE role = $1", stop, role) is [var found, ..] ? found : null;

    private Task<IReadOnlyList<RoleThere>> RolesAsync(
        string sql,
        CancellationToken stop,
        params object[] values
    ) =>
        PostgresTarget.PostgresDoor.AskedAsync<IReadOnlyList<RoleThere>>(
            async () =>
            {
                await using var command = Command(sql, values);
                await using var read = await command.ExecuteReaderAsync(stop);
                var roles = new List<RoleThere>();
                while (await read.ReadAsync(stop))
                    roles.Add(RoleOf(read));
                return roles;
            },
            stop
        );

    private RoleThere RoleOf(NpgsqlDataReader read)
    {
        var (maySignIn, sessions) = (read.GetBoolean(3), read.GetInt64(4));
        var held = new HeldThere(
            read.GetFieldValue<uint>(0).ToString(),
            // Whoever is still signed in is not kept out.
            maySignIn || sessions > 0,
            read.GetString(1),
            read.GetString(7),
            read.GetFieldValue<string[]>(8)
                .Where(name => managed.Contains(name))
                .ToImmutableSortedSet(StringComparer.Ordinal)
        )
        {
            OurMark = read.GetString(6),
            KeepsEnds = true,
            Ends = read.IsDBNull(5) ? null : new DateTimeOffset(read.GetDateTime(5), TimeSpan.Zero),
            OffSaid = "the role lets nobody in, and nobody is signed in as it",
        };
        return new RoleThere(held, read.GetBoolean(2));
    }

    private async Task DoAsync(string sql, CancellationToken stop, params object[] values) =>
        await PostgresTarget.PostgresDoor.AskedAsync(
            async () =>
            {
                await using var command = Command(sql, values);
                return await command.ExecuteNonQueryAsync(stop);
            },
            stop
        );

    private Task<T> OneAsync<T>(string sql, CancellationToken stop, params object[] values) =>
        PostgresTarget.PostgresDoor.AskedAsync(
            async () =>
            {
                await using var command = Command(sql, values);
                return (T)(await command.ExecuteScalarAsync(stop))!;
            },
            stop
        );

    private NpgsqlCommand Command(string sql, object[] values)
    {
        var command = new NpgsqlCommand(sql, connection);
        Fill(command, values);
        return command;
    }

    private static void Fill(NpgsqlCommand command, object[] values)
    {
        foreach (var value in values)
            command.Parameters.Add(
                value is uint role
                    ? new NpgsqlParameter { Value = role, NpgsqlDbType = NpgsqlTypes.NpgsqlDbType.Oid }
                    : new NpgsqlParameter
                    {
                        Value = value,
                        NpgsqlDbType =
                            value is DBNull or DateTime ? NpgsqlTypes.NpgsqlDbType.TimestampTz
                            : value is bool ? NpgsqlTypes.NpgsqlDbType.Boolean
                            : NpgsqlTypes.NpgsqlDbType.Text,
                    }
            );
    }

    private static object Instant(DateTimeOffset? at) => at is { } ends ? ends.UtcDateTime : DBNull.Value;

    private static uint RoleOf(string key) =>
        uint.TryParse(key, out var role)
            ? role
            : throw new TargetException(Trouble.ThisOne, $"\"{Words.Short(key)}\" is no key of a role.");
}
