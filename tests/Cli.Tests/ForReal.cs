using System.Collections.Concurrent;
using System.Net;
using ComeAboard.Client;
using ComeAboard.Client.Invitations;
using ComeAboard.Client.SignIn;
using ComeAboard.Standins.Mail;
using Xunit;

namespace ComeAboard.Cli.Tests;

/// <summary>Setting up without the demo, and what a process has to survive.</summary>
public sealed class ForReal : RealService
{
    [Theory]
    [InlineData("COMEABOARD_MAIL__PORT", "smtp", "Setting Mail:Port:")]
    [InlineData("COMEABOARD_MIAL__PORT", "25", "Setting MIAL:PORT: is not known")]
    [InlineData("COMEABOARD_DATABASE__PATH", "/nowhere/at/all.db", "Setting Database:")]
    [InlineData("COMEABOARD_LOG", "loud", "Setting Log:")]
    public async Task A_wrong_setting_is_named_and_the_process_exits(
        string name,
        string value,
        string message
    )
    {
        var wrong = new Dictionary<string, string>(Settings) { [name] = value };
        var run = await Programs.RunAsync(Programs.Service, wrong, null, "serve");
        Assert.NotEqual(0, run.Status);
        Assert.StartsWith(message, run.Error, StringComparison.Ordinal);
    }

    [Fact]
    public async Task The_set_up_link_makes_one_administrator_once()
    {
        var init = await Programs.RunAsync(
            Programs.Service,
            Settings,
            null,
            "init",
            "--name",
            "The Lantern Tide",
            "--time-zone",
            "Europe/Lisbon"
        );
        Assert.Equal(0, init.Status);
        var secret = Programs.LinkPattern().Match(init.Output).Value[^43..];
        Assert.Equal(
            5,
            (
                await Programs.RunAsync(
                    Programs.Service,
                    Settings,
                    null,
                    "init",
                    "--name",
                    "The Lantern Tide"
                )
            ).Status
        );

        using var service = await ServeAsync();
        using var browser = new HttpClient(
            new HttpClientHandler { CookieContainer = new CookieContainer(), AllowAutoRedirect = false }
        )
        {
            BaseAddress = Url,
        };
        var outcomes = await Task.WhenAll(
            SetUpAsync(browser, secret, "mira"),
            SetUpAsync(browser, secret, "kofi")
        );
        Assert.Single(outcomes, HttpStatusCode.Redirect);
        using var anonymous = new AboardClient(Url);
        var winner = outcomes[0] == HttpStatusCode.Redirect ? "mira" : "kofi";
        var token = await anonymous.SignInAsync(
            new ProgramSignInRequest($"{winner}@lantern-tide.example", Password, "the-lantern-tide")
        );
        Assert.Equal("the-lantern-tide", token.Workspace);
        // The file is its owner's alone, with all that stands beside it.
        foreach (var file in Directory.EnumerateFiles(Place.FullName, "real.db*"))
            Assert.Equal(UnixFileMode.UserRead | UnixFileMode.UserWrite, File.GetUnixFileMode(file));
        // An administrator who has lost password and mailbox is let in again by the operator, once.
        var recover = await Programs.RunAsync(
            Programs.Service,
            Settings,
            null,
            "recover",
            $"{winner}@lantern-tide.example"
        );
        Assert.Equal(0, recover.Status);
        Assert.Matches("/new-password/[A-Za-z0-9_-]{43}", recover.Output);
        var nobody = await Programs.RunAsync(Programs.Service, Settings, null, "recover", "x@y.example");
        Assert.NotEqual(0, nobody.Status);
        service.Kill();
        await service.WaitForExitAsync();
    }

    [Fact]
    public async Task Killed_at_any_moment_it_loses_no_invitation_and_sends_none_more_than_once_again()
    {
        const int invitations = 200;
        const int kills = 5;
        var client = await SetUpWorkspaceAsync();
        var answered = new ConcurrentDictionary<string, Guid>();
        var service = await ServeAsync();
        var work = Parallel.ForEachAsync(
            Enumerable.Range(0, invitations),
            new ParallelOptions { MaxDegreeOfParallelism = 8 },
            async (number, _) =>
            {
                var address = $"guest{number}@harbour.example";
                await Task.Delay(Random.Shared.Next(80), CancellationToken.None);
                // However long the service is away in all: it is asked again until it has answered.
                for (var tries = 0; tries < 6_000 && !answered.ContainsKey(address); tries++)
                {
                    try
                    {
                        var view = await client.SendInvitationAsync(
                            new InvitationRequest(address, "guest", "view"),
                            address,
                            CancellationToken.None
                        );
                        answered[address] = view.Id;
                    }
                    catch (RefusedException refused)
                        when (refused.Problem.Code
                                is "server.unreachable"
                                    or "server.answer"
                                    or "service.fault"
                        )
                    {
                        await Task.Delay(50, CancellationToken.None);
                    }
                }
            }
        );
        for (var kill = 0; kill < kills; kill++)
        {
            await Task.Delay(Random.Shared.Next(150, 900));
            service.Kill();
            await service.WaitForExitAsync();
            service.Dispose();
            service = await ServeAsync();
        }
        await work;
        Assert.Equal(invitations, answered.Count);

        await UntilAsync(async () => (await client.InvitationsAsync()).Counts["sent"] == invitations);
        var copies = answered.Keys.Select(address => Smtp.Inbox.To(address)).ToList();
        Assert.All(copies, mails => Assert.InRange(mails.Count, 1, 1 + kills));
        // A mail that came twice was in flight at a kill: the same Message-ID, and never more than a lease of them each time.
        Assert.All(copies, mails => Assert.Single(mails.Select(m => m.Message.MessageId).Distinct()));
        Assert.InRange(copies.Sum(mails => mails.Count - 1), 0, 20 * kills);
        Assert.True((await client.VerifyRecordAsync()).Whole);
        service.Kill();
        await service.WaitForExitAsync();
        client.Dispose();
    }

    [Fact]
    public async Task A_list_whose_run_is_killed_at_any_moment_ends_as_if_nothing_had_been()
    {
        using var client = await SetUpWorkspaceAsync();
        const int entries = 12_000;
        var csv = new System.Text.StringBuilder("Address,Kind,Role\n");
        for (var n = 1; n <= entries; n++)
            csv.Append(
                n % 100 == 0 ? "nonsense,guest,view\n" : $"sailor{n % 11_000}@tide.example,guest,view\n"
            );
        var file = System.Text.Encoding.UTF8.GetBytes(csv.ToString());
        var service = await ServeAsync();
        var batch = await client.AddBatchAsync(
            new MemoryStream(file),
            "sailors.csv",
            new Client.Invitations.BatchDefaults(),
            true
        );
        for (var kills = 0; kills < 4; kills++)
        {
            await Task.Delay(Random.Shared.Next(50, 700));
            service.Kill();
            await service.WaitForExitAsync();
            service.Dispose();
            // The lease of a killed process ends by itself; here nobody wants to wait for that.
            await LetLeaseEndAsync();
            service = await ServeAsync();
        }
        await foreach (var view in client.WatchBatchAsync(batch.Id))
            batch = view;
        var wrong = entries / 100;
        var repeated = Enumerable
            .Range(1, entries)
            .Where(n => n % 100 != 0)
            .GroupBy(n => n % 11_000)
            .Sum(g => g.Count() - 1);
        Assert.Equal(
            (entries, wrong, repeated, entries - wrong - repeated),
            (batch.Entries, batch.Counts["wrong"], batch.Counts["repeated"], batch.Counts["sent"])
        );
        Assert.Equal(batch.Counts["sent"], (await client.InvitationsAsync()).Counts.Values.Sum());
        Assert.True((await client.VerifyRecordAsync()).Whole);
        // Of the mails that were sent meanwhile, a kill repeats no more than were under way, and none again and again.
        var copies = Smtp.Inbox.To().GroupBy(mail => mail.Message.MessageId).ToList();
        Assert.InRange(copies.Sum(mails => mails.Count() - 1), 0, 32 * 4);
        Assert.InRange(copies.Max(mails => mails.Count()), 1, 3);
        service.Kill();
        await service.WaitForExitAsync();
        service.Dispose();

        async Task LetLeaseEndAsync()
        {
            await using var connection = new Microsoft.Data.Sqlite.SqliteConnection(
                $"Data Source={Settings["COMEABOARD_DATABASE__PATH"]};Pooling=False"
            );
            await connection.OpenAsync();
            await using var command = connection.CreateCommand();
            command.CommandText = "UPDATE batches SET leased_until = 0 WHERE leased_until IS NOT NULL";
            await command.ExecuteNonQueryAsync();
        }
    }

    [Fact]
    public async Task A_full_disk_gives_a_clear_answer_and_keeps_what_was_there()
    {
        var client = await SetUpWorkspaceAsync();
        // Files may grow to 1,400 blocks of 1,024 bytes and no further.
        var limited = $"trap '' XFSZ; ulimit -f 1400; exec {Programs.Service} serve";
        // The runtime's own double mapping of code needs a larger file than that.
        var settings = new Dictionary<string, string>(Settings) { ["DOTNET_EnableWriteXorExecute"] = "0" };
        using var service = Programs.Start("/bin/bash", settings, "-c", limited);
        await UntilReadyAsync(service);
        var sent = 0;
        Problem? problem = null;
        for (; sent < 3000 && problem is null; sent++)
        {
            try
            {
                await client.SendInvitationAsync(
                    new InvitationRequest(
                        $"g{sent}@harbour.example",
                        "guest",
                        "view",
                        Message: new string('m', 1500)
                    ),
                    "k" + sent
                );
            }
            catch (RefusedException refused)
            {
                problem = refused.Problem;
            }
        }
        Assert.StartsWith("storage.", problem!.Code, StringComparison.Ordinal);
        Assert.Contains("Nothing was written", problem.Title, StringComparison.Ordinal);
        service.Kill();
        await service.WaitForExitAsync();
        using var again = await ServeAsync();
        Assert.Equal(sent - 1, (await client.InvitationsAsync()).Counts.Values.Sum());
        Assert.True((await client.VerifyRecordAsync()).Whole);
        again.Kill();
        await again.WaitForExitAsync();
        client.Dispose();
    }
}
