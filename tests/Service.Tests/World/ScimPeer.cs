using System.Diagnostics;
using System.Text.Json;
using System.Text.Json.Nodes;
using Xunit;

namespace ComeAboard.Service.Tests.World;

/// <summary>An independent SCIM source of its own process, made of a library that knows nothing of us.</summary>
public sealed class ScimPeer : IAsyncDisposable
{
    public const string Token = "the tide is high";

    private readonly Process _process;

    private ScimPeer(Process process, string url) => (_process, Url) = (process, url);

    public string Url { get; }

    public static async Task<ScimPeer> StartAsync()
    {
        var process = Run("tests/scim.mjs");
        return new ScimPeer(process, (await process.StandardOutput.ReadLineAsync())!);
    }

    /// <summary>Starts a script of the console's tests that is told and asked by lines.</summary>
    public static Process Run(string script)
    {
        var console = Path.Combine(Repository(), "console");
        Assert.SkipUnless(
            Directory.Exists(Path.Combine(console, "node_modules", "scimmy")),
            "The console's packages are not installed."
        );
        return Process.Start(
            new ProcessStartInfo("node", [script])
            {
                WorkingDirectory = console,
                RedirectStandardInput = true,
                RedirectStandardOutput = true,
            }
        )!;
    }

    /// <summary>Tells it which users it has, and how it misbehaves.</summary>
    public async Task HasAsync(IEnumerable<JsonObject> users, string manner = "")
    {
        var told = new JsonObject { ["users"] = new JsonArray([.. users]), ["manner"] = manner };
        await _process.StandardInput.WriteLineAsync(told.ToJsonString(JsonSerializerOptions.Web));
        await _process.StandardInput.FlushAsync();
        Assert.Equal("told", await _process.StandardOutput.ReadLineAsync());
    }

    public async ValueTask DisposeAsync()
    {
        _process.Kill();
        await _process.WaitForExitAsync();
        _process.Dispose();
    }

    private static string Repository()
    {
        var at = new DirectoryInfo(AppContext.BaseDirectory);
        while (at is not null && !File.Exists(Path.Combine(at.FullName, "ComeAboard.slnx")))
            at = at.Parent;
        return at!.FullName;
    }
}
