using ComeAboard.Service.Mail;
using ComeAboard.Standins.Mail;
using Microsoft.Extensions.Configuration;
using Xunit;

namespace ComeAboard.Service.Tests;

/// <summary>A mail server that says nothing any more where no mail depends on it: it is left, and reached anew.</summary>
public sealed class FallingSilent
{
    // The library by itself would wait two minutes.
    private static readonly TimeSpan Long = TimeSpan.FromSeconds(60);

    [Theory]
    [InlineData("NOOP")]
    [InlineData("QUIT")]
    [InlineData("NOOP", "QUIT")]
    public async Task It_holds_nobody_up_between_two_mails(params string[] silentAt)
    {
        await using var server = new SmtpStandin(new Inbox());
        using var sender = new SmtpSender(
            ServiceSettings
                .Read(
                    new ConfigurationBuilder()
                        .AddInMemoryCollection([
                            new("Mail:Port", server.Port.ToString()),
                            new("Mail:Tls", "none"),
                        ])
                        .Build()
                )
                .Mail
        );
        var greeted = 0;
        server.FallsSilentAt = verb =>
        {
            greeted += verb == "EHLO" ? 1 : 0;
            return silentAt.Contains(verb);
        };
        Assert.Null(await sender.ReachAsync());
        if (silentAt.Contains("NOOP"))
            await Task.Delay(TimeSpan.FromSeconds(1.5)); // An idle connection is looked at before it is used.
        else
            await sender.LetGoAsync().WaitAsync(Long);
        Assert.Null(await sender.ReachAsync().WaitAsync(Long));
        Assert.Equal(2, greeted);
        await sender.LetGoAsync().WaitAsync(Long);
    }
}
