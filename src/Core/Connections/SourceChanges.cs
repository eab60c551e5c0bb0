namespace ComeAboard.Core.Connections;

/// <summary>A record that is written down, beside what was thought of it.</summary>
/// <param name="Judged">What was thought of it.</param>
/// <param name="IsGone">Whether it was gone when the system was read before.</param>
/// <param name="IsKept">Whether it stays written down when it is gone: it was joined, led to an invitation, or somebody decided.</param>
public sealed record WrittenRecord(JudgedRecord Judged, bool IsGone, bool IsKept);

/// <summary>What a reading changes in what is written down.</summary>
/// <param name="Add">Records that are not written down as yet.</param>
/// <param name="Change">Records that are written down otherwise, or as gone.</param>
/// <param name="Gone">The keys of records that are not there any more and stay written down.</param>
/// <param name="Drop">The keys of records that are not there any more and of which nothing hangs.</param>
public sealed record SourceChanges(
    IReadOnlyList<JudgedRecord> Add,
    IReadOnlyList<JudgedRecord> Change,
    IReadOnlyList<string> Gone,
    IReadOnlyList<string> Drop
)
{
    /// <summary>Compares what was read with what is written down.</summary>
    /// <param name="written">What is written down; no key twice.</param>
    /// <param name="judged">All that was read; no key twice.</param>
    public static SourceChanges Between(
        IEnumerable<WrittenRecord> written,
        IReadOnlyList<JudgedRecord> judged
    )
    {
        var fresh = judged.ToDictionary(one => one.Record.Key, StringComparer.Ordinal);
        var (change, gone, drop) = (new List<JudgedRecord>(), new List<string>(), new List<string>());
        foreach (var old in written)
        {
            var key = old.Judged.Record.Key;
            if (!fresh.Remove(key, out var now))
            {
                if (!old.IsKept)
                    drop.Add(key);
                else if (!old.IsGone)
                    gone.Add(key);
            }
            else if (old.IsGone || !IsAlike(old.Judged, now))
                change.Add(now);
        }
        return new SourceChanges(
            [.. judged.Where(one => fresh.ContainsKey(one.Record.Key))],
            change,
            gone,
            drop
        );
    }

    private static bool IsAlike(JudgedRecord one, JudgedRecord other) =>
        one.Record == other.Record
        && one.Verdict == other.Verdict
        && one.Score == other.Score
        && one.PersonId == other.PersonId
        && one.Reasons.SequenceEqual(other.Reasons);
}

/// <summary>
/// A floor under how many records may be gone at once. A system that suddenly shows far fewer people than before is more often
/// one that answers in part than one that people have left.
/// </summary>
public static class SourceFloor
{
    /// <summary>The share that may be gone at once where nobody says otherwise, in hundredths.</summary>
    public const int Usual = 10;

    // Of few people two who leave are a large share.
    private const int AlwaysBearable = 2;

    /// <summary>Refuses, with <c>connection.far-fewer</c>, a reading in which more records are gone than may be at once.</summary>
    /// <param name="before">How many records there were when the system was read before.</param>
    /// <param name="gone">How many of those are not there any more.</param>
    /// <param name="now">How many there are now, new ones included.</param>
    /// <param name="share">The share that may be gone, in hundredths, 0 to 100; inclusive.</param>
    public static Refusal? Forbids(int before, int gone, int now, int share)
    {
        if (gone == 0 || now > 0 && gone <= Math.Max(AlwaysBearable, (long)before * share / 100))
            return null;
        return new Refusal(
            "connection.far-fewer",
            now == 0
                ? $"Nobody was there; before there were {before}."
                : $"{gone} of {before} are not there any more, which is more than {share} of 100.",
            "Look whether the system answers whole. If they have really left, read it once more and say so.",
            RefusalSort.Conflict
        );
    }
}
