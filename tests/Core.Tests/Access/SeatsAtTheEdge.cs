using ComeAboard.Core.Access;
using Xunit;

namespace ComeAboard.Core.Tests.Access;

/// <summary>Seat pools at their edges, and what the refusals say.</summary>
public sealed class SeatsAtTheEdge
{
    [Fact]
    public void The_last_seat_is_given_and_none_after_it()
    {
        var account = new SeatAccount(2, Held: 1, EverHeld: 1);
        var full = account.Give().Value;
        Assert.Equal((2, 2, 0, 0), (full.Held, full.EverHeld, full.Free, full.ChangesUsed));
        var no = full.Give().Refusal!;
        Assert.Equal(("seat.none-free", "seats", RefusalSort.Conflict), (no.Code, no.Field, no.Sort));
        Assert.Equal("seat.none-free", full.Reserve(out _).Refusal!.Code);
        // A reservation takes a seat as a holder does.
        Assert.Equal("seat.none-free", account.Reserve(out var change).Value.Give().Refusal!.Code);
        Assert.False(change);
    }

    [Fact]
    public void A_seat_somebody_has_held_costs_a_change()
    {
        var used = new SeatAccount(2, Held: 1, EverHeld: 2, ChangesPerSeat: 1, Year: 2026);
        Assert.Equal((2, 0, 2L, 2L), (used.Total, used.Fresh, used.Allowance, used.ChangesLeft));
        var given = used.Give().Value;
        Assert.Equal((2, 1, 2, 1L), (given.Held, given.ChangesUsed, given.EverHeld, given.ChangesLeft));
        var reserved = used.Reserve(out var isChange).Value;
        Assert.True(isChange);
        Assert.Equal((1, 1, 1L), (reserved.Reserved, reserved.ReservedChanges, reserved.ChangesLeft));
        Assert.Equal(used, reserved.Lapse(isChange));
        var settled = reserved.Settle(isChange);
        Assert.Equal(
            (2, 0, 0, 1),
            (settled.Held, settled.Reserved, settled.ReservedChanges, settled.ChangesUsed)
        );
        Assert.Equal(2, settled.EverHeld);
        var fresh = new SeatAccount(1).Reserve(out var none).Value.Settle(none);
        Assert.Equal((1, 1, 0), (fresh.Held, fresh.EverHeld, fresh.ChangesUsed));
    }

    [Fact]
    public void Without_a_change_left_nothing_passes_on_until_the_new_year()
    {
        var spent = new SeatAccount(1, Held: 0, EverHeld: 1, ChangesPerSeat: 2, Year: 2026, ChangesUsed: 2);
        Assert.Equal(0L, spent.ChangesLeft);
        var no = spent.Give().Refusal!;
        Assert.Equal(("seat.no-changes", "seats", RefusalSort.Conflict), (no.Code, no.Field, no.Sort));
        Assert.Equal("seat.no-changes", spent.Reserve(out _).Refusal!.Code);
        Assert.Equal("seat.no-changes", (spent with { Held = 1 }).Pass().Refusal!.Code);
        var year = spent.In(2027);
        Assert.Equal((2027, 0), (year.Year, year.ChangesUsed));
        Assert.Same(spent, spent.In(2026));
        Assert.True(year.Give().Succeeded);
        var last = spent with { Held = 1, ChangesUsed = 1 };
        Assert.Equal(2, last.Pass().Value.ChangesUsed);
        // Where changes are not counted, none is ever lacking.
        var free = spent with
        {
            ChangesPerSeat = null,
        };
        Assert.Null(free.Allowance);
        Assert.Null(free.ChangesLeft);
        Assert.Equal(3, free.Give().Value.ChangesUsed);
        // More were used than a smaller allowance has: none is left, not fewer.
        Assert.Equal(0L, (spent with { ChangesUsed = 9 }).ChangesLeft);
        // A fresh seat is given though no change is left.
        Assert.True((spent with { Total = 2, Held = 1, ChangesUsed = 4 }).Give().Succeeded);
    }

    [Theory]
    [InlineData(0, 0, null)]
    [InlineData(SeatAccount.Largest, 1000, null)]
    [InlineData(-1, null, "pool.out-of-range")]
    [InlineData(SeatAccount.Largest + 1, null, "pool.out-of-range")]
    [InlineData(1, -1, "pool.out-of-range")]
    [InlineData(1, 1001, "pool.out-of-range")]
    public void A_pool_has_its_limits(int total, int? changes, string? code)
    {
        var read = new SeatAccount(0).Resize(total, changes);
        Assert.Equal(code, read.Refusal?.Code);
        if (code is null)
            Assert.Equal((total, changes), (read.Value.Total, read.Value.ChangesPerSeat));
        else
            Assert.Equal("total", read.Refusal!.Field);
    }

    [Fact]
    public void A_pool_shrinks_to_what_is_held_and_reserved()
    {
        var account = new SeatAccount(5, Held: 2, Reserved: 1, EverHeld: 4);
        var no = account.Resize(2, null).Refusal!;
        Assert.Equal(("pool.too-small", "total", RefusalSort.Conflict), (no.Code, no.Field, no.Sort));
        var small = account.Resize(3, 4).Value;
        // The reservation counted on a seat nobody had held, and keeps it.
        Assert.Equal((3, 2, 4), (small.Total, small.EverHeld, small.ChangesPerSeat));
        Assert.Equal(4, account.Resize(6, null).Value.EverHeld);
        Assert.Equal(3, (account with { ReservedChanges = 1 }).Resize(3, null).Value.EverHeld);
    }
}
