using System.Globalization;
using ComeAboard.Core;
using ComeAboard.Core.Invitations;
using ComeAboard.Service.Keys;
using ComeAboard.Storage;

namespace ComeAboard.Service;

/// <summary>A setting is wrong; the message names it and says what it should be.</summary>
public sealed class WrongSettingException(string setting, string why)
    : Exception($"Setting {setting}: {why}");

/// <summary>How the mail server is spoken to.</summary>
public enum MailTls
{
    /// <summary>StartTLS where the server offers it.</summary>
    Auto,

    /// <summary>No TLS: for a server on the same machine.</summary>
    None,

    /// <summary>StartTLS, or nothing is sent (RFC 3207).</summary>
    StartTls,

    /// <summary>TLS from the first byte (RFC 8314).</summary>
    Tls,
}

/// <summary>The mail server that takes our mail.</summary>
public sealed record MailSettings(
    string Host,
    int Port,
    MailTls Tls,
    string? User,
    string? Password,
    EmailAddress From,
    EmailAddress Bounces,
    TimeSpan FirstRetry,
    ReportMailboxSettings? Reports
);

/// <summary>The mailbox into which delivery reports come, read over IMAP (RFC 9051).</summary>
public sealed record ReportMailboxSettings(
    string Host,
    int Port,
    MailTls Tls,
    string User,
    string Password,
    string Folder,
    TimeSpan Pause
);

/// <summary>How often things may be done before the service says "later".</summary>
/// <param name="SignInsPerMinute">Sign-ins, answers and looks at links, per network.</param>
/// <param name="InvitationsPerHour">Mails an inviter may cause singly.</param>
/// <param name="ListedPerDay">Mails an inviter may cause by lists and steps for many.</param>
/// <param name="CodesPerHour">Codes and links mailed, per network.</param>
/// <param name="Proxies">The networks of the proxies whose forwarded headers are believed.</param>
public sealed record LimitSettings(
    int SignInsPerMinute,
    int InvitationsPerHour,
    int ListedPerDay,
    int CodesPerHour,
    IReadOnlyList<System.Net.IPNetwork> Proxies
);

/// <summary>Where records in DNS are looked up.</summary>
/// <param name="Servers">The resolvers; none for those of the machine.</param>
/// <param name="Timeout">How long one is waited for.</param>
public sealed record DnsSettings(IReadOnlyList<System.Net.IPEndPoint> Servers, TimeSpan Timeout);

/// <summary>Everything an operator decides, from <c>come-aboard.json</c> and from <c>COMEABOARD_…</c> variables, the latter winning.</summary>
public sealed record ServiceSettings(
    Uri Listen,
    Uri PublicUrl,
    Engine Engine,
    string DatabasePath,
    string DatabaseConnection,
    MailSettings Mail,
    LimitSettings Limits,
    string ConsoleFiles,
    string LogLevel,
    string? KeyCertificate,
    string? KeyFile,
    TimeSpan StopTime,
    DnsSettings Dns,
    IReadOnlyList<System.Net.IPNetwork> ProviderNetworks
)
{
    private static readonly string[] Known =
    [
        "Listen",
        "PublicUrl",
        "Database:Engine",
        "Database:Path",
        "Database:Connection",
        "Mail:Host",
        "Mail:Port",
        "Mail:Tls",
        "Mail:User",
        "Mail:Password",
        "Mail:From",
        "Mail:Bounces",
        "Mail:FirstRetrySeconds",
        "Reports:Host",
        "Reports:Port",
        "Reports:Tls",
        "Reports:User",
        "Reports:Password",
        "Reports:Folder",
        "Reports:PauseSeconds",
        "Limits:SignInsPerMinute",
        "Limits:InvitationsPerHour",
        "Limits:ListedPerDay",
        "Limits:CodesPerHour",
        "Limits:Proxies",
        "Keys:Certificate",
        "Keys:File",
        "Dns:Servers",
        "Dns:TimeoutSeconds",
        "Providers:Networks",
        "Console",
        "Log",
        "StopSeconds",
    ];

    /// <summary>Whether the service is reached without TLS, which is only meant for loopback.</summary>
    public bool IsPlain => PublicUrl.Scheme == Uri.UriSchemeHttp;

    /// <summary>The database these settings name.</summary>
    public Database OpenDatabase() =>
        Engine == Engine.Postgres ? Database.Postgres(DatabaseConnection) : Database.Sqlite(DatabasePath);

    /// <summary>An address of the service, as people reach it.</summary>
    public string Link(string path) => PublicUrl.GetLeftPart(UriPartial.Authority) + path;

    /// <summary>Reads settings from a file and the environment.</summary>
    /// <param name="file">The file named by the operator; null looks for <c>come-aboard.json</c> in the working directory.</param>
    /// <exception cref="WrongSettingException">One is wrong, missing or unknown.</exception>
    public static ServiceSettings Load(string? file)
    {
        if (file is not null && !File.Exists(file))
            throw new WrongSettingException("--config", $"there is no file {file}.");
        var sources = new ConfigurationBuilder();
        try
        {
            sources.AddJsonFile(Path.GetFullPath(file ?? "come-aboard.json"), optional: file is null);
            return Read(sources.AddEnvironmentVariables("COMEABOARD_").Build());
        }
        catch (InvalidDataException fault)
        {
            throw new WrongSettingException("file", $"{fault.Message} {fault.InnerException?.Message}");
        }
    }

    /// <summary>Reads settings that are already gathered.</summary>
    public static ServiceSettings Read(IConfiguration source)
    {
        foreach (var (key, value) in source.AsEnumerable())
        {
            if (value is not null && !Known.Contains(key, StringComparer.OrdinalIgnoreCase))
                throw new WrongSettingException(key, $"is not known. Known are: {string.Join(", ", Known)}.");
        }
        var reader = new Reader(source);
        var listen = reader.Address("Listen", "http://127.0.0.1:7420");
        var publicUrl = reader.Address("PublicUrl", listen.ToString());
        if (publicUrl.Scheme == Uri.UriSchemeHttp && !publicUrl.IsLoopback)
            throw new WrongSettingException(
                "PublicUrl",
                "must begin with https:// unless it is on loopback."
            );
        var engine = reader.Word("Database:Engine", Engine.Sqlite);
        var connection = reader.Text("Database:Connection", "");
        if (engine == Engine.Postgres && connection.Length == 0)
            throw new WrongSettingException("Database:Connection", "is needed for the engine postgres.");
        return new ServiceSettings(
            listen,
            publicUrl,
            engine,
            reader.Text("Database:Path", "come-aboard.db"),
            connection,
            ReadMail(reader, publicUrl),
            new LimitSettings(
                reader.Number("Limits:SignInsPerMinute", 30, 1, 1_000_000),
                reader.Number("Limits:InvitationsPerHour", 5_000, 1, 10_000_000),
                reader.Number("Limits:ListedPerDay", 250_000, 1, 100_000_000),
                reader.Number("Limits:CodesPerHour", 20, 1, 1_000_000),
                reader.Networks("Limits:Proxies")
            ),
            reader.Text("Console", Path.Combine(AppContext.BaseDirectory, "console")),
            reader.Text("Log", "Information"),
            reader.Optional("Keys:Certificate"),
            reader.Optional("Keys:File"),
            TimeSpan.FromSeconds(reader.Number("StopSeconds", 30, 1, 3600)),
            new DnsSettings(
                reader.Servers("Dns:Servers"),
                TimeSpan.FromSeconds(reader.Number("Dns:TimeoutSeconds", 2, 1, 30))
            ),
            reader.Networks("Providers:Networks")
        );
    }

    private static MailSettings ReadMail(Reader reader, Uri publicUrl)
    {
        var sender = reader.Text(
            "Mail:From",
            $"aboard@{(publicUrl.IsLoopback ? "come-aboard.example" : publicUrl.Host)}"
        );
        if (!EmailAddress.Read(sender).Try(out var from, out var refusal))
            throw new WrongSettingException("Mail:From", refusal.Sentence);
        if (!EmailAddress.Read(reader.Text("Mail:Bounces", sender)).Try(out var bounces, out refusal))
            throw new WrongSettingException("Mail:Bounces", refusal.Sentence);
        return new MailSettings(
            reader.Text("Mail:Host", "127.0.0.1"),
            reader.Number("Mail:Port", 25, 1, 65535),
            // Off this machine nothing goes in the open unless the operator says so.
            reader.Word(
                "Mail:Tls",
                IsHere(reader.Text("Mail:Host", "127.0.0.1")) ? MailTls.Auto : MailTls.StartTls
            ),
            reader.Optional("Mail:User"),
            reader.Optional("Mail:Password"),
            from,
            bounces,
            TimeSpan.FromSeconds(reader.Number("Mail:FirstRetrySeconds", 5, 1, 3600)),
            ReadReports(reader)
        );
    }

    private static bool IsHere(string host) =>
        host.Equals("localhost", StringComparison.OrdinalIgnoreCase)
        || System.Net.IPAddress.TryParse(host, out var address) && System.Net.IPAddress.IsLoopback(address);

    private static ReportMailboxSettings? ReadReports(Reader reader)
    {
        if (reader.Optional("Reports:Host") is not { } host)
            return null;
        return new ReportMailboxSettings(
            host,
            reader.Number("Reports:Port", 993, 1, 65535),
            reader.Word("Reports:Tls", MailTls.Tls),
            reader.Optional("Reports:User")
                ?? throw new WrongSettingException("Reports:User", "is needed to read a mailbox."),
            reader.Optional("Reports:Password")
                ?? throw new WrongSettingException("Reports:Password", "is needed to read a mailbox."),
            reader.Text("Reports:Folder", "INBOX"),
            TimeSpan.FromSeconds(reader.Number("Reports:PauseSeconds", 60, 1, 86_400))
        );
    }

    private sealed class Reader(IConfiguration source)
    {
        public string? Optional(string key) => source[key] is { Length: > 0 } value ? value : null;

        public string Text(string key, string otherwise) => Optional(key) ?? otherwise;

        public int Number(string key, int otherwise, int least, int most)
        {
            if (Optional(key) is not { } text)
                return otherwise;
            return
                int.TryParse(text, CultureInfo.InvariantCulture, out var number)
                && number >= least
                && number <= most
                ? number
                : throw new WrongSettingException(
                    key,
                    $"\"{text}\" is not a whole number from {least} to {most}."
                );
        }

        public T Word<T>(string key, T otherwise)
            where T : struct, Enum
        {
            if (Optional(key) is not { } text)
                return otherwise;
            return Enum.TryParse<T>(text, true, out var word) && Enum.IsDefined(word)
                ? word
                : throw new WrongSettingException(
                    key,
                    $"\"{text}\" is not one of {string.Join(", ", Enum.GetNames<T>()).ToLowerInvariant()}."
                );
        }

        public IReadOnlyList<System.Net.IPEndPoint> Servers(string key) =>
            [
                .. Text(key, "")
                    .Split(',', StringSplitOptions.RemoveEmptyEntries | StringSplitOptions.TrimEntries)
                    .Select(text =>
                        System.Net.IPEndPoint.TryParse(text, out var server)
                            ? new System.Net.IPEndPoint(server.Address, server.Port == 0 ? 53 : server.Port)
                            : throw new WrongSettingException(
                                key,
                                $"\"{text}\" is no address of a resolver such as 127.0.0.1:53."
                            )
                    ),
            ];

        public IReadOnlyList<System.Net.IPNetwork> Networks(string key) =>
            [
                .. Text(key, "")
                    .Split(',', StringSplitOptions.RemoveEmptyEntries | StringSplitOptions.TrimEntries)
                    .Select(text =>
                        System.Net.IPNetwork.TryParse(text, out var network) ? network
                        : System.Net.IPAddress.TryParse(text, out var address)
                            ? new System.Net.IPNetwork(
                                address,
                                address.AddressFamily == System.Net.Sockets.AddressFamily.InterNetwork
                                    ? 32
                                    : 128
                            )
                        : throw new WrongSettingException(
                            key,
                            $"\"{text}\" is neither an address nor a network such as 10.0.0.0/8."
                        )
                    ),
            ];

        public Uri Address(string key, string otherwise)
        {
            var text = Text(key, otherwise);
            return
                Uri.TryCreate(text, UriKind.Absolute, out var address) && address.Scheme is "http" or "https"
                ? address
                : throw new WrongSettingException(key, $"\"{text}\" is not an http:// or https:// address.");
        }
    }
}
