using System.Collections.Concurrent;
using System.Diagnostics;
using System.Net;
using System.Net.Sockets;
using ComeAboard.Client;
using ComeAboard.Client.Invitations;
using ComeAboard.Standins.Mail;
using Xunit;

namespace ComeAboard.Cli.Tests;

/// <summary>A process that is told to stop, killed while it begins, or frozen.</summary>
public sealed class Stopping : RealService
{
    [Fact]
    public async Task Killed_while_it_makes_its_database_it_makes_it_at_the_next_start()
    {
        var unmade = await Programs.RunAsync(Programs.Service, Settings, null, "serve");
        Assert.Equal(2, unmade.Status);
        Assert.Contains("come-aboard init", unmade.Error, StringComparison.Ordinal);
        Assert.Empty(Directory.EnumerateFiles(Place.FullName, "real.db*"));
        for (var kills = 0; kills < 8; kills++)
        {
            using var making = Programs.Start(
                Programs.Service,
                Settings,
                "init",
                "--name",
                "The Lantern Tide"
            );
            await Task.Delay(Random.Shared.Next(300, 1_500));
            making.Kill();
            await making.WaitForExitAsync();
        }
        var init = await Programs.RunAsync(Programs.Service, Settings, null, "init", "--name", "The Gull");
        Assert.Equal((0, ""), (init.Status, init.Status == 0 ? "" : init.Error));
        using var service = await ServeAsync();
        service.Kill();
        await service.WaitForExitAsync();
    }

    [Fact]
    public async Task Told_to_stop_it_finishes_what_it_is_at_and_leaves_nothing_half()
    {
        using var client = await SetUpWorkspaceAsync();
        using var service = await ServeAsync();
        var csv = new System.Text.StringBuilder("Address,Kind,Role\n");
        for (var n = 1; n <= 1_500; n++)
            csv.Append(
                System.Globalization.CultureInfo.InvariantCulture,
                $"sailor{n}@tide.example,guest,view\n"
            );
        var batch = await client.AddBatchAsync(
            new MemoryStream(System.Text.Encoding.UTF8.GetBytes(csv.ToString())),
            "sailors.csv",
            new Client.Invitations.BatchDefaults(),
            true
        );
        var watching = Task.Run(async () =>
        {
            var last = batch;
            await foreach (var view in client.WatchBatchAsync(batch.Id))
                last = view;
            return last;
        });
        var answered = new ConcurrentBag<string>();
        var inviting = Parallel.ForEachAsync(
            Enumerable.Range(0, 500),
            new ParallelOptions { MaxDegreeOfParallelism = 8 },
            async (number, _) =>
            {
                try
                {
                    var address = $"guest{number}@harbour.example";
                    await client.SendInvitationAsync(
                        new InvitationRequest(address, "guest", "view"),
                        address,
                        CancellationToken.None
                    );
                    answered.Add(address);
                }
                catch (RefusedException refused)
                    when (refused.Problem.Code is "server.unreachable" or "server.answer")
                {
                    // Not taken any more.
                }
            }
        );
        await UntilAsync(() => Task.FromResult(answered.Count > 20));
        Process.Start("kill", ["-TERM", service.Id.ToString()]).Dispose();
        await service.WaitForExitAsync().WaitAsync(TimeSpan.FromSeconds(40));
        Assert.Equal(0, service.ExitCode);
        await inviting;
        using var again = await ServeAsync();
        // Who watched the list watches on, to its end.
        Assert.Equal("resting", (await watching).State);
        foreach (var address in answered)
            Assert.Single((await client.InvitationsAsync(search: address)).Items);
        // Nothing was killed, so nothing comes twice.
        await UntilAsync(async () => (await client.InvitationsAsync()).Counts["queued"] == 0);
        var arrived = Smtp.Inbox.To();
        Assert.Empty(
            arrived
                .GroupBy(mail => mail.Message.MessageId)
                .Where(same => same.Count() > 1)
                .Select(same => $"{same.First().Message.Subject} to {same.First().Message.To}")
        );
        Process.Start("kill", ["-TERM", again.Id.ToString()]).Dispose();
        await again.WaitForExitAsync();
        Assert.Equal(0, again.ExitCode);
    }

    [Fact]
    public async Task A_process_that_was_frozen_sends_nothing_that_another_has_taken_over()
    {
        using var client = await SetUpWorkspaceAsync();
        using var frozen = await ServeAsync();
        // Its mails are on their way, the server takes its time over each, and there it stops.
        var (asked, usual) = (new TaskCompletionSource(), Smtp.Verdict);
        var go = new TaskCompletionSource();
        Smtp.Verdict = _ =>
        {
            asked.TrySetResult();
            go.Task.Wait();
            return null;
        };
        for (var n = 0; n < 12; n++)
            await client.SendInvitationAsync(
                new InvitationRequest($"guest{n}@harbour.example", "guest", "view"),
                "k" + n
            );
        await asked.Task.WaitAsync(TimeSpan.FromSeconds(20));
        Signal(frozen, "STOP");
        // Another takes over what it had, once its lease is over, and sends it.
        var beside = new Dictionary<string, string>(Settings);
        using (var probe = new TcpListener(IPAddress.Loopback, 0))
        {
            probe.Start();
            beside["COMEABOARD_LISTEN"] = $"http://127.0.0.1:{((IPEndPoint)probe.LocalEndpoint).Port}";
        }
        using var other = Programs.Start(Programs.Service, beside, "serve");
        go.SetResult();
        Smtp.Verdict = usual;
        await UntilAsync(() => Task.FromResult(Arrived() == 12));
        Signal(frozen, "CONT");
        await UntilAsync(async () => (await client.OverviewAsync()).WaitingMail == 0);
        Assert.Equal((12, 12), (Guests().Count(), Arrived()));
        foreach (var service in (Process[])[frozen, other])
        {
            Signal(service, "TERM");
            await service.WaitForExitAsync();
        }

        IEnumerable<string> Guests() =>
            Smtp
                .Inbox.To()
                .Where(mail => mail.Recipients[0].StartsWith("guest", StringComparison.Ordinal))
                .Select(mail => mail.Message.MessageId!);

        int Arrived() => Guests().Distinct().Count();

        static void Signal(Process to, string signal)
        {
            using var kill = Process.Start("kill", ["-" + signal, to.Id.ToString()]);
            kill.WaitForExit();
        }
    }
}
