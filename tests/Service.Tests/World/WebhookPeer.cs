using System.Diagnostics;
using System.Text.Json.Nodes;
using Xunit;

namespace ComeAboard.Service.Tests.World;

/// <summary>An independent receiver of webhooks of its own process, made of a library that knows nothing of us.</summary>
public sealed class WebhookPeer : IAsyncDisposable
{
    /// <summary>The secret it verifies by; a key of 32 bytes in Base64.</summary>
    public const string Secret = "whsec_bG93IHdhdGVyIGF0IHNpeCwgaGlnaCBhdCB0d2Vsdm==";

    private readonly Process _process;
    private readonly List<JsonObject> _events = [];

    private WebhookPeer(Process process, string url) => (_process, Url) = (process, url);

    public string Url { get; }

    /// <summary>How many came whose signature does not hold.</summary>
    public int Refused { get; private set; }

    /// <summary>Starts it with its clock so far ahead.</summary>
    public static async Task<WebhookPeer> StartAsync(TimeSpan ahead)
    {
        var process = ScimPeer.Run("tests/webhook-peer.mjs");
        var peer = new WebhookPeer(process, (await process.StandardOutput.ReadLineAsync())!);
        await peer.TellAsync(
            new JsonObject { ["secret"] = Secret, ["ahead"] = (long)ahead.TotalMilliseconds }
        );
        return peer;
    }

    /// <summary>Has it answer so from now on.</summary>
    public Task AnswerAsync(int status) => TellAsync(new JsonObject { ["status"] = status });

    /// <summary>All events that it took, in order: the id of the message, and the event.</summary>
    public async Task<IReadOnlyList<JsonObject>> TookAsync()
    {
        await TellAsync([]);
        return _events;
    }

    public async ValueTask DisposeAsync()
    {
        _process.Kill();
        await _process.WaitForExitAsync();
        _process.Dispose();
    }

    private async Task TellAsync(JsonObject told)
    {
        await _process.StandardInput.WriteLineAsync(told.ToJsonString());
        await _process.StandardInput.FlushAsync();
        var line = await _process.StandardOutput.ReadLineAsync();
        Assert.NotNull(line);
        var came = JsonNode.Parse(line)!;
        _events.AddRange(came["events"]!.AsArray().Select(one => one!.AsObject()));
        Refused += came["refused"]!.GetValue<int>();
    }
}
