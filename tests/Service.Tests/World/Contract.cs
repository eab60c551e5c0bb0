using System.Collections.Concurrent;
using System.Text;
using System.Text.Json;
using System.Text.Json.Nodes;
using System.Text.RegularExpressions;
using ComeAboard.Core;
using ComeAboard.Core.Workspaces;
using ComeAboard.Service.Mail;
using Json.Schema;
using Microsoft.AspNetCore.Builder;
using Microsoft.AspNetCore.Hosting;
using Microsoft.AspNetCore.Http;
using Microsoft.AspNetCore.Http.Features;
using Microsoft.AspNetCore.Routing;
using Microsoft.Extensions.DependencyInjection;
using Xunit;

namespace ComeAboard.Service.Tests.World;

/// <summary>
/// Holds every answer that the scenes get over the network interface against its description: the operation, the status,
/// the shape, and the code of a refusal. What pages say of a refusal has to be said in every language.
/// </summary>
public sealed partial class Contract : IStartupFilter
{
    private const int Longest = 200_000;

    private static readonly Lazy<JsonNode> Document = new(() =>
    {
        var root = new DirectoryInfo(AppContext.BaseDirectory);
        while (!File.Exists(Path.Combine(root!.FullName, "ComeAboard.slnx")))
            root = root.Parent;
        return JsonNode.Parse(File.ReadAllText(Path.Combine(root.FullName, "docs", "openapi.json")))!;
    });

    private static readonly Lazy<Dictionary<string, JsonNode>> Operations = new(() =>
        Document.Value["paths"]!
            .AsObject()
            .SelectMany(path => path.Value!.AsObject())
            .Select(method => method.Value!)
            .ToDictionary(operation => (string)operation["operationId"]!)
    );

    private static readonly Dictionary<string, JsonSchema?> Schemas = [];

    // The library finds what a schema names in places that are shared by all: two that are built at once lose one another.
    private static readonly Lock Judging = new();

    /// <summary>Every operation by its name.</summary>
    public static IReadOnlyDictionary<string, JsonNode> All => Operations.Value;

    /// <summary>What did not fit, each once.</summary>
    public static ConcurrentDictionary<string, bool> Breaches { get; } = new();

    /// <summary>The codes with which operations refused.</summary>
    public static ConcurrentDictionary<(string Operation, string Code), bool> Codes { get; } = new();

    /// <inheritdoc/>
    public Action<IApplicationBuilder> Configure(Action<IApplicationBuilder> next) =>
        app =>
        {
            app.Use(LookAsync);
            next(app);
        };

    /// <summary>Has a node looked at.</summary>
    public static void Watch(IServiceCollection services) =>
        services.AddSingleton<IStartupFilter, Contract>();

    /// <summary>Fails when an answer did not fit its description; writes the codes seen so far where that is asked.</summary>
    public static void Check()
    {
        if (Environment.GetEnvironmentVariable("COMEABOARD_CODES") is { } file)
            File.WriteAllLines(file, Codes.Keys.Select(seen => $"{seen.Operation} {seen.Code}").Order());
        Assert.True(Breaches.IsEmpty, string.Join('\n', Breaches.Keys.Order()));
    }

    private static async Task LookAsync(HttpContext http, RequestDelegate next)
    {
        var real = http.Features.Get<IHttpResponseBodyFeature>()!;
        await using var copy = new PassedOn(real.Stream);
        var watched = new StreamResponseBodyFeature(copy, real);
        http.Features.Set<IHttpResponseBodyFeature>(watched);
        try
        {
            await next(http);
            await watched.Writer.FlushAsync();
        }
        finally
        {
            http.Features.Set(real);
        }
        var name = http.Request.Path.StartsWithSegments("/api/v1")
            ? http.GetEndpoint()?.Metadata.GetMetadata<IEndpointNameMetadata>()?.EndpointName
            : null;
        if (copy.Kept is not { } body)
            return;
        try
        {
            var (status, type) = (http.Response.StatusCode, http.Response.ContentType ?? "");
            if ((name is null ? UnsaidOn(type, body) : FaultOf(name, status, type, body)) is { } fault)
                Breaches[fault] = true;
        }
        catch (Exception fault)
        {
            Breaches[$"{name} cannot be judged: {fault}"] = true;
        }
    }

    /// <summary>
    /// Why there are people who cannot read why something was not done: a page says it in a language that is not theirs. Null when
    /// all can, or nothing was refused.
    /// </summary>
    public static string? UnsaidOn(string type, ReadOnlyMemory<byte> page)
    {
        if (!type.StartsWith("text/html", StringComparison.Ordinal))
            return null;
        var code = RefusedPattern().Match(Encoding.UTF8.GetString(page.Span)).Groups[1].Value;
        var refusal = new Refusal(code, "In English.", "In English.");
        return
            code.Length > 0
            && Languages.All.FirstOrDefault(language =>
                language != "en" && Phrases.Of(language).Translate(refusal) == refusal
            )
                is { } unsaid
            ? $"A page said {code}, and has no words for it in {unsaid}"
            : null;
    }

    /// <summary>Why an answer does not fit its description; null when it does.</summary>
    public static string? FaultOf(string name, int status, string type, ReadOnlyMemory<byte> body)
    {
        if (!Operations.Value.TryGetValue(name, out var operation))
            return $"{name} is not described";
        var isRefusal = type.StartsWith("application/problem+json", StringComparison.Ordinal);
        var key =
            isRefusal || operation["responses"]![status.ToString()] is null ? "default" : status.ToString();
        if (key == "default" && !isRefusal)
            return $"{name} answers {status}, which is not described";
        var media = type.Split(';')[0];
        if (body.Length == 0 || !media.EndsWith("json", StringComparison.Ordinal))
            return null;
        var answer = JsonNode.Parse(body.Span);
        if (isRefusal)
            Codes[(name, (string)answer!["code"]!)] = true;
        lock (Judging)
            return FaultIn(operation, name, status, key, media, body);
    }

    private static string? FaultIn(
        JsonNode operation,
        string name,
        int status,
        string key,
        string media,
        ReadOnlyMemory<byte> body
    )
    {
        if (!Schemas.TryGetValue($"{name} {key}", out var schema))
            Schemas[$"{name} {key}"] = schema = operation["responses"]![key]!["content"]?[media]?["schema"]
                is { } found
                ? SchemaOf(found)
                : null;
        if (schema is null)
            return $"{name} answers {status} with {media}, which is not described";
        using var read = JsonDocument.Parse(body);
        var judged = schema.Evaluate(
            read.RootElement,
            new EvaluationOptions { OutputFormat = OutputFormat.List }
        );
        return judged.IsValid
            ? null
            : $"{name} {status}: "
                + string.Join(
                    "; ",
                    (judged.Details ?? [])
                        .Where(detail => detail.Errors is { Count: > 0 })
                        .Select(detail =>
                            $"{detail.InstanceLocation} {string.Join(", ", detail.Errors!.Values)}"
                        )
                        .Take(3)
                );
    }

    private static JsonSchema SchemaOf(JsonNode found) =>
        JsonSchema.FromText(
            new JsonObject { ["$defs"] = Needed(found), ["allOf"] = new JsonArray(found.DeepClone()) }
                .ToJsonString()
                .Replace("#/components/schemas/", "#/$defs/", StringComparison.Ordinal)
        );

    /// <summary>The schemas that one names, and those that they name: built with all there are, each would be a thousand.</summary>
    private static JsonObject Needed(JsonNode schema)
    {
        var needed = new JsonObject();
        var open = new Queue<JsonNode>([schema]);
        while (open.TryDequeue(out var one))
            foreach (Match named in NamePattern().Matches(one.ToJsonString()))
            {
                var name = named.Groups[1].Value;
                if (needed.ContainsKey(name))
                    continue;
                needed[name] = Document.Value["components"]!["schemas"]![name]!.DeepClone();
                open.Enqueue(needed[name]!);
            }
        return needed;
    }

    [GeneratedRegex("class=\"refusal\"[^>]* data-code=\"([^\"]+)\"")]
    private static partial Regex RefusedPattern();

    [GeneratedRegex("\"#/components/schemas/([^\"]+)\"")]
    private static partial Regex NamePattern();

    /// <summary>Passes everything on at once, and keeps it as long as it is short.</summary>
    private sealed class PassedOn(Stream real) : Stream
    {
        private readonly MemoryStream _kept = new();
        private bool _isLong;

        public ReadOnlyMemory<byte>? Kept =>
            _isLong ? null : _kept.GetBuffer().AsMemory(0, (int)_kept.Length);
        public override bool CanRead => false;
        public override bool CanSeek => false;
        public override bool CanWrite => true;
        public override long Length => throw new NotSupportedException();
        public override long Position
        {
            get => throw new NotSupportedException();
            set => throw new NotSupportedException();
        }

        public override void Flush() => real.Flush();

        public override Task FlushAsync(CancellationToken cancellationToken) =>
            real.FlushAsync(cancellationToken);

        public override int Read(byte[] buffer, int offset, int count) => throw new NotSupportedException();

        public override long Seek(long offset, SeekOrigin origin) => throw new NotSupportedException();

        public override void SetLength(long value) => throw new NotSupportedException();

        public override void Write(byte[] buffer, int offset, int count)
        {
            Keep(buffer.AsSpan(offset, count));
            real.Write(buffer, offset, count);
        }

        public override Task WriteAsync(
            byte[] buffer,
            int offset,
            int count,
            CancellationToken cancellationToken
        ) => WriteAsync(buffer.AsMemory(offset, count), cancellationToken).AsTask();

        public override async ValueTask WriteAsync(
            ReadOnlyMemory<byte> buffer,
            CancellationToken cancellationToken = default
        )
        {
            Keep(buffer.Span);
            await real.WriteAsync(buffer, cancellationToken);
        }

        private void Keep(ReadOnlySpan<byte> part)
        {
            _isLong |= _kept.Length + part.Length > Longest;
            if (!_isLong)
                _kept.Write(part);
        }
    }
}
