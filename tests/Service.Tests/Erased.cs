using System.Security.Cryptography;
using System.Text;
using System.Text.Json;
using System.Text.Json.Nodes;
using ComeAboard.Client;
using ComeAboard.Client.Connections;
using ComeAboard.Client.Departures;
using ComeAboard.Client.Invitations;
using ComeAboard.Service.Tests.World;
using Xunit;
using static ComeAboard.Service.Tests.World.Refusing;

namespace ComeAboard.Service.Tests;

public sealed class Erased_on_SQLite(SqliteHarbour harbour) : Erased(harbour), IClassFixture<SqliteHarbour>;

public sealed class Erased_on_PostgreSQL(PostgresHarbour harbour)
    : Erased(harbour),
        IClassFixture<PostgresHarbour>;

/// <summary>Somebody who has left is forgotten: who they were goes, that something was done stays and can be verified.</summary>
public abstract class Erased(Harbour harbour)
{
    private const string Name = "Rosalind Käthe O'Mar";
    private const string System = "Chart table";

    [Fact]
    public async Task Nothing_tells_who_they_were_and_the_record_is_whole()
    {
        var (ship, other) = (await harbour.NewShipAsync(), await harbour.NewShipAsync());
        await using var there = await ScimService.StartAsync();
        await ship.Client.AddConnectionAsync(
            new ConnectionRequest(System, "scim", there.Url, Secret: ScimService.Token, Newcomers: "nothing")
        );
        await ship.Client.AddMappingAsync(System, new MappingRequest("accounts", Role: "view"));
        var (address, namesake) = (ship.Address("rosalind"), ship.Address("namesake"));
        await ship.InviteAsync(address);
        await ship.AcceptAsync(await ship.SecretAsync(address), Name);
        await other.InviteAsync(address);
        using var browser = await ship.BrowserOfAsync(address);
        var secret = await other.SecretAsync(address, 2);
        await browser.FormAsync("/i/" + secret, $"/i/{secret}/accept-held", []);
        await ship.InviteAsync(ship.Address("withdrawn"));
        using var theirs = await ship.ClientOfAsync(address);
        await Patience.UntilAsync(there.HoldsAsync, held => held.ContainsKey(address));

        Assert.Equal("erase.here", await CodeOf(ship.Client.EraseAsync(address)));
        await there.BehaveAsync(new JsonObject { ["lies"] = "delete" });
        var departure = await ship.Client.EndAsync(address);
        Assert.Equal("erase.running", await CodeOf(ship.Client.EraseAsync(address)));
        await Patience.UntilAsync(
            () => ship.Client.DepartureAsync(departure.Id),
            now => now.Steps[^1].Answer.Length > 0
        );
        var letter = Encoding.UTF8.GetBytes($"{Name} has no account here any more. Yours, the chart table.");
        departure = await ship.Client.ConfirmStepAsync(
            departure.Id,
            System,
            "By letter.",
            new StepFile("letter.txt", letter)
        );
        var digest = Convert.ToHexStringLower(SHA256.HashData(letter));
        Assert.Equal(new StepFileView("letter.txt", digest), departure.Steps[^1].File);
        Assert.Equal(letter, (await ship.Client.StepFileAsync(departure.Id, System)).Content);
        Assert.Equal("not-found", await CodeOf(ship.Client.StepFileAsync(departure.Id, "1")));
        var keys = JsonSerializer.Serialize(
            await ship.Client.ReceiptKeysAsync(),
            WireJson.Default.ReceiptKeys
        );
        Assert.Equal(digest, ReceiptSeal.Verify(departure.Receipt!, keys).Says!.Steps[^1].File!.Sha256);

        var before = await StandingAsync(ship);
        Assert.Contains(address, before, StringComparison.OrdinalIgnoreCase);
        var elsewhere = await EveryRow.OfAsync(harbour, other);
        var planned = await ship.Client.EraseAsync(address, dryRun: true);
        Assert.Equal(before, await StandingAsync(ship));
        var done = await ship.OtherNode.EraseAsync(address);
        Assert.Equal((planned.Person, planned.Goes), (done.Person, done.Goes), Lines);
        Assert.All(
            done.Goes.Where(line => !line.What.Contains("custody") && !line.What.Contains("record")),
            line => Assert.True(line.Count > 0, line.What)
        );
        var after = await EveryRow.OfAsync(harbour, ship);
        foreach (var told in new[] { address, Name, "Rosalind", digest })
            Assert.DoesNotContain(told, after, StringComparison.OrdinalIgnoreCase);
        Assert.DoesNotContain(
            JsonSerializer.Serialize(Name).Trim('"'),
            after,
            StringComparison.OrdinalIgnoreCase
        );
        Assert.True((await ship.Client.VerifyRecordAsync()).Whole);
        Assert.Equal(elsewhere, await EveryRow.OfAsync(harbour, other));

        // What is theirs and what is others' goes on: they sign in, and are somebody new where they are asked again.
        Assert.NotEmpty((await (await other.ClientOfAsync(address)).WhoAmIAsync()).Places);
        var id = done.Person.Id.ToString();
        Assert.Equal("erase.done", await CodeOf(ship.Client.EraseAsync(id)));
        Assert.Equal("reinstate.no-departure", await CodeOf(ship.Client.ReinstateAsync(id)));
        Assert.Equal(("ended", "Erased person"), Of(await ship.Client.PersonAsync(id)));
        Assert.Equal("person.not-found", await CodeOf(ship.Client.EraseAsync(address)));
        Assert.Equal("person.not-found", await CodeOf(other.Client.EraseAsync(id)));
        Assert.Equal(("done", "Erased person"), Of(await ship.Client.DepartureAsync(departure.Id)));
        await ship.InviteAsync(address);
        await ship.BringAboardAsync(namesake);

        static (string, string) Of(object found) =>
            found is DepartureView departure
                ? (departure.State, departure.Person.Name)
                : (((Client.Accounts.PersonView)found).State, ((Client.Accounts.PersonView)found).Name);
    }

    /// <summary>Everything but how far the lane has come, which looks whether there is anything left to do.</summary>
    private async Task<string> StandingAsync(Ship ship) =>
        string.Join(
            '\n',
            (await EveryRow.OfAsync(harbour, ship))
                .Split('\n')
                .Where(line => !line.StartsWith("LaneRow", StringComparison.Ordinal))
        );

    [Fact]
    public async Task Whoever_chose_a_name_or_has_an_address_like_others_takes_nothing_of_theirs_along()
    {
        var ship = await harbour.NewShipAsync();
        await ship.Client.Groups.AddAsync(new Client.Access.GroupRequest("Night shoots"));
        var (nna, anna) = (ship.Address("nna"), ship.Address("anna"));
        await ship.BringAboardAsync(anna);
        foreach (
            var (address, name) in new[] { (nna, "Night shoots"), (ship.Address("clock"), "the service") }
        )
        {
            await ship.InviteAsync(address);
            await ship.AcceptAsync(await ship.SecretAsync(address), name);
            await ship.Client.EndAsync(address);
        }
        var before = (await ship.Client.RecordAsync(limit: 200)).Items.Where(Others).ToList();
        await ship.Client.EraseAsync(nna);
        await ship.Client.EraseAsync(ship.Address("clock"));
        Assert.Contains(
            "Night shoots",
            (await EveryRow.OfAsync(harbour, ship))
                .Split('\n')
                .Single(row => row.StartsWith("GroupRow", StringComparison.Ordinal)),
            StringComparison.Ordinal
        );
        Assert.Equal(anna, (await ship.Client.PersonAsync(anna)).Address);
        var after = (await ship.Client.RecordAsync(limit: 200)).Items.ToDictionary(entry => entry.Sequence);
        Assert.NotEmpty(before);
        Assert.All(before, entry => Assert.NotNull(after[entry.Sequence].Details));
        Assert.True((await ship.Client.VerifyRecordAsync()).Whole);

        bool Others(Client.Record.RecordEntryView entry) =>
            entry.Details?.ToString().Contains(anna, StringComparison.Ordinal) == true;
    }

    private static bool Lines(
        (LeaverView Person, IReadOnlyList<ErasedLine> Goes) one,
        (LeaverView Person, IReadOnlyList<ErasedLine> Goes) other
    ) => one.Person == other.Person && one.Goes.SequenceEqual(other.Goes);

    [Fact]
    public async Task Two_at_once_erase_once_and_lesser_duties_not_at_all()
    {
        var ship = await harbour.NewShipAsync();
        var (gone, helper) = (ship.Address("gone"), ship.Address("helper"));
        await ship.BringAboardAsync(gone);
        await ship.BringAboardAsync(helper, "staff", "edit");
        await ship.Client.EndAsync(gone);
        using var lesser = await ship.ClientOfAsync(helper);
        Assert.Equal("right.missing", await CodeOf(lesser.EraseAsync(gone)));
        var id = (await ship.Client.PersonAsync(gone)).Id.ToString();
        var codes = await Task.WhenAll(
            new[] { ship.Client, ship.OtherNode, ship.Client, ship.OtherNode }.Select(async client =>
            {
                try
                {
                    await client.EraseAsync(id);
                    return "";
                }
                catch (RefusedException no)
                {
                    return no.Problem.Code;
                }
            })
        );
        Assert.Single(codes, "");
        Assert.All(
            codes.Where(code => code.Length > 0),
            code => Assert.Contains(code, (string[])["erase.done", "version.stale"])
        );
        Assert.Single((await ship.Client.RecordAsync()).Items, entry => entry.Action == "person.erased");
    }

    [Fact]
    public async Task A_file_that_is_too_large_or_called_like_a_folder_is_refused()
    {
        var ship = await harbour.NewShipAsync();
        await using var there = await ScimService.StartAsync();
        await ship.Client.AddConnectionAsync(
            new ConnectionRequest(System, "scim", there.Url, Secret: ScimService.Token, Newcomers: "nothing")
        );
        await ship.Client.AddMappingAsync(System, new MappingRequest("accounts", Role: "view"));
        var guest = ship.Address("guest");
        await ship.BringAboardAsync(guest);
        await Patience.UntilAsync(there.HoldsAsync, held => held.ContainsKey(guest));
        await there.BehaveAsync(new JsonObject { ["lies"] = "delete" });
        var departure = await ship.Client.EndAsync(guest);
        foreach (
            var file in new[]
            {
                new StepFile("", [1]),
                new StepFile("a/b.txt", [1]),
                new StepFile("a\\b.txt", [1]),
                new StepFile("a\nb.txt", [1]),
                new StepFile(new string('x', 121), [1]),
                new StepFile("empty.txt", []),
                new StepFile("large.bin", new byte[(2 * 1024 * 1024) + 1]),
            }
        )
            Assert.Equal(
                "departure.file",
                await CodeOf(ship.Client.ConfirmStepAsync(departure.Id, System, "So it is.", file))
            );
        Assert.Null((await ship.Client.DepartureAsync(departure.Id)).Steps[^1].File);
        var tried = await ship.Client.ConfirmStepAsync(
            departure.Id,
            System,
            "So it is.",
            new StepFile("whole.bin", new byte[2 * 1024 * 1024]),
            dryRun: true
        );
        Assert.Equal("whole.bin", tried.Steps[^1].File!.Name);
        Assert.Equal("not-found", await CodeOf(ship.Client.StepFileAsync(departure.Id, System)));
    }
}
