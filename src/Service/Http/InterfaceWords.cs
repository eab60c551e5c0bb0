using System.Text.Json;
using System.Text.Json.Nodes;
using Microsoft.OpenApi;

namespace ComeAboard.Service.Http;

/// <summary>What the interface's description says in words and by example; kept in a file of its own beside this one.</summary>
/// <param name="Headings">What stands together under each heading.</param>
/// <param name="Examples">A value of parameters, by their name, from the demo world.</param>
/// <param name="Summaries">One line for each operation.</param>
/// <param name="Parameters">What each parameter means, by its name.</param>
/// <param name="Requests">A request of each operation that takes one, from the demo world.</param>
/// <param name="Answers">An answer of operations, from the demo world.</param>
/// <param name="Refusals">The codes with which each operation refuses.</param>
public sealed record InterfaceWords(
    IReadOnlyDictionary<string, string> Headings,
    IReadOnlyDictionary<string, JsonNode> Examples,
    IReadOnlyDictionary<string, string> Summaries,
    IReadOnlyDictionary<string, string> Parameters,
    IReadOnlyDictionary<string, JsonNode> Requests,
    IReadOnlyDictionary<string, JsonNode> Answers,
    IReadOnlyDictionary<string, IReadOnlyList<string>> Refusals
)
{
    private static readonly JsonSerializerOptions Form = new(JsonSerializerDefaults.Web);

    /// <summary>Reads the file.</summary>
    public static InterfaceWords Load()
    {
        using var file = typeof(InterfaceWords).Assembly.GetManifestResourceStream("interface.json")!;
        return JsonSerializer.Deserialize<InterfaceWords>(file, Form)!;
    }

    /// <summary>With which codes an operation refuses.</summary>
    public string RefusalsOf(string? operation) =>
        operation is not null && Refusals.GetValueOrDefault(operation) is { Count: > 0 } codes
            ? $"Refused, with problem details (RFC 9457) and a stable code: {string.Join(", ", codes)}; besides those every operation may answer: {string.Join(", ", Everywhere)}."
            : $"Refused, with problem details (RFC 9457) and a stable code: {string.Join(", ", Everywhere)}.";

    /// <summary>The codes that any operation may answer.</summary>
    public static IReadOnlyList<string> Everywhere { get; } =
    ["sign-in.required", "request.malformed", "too-many", "storage.busy", "storage.away", "storage.unknown"];

    private static Dictionary<string, IOpenApiExample> Of(JsonNode value) =>
        new()
        {
            ["lantern-tide"] = new OpenApiExample
            {
                Summary = "In the demo world",
                Value = value.DeepClone(),
            },
        };

    /// <summary>Says what an operation does, what its parameters mean, and gives an example.</summary>
    public void Describe(OpenApiOperation operation)
    {
        var name = operation.OperationId ?? "";
        operation.Summary = Summaries.GetValueOrDefault(name);
        foreach (var parameter in (operation.Parameters ?? []).OfType<OpenApiParameter>())
        {
            var written = Core.Words.Continued(parameter.Name ?? "");
            if (string.IsNullOrEmpty(parameter.Description))
                parameter.Description = Parameters.GetValueOrDefault(written);
            parameter.Example ??= Examples.GetValueOrDefault(written)?.DeepClone();
        }
        if (
            Requests.GetValueOrDefault(name) is { } request
            && operation.RequestBody?.Content is { } asked
            && asked.TryGetValue("application/json", out var body)
        )
            body.Examples = Of(request);
        foreach (var (status, response) in operation.Responses ?? [])
        {
            if (string.IsNullOrEmpty(response.Description) || response.Description is "OK" or "Created")
                response.Description =
                    status is "201" ? "Made"
                    : status is "204" ? "Done"
                    : "The answer";
            if (
                status.StartsWith('2')
                && Answers.GetValueOrDefault(name) is { } answer
                && response.Content is { } answered
                && answered.TryGetValue("application/json", out var content)
            )
                content.Examples = Of(answer);
        }
    }
}
