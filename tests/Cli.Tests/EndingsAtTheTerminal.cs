using System.Text.Json;
using Xunit;

namespace ComeAboard.Cli.Tests;

/// <summary>Access carried out to outside applications, and its end with proof, through <c>aboard</c> on the demo world.</summary>
public sealed class EndingsAtTheTerminal(Demo demo) : IClassFixture<Demo>
{
    private const string Kofi = "kofi@lantern-tide.example";

    [Fact]
    public async Task What_a_system_really_holds_is_swept_and_decided()
    {
        const string Odo = "odo.brandt@former-crew.example";
        // What others have set going there is carried out first.
        await UntilAsync(
            ["connections", "status", "Chart table", "--json"],
            json => json.GetProperty("state").GetString() == "resting"
        );
        var swept = await demo.AboardAsync("connections", "sweep", "Chart table", "--json");
        Assert.Equal(0, swept.Status);
        Assert.True(swept.Json.GetProperty("otherwiseTotal").GetInt32() == 0, swept.Output);
        Assert.Equal(Odo, swept.Json.GetProperty("leftOver")[0].GetProperty("signInName").GetString());
        string[] leave = ["connections", "sweep", "Chart table", "--leave", Odo, "--until", "2099-12-31"];
        Assert.Equal(2, (await demo.AboardAsync(leave)).Status);
        Assert.Contains(
            "left-over.reason",
            (await demo.AboardAsync([.. leave, "--yes"])).Error,
            StringComparison.Ordinal
        );
        Assert.Contains(
            "left-over.until",
            (await demo.AboardAsync([.. leave, "--reason", "He hands over.", "--yes"])).Error,
            StringComparison.Ordinal
        );
        Assert.Equal(
            2,
            (
                await demo.AboardAsync("connections", "sweep", "Chart table", "--remove", "nobody", "--yes")
            ).Status
        );
        leave[^1] = DateOnly.FromDateTime(DateTime.UtcNow).AddDays(30).ToString("yyyy-MM-dd");
        Assert.Equal(0, (await demo.AboardAsync([.. leave, "--reason", "He hands over.", "--yes"])).Status);
        Assert.Contains(
            "1 left over, of which 1 may stay for now",
            (await demo.AboardAsync("connections", "sweep", "Chart table")).Output,
            StringComparison.Ordinal
        );
        var tried = await demo.AboardAsync([
            "connections",
            "sweep",
            "Chart table",
            "--remove",
            Odo,
            "--dry-run",
        ]);
        Assert.Contains("Nothing was changed.", tried.Error, StringComparison.Ordinal);
        var removed = await demo.AboardAsync([
            "connections",
            "sweep",
            "Chart table",
            "--remove",
            Odo,
            "--yes",
        ]);
        Assert.Contains("1 account is removed; asked again", removed.Error, StringComparison.Ordinal);
        Assert.Contains(
            "nothing left over",
            (await demo.AboardAsync("connections", "sweep", "Chart table")).Output,
            StringComparison.Ordinal
        );

        var yusra = await demo.AboardAsync([
            "people",
            "sweep",
            "yusra.halim@saltmarsh-university.example",
            "--json",
        ]);
        Assert.Equal(0, yusra.Status);
        Assert.All(yusra.Lines, one => Assert.Equal("gone", one.GetProperty("held").GetString()));
        Assert.Equal(4, (await demo.AboardAsync("people", "sweep", "nobody@nowhere.example")).Status);
        Assert.Contains(
            "CREATE OR REPLACE FUNCTION come_aboard.end_sessions",
            (await demo.AboardAsync("connections", "script")).Output,
            StringComparison.Ordinal
        );
        Assert.Contains(
            "connection.not-told",
            (await demo.AboardAsync("connections", "deliveries", "Chart table")).Error,
            StringComparison.Ordinal
        );
        Assert.Equal(0, (await demo.AboardAsync("departures", "progress", "--json")).Status);
        var extended = await demo.AboardAsync(
            "people",
            "extend",
            "kit@slow-harbour-films.example",
            "--until",
            "2020-01-01",
            "--yes"
        );
        Assert.Contains("stay.past", extended.Error, StringComparison.Ordinal);
    }

    [Fact]
    public async Task A_line_of_a_mapping_is_looked_at_kept_and_taken_away()
    {
        string[] map =
        [
            "connections",
            "map",
            "Film store",
            "--group",
            "Open ship days",
            "--to",
            "group:Night shoots",
        ];
        var shown = await demo.AboardAsync("connections", "show", "Film store");
        Assert.Contains("Nobody was read out of it as yet.", shown.Error, StringComparison.Ordinal);
        Assert.DoesNotContain("To do", shown.Output, StringComparison.Ordinal);
        var preview = await demo.AboardAsync([.. map, "--dry-run", "--json"]);
        Assert.Equal((0, 1), (preview.Status, preview.Json.GetProperty("total").GetInt32()));
        var asked = await demo.AboardAsync(map);
        Assert.Equal(2, asked.Status);
        Assert.Contains("add --yes", asked.Error, StringComparison.Ordinal);
        var kept = await demo.AboardAsync([.. map, "--yes", "--json"]);
        Assert.Equal((0, "group:Night shoots"), (kept.Status, kept.Json.GetProperty("to").GetString()));
        Assert.Equal(5, (await demo.AboardAsync([.. map, "--yes"])).Status);
        await UntilAsync(
            ["connections", "status", "Film store", "--json"],
            json => json.GetProperty("state").GetString() == "resting"
        );
        var account = (
            await demo.AboardAsync("connections", "status", "Film store", "--state", "confirmed", "--json")
        ).Lines.Single(line => line.GetProperty("address").GetString() == "k.darkwater@lantern-tide.example");
        Assert.Equal("Night shoots", account.GetProperty("heldGroups")[0].GetString());
        var away = await demo.AboardAsync("connections", "unmap", "Film store", "2", "--yes");
        Assert.Contains("group Open ship days → group:Night shoots", away.Error, StringComparison.Ordinal);
        foreach (
            var (words, code) in ((string[], string)[])
                [
                    (["--role", "view", "--to", "everything"], "mapping.to"),
                    (["--to", "accounts"], "mapping.of"),
                    (["--role", "cook", "--to", "accounts"], "role.unknown"),
                    (["--resource", "Register:none", "--to", "accounts"], "level.unknown"),
                ]
        )
            Assert.Contains(
                code,
                (await demo.AboardAsync(["connections", "map", "Film store", .. words, "--yes"])).Error,
                StringComparison.Ordinal
            );
        Assert.Contains(
            "connection.no-target",
            (
                await demo.AboardAsync(
                    "connections",
                    "map",
                    "Harbour authority",
                    "--role",
                    "view",
                    "--to",
                    "accounts",
                    "--yes"
                )
            ).Error,
            StringComparison.Ordinal
        );
        Assert.Contains(
            "paused",
            (await demo.AboardAsync("connections", "pause", "Chart table")).Output,
            StringComparison.Ordinal
        );
        Assert.Contains(
            "resting",
            (await demo.AboardAsync("connections", "resume", "Chart table")).Output,
            StringComparison.Ordinal
        );
    }

    [Fact]
    public async Task Somebody_leaves_with_proof_that_is_verified_without_the_service_and_comes_back()
    {
        const string ama = "ama@quayside-weddings.example";
        var plan = await demo.AboardAsync("departures", "plan", ama, "--to", Kofi, "--json");
        Assert.Equal("due", plan.Json.GetProperty("steps")[0].GetProperty("state").GetString());
        Assert.Equal(2, (await demo.AboardAsync("departures", "plan")).Status);
        Assert.Equal(2, (await demo.AboardAsync("departures", "plan", ama, "--organisation", "x")).Status);
        Assert.Equal(4, (await demo.AboardAsync("departures", "plan", "--organisation", "nobody's")).Status);
        var started = await demo.AboardAsync("departures", "start", ama, "--yes", "--json");
        var id = started.Json.GetProperty("id").GetString()!;
        Assert.Equal(ama, started.Json.GetProperty("person").GetProperty("address").GetString());
        var done = await UntilAsync(
            ["departures", "show", id, "--json"],
            json => json.GetProperty("state").GetString() == "done"
        );
        Assert.All(
            done.GetProperty("steps").EnumerateArray(),
            step => Assert.Equal("confirmed", step.GetProperty("state").GetString())
        );
        var place = Directory.CreateTempSubdirectory("aboard-receipts-");
        var (receipt, keys) = (Path.Combine(place.FullName, "r.jws"), Path.Combine(place.FullName, "k.json"));
        Assert.Equal(0, (await demo.AboardAsync("departures", "receipt", id, "--out", receipt)).Status);
        Assert.Equal(0, (await demo.AboardAsync("departures", "keys", "--out", keys)).Status);
        // Nobody is asked: there is no service at this address.
        string[] verify = ["departures", "verify", receipt, "--keys", keys, "--server", "http://127.0.0.1:9"];
        var verified = await demo.AboardAsync(verify);
        Assert.Equal(0, verified.Status);
        Assert.StartsWith("Genuine: signed by The Lantern Tide", verified.Output, StringComparison.Ordinal);
        var text = await File.ReadAllTextAsync(receipt);
        await File.WriteAllTextAsync(receipt, text.Replace(text[200], text[200] == 'A' ? 'B' : 'A'));
        var altered = await demo.AboardAsync([.. verify, "--json"]);
        Assert.Equal(1, altered.Status);
        Assert.StartsWith("receipt.", altered.Json.GetProperty("code").GetString(), StringComparison.Ordinal);
        place.Delete(true);

        var back = await demo.AboardAsync("people", "reinstate", ama, "--dry-run");
        Assert.Contains("as before", back.Output, StringComparison.Ordinal);
        Assert.Equal(0, (await demo.AboardAsync("people", "reinstate", ama, "--yes")).Status);
        Assert.Equal(5, (await demo.AboardAsync("people", "reinstate", ama, "--yes")).Status);
    }

    [Fact]
    public async Task What_does_not_confirm_stays_on_a_list_until_somebody_says_so()
    {
        var stuck = (
            await demo.AboardAsync("departures", "list", "--state", "stuck", "--json")
        ).Lines.Single();
        var id = stuck.GetProperty("id").GetString()!;
        // A world that was kept asks first where the application was then.
        stuck = await UntilAsync(
            ["departures", "show", id, "--json"],
            json => StepOf(json).GetProperty("answer").GetString()!.Contains("400", StringComparison.Ordinal)
        );
        var step = StepOf(stuck);
        Assert.Equal(
            ("close-account", "Gangway locks", "stuck", "It answered 400: Closed for stocktaking."),
            (
                step.GetProperty("kind").GetString(),
                step.GetProperty("subject").GetString(),
                step.GetProperty("state").GetString(),
                step.GetProperty("answer").GetString()
            )
        );
        Assert.Equal(5, (await demo.AboardAsync("departures", "receipt", id)).Status);
        Assert.Equal(0, (await demo.AboardAsync("departures", "retry", id)).Status);
        Assert.Equal(2, (await demo.AboardAsync("departures", "confirm", id, "Gangway locks")).Status);
        var letter = Path.GetTempFileName();
        await File.WriteAllTextAsync(letter, "The lock was changed.");
        string[] confirm =
        [
            "departures",
            "confirm",
            id,
            "Gangway locks",
            "--reason",
            "The lock was changed today.",
        ];
        Assert.Equal(2, (await demo.AboardAsync([.. confirm, "--file", letter + "x"])).Status);
        var confirmed = await demo.AboardAsync([.. confirm, "--file", letter]);
        Assert.Contains("by hand", confirmed.Output, StringComparison.Ordinal);
        Assert.Contains(Path.GetFileName(letter), confirmed.Output, StringComparison.Ordinal);
        Assert.Equal(
            "The lock was changed.",
            (await demo.AboardAsync("departures", "file", id, "Gangway locks")).Output
        );
        File.Delete(letter);
        Assert.Empty((await demo.AboardAsync("departures", "list", "--state", "stuck", "--json")).Output);
        var planned = (
            await demo.AboardAsync("departures", "list", "--state", "planned", "--json")
        ).Lines.Single();
        var withdrawn = await demo.AboardAsync(
            "departures",
            "withdraw",
            planned.GetProperty("id").GetString()!
        );
        Assert.Contains("Taken back: Mei-Lin Torres", withdrawn.Output, StringComparison.Ordinal);
        Assert.Equal(4, (await demo.AboardAsync("departures", "show", Guid.NewGuid().ToString())).Status);
    }

    [Fact]
    public async Task Who_has_left_is_erased_and_the_record_is_whole_without_them()
    {
        const string Søren = "soren@tidemand-rigging.example";
        Assert.Contains(
            "erase.here",
            (await demo.AboardAsync("people", "erase", Kofi, "--yes")).Error,
            StringComparison.Ordinal
        );
        var planned = await demo.AboardAsync("people", "erase", Søren, "--dry-run", "--json");
        var id = planned.Json.GetProperty("person").GetProperty("id").GetString()!;
        Assert.Contains(
            "nobody can take that back",
            (await demo.AboardAsync("people", "erase", Søren, "--dry-run")).Output,
            StringComparison.Ordinal
        );
        Assert.Equal(2, (await demo.AboardAsync("people", "erase", Søren)).Status);
        Assert.Contains(
            id,
            (await demo.AboardAsync("people", "erase", Søren, "--yes")).Output,
            StringComparison.Ordinal
        );
        Assert.Equal(4, (await demo.AboardAsync("people", "erase", Søren, "--yes")).Status);
        Assert.Equal(5, (await demo.AboardAsync("people", "erase", id, "--yes")).Status);
        Assert.Contains(
            "The record is whole",
            (await demo.AboardAsync("record", "verify")).Output,
            StringComparison.Ordinal
        );
        Assert.DoesNotContain(
            "Tidemand",
            (await demo.AboardAsync("record", "list", "--json")).Output,
            StringComparison.OrdinalIgnoreCase
        );
    }

    private static JsonElement StepOf(JsonElement departure) =>
        departure.GetProperty("steps").EnumerateArray().Last();

    private async Task<JsonElement> UntilAsync(string[] words, Func<JsonElement, bool> isSo)
    {
        for (var tries = 0; ; tries++)
        {
            var seen = (await demo.AboardAsync(words)).Json;
            if (isSo(seen))
                return seen;
            Assert.True(tries < 600, seen.ToString());
            await Task.Delay(100);
        }
    }
}
