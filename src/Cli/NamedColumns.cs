using Microsoft.VisualBasic.FileIO;

namespace ComeAboard.Cli;

/// <summary>Files whose columns are named in their first line, in any order and among others.</summary>
internal static class NamedColumns
{
    /// <summary>Reads two columns of a file; says what is wrong with it as wrong usage.</summary>
    public static async Task<IReadOnlyList<(string One, string Other)>> ReadAsync(
        FileInfo path,
        string one,
        string other,
        CancellationToken cancellation
    ) => [.. (await ReadAsync(path, [one, other], [], cancellation)).Select(row => (row[0], row[1]))];

    /// <summary>Reads some columns of a file; says what is wrong with it as wrong usage.</summary>
    /// <param name="path">The file.</param>
    /// <param name="needed">Columns it must have.</param>
    /// <param name="further">Columns it may have.</param>
    /// <param name="cancellation">Breaks off reading.</param>
    /// <returns>Row by row what stands in them, in the order in which they are asked for; empty where it has no such column.</returns>
    public static async Task<IReadOnlyList<string[]>> ReadAsync(
        FileInfo path,
        IReadOnlyList<string> needed,
        IReadOnlyList<string> further,
        CancellationToken cancellation
    )
    {
        var text = System.Text.Encoding.UTF8.GetString(await Files.ReadAsync(path.ToString(), cancellation));
        using var file = new TextFieldParser(new StringReader(text.TrimStart('\uFEFF')))
        {
            Delimiters = [",", ";", "\t"],
            HasFieldsEnclosedInQuotes = true,
            TrimWhiteSpace = true,
        };
        try
        {
            var head = (file.ReadFields() ?? []).Select(cell => cell.ToLowerInvariant()).ToList();
            if (needed.Any(name => !head.Contains(name)))
                throw new UsageException(
                    $"The file needs the columns {string.Join(" and ", needed)} in its first line."
                );
            var places = needed.Concat(further).Select(name => head.IndexOf(name)).ToList();
            var rows = new List<string[]>();
            while (file.ReadFields() is { } cells)
            {
                if (cells.Length <= places.Take(needed.Count).Max())
                    throw new UsageException($"Line {file.LineNumber - 1} has too few cells.");
                rows.Add([.. places.Select(at => at >= 0 && at < cells.Length ? cells[at] : "")]);
            }
            return rows.Count > 0 ? rows : throw new UsageException("The file has no rows.");
        }
        catch (MalformedLineException)
        {
            throw new UsageException($"Line {file.ErrorLineNumber} has a quotation mark that is not closed.");
        }
    }
}
