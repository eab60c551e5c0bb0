using System.Text.Json;
using Xunit;

namespace ComeAboard.Cli.Tests;

/// <summary>The demo, started a second time, on the same day and later.</summary>
public sealed class KeptDemo : IDisposable
{
    private readonly string _kept = Directory.CreateTempSubdirectory("come-aboard-kept-").FullName;

    public void Dispose() => Directory.Delete(_kept, true);

    [Fact]
    public async Task A_second_start_shows_the_world_of_the_first_and_its_mails_lead_to_where_it_answers()
    {
        await using var first = new Demo { Kept = _kept };
        await first.InitializeAsync();
        var (people, mails) = (await PeopleAsync(first), await MailsAsync(first));
        await first.AboardAsync(
            "invitations",
            "send",
            "late@harbour.example",
            "--kind",
            "guest",
            "--role",
            "view"
        );
        await first.StopAsync();

        await using var second = new Demo { Kept = _kept };
        await second.InitializeAsync();
        Assert.Equal(people, await PeopleAsync(second));
        var again = await MailsAsync(second);
        Assert.Equal(mails.Replace(first.Url, second.Url, StringComparison.Ordinal), again);
        var link = Programs.LinkPattern().Matches(again).First(found => found.Value.Contains("/i/")).Value;
        Assert.StartsWith(second.Url, link, StringComparison.Ordinal);
        Assert.Contains("Lantern Tide", await second.Http.GetStringAsync(link), StringComparison.Ordinal);
        await LeaveAndComeBackAsync(second, "ama@quayside-weddings.example");
        await second.StopAsync();

        // Two days later it is the same world still.
        Age(Path.Combine(_kept, "come-aboard", "demo"), days: 2);
        await using var third = new Demo { Kept = _kept };
        await third.InitializeAsync();
        Assert.Equal(mails.Replace(first.Url, third.Url, StringComparison.Ordinal), await MailsAsync(third));
    }

    /// <summary>An application outside that starts anew gives an account to somebody, and not one that another has there.</summary>
    private static async Task LeaveAndComeBackAsync(Demo demo, string who)
    {
        Assert.Equal(0, (await demo.AboardAsync("departures", "start", who, "--yes")).Status);
        await UntilAsync(demo, accounts: 15);
        Assert.Equal(0, (await demo.AboardAsync("people", "reinstate", who, "--yes")).Status);
        await UntilAsync(demo, accounts: 16);
        var swept = await demo.AboardAsync("connections", "sweep", "Chart table", "--json");
        Assert.True(swept.Json.GetProperty("otherwiseTotal").GetInt32() == 0, swept.Output);
        Assert.Equal(17, swept.Json.GetProperty("accounts").GetInt32());
    }

    private static async Task UntilAsync(Demo demo, int accounts)
    {
        for (var tries = 0; ; tries++)
        {
            var lane = await demo.AboardAsync("connections", "status", "Chart table", "--json");
            if (
                lane.Json.GetProperty("state").GetString() == "resting"
                && lane.Json.GetProperty("on").GetInt32() == accounts
            )
                return;
            Assert.True(tries < 600, lane.Output);
            await Task.Delay(100);
        }
    }

    /// <summary>Lets the kept world be some days older.</summary>
    private static void Age(string kept, int days)
    {
        var world = Assert.Single(Directory.GetDirectories(kept));
        var name = Path.GetFileName(world);
        var day = DateOnly.ParseExact(name[..10], "yyyy-MM-dd", null).AddDays(-days);
        Directory.Move(world, Path.Combine(kept, $"{day:yyyy-MM-dd}{name[10..]}"));
    }

    private static async Task<string> PeopleAsync(Demo demo)
    {
        var list = await demo.AboardAsync("people", "list", "--csv");
        Assert.Equal(0, list.Status);
        return list.Output;
    }

    /// <summary>What was written to whom, and when it arrived.</summary>
    private static async Task<string> MailsAsync(Demo demo) =>
        string.Join(
            '\n',
            JsonDocument
                .Parse(await demo.Http.GetStringAsync($"{demo.Inbox}/messages"))
                .RootElement.EnumerateArray()
                .Select(mail => Text(mail))
        );

    private static string Text(JsonElement mail) =>
        string.Join(' ', mail.EnumerateObject().Select(field => field.Value.ToString()));
}
