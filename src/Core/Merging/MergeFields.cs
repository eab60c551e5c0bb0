using ComeAboard.Core.Access;

namespace ComeAboard.Core.Merging;

/// <summary>What is written down of a member, and laid beside the same of another.</summary>
public enum MergeField
{
    /// <summary>The name.</summary>
    Name,

    /// <summary>The kind.</summary>
    Kind,

    /// <summary>The organisation.</summary>
    Organisation,

    /// <summary>Whether they may invite colleagues of that organisation.</summary>
    Lead,

    /// <summary>From when until when they are here.</summary>
    Stay,

    /// <summary>Whether they are kept out for a while.</summary>
    Pause,

    /// <summary>The host.</summary>
    Host,

    /// <summary>The job title.</summary>
    Title,

    /// <summary>The department.</summary>
    Department,

    /// <summary>The manager.</summary>
    Manager,

    /// <summary>The country.</summary>
    Country,

    /// <summary>The note.</summary>
    Note,
}

/// <summary>One field of two members side by side, with whose value is proposed, and why.</summary>
/// <param name="Field">Which.</param>
/// <param name="Kept">What stands there of the member who stays.</param>
/// <param name="Other">What stands there of the other.</param>
/// <param name="Chosen">What stands there then.</param>
/// <param name="Why">Why, in words.</param>
public sealed record MergeChoice(
    MergeField Field,
    FieldValue Kept,
    FieldValue Other,
    FieldValue Chosen,
    string Why
);

/// <summary>Reading and proposing fields.</summary>
public static class MergeFields
{
    /// <summary>Every field that somebody can choose: whoever is paused stays paused, and who leads follows from the organisation.</summary>
    public static IReadOnlyList<MergeField> Choosable { get; } =
    [.. Enum.GetValues<MergeField>().Except([MergeField.Pause, MergeField.Lead])];

    /// <summary>The word of a field.</summary>
    public static string Word(this MergeField field) => field.ToString().ToLowerInvariant();

    /// <summary>Reads of which fields the other's value is to be taken; refuses with <c>merge.field-unknown</c>.</summary>
    public static Outcome<IReadOnlySet<MergeField>> Read(IReadOnlyList<string?>? words)
    {
        var fields = new HashSet<MergeField>();
        foreach (var word in words ?? [])
        {
            var key = word?.Trim().ToLowerInvariant() ?? "";
            if (
                Choosable.FirstOrDefault(field => field.Word() == key, (MergeField)(-1)) is var found
                && (int)found < 0
            )
                return new Refusal(
                    "merge.field-unknown",
                    $"\"{Words.Short(key)}\" is no field whose value can be chosen.",
                    $"Use one of: {string.Join(", ", Choosable.Select(Word))}.",
                    Field: "take"
                );
            fields.Add(found);
        }
        return fields;
    }

    /// <summary>Lays every field side by side, and says whose value is proposed.</summary>
    /// <param name="kept">What is written down of the member who stays.</param>
    /// <param name="other">What is written down of the other.</param>
    /// <param name="take">The fields of which somebody wants the other's value.</param>
    public static IReadOnlyList<MergeChoice> Propose(
        MergeSide kept,
        MergeSide other,
        IReadOnlySet<MergeField> take
    )
    {
        return [.. Enum.GetValues<MergeField>().Select(One)];

        MergeChoice One(MergeField field)
        {
            var (ours, theirs) = (kept.Of(field), other.Of(field));
            // Nobody is their own host.
            var (one, two) = (Allowed(field, ours), Allowed(field, theirs));
            var (takes, why) = Choose(field, one, two, take);
            return new MergeChoice(field, ours, theirs, takes ? two : one, why);
        }

        FieldValue Allowed(MergeField field, FieldValue value) =>
            field == MergeField.Host && value.Id is { } host && (host == kept.Id || host == other.Id)
                ? FieldValue.Empty
                : value;
    }

    private static (bool Takes, string Why) Choose(
        MergeField field,
        FieldValue kept,
        FieldValue other,
        IReadOnlySet<MergeField> take
    )
    {
        if (kept == other)
            return (false, "the same on both sides");
        if (take.Contains(field))
            return (true, "chosen");
        return field switch
        {
            MergeField.Name => (false, "the name of the account that stays"),
            MergeField.Kind => (false, "as the account that stays is here"),
            MergeField.Stay => IsWithin(kept, other)
                ? (true, "the longer stay")
                : (false, IsWithin(other, kept) ? "the longer stay" : "the stay of the account that stays"),
            MergeField.Pause => kept.Text.Length > 0
                ? (false, "whoever is kept out stays out")
                : (false, "what the paused one could not do today is not given"),
            // Follows from the organisation; see the plan.
            MergeField.Lead => (false, "of the organisation that is kept"),
            _ when kept.Text.Length == 0 => (true, "only the other has one"),
            _ when other.Text.Length == 0 => (false, "only this one has one"),
            _ => (false, "of the account that stays"),
        };
    }

    /// <summary>Whether a stay is a part of another.</summary>
    private static bool IsWithin(FieldValue part, FieldValue whole) =>
        part.Stay is { } one
        && whole.Stay is { } all
        && !(all.FirstDay > (one.FirstDay ?? DateOnly.MinValue))
        && !(all.LastDay < (one.LastDay ?? DateOnly.MaxValue));
}
