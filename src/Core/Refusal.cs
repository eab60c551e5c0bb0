namespace ComeAboard.Core;

/// <summary>What sort of "no" a <see cref="Refusal"/> is; each sort has one HTTP status and one exit status.</summary>
public enum RefusalSort
{
    /// <summary>The request itself is wrong and would be wrong for everybody.</summary>
    Invalid,

    /// <summary>Nobody is signed in, or the sign-in no longer counts.</summary>
    NotSignedIn,

    /// <summary>The caller may not do this.</summary>
    NotAllowed,

    /// <summary>There is no such thing, or none the caller may know of.</summary>
    NotFound,

    /// <summary>A rule of the house forbids it in the present state.</summary>
    Conflict,

    /// <summary>Somebody else changed the thing meanwhile.</summary>
    Stale,

    /// <summary>It would overwrite what the caller may not have seen: they must say which version they looked at.</summary>
    Unseen,

    /// <summary>Too often in too short a time.</summary>
    TooMany,

    /// <summary>The service cannot do it just now; nothing was written.</summary>
    Unavailable,
}

/// <summary>
/// An expected "no": a stable code for programs, a sentence that says what is wrong and one that says what to do.
/// It is carried out to RFC 9457 problem details in one place and to an exit status in one place.
/// </summary>
/// <param name="Code">Stable, lower case, dotted: <c>address.malformed</c>. Never changes its meaning.</param>
/// <param name="Sentence">What is wrong, as a plain sentence without personal data of third parties.</param>
/// <param name="Remedy">What the reader can do next, as a plain sentence.</param>
/// <param name="Sort">Which sort of refusal this is.</param>
/// <param name="Field">The name of the input at fault, where there is exactly one.</param>
/// <param name="Related">The id of the thing to look at instead, where there is one.</param>
public sealed record Refusal(
    string Code,
    string Sentence,
    string Remedy,
    RefusalSort Sort = RefusalSort.Invalid,
    string? Field = null,
    Guid? Related = null
);

/// <summary>Either a value or the <see cref="Core.Refusal"/> that stands in its place; never both, never neither.</summary>
/// <typeparam name="T">The value when all went well.</typeparam>
public readonly struct Outcome<T>
    where T : notnull
{
    private readonly T? _value;
    private readonly Refusal? _refusal;

    private Outcome(T? value, Refusal? refusal)
    {
        _value = value;
        _refusal = refusal;
    }

    /// <summary>Whether a value is here.</summary>
    public bool Succeeded => _refusal is null;

    /// <summary>The value.</summary>
    /// <exception cref="InvalidOperationException">This outcome is a refusal.</exception>
    public T Value =>
        _refusal is null ? _value! : throw new InvalidOperationException($"Refused: {_refusal.Code}");

    /// <summary>The refusal, or null when a value is here.</summary>
    public Refusal? Refusal => _refusal;

    internal static Outcome<T> Success(T value) => new(value, null);

    /// <summary>Takes a value as a success.</summary>
    public static implicit operator Outcome<T>(T value) => new(value, null);

    /// <summary>Takes a refusal in the place of a value.</summary>
    public static implicit operator Outcome<T>(Refusal refusal) => new(default, refusal);

    /// <summary>Splits the outcome: true with the value, false with the refusal.</summary>
    public bool Try(out T value, out Refusal refusal)
    {
        value = _value!;
        refusal = _refusal!;
        return _refusal is null;
    }

    /// <summary>The outcome with another value made of this one; a refusal stays what it is.</summary>
    public Outcome<TOther> Then<TOther>(Func<T, TOther> next)
        where TOther : notnull => _refusal is null ? next(_value!) : _refusal;
}

/// <summary>Making outcomes of types that C# will not convert by itself, such as interfaces.</summary>
public static class Outcome
{
    /// <summary>A success.</summary>
    public static Outcome<T> Of<T>(T value)
        where T : notnull => Outcome<T>.Success(value);
}
