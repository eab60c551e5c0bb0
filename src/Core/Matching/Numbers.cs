using System.Runtime.InteropServices;

namespace ComeAboard.Core.Matching;

/// <summary>
/// Gives each text of one kind a number, the same for the same text, to any number of threads; the texts themselves are not kept.
/// Two texts with one 64-bit hash would be taken for one: of a million texts that happens once in forty million times.
/// </summary>
internal sealed class Numbers
{
    private const int Parts = 64;

    private readonly Dictionary<ulong, int>[] _parts;
    private int _count;

    /// <param name="expected">How many texts there will be, about.</param>
    public Numbers(int expected) =>
        _parts = [.. Enumerable.Range(0, Parts).Select(_ => new Dictionary<ulong, int>(expected / Parts))];

    /// <summary>How many numbers there are; each is below it.</summary>
    public int Count => _count;

    /// <summary>The number of a text; -1 for an empty one.</summary>
    public int Of(ReadOnlySpan<char> text)
    {
        if (text.IsEmpty)
            return -1;
        var hash = Hash(text);
        var part = _parts[hash >> 58];
        lock (part)
        {
            ref var number = ref CollectionsMarshal.GetValueRefOrAddDefault(part, hash, out var isThere);
            if (!isThere)
                number = Interlocked.Increment(ref _count) - 1;
            return number;
        }
    }

    private static ulong Hash(ReadOnlySpan<char> text)
    {
        var hash = (ulong)text.Length * 0x9E3779B97F4A7C15;
        var bytes = MemoryMarshal.AsBytes(text);
        for (; bytes.Length >= 8; bytes = bytes[8..])
            hash = Mix(hash ^ MemoryMarshal.Read<ulong>(bytes));
        var rest = 0UL;
        for (var i = 0; i < bytes.Length; i++)
            rest |= (ulong)bytes[i] << (8 * i);
        return Mix(Mix(hash ^ rest));
    }

    private static ulong Mix(ulong value)
    {
        value *= 0xBF58476D1CE4E5B9;
        return value ^ value >> 29;
    }
}
