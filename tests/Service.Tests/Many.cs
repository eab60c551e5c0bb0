using System.IO.Compression;
using System.Text;
using ComeAboard.Client.Invitations;
using ComeAboard.Client.Workspaces;
using ComeAboard.Service.Invitations;
using ComeAboard.Service.Tests.World;
using ComeAboard.Standins.Mail;
using ComeAboard.Storage.Invitations;
using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.DependencyInjection;
using Xunit;
using static ComeAboard.Service.Tests.World.Refusing;

namespace ComeAboard.Service.Tests;

public sealed class Many_on_SQLite(SqliteHarbour harbour) : Many(harbour), IClassFixture<SqliteHarbour>;

public sealed class Many_on_PostgreSQL(PostgresHarbour harbour)
    : Many(harbour),
        IClassFixture<PostgresHarbour>;

/// <summary>Inviting many at once: lists, verdicts, join links, presets, approval.</summary>
public abstract class Many(Harbour harbour)
{
    [Fact]
    public async Task A_file_that_is_small_and_means_a_great_deal_is_refused_before_it_is_made_into_rows()
    {
        var ship = await harbour.NewShipAsync();
        // One cell in the very last column, and one in the very last row, and what the sheet says of how far it goes: or nothing,
        // or less. Of another sheet nothing is read, wherever in the file it stands.
        foreach (
            var (cell, row, says, other, code) in new[]
            {
                ("XFD1", 1, "A1:XFD1", null, "file.too-wide"),
                ("XFD1", 1, null, null, "file.too-wide"),
                ("XFD1", 1, "A1", null, "file.too-wide"),
                ("XFD1", 1, "A1:B1", null, "file.too-wide"),
                ("XFD1", 1, "a1:xfd1", "A1:B1", "file.too-wide"),
                ("XFD1", 1, null, "A1:B1", "file.too-wide"),
                ("A1048576", 1_048_576, "A1:XFD1048576", null, "file.too-wide"),
                ("A1048576", 1_048_576, null, null, "file.empty"),
                ("B1", 1, "A1", null, "file.empty"),
                ("B1", 1, "A1:B1", "A1:XFD1", "file.empty"),
                ("B1", 1, null, "A1:XFD1", "file.empty"),
            }
        )
            Assert.Equal(
                (cell, says, other, code),
                (
                    cell,
                    says,
                    other,
                    await CodeOf(
                        ship.Client.CheckBatchAsync(
                            new MemoryStream(WorkbookOf(cell, row, says, other)),
                            "x.xlsx",
                            new BatchDefaults("guest", "view")
                        )
                    )
                )
            );
        var wide =
            "Address," + string.Join(',', Enumerable.Range(0, 300).Select(n => $"c{n}")) + "\na@x.example";
        Assert.Equal(
            "file.too-wide",
            await CodeOf(
                ship.Client.CheckBatchAsync(FileOf(wide), "x.csv", new BatchDefaults("guest", "view"))
            )
        );
    }

    [Fact]
    public async Task One_person_gets_no_more_than_a_few_mails_a_day_whoever_causes_them()
    {
        var ship = await harbour.NewShipAsync();
        var ines = ship.Address("ines");
        var sent = await ship.InviteAsync(ines);
        for (var n = 1; n < Core.Invitations.InvitingRules.MostMailsADay; n++)
        {
            await ship.SecretAsync(ines, n);
            while ((await ship.Client.InvitationAsync(sent.Id)).State != "sent")
                await Task.Delay(20);
            await ship.Client.ResendInvitationAsync(sent.Id);
        }
        await ship.SecretAsync(ines, Core.Invitations.InvitingRules.MostMailsADay);
        while ((await ship.Client.InvitationAsync(sent.Id)).State != "sent")
            await Task.Delay(20);
        Assert.Equal("address.mailed-enough", await CodeOf(ship.Client.ResendInvitationAsync(sent.Id)));
        Assert.Equal("address.mailed-enough", await CodeOf(ship.Client.RemindAsync(sent.Id)));
        await ship.Client.RevokeInvitationAsync(sent.Id);
        Assert.Equal("address.mailed-enough", await CodeOf(ship.InviteAsync(ines)));
        await harbour.LetPassAsync(TimeSpan.FromDays(1.1));
        await ship.InviteAsync(ines);
    }

    /// <summary>A workbook of one sheet with an address and one more cell.</summary>
    private static byte[] WorkbookOf(string cell, int row, string? says, string? other)
    {
        const string Main = "http://schemas.openxmlformats.org/spreadsheetml/2006/main";
        const string Of = "http://schemas.openxmlformats.org/officeDocument/2006/relationships";
        const string Package = "http://schemas.openxmlformats.org/package/2006/relationships";
        using var file = new MemoryStream();
        using (
            var zip = new System.IO.Compression.ZipArchive(
                file,
                System.IO.Compression.ZipArchiveMode.Create,
                true
            )
        )
        {
            Put(
                "[Content_Types].xml",
                "<Types xmlns=\"http://schemas.openxmlformats.org/package/2006/content-types\"><Default Extension=\"rels\" ContentType=\"application/vnd.openxmlformats-package.relationships+xml\"/><Default Extension=\"xml\" ContentType=\"application/xml\"/></Types>"
            );
            Put(
                "_rels/.rels",
                $"<Relationships xmlns=\"{Package}\"><Relationship Id=\"r1\" Type=\"{Of}/officeDocument\" Target=\"xl/workbook.xml\"/></Relationships>"
            );
            Put(
                "xl/workbook.xml",
                $"<workbook xmlns=\"{Main}\" xmlns:r=\"{Of}\"><sheets><sheet name=\"a\" sheetId=\"1\" r:id=\"r1\"/>{(other is null ? "" : "<sheet name=\"b\" sheetId=\"2\" r:id=\"r2\"/>")}</sheets></workbook>"
            );
            Put(
                "xl/_rels/workbook.xml.rels",
                $"<Relationships xmlns=\"{Package}\"><Relationship Id=\"r1\" Type=\"{Of}/worksheet\" Target=\"worksheets/sheet1.xml\"/>{(other is null ? "" : $"<Relationship Id=\"r2\" Type=\"{Of}/worksheet\" Target=\"worksheets/sheet2.xml\"/>")}</Relationships>"
            );
            if (other is not null)
                Put(
                    "xl/worksheets/sheet2.xml",
                    $"<worksheet xmlns=\"{Main}\"><dimension ref=\"{other}\"/><sheetData><row r=\"1\"><c r=\"A1\" t=\"inlineStr\"><is><t>x</t></is></c></row></sheetData></worksheet>"
                );
            var far = $"<c r=\"{cell}\" t=\"inlineStr\"><is><t>x</t></is></c>";
            Put(
                "xl/worksheets/sheet1.xml",
                $"<worksheet xmlns=\"{Main}\">{(says is null ? "" : $"<dimension ref=\"{says}\"/>")}<sheetData><row r=\"1\"><c r=\"A1\" t=\"inlineStr\"><is><t>Address</t></is></c>{(row == 1 ? far : "")}</row>{(row == 1 ? "" : $"<row r=\"{row}\">{far}</row>")}</sheetData></worksheet>"
            );

            void Put(string name, string text)
            {
                using var part = new StreamWriter(zip.CreateEntry(name).Open());
                part.Write(text);
            }
        }
        return file.ToArray();
    }

    [Fact]
    public async Task A_file_is_judged_mended_and_sent_and_running_it_again_invites_nobody_twice()
    {
        var ship = await harbour.NewShipAsync();
        await ship.BringAboardAsync(ship.Address("kofi"));
        var invited = await ship.InviteAsync(ship.Address("sunniva"));
        var csv = $"""
            Nachname;E-Mail;Art;Ende;Shoe size
            Calloway;{ship.Address("ines")};Gast;31.1.2030;38
            Ines;{ship.Address("INES")};guest;;
            Kofi;{ship.Address("kofi")};guest;;
            Sunniva;{ship.Address("sunniva")};guest;;
            Odd;odd@@{ship.Name}-guests.example;guest;;
            Late;{ship.Address("late")};guest;2020-01-01;
            Loom;{ship.Address("loom")};crewmate;;
            Quay;{ship.Address("quay")};;;
            """;
        var check = await ship.Client.CheckBatchAsync(
            FileOf(csv),
            "crew.csv",
            new BatchDefaults("partner", "view")
        );
        Assert.Equal(
            [
                (1, "ready"),
                (2, "repeated"),
                (3, "member"),
                (4, "invited"),
                (5, "wrong"),
                (6, "wrong"),
                (7, "wrong"),
                (8, "ready"),
            ],
            check.Items.OrderBy(e => e.Number).Select(e => (e.Number, e.Verdict))
        );
        Assert.Equal(["Shoe size"], check.UnknownColumns);
        Assert.Equal(invited.Id, check.Items.Single(e => e.Number == 4).Problem!.Related);
        Assert.Equal(check.Entries, check.Counts.Values.Sum());
        Assert.Empty((await ship.Client.BatchesAsync()).Items);

        var batch = await AddAsync(ship, csv, new BatchDefaults("partner", "view"), send: false);
        Assert.Equal(0, batch.Counts["sent"]);
        Assert.Equal("batch.nothing-ready", await CodeOf(SendNothingAsync(ship)));
        foreach (
            var (number, mend) in new (int, MendRequest)[]
            {
                (5, new(Address: ship.Address("odd"))),
                (6, new(Until: new DateOnly(2030, 5, 1))),
                (7, new(Kind: "client")),
            }
        )
            Assert.Equal("ready", (await ship.Client.MendAsync(batch.Id, number, mend)).Verdict);
        Assert.Equal(
            "repeated",
            (await ship.Client.MendAsync(batch.Id, 8, new(Address: ship.Address("odd")))).Verdict
        );
        await ship.Client.MendAsync(batch.Id, 8, new(Address: ship.Address("quay")));
        await ship.Client.SendBatchAsync(batch.Id);
        batch = await RestAsync(ship, batch.Id);
        Assert.Equal((5, 8), (batch.Counts["sent"], batch.Counts.Values.Sum()));
        Assert.Equal("entry.sent", await CodeOf(ship.Client.MendAsync(batch.Id, 1, new(Name: "x"))));

        var loom = (await ship.Client.InvitationsAsync(search: "loom")).Items.Single();
        Assert.Equal(("client", "Loom", batch.Id), (loom.Kind, loom.FamilyName, loom.BatchId!.Value));
        await ship.Client.DeclineAsync(new DeclineRequest(await ship.SecretAsync(ship.Address("ines"))));
        // The very same file is its first run, whoever hands it in and however often at once.
        var record = (await ship.Client.VerifyRecordAsync()).Entries;
        var same = await Task.WhenAll(
            Enumerable
                .Range(0, 4)
                .Select(_ =>
                    ship.OtherNode.AddBatchAsync(
                        FileOf(csv),
                        "again.csv",
                        new BatchDefaults("partner", "view"),
                        true
                    )
                )
        );
        Assert.All(same, list => Assert.Equal((batch.Id, true), (list.Id, list.HandedInBefore)));
        Assert.Equal(record, (await ship.Client.VerifyRecordAsync()).Entries);
        // With other wishes it is a list of its own, and still invites nobody twice.
        var again = await AddAsync(ship, csv, new BatchDefaults("client", "view"), send: true);
        Assert.Equal((0, 8), (again.Counts["sent"], again.Counts.Values.Sum()));
        Assert.Equal("declined", (await ship.Client.InvitationsAsync(search: "ines")).Items.Single().State);
        var results = Encoding.UTF8.GetString(await ship.Client.BatchResultsAsync(batch.Id));
        Assert.Contains("declined", results, StringComparison.Ordinal);
        Assert.True((await ship.Client.VerifyRecordAsync()).Whole);

        async Task SendNothingAsync(Ship of)
        {
            var empty = await AddAsync(
                of,
                $"Address\n{of.Administrator}\n",
                new BatchDefaults(Kind: "guest", Role: "view"),
                false
            );
            await of.Client.SendBatchAsync(empty.Id);
        }
    }

    [Fact]
    public async Task A_file_that_was_held_is_sent_when_it_is_handed_in_to_be_sent()
    {
        var ship = await harbour.NewShipAsync();
        var csv = $"Address\n{ship.Address("a")}\n{ship.Address("b")}\n";
        var defaults = new BatchDefaults("guest", "view");
        var held = await AddAsync(ship, csv, defaults, send: false);
        var sent = await AddAsync(ship, csv, defaults, send: true);
        Assert.Equal((held.Id, 2), (sent.Id, sent.Counts["sent"]));
        Assert.Single((await ship.Client.BatchesAsync()).Items);
    }

    [Fact]
    public async Task An_open_quotation_mark_holds_up_its_own_row_only_and_surplus_cells_are_named()
    {
        var ship = await harbour.NewShipAsync();
        foreach (var last in (string[])["Kofi", "\"Kofi\"", "Kofi \"Ko\" Adu", "\"Kofi, \"\"Ko\"\" Adu\""])
        {
            var check = await CheckAsync(
                ship,
                $"Address,Name\n{ship.Address("ines")},\"Ines\n{ship.Address("oona")},Oona,deck,7\n{ship.Address("kofi")},{last}\n"
            );
            Assert.Equal(
                [(1, "wrong"), (2, "ready"), (3, "ready")],
                check.Items.OrderBy(e => e.Number).Select(e => (e.Number, e.Verdict))
            );
            var open = check.Items.Single(e => e.Number == 1);
            Assert.Equal(("row.quote", ship.Address("ines")), (open.Problem!.Code, open.Address));
            var note = Assert.Single(check.Items.Single(e => e.Number == 2).Notes);
            Assert.Equal("row.not-read", note.Code);
            Assert.Contains("\"deck\", \"7\"", note.Sentence, StringComparison.Ordinal);
        }
        var list = await AddAsync(
            ship,
            $"Address,Name\n{ship.Address("ines")},\"Ines\n{ship.Address("oona")},Oona,deck\n",
            new BatchDefaults("guest", "view"),
            true
        );
        Assert.Equal((1, 1), (list.Counts["sent"], list.Counts["wrong"]));
        Assert.NotEmpty((await ship.Client.BatchEntriesAsync(list.Id, "sent")).Items.Single().Notes);
        Assert.Equal("ready", (await ship.Client.MendAsync(list.Id, 1, new(Name: "Ines"))).Verdict);
    }

    [Fact]
    public async Task However_its_letters_are_written_a_file_is_read_and_that_is_said()
    {
        var ship = await harbour.NewShipAsync();
        var csv =
            $"Adresse;Name;Erster Tag;Gültig bis\n{ship.Address("ines")};Väinö Šubrt;1.2.2030;28.2.2030\n";
        var western = System.Text.CodePagesEncodingProvider.Instance.GetEncoding(1252)!;
        foreach (
            var (bytes, encoding) in new (byte[], string)[]
            {
                (Encoding.UTF8.GetBytes(csv), "UTF-8"),
                ([.. Encoding.UTF8.Preamble, .. Encoding.UTF8.GetBytes(csv)], "UTF-8"),
                ([.. Encoding.Unicode.Preamble, .. Encoding.Unicode.GetBytes(csv)], "UTF-16"),
                (
                    [.. Encoding.BigEndianUnicode.Preamble, .. Encoding.BigEndianUnicode.GetBytes(csv)],
                    "UTF-16"
                ),
                (Encoding.Unicode.GetBytes(csv), "UTF-16"),
                (Encoding.BigEndianUnicode.GetBytes(csv), "UTF-16"),
                (western.GetBytes(csv), "Windows-1252"),
            }
        )
        {
            var check = await ship.Client.CheckBatchAsync(
                new MemoryStream(bytes),
                "crew.csv",
                new BatchDefaults("guest", "view")
            );
            var entry = Assert.Single(check.Items);
            Assert.Equal(
                (encoding, "ready", "Väinö Šubrt", 0),
                (check.Encoding, entry.Verdict, entry.Name, check.UnknownColumns.Count)
            );
        }
    }

    [Fact]
    public async Task However_large_a_file_is_every_row_is_read_as_it_stands_and_nothing_is_kept_of_it_afterwards()
    {
        var ship = await harbour.NewShipAsync();
        // Three megabytes: fifty parts, cut within rows and within letters of two bytes. Nobody asks for the remarks.
        var remark = string.Concat(Enumerable.Repeat("Ölzeug, gelb; ", 250));
        var rows = Enumerable
            .Range(0, 800)
            .Select(n =>
                $"{ship.Address("row" + n)},Günther Nº{n} Åkerström,\"{remark}{new string('é', n % 7)}\""
            );
        var list = await AddAsync(
            ship,
            "Address,Name,Remarks\n" + string.Join('\n', rows) + "\n\n,,\n",
            new BatchDefaults("guest", "view"),
            false
        );
        Assert.Equal((800, 800), (list.Total, list.Counts["ready"]));
        var entries = new List<BatchEntryView>();
        for (string? cursor = null; entries.Count < 800; )
        {
            var page = await ship.Client.BatchEntriesAsync(list.Id, cursor: cursor, limit: 200);
            entries.AddRange(page.Items);
            cursor = page.Next;
        }
        Assert.All(entries, entry => Assert.Equal($"Günther Nº{entry.Number - 1} Åkerström", entry.Name));
        await using var kept = harbour.Database.Open(ship.Id);
        Assert.Empty(await kept.BatchParts.ToListAsync());
    }

    [Theory]
    [InlineData("Address\n", 2)]
    [InlineData("Name\nInes\n", 1)]
    [InlineData(null, 1)]
    public async Task A_list_of_which_something_is_lost_stops_and_says_so(string? csv, int total)
    {
        var ship = await harbour.NewShipAsync();
        var administrator = await ship.Client.PersonAsync(ship.Administrator);
        var id = Guid.CreateVersion7();
        await using (var rows = harbour.Database.Open(ship.Id))
        {
            if (csv is not null)
                rows.BatchParts.Add(
                    new BatchPartRow
                    {
                        WorkspaceId = ship.Id,
                        BatchId = id,
                        Number = 0,
                        Csv = Encoding.UTF8.GetBytes(csv + (total > 1 ? ship.Address("ines") : "")),
                    }
                );
            rows.Batches.Add(
                new BatchRow
                {
                    WorkspaceId = ship.Id,
                    Id = id,
                    Name = "crew.csv",
                    Format = "csv",
                    Digest = "",
                    State = BatchState.Reading,
                    Defaults = """{"kind":"guest","role":"view"}""",
                    Total = total,
                    CreatedBy = administrator.Id,
                    CreatedByName = administrator.Name,
                    CreatedAt = harbour.Clock.GetUtcNow(),
                }
            );
            await rows.SaveChangesAsync();
        }
        var list = await Patience.UntilAsync(
            () => ship.Client.BatchAsync(id),
            batch => batch.State != "reading"
        );
        Assert.Equal(("stopped", "What was handed in is no longer there."), (list.State, list.Fault));
    }

    [Fact]
    public async Task A_table_that_is_pasted_is_read_by_its_headings_and_without_them_names_what_it_leaves_out()
    {
        var ship = await harbour.NewShipAsync();
        var defaults = new BatchDefaults("guest", "view");
        var headed = await ship.Client.CheckPastedAsync(
            new(
                $"Name\tPier\tE-Mail\tArt\nInes Calloway\t4\t{ship.Address("ines")}\tKundin\n",
                null,
                defaults
            )
        );
        Assert.Equal(
            ("Ines Calloway", "client", "ready"),
            headed.Items.Select(e => (e.Name, e.Kind, e.Verdict)).Single()
        );
        Assert.Equal(["Pier"], headed.UnknownColumns);
        var bare = await ship.Client.CheckPastedAsync(
            new(
                $"1.\tInes Calloway\tPier 4\t{ship.Address("ines")}\nCc: {ship.Address("kofi")}\n",
                null,
                defaults
            )
        );
        Assert.Equal(
            [("Ines Calloway", "ready"), ("", "ready")],
            bare.Items.OrderBy(e => e.Number).Select(e => (e.Name, e.Verdict))
        );
        Assert.Contains(
            "Pier 4",
            Assert.Single(bare.Items.Single(e => e.Number == 1).Notes).Sentence,
            StringComparison.Ordinal
        );
    }

    [Fact]
    public async Task A_pasted_list_gets_its_verdicts_and_offers_what_was_meant()
    {
        var ship = await harbour.NewShipAsync();
        var request = new PastedRequest(
            $"Dr Ines <{ship.Address("ines")}>, {ship.Address("oona")}; oona@{ship.Name}-guests,example nonsense\n\"Kofi\" <kofi@{ship.Name.Replace("tide", "tdie")}.example>",
            "friends",
            new BatchDefaults("guest", "view")
        );
        var check = await ship.Client.CheckPastedAsync(request);
        Assert.Equal(check.Entries, check.Counts.Values.Sum());
        var slip = check.Items.Single(e => e.Notes.Count > 0);
        Assert.Equal(("ready", $"kofi@{ship.Name}.example"), (slip.Verdict, slip.Suggestion));
        var batch = await RestAsync(ship, (await ship.Client.AddPastedAsync(request)).Id);
        Assert.Equal(("friends", check.Counts["ready"]), (batch.Name, batch.Counts["ready"]));
        Assert.Equal("file.empty", await CodeOf(ship.Client.AddPastedAsync(new PastedRequest(" \n,;"))));
    }

    [Fact]
    public async Task Files_that_are_none_or_hold_too_much_are_refused_and_formulas_are_made_plain()
    {
        var ship = await harbour.NewShipAsync();
        var bomb = new MemoryStream();
        using (var zip = new ZipArchive(bomb, ZipArchiveMode.Create, true))
        {
            using var part = zip.CreateEntry("xl/worksheets/sheet1.xml", CompressionLevel.Fastest).Open();
            var zeros = new byte[1024 * 1024];
            for (var i = 0; i < 600; i++)
                part.Write(zeros);
        }
        Assert.Equal("file.too-large", await CodeOf(Check(bomb.ToArray())));
        Assert.Equal("file.not-readable", await CodeOf(Check([(byte)'P', (byte)'K', 3, 4, 1, 2, 3])));
        Assert.Equal("file.empty", await CodeOf(Check([])));
        Assert.Equal("sheet.no-address", await CodeOf(Check("a,b\n1,2\n"u8.ToArray())));
        var template = await ship.Client.BatchTemplateAsync("xlsx", "de");
        Assert.Equal("file.empty", await CodeOf(Check(template[..]))); // headings understood, no rows

        var evil = await AddAsync(
            ship,
            $"Address,Name\n{ship.Address("eve")},=1+1\n",
            new BatchDefaults("guest", "view"),
            true
        );
        var results = Encoding.UTF8.GetString(await ship.Client.BatchResultsAsync(evil.Id));
        Assert.Contains("'=1+1", results, StringComparison.Ordinal);
        var list = Encoding.UTF8.GetString(await ship.Client.ExportInvitationsAsync(search: "eve"));
        Assert.Contains("'=1+1", list, StringComparison.Ordinal);

        Task<BatchCheck> Check(byte[] file) =>
            ship.Client.CheckBatchAsync(new MemoryStream(file), "list", new BatchDefaults());
    }

    [Fact]
    public async Task No_more_people_come_in_by_a_join_link_than_it_is_for_however_many_try_at_once()
    {
        var ship = await harbour.NewShipAsync();
        var made = await ship.Client.AddLinkAsync(
            new JoinLinkRequest(
                "harbour day",
                "guest",
                "view",
                Cap: 7,
                StayDays: 3,
                Domains: [$"{ship.Name}-guests.example"]
            )
        );
        Assert.StartsWith("<svg", made.QrSvg, StringComparison.Ordinal);
        Assert.Equal([0x89, (byte)'P', (byte)'N', (byte)'G'], Convert.FromBase64String(made.QrPng)[..4]);
        var secret = made.Address[^43..];
        Assert.Equal(
            "link.domain",
            await CodeOf(ship.Client.AskByLinkAsync(new JoinRequest(secret, "x@elsewhere.example")))
        );
        var addresses = Enumerable.Range(1, 30).Select(n => ship.Address("deckhand" + n)).ToList();
        foreach (var address in addresses)
            await ship.Client.AskByLinkAsync(new JoinRequest(secret, address, "Deck Hand"));
        // Asking again, or for somebody who is here, tells the same.
        await ship.Client.AskByLinkAsync(new JoinRequest(secret, addresses[0]));
        var secrets = await Task.WhenAll(addresses.Select(address => ship.SecretAsync(address)));
        var codes = await Task.WhenAll(
            secrets
                .Concat(secrets.Take(20))
                .Select((one, n) => AcceptAsync(n % 2 == 0 ? ship.Client : ship.OtherNode, one))
        );
        Assert.Equal(7, codes.Count(code => code == "in"));
        Assert.All(
            codes,
            code => Assert.Contains(code, new[] { "in", "link.used-up", "link.used", "account.exists" })
        );
        var link = await ship.Client.LinkAsync(made.Link.Id);
        Assert.Equal((7, "used up"), (link.Uses, link.State));
        Assert.Equal("link.used-up", await CodeOf(ship.Client.ReadJoinLinkAsync(secret)));

        var plan = await ship.Client.EndLinkPeopleAsync(link.Id, dryRun: true);
        Assert.Equal(7, plan.Ended.Count);
        await ship.Client.EndLinkPeopleAsync(link.Id, dryRun: false);
        Assert.Empty((await ship.Client.EndLinkPeopleAsync(link.Id, true)).Ended);

        static async Task<string> AcceptAsync(Client.AboardClient client, string secret)
        {
            try
            {
                await client.AcceptAsync(new AcceptRequest(secret, Ship.Password, "Deck Hand"));
                return "in";
            }
            catch (Client.RefusedException refused)
            {
                return refused.Problem.Code;
            }
        }
    }

    [Fact]
    public async Task A_closed_or_renewed_link_lets_nobody_in_not_even_by_invitations_it_led_to()
    {
        var ship = await harbour.NewShipAsync();
        var made = await ship.Client.AddLinkAsync(new JoinLinkRequest("day", "guest", "view"));
        var ines = ship.Address("ines");
        await ship.Client.AskByLinkAsync(new JoinRequest(made.Address[^43..], ines));
        var secret = await ship.SecretAsync(ines);
        var renewed = await ship.Client.RenewLinkAsync(made.Link.Id);
        Assert.Equal("link.unknown", await CodeOf(ship.Client.ReadJoinLinkAsync(made.Address[^43..])));
        Assert.Equal("guest", (await ship.Client.ReadJoinLinkAsync(renewed.Address[^43..])).Kind);
        await ship.Client.CloseLinkAsync(made.Link.Id);
        Assert.Equal("link.closed", await CodeOf(ship.AcceptAsync(secret, "Ines")));
    }

    [Fact]
    public async Task Where_approval_is_due_nobody_is_in_before_it_and_a_refusal_is_final()
    {
        var ship = await harbour.NewShipAsync();
        var rules = await ship.Client.RulesAsync();
        await ship.Client.ChangeRulesAsync(rules with { Approval = ["guest"] });
        var (ines, kofi) = (ship.Address("ines"), ship.Address("kofi"));
        var waiting = new List<Guid>();
        foreach (var address in new[] { ines, kofi })
        {
            var sent = await ship.InviteAsync(address);
            var answer = await ship.AcceptAsync(await ship.SecretAsync(address), address.Split('@')[0]);
            Assert.Null(answer.MemberId);
            waiting.Add(sent.Id);
        }
        Assert.Equal("person.not-found", await CodeOf(ship.Client.PersonAsync(ines)));
        Assert.Equal(2, (await ship.Client.InvitationsAsync("waiting")).Items.Count);
        Assert.Equal("address.invited", await CodeOf(ship.InviteAsync(ines)));
        Assert.Equal("accepted", (await ship.Client.ApproveAsync(waiting[0])).State);
        Assert.Equal("active", (await ship.Client.PersonAsync(ines)).State);
        await ship.MailAsync(ines, "You are aboard");
        Assert.Equal("refused", (await ship.Client.RefuseAsync(waiting[1], "The deck is full.")).State);
        Assert.Contains(
            "The deck is full.",
            await ship.MailAsync(kofi, "Not approved"),
            StringComparison.Ordinal
        );
        Assert.Equal("invitation.final", await CodeOf(ship.Client.ApproveAsync(waiting[1])));
        Assert.Equal("person.not-found", await CodeOf(ship.Client.PersonAsync(kofi)));
    }

    [Fact]
    public async Task A_preset_fills_in_what_is_not_said_and_rules_guard_the_rest()
    {
        var ship = await harbour.NewShipAsync();
        await ship.Client.Presets.AddAsync(
            new PresetRequest("Researcher", "guest", "edit", 10, "Tide", "Welcome.")
        );
        Assert.Equal(
            "preset.name-taken",
            await CodeOf(ship.Client.Presets.AddAsync(new PresetRequest("RESEARCHER", "guest", "view")))
        );
        var sent = await ship.Client.SendInvitationAsync(
            new InvitationRequest(ship.Address("ines")) { Preset = "researcher" },
            "k1"
        );
        Assert.Equal(
            ("guest", "edit", "Tide", "Welcome."),
            (sent.Kind, sent.Role, sent.Organisation, sent.Message)
        );
        Assert.Equal((await ship.Client.WorkspaceAsync()).Today.AddDays(9), sent.Until);
        var rules = await ship.Client.RulesAsync();
        await ship.Client.ChangeRulesAsync(
            rules with
            {
                HostForOutsiders = true,
                LongestStayDays = new Dictionary<string, int> { ["guest"] = 5 },
            }
        );
        Assert.Equal("rule.host-needed", await CodeOf(ship.InviteAsync(ship.Address("kofi"))));
        var hosted = new InvitationRequest(ship.Address("kofi"), "guest", "view", Until: sent.Until)
        {
            Host = ship.Administrator,
        };
        Assert.Equal("rule.stay-too-long", await CodeOf(ship.Client.SendInvitationAsync(hosted, "k2")));
        Assert.Equal("blocked", (await ship.Client.PreviewInvitationAsync(hosted)).Verdict);
        Assert.Equal(
            "host.unknown",
            await CodeOf(ship.Client.SendInvitationAsync(hosted with { Host = "x@tide.example" }, "k3"))
        );
        await ship.Client.Presets.ChangeAsync("Researcher", new PresetRequest("Guest", "guest", "view"));
        await ship.Client.Presets.RemoveAsync("guest");
        Assert.Equal("preset.unknown", await CodeOf(ship.Client.Presets.ShowAsync("Guest")));
    }

    [Fact]
    public async Task Before_the_first_day_of_a_stay_there_is_no_access_and_after_it_there_is()
    {
        var ship = await harbour.NewShipAsync();
        var today = (await ship.Client.WorkspaceAsync()).Today;
        var ines = ship.Address("ines");
        await ship.Client.SendInvitationAsync(
            new InvitationRequest(ines, "staff", "manage") { From = today.AddDays(400) },
            "k"
        );
        await ship.AcceptAsync(await ship.SecretAsync(ines), "Ines");
        Assert.Equal("upcoming", (await ship.Client.PersonAsync(ines)).State);
        Assert.Equal("access.not-begun", await CodeOf(ship.ClientOfAsync(ines)));
        using var browser = await ship.BrowserOfAsync(ines);
        Assert.Contains(
            "access.not-begun",
            await (await browser.GetAsync(ship.Path(""))).Content.ReadAsStringAsync(),
            StringComparison.Ordinal
        );
        // A second administrator who is not here yet does not make the first one dispensable.
        Assert.Equal("administrator.last", await CodeOf(ship.Client.EndAsync(ship.Administrator)));
    }

    private static Task<BatchCheck> CheckAsync(Ship ship, string csv) =>
        ship.Client.CheckBatchAsync(FileOf(csv), "crew.csv", new BatchDefaults("guest", "view"));

    private static MemoryStream FileOf(string csv) => new(Encoding.UTF8.GetBytes(csv));

    private static async Task<BatchView> AddAsync(Ship ship, string csv, BatchDefaults defaults, bool send) =>
        await RestAsync(ship, (await ship.Client.AddBatchAsync(FileOf(csv), "crew.csv", defaults, send)).Id);

    /// <summary>The batch once it rests, as its progress says.</summary>
    private static async Task<BatchView> RestAsync(Ship ship, Guid id)
    {
        BatchView? last = null;
        await foreach (var view in ship.Client.WatchBatchAsync(id))
            last = view;
        Assert.Equal("resting", last!.State);
        return last;
    }
}
