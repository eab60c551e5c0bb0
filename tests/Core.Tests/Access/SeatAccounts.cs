using ComeAboard.Core.Access;
using CsCheck;
using Xunit;

namespace ComeAboard.Core.Tests.Access;

public sealed class SeatAccounts
{
    private enum Step
    {
        Give,
        Take,
        Reserve,
        Lapse,
        Settle,
        Pass,
        Enlarge,
        Shrink,
        NewYear,
    }

    [Fact]
    public void Whatever_happens_no_seat_is_used_twice_and_the_year_adds_up() =>
        Gen.Select(
                Gen.Int[0, 5],
                Gen.OneOf(Gen.Const((int?)null), Gen.Int[0, 2].Select(n => (int?)n)),
                Gen.Enum<Step>().Array[0, 60]
            )
            .Sample(
                (total, changes, steps) =>
                {
                    var account = new SeatAccount(total, ChangesPerSeat: changes, Year: 2026);
                    // The plain truth beside it: who holds a seat, what is reserved, what was changed this year.
                    var (holders, everHeld, used) = (0, 0, 0);
                    var reservations = new List<bool>();
                    foreach (var step in steps)
                    {
                        var before = account;
                        switch (step)
                        {
                            case Step.Give when account.Give().Try(out var given, out _):
                                account = given;
                                holders++;
                                if (given.ChangesUsed > before.ChangesUsed)
                                    used++;
                                else
                                    everHeld++;
                                break;
                            case Step.Reserve
                                when account.Reserve(out var isChange).Try(out var reserved, out _):
                                account = reserved;
                                reservations.Add(isChange);
                                break;
                            case Step.Take when holders > 0:
                                account = account.Take();
                                holders--;
                                break;
                            case Step.Lapse when reservations.Count > 0:
                                account = account.Lapse(reservations[^1]);
                                reservations.RemoveAt(reservations.Count - 1);
                                break;
                            case Step.Settle when reservations.Count > 0:
                                account = account.Settle(reservations[0]);
                                if (reservations[0])
                                    used++;
                                else
                                    everHeld++;
                                reservations.RemoveAt(0);
                                holders++;
                                break;
                            case Step.Pass when holders > 0 && account.Pass().Try(out var passed, out _):
                                account = passed;
                                used++;
                                break;
                            case Step.Enlarge:
                                account = account.Resize(account.Total + 1, changes).Value;
                                break;
                            case Step.Shrink when account.Total > 0:
                                if (
                                    account
                                        .Resize(account.Total - 1, changes)
                                        .Try(out var smaller, out var no)
                                )
                                    (account, everHeld) = (smaller, smaller.EverHeld);
                                else
                                    Assert.Equal("pool.too-small", no.Code);
                                break;
                            case Step.NewYear:
                                account = account.In(account.Year + 1);
                                used = 0;
                                break;
                        }
                        Assert.Equal((holders, reservations.Count), (account.Held, account.Reserved));
                        Assert.Equal(
                            (used, reservations.Count(r => r)),
                            (account.ChangesUsed, account.ReservedChanges)
                        );
                        Assert.Equal(everHeld, account.EverHeld);
                        Assert.True(account.Free >= 0 && account.Held >= 0 && account.Reserved >= 0);
                        Assert.Equal(account.Total, account.Held + account.Reserved + account.Free);
                        Assert.True(account.EverHeld <= account.Total);
                        if (account.Allowance is not { } allowance)
                            continue;
                        // Seats taken away since may have lowered the allowance below what was used; none is used beyond.
                        if (
                            account.ChangesUsed > before.ChangesUsed
                            && step is Step.Give or Step.Pass
                            && account != before
                        )
                            Assert.True(account.ChangesUsed + account.ReservedChanges <= allowance);
                        Assert.Equal(
                            Math.Max(0, allowance - account.ChangesUsed - account.ReservedChanges),
                            account.ChangesLeft
                        );
                    }
                }
            );

    [Fact]
    public void A_seat_nobody_held_costs_no_change_and_one_somebody_held_does()
    {
        var account = new SeatAccount(2, ChangesPerSeat: 1, Year: 2026).Give().Value.Give().Value;
        Assert.Equal((0, 2L), (account.ChangesUsed, account.ChangesLeft));
        account = account.Take().Give().Value;
        Assert.Equal((1, 1L), (account.ChangesUsed, account.ChangesLeft));
        account = account.Pass().Value;
        Assert.Equal("seat.no-changes", account.Pass().Refusal!.Code);
        Assert.Equal("seat.no-changes", account.Take().Give().Refusal!.Code);
        Assert.Equal("seat.none-free", account.Give().Refusal!.Code);
        Assert.True(account.In(2027).Take().Give().Succeeded);
    }
}
