using System.Text.Json;
using Xunit;

namespace ComeAboard.Cli.Tests;

/// <summary>The demo, started a second time on one day.</summary>
public sealed class KeptDemo
{
    [Fact]
    public async Task A_second_start_shows_the_world_of_the_first_and_its_mails_lead_to_where_it_answers()
    {
        await using var first = new Demo();
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

        await using var second = new Demo();
        await second.InitializeAsync();
        Assert.Equal(people, await PeopleAsync(second));
        var again = await MailsAsync(second);
        Assert.Equal(mails.Replace(first.Url, second.Url, StringComparison.Ordinal), again);
        var link = Programs.LinkPattern().Matches(again).First(found => found.Value.Contains("/i/")).Value;
        Assert.StartsWith(second.Url, link, StringComparison.Ordinal);
        Assert.Contains("Lantern Tide", await second.Http.GetStringAsync(link), StringComparison.Ordinal);
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
