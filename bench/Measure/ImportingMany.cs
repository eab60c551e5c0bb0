using System.Text;

namespace ComeAboard.Measure;

/// <summary>V1, growth: what a row of a million costs in time, against a row of 100,000, and the memory both take; both databases.</summary>
public static class ImportingMany
{
    private const int Few = 100_000;
    private const int Many = 1_000_000;

    public static async Task<IEnumerable<Figure>> MeasureAsync()
    {
        var figures = new List<Figure>();
        foreach (var engine in Places.Engines)
        {
            var (few, many) = (await OnAsync(engine, Few), await OnAsync(engine, Many));
            figures.Add(
                new(
                    "V1",
                    $"importing one of {Many} rows, against one of {Few}, {engine}",
                    "ms",
                    [many.Seconds * 1_000 / Many],
                    [few.Seconds * 1_000 / Few],
                    "≤ 1.3",
                    r => r <= 1.3
                )
            );
            figures.Add(
                new(
                    "V1",
                    $"most anonymous memory while importing {Many} rows, {engine}",
                    "MB",
                    [many.Megabytes],
                    [],
                    "≤ 300",
                    m => m <= 300
                )
            );
        }
        return figures;
    }

    private static async Task<(double Seconds, double Megabytes)> OnAsync(string engine, int rows)
    {
        using var cluster = PostgresCluster.On(engine);
        using var place = new ServicePlace(cluster?.Connection);
        return await Importing.ImportAsync(place, FileOf(rows), rows);
    }

    // As little for each as somebody can be invited by: a million must be within the largest file that is taken.
    internal static byte[] FileOf(int rows)
    {
        var csv = new StringBuilder("Address,Kind,Role\n");
        for (var n = 0; n < rows; n++)
            csv.Append($"sailor{n}@harbour{n % 500}.example,guest,view\n");
        return Encoding.UTF8.GetBytes(csv.ToString());
    }
}
