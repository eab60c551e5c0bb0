using System.IO.Compression;
using System.Text;
using ComeAboard.Client;
using ComeAboard.Client.Invitations;
using ComeAboard.Core;
using ComeAboard.Service.Tests.World;
using ComeAboard.Storage.Invitations;
using Microsoft.EntityFrameworkCore;
using Xunit;
using static ComeAboard.Service.Tests.World.Refusing;

namespace ComeAboard.Service.Tests;

/// <summary>What is handed in and pasted: how it is read, and what is said where it cannot be.</summary>
public abstract partial class Many
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

    [Fact]
    public async Task A_long_list_is_decided_in_its_order_seats_and_repeated_addresses_and_all()
    {
        var ship = await harbour.NewShipAsync();
        await ship.Client.Pools.AddAsync(new("Berths", 4));
        // Whoever has no role of their own gets what all get, and that has a seat of four.
        int[] seated = [3, 247, 248, 252, 253, 254, 611, 640];
        var again = new Dictionary<int, int>
        {
            [260] = 12,
            [505] = 248,
            [506] = 505,
            [690] = 611,
        };
        var rows = Enumerable
            .Range(1, 700)
            .Select(n =>
            {
                var one = again.GetValueOrDefault(n, n);
                one = again.GetValueOrDefault(one, one);
                return $"{ship.Address("row" + one)},{(seated.Contains(n) ? "" : "view")}";
            });
        var list = await AddAsync(
            ship,
            "Address,Role\n" + string.Join('\n', rows),
            new BatchDefaults("guest", "view") { Gives = new(Seats: ["berths"]) },
            true
        );

        var found = new List<BatchEntryView>();
        for (string? cursor = null; found.Count < 700; )
        {
            var page = await ship.Client.BatchEntriesAsync(list.Id, cursor: cursor, limit: 200);
            found.AddRange(page.Items);
            cursor = page.Next;
        }
        var left = 4;
        foreach (var entry in found.OrderBy(one => one.Number))
        {
            var n = entry.Number;
            var expected =
                again.ContainsKey(n) ? "address.repeated"
                : !seated.Contains(n) || --left >= 0 ? "sent"
                : "seat.none-free";
            Assert.Equal((n, expected), (n, entry.Problem is { } no ? no.Code : entry.Verdict));
        }
        var sent = list.Counts["sent"];
        Assert.Equal(692, sent);
        Assert.Equal(4, (await ship.Client.Pools.ShowAsync("berths")).Reserved);
        await ship.Client.VerifyRecordAsync();
        await using var kept = harbour.Database.Open(ship.Id);
        Assert.Equal(sent, await kept.Record.CountAsync(e => e.Action == "invitation.queued"));
        Assert.Equal(sent, await kept.Deliveries.CountAsync(d => d.Purpose == "invitation"));
        Assert.Equal(sent, await kept.Invitations.CountAsync(i => i.BatchId == list.Id));
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
        var endless =
            $"Address,Name\n{ship.Address("eve")},Eve\n{ship.Address("ada")},{new string('a', 70_000)}\n";
        var tooLong = await Assert.ThrowsAsync<RefusedException>(() =>
            Check(Encoding.UTF8.GetBytes(endless))
        );
        Assert.Equal(
            ("file.not-readable", "Row 3 is longer than 64 KiB."),
            (tooLong.Problem.Code, tooLong.Problem.Title)
        );
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
    public async Task What_is_wrong_for_everybody_is_said_before_a_list_is_kept()
    {
        var ship = await harbour.NewShipAsync();
        var good = new BatchDefaults("guest", "view");
        foreach (
            var (wrong, code) in ((BatchDefaults, string)[])
                [
                    (good with { Message = "see https://elsewhere.example/x" }, "message.link"),
                    (good with { Until = new DateOnly(2020, 1, 1) }, "stay.past"),
                    (good with { Language = "tlh" }, "language.unknown"),
                    (good with { AnswerDays = 4_000 }, "answer-time.out-of-range"),
                    (good with { Role = "captain" }, "role.unknown"),
                    (good with { Kind = "pirate" }, "kind.unknown"),
                    (good with { Gives = new([], [], ["No such pool"]) }, "pool.unknown"),
                    (good with { Host = ship.Address("stranger") }, "host.unknown"),
                    (good with { Role = null, Gives = new([], ["No such group"], []) }, "group.unknown"),
                ]
        )
        {
            var pasted = new PastedRequest(ship.Address("ines"), null, wrong);
            Assert.Equal(code, await CodeOf(ship.Client.AddPastedAsync(pasted)));
            Assert.Equal(code, await CodeOf(ship.Client.CheckPastedAsync(pasted)));
            Assert.Equal(code, await CodeOf(ship.Client.AddBatchAsync(File(), "few.csv", wrong, true)));
            Assert.Equal(code, await CodeOf(ship.Client.CheckBatchAsync(File(), "few.csv", wrong)));
        }
        Assert.Empty((await ship.Client.BatchesAsync()).Items);
        Assert.Empty((await ship.Client.InvitationsAsync()).Items);
        // What is left to the list is not missed before it is read, and a host who is there is one.
        var asListed = new BatchDefaults(null, "view") { Host = $"mira@{ship.Name}.example" };
        Assert.Equal(1, (await ship.Client.CheckBatchAsync(File(), "few.csv", asListed)).Counts["ready"]);

        MemoryStream File() => new(Encoding.UTF8.GetBytes($"Address,Kind\n{ship.Address("ines")},guest\n"));
    }
}
