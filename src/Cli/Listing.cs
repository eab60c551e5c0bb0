using Spectre.Console;

namespace ComeAboard.Cli;

/// <summary>A table that fits the terminal: columns of the highest rank number are left out before anything wraps.</summary>
/// <typeparam name="T">What a row shows.</typeparam>
public sealed class Listing<T>(params IReadOnlyList<Listing<T>.Column> columns)
{
    /// <summary>One column.</summary>
    /// <param name="Heading">Its heading.</param>
    /// <param name="Show">What it shows.</param>
    /// <param name="Rank">0 is never left out; the highest goes first.</param>
    /// <param name="IsNumber">Whether it is aligned to the right.</param>
    public sealed record Column(string Heading, Func<T, string> Show, int Rank = 0, bool IsNumber = false);

    /// <summary>Prints the rows to standard output.</summary>
    public void Print(IReadOnlyList<T> rows)
    {
        var width = Console.IsOutputRedirected ? int.MaxValue : AnsiConsole.Profile.Width;
        var shown = columns.ToList();
        while (Width(shown, rows) > width && shown.Max(column => column.Rank) > 0)
            shown.Remove(shown.MaxBy(column => column.Rank)!);

        var table = new Table().Border(TableBorder.Simple);
        foreach (var column in shown)
        {
            var heading = new TableColumn(new Text(column.Heading)).NoWrap();
            table.AddColumn(column.IsNumber ? heading.RightAligned() : heading);
        }
        foreach (var row in rows)
            table.AddRow(shown.Select(column => new Text(column.Show(row))));
        if (Console.IsOutputRedirected)
            AnsiConsole.Profile.Width = Math.Max(80, Width(shown, rows) + 4);
        AnsiConsole.Write(table);
    }

    private static int Width(List<Column> shown, IReadOnlyList<T> rows) =>
        2
        + shown.Sum(column =>
            3
            + Math.Max(
                column.Heading.Length,
                rows.Select(row => column.Show(row).Length).DefaultIfEmpty(0).Max()
            )
        );
}
