using System.Diagnostics;
using System.Net.Http.Json;
using System.Text.Json;
using System.Text.RegularExpressions;
using Xunit;

namespace ComeAboard.Cli.Tests;

/// <summary>The programs as they are built, started as anybody would.</summary>
public static partial class Programs
{
    public static string Root { get; } = FindRoot();
    public static string Service { get; } = Path.Combine(Root, "bin", "come-aboard");
    public static string Client { get; } = Path.Combine(Root, "bin", "aboard");

    /// <summary>Starts a program with its output caught.</summary>
    public static Process Start(
        string program,
        IReadOnlyDictionary<string, string> environment,
        params string[] arguments
    )
    {
        var start = new ProcessStartInfo(program)
        {
            RedirectStandardOutput = true,
            RedirectStandardError = true,
            RedirectStandardInput = true,
            WorkingDirectory = Path.GetTempPath(),
        };
        foreach (var argument in arguments)
            start.ArgumentList.Add(argument);
        foreach (var (name, value) in environment)
            start.Environment[name] = value;
        return Process.Start(start)!;
    }

    /// <summary>Runs a program to its end.</summary>
    public static async Task<Run> RunAsync(
        string program,
        IReadOnlyDictionary<string, string> environment,
        string? input,
        params string[] arguments
    )
    {
        using var process = Start(program, environment, arguments);
        var (output, error) = (
            process.StandardOutput.ReadToEndAsync(),
            process.StandardError.ReadToEndAsync()
        );
        if (input is not null)
            await process.StandardInput.WriteLineAsync(input);
        process.StandardInput.Close();
        await process.WaitForExitAsync();
        return new Run(process.ExitCode, await output, await error);
    }

    /// <summary>The newest link in the mails to an address.</summary>
    public static async Task<string> LinkAsync(HttpClient http, string inbox, string address)
    {
        for (var tries = 0; tries < 200; tries++)
        {
            var mails = await http.GetFromJsonAsync<JsonElement>(
                $"{inbox}/messages?to={Uri.EscapeDataString(address)}"
            );
            foreach (var mail in mails.EnumerateArray())
            {
                if (LinkPattern().Match(mail.GetProperty("text").GetString()!) is { Success: true } link)
                    return link.Value;
            }
            await Task.Delay(50);
        }
        throw new TimeoutException($"No link arrived at {address}.");
    }

    private static string FindRoot()
    {
        var directory = new DirectoryInfo(AppContext.BaseDirectory);
        while (!File.Exists(Path.Combine(directory!.FullName, "ComeAboard.slnx")))
            directory = directory.Parent;
        return directory.FullName;
    }

    [GeneratedRegex(@"https?://\S+/(i|set-up)/[A-Za-z0-9_-]{43}")]
    public static partial Regex LinkPattern();
}

/// <summary>What a program printed, and how it ended.</summary>
public sealed record Run(int Status, string Output, string Error)
{
    public JsonElement Json => JsonDocument.Parse(Output).RootElement;
    public IReadOnlyList<JsonElement> Lines =>
        [
            .. Output
                .Split('\n', StringSplitOptions.RemoveEmptyEntries)
                .Select(line => JsonDocument.Parse(line).RootElement),
        ];
}

/// <summary>The demo, running; one for all scenes that need no service of their own.</summary>
public sealed class Demo : IAsyncLifetime
{
    private Process _process = null!;
    private Task<string> _log = null!;

    public JsonElement Ready { get; private set; }
    public HttpClient Http { get; } = new();
    public string Inbox => Ready.GetProperty("inbox").GetString()!;
    public string Url => Ready.GetProperty("url").GetString()!;

    /// <summary>Where the demos of one run keep the world they make: it is theirs alone and gone with them, or given and shared with other scenes.</summary>
    private static readonly string Shared =
        System.Environment.GetEnvironmentVariable("SCENES_WORLD") ?? OwnPlace();

    private static string OwnPlace()
    {
        var own = Directory.CreateTempSubdirectory("come-aboard-kept-").FullName;
        AppDomain.CurrentDomain.ProcessExit += (_, _) => Directory.Delete(own, true);
        return own;
    }

    // Whoever is first makes the world, and the others take it.
    private static readonly SemaphoreSlim Making = new(1);

    /// <summary>Where this one keeps its world.</summary>
    public string Kept { get; init; } = Shared;

    public async ValueTask InitializeAsync()
    {
        await Making.WaitAsync();
        try
        {
            await StartAsync();
        }
        finally
        {
            Making.Release();
        }
    }

    private async Task StartAsync()
    {
        var environment = new Dictionary<string, string>
        {
            ["COMEABOARD_LOG"] = "Information",
            ["XDG_CACHE_HOME"] = Kept,
        };
        _process = Programs.Start(Programs.Service, environment, "demo", "--port", "0", "--json");
        _log = _process.StandardError.ReadToEndAsync();
        Ready = JsonDocument
            .Parse(
                await _process.StandardOutput.ReadLineAsync()
                    ?? throw new InvalidOperationException("The demo did not start: " + await _log)
            )
            .RootElement;
    }

    /// <summary>Runs the client as the demo's administrator.</summary>
    public Task<Run> AboardAsync(params string[] arguments) => AboardWithAsync(null, arguments);

    public Task<Run> AboardWithAsync(string? input, params string[] arguments) =>
        Programs.RunAsync(Programs.Client, Environment("adminToken"), input, arguments);

    /// <summary>The client's variables, without a token of anybody.</summary>
    public Dictionary<string, string> Environment(string? token = null)
    {
        var variables = new Dictionary<string, string>
        {
            ["ABOARD_SERVER"] = Url,
            ["ABOARD_WORKSPACE"] = Ready.GetProperty("workspace").GetString()!,
            ["XDG_CONFIG_HOME"] = Path.Combine(Path.GetTempPath(), "aboard-none"),
        };
        if (token is not null)
            variables["ABOARD_TOKEN"] = Ready.GetProperty(token).GetString()!;
        return variables;
    }

    /// <summary>Stops the demo as Ctrl-C would, and gives its log.</summary>
    public async Task<string> StopAsync()
    {
        if (!_process.HasExited)
        {
            using var interrupt = Process.Start("kill", ["-INT", _process.Id.ToString()]);
            await interrupt.WaitForExitAsync();
            await _process.WaitForExitAsync().WaitAsync(TimeSpan.FromMinutes(1));
        }
        return await _log;
    }

    public async ValueTask DisposeAsync()
    {
        await StopAsync();
        Http.Dispose();
    }
}
