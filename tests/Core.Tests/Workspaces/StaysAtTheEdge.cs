using ComeAboard.Core.Workspaces;
using Xunit;

namespace ComeAboard.Core.Tests.Workspaces;

/// <summary>Stays to the day and to the instant.</summary>
public sealed class StaysAtTheEdge
{
    private static readonly DateOnly Day = Ship.Today;

    [Theory]
    [InlineData(null, null, true)]
    [InlineData(0, 0, true)]
    [InlineData(0, null, true)]
    [InlineData(1, null, false)]
    [InlineData(null, -1, false)]
    [InlineData(null, 0, true)]
    [InlineData(-2, -1, false)]
    public void Both_days_belong_to_a_stay(int? first, int? last, bool within)
    {
        var stay = new Stay(last is { } l ? Day.AddDays(l) : null, first is { } f ? Day.AddDays(f) : null);
        Assert.Equal(within, stay.Contains(Day));
        Assert.Equal(last is null, stay.IsEndless);
    }

    [Fact]
    public void A_stay_begins_with_the_first_instant_of_its_day_where_the_workspace_is()
    {
        var zone = TimeZoneInfo.FindSystemTimeZoneById("America/Los_Angeles");
        var stay = new Stay(Day, Day);
        var begin = new DateTimeOffset(2026, 11, 23, 8, 0, 0, TimeSpan.Zero);
        Assert.Equal(begin, stay.Begin(zone));
        Assert.True(stay.IsBegun(begin, zone));
        Assert.False(stay.IsBegun(begin.AddTicks(-1), zone));
        Assert.Equal(begin.AddDays(1), stay.Over(zone));
        Assert.True(Stay.Endless.IsBegun(DateTimeOffset.MinValue, zone));
        Assert.Null(Stay.Endless.Begin(zone));
        Assert.Null(Stay.Endless.Over(zone));
        // Where midnight happens twice a day begins with the first, where it does not happen, after the gap.
        var havana = TimeZoneInfo.FindSystemTimeZoneById("America/Havana");
        Assert.Equal(TimeSpan.FromHours(25), Length(new DateOnly(2026, 11, 1), havana));
        var beirut = TimeZoneInfo.FindSystemTimeZoneById("Asia/Beirut");
        Assert.Equal(TimeSpan.FromHours(23), Length(new DateOnly(2026, 3, 29), beirut));
        Assert.Equal(TimeSpan.Zero, Days.Begin(Day, zone).Offset);

        static TimeSpan Length(DateOnly day, TimeZoneInfo zone) =>
            Days.Begin(day.AddDays(1), zone) - Days.Begin(day, zone);
    }

    [Fact]
    public void What_only_makes_sense_before_a_stay_is_over_is_refused_after_it()
    {
        var stay = new Stay(Day);
        var over = stay.Over(TimeZoneInfo.Utc)!.Value;
        Assert.Null(stay.ForbidsPast(over.AddTicks(-1), TimeZoneInfo.Utc, "Do."));
        var no = stay.ForbidsPast(over, TimeZoneInfo.Utc, "Do.")!;
        Assert.Equal(("stay.past", "Do.", RefusalSort.Conflict), (no.Code, no.Remedy, no.Sort));
        Assert.Contains("2026-11-23", no.Sentence, StringComparison.Ordinal);
        Assert.Null(Stay.Endless.ForbidsPast(over, TimeZoneInfo.Utc, "Do."));
    }

    [Fact]
    public void A_last_day_is_today_or_later_and_within_fifty_years()
    {
        Assert.Equal(new Stay(Day), Stay.Until(Day, Day).Value);
        Assert.Equal(Stay.Endless, Stay.Until(null, Day).Value);
        Says("stay.past", "until", null, Day.AddDays(-1));
        Assert.True(Stay.Until(Day.AddYears(50), Day).Succeeded);
        Says("stay.too-far", "until", null, Day.AddYears(50).AddDays(1));
        Says("stay.too-far", "from", Day.AddYears(5).AddDays(1), null);
        Says("stay.reversed", "from", Day.AddDays(4), Day.AddDays(3));
        Assert.Equal(new Stay(null, Day.AddYears(5)), Stay.Between(Day.AddYears(5), null, Day).Value);
        Assert.Equal(
            new Stay(Day.AddDays(4), Day.AddDays(4)),
            Stay.Between(Day.AddDays(4), Day.AddDays(4), Day).Value
        );
        // A first day that is today or over is at once.
        Assert.Equal(new Stay(Day.AddDays(4)), Stay.Between(Day, Day.AddDays(4), Day).Value);
        Assert.Equal(new Stay(Day.AddDays(4)), Stay.Between(Day.AddDays(-9), Day.AddDays(4), Day).Value);
        Assert.Equal(Day.AddDays(1), Stay.Between(Day.AddDays(1), null, Day).Value.FirstDay);

        static void Says(string code, string field, DateOnly? first, DateOnly? last)
        {
            var no = Stay.Between(first, last, Day).Refusal!;
            Assert.Equal((code, field, RefusalSort.Invalid), (no.Code, no.Field, no.Sort));
        }
    }
}
