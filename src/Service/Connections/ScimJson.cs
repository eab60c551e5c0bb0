using System.Text.Json;

namespace ComeAboard.Service.Connections;

/// <summary>Attributes of what a SCIM service answers, read for what they mean: what is not there, or of another form, is nothing.</summary>
internal static class ScimJson
{
    /// <summary>A text; empty for none.</summary>
    public static string Text(JsonElement of, string name) =>
        of.ValueKind == JsonValueKind.Object
        && of.TryGetProperty(name, out var text)
        && text.ValueKind == JsonValueKind.String
            ? text.GetString()!.Trim()
            : "";

    /// <summary>A complex attribute; nothing of it can be read where there is none.</summary>
    public static JsonElement Inner(JsonElement of, string name) =>
        of.ValueKind == JsonValueKind.Object && of.TryGetProperty(name, out var inner) ? inner : default;

    /// <summary>The values of an attribute that may have several.</summary>
    public static IEnumerable<JsonElement> Each(JsonElement of, string name) =>
        of.ValueKind == JsonValueKind.Object
        && of.TryGetProperty(name, out var several)
        && several.ValueKind == JsonValueKind.Array
            ? several.EnumerateArray()
            : [];
}
