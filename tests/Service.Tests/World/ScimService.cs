using System.Diagnostics;
using System.Text.Json;
using System.Text.Json.Nodes;
using Xunit;

namespace ComeAboard.Service.Tests.World;

/// <summary>An independent SCIM service of its own process that is written to, made of a library that knows nothing of us.</summary>
public sealed class ScimService : IAsyncDisposable
{
    public const string Token = "the tide is high";

    private readonly Process _process;

    private ScimService(Process process, string url) => (_process, Url) = (process, url);

    public string Url { get; }

    public static async Task<ScimService> StartAsync(params string[] groups)
    {
        var process = ScimPeer.Run("tests/scim-service.mjs");
        var service = new ScimService(process, (await process.StandardOutput.ReadLineAsync())!);
        await service.TellAsync(new JsonObject { ["groups"] = new JsonArray([.. groups]) });
        return service;
    }

    /// <summary>Has it misbehave in some way; none to have it behave.</summary>
    public Task BehaveAsync(JsonObject? manner = null) =>
        TellAsync(new JsonObject { ["manner"] = manner ?? [] });

    /// <summary>Puts somebody there whom nobody of ours put there.</summary>
    public Task PutAsync(string id, string userName) =>
        TellAsync(
            new JsonObject
            {
                ["users"] = new JsonArray(
                    new JsonObject
                    {
                        ["id"] = id,
                        ["userName"] = userName,
                        ["active"] = true,
                    }
                ),
            }
        );

    /// <summary>What it holds: address, whether it is on, and the groups it is in.</summary>
    public async Task<IReadOnlyDictionary<string, (bool IsOn, string Groups)>> HoldsAsync()
    {
        var held = await TellAsync([]);
        var groups = held["groups"]!.AsObject();
        return held["users"]!
            .AsArray()
            .ToDictionary(
                user => user!["userName"]!.GetValue<string>(),
                user =>
                    (
                        user!["active"]?.GetValue<bool>() ?? true,
                        string.Join(
                            ' ',
                            groups
                                .Where(group =>
                                    group
                                        .Value!.AsArray()
                                        .Any(member =>
                                            member!.GetValue<string>() == user["id"]!.GetValue<string>()
                                        )
                                )
                                .Select(group => group.Key)
                                .Order(StringComparer.Ordinal)
                        )
                    )
            );
    }

    /// <summary>Has it take no change of a part of something.</summary>
    public Task TakeWholeOnlyAsync() =>
        TellAsync(new JsonObject { ["config"] = new JsonObject { ["patch"] = false } });

    public async ValueTask DisposeAsync()
    {
        _process.Kill();
        await _process.WaitForExitAsync();
        _process.Dispose();
    }

    private async Task<JsonObject> TellAsync(JsonObject told)
    {
        await _process.StandardInput.WriteLineAsync(told.ToJsonString(JsonSerializerOptions.Web));
        await _process.StandardInput.FlushAsync();
        var line = await _process.StandardOutput.ReadLineAsync();
        Assert.NotNull(line);
        return JsonNode.Parse(line)!.AsObject();
    }
}
