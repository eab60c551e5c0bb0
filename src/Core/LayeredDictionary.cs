using System.Collections;
using System.Collections.Immutable;
using System.Diagnostics.CodeAnalysis;

namespace ComeAboard.Core;

/// <summary>
/// A dictionary that is read far more often than it is changed. A change makes another one and leaves this as it is, in
/// the time of the change alone; looking something up takes as long as in a <see cref="Dictionary{TKey, TValue}"/>.
/// It is one large table that nobody changes any more, under a small layer of what was put in or taken out since.
/// </summary>
/// <typeparam name="TKey">The keys; compared by their own equality, strings by their characters.</typeparam>
/// <typeparam name="TValue">The values.</typeparam>
public sealed class LayeredDictionary<TKey, TValue> : IReadOnlyDictionary<TKey, TValue>
    where TKey : notnull
    where TValue : notnull
{
    // The layer is laid into a table of its own when it holds more than these and a part of the table.
    private const int SmallLayer = 64;
    private const int PartOfTable = 64;

    private readonly Dictionary<TKey, TValue> _table;
    private readonly ImmutableDictionary<TKey, Change> _layer;

    private LayeredDictionary(
        Dictionary<TKey, TValue> table,
        ImmutableDictionary<TKey, Change> layer,
        int count
    )
    {
        _table = table;
        _layer = layer;
        Count = count;
    }

    /// <summary>One without anything in it.</summary>
    public static LayeredDictionary<TKey, TValue> Empty { get; } = new([], Nothing, 0);

    private static ImmutableDictionary<TKey, Change> Nothing => ImmutableDictionary<TKey, Change>.Empty;

    /// <inheritdoc/>
    public int Count { get; }

    /// <inheritdoc/>
    public IEnumerable<TKey> Keys => this.Select(pair => pair.Key);

    /// <inheritdoc/>
    public IEnumerable<TValue> Values => this.Select(pair => pair.Value);

    /// <inheritdoc/>
    public TValue this[TKey key] =>
        TryGetValue(key, out var value)
            ? value
            : throw new KeyNotFoundException($"There is no entry \"{key}\".");

    /// <summary>Takes a table over, which nobody changes from then on.</summary>
    public static LayeredDictionary<TKey, TValue> Of(Dictionary<TKey, TValue> table) =>
        new(table, Nothing, table.Count);

    /// <inheritdoc/>
    public bool ContainsKey(TKey key) => TryGetValue(key, out _);

    /// <inheritdoc/>
    public bool TryGetValue(TKey key, [MaybeNullWhen(false)] out TValue value)
    {
        if (_layer.IsEmpty || !_layer.TryGetValue(key, out var change))
            return _table.TryGetValue(key, out value);
        value = change.Value;
        return change.IsThere;
    }

    /// <summary>The same with one entry put in, or in place of the one there was.</summary>
    public LayeredDictionary<TKey, TValue> SetItem(TKey key, TValue value) =>
        With(key, new Change(true, value), ContainsKey(key) ? Count : Count + 1);

    /// <summary>The same without one entry; this very one when it is not there.</summary>
    public LayeredDictionary<TKey, TValue> Remove(TKey key) =>
        ContainsKey(key) ? With(key, new Change(false, default!), Count - 1) : this;

    /// <inheritdoc/>
    public IEnumerator<KeyValuePair<TKey, TValue>> GetEnumerator()
    {
        foreach (var pair in _table)
        {
            if (_layer.IsEmpty || !_layer.ContainsKey(pair.Key))
                yield return pair;
        }
        foreach (var (key, change) in _layer)
        {
            if (change.IsThere)
                yield return new(key, change.Value);
        }
    }

    IEnumerator IEnumerable.GetEnumerator() => GetEnumerator();

    private LayeredDictionary<TKey, TValue> With(TKey key, Change change, int count)
    {
        var layer = _layer.SetItem(key, change);
        if (layer.Count <= SmallLayer + _table.Count / PartOfTable)
            return new(_table, layer, count);
        var table = new Dictionary<TKey, TValue>(_table);
        foreach (var (changed, to) in layer)
        {
            if (to.IsThere)
                table[changed] = to.Value;
            else
                table.Remove(changed);
        }
        return new(table, Nothing, count);
    }

    private readonly record struct Change(bool IsThere, TValue Value);
}
