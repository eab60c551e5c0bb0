using ComeAboard.Service.Demo;
using ComeAboard.Standins.Mail;
using ComeAboard.Storage;
using MimeKit;
using Xunit;

namespace ComeAboard.Service.Tests;

/// <summary>The demo's world, kept for some days.</summary>
public sealed class KeptWorlds : IDisposable
{
    private const string Token = "the administrator's token";
    private static readonly Uri Url = new("http://127.0.0.1:7420");
    private static readonly DateTimeOffset Made = new(2026, 9, 1, 9, 0, 0, TimeSpan.Zero);

    private readonly DirectoryInfo _directory = Directory.CreateTempSubdirectory("aboard-test-");

    private string Place => Path.Combine(_directory.FullName, "kept");

    public void Dispose() => _directory.Delete(true);

    [Theory]
    [InlineData(0, Token)]
    [InlineData(2, Token)]
    [InlineData(3, null)]
    [InlineData(-1, null)]
    public async Task It_is_taken_for_three_days_and_not_by_a_day_before_it(int days, string? token)
    {
        await KeepAsync(Made);
        var inbox = new Inbox();
        Assert.Equal(token, await TakeAsync(Made.AddDays(days), inbox));
        Assert.Equal(token is null ? 0 : 1, inbox.To().Count);
    }

    [Fact]
    public async Task Whoever_keeps_one_forgets_those_that_nobody_takes_any_more()
    {
        await KeepAsync(Made);
        await KeepAsync(Made.AddDays(1));
        var half = Directory.CreateDirectory(Path.Combine(Place, "left half-way"));
        await KeepAsync(Made.AddDays(3));
        Assert.Equal(
            ["2026-09-02", "2026-09-04"],
            Directory.GetDirectories(Place).Select(world => Path.GetFileName(world)[..10]).Order()
        );
        Assert.False(Directory.Exists(half.FullName));
    }

    [Fact]
    public async Task One_that_cannot_be_read_is_forgotten_and_the_one_before_it_is_taken()
    {
        await KeepAsync(Made);
        await KeepAsync(Made.AddDays(1));
        var newest = Directory.GetDirectories(Place).Order().Last();
        await File.WriteAllTextAsync(Path.Combine(newest, "rest.json"), "{");
        Assert.Equal(Token, await TakeAsync(Made.AddDays(1), new Inbox()));
        Assert.False(Directory.Exists(newest));
    }

    private KeptWorld WorldOf(DateTimeOffset now) => new(Place, Url, now, TimeZoneInfo.Utc);

    private Task<string?> TakeAsync(DateTimeOffset now, Inbox inbox) =>
        WorldOf(now).TakeAsync(Path.Combine(_directory.FullName, "taken.db"), inbox);

    private async Task KeepAsync(DateTimeOffset now)
    {
        var path = Path.Combine(_directory.FullName, $"made-{now:yyyy-MM-dd}.db");
        var database = Database.Sqlite(path);
        await database.MigrateAsync();
        var inbox = new Inbox();
        var mail = new MimeMessage
        {
            Subject = "Come aboard",
            Body = new TextPart { Text = $"{Url}i/one" },
        };
        inbox.Add(["ama@harbour.example"], mail, now);
        await WorldOf(now).KeepAsync(database, inbox, Token);
    }
}
