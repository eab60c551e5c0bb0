using Spectre.Console;

namespace ComeAboard.Cli;

/// <summary>Lines of a word and a sentence beside it; a sentence longer than the terminal goes on under its beginning.</summary>
public sealed class Beside
{
    private readonly List<(string Word, string Sentence)> _lines = [];

    /// <summary>Adds a line; none where there is nothing to say.</summary>
    public Beside Add(string word, string? sentence)
    {
        if (!string.IsNullOrEmpty(sentence))
            _lines.Add((word, sentence));
        return this;
    }

    /// <summary>Adds a line with the same word for each sentence.</summary>
    public Beside Add(string word, IEnumerable<string> sentences)
    {
        foreach (var sentence in sentences)
            Add(word, sentence);
        return this;
    }

    /// <summary>Prints them to standard output.</summary>
    public void Print()
    {
        var indent = _lines.Select(line => line.Word.Length).DefaultIfEmpty(0).Max();
        if (Console.IsOutputRedirected)
        {
            foreach (var (word, sentence) in _lines)
                Console.WriteLine(
                    $"  {word.PadRight(indent)}   {sentence.ReplaceLineEndings("\n" + new string(' ', indent + 5))}"
                );
            return;
        }
        var grid = new Grid()
            .AddColumn(new GridColumn().NoWrap().PadLeft(2).PadRight(3))
            .AddColumn(new GridColumn().PadLeft(0).PadRight(0));
        foreach (var (word, sentence) in _lines)
            grid.AddRow(new Text(word), new Text(sentence));
        AnsiConsole.Write(grid);
    }
}
