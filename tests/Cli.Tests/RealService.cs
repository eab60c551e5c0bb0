using System.Diagnostics;
using System.Net;
using System.Net.Sockets;
using ComeAboard.Client;
using ComeAboard.Client.SignIn;
using ComeAboard.Standins.Mail;
using Xunit;

namespace ComeAboard.Cli.Tests;

/// <summary>The service as it is built, set up without the demo, over a database file of its own.</summary>
public abstract class RealService : IAsyncLifetime
{
    protected DirectoryInfo Place { get; } = Directory.CreateTempSubdirectory("aboard-real-");
    protected SmtpStandin Smtp { get; } = new(new Inbox());
    protected Dictionary<string, string> Settings { get; } = [];
    private int _port;

    public ValueTask InitializeAsync()
    {
        using var probe = new TcpListener(IPAddress.Loopback, 0);
        probe.Start();
        _port = ((IPEndPoint)probe.LocalEndpoint).Port;
        Settings["COMEABOARD_LISTEN"] = $"http://127.0.0.1:{_port}";
        Settings["COMEABOARD_DATABASE__PATH"] = Path.Combine(Place.FullName, "real.db");
        Settings["COMEABOARD_MAIL__PORT"] = Smtp.Port.ToString();
        Settings["COMEABOARD_MAIL__TLS"] = "none";
        Settings["COMEABOARD_MAIL__FIRSTRETRYSECONDS"] = "1";
        Settings["COMEABOARD_LOG"] = "Fatal";
        return ValueTask.CompletedTask;
    }

    public async ValueTask DisposeAsync()
    {
        await Smtp.DisposeAsync();
        Place.Delete(true);
    }

    protected const string Password = "a lantern at high tide";

    protected Uri Url => new($"http://127.0.0.1:{_port}");

    private static readonly SemaphoreSlim Making = new(1);
    private static (string File, string Token)? _made;

    /// <summary>
    /// A workspace with its first administrator. It is set up once, as an operator would, and every scene starts with a copy of
    /// what is in the file then.
    /// </summary>
    protected async Task<AboardClient> SetUpWorkspaceAsync()
    {
        var file = Settings["COMEABOARD_DATABASE__PATH"];
        await Making.WaitAsync();
        try
        {
            if (_made is { } made)
                File.Copy(made.File, file);
            else
            {
                var token = await MakeWorkspaceAsync();
                var kept = Path.Combine(Directory.CreateTempSubdirectory("aboard-made-").FullName, "made.db");
                AppDomain.CurrentDomain.ProcessExit += (_, _) =>
                    Directory.Delete(Path.GetDirectoryName(kept)!, true);
                // Whoever stops takes what is in the log ahead into the file.
                Assert.False(File.Exists(file + "-wal"));
                File.Copy(file, kept);
                _made = (kept, token);
            }
            return new AboardClient(Url, "the-lantern-tide", _made.Value.Token);
        }
        finally
        {
            Making.Release();
        }
    }

    private async Task<string> MakeWorkspaceAsync()
    {
        var init = await Programs.RunAsync(
            Programs.Service,
            Settings,
            null,
            "init",
            "--name",
            "The Lantern Tide"
        );
        var secret = Programs.LinkPattern().Match(init.Output).Value[^43..];
        using var service = await ServeAsync();
        using var browser = new HttpClient(
            new HttpClientHandler { CookieContainer = new CookieContainer(), AllowAutoRedirect = false }
        )
        {
            BaseAddress = Url,
        };
        Assert.Equal(HttpStatusCode.Redirect, await SetUpAsync(browser, secret, "mira"));
        using var anonymous = new AboardClient(Url);
        var token = await anonymous.SignInAsync(
            new ProgramSignInRequest("mira@lantern-tide.example", Password, "the-lantern-tide")
        );
        // Asked to, and not killed: a mail that was just handed over is noted as sent, and comes once.
        using (var stop = Process.Start("kill", ["-TERM", service.Id.ToString()]))
            await stop.WaitForExitAsync();
        await service.WaitForExitAsync().WaitAsync(TimeSpan.FromSeconds(40));
        return token.Token;
    }

    protected static async Task<HttpStatusCode> SetUpAsync(HttpClient browser, string secret, string who)
    {
        var page = await browser.GetStringAsync(new Uri("/set-up/" + secret, UriKind.Relative));
        var token = System.Text.RegularExpressions.Regex.Match(
            page,
            "name=\"(__Request[^\"]*)\" value=\"([^\"]*)\""
        );
        var form = new Dictionary<string, string>
        {
            [token.Groups[1].Value] = token.Groups[2].Value,
            ["name"] = who,
            ["address"] = $"{who}@lantern-tide.example",
            ["password"] = Password,
        };
        return (
            await browser.PostAsync(
                new Uri("/set-up/" + secret, UriKind.Relative),
                new FormUrlEncodedContent(form)
            )
        ).StatusCode;
    }

    protected async Task<Process> ServeAsync()
    {
        var process = Programs.Start(Programs.Service, Settings, "serve");
        await UntilReadyAsync(process);
        return process;
    }

    protected async Task UntilReadyAsync(Process process)
    {
        using var http = new HttpClient { BaseAddress = Url };
        await UntilAsync(async () =>
        {
            Assert.False(process.HasExited, "the service exited");
            try
            {
                return (await http.GetAsync(new Uri("/health/ready", UriKind.Relative))).IsSuccessStatusCode;
            }
            catch (HttpRequestException)
            {
                return false;
            }
        });
    }

    protected static async Task UntilAsync(Func<Task<bool>> isTrue)
    {
        for (var tries = 0; tries < 1_800; tries++)
        {
            if (await isTrue())
                return;
            await Task.Delay(50);
        }
        Assert.Fail("It did not come true in 90 seconds.");
    }
}
