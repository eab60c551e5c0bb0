using System.Net;
using System.Net.Http.Json;
using System.Text.Json;
using System.Text.RegularExpressions;
using Xunit;

namespace ComeAboard.Cli.Tests;

/// <summary><c>aboard sign-in</c> by a browser, and what is kept of it.</summary>
public sealed partial class SignInAtTheTerminal(Demo demo) : IClassFixture<Demo>, IDisposable
{
    private const string Password = "a lantern at high tide";

    private readonly DirectoryInfo _home = Directory.CreateTempSubdirectory("aboard-home-");

    public void Dispose() => _home.Delete(true);

    [Fact]
    public async Task Somebody_signs_in_by_a_browser_and_is_signed_in_everywhere_they_are()
    {
        using var waiting = Programs.Start(Programs.Client, Environment(), "sign-in", "--json");
        var told = JsonDocument.Parse((await waiting.StandardOutput.ReadLineAsync())!).RootElement;
        Assert.Equal(demo.Url.TrimEnd('/') + "/device", told.GetProperty("address").GetString());
        await AllowAsync("oona@lantern-tide.example", told.GetProperty("code").GetString()!, "yes");
        var me = JsonDocument.Parse(await waiting.StandardOutput.ReadToEndAsync()).RootElement;
        await waiting.WaitForExitAsync();
        Assert.Equal(
            (0, "oona@lantern-tide.example"),
            (waiting.ExitCode, me.GetProperty("address").GetString())
        );

        var here = await AboardAsync("whoami");
        Assert.Contains("lantern-tide  The Lantern Tide: staff", here.Output, StringComparison.Ordinal);
        var all = await AboardAsync("whoami", "--all", "--json");
        var places = all.Json.GetProperty("places").EnumerateArray().ToList();
        Assert.Equal(me.GetProperty("places").GetArrayLength(), places.Count);
        Assert.Equal(0, (await AboardAsync("people", "list", "--limit", "1")).Status);
        var kept = Path.Combine(_home.FullName, "come-aboard", "credentials.json");
        Assert.Equal(UnixFileMode.UserRead | UnixFileMode.UserWrite, File.GetUnixFileMode(kept));

        // What is over is renewed, by one of those that need it at the same moment.
        var before = await ExpireAsync(kept);
        var runs = await Task.WhenAll(Enumerable.Range(0, 4).Select(_ => AboardAsync("whoami", "--json")));
        Assert.All(runs, run => Assert.Equal((0, ""), (run.Status, run.Error)));
        Assert.DoesNotContain(before, await File.ReadAllTextAsync(kept), StringComparison.Ordinal);

        var left = await AboardAsync("sign-out");
        Assert.Equal(0, left.Status);
        Assert.False(File.Exists(kept));
        Assert.Equal(3, (await AboardAsync("whoami")).Status);
    }

    [Fact]
    public async Task A_sign_in_that_is_refused_or_closed_says_so()
    {
        using var waiting = Programs.Start(Programs.Client, Environment(), "sign-in", "--json");
        var code = JsonDocument
            .Parse((await waiting.StandardOutput.ReadLineAsync())!)
            .RootElement.GetProperty("code")
            .GetString()!;
        await AllowAsync("oona@lantern-tide.example", code, "no");
        var said = await waiting.StandardOutput.ReadToEndAsync();
        await waiting.WaitForExitAsync();
        Assert.Equal(5, waiting.ExitCode);
        Assert.Contains("oauth.access_denied", said, StringComparison.Ordinal);

        using var second = Programs.Start(Programs.Client, Environment(), "sign-in", "--json");
        code = JsonDocument
            .Parse((await second.StandardOutput.ReadLineAsync())!)
            .RootElement.GetProperty("code")
            .GetString()!;
        using var browser = await AllowAsync("oona@lantern-tide.example", code, "yes");
        await second.WaitForExitAsync();
        Assert.Equal(0, second.ExitCode);
        await browser.FormAsync("/account", "/account/close-others", []);
        var kept = Path.Combine(_home.FullName, "come-aboard", "credentials.json");
        var closed = await AboardAsync("whoami", "--json");
        Assert.Equal((3, "sign-in.required"), (closed.Status, closed.Json.GetProperty("code").GetString()));
        await ExpireAsync(kept);
        closed = await AboardAsync("whoami", "--json");
        Assert.Equal(
            (3, "oauth.invalid_grant"),
            (closed.Status, closed.Json.GetProperty("code").GetString())
        );
        Assert.False(File.Exists(kept));
    }

    [Fact]
    public async Task A_program_is_registered_looked_at_changed_and_removed()
    {
        var added = await demo.AboardAsync(
            "applications",
            "add",
            "Berth board",
            "--resource",
            "Port calendar",
            "--redirect",
            "https://berths.example/back",
            "--tell-sign-outs",
            "https://berths.example/out",
            "--json"
        );
        Assert.Equal(0, added.Status);
        Assert.Equal(43, added.Json.GetProperty("secret").GetString()!.Length);
        var shown = await demo.AboardAsync("applications", "show", "berth board");
        Assert.Contains("people    with access to Port calendar", shown.Output, StringComparison.Ordinal);
        var twice = await demo.AboardAsync(
            "applications",
            "add",
            "Berth board",
            "--resource",
            "Port calendar",
            "--redirect",
            "https://a.example/",
            "--json"
        );
        Assert.Equal((5, "application.exists"), (twice.Status, twice.Json.GetProperty("code").GetString()));
        var wrong = await demo.AboardAsync(
            "applications",
            "add",
            "Other",
            "--redirect",
            "http://a.example/",
            "--json"
        );
        Assert.Equal(
            (2, "application.address-malformed"),
            (wrong.Status, wrong.Json.GetProperty("code").GetString())
        );
        var renewed = await demo.AboardAsync("applications", "renew", "Berth board", "--json");
        Assert.NotEqual(
            added.Json.GetProperty("secret").GetString(),
            renewed.Json.GetProperty("secret").GetString()
        );
        Assert.Equal(
            0,
            (
                await demo.AboardAsync(
                    "applications",
                    "change",
                    "Berth board",
                    "--duty",
                    "people",
                    "--acts-for",
                    "mira@lantern-tide.example"
                )
            ).Status
        );
        Assert.Contains(
            "people",
            (await demo.AboardAsync("applications", "list")).Output,
            StringComparison.Ordinal
        );
        Assert.Equal(0, (await demo.AboardAsync("applications", "remove", "Berth board")).Status);
        Assert.Equal(4, (await demo.AboardAsync("applications", "show", "Berth board")).Status);
    }

    private Dictionary<string, string> Environment() =>
        new() { ["XDG_CONFIG_HOME"] = _home.FullName, ["ABOARD_SERVER"] = demo.Url };

    private Task<Run> AboardAsync(params string[] arguments) =>
        Programs.RunAsync(Programs.Client, Environment(), null, arguments);

    /// <summary>Makes the access token that is kept seem to be over; gives it.</summary>
    private static async Task<string> ExpireAsync(string kept)
    {
        var text = await File.ReadAllTextAsync(kept);
        await File.WriteAllTextAsync(
            kept,
            ExpiryPattern().Replace(text, "\"expiresAt\":\"2020-01-01T00:00:00+00:00\"")
        );
        return JsonDocument.Parse(text).RootElement.GetProperty("token").GetString()!;
    }

    /// <summary>Signs in in a browser and answers to a code there.</summary>
    private async Task<HttpClient> AllowAsync(string address, string code, string answer)
    {
        var browser = new HttpClient(new HttpClientHandler { CookieContainer = new CookieContainer() })
        {
            BaseAddress = new Uri(demo.Url),
        };
        (
            await browser.PostAsJsonAsync("/api/v1/sessions", new { address, password = Password })
        ).EnsureSuccessStatusCode();
        var done = await browser.FormAsync(
            "/device?code=" + code,
            "/device/take",
            new() { ["user_code"] = code, ["answer"] = answer }
        );
        Assert.Equal(
            answer == "yes" ? "/device/done" : "/device/refused",
            done.RequestMessage!.RequestUri!.AbsolutePath
        );
        return browser;
    }

    [GeneratedRegex("\"expiresAt\":\"[^\"]+\"")]
    private static partial Regex ExpiryPattern();
}
