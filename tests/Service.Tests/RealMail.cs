using ComeAboard.Client.Invitations;
using ComeAboard.Service.Mail;
using ComeAboard.Service.Tests.World;
using Microsoft.Extensions.DependencyInjection;
using Xunit;

namespace ComeAboard.Service.Tests;

/// <summary>Through a real mail server: sending, coming back, and reading the report over IMAP.</summary>
public sealed class RealMail
{
    [Fact]
    public async Task A_mail_that_a_real_server_sends_back_is_noted_from_the_report_in_its_mailbox()
    {
        Assert.SkipWhen(MailHouse.Missing is not null, MailHouse.Missing ?? "");
        await using var house = await MailHouse.OpenAsync();
        var harbour = new RealHarbour(house);
        await harbour.InitializeAsync();
        try
        {
            var ship = await harbour.NewShipAsync();
            var good = await ship.InviteAsync($"ines@{MailHouse.Domain}");
            var gone = await ship.InviteAsync($"kofi@{MailHouse.Domain}");
            var mailbox = harbour.Node.Services.GetRequiredService<ReportMailbox>();
            await UntilAsync(async () =>
            {
                await mailbox.ReadNewAsync();
                var view = await ship.Client.InvitationAsync(good.Id);
                return (await ship.Client.InvitationAsync(gone.Id)).State == "bounced"
                    && view.Delivery!.State == "delivered";
            });
            var bounced = await ship.Client.InvitationAsync(gone.Id);
            Assert.Equal("The mail came back: the mailbox does not exist.", bounced.Delivery!.Sentence);
            Assert.Equal("sent", (await ship.Client.InvitationAsync(good.Id)).State);
            Assert.Equal(
                "address.bounced",
                await Refusing.CodeOf(ship.InviteAsync($"kofi@{MailHouse.Domain}"))
            );
            var mail = Assert.Single(house.MailsOf("ines"));
            Assert.Contains(
                "List-Unsubscribe-Post: List-Unsubscribe=One-Click",
                mail,
                StringComparison.Ordinal
            );
            // What was read is not taken a second time.
            Assert.Equal(0, await mailbox.ReadNewAsync());
        }
        finally
        {
            await harbour.DisposeAsync();
        }
    }

    private static async Task UntilAsync(Func<Task<bool>> isTrue)
    {
        for (var tries = 0; tries < 150; tries++)
        {
            if (await isTrue())
                return;
            await Task.Delay(200);
        }
        Assert.Fail("It did not come true in 30 seconds.");
    }

    private sealed class RealHarbour(MailHouse house) : Harbour(null)
    {
        protected override void Adjust(Dictionary<string, string?> settings)
        {
            settings["Mail:Port"] = house.SmtpPort.ToString();
            settings["Mail:Bounces"] = $"returns@{MailHouse.Domain}";
            settings["Reports:Host"] = "127.0.0.1";
            settings["Reports:Port"] = house.ImapPort.ToString();
            settings["Reports:Tls"] = "none";
            settings["Reports:User"] = "returns";
            settings["Reports:Password"] = MailHouse.Password;
            settings["Reports:PauseSeconds"] = "86400";
        }
    }
}
