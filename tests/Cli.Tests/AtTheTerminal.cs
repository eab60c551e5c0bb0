using Xunit;

namespace ComeAboard.Cli.Tests;

/// <summary>The main flow and its refusals through <c>aboard</c>, on the demo world.</summary>
public sealed class AtTheTerminal(Demo demo) : IClassFixture<Demo>
{
    private const string Password = "tide tables and tea";

    [Fact]
    public async Task The_whole_voyage()
    {
        const string address = "pilot@harbour.example";
        string[] send =
        [
            "invitations",
            "send",
            address,
            "--kind",
            "guest",
            "--name",
            "Pia Lotse",
            "--until",
            "2030-01-31",
            "--message",
            "Bring charts.",
        ];
        var rehearsal = await demo.AboardAsync([.. send, "--dry-run"]);
        Assert.Equal(0, rehearsal.Status);
        Assert.Contains("> Bring charts.", rehearsal.Output, StringComparison.Ordinal);
        Assert.Empty((await demo.AboardAsync("invitations", "list", "--search", address, "--json")).Output);

        var sent = await demo.AboardAsync([.. send, "--json"]);
        Assert.Equal((0, "2030-01-31"), (sent.Status, sent.Json.GetProperty("until").GetString()));
        var link = await Programs.LinkAsync(demo.Http, demo.Inbox, address);
        var accepted = await demo.AboardWithAsync(
            Password,
            "invitations",
            "accept",
            link,
            "--name",
            "Pia Lotse",
            "--password-stdin"
        );
        Assert.Equal(0, accepted.Status);
        var again = await demo.AboardWithAsync(
            Password,
            "invitations",
            "accept",
            link,
            "--name",
            "Pia Lotse",
            "--password-stdin",
            "--json"
        );
        Assert.Equal((5, "link.used"), (again.Status, again.Json.GetProperty("code").GetString()));

        var shown = await demo.AboardAsync("people", "show", address);
        Assert.Contains(
            "Came aboard",
            shown.Output.Replace("member.joined", "Came aboard", StringComparison.Ordinal),
            StringComparison.Ordinal
        );
        Assert.Contains(
            (await demo.AboardAsync("people", "list", "--state", "active", "--json")).Lines,
            person => person.GetProperty("address").GetString() == address
        );

        var plan = await demo.AboardAsync("people", "end", address, "--dry-run");
        Assert.Contains("loses   The role view over everything.", plan.Output, StringComparison.Ordinal);
        Assert.Equal(2, (await demo.AboardAsync("people", "end", address)).Status);
        Assert.Equal(
            0,
            (await demo.AboardAsync("people", "end", address, "--on", "2029-12-31", "--yes")).Status
        );
        var ended = await demo.AboardAsync("people", "end", address, "--yes", "--json");
        Assert.Equal("done", ended.Json.GetProperty("state").GetString());
        Assert.Equal(
            "ended",
            (await demo.AboardAsync("people", "show", address, "--json"))
                .Json.GetProperty("state")
                .GetString()
        );

        Assert.Contains(
            "member.ended",
            (await demo.AboardAsync("record", "list", "--limit", "5")).Output,
            StringComparison.Ordinal
        );
        Assert.True(
            (await demo.AboardAsync("record", "verify", "--json")).Json.GetProperty("whole").GetBoolean()
        );
    }

    [Fact]
    public async Task Resending_and_revoking_by_address()
    {
        const string address = "second@harbour.example";
        await demo.AboardAsync("invitations", "send", address, "--kind", "partner");
        var first = await Programs.LinkAsync(demo.Http, demo.Inbox, address);
        Assert.Equal(0, (await demo.AboardAsync("invitations", "resend", address)).Status);
        Assert.Equal(0, (await demo.AboardAsync("invitations", "revoke", address)).Status);
        Assert.Equal(
            "revoked",
            (await demo.AboardAsync("invitations", "show", address, "--json"))
                .Json.GetProperty("state")
                .GetString()
        );
        Assert.Equal(
            4,
            (
                await demo.AboardWithAsync(
                    Password,
                    "invitations",
                    "accept",
                    first,
                    "--name",
                    "X",
                    "--password-stdin"
                )
            ).Status
        );
    }

    [Fact]
    public async Task A_list_is_a_table_for_people_and_a_line_of_json_each_for_programs()
    {
        var list = await demo.AboardAsync("people", "list", "--json", "--limit", "7");
        Assert.Equal(7, list.Lines.Count);
        var wide = await demo.AboardAsync("people", "list", "--limit", "7");
        Assert.Contains("Invited by", wide.Output, StringComparison.Ordinal);
        Assert.All(
            list.Lines,
            person =>
                Assert.Contains(
                    person.GetProperty("address").GetString()!,
                    wide.Output,
                    StringComparison.Ordinal
                )
        );
    }

    [Fact]
    public async Task The_exit_status_tells_what_happened()
    {
        Assert.Equal(
            6,
            (
                await demo.AboardAsync(
                    "invitations",
                    "send",
                    "third@harbour.example",
                    "bad",
                    "--kind",
                    "guest"
                )
            ).Status
        );
        Assert.Equal(
            5,
            (
                await demo.AboardAsync("invitations", "send", "mira@lantern-tide.example", "--kind", "guest")
            ).Status
        );
        Assert.Equal(2, (await demo.AboardAsync("invitations", "send", "x@harbour.example")).Status);
        Assert.Equal(
            2,
            (
                await demo.AboardAsync(
                    "invitations",
                    "send",
                    "x@harbour.example",
                    "--kind",
                    "guest",
                    "--until",
                    "tomorrow"
                )
            ).Status
        );
        Assert.Equal(4, (await demo.AboardAsync("people", "show", "nobody@harbour.example")).Status);
        Assert.Equal(
            4,
            (
                await demo.AboardAsync("whoami", "--workspace", "gull-rock")
                    .ContinueWith(_ => demo.AboardAsync("people", "list", "--workspace", "gull-rock"))
                    .Unwrap()
            ).Status
        );
        Assert.Equal(
            3,
            (await Programs.RunAsync(Programs.Client, demo.Environment(), null, "whoami")).Status
        );
        Assert.Equal(1, (await demo.AboardAsync("whoami", "--server", "http://127.0.0.1:9")).Status);
        Assert.Equal(0, (await demo.AboardAsync("--version")).Status);
    }

    [Fact]
    public async Task Signing_in_keeps_a_token_for_the_user_alone_and_signing_out_kills_it()
    {
        var home = Directory.CreateTempSubdirectory("aboard-home-").FullName;
        var variables = demo.Environment();
        variables["XDG_CONFIG_HOME"] = home;
        string[] signIn = ["sign-in", "--address", "oona@lantern-tide.example", "--password-stdin"];
        Assert.Equal(3, (await Programs.RunAsync(Programs.Client, variables, "wrong words", signIn)).Status);
        Assert.Equal(
            0,
            (await Programs.RunAsync(Programs.Client, variables, "a lantern at high tide", signIn)).Status
        );
        var file = Path.Combine(home, "come-aboard", "credentials.json");
        Assert.Equal(UnixFileMode.UserRead | UnixFileMode.UserWrite, File.GetUnixFileMode(file));
        Assert.Contains(
            "Oona Fairweather",
            (await Programs.RunAsync(Programs.Client, variables, null, "whoami")).Output,
            StringComparison.Ordinal
        );
        Assert.Equal(5, (await Programs.RunAsync(Programs.Client, variables, null, "people", "list")).Status);
        Assert.Equal(0, (await Programs.RunAsync(Programs.Client, variables, null, "sign-out")).Status);
        Assert.Equal(3, (await Programs.RunAsync(Programs.Client, variables, null, "whoami")).Status);
        Directory.Delete(home, true);
    }
}

/// <summary>What the service writes down while it works.</summary>
public sealed class TheLog
{
    [Fact]
    public async Task It_is_structured_and_holds_no_secret_no_address_and_no_message()
    {
        var demo = new Demo();
        await demo.InitializeAsync();
        await demo.AboardAsync(
            "invitations",
            "send",
            "pilot@harbour.example",
            "--kind",
            "guest",
            "--message",
            "Bring charts."
        );
        var link = await Programs.LinkAsync(demo.Http, demo.Inbox, "pilot@harbour.example");
        await demo.Http.GetAsync(new Uri(link));
        await demo.AboardWithAsync(
            "short",
            "invitations",
            "accept",
            link,
            "--name",
            "Pia",
            "--password-stdin"
        );
        var token = demo.Ready.GetProperty("adminToken").GetString()!;
        await demo.AboardAsync("people", "show", "mira@lantern-tide.example");
        var log = await demo.StopAsync();
        await demo.DisposeAsync();
        Assert.Contains("\"Route\":\"/i/{secret}\"", log, StringComparison.Ordinal);
        Assert.All(
            log.Split('\n', StringSplitOptions.RemoveEmptyEntries),
            line => Assert.StartsWith("{", line, StringComparison.Ordinal)
        );
        foreach (var hidden in new[] { link[^43..], token, "Bring charts", "pilot@harbour", "mira@lantern" })
            Assert.DoesNotContain(hidden, log, StringComparison.Ordinal);
    }
}
