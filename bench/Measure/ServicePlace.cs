using System.Diagnostics;
using System.Net;
using System.Text.RegularExpressions;
using ComeAboard.Client;
using ComeAboard.Client.SignIn;
using ComeAboard.Standins;

namespace ComeAboard.Measure;

/// <summary>A place for the service as it is built: its directory, its port, its database, no mail server.</summary>
public sealed partial class ServicePlace : IDisposable
{
    private const string Password = "a lantern at high tide";

    private readonly DirectoryInfo _directory = Directory.CreateTempSubdirectory("aboard-bench-");
    private readonly Dictionary<string, string> _settings;

    /// <summary>Prepares a place on PostgreSQL, or on SQLite when there is no connection.</summary>
    public ServicePlace(string? postgres, int firstRetrySeconds = 60)
    {
        Url = new Uri($"http://127.0.0.1:{Ports.Free()}");
        DatabasePath = Path.Combine(_directory.FullName, "bench.db");
        _settings = new()
        {
            ["COMEABOARD_LISTEN"] = Url.ToString(),
            ["COMEABOARD_DATABASE__PATH"] = DatabasePath,
            // Nobody listens there: invitations are queued, and sending them takes nothing away from deciding.
            ["COMEABOARD_MAIL__PORT"] = "9",
            ["COMEABOARD_MAIL__FIRSTRETRYSECONDS"] = firstRetrySeconds.ToString(),
            ["COMEABOARD_LIMITS__INVITATIONSPERHOUR"] = "10000000",
            ["COMEABOARD_LIMITS__LISTEDPERDAY"] = "10000000",
            ["COMEABOARD_LOG"] = "Warning",
        };
        if (postgres is null)
            return;
        _settings["COMEABOARD_DATABASE__ENGINE"] = "postgres";
        _settings["COMEABOARD_DATABASE__CONNECTION"] = postgres;
    }

    public Uri Url { get; }
    public string DatabasePath { get; }

    public string Init() =>
        Places.RunToEnd(
            Places.InOut("service", "come-aboard"),
            _settings,
            "init",
            "--name",
            "The Lantern Tide"
        );

    public Process Serve(int? smtpPort = null)
    {
        if (smtpPort is { } port)
            (_settings["COMEABOARD_MAIL__PORT"], _settings["COMEABOARD_MAIL__TLS"]) = (
                port.ToString(),
                "none"
            );
        return Places.Start(Places.InOut("service", "come-aboard"), _settings, "serve");
    }

    /// <summary>Starts another program that is the service, on the same database and a port of its own.</summary>
    public (Process Service, Uri Url) ServeWith(string program, params string[] arguments)
    {
        var url = new Uri($"http://127.0.0.1:{Ports.Free()}");
        var settings = new Dictionary<string, string>(_settings) { ["COMEABOARD_LISTEN"] = url.ToString() };
        return (Places.Start(program, settings, arguments), url);
    }

    /// <summary>Makes the workspace with its administrator, starts the service, and gives a token.</summary>
    public async Task<(Process Service, string Token)> OpenAsync(int? smtpPort = null)
    {
        var secret = SetUpLink().Match(Init()).Groups[1].Value;
        var service = Serve(smtpPort);
        await Places.UntilReadyAsync(Url);
        using var browser = new HttpClient(
            new HttpClientHandler { CookieContainer = new CookieContainer(), AllowAutoRedirect = false }
        )
        {
            BaseAddress = Url,
        };
        var path = new Uri("/set-up/" + secret, UriKind.Relative);
        var field = FormField().Match(await browser.GetStringAsync(path));
        var form = new Dictionary<string, string>
        {
            [field.Groups[1].Value] = field.Groups[2].Value,
            ["name"] = "Mira Tollander",
            ["address"] = "mira@lantern-tide.example",
            ["password"] = Password,
        };
        await browser.PostAsync(path, new FormUrlEncodedContent(form));
        using var anonymous = new AboardClient(Url);
        var token = await anonymous.SignInAsync(
            new ProgramSignInRequest("mira@lantern-tide.example", Password, "the-lantern-tide")
        );
        return (service, token.Token);
    }

    public void Dispose() => _directory.Delete(true);

    [GeneratedRegex("/set-up/([A-Za-z0-9_-]{43})")]
    private static partial Regex SetUpLink();

    [GeneratedRegex("name=\"(__Request[^\"]*)\" value=\"([^\"]*)\"")]
    private static partial Regex FormField();
}
