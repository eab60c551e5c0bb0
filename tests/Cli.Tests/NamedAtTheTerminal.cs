using System.Text.Json;
using Xunit;

namespace ComeAboard.Cli.Tests;

/// <summary>What is the same at the terminal for everything with a name, on the demo world.</summary>
public sealed class NamedAtTheTerminal(Demo demo) : IClassFixture<Demo>
{
    /// <summary>Each noun, what has to be said of a new one, something to change, and what is seen of that.</summary>
    public static TheoryData<string, string[], string[], string> Nouns =>
        new()
        {
            { "groups", ["--about", "Before."], ["--about", "Afterwards."], "Afterwards." },
            { "roles", ["--sentence", "Before."], ["--sentence", "Afterwards."], "Afterwards." },
            { "resources", ["--area", "Shop"], ["--about", "Afterwards."], "Afterwards." },
            { "organisations", ["--kind", "partner"], ["--reference", "R-77"], "R-77" },
            { "seats", ["--total", "4"], ["--total", "9"], "9" },
            { "presets", ["--kind", "guest", "--role", "view"], ["--stay-days", "12"], "12 days" },
        };

    [Theory]
    [MemberData(nameof(Nouns))]
    public async Task It_is_made_looked_at_changed_renamed_and_removed_and_a_dry_run_does_none_of_it(
        string noun,
        string[] about,
        string[] change,
        string seen
    )
    {
        const string name = "Compass rose";
        var tried = await demo.AboardAsync([noun, "add", name, .. about, "--dry-run"]);
        Assert.Equal(0, tried.Status);
        Assert.Contains("Nothing was changed.", tried.Error, StringComparison.Ordinal);
        Assert.Equal(4, (await demo.AboardAsync(noun, "show", name)).Status);

        Assert.Equal(0, (await demo.AboardAsync([noun, "add", name, .. about])).Status);
        var again = await demo.AboardAsync([noun, "add", "COMPASS ROSE", .. about]);
        Assert.Equal(5, again.Status);
        Assert.Contains("name-taken", again.Error, StringComparison.Ordinal);
        Assert.Contains(name, (await demo.AboardAsync(noun, "list")).Output, StringComparison.Ordinal);

        Assert.Equal(0, (await demo.AboardAsync([noun, "change", name, .. change, "--dry-run"])).Status);
        Assert.DoesNotContain(
            seen,
            (await demo.AboardAsync(noun, "show", name)).Output.Replace(name, "", StringComparison.Ordinal),
            StringComparison.Ordinal
        );
        Assert.Equal(0, (await demo.AboardAsync([noun, "change", "compass ROSE", .. change])).Status);
        Assert.Contains(seen, (await demo.AboardAsync(noun, "show", name)).Output, StringComparison.Ordinal);

        // What is not said stays; what is not there is said, with its own exit status.
        Assert.Equal(0, (await demo.AboardAsync(noun, "change", name, "--name", "Binnacle")).Status);
        var renamed = await demo.AboardAsync(noun, "show", "binnacle", "--json");
        using var one = JsonDocument.Parse(renamed.Output);
        Assert.Equal("Binnacle", one.RootElement.GetProperty("name").GetString());
        Assert.Equal(3, one.RootElement.GetProperty("version").GetInt32());
        Assert.Equal(4, (await demo.AboardAsync([noun, "change", name, .. change])).Status);
        var lines = (await demo.AboardAsync(noun, "list", "--json")).Output.Split(
            '\n',
            StringSplitOptions.RemoveEmptyEntries
        );
        Assert.Contains(
            lines,
            line => JsonDocument.Parse(line).RootElement.GetProperty("name").GetString() == "Binnacle"
        );

        // Nobody is asked where nobody can answer: without a terminal and without --yes nothing is removed.
        Assert.Equal(0, (await demo.AboardAsync(noun, "remove", "Binnacle", "--dry-run")).Status);
        Assert.Equal(0, (await demo.AboardAsync(noun, "show", "Binnacle")).Status);
        var removed = await demo.AboardAsync(noun, "remove", "Binnacle", "--yes");
        Assert.Equal(0, removed.Status);
        Assert.Contains("Binnacle", removed.Output, StringComparison.Ordinal);
        Assert.Contains($"Next: aboard {noun} list", removed.Error, StringComparison.Ordinal);
        Assert.Equal(4, (await demo.AboardAsync(noun, "remove", "Binnacle", "--yes")).Status);
    }

    [Theory]
    [InlineData("groups")]
    [InlineData("roles")]
    [InlineData("resources")]
    [InlineData("organisations")]
    [InlineData("seats")]
    [InlineData("presets")]
    [InlineData("links", "Label")]
    [InlineData("batches")]
    [InlineData("tokens", "Label")]
    public async Task A_list_as_csv_has_a_heading_and_a_line_for_each_and_words_in_every_cell(
        string noun,
        string column = "Name"
    )
    {
        var csv = await demo.AboardAsync(noun, "list", "--csv");
        Assert.Equal(0, csv.Status);
        var lines = csv.Output.Split("\r\n", StringSplitOptions.RemoveEmptyEntries);
        var json = (await demo.AboardAsync(noun, "list", "--json")).Output.Split(
            '\n',
            StringSplitOptions.RemoveEmptyEntries
        );
        Assert.Equal(json.Length + 1, lines.Length);
        Assert.Contains(column, lines[0], StringComparison.Ordinal);
        // The name of a type in a cell would be of no use to anybody.
        Assert.DoesNotContain("ComeAboard.", csv.Output, StringComparison.Ordinal);
        Assert.DoesNotContain("System.", csv.Output, StringComparison.Ordinal);
    }

    [Fact]
    public async Task What_is_said_wrong_is_wrong_usage_and_names_the_option()
    {
        var missing = await demo.AboardAsync("seats", "add", "Berths");
        Assert.Equal(2, missing.Status);
        Assert.Contains("--total", missing.Error, StringComparison.Ordinal);
        Assert.Equal(2, (await demo.AboardAsync("resources", "add", "Locker")).Status);
        Assert.Equal(2, (await demo.AboardAsync("roles", "add", "Nobody")).Status);
        Assert.Equal(2, (await demo.AboardAsync("organisations", "add", "Us", "--kind", "staff")).Status);
        foreach (
            var (words, says) in new (string[], string)[]
            {
                (["links", "add", "x", "--cap", "many", "--kind", "guest"], "--cap"),
                (["people", "pause", "--raeson", "x"], "There is no option --raeson here."),
                (["invitations", "list", "--sort"], "--sort"),
            }
        )
        {
            var wrong = await demo.AboardAsync(words);
            Assert.Equal(2, wrong.Status);
            Assert.Contains(says, wrong.Error, StringComparison.Ordinal);
            // The help of the command that was meant, not of all of them.
            Assert.Contains(
                $"See: aboard {words[0]} {words[1]} --help",
                wrong.Error,
                StringComparison.Ordinal
            );
            Assert.DoesNotContain("System.", wrong.Error, StringComparison.Ordinal);
        }
    }
}
