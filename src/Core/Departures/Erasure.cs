namespace ComeAboard.Core.Departures;

/// <summary>
/// Taking a person's data away once they have left: what tells who they were goes; that somebody was there, what was done and in
/// which order stays, and can still be verified.
/// </summary>
public static class Erasure
{
    /// <summary>What stands for their name from then on.</summary>
    public const string Name = "Erased person";

    /// <summary>What stands for their address from then on: nobody's, in a domain that never is (RFC 6761).</summary>
    /// <param name="member">The id of the member, which stays.</param>
    public static string AddressOf(Guid member) => $"{member:n}@erased.invalid";

    /// <summary>
    /// Why somebody's data cannot be taken away now; null when it can. Refuses with <c>erase.here</c> while they are here in any
    /// capacity, <c>erase.running</c> while it is not confirmed everywhere that their access has ended, <c>erase.merged</c> while
    /// they can still be parted from somebody they were made one with, and <c>erase.done</c> a second time.
    /// </summary>
    /// <param name="isHere">Whether they are here, or are to come, in whatever capacity.</param>
    /// <param name="isConfirmed">Whether every departure of theirs has come to its end.</param>
    /// <param name="isMerged">Whether they were made one with somebody and can still be parted.</param>
    /// <param name="isErased">Whether it was done before.</param>
    public static Refusal? Forbids(bool isHere, bool isConfirmed, bool isMerged, bool isErased) =>
        isErased
            ? new("erase.done", "Their data was erased before.", "Nothing needs doing.", RefusalSort.Conflict)
        : isHere
            ? new(
                "erase.here",
                "They are here, or are invited.",
                "End their access first, or withdraw the invitation.",
                RefusalSort.Conflict
            )
        : !isConfirmed
            ? new(
                "erase.running",
                "Not every system has confirmed that their access has ended.",
                "Wait for it, or confirm by hand what is so: without their data nobody could any more.",
                RefusalSort.Conflict
            )
        : isMerged
            ? new(
                "erase.merged",
                "They were made one with somebody else, and can still be parted.",
                "Wait until that is over, or part them first.",
                RefusalSort.Conflict
            )
        : null;

    /// <summary>
    /// Whether a text that was kept – a value among the details of an entry – tells of a person: an address of theirs anywhere in it,
    /// their name as the whole of it, or within it where the name is more than one word.
    /// </summary>
    /// <param name="text">The text.</param>
    /// <param name="name">Their name.</param>
    /// <param name="addresses">Their addresses.</param>
    public static bool IsToldBy(string text, string name, IReadOnlyCollection<string> addresses) =>
        text == name
        || name.Contains(' ') && text.Contains(name, StringComparison.Ordinal)
        || addresses.Any(address => text.Contains(address, StringComparison.OrdinalIgnoreCase));
}
