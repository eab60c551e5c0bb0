using System.Buffers.Binary;
using System.Globalization;
using System.Security.Cryptography;
using System.Text;

namespace ComeAboard.Core.Record;

/// <summary>The end of a workspace's record: how many entries there are and the hash of the last.</summary>
/// <param name="Sequence">The number of entries, 0 for none.</param>
/// <param name="Hash">The hash of the last entry, 64 zeros for none.</param>
public readonly record struct RecordHead(long Sequence, string Hash)
{
    /// <summary>The head of an empty record.</summary>
    public static RecordHead Empty => new(0, new string('0', 64));
}

/// <summary>A fault found in a record.</summary>
/// <param name="Sequence">The entry at which it shows.</param>
/// <param name="Code">Stable: <c>record.missing</c>, <c>record.reordered</c>, <c>record.changed</c>, <c>record.cut</c>.</param>
/// <param name="Sentence">What was found, in plain words.</param>
public sealed record RecordFault(long Sequence, string Code, string Sentence);

/// <summary>
/// The hash chain of the record. Each hash covers every field of its entry, length-prefixed, and the hash before it, so
/// that no entry can be changed, left out or moved without every later hash changing too.
/// </summary>
public static class RecordChain
{
    /// <summary>Writes a happening behind a head.</summary>
    /// <param name="head">The head as it is.</param>
    /// <param name="happening">What happened.</param>
    /// <param name="salt">16 random bytes.</param>
    public static RecordEntry Append(RecordHead head, Happening happening, ReadOnlySpan<byte> salt)
    {
        var at = DateTimeOffset.FromUnixTimeMilliseconds(happening.At.ToUnixTimeMilliseconds());
        var saltText = Convert.ToHexStringLower(salt);
        var entry = new RecordEntry(
            head.Sequence + 1,
            at,
            happening.Actor,
            happening.Via,
            happening.Action,
            happening.Subject,
            happening.Details,
            Digest(saltText, happening.Details),
            saltText,
            head.Hash,
            ""
        );
        return entry with { Hash = HashOf(entry) };
    }

    /// <summary>The head after an entry.</summary>
    public static RecordHead After(RecordEntry entry) => new(entry.Sequence, entry.Hash);

    /// <summary>Checks one entry against the head before it; null when it fits.</summary>
    /// <param name="before">The head the entry should follow.</param>
    /// <param name="entry">The entry read in order of sequence.</param>
    public static RecordFault? Check(RecordHead before, RecordEntry entry)
    {
        var expected = before.Sequence + 1;
        if (entry.Sequence > expected)
            return new(
                expected,
                "record.missing",
                $"Entry {expected} is missing; the next one found is {entry.Sequence}."
            );
        if (entry.Sequence < expected)
            return new(
                entry.Sequence,
                "record.reordered",
                $"Entry {entry.Sequence} stands where {expected} should."
            );
        if (entry.PreviousHash != before.Hash)
            return new(
                entry.Sequence,
                "record.reordered",
                $"Entry {entry.Sequence} does not follow the entry that stands before it: one of them was moved, replaced or left out."
            );
        if (entry.Details is not null && Digest(entry.DetailsSalt, entry.Details) != entry.DetailsDigest)
            return new(
                entry.Sequence,
                "record.changed",
                $"The details of entry {entry.Sequence} were changed."
            );
        return HashOf(entry) == entry.Hash
            ? null
            : new(entry.Sequence, "record.changed", $"Entry {entry.Sequence} was changed.");
    }

    /// <summary>Checks that a record read to its end reaches the head that was kept apart from it; null when it does.</summary>
    public static RecordFault? CheckEnd(RecordHead read, RecordHead kept) =>
        read == kept
            ? null
            : new(
                read.Sequence + 1,
                "record.cut",
                $"The record ends after entry {read.Sequence}, but {kept.Sequence} were written."
            );

    private static string Digest(string salt, string details) =>
        Convert.ToHexStringLower(SHA256.HashData(Encoding.UTF8.GetBytes(salt + ":" + details)));

    private static string HashOf(RecordEntry entry)
    {
        using var hash = IncrementalHash.CreateHash(HashAlgorithmName.SHA256);
        Span<byte> length = stackalloc byte[4];
        ReadOnlySpan<string> fields =
        [
            entry.PreviousHash,
            entry.Sequence.ToString(CultureInfo.InvariantCulture),
            entry.At.ToUnixTimeMilliseconds().ToString(CultureInfo.InvariantCulture),
            entry.Actor,
            entry.Via,
            entry.Action,
            entry.Subject,
            entry.DetailsDigest,
        ];
        foreach (var field in fields)
        {
            var bytes = Encoding.UTF8.GetBytes(field);
            BinaryPrimitives.WriteInt32BigEndian(length, bytes.Length);
            hash.AppendData(length);
            hash.AppendData(bytes);
        }
        return Convert.ToHexStringLower(hash.GetHashAndReset());
    }
}
