using Xunit;

namespace ComeAboard.Cli.Tests;

/// <summary>Domains, claims, accounts outright and providers through <c>aboard</c>, on the demo world.</summary>
public sealed class AccountsAtTheTerminal(Demo demo) : IClassFixture<Demo>, IDisposable
{
    private readonly DirectoryInfo _directory = Directory.CreateTempSubdirectory("aboard-accounts-");

    public void Dispose() => _directory.Delete(true);

    [Fact]
    public async Task A_domain_is_added_shown_proved_and_removed()
    {
        const string domain = "pilot-station.example";
        var rehearsal = await demo.AboardAsync("domains", "add", domain, "--dry-run");
        Assert.Equal(0, rehearsal.Status);
        Assert.DoesNotContain(
            domain,
            (await demo.AboardAsync("domains", "list")).Output,
            StringComparison.Ordinal
        );

        var added = await demo.AboardAsync("domains", "add", domain, "--json");
        Assert.Equal((0, "waiting"), (added.Status, added.Json.GetProperty("state").GetString()));
        var shown = await demo.AboardAsync("domains", "check", domain);
        var record = $"_come-aboard.{domain}. IN TXT \"{added.Json.GetProperty("recordValue").GetString()}\"";
        Assert.Contains(record, shown.Output, StringComparison.Ordinal);
        using var put = new FormUrlEncodedContent(
            new Dictionary<string, string>
            {
                ["name"] = added.Json.GetProperty("recordName").GetString()!,
                ["text"] = added.Json.GetProperty("recordValue").GetString()!,
            }
        );
        (await demo.Http.PostAsync(new Uri(demo.Inbox + "/dns"), put)).EnsureSuccessStatusCode();
        Assert.Equal(
            "proved",
            (await demo.AboardAsync("domains", "check", domain, "--json"))
                .Json.GetProperty("state")
                .GetString()
        );
        Assert.Equal(0, (await demo.AboardAsync("domains", "remove", domain)).Status);
        var gone = await demo.AboardAsync("domains", "check", domain, "--json");
        Assert.Equal((4, "not-found"), (gone.Status, gone.Json.GetProperty("code").GetString()));
        // One by which accounts are held stays.
        var used = await demo.AboardAsync("domains", "remove", "lantern-tide.example", "--json");
        Assert.Equal((5, "domain.in-use"), (used.Status, used.Json.GetProperty("code").GetString()));
    }

    [Fact]
    public async Task Claims_go_by_file_with_all_verdicts_before_anything_happens()
    {
        var found = (await demo.AboardAsync("claims", "list", "--state", "found", "--json")).Lines;
        Assert.Equal(2, found.Count);
        var address = found[0].GetProperty("address").GetString()!;
        foreach (var name in new[] { "address", "name", "state", "deadline", "workspaces", "version" })
            Assert.True(found[0].TryGetProperty(name, out _), name);

        var file = Path.Combine(_directory.FullName, "claims.csv");
        var results = Path.Combine(_directory.FullName, "results.csv");
        await File.WriteAllTextAsync(
            file,
            $"address,action\n{address},ask\nteodor@lantern-tide.example,ask\nnobody@lantern-tide.example,ask\nteodor@lantern-tide.example,sink\n"
        );
        var rehearsal = await demo.AboardAsync("claims", "import", file, "--dry-run");
        Assert.Contains("claim.no-account", rehearsal.Output + rehearsal.Error, StringComparison.Ordinal);
        Assert.Equal("found", await StateOf(address));

        var done = await demo.AboardAsync("claims", "import", file, "--yes", "--results", results);
        Assert.NotEqual(0, done.Status);
        Assert.Equal("asked", await StateOf(address));
        var lines = await File.ReadAllLinesAsync(results);
        Assert.Equal(5, lines.Length);
        Assert.Single(lines, line => line.Contains("claim.action-unknown", StringComparison.Ordinal));

        Assert.Equal(0, (await demo.AboardAsync("claims", "cancel", address)).Status);
        var twice = await demo.AboardAsync("claims", "cancel", address);
        Assert.NotEqual(0, twice.Status);
        Assert.Contains("claim.step", twice.Output + twice.Error, StringComparison.Ordinal);
        var unknown = await demo.AboardAsync("claims", "list", "--state", "sunk", "--json");
        Assert.Equal("claim.state-unknown", unknown.Json.GetProperty("code").GetString());

        async Task<string?> StateOf(string at) =>
            (await demo.AboardAsync("claims", "show", at, "--json")).Json.GetProperty("state").GetString();
    }

    [Fact]
    public async Task An_account_is_made_outright_with_a_sheet_and_nothing_of_it_is_reset_that_is_not_there()
    {
        const string address = "signals@lantern-tide.example";
        var sheet = Path.Combine(_directory.FullName, "sheet.html");
        var made = await demo.AboardAsync(
            "accounts",
            "add",
            address,
            "--name",
            "Signe Wimpel",
            "--sheet",
            sheet
        );
        Assert.True(made.Status == 0, made.Error);
        var page = await File.ReadAllTextAsync(sheet);
        Assert.Contains("Signe Wimpel", page, StringComparison.Ordinal);
        Assert.Contains("<svg", page, StringComparison.Ordinal);
        // The secret is on the sheet, and nowhere else.
        Assert.DoesNotContain("/new-password/", made.Output + made.Error, StringComparison.Ordinal);
        var again = await demo.AboardAsync("accounts", "add", address, "--name", "Signe Wimpel", "--json");
        Assert.Equal(5, again.Status);
        var elsewhere = await demo.AboardAsync(
            "accounts",
            "add",
            "a@elsewhere.example",
            "--name",
            "A",
            "--json"
        );
        Assert.Equal(5, elsewhere.Status);

        Assert.Equal(2, (await demo.AboardAsync("people", "reset", "kofi@lantern-tide.example")).Status);
        var nothing = await demo.AboardAsync(
            "people",
            "reset",
            "kofi@lantern-tide.example",
            "--outside",
            "--passkeys",
            "--json"
        );
        Assert.Equal((5, "reset.nothing"), (nothing.Status, nothing.Json.GetProperty("code").GetString()));
        var personal = await demo.AboardAsync(
            "people",
            "reset",
            "teodor@lantern-tide.example",
            "--second-step",
            "--json"
        );
        Assert.Equal("account.not-held", personal.Json.GetProperty("code").GetString());
    }

    [Fact]
    public async Task A_held_account_is_paused_and_let_go_on_and_what_follows_from_a_claim_is_said_before()
    {
        const string sunniva = "sunniva@lantern-tide.example";
        var tried = await demo.AboardAsync("accounts", "pause", sunniva, "--dry-run");
        Assert.Contains(": paused", tried.Output, StringComparison.Ordinal);
        var paused = await demo.AboardAsync("accounts", "pause", sunniva, "--reason", "Ashore.", "--json");
        Assert.Equal((0, "paused"), (paused.Status, paused.Json.GetProperty("standing").GetString()));
        Assert.Contains(
            "nobody signs in with it",
            (await demo.AboardAsync("claims", "show", sunniva)).Output,
            StringComparison.Ordinal
        );
        Assert.Equal("account.paused", (await CodeOf("pause")).Code);
        Assert.Equal(0, (await demo.AboardAsync("accounts", "resume", sunniva)).Status);
        Assert.Equal((5, "account.here"), await CodeOf("close"));

        var released = await demo.AboardAsync("claims", "release", sunniva, "--dry-run");
        Assert.Contains("The account is its holder's own again", released.Output, StringComparison.Ordinal);
        Assert.Equal(
            "taken",
            (await demo.AboardAsync("claims", "show", sunniva, "--json"))
                .Json.GetProperty("state")
                .GetString()
        );

        async Task<(int Status, string? Code)> CodeOf(string step)
        {
            var run = await demo.AboardAsync("accounts", step, sunniva, "--json");
            return (run.Status, run.Json.GetProperty("code").GetString());
        }
    }

    [Fact]
    public async Task Two_files_are_matched_on_the_spot_whatever_their_headings_and_separators_are()
    {
        var left = await FileAsync(
            "left.csv",
            "id,name,address,phone\nL1,William Fairweather,w.fairweather@ropes.example,\nL2,\"Brask, Oona\",oona@tide.example,+44 20 7000 1000\nL3,Сергей Волков,volkov@film.example,\n"
        );
        var right = await FileAsync(
            "right.csv",
            "Vorname;Nachname;E-Mail;Telefon;Schuhgröße\nBill;Fairweather;bill@ropes.example;;41\nOona;Quay-Brask;o.quay@tide.example;020 7000 1000;\nSergei;Volkov;sv@film.example;;\nNobody;Else;;;\n"
        );
        var found = await demo.AboardAsync("accounts", "match", left, right, "--json");
        Assert.Equal(0, found.Status);
        Assert.Equal(
            [("L1", "2"), ("L2", "3"), ("L3", "4")],
            found
                .Lines.Select(one =>
                    (one.GetProperty("left").GetString()!, one.GetProperty("right").GetString()!)
                )
                .Order()
        );
        Assert.All(
            found.Lines,
            one =>
            {
                Assert.InRange(one.GetProperty("score").GetDouble(), 0.6, 1);
                Assert.Contains(one.GetProperty("verdict").GetString(), new[] { "same", "likely" });
                Assert.NotEmpty(one.GetProperty("reasons").EnumerateArray());
            }
        );
        var table = await demo.AboardAsync("accounts", "match", left, right, "--least", "same");
        Assert.Contains("same telephone number", table.Output, StringComparison.Ordinal);
        Assert.Contains("Nothing was changed.", table.Error, StringComparison.Ordinal);
        Assert.Contains(
            "Nobody was found",
            (await demo.AboardAsync("accounts", "match", left)).Error,
            StringComparison.Ordinal
        );
        var bad = await demo.AboardAsync(
            "accounts",
            "match",
            await FileAsync("bad.csv", "Shoe size\n41\n"),
            "--json"
        );
        Assert.Equal((2, "match.no-columns"), (bad.Status, bad.Json.GetProperty("code").GetString()));
        Assert.Equal(2, (await demo.AboardAsync("accounts", "match", "nowhere.csv")).Status);

        async Task<string> FileAsync(string name, string content)
        {
            var path = Path.Combine(_directory.FullName, name);
            await File.WriteAllTextAsync(path, content);
            return path;
        }
    }

    [Fact]
    public async Task A_provider_is_listed_changed_and_removed_and_one_that_does_not_answer_is_not_added()
    {
        var listed = Assert.Single((await demo.AboardAsync("providers", "list", "--json")).Lines);
        var name = listed.GetProperty("name").GetString()!;
        Assert.True(listed.GetProperty("hasSecret").GetBoolean());
        Assert.False(listed.TryGetProperty("clientSecret", out _));
        var away = await demo.AboardWithAsync(
            "a secret\n",
            "providers",
            "add",
            "Museum",
            "--issuer",
            "http://127.0.0.1:9",
            "--client-id",
            "come-aboard",
            "--secret-stdin",
            "--domain",
            "lantern-tide.example",
            "--json"
        );
        Assert.Equal((5, "provider.unreachable"), (away.Status, away.Json.GetProperty("code").GetString()));
        var changed = await demo.AboardAsync(
            "providers",
            "change",
            name,
            "--client-id",
            "another",
            "--domain",
            "lantern-tide.example",
            "--json"
        );
        Assert.Equal(
            ("another", true, 2),
            (
                changed.Json.GetProperty("clientId").GetString(),
                changed.Json.GetProperty("hasSecret").GetBoolean(),
                changed.Json.GetProperty("version").GetInt32()
            )
        );
        Assert.Equal(0, (await demo.AboardAsync("providers", "remove", name, "--dry-run")).Status);
        Assert.Equal(0, (await demo.AboardAsync("providers", "remove", name)).Status);
        Assert.Empty((await demo.AboardAsync("providers", "list", "--json")).Output);
    }

    [Fact]
    public async Task Two_accounts_are_made_one_after_a_plan_and_parted_again()
    {
        const string Kofi = "kofi@lantern-tide.example";
        const string Other = "k.darkwater@lantern-tide.example";
        string[] wish = ["accounts", "merge", Other, Kofi];
        var plan = await demo.AboardAsync([.. wish, "--dry-run"]);
        Assert.Equal(0, plan.Status);
        foreach (
            var said in new[]
            {
                "Kofi Darkwater <kofi@lantern-tide.example> stays (staff here)",
                "as staff and as guest",
                "the longer stay",
                "✓ The role edit at Port calendar, until",
                "✗ In the group Open ship days.",
                "left out, as it would give manage at Deck bookings from",
                "✓ The other's seat of Reading desks.",
                "lost: manage at Deck bookings: edit is left",
            }
        )
            Assert.Contains(said, plan.Output, StringComparison.Ordinal);
        Assert.Equal(2, (await demo.AboardAsync(wish)).Status);
        var json = await demo.AboardAsync([.. wish, "--dry-run", "--json", "--take", "title,name"]);
        Assert.Equal(Kofi, json.Json.GetProperty("kept").GetProperty("address").GetString());
        var personal = await demo.AboardAsync(
            "accounts",
            "merge",
            "ines.calloway@saltmarsh-university.example",
            "calloway.ines@brightmail.example",
            "--dry-run",
            "--json"
        );
        Assert.Equal(
            (5, "merge.not-held"),
            (personal.Status, personal.Json.GetProperty("problem").GetProperty("code").GetString())
        );

        var done = await demo.AboardAsync([.. wish, "--keep", Kofi, "--with-gains", "--yes"]);
        Assert.Equal(0, done.Status);
        Assert.Contains("It can be parted again until", done.Output, StringComparison.Ordinal);
        var person = await demo.AboardAsync("people", "show", Other);
        Assert.Contains("Also at    " + Other, person.Output, StringComparison.Ordinal);
        Assert.Contains("group Open ship days", person.Output, StringComparison.Ordinal);
        Assert.Contains(
            "can be parted until",
            (await demo.AboardAsync("accounts", "merges")).Output,
            StringComparison.Ordinal
        );
        Assert.Equal(0, (await demo.AboardAsync("accounts", "unmerge", Other, "--dry-run")).Status);
        var parted = await demo.AboardAsync("accounts", "unmerge", Other);
        Assert.Contains("Two again: Kofi Darkwater", parted.Output, StringComparison.Ordinal);
        var again = await demo.AboardAsync("accounts", "unmerge", Other, "--json");
        Assert.Equal((5, "merge.over"), (again.Status, again.Json.GetProperty("code").GetString()));

        // One human, twice on purpose.
        var apart = await demo.AboardAsync("accounts", "distinct", Kofi, Other, "--two-capacities");
        Assert.Contains("one person in two capacities", apart.Output, StringComparison.Ordinal);
        var remembered = await demo.AboardAsync("accounts", "duplicates", "--distinct");
        Assert.Contains("one, in two capacities", remembered.Output, StringComparison.Ordinal);
        await demo.AboardAsync("accounts", "distinct", Kofi, Other, "--take-back");
    }

    [Fact]
    public async Task People_are_moved_under_a_group_and_back()
    {
        string[] wish = ["groups", "move-in", "Film night", "--from-direct", "contribute@Picture library"];
        var plan = await demo.AboardAsync([.. wish, "--dry-run"]);
        Assert.Contains(
            "contribute at Picture library, by Film night and not directly:",
            plan.Output,
            StringComparison.Ordinal
        );
        Assert.Contains("None of them loses anything on any day.", plan.Output, StringComparison.Ordinal);
        Assert.Contains("Nothing was changed.", plan.Error, StringComparison.Ordinal);
        var alone = await demo.AboardAsync([.. wish, "--people", "sunniva@lantern-tide.example", "--json"]);
        Assert.Equal("Sunniva Hale", alone.Json.GetProperty("people")[0].GetProperty("name").GetString());
        var rest = await demo.AboardAsync(wish);
        Assert.Contains("Kit Hollis, joins the group", rest.Output, StringComparison.Ordinal);
        Assert.Equal((5, "move.nobody"), await CodeOf(wish));
        var undone = await demo.AboardAsync("groups", "move-in", "Film night", "--undo");
        Assert.Contains("directly again and not by Film night", undone.Output, StringComparison.Ordinal);
        Assert.Equal((5, "move.none"), await CodeOf("groups", "move-in", "Film night", "--undo"));
        foreach (var wrong in new string[][] { ["groups", "move-in", "Film night"], [.. wish, "--undo"] })
            Assert.Equal(2, (await demo.AboardAsync(wrong)).Status);

        async Task<(int, string?)> CodeOf(params string[] words)
        {
            var said = await demo.AboardAsync([.. words, "--json"]);
            return (said.Status, said.Json.GetProperty("code").GetString());
        }
    }

    [Fact]
    public async Task Many_addresses_are_planned_by_a_pattern_and_changed_by_a_file()
    {
        var plan = await demo.AboardAsync(
            "accounts",
            "readdress",
            "--pattern",
            "{given}.{family}@lantern-tide.example",
            "--dry-run",
            "--json"
        );
        Assert.Equal(6, plan.Status);
        var verdicts = plan.Lines.ToDictionary(
            one => one.GetProperty("address").GetString()!,
            one => (one.GetProperty("to").GetString(), one.GetProperty("verdict").GetString())
        );
        Assert.Equal(
            ("benedikt.loom@lantern-tide.example", "propose"),
            verdicts["benedikt@lantern-tide.example"]
        );
        Assert.Equal(
            ("rafael.quay@lantern-tide.example", "correct"),
            verdicts["rafael@lantern-tide.example"]
        );
        Assert.Equal("collides", verdicts["kofi@lantern-tide.example"].Item2);

        var file = Path.GetTempFileName();
        try
        {
            await File.WriteAllTextAsync(
                file,
                "address;new_address\nrafael@lantern-tide.example;rafael.q@lantern-tide.example\n",
                TestContext.Current.CancellationToken
            );
            string[] wish = ["accounts", "readdress", "--file", file];
            var tried = await demo.AboardAsync([.. wish, "--dry-run"]);
            Assert.Contains("It would be: 1 correct", tried.Error, StringComparison.Ordinal);
            var done = await demo.AboardAsync([.. wish, "--reason", "One scheme for all.", "--yes"]);
            Assert.Equal(0, done.Status);
            Assert.Contains("rafael.q@lantern-tide.example", done.Output, StringComparison.Ordinal);
            Assert.Equal(2, (await demo.AboardAsync([.. wish, "--pattern", "{given}@x.example"])).Status);
            await File.WriteAllTextAsync(file, "address\nx\n", TestContext.Current.CancellationToken);
            Assert.Equal(2, (await demo.AboardAsync(wish)).Status);
        }
        finally
        {
            File.Delete(file);
        }
        Assert.Equal(2, (await demo.AboardAsync("accounts", "readdress")).Status);
    }

    [Fact]
    public async Task Who_is_here_twice_is_listed_and_said_to_be_two_with_the_reason()
    {
        var found = (await demo.AboardAsync("accounts", "duplicates", "--json")).Lines;
        // Whoever was parted again is looked at beside the others within some seconds.
        for (var tries = 0; found.Count != 5 && tries < 120; tries++)
        {
            await Task.Delay(250, TestContext.Current.CancellationToken);
            found = (await demo.AboardAsync("accounts", "duplicates", "--json")).Lines;
        }
        Assert.Equal(5, found.Count);
        Assert.Equal(
            found.Select(pair => pair.GetProperty("score").GetDouble()).OrderDescending(),
            found.Select(pair => pair.GetProperty("score").GetDouble())
        );
        Assert.All(
            found,
            pair =>
            {
                Assert.NotEmpty(pair.GetProperty("reasons").EnumerateArray());
                Assert.Contains(pair.GetProperty("verdict").GetString(), new[] { "same", "likely" });
            }
        );
        var (left, right) = (AddressOf(found[^1], "left"), AddressOf(found[^1], "right"));
        var table = await demo.AboardAsync("accounts", "duplicates");
        Assert.Contains(
            $"aboard accounts distinct {AddressOf(found[0], "left")}",
            table.Error,
            StringComparison.Ordinal
        );

        string[] wish = ["accounts", "distinct", right, left, "--reason", "Two of one family."];
        Assert.Equal(0, (await demo.AboardAsync([.. wish, "--dry-run"])).Status);
        Assert.Equal(5, (await demo.AboardAsync("accounts", "duplicates", "--json")).Lines.Count);
        var said = await demo.AboardAsync(wish);
        Assert.Contains("are two people", said.Output, StringComparison.Ordinal);
        Assert.Equal(4, (await demo.AboardAsync("accounts", "duplicates", "--json")).Lines.Count);
        var remembered = await demo.AboardAsync("accounts", "duplicates", "--distinct");
        Assert.Contains("Two of one family.", remembered.Output, StringComparison.Ordinal);
        var back = await demo.AboardAsync("accounts", "distinct", left, right, "--take-back");
        Assert.Equal(0, back.Status);
        var again = await demo.AboardAsync("accounts", "distinct", left, right, "--take-back", "--json");
        Assert.Equal((5, "duplicate.not-said"), (again.Status, again.Json.GetProperty("code").GetString()));
        var one = await demo.AboardAsync("accounts", "distinct", left, left, "--json");
        Assert.Equal((2, "duplicate.one"), (one.Status, one.Json.GetProperty("code").GetString()));

        static string AddressOf(System.Text.Json.JsonElement pair, string side) =>
            pair.GetProperty(side).GetProperty("address").GetString()!;
    }

    [Fact]
    public async Task People_of_a_list_are_looked_at_decided_by_a_file_and_brought_in()
    {
        var file = Path.Combine(_directory.FullName, "pilots.csv");
        const string rows =
            "id,name,address,title\n1,Greta Halyard,greta@halyard-ropeworks.example,Rope walker\n2,Liv Loshavn,liv@pilots.example,Pilot\n3,Even Loshavn,even@pilots.example,Pilot\n";
        await File.WriteAllTextAsync(file, rows, TestContext.Current.CancellationToken);
        string[] add = ["connections", "add", "Pilots", "--type", "file", "--file", file];
        Assert.Equal(0, (await demo.AboardAsync([.. add, "--dry-run"])).Status);
        Assert.DoesNotContain(
            "Pilots",
            (await demo.AboardAsync("connections", "list")).Output,
            StringComparison.Ordinal
        );
        Assert.Equal(2, (await demo.AboardAsync([.. add, "--wins", "title"])).Status);
        var added = await demo.AboardAsync([.. add, "--kind", "guest", "--role", "view", "--json"]);
        Assert.Equal((0, "pilots.csv"), (added.Status, added.Json.GetProperty("place").GetString()));

        Assert.Contains(
            "It answers: 3 people.",
            (await demo.AboardAsync("connections", "test", "Pilots")).Output,
            StringComparison.Ordinal
        );
        var preview = (await demo.AboardAsync("connections", "preview", "Pilots", "--json")).Lines;
        Assert.Equal(
            ["new", "new", "same"],
            preview.Select(record => record.GetProperty("verdict").GetString())
        );
        var table = await demo.AboardAsync("connections", "preview", "Pilots");
        Assert.Contains(
            "Greta Halyard <greta@halyard-ropeworks.example>",
            table.Output,
            StringComparison.Ordinal
        );
        Assert.Contains("To do: 1 to join, 2 to bring in", table.Output, StringComparison.Ordinal);

        var wish = Path.Combine(_directory.FullName, "decisions.csv");
        await File.WriteAllTextAsync(
            wish,
            "key,decision\nid:3,leave-out\nid:9,join\n",
            TestContext.Current.CancellationToken
        );
        string[] run = ["connections", "run", "Pilots", "--decide", wish];
        Assert.Contains(
            "It would be: 1 profile to join",
            (await demo.AboardAsync([.. run, "--dry-run"])).Error,
            StringComparison.Ordinal
        );
        // In part: one of the rows names nobody.
        var done = await demo.AboardAsync([.. run, "--yes"]);
        Assert.Equal(6, done.Status);
        Assert.Contains("[record.not-found]", done.Error, StringComparison.Ordinal);
        Assert.Contains("2 done", done.Error, StringComparison.Ordinal);
        var invited = await demo.AboardAsync("invitations", "list", "--search", "pilots.example", "--json");
        Assert.Equal("liv@pilots.example", Assert.Single(invited.Lines).GetProperty("address").GetString());
        Assert.Equal(5, (await demo.AboardAsync("connections", "run", "Pilots", "--yes")).Status);
        string[] decide = ["connections", "decide", "Pilots"];
        Assert.Equal(2, (await demo.AboardAsync([.. decide, "--as", "join"])).Status);
        Assert.Equal(0, (await demo.AboardAsync([.. decide, "3", "--as", "bring-in"])).Status);
        Assert.Equal(5, (await demo.AboardAsync([.. decide, "3", "--as", "maybe"])).Status);
        Assert.Equal(4, (await demo.AboardAsync("connections", "show", "Nobody")).Status);
        Assert.Equal(0, (await demo.AboardAsync("connections", "remove", "Pilots")).Status);
    }
}
