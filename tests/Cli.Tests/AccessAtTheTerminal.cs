using Xunit;

namespace ComeAboard.Cli.Tests;

/// <summary>Who may do what, through <c>aboard</c>, on the demo world.</summary>
public sealed class AccessAtTheTerminal(Demo demo) : IClassFixture<Demo>
{
    [Fact]
    public async Task Roles_are_compared_made_and_say_what_they_would_miss()
    {
        Assert.Contains(
            "≠ Collection",
            await OutputOf("roles", "compare", "curator", "reader"),
            StringComparison.Ordinal
        );
        var made = await demo.AboardAsync(
            "roles",
            "add",
            "trustee",
            "--sentence",
            "Reads the season report.",
            "--in",
            "Reports=view"
        );
        Assert.Equal(0, made.Status);
        Assert.Contains("Reports needs view in Loans", made.Error, StringComparison.Ordinal);
        Assert.Equal(0, (await demo.AboardAsync("roles", "change", "trustee", "--raise")).Status);
        Assert.Contains("Shop view", (await OutputOf("roles", "list")), StringComparison.Ordinal);
        Assert.Equal(5, (await demo.AboardAsync("roles", "change", "view", "--everywhere", "edit")).Status);
        Assert.Equal(0, (await demo.AboardAsync("roles", "remove", "trustee", "--yes")).Status);
        Assert.Equal(4, (await demo.AboardAsync("roles", "show", "trustee")).Status);
    }

    [Fact]
    public async Task Access_is_given_explained_and_taken_and_a_dry_run_changes_nothing()
    {
        const string who = "rafael@lantern-tide.example";
        string[] give =
        [
            "people",
            "grant",
            who,
            "--role",
            "edit",
            "--resource",
            "Ledger",
            "--until",
            "2030-01-31",
        ];
        var tried = await demo.AboardAsync([.. give, "--dry-run"]);
        Assert.Contains("view → edit", tried.Output, StringComparison.Ordinal);
        Assert.DoesNotContain(
            "edit at Ledger",
            await OutputOf("people", "explain", who),
            StringComparison.Ordinal
        );
        Assert.Equal(0, (await demo.AboardAsync(give)).Status);
        Assert.Contains(
            "edit at Ledger until 31 Jan 2030",
            await OutputOf("people", "explain", who, "--at", "Ledger"),
            StringComparison.Ordinal
        );
        Assert.Contains(
            "Rafael Quay",
            await OutputOf("resources", "access", "Ledger", "--level", "edit"),
            StringComparison.Ordinal
        );
        Assert.Equal(
            0,
            (await demo.AboardAsync("people", "take", who, "--role", "edit", "--resource", "Ledger")).Status
        );
        Assert.Equal(
            5,
            (await demo.AboardAsync("people", "take", who, "--role", "edit", "--resource", "Ledger")).Status
        );
        var both = await demo.AboardAsync("people", "pause", who, "nobody@tide.example");
        Assert.Equal(6, both.Status);
        Assert.Contains("person.not-found", both.Error, StringComparison.Ordinal);
        Assert.Contains("paused", await OutputOf("people", "see-as", who), StringComparison.Ordinal);
        Assert.Equal(0, (await demo.AboardAsync("people", "resume", who)).Status);
        Assert.Contains(
            "member.paused",
            await OutputOf("people", "activity", "mira@lantern-tide.example"),
            StringComparison.Ordinal
        );
    }

    [Fact]
    public async Task Moving_or_removing_a_resource_says_who_loses_what_before_it_happens()
    {
        Assert.Equal(
            0,
            (await demo.AboardAsync("resources", "add", "Sail lofts", "--area", "Collection")).Status
        );
        var moved = await OutputOf("resources", "change", "Sail lofts", "--area", "Shop", "--dry-run");
        Assert.Contains("contribute → none", moved, StringComparison.Ordinal);
        Assert.Contains(
            "(Collection)",
            await OutputOf("resources", "show", "Sail lofts"),
            StringComparison.Ordinal
        );
        var planned = await OutputOf("resources", "remove", "Sail lofts", "--dry-run");
        Assert.Contains("manage → none", planned, StringComparison.Ordinal);
        Assert.Equal(0, (await demo.AboardAsync("resources", "remove", "Sail lofts", "--yes")).Status);
        Assert.Equal(4, (await demo.AboardAsync("resources", "show", "Sail lofts")).Status);

        Assert.Equal(5, (await demo.AboardAsync("organisations", "remove", "CANVAS", "--dry-run")).Status);
        Assert.Equal(
            0,
            (await demo.AboardAsync("organisations", "add", "Sextant Society", "--kind", "guest")).Status
        );
        Assert.Equal(
            0,
            (await demo.AboardAsync("organisations", "remove", "Sextant Society", "--yes")).Status
        );
    }

    [Fact]
    public async Task Several_roles_at_several_places_are_given_by_invitation_preset_link_and_list()
    {
        string[] gives = ["--role", "view@Ledger", "--role", "edit@Rigging plans", "--group", "Reading room"];
        const string said = "view at Ledger, edit at Rigging plans, group Reading room";
        const string who = "clerk@pier.example";
        Assert.Equal(
            0,
            (await demo.AboardAsync(["invitations", "send", who, "--kind", "partner", .. gives])).Status
        );
        Assert.Contains(said, await OutputOf("invitations", "show", who), StringComparison.Ordinal);

        Assert.Equal(
            0,
            (await demo.AboardAsync(["presets", "add", "clerk", "--kind", "guest", .. gives])).Status
        );
        Assert.Equal(
            0,
            (await demo.AboardAsync("presets", "change", "clerk", "--role", "view@Ledger")).Status
        );
        Assert.Contains(
            "view at Ledger, group Reading room",
            await OutputOf("presets", "show", "clerk"),
            StringComparison.Ordinal
        );
        Assert.Equal(
            0,
            (await demo.AboardAsync(["links", "add", "quay", "--kind", "guest", .. gives])).Status
        );

        var list = Path.GetTempFileName();
        await File.WriteAllTextAsync(list, "address,role\nlist1@pier.example,\nlist2@pier.example,curator\n");
        Assert.Equal(
            0,
            (await demo.AboardAsync(["invitations", "import", list, "--kind", "partner", .. gives])).Status
        );
        File.Delete(list);
        Assert.Contains(
            said,
            await OutputOf("invitations", "show", "list1@pier.example"),
            StringComparison.Ordinal
        );
        Assert.Contains(
            "partner, role curator, ",
            await OutputOf("invitations", "show", "list2@pier.example"),
            StringComparison.Ordinal
        );
    }

    [Fact]
    public async Task Rules_of_the_house_are_read_and_changed_one_by_one_and_readiness_names_them()
    {
        string[] change =
        [
            "workspace",
            "change",
            "--longest-stay",
            "client=20",
            "--blocked-domain",
            "spam.example",
        ];
        Assert.Contains(
            "client 20 days",
            (await demo.AboardAsync([.. change, "--dry-run"])).Output,
            StringComparison.Ordinal
        );
        var before = await OutputOf("workspace", "rules");
        Assert.DoesNotContain("client 20 days", before, StringComparison.Ordinal);
        Assert.Equal(0, (await demo.AboardAsync(change)).Status);
        var stopped = await demo.AboardAsync(
            "workspace",
            "readiness",
            "--kind",
            "client",
            "--role",
            "view",
            "--until",
            "2035-01-01"
        );
        Assert.Equal(5, stopped.Status);
        Assert.Contains("aboard workspace rules", stopped.Output, StringComparison.Ordinal);
        Assert.Equal(
            0,
            (
                await demo.AboardAsync(
                    "workspace",
                    "change",
                    "--longest-stay",
                    "client=none",
                    "--blocked-domain",
                    "none"
                )
            ).Status
        );
        Assert.Equal(before, await OutputOf("workspace", "rules"));
        Assert.Equal(2, (await demo.AboardAsync("workspace", "change", "--longest-stay", "client")).Status);
        Assert.Contains("administrators", await OutputOf("workspace", "overview"), StringComparison.Ordinal);
    }

    [Fact]
    public async Task Groups_organisations_and_seats_are_worked_with_and_readiness_says_all_at_once()
    {
        Assert.Equal(0, (await demo.AboardAsync("groups", "add", "Film unit")).Status);
        Assert.Equal(0, (await demo.AboardAsync("groups", "grant", "Film unit", "--role", "reader")).Status);
        var joined = await demo.AboardAsync("groups", "join", "Film unit", "kit@slow-harbour-films.example");
        Assert.Contains("none → view", joined.Output, StringComparison.Ordinal);
        Assert.Contains(
            "Kit Hollis",
            await OutputOf("groups", "show", "film unit"),
            StringComparison.Ordinal
        );
        Assert.Equal(0, (await demo.AboardAsync("groups", "remove", "Film unit", "--yes")).Status);

        var over = await demo.AboardAsync(
            "workspace",
            "readiness",
            "--kind",
            "guest",
            "--organisation",
            "TIDE"
        );
        Assert.Equal(5, over.Status);
        foreach (var code in new[] { "role.missing", "organisation.over", "organisation.kind" })
            Assert.Contains(code, over.Output, StringComparison.Ordinal);
        Assert.Equal(0, (await demo.AboardAsync("organisations", "change", "TIDE", "--ends", "none")).Status);
        Assert.Contains("no end", await OutputOf("organisations", "show", "tide"), StringComparison.Ordinal);
        Assert.Contains(
            "Id,Name",
            await OutputOf("organisations", "list", "--csv"),
            StringComparison.Ordinal
        );

        var passed = await demo.AboardAsync(
            "seats",
            "pass",
            "Picture library licences",
            "--from",
            "delphine@slow-harbour-films.example",
            "--to",
            "ama@quayside-weddings.example"
        );
        Assert.Contains(
            "after   4 seats: 3 held, 0 reserved, 1 free; 3 changes left",
            passed.Output,
            StringComparison.Ordinal
        );
        Assert.Equal(
            5,
            (
                await demo.AboardAsync(
                    "seats",
                    "give",
                    "Duty officer's berth",
                    "ama@quayside-weddings.example"
                )
            ).Status
        );
        Assert.Equal(
            0,
            (
                await demo.AboardAsync(
                    "resources",
                    "handover",
                    "--from",
                    "kofi@lantern-tide.example",
                    "--to",
                    "ilse@lantern-tide.example",
                    "Picture library"
                )
            ).Status
        );
        Assert.Contains(
            "Ilse Varga",
            await OutputOf("resources", "show", "Picture library"),
            StringComparison.Ordinal
        );
    }

    private async Task<string> OutputOf(params string[] words)
    {
        var run = await demo.AboardAsync(words);
        Assert.True(run.Status is 0, run.Error);
        return run.Output;
    }

    [Fact]
    public async Task What_is_only_tried_changes_nothing_with_tokens_and_bounced_addresses_either()
    {
        var bounced = (await demo.AboardAsync("invitations", "bounced", "--json")).Output.Split('\n')[0];
        var address = System
            .Text.Json.JsonDocument.Parse(bounced)
            .RootElement.GetProperty("address")
            .GetString()!;
        var tried = await demo.AboardAsync("invitations", "bounced", "--forget", address, "--dry-run");
        Assert.Equal(0, tried.Status);
        Assert.Contains("Nothing was changed", tried.Error, StringComparison.Ordinal);
        Assert.Contains(address, await OutputOf("invitations", "bounced"), StringComparison.Ordinal);
        Assert.Contains(
            address,
            (await OutputOf("invitations", "bounced", "--csv"))
                .Split('\n')[1..]
                .Aggregate("", (a, b) => a + b),
            StringComparison.Ordinal
        );
        var made = (await demo.AboardAsync("tokens", "add", "night watch", "--json")).Json;
        var id = made.GetProperty("id").GetGuid().ToString();
        Assert.Equal(0, (await demo.AboardAsync("tokens", "revoke", id, "--dry-run")).Status);
        Assert.Equal(0, (await demo.AboardAsync("tokens", "revoke", id)).Status);
        Assert.Equal(4, (await demo.AboardAsync("tokens", "revoke", id, "--dry-run")).Status);
    }

    [Fact]
    public async Task An_end_is_planned_moved_and_taken_back_and_the_record_says_what_changed()
    {
        const string petra = "petra@lindqvist-family.example";
        var person = (await demo.AboardAsync("people", "show", petra, "--json")).Json;
        var agreed = person.GetProperty("until").GetString()!;
        var soon = DateOnly.Parse(agreed, System.Globalization.CultureInfo.InvariantCulture).AddDays(-20);
        Assert.Equal(
            0,
            (await demo.AboardAsync("people", "end", petra, "--on", $"{soon:yyyy-MM-dd}", "--yes")).Status
        );
        var tried = await demo.AboardAsync("people", "end", petra, "--take-back", "--dry-run");
        Assert.Contains("Nothing was changed", tried.Error, StringComparison.Ordinal);
        Assert.Equal(
            $"{soon:yyyy-MM-dd}",
            (await demo.AboardAsync("people", "show", petra, "--json")).Json.GetProperty("until").GetString()
        );
        Assert.Equal(0, (await demo.AboardAsync("people", "end", petra, "--take-back")).Status);
        Assert.Equal(5, (await demo.AboardAsync("people", "end", petra, "--take-back")).Status);
        Assert.Equal(
            agreed,
            (await demo.AboardAsync("people", "show", petra, "--json")).Json.GetProperty("until").GetString()
        );
        Assert.Contains(
            $"last day: {soon:yyyy-MM-dd} → {agreed}",
            await OutputOf("people", "show", petra),
            StringComparison.Ordinal
        );
        // Days and times are the workspace's, and say so.
        Assert.Contains("Europe/Lisbon", await OutputOf("people", "show", petra), StringComparison.Ordinal);
        Assert.Contains(
            "America/Los_Angeles",
            await OutputOf("workspace", "change", "--time-zone", "America/Los_Angeles", "--dry-run"),
            StringComparison.Ordinal
        );
        Assert.Equal(2, (await demo.AboardAsync("workspace", "change", "--time-zone", "Atlantis")).Status);
        Assert.Contains("Europe/Lisbon", await OutputOf("workspace", "show"), StringComparison.Ordinal);
    }
}
