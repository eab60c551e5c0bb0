using ComeAboard.Core.Invitations;

namespace ComeAboard.Core.Readdressing;

/// <summary>What becomes of one address when many are changed.</summary>
public enum ReaddressVerdict
{
    /// <summary>The account is held: the address is corrected, and counts once its holder has shown that it is theirs.</summary>
    Correct,

    /// <summary>The account is its holder's own: the address is proposed.</summary>
    Propose,

    /// <summary>It is so already.</summary>
    Same,

    /// <summary>Two would have one address, or it is somebody else's: nothing is done.</summary>
    Collides,

    /// <summary>No address can be made.</summary>
    Wrong,
}

/// <summary>Somebody whose address may change.</summary>
/// <param name="Id">The account.</param>
/// <param name="Name">Their name.</param>
/// <param name="Now">Their address now.</param>
/// <param name="IsHeld">Whether the workspace holds the account.</param>
public sealed record Addressee(Guid Id, string Name, EmailAddress Now, bool IsHeld);

/// <summary>What becomes of one address.</summary>
/// <param name="Who">Whose.</param>
/// <param name="To">The address they would have; null where none can be made.</param>
/// <param name="Verdict">What becomes of it.</param>
/// <param name="Why">Why nothing is done, in words; empty where something is.</param>
public sealed record Readdressed(Addressee Who, EmailAddress? To, ReaddressVerdict Verdict, string Why);

/// <summary>Plans new addresses for many at once, so that no two come to have the same.</summary>
public static class Readdressing
{
    /// <summary>Plans them, in the order of those they are for.</summary>
    /// <param name="people">Whose addresses change; each account once.</param>
    /// <param name="make">Makes the address of one.</param>
    /// <param name="borne">Of the addresses that some account has: which account, by the form in which addresses are compared.</param>
    public static IReadOnlyList<Readdressed> Plan(
        IReadOnlyList<Addressee> people,
        Func<Addressee, Outcome<EmailAddress>> make,
        IReadOnlyDictionary<string, Guid> borne
    )
    {
        var made = people.Select(make).ToList();
        var wanted = people
            .Zip(made)
            .Where(one => one.Second.Succeeded)
            .ToLookup(one => one.Second.Value.Key, one => one.First);
        return [.. people.Zip(made).Select(one => One(one.First, one.Second, wanted, borne))];
    }

    private static Readdressed One(
        Addressee who,
        Outcome<EmailAddress> made,
        ILookup<string, Addressee> wanted,
        IReadOnlyDictionary<string, Guid> borne
    )
    {
        if (!made.Try(out var to, out var no))
            return new Readdressed(who, null, ReaddressVerdict.Wrong, no.Sentence);
        // Whoever has it keeps it, and whoever else would come to have it does not.
        if (to.Key == who.Now.Key)
            return new Readdressed(who, to, ReaddressVerdict.Same, "");
        if (wanted[to.Key].FirstOrDefault(other => other.Id != who.Id) is { } rival)
            return new Readdressed(
                who,
                to,
                ReaddressVerdict.Collides,
                $"{rival.Name} <{rival.Now}> would have it as well."
            );
        if (borne.TryGetValue(to.Key, out var owner) && owner != who.Id)
            return new Readdressed(
                who,
                to,
                ReaddressVerdict.Collides,
                "It is the address of another account."
            );
        return new Readdressed(who, to, who.IsHeld ? ReaddressVerdict.Correct : ReaddressVerdict.Propose, "");
    }
}
