using ComeAboard.Core.Workspaces;
using CsCheck;
using Xunit;

namespace ComeAboard.Core.Tests.Workspaces;

public sealed class StaysAndDays
{
    private static readonly string[] Zones =
    [
        "Etc/UTC",
        "Europe/Lisbon",
        "America/Santiago",
        "Asia/Beirut",
        "Pacific/Kiritimati",
        "Pacific/Pago_Pago",
    ];

    [Fact]
    public void The_last_day_is_included_to_its_last_instant_in_every_zone() =>
        Gen.Select(Gen.Int[0, Zones.Length - 1].Select(i => Zones[i]), Gen.Int[0, 3000])
            .Sample(
                (name, offset) =>
                {
                    var zone = TimeZoneInfo.FindSystemTimeZoneById(name);
                    var day = new DateOnly(2024, 1, 1).AddDays(offset);
                    var stay = new Stay(day);
                    var over = stay.Over(zone)!.Value;
                    Assert.True(stay.IsOver(over, zone));
                    Assert.False(stay.IsOver(over.AddMilliseconds(-1), zone));
                    Assert.Equal(day, Days.Of(over.AddMilliseconds(-1), zone));
                    Assert.Equal(day.AddDays(1), Days.Of(over, zone));
                }
            );

    [Fact]
    public void A_stay_without_an_end_is_never_over() =>
        Assert.False(Stay.Endless.IsOver(DateTimeOffset.MaxValue, TimeZoneInfo.Utc));

    [Theory]
    [InlineData("", null, null, "workspace.name")]
    [InlineData("Lantern Tide", "No Good", null, "workspace.short-name")]
    [InlineData("Lantern Tide", null, "Atlantis/Deep", "workspace.time-zone")]
    public void A_workspace_that_cannot_be_says_why(
        string name,
        string? shortName,
        string? zone,
        string code
    ) => Assert.Equal(code, WorkspaceSettings.Read(name, shortName, zone, null).Refusal!.Code);

    [Fact]
    public void A_short_name_is_made_from_the_name() =>
        Assert.Equal(
            "the-lantern-tide",
            WorkspaceSettings.Read("The Lantern Tide!", null, null, null).Value.ShortName
        );
}
