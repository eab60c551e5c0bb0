using System.Text.Encodings.Web;
using System.Text.Json;
using System.Text.Json.Nodes;

namespace ComeAboard.Measure;

/// <summary>One measured row: ours and the reference's in paired runs, or a size against a bound.</summary>
public sealed record Figure(
    string Row,
    string What,
    string Unit,
    IReadOnlyList<double> Ours,
    IReadOnlyList<double> Reference,
    string Target,
    Func<double, bool> IsMet
)
{
    /// <summary>Ours over the reference's, run by run; of a size, ours alone.</summary>
    public IReadOnlyList<double> Ratios =>
        Reference.Count == 0 ? Ours : [.. Ours.Zip(Reference, (ours, reference) => ours / reference)];

    public double Ratio => Median(Ratios);

    public static double Median(IReadOnlyList<double> values)
    {
        var sorted = values.Order().ToList();
        var middle = sorted.Count / 2;
        return sorted.Count % 2 == 1 ? sorted[middle] : (sorted[middle - 1] + sorted[middle]) / 2;
    }
}

/// <summary>The table on the screen and the file beside it.</summary>
public static class Report
{
    public static void Print(IReadOnlyList<Figure> figures)
    {
        Console.WriteLine(
            $"{"row", -5}{"what", -58}{"ours", 12}{"reference", 12}{"ratio", 9}  {"spread", -15}{"target", -12}"
        );
        foreach (var f in figures)
        {
            var reference = f.Reference.Count == 0 ? "–" : Short(Figure.Median(f.Reference));
            var ratio = f.Reference.Count == 0 ? "–" : $"{f.Ratio:0.00}";
            var spread = f.Reference.Count == 0 ? "–" : $"{f.Ratios.Min():0.00}–{f.Ratios.Max():0.00}";
            Console.WriteLine(
                $"{f.Row, -5}{f.What + ", " + f.Unit, -58}{Short(Figure.Median(f.Ours)), 12}{reference, 12}{ratio, 9}  {spread, -15}{f.Target, -12}{(f.IsMet(f.Ratio) ? "met" : "MISSED")}"
            );
        }
    }

    /// <summary>Keeps what was just measured; of the same rows, too, what was measured before and not now stays.</summary>
    public static void Save(IReadOnlyList<Figure> figures)
    {
        var file = Path.Combine(Places.Root, "bench", "results.json");
        var kept = File.Exists(file) ? JsonNode.Parse(File.ReadAllText(file))!.AsObject() : [];
        foreach (var group in figures.GroupBy(f => f.Row))
        {
            var measured = group.Select(f => f.What).ToHashSet();
            var others = (kept[group.Key] as JsonArray ?? [])
                .Where(line => !measured.Contains((string)line!["what"]!))
                .Select(line => line!.DeepClone());
            kept[group.Key] = new JsonArray([
                .. others,
                .. group.Select(f =>
                    (JsonNode)
                        new JsonObject
                        {
                            ["what"] = f.What,
                            ["unit"] = f.Unit,
                            ["ours"] = Numbers(f.Ours),
                            ["reference"] = Numbers(f.Reference),
                            ["ratio"] = f.Reference.Count == 0 ? null : Math.Round(f.Ratio, 3),
                            ["target"] = f.Target,
                            ["met"] = f.IsMet(f.Ratio),
                        }
                ),
            ]);
        }
        var readable = new JsonSerializerOptions
        {
            WriteIndented = true,
            Encoder = JavaScriptEncoder.UnsafeRelaxedJsonEscaping,
        };
        File.WriteAllText(file, kept.ToJsonString(readable) + "\n");
    }

    private static JsonArray Numbers(IReadOnlyList<double> values) =>
        new([.. values.Select(v => (JsonNode)Math.Round(v, 3))]);

    private static string Short(double value) => value >= 100 ? $"{value:0}" : $"{value:0.00}";
}
