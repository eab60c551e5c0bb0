namespace ComeAboard.Core.Connections;

/// <summary>Whose an account in a connected system is.</summary>
public static class Pairing
{
    /// <summary>Whether an account is a member's: it bears our mark of them, or – where it bears nobody's – they sign in with their address.</summary>
    /// <param name="held">The account.</param>
    /// <param name="member">Who.</param>
    /// <param name="profile">How they are written here.</param>
    public static bool IsOf(HeldThere held, Guid member, ProfileThere profile) =>
        IsMarked(held, member)
        || !Guid.TryParse(held.OurMark, out _)
            && (
                Is(held.SignInName, profile.Address)
                || held.Addresses.Any(address => Is(address, profile.Address))
            );

    /// <summary>Whether an account bears our mark of a member.</summary>
    public static bool IsMarked(HeldThere held, Guid member) =>
        Guid.TryParse(held.OurMark, out var marked) && marked == member;

    private static bool Is(string one, string other) =>
        one.Length > 0 && one.Equals(other, StringComparison.OrdinalIgnoreCase);
}
