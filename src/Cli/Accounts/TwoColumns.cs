using Microsoft.VisualBasic.FileIO;

namespace ComeAboard.Cli.Accounts;

/// <summary>Files with two columns that are named in their first line, in any order and among others.</summary>
internal static class TwoColumns
{
    /// <summary>Reads one; says what is wrong with it as wrong usage.</summary>
    public static async Task<IReadOnlyList<(string One, string Other)>> ReadAsync(
        FileInfo path,
        string one,
        string other,
        CancellationToken cancellation
    )
    {
        var text = await File.ReadAllTextAsync(path.FullName, cancellation);
        using var file = new TextFieldParser(new StringReader(text.TrimStart('\uFEFF')))
        {
            Delimiters = [",", ";", "\t"],
            HasFieldsEnclosedInQuotes = true,
            TrimWhiteSpace = true,
        };
        try
        {
            var head = (file.ReadFields() ?? []).Select(cell => cell.ToLowerInvariant()).ToList();
            var (first, second) = (head.IndexOf(one), head.IndexOf(other));
            if (first < 0 || second < 0)
                throw new UsageException($"The file needs the columns {one} and {other} in its first line.");
            var rows = new List<(string, string)>();
            while (file.ReadFields() is { } cells)
            {
                if (cells.Length <= Math.Max(first, second))
                    throw new UsageException($"Line {file.LineNumber - 1} has too few cells.");
                rows.Add((cells[first], cells[second]));
            }
            return rows.Count > 0 ? rows : throw new UsageException("The file has no rows.");
        }
        catch (MalformedLineException)
        {
            throw new UsageException($"Line {file.ErrorLineNumber} has a quotation mark that is not closed.");
        }
    }
}
