using System.IO.Compression;
using System.Text.Json;

namespace ComeAboard.Measure;

/// <summary>V10: how much script a first view loads, gzipped: the entry, the overview, and all they import.</summary>
public static class ConsoleSize
{
    private const double Kilobyte = 1000;

    public static IEnumerable<Figure> Measure()
    {
        var dist = Path.Combine(Places.Root, "console", "dist");
        var manifest = JsonDocument
            .Parse(File.ReadAllText(Path.Combine(dist, ".vite", "manifest.json")))
            .RootElement;
        var scripts = new HashSet<string>();
        Gather("index.html");
        Gather("src/Workspaces/OverviewPage.tsx");
        var console = scripts.Sum(file => Gzipped(Path.Combine(dist, file))) / Kilobyte;
        var pages = Directory.GetFiles(Path.Combine(Places.Root, "src", "Service", "Pages"), "*.razor");
        var invitee = pages.Any(page =>
            File.ReadAllText(page).Contains("<script", StringComparison.OrdinalIgnoreCase)
        )
            ? double.NaN
            : 0;
        yield return new(
            "V10",
            "the console's first view",
            "kB of gzipped script",
            [console],
            [],
            "≤ 250",
            size => size <= 250
        );
        yield return new(
            "V10",
            "invitee pages",
            "kB of gzipped script",
            [invitee],
            [],
            "≤ 30",
            size => size <= 30
        );

        void Gather(string name)
        {
            var entry = manifest.GetProperty(name);
            if (!scripts.Add(entry.GetProperty("file").GetString()!))
                return;
            if (entry.TryGetProperty("imports", out var imports))
            {
                foreach (var import in imports.EnumerateArray())
                    Gather(import.GetString()!);
            }
        }
    }

    private static long Gzipped(string file)
    {
        using var packed = new MemoryStream();
        using (var gzip = new GZipStream(packed, CompressionLevel.Optimal))
            gzip.Write(File.ReadAllBytes(file));
        return packed.ToArray().LongLength;
    }
}
