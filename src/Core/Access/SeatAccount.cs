namespace ComeAboard.Core.Access;

/// <summary>
/// The account of a seat pool: how many seats there are, are held, and are reserved by pending invitations; and, where
/// the yearly changes are counted, how many are used. A <em>change</em> is giving somebody a seat that somebody else has
/// held before; seats nobody has held yet are given without one. The changes of a year are pooled over all seats.
/// </summary>
/// <param name="Total">How many seats there are; not negative.</param>
/// <param name="Held">How many are held.</param>
/// <param name="Reserved">How many pending invitations have reserved.</param>
/// <param name="EverHeld">How many of the seats have ever been held.</param>
/// <param name="ReservedChanges">How many of the reservations will be changes.</param>
/// <param name="ChangesPerSeat">Yearly changes for each seat; null for any number.</param>
/// <param name="Year">The calendar year, in the workspace's time zone, that <paramref name="ChangesUsed"/> counts.</param>
/// <param name="ChangesUsed">The changes made in that year.</param>
public sealed record SeatAccount(
    int Total,
    int Held = 0,
    int Reserved = 0,
    int EverHeld = 0,
    int ReservedChanges = 0,
    int? ChangesPerSeat = null,
    int Year = 0,
    int ChangesUsed = 0
)
{
    /// <summary>Most seats of one pool, inclusive.</summary>
    public const int Largest = 1_000_000;

    /// <summary>The seats neither held nor reserved.</summary>
    public int Free => Total - Held - Reserved;

    /// <summary>The changes of the year; null for any number.</summary>
    public long? Allowance => ChangesPerSeat is { } each ? (long)each * Total : null;

    /// <summary>The changes of the year neither used nor reserved; null for any number.</summary>
    public long? ChangesLeft =>
        Allowance is { } all ? Math.Max(0, all - ChangesUsed - ReservedChanges) : null;

    /// <summary>The seats given without a change: nobody has held them, and none of them is reserved.</summary>
    public int Fresh => Math.Max(0, Total - EverHeld - (Reserved - ReservedChanges));

    /// <summary>The account in a year: with another year, the changes begin anew.</summary>
    public SeatAccount In(int year) => year == Year ? this : this with { Year = year, ChangesUsed = 0 };

    /// <summary>Gives a seat; refuses with <c>seat.none-free</c> or <c>seat.no-changes</c>.</summary>
    public Outcome<SeatAccount> Give()
    {
        if (Forbidden() is { } refusal)
            return refusal;
        return Fresh > 0
            ? this with
            {
                Held = Held + 1,
                EverHeld = EverHeld + 1,
            }
            : this with
            {
                Held = Held + 1,
                ChangesUsed = ChangesUsed + 1,
            };
    }

    /// <summary>Reserves a seat for a pending invitation; refuses as <see cref="Give"/> does.</summary>
    /// <param name="isChange">Whether settling it will be a change; to be kept with the reservation.</param>
    public Outcome<SeatAccount> Reserve(out bool isChange)
    {
        isChange = Fresh == 0;
        if (Forbidden() is { } refusal)
            return refusal;
        return this with { Reserved = Reserved + 1, ReservedChanges = ReservedChanges + (isChange ? 1 : 0) };
    }

    /// <summary>Lets a reservation lapse.</summary>
    public SeatAccount Lapse(bool isChange) =>
        this with
        {
            Reserved = Reserved - 1,
            ReservedChanges = ReservedChanges - (isChange ? 1 : 0),
        };

    /// <summary>Turns a reservation into a held seat.</summary>
    public SeatAccount Settle(bool isChange) =>
        Lapse(isChange) with
        {
            Held = Held + 1,
            EverHeld = EverHeld + (isChange ? 0 : 1),
            ChangesUsed = ChangesUsed + (isChange ? 1 : 0),
        };

    /// <summary>Takes a seat from its holder. Taking is never refused: access must be able to end.</summary>
    public SeatAccount Take() => this with { Held = Held - 1 };

    /// <summary>
    /// Gives a seat back to whom it was taken from, as if it had not been: no change of the year. Refuses with
    /// <c>seat.none-free</c>.
    /// </summary>
    public Outcome<SeatAccount> GiveBack() => Free > 0 ? this with { Held = Held + 1 } : NoneFree;

    /// <summary>Passes a seat from its holder to somebody else, a change; refuses with <c>seat.no-changes</c>.</summary>
    public Outcome<SeatAccount> Pass() =>
        ChangesLeft is 0 ? NoChanges : this with { ChangesUsed = ChangesUsed + 1 };

    /// <summary>Changes how many seats and yearly changes there are; refuses with <c>pool.too-small</c>, <c>pool.out-of-range</c>.</summary>
    public Outcome<SeatAccount> Resize(int total, int? changesPerSeat)
    {
        if (total is < 0 or > Largest || changesPerSeat is < 0 or > 1000)
            return new Refusal(
                "pool.out-of-range",
                $"A pool has 0 to {Largest} seats, and 0 to 1000 changes a year for each.",
                "Correct the number.",
                Field: "total"
            );
        if (total < Held + Reserved)
            return new Refusal(
                "pool.too-small",
                $"{Held} seats are held and {Reserved} reserved; {total} are fewer.",
                "Take seats first, or revoke invitations that reserve some.",
                RefusalSort.Conflict,
                "total"
            );
        // Reservations that counted on a seat nobody had held keep it.
        var everHeld = Math.Min(EverHeld, total - (Reserved - ReservedChanges));
        return this with { Total = total, ChangesPerSeat = changesPerSeat, EverHeld = Math.Max(everHeld, 0) };
    }

    private Refusal? Forbidden() =>
        Free <= 0 ? NoneFree
        : Fresh == 0 && ChangesLeft is 0 ? NoChanges
        : null;

    private Refusal NoneFree =>
        new(
            "seat.none-free",
            $"No seat is free: {Held} of {Total} are held and {Reserved} reserved by pending invitations.",
            "Take a seat from somebody, revoke an invitation that reserves one, or enlarge the pool.",
            RefusalSort.Conflict,
            "seats"
        );

    private Refusal NoChanges =>
        new(
            "seat.no-changes",
            $"The {Allowance} changes of {Year} are used up ({ChangesUsed} made, {ReservedChanges} reserved).",
            "Wait for the new year, or enlarge the pool.",
            RefusalSort.Conflict,
            "seats"
        );
}
