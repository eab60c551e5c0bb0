using System.Collections.Concurrent;

namespace ComeAboard.Core.Matching;

/// <summary>Gives each text of one kind a number, the same for the same text, to any number of threads.</summary>
internal sealed class Vocabulary
{
    private readonly ConcurrentDictionary<string, int> _numbers;
    private readonly ConcurrentDictionary<string, int>.AlternateLookup<ReadOnlySpan<char>> _bySpan;
    private int _count;

    /// <param name="expected">How many texts there will be, about.</param>
    /// <param name="workers">How many threads ask at once.</param>
    public Vocabulary(int expected, int workers)
    {
        _numbers = new(workers, expected, StringComparer.Ordinal);
        _bySpan = _numbers.GetAlternateLookup<ReadOnlySpan<char>>();
    }

    /// <summary>How many numbers there are; each is below it.</summary>
    public int Count => _count;

    /// <summary>The number of a text; -1 for an empty one.</summary>
    public int Of(ReadOnlySpan<char> text)
    {
        if (text.IsEmpty)
            return -1;
        if (_bySpan.TryGetValue(text, out var number))
            return number;
        // A number that is not used in the end leaves a hole, which harms nothing.
        return _numbers.GetOrAdd(
            text.ToString(),
            static (_, all) => Interlocked.Increment(ref all._count) - 1,
            this
        );
    }

    /// <summary>The number of a text that is there already; -1 for any other.</summary>
    public int Find(ReadOnlySpan<char> text) => _bySpan.TryGetValue(text, out var number) ? number : -1;

    /// <summary>The texts by their numbers.</summary>
    public string[] Texts()
    {
        var texts = new string[_count];
        Array.Fill(texts, "");
        foreach (var (text, number) in _numbers)
            texts[number] = text;
        return texts;
    }
}
