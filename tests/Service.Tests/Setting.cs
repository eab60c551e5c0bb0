using System.Net.Http.Json;
using ComeAboard.Client;
using ComeAboard.Client.SignIn;
using ComeAboard.Service.Tests.World;
using Microsoft.Extensions.Configuration;
using Xunit;

namespace ComeAboard.Service.Tests;

/// <summary>What the operator sets, and what is written down about the interface.</summary>
public sealed class Setting(SqliteHarbour harbour) : IClassFixture<SqliteHarbour>
{
    [Theory]
    [InlineData("Mail:Prot", "25", "Mail:Prot")]
    [InlineData("Mail:Port", "smtp", "Mail:Port")]
    [InlineData("Mail:Port", "70000", "Mail:Port")]
    [InlineData("Mail:Tls", "maybe", "Mail:Tls")]
    [InlineData("Mail:From", "office", "Mail:From")]
    [InlineData("Listen", "7420", "Listen")]
    [InlineData("PublicUrl", "http://aboard.harbour.example", "PublicUrl")]
    [InlineData("Database:Engine", "paper", "Database:Engine")]
    [InlineData("Database:Engine", "postgres", "Database:Connection")]
    public void A_wrong_setting_is_named(string key, string value, string named)
    {
        var source = new ConfigurationBuilder()
            .AddInMemoryCollection(new Dictionary<string, string?> { [key] = value })
            .Build();
        var wrong = Assert.Throws<WrongSettingException>(() => ServiceSettings.Read(source));
        Assert.StartsWith($"Setting {named}: ", wrong.Message, StringComparison.Ordinal);
    }

    [Fact]
    public async Task The_description_in_the_repository_is_the_one_that_is_served()
    {
        using var http = new HttpClient { BaseAddress = Harbour.UrlOf(harbour.Node) };
        var served = await http.GetStringAsync(new Uri("/openapi/v1.json", UriKind.Relative));
        var kept = await File.ReadAllTextAsync(Path.Combine(Root(), "docs", "openapi.json"));
        Assert.Equal(kept.TrimEnd(), served.TrimEnd());
    }

    [Fact]
    public async Task Signing_in_too_often_is_put_off()
    {
        var hasty = ServiceSettings.Read(
            new ConfigurationBuilder()
                .AddInMemoryCollection(
                    new Dictionary<string, string?>
                    {
                        ["Listen"] = "http://127.0.0.1:0",
                        ["Database:Path"] = harbour.Settings.DatabasePath,
                        ["Limits:SignInsPerMinute"] = "6",
                        ["Log"] = "Fatal",
                    }
                )
                .Build()
        );
        await using var node = ServiceHost.Build(hasty, adjust: Harbour.Quickly);
        await node.StartAsync();
        using var http = new HttpClient { BaseAddress = Harbour.UrlOf(node) };
        var codes = new List<string>();
        for (var i = 0; i < 8; i++)
        {
            var answer = await http.PostAsJsonAsync(
                "/api/v1/sessions",
                new SignInRequest("x@y.example", "x")
            );
            codes.Add((await answer.Content.ReadFromJsonAsync<Problem>())!.Code);
        }
        Assert.Equal(6, codes.Count(code => code == "sign-in.wrong"));
        Assert.Equal(2, codes.Count(code => code == "too-many"));
        await node.StopAsync();
    }

    [Fact]
    public async Task Health_and_metrics_answer()
    {
        using var http = new HttpClient { BaseAddress = Harbour.UrlOf(harbour.Node) };
        Assert.Equal("live", await http.GetStringAsync(new Uri("/health/live", UriKind.Relative)));
        Assert.Equal("ready", await http.GetStringAsync(new Uri("/health/ready", UriKind.Relative)));
        Assert.Contains(
            "http_server_request_duration",
            await http.GetStringAsync(new Uri("/metrics", UriKind.Relative)),
            StringComparison.Ordinal
        );
    }

    private static string Root()
    {
        var directory = new DirectoryInfo(AppContext.BaseDirectory);
        while (!File.Exists(Path.Combine(directory!.FullName, "ComeAboard.slnx")))
            directory = directory.Parent;
        return directory.FullName;
    }
}
