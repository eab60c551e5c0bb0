using ComeAboard.Client.Accounts;
using ComeAboard.Client.Connections;
using ComeAboard.Service.Tests.World;
using Xunit;
using static ComeAboard.Service.Tests.World.Refusing;

namespace ComeAboard.Service.Tests;

public sealed class BringingIn_on_SQLite(SqliteHarbour harbour)
    : BringingIn(harbour),
        IClassFixture<SqliteHarbour>;

public sealed class BringingIn_on_PostgreSQL(PostgresHarbour harbour)
    : BringingIn(harbour),
        IClassFixture<PostgresHarbour>;

/// <summary>People of an outside system are paired with the people here, decided and brought in.</summary>
public abstract partial class BringingIn(Harbour harbour)
{
    private const string Name = "Harbour authority";

    [Fact]
    public async Task A_directory_is_looked_at_decided_and_brought_in_and_nothing_changes_before()
    {
        var ship = await harbour.NewShipAsync();
        await BringAsync(ship, "odd", "Odd Brygge");
        await BringAsync(ship, "benedikt", "Benedikt Havnelys");
        var directory = await Elsewhere.OfFileAsync(
            ship,
            Elsewhere.Headings
                + $"1,Odd Brygge,{ship.Address("odd").ToUpperInvariant()},Harbour authority,Berthing officer\n"
                + "2,Ben Havnelys,pilot7@harbour.example,,Pilot\n"
                + $"3,Walburga Utermöhlen,{ship.Address("walburga")},Harbour authority,Diver\n"
                + "4,Hjalmar Nattevakt,,,Watchman\n"
                + "5,Front Desk,desk@harbour.example,,\n6,Post Office,desk@harbour.example,,\n"
        );
        Assert.Equal("connection.nothing-to-do", await CodeOf(ship.Client.RunConnectionAsync(Name)));
        var read = await directory.ReadAsync();
        Assert.Null(read.Problem);
        Assert.Equal(
            (1, 1, 1, 2, 1),
            (
                read.Counts["same"],
                read.Counts["likely"],
                read.Counts["new"],
                read.Counts["conflicting"],
                read.Counts["leave-out"]
            )
        );
        Assert.Equal(
            (1, 1, 3),
            (read.Counts["to-join"], read.Counts["to-bring-in"], read.Counts["to-decide"])
        );
        var table = await directory.TableAsync();
        // What needs somebody comes first.
        Assert.Equal(
            ["conflicting", "conflicting", "likely", "new", "same", "leave-out"],
            table.Select(one => one.Verdict)
        );
        var odd = await directory.RecordAsync("1");
        Assert.Equal(("Odd Brygge", "join", ""), (odd.Person?.Name, odd.Decision, odd.DecidedBy));
        Assert.Equal(["organisation", "title"], odd.Changes.Select(one => one.Field));
        var ben = await directory.RecordAsync("2");
        Assert.Equal(("likely", "Benedikt Havnelys", ""), (ben.Verdict, ben.Person?.Name, ben.Decision));
        Assert.Contains("the given name is a short form of the other", ben.Reasons);
        // Looking at it changed nothing here.
        var before = await ship.Client.PersonAsync(ship.Address("odd"));
        Assert.Equal(("", 3), (before.Title, (await ship.Client.PeopleAsync()).Items.Count));

        // Whoever is there is suggested where somebody is named; whoever is here is suggested as such.
        var meant = Assert.Single((await ship.Client.SuggestAsync("uterm")).Items);
        Assert.Equal(("directory", ship.Address("walburga")), (meant.Source, meant.Address));
        Assert.Equal("member", Assert.Single((await ship.Client.SuggestAsync("odd b")).Items).Source);
        await directory.DecideAsync("2", "join");
        await directory.DecideAsync("5", "leave-out");
        var tried = await ship.Client.RunConnectionAsync(Name, dryRun: true);
        Assert.Equal(("doing", 3), (tried.State, tried.Total));
        Assert.Equal("resting", (await ship.Client.ConnectionAsync(Name)).State);
        var done = await directory.RunAsync();
        Assert.Equal((3, 0), (done.Counts["done"], done.Counts["refused"]));
        Assert.Equal("Berthing officer", (await ship.Client.PersonAsync(ship.Address("odd"))).Title);
        Assert.Equal("Pilot", (await ship.Client.PersonAsync(ship.Address("benedikt"))).Title);
        // Whoever was new is invited as everybody is, and joined once they have come.
        await ship.AcceptAsync(await ship.SecretAsync(ship.Address("walburga")), "Walburga U.");
        var again = await directory.ReadAsync();
        Assert.Equal(
            (3, 0, 1),
            (again.Counts["done"], again.Counts["to-bring-in"], again.Counts["to-decide"])
        );
        var walburga = await directory.RecordAsync("3");
        Assert.Equal(("same", "Walburga U."), (walburga.Verdict, walburga.Person?.Name));
        Assert.Contains("came by the invitation", walburga.Reasons[0], StringComparison.Ordinal);
        // What was decided is kept; what is open stays open.
        Assert.Equal("leave-out", (await directory.RecordAsync("5")).Decision);
        Assert.Equal("Mira Tollander", (await directory.RecordAsync("5")).DecidedBy);
        Assert.Equal("conflicting", Assert.Single(await directory.TableAsync("to-decide")).Verdict);
        var record = (await ship.Client.RecordAsync()).Items.Select(one => one.Action).ToList();
        Assert.Contains("connection.read", record);
        Assert.Contains("connection.confirmed", record);
        Assert.Equal(2, record.Count(action => action == "member.joined-record"));
        await ship.Client.VerifyRecordAsync();
    }

    [Fact]
    public async Task What_is_joined_is_kept_up_by_the_rules_and_never_touches_what_somebody_may_do()
    {
        var ship = await harbour.NewShipAsync();
        var odd = ship.Address("odd");
        await BringAsync(ship, "odd", "Odd Brygge");
        await ship.Client.Organisations.AddAsync(new("Rope works", "guest"));
        await ship.Client.ChangePersonAsync(
            odd,
            new DetailsRequest(Organisation: "Rope works", Title: "Rigger")
        );
        var access = await ship.Client.PersonAccessAsync(odd);
        var directory = await Elsewhere.OfFileAsync(
            ship,
            Row("Odd Henrik Brygge", "Harbour authority", "Berthing officer"),
            new(
                Name,
                Wins: new Dictionary<string, string> { ["title"] = "theirs", ["organisation"] = "theirs" }
            )
        );
        await directory.ReadAsync();
        await directory.RunAsync();
        var person = await ship.Client.PersonAsync(odd);
        Assert.Equal(
            ("Odd Brygge", "Rope works", "Berthing officer"),
            (person.Name, person.Organisation, person.Title)
        );
        Assert.Equivalent(access.Places, (await ship.Client.PersonAccessAsync(odd)).Places);

        // Theirs changes: it is due again, and nothing happens until somebody says so.
        await directory.HandInAsync(Row("Odd Brygge", "", "Harbour master"));
        Assert.Equal(1, (await directory.ReadAsync()).Counts["to-join"]);
        Assert.Equal("Berthing officer", (await ship.Client.PersonAsync(odd)).Title);
        await directory.RunAsync();
        Assert.Equal("Harbour master", (await ship.Client.PersonAsync(odd)).Title);
        // The same again: nothing is due.
        Assert.Equal(0, (await directory.ReadAsync()).Counts["to-join"]);
        Assert.Equal("connection.nothing-to-do", await CodeOf(ship.Client.RunConnectionAsync(Name)));

        string Row(string name, string organisation, string title) =>
            Elsewhere.Headings + $"1,{name},{odd},{organisation},{title}\n";
    }

    [Fact]
    public async Task Whoever_is_gone_there_is_suggested_and_never_ended_and_far_fewer_change_nothing()
    {
        var ship = await harbour.NewShipAsync();
        string[] locals = ["a", "b", "c", "d", "e"];
        foreach (var local in locals)
            await BringAsync(ship, local, $"Somebody {local}");
        var directory = await Elsewhere.OfFileAsync(ship, Rows(locals));
        await directory.ReadAsync();
        await directory.RunAsync();

        // Far fewer than before, nobody at all, a file that is broken: nothing changes and it says so.
        foreach (var (content, code) in ((string, string)[])[(Rows(["a"]), "connection.far-fewer")])
        {
            await directory.HandInAsync(content);
            var read = await directory.ReadAsync();
            Assert.Equal((code, 5, 0), (read.Problem?.Code, read.Counts["done"], read.Counts["gone"]));
        }
        await directory.HandInAsync(Rows(["a", "b", "c", "d"]));
        var fewer = await directory.ReadAsync();
        Assert.Equal((null, 4, 1), (fewer.Problem?.Code, fewer.Counts["done"], fewer.Counts["gone"]));
        Assert.Equal(1, (await ship.Client.OverviewAsync()).GoneThere);
        var gone = Assert.Single(await directory.TableAsync("gone"));
        Assert.Equal("Somebody e", gone.Person?.Name);
        Assert.NotNull(gone.GoneSince);
        Assert.Equal("active", (await ship.Client.PersonAsync(ship.Address("e"))).State);
        Assert.Equal("record.gone", (await directory.DecideAsync("e", "leave-out")).Refused[0].Problem.Code);
        var kept = await directory.DecideAsync("e", "stays");
        Assert.Equal((1, 0), (kept.Decided, kept.Connection.Counts["gone"]));
        await directory.DecideAsync("e", "");
        Assert.Single(await directory.TableAsync("gone"));
        // Ended by somebody, they are no suggestion any more; and back there, they do not come back by themselves.
        await ship.Client.EndAsync(ship.Address("e"));
        Assert.Empty(await directory.TableAsync("gone"));
        await directory.HandInAsync(Rows(locals));
        await directory.ReadAsync();
        var back = await directory.RecordAsync("e");
        Assert.Equal(("leave-out", "leave-out"), (back.Verdict, back.Decision));
        Assert.Equal("was here and is not any more", Assert.Single(back.Reasons));
        // Believed on purpose, however few are left.
        await directory.HandInAsync(Rows(["a"]));
        Assert.Equal(3, (await directory.ReadAsync(believe: true)).Counts["gone"]);
        Assert.Equal(
            4,
            (await ship.Client.PeopleAsync()).Items.Count(one => one.State == "active" && one.Kind == "guest")
        );

        string Rows(IEnumerable<string> some) =>
            Elsewhere.Headings
            + string.Concat(some.Select(one => $"{one},Somebody {one},{ship.Address(one)},,\n"));
    }

    [Fact]
    public async Task New_people_are_made_accounts_where_that_is_wished_and_the_domain_is_proved()
    {
        var ship = await harbour.NewShipAsync();
        var domain = $"{ship.Name}.example";
        await ship.ProveAsync(domain);
        var directory = await Elsewhere.OfFileAsync(
            ship,
            Elsewhere.Headings + $"1,Idun Havn,idun@{domain},,Pilot\n2,Odd Brygge,odd@elsewhere.example,,\n",
            new(Name, Newcomers: "add")
        );
        await directory.ReadAsync();
        var done = await directory.RunAsync();
        Assert.Equal((1, 1), (done.Counts["done"], done.Counts["refused"]));
        Assert.Equal("domain.not-shown", (await directory.RecordAsync("2")).Problem?.Code);
        var idun = await ship.Client.PersonAsync($"idun@{domain}");
        Assert.Equal(("Idun Havn", "Pilot", "staff"), (idun.Name, idun.Title, idun.Kind));
        Assert.Equal("Idun Havn", (await directory.RecordAsync("1")).Person?.Name);
        Assert.Equal(1, (await directory.ReadAsync()).Counts["same"]);
        // What was refused is tried again when it is asked for, and only then.
        Assert.Equal(1, (await directory.RunAsync()).Counts["refused"]);
        await directory.DecideAsync("2", "leave-out");
        Assert.Equal("connection.nothing-to-do", await CodeOf(ship.Client.RunConnectionAsync(Name)));
        // More than a lot holds: nobody is passed over.
        var crew = Enumerable.Range(10, 120).Select(i => $"{i},Sailor Number{i},s{i}@{domain},,\n");
        await directory.HandInAsync(
            Elsewhere.Headings + $"1,Idun Havn,idun@{domain},,Pilot\n" + string.Concat(crew)
        );
        await directory.ReadAsync();
        Assert.Equal((121, 0), ((await directory.RunAsync()).Counts["done"], 0));
        // Nobody new is brought in where that is the rule.
        var none = await ship.Client.ChangeConnectionAsync(Name, new(Name, Newcomers: "nothing"));
        Assert.Equal(("nothing", 0), (none.Newcomers, none.Counts["to-bring-in"]));
    }

    [Fact]
    public async Task Decisions_in_bulk_go_by_what_a_filter_finds()
    {
        var ship = await harbour.NewShipAsync();
        var rows = Enumerable
            .Range(0, 450)
            .Select(i => $"{i},Nobody Number{i:000},n{i}@harbour.example,Firm {i % 3},\n");
        var directory = await Elsewhere.OfFileAsync(ship, Elsewhere.Headings + string.Concat(rows));
        await directory.ReadAsync();
        Assert.Equal(450, (await directory.TableAsync()).Select(one => one.Number).Distinct().Count());
        var answer = await ship.Client.DecideAsync(
            Name,
            new DecideRequest(Decision: "leave-out", Verdict: "new", Search: "firm 1")
        );
        Assert.Equal((150, 300), (answer.Decided, answer.Connection.Counts["to-bring-in"]));
        var tried = await ship.Client.DecideAsync(
            Name,
            new DecideRequest(Decision: "leave-out"),
            dryRun: true
        );
        Assert.Equal((450, 0), (tried.Decided, tried.Connection.Counts["to-bring-in"]));
        Assert.Equal(300, (await ship.Client.ConnectionAsync(Name)).Counts["to-bring-in"]);
        await ship.Client.DecideAsync(Name, new DecideRequest(Search: "FIRM"));
        Assert.Equal(450, (await ship.Client.ConnectionAsync(Name)).Counts["to-bring-in"]);
        // Nobody can be joined in bulk with somebody nobody named.
        Assert.Equal(0, (await ship.Client.DecideAsync(Name, new DecideRequest(Decision: "join"))).Decided);
        Assert.Equal("verdict.unknown", await CodeOf(ship.Client.SourceRecordsAsync(Name, "odd")));
        Assert.Equal(
            "decision.unknown",
            await CodeOf(ship.Client.DecideAsync(Name, new DecideRequest(Decision: "maybe")))
        );
        var wrong = await ship.Client.DecideAsync(
            Name,
            new DecideRequest([
                new RecordDecision("id:1", "join"),
                new RecordDecision("id:none", "leave-out"),
                new RecordDecision("id:2", "join", "nobody@harbour.example"),
                new RecordDecision("id:3", "join", ship.Administrator),
            ])
        );
        Assert.Equal(1, wrong.Decided);
        Assert.Equal(
            ["decision.with-whom", "record.not-found", "person.not-found"],
            wrong.Refused.Select(one => one.Problem.Code)
        );
        var csv = System.Text.Encoding.UTF8.GetString(
            await ship.Client.CsvAsync("connections/harbour%20authority/records?format=csv&verdict=new")
        );
        Assert.Equal(451, csv.Trim().Split('\n').Length);
    }

    [Fact]
    public async Task Files_of_every_kind_are_read_and_what_is_none_is_refused()
    {
        var ship = await harbour.NewShipAsync();
        var directory = await Elsewhere.OfFileAsync(
            ship,
            "version: 1\n\ndn: cn=Idun Havn,o=harbour\nobjectClass: person\ncn: Idun Havn\nsn: Havn\nmail: idun@harbour.example\n",
            file: "harbour.ldif"
        );
        var test = await ship.Client.TestConnectionAsync(Name);
        Assert.Equal((1, true, "Idun Havn"), (test.Seen, test.IsWhole, test.Sample[0].Name));
        await directory.ReadAsync();
        Assert.Equal("cn=idun havn,o=harbour", Assert.Single(await directory.TableAsync()).Key);
        foreach (
            var (content, code) in ((string, string)[])
                [
                    ("", "file.empty"),
                    ("colour,shape\nred,round\n", "match.no-columns"),
                    ("id,name\n1,A\n1,B\n", "source.key-twice"),
                    ("dn: cn=a\nphoto:< file:///etc/passwd\n", "ldif.malformed"),
                    ("dn: cn=a\nchangetype: delete\n", "ldif.changes"),
                ]
        )
            Assert.Equal(code, await CodeOf(directory.HandInAsync(content)));
        Assert.Equal("harbour.ldif", (await ship.Client.ConnectionAsync(Name)).Place);
    }

    [Fact]
    public async Task Whoever_is_switched_off_there_is_suggested_as_if_they_were_gone()
    {
        var ship = await harbour.NewShipAsync();
        await BringAsync(ship, "idun", "Idun Havn");
        string Entry(string more) =>
            $"version: 1\n\ndn: cn=Idun Havn,o=harbour\nobjectClass: person\ncn: Idun Havn\nsn: Havn\nmail: {ship.Address("idun")}\n{more}";
        var directory = await Elsewhere.OfFileAsync(ship, Entry(""), file: "harbour.ldif");
        await directory.ReadAsync();
        await directory.RunAsync();
        await directory.HandInAsync(Entry("pwdAccountLockedTime: 000001010000Z\n"));
        Assert.Equal(1, (await directory.ReadAsync()).Counts["gone"]);
        var off = Assert.Single(await directory.TableAsync("gone"));
        Assert.Equal(("Idun Havn", "it is switched off there"), (off.Person?.Name, off.Reasons[0]));
        Assert.Equal("active", (await ship.Client.PersonAsync(ship.Address("idun"))).State);
        // They can have what is kept of it about them.
        using var browser = await ship.BrowserOfAsync(ship.Address("idun"));
        Assert.Contains(
            "\"connection\":\"Harbour authority\"",
            await browser.GetStringAsync("/api/v1/me/account/stored"),
            StringComparison.Ordinal
        );
        // What was said of it is kept while it stays so; let in there again, nothing is left of it.
        await ship.Client.DecideAsync(Name, new DecideRequest(Decision: "stays", Verdict: "gone"));
        Assert.Equal(0, (await directory.ReadAsync()).Counts["gone"]);
        await directory.HandInAsync(Entry(""));
        Assert.Equal(
            (0, 1),
            ((await directory.ReadAsync()).Counts["gone"], (await directory.TableAsync()).Count)
        );
        await directory.HandInAsync(Entry("pwdAccountLockedTime: 000001010000Z\n"));
        Assert.Equal(1, (await directory.ReadAsync()).Counts["gone"]);
        Assert.Equal(
            "record.gone",
            await CodeOf(ship.Client.DecideAsync(Name, new DecideRequest(Decision: "join", Verdict: "gone")))
        );
    }

    [Fact]
    public async Task Only_who_looks_after_accounts_sees_it_and_nobody_of_elsewhere()
    {
        var ship = await harbour.NewShipAsync();
        var other = await harbour.NewShipAsync();
        await Elsewhere.OfFileAsync(ship, Elsewhere.Headings + "1,Idun Havn,idun@harbour.example,,\n");
        Assert.Equal("not-found", await CodeOf(other.Client.ConnectionAsync(Name)));
        Assert.Empty((await other.Client.ConnectionsAsync()).Items);
        var id = (await ship.Client.ConnectionAsync(Name)).Id.ToString();
        Assert.Equal("not-found", await CodeOf(other.Client.RemoveConnectionAsync(id)));
        Assert.Equal(
            "not-found",
            await CodeOf(other.Client.DecideAsync(id, new DecideRequest(Decision: "leave-out")))
        );
        await BringAsync(ship, "guest", "Some Guest");
        using var guest = await ship.ClientOfAsync(ship.Address("guest"));
        Assert.Equal("right.missing", await CodeOf(guest.ConnectionsAsync()));
        Assert.Equal("right.missing", await CodeOf(guest.ReadConnectionAsync(Name)));
        Assert.Equal("right.missing", await CodeOf(guest.AddConnectionAsync(new("Mine", "file"))));

        Assert.Equal(
            "connection.exists",
            await CodeOf(ship.Client.AddConnectionAsync(new("HARBOUR authority", "file")))
        );
        Assert.Equal(
            "connection.type-unknown",
            await CodeOf(ship.Client.AddConnectionAsync(new("B", "carrier pigeon")))
        );
        Assert.Equal(
            "connection.place",
            await CodeOf(ship.Client.AddConnectionAsync(new("B", "file", "https://a.example")))
        );
        Assert.Equal("name.missing", await CodeOf(ship.Client.AddConnectionAsync(new(" ", "file"))));
        Assert.Equal(
            "connection.setting",
            await CodeOf(ship.Client.AddConnectionAsync(new("B", "file", Floor: 101)))
        );
        Assert.Equal(
            "connection.setting",
            await CodeOf(ship.Client.AddConnectionAsync(new("B", "file", EveryHours: 1)))
        );
        Assert.Equal(
            "connection.setting",
            await CodeOf(ship.Client.AddConnectionAsync(new("B", "file", Newcomers: "shout")))
        );
        Assert.Equal(
            "preset.unknown",
            await CodeOf(ship.Client.AddConnectionAsync(new("B", "file", Defaults: new(Preset: "none"))))
        );
        await ship.Client.AddConnectionAsync(new("Empty", "file"));
        Assert.Equal("connection.no-file", await CodeOf(ship.Client.TestConnectionAsync("Empty")));
        var removed = await ship.Client.RemoveConnectionAsync(Name);
        Assert.Equal(Name, removed.Name);
        Assert.Equal("not-found", await CodeOf(ship.Client.ConnectionAsync(Name)));
    }

    private static async Task BringAsync(Ship ship, string local, string name)
    {
        await ship.InviteAsync(ship.Address(local));
        await ship.AcceptAsync(await ship.SecretAsync(ship.Address(local)), name);
    }
}
