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
    /// Whether a text that was kept – a value among the details of an entry – tells of a person: their name is the whole of it, or an
    /// address of theirs stands in it by itself, and not as a part of somebody else's.
    /// </summary>
    /// <param name="text">The text.</param>
    /// <param name="name">Their name; empty where it tells nothing, because others are called so.</param>
    /// <param name="addresses">Their addresses.</param>
    public static bool IsToldBy(string text, string name, IReadOnlyCollection<string> addresses) =>
        name.Length > 0 && text == name || addresses.Any(address => StandsIn(text, address));

    private static bool StandsIn(string text, string address)
    {
        for (var at = 0; ; at++)
        {
            at = text.IndexOf(address, at, StringComparison.OrdinalIgnoreCase);
            if (at < 0)
                return false;
            var end = at + address.Length;
            if ((at == 0 || !IsOfAddress(text[at - 1])) && (end == text.Length || !GoesOn(text, end)))
                return true;
        }
    }

    private static bool IsOfAddress(char c) => char.IsLetterOrDigit(c) || "!#$%&'*+-/=?^_`{|}~.@".Contains(c);

    // A full stop after it ends a sentence, unless the domain goes on.
    private static bool GoesOn(string text, int end) =>
        char.IsLetterOrDigit(text[end])
        || text[end] is '-' or '@'
        || text[end] == '.' && end + 1 < text.Length && char.IsLetterOrDigit(text[end + 1]);
}
