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
            "--role",
            "view",
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
        Assert.Contains(
            "loses   The role view in the whole workspace: see",
            plan.Output,
            StringComparison.Ordinal
        );
        Assert.Equal(2, (await demo.AboardAsync("people", "end", address)).Status);
        Assert.Equal(
            0,
            (await demo.AboardAsync("people", "end", address, "--on", "2029-12-31", "--yes")).Status
        );
        var ended = await demo.AboardAsync("people", "end", address, "--yes", "--json");
        // Here it is over; the applications outside in which there was an account are asked until they say so.
        Assert.Contains(ended.Json.GetProperty("state").GetString(), (string[])["running", "done"]);
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
    public async Task Many_are_invited_from_a_file_and_the_wrong_ones_mended()
    {
        var file = Path.GetTempFileName() + ".csv";
        var results = Path.GetTempFileName();
        await File.WriteAllTextAsync(
            file,
            "Mail,Vorname,Kind,Role,Shoe size\nanna@slip.example,Anna,guest,view,38\nbo@slip,Bo,guest,view,40\nmira@lantern-tide.example,Mira,guest,view,39\n"
        );
        var check = await demo.AboardAsync("invitations", "import", file, "--dry-run");
        Assert.Equal(6, check.Status);
        Assert.Contains("1 ready", check.Output, StringComparison.Ordinal);
        Assert.Contains("\"Shoe size\" is not known", check.Error, StringComparison.Ordinal);

        var run = await demo.AboardAsync("invitations", "import", file, "--results", results, "--json");
        Assert.Equal(6, run.Status);
        var batch = run.Json.GetProperty("id").GetString()!;
        Assert.Equal(4, (await File.ReadAllLinesAsync(results)).Length);
        Assert.Equal(
            5,
            (await demo.AboardAsync("batches", "mend", batch, "2", "--address", "still wrong")).Status
        );
        Assert.Equal(
            0,
            (await demo.AboardAsync("batches", "mend", batch, "2", "--address", "bo@slip.example")).Status
        );
        var sent = await demo.AboardAsync("batches", "send", batch, "--json");
        Assert.Equal((0, 2), (sent.Status, sent.Json.GetProperty("counts").GetProperty("sent").GetInt32()));
        Assert.Contains(
            "bo@slip.example",
            (await demo.AboardAsync("batches", "show", batch, "--verdict", "sent")).Output,
            StringComparison.Ordinal
        );
        Assert.Contains(
            "watch",
            (await demo.AboardAsync("batches", "--help")).Output,
            StringComparison.Ordinal
        );
        var pasted = await demo.AboardWithAsync(
            "Cy <cy@slip.example>; di@slip.example",
            "invitations",
            "import",
            "-",
            "--kind",
            "guest",
            "--role",
            "view",
            "--json"
        );
        Assert.Equal(
            (0, 2),
            (pasted.Status, pasted.Json.GetProperty("counts").GetProperty("sent").GetInt32())
        );
        Assert.Equal(2, (await demo.AboardAsync("invitations", "import", "/nowhere.csv")).Status);
        Assert.StartsWith(
            "Adresse,",
            (await demo.AboardAsync("invitations", "template", "--language", "de")).Output,
            StringComparison.Ordinal
        );

        var all = await demo.AboardAsync(
            "invitations",
            "revoke",
            "--all",
            "--search",
            "@slip.example",
            "--yes"
        );
        Assert.Equal(0, all.Status);
        Assert.Contains("4 taken back", all.Output, StringComparison.Ordinal);
        Assert.Equal(2, (await demo.AboardAsync("invitations", "revoke")).Status);
    }

    [Fact]
    public async Task A_join_link_a_preset_and_an_approval_at_the_terminal()
    {
        var qr = Path.GetTempFileName() + ".png";
        var made = await demo.AboardAsync(
            "links",
            "add",
            "open ship",
            "--kind",
            "guest",
            "--role",
            "view",
            "--approval",
            "--qr",
            qr,
            "--json"
        );
        Assert.Equal(0, made.Status);
        Assert.Equal(0x89, (await File.ReadAllBytesAsync(qr))[0]);
        var id = made.Json.GetProperty("link").GetProperty("id").GetString()!;
        var renewed = await demo.AboardAsync("links", "renew", id);
        using var asked = await demo.Http.PostAsync(
            demo.Url + "/api/v1/join-links/ask",
            new StringContent(
                $$"""{"secret":"{{renewed.Output.Trim()[^43..]}}","address":"juno@pier.example"}""",
                System.Text.Encoding.UTF8,
                "application/json"
            )
        );
        Assert.Equal(System.Net.HttpStatusCode.Accepted, asked.StatusCode);
        var link = await Programs.LinkAsync(demo.Http, demo.Inbox, "juno@pier.example");
        var accepted = await demo.AboardWithAsync(
            Password,
            "invitations",
            "accept",
            link,
            "--name",
            "Juno",
            "--password-stdin"
        );
        Assert.Equal(0, accepted.Status);
        Assert.Equal(0, (await demo.AboardAsync("invitations", "approve", "juno@pier.example")).Status);
        Assert.Equal(0, (await demo.AboardAsync("people", "show", "juno@pier.example")).Status);
        Assert.Contains(
            "1 of 25",
            (await demo.AboardAsync("links", "show", id)).Output,
            StringComparison.Ordinal
        );
        Assert.Contains(
            "Juno",
            (await demo.AboardAsync("links", "end", id, "--yes")).Output,
            StringComparison.Ordinal
        );
        Assert.Equal(0, (await demo.AboardAsync("links", "close", id)).Status);

        Assert.Equal(
            0,
            (
                await demo.AboardAsync(
                    "presets",
                    "add",
                    "pilot",
                    "--kind",
                    "partner",
                    "--role",
                    "view",
                    "--stay-days",
                    "5"
                )
            ).Status
        );
        Assert.Equal(
            0,
            (await demo.AboardAsync("presets", "change", "pilot", "--message", "Mind the tide.")).Status
        );
        var preview = await demo.AboardAsync(
            "invitations",
            "send",
            "kai@pier.example",
            "--preset",
            "pilot",
            "--dry-run"
        );
        Assert.Contains("> Mind the tide.", preview.Output, StringComparison.Ordinal);
        var draft = await demo.AboardAsync(
            "invitations",
            "send",
            "kai@pier.example",
            "--preset",
            "pilot",
            "--draft",
            "--json"
        );
        Assert.Equal("draft", draft.Json.GetProperty("state").GetString());
        foreach (
            string[] step in new string[][]
            {
                ["correct", "kai@pier.example", "--address", "kay@pier.example"],
                ["send-draft", "kay@pier.example"],
                ["extend", "kay@pier.example", "--by", "2w"],
                ["link", "kay@pier.example"],
                ["show", "kay@pier.example"],
            }
        )
            Assert.Equal((step[0], 0), (step[0], (await demo.AboardAsync(["invitations", .. step])).Status));
        Assert.Equal(0, (await demo.AboardAsync("presets", "remove", "pilot", "--yes")).Status);
        Assert.Contains(
            "guest",
            (await demo.AboardAsync("invitations", "figures")).Output,
            StringComparison.Ordinal
        );
        Assert.StartsWith(
            "By,",
            (await demo.AboardAsync("invitations", "figures", "--csv")).Output,
            StringComparison.Ordinal
        );
        Assert.Contains(
            "mailbox is full",
            (await demo.AboardAsync("invitations", "bounced")).Output,
            StringComparison.Ordinal
        );
    }

    [Fact]
    public async Task Resending_and_revoking_by_address()
    {
        const string address = "second@harbour.example";
        await demo.AboardAsync("invitations", "send", address, "--kind", "partner", "--role", "view");
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
                    "guest",
                    "--role",
                    "view"
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
        // She is a curator, who looks after people but not after the record.
        Assert.Equal(5, (await Programs.RunAsync(Programs.Client, variables, null, "record", "list")).Status);
        // Her own tokens she sees, and nobody else's; making one is for whoever looks after the settings.
        var listed = await Programs.RunAsync(Programs.Client, variables, null, "tokens", "list", "--json");
        Assert.All(
            listed.Output.Split('\n', StringSplitOptions.RemoveEmptyEntries),
            line => Assert.Contains("Oona Fairweather", line, StringComparison.Ordinal)
        );
        var add = await Programs.RunAsync(Programs.Client, variables, null, "tokens", "add", "mine");
        Assert.Equal(5, add.Status);
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
            "--role",
            "view",
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
