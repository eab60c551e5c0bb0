using System.Collections.Concurrent;
using System.Text.Json;
using System.Text.Json.Serialization;
using ComeAboard.Core.Access;

namespace ComeAboard.Storage.Access;

/// <summary>What an invitation, a preset or a link gives, as the text in which it is kept.</summary>
public static class BundleText
{
    // The same few bundles stand in thousands of rows.
    private const int MostKept = 2000;

    private static readonly JsonSerializerOptions Json = new(JsonSerializerDefaults.Web)
    {
        DefaultIgnoreCondition = JsonIgnoreCondition.WhenWritingNull,
    };
    private static readonly ConcurrentDictionary<string, Bundle> Read = new(StringComparer.Ordinal);

    public static Bundle Of(string text)
    {
        if (text.Length == 0)
            return Bundle.Nothing;
        if (Read.TryGetValue(text, out var known))
            return known;
        var bundle = JsonSerializer.Deserialize<Bundle>(text, Json)!;
        if (Read.Count < MostKept)
            Read[text] = bundle;
        return bundle;
    }

    public static string Of(Bundle bundle) =>
        bundle.IsEmpty && bundle.Pools.Count == 0 ? "" : JsonSerializer.Serialize(bundle, Json);
}
