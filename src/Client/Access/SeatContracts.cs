namespace ComeAboard.Client.Access;

/// <summary>A seat pool to be made or changed.</summary>
/// <param name="Name">Its name, unique in the workspace.</param>
/// <param name="Total">How many seats there are, 0 to 1,000,000.</param>
/// <param name="ChangesPerSeat">Yearly changes for each seat, pooled over all; absent for any number.</param>
/// <param name="About">A line about it.</param>
public sealed record PoolRequest(string Name, int Total, int? ChangesPerSeat = null, string? About = null);

/// <summary>A seat pool and its account.</summary>
/// <param name="Id">Its id.</param>
/// <param name="Name">Its name.</param>
/// <param name="About">A line about it; empty for none.</param>
/// <param name="Total">How many seats there are.</param>
/// <param name="Held">How many are held.</param>
/// <param name="Reserved">How many pending invitations have reserved.</param>
/// <param name="Free">How many are neither.</param>
/// <param name="ChangesPerSeat">Yearly changes for each seat; null for any number.</param>
/// <param name="ChangesUsed">Changes made this calendar year.</param>
/// <param name="ChangesReserved">Changes that pending invitations will be.</param>
/// <param name="ChangesLeft">Changes neither used nor reserved; null for any number.</param>
/// <param name="Year">The calendar year, in the workspace's time zone.</param>
/// <param name="Version">The version to give back in If-Match.</param>
public sealed record PoolView(
    Guid Id,
    string Name,
    string About,
    int Total,
    int Held,
    int Reserved,
    int Free,
    int? ChangesPerSeat,
    int ChangesUsed,
    int ChangesReserved,
    long? ChangesLeft,
    int Year,
    int Version
) : INamedView;

/// <summary>Who holds a seat, or for whom one is reserved.</summary>
/// <param name="Id">The member, or the invitation.</param>
/// <param name="Name">The name.</param>
/// <param name="Address">The address.</param>
/// <param name="IsReservation">Whether it is only reserved, by a pending invitation.</param>
/// <param name="Since">Since when it is held; null for a reservation.</param>
public sealed record SeatView(
    Guid Id,
    string Name,
    string Address,
    bool IsReservation,
    DateTimeOffset? Since
);

/// <summary>A seat to be passed from its holder to somebody else.</summary>
/// <param name="From">The address or id of the holder.</param>
/// <param name="To">The address or id of the next.</param>
public sealed record PassRequest(string From, string To);

/// <summary>What giving or taking seats comes to.</summary>
/// <param name="Before">The account before.</param>
/// <param name="After">The account after.</param>
/// <param name="People">The names of those it is about.</param>
public sealed record SeatAnswer(PoolView Before, PoolView After, IReadOnlyList<string> People);
