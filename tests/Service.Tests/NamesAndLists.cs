using System.Net;
using System.Net.Http.Headers;
using System.Net.Http.Json;
using System.Text.Json;
using ComeAboard.Client;
using ComeAboard.Client.Access;
using ComeAboard.Client.Accounts;
using ComeAboard.Client.Invitations;
using ComeAboard.Client.Workspaces;
using ComeAboard.Service.Tests.World;
using ComeAboard.Storage.SignIn;
using Xunit;
using static ComeAboard.Service.Tests.World.Refusing;

namespace ComeAboard.Service.Tests;

public sealed class NamesAndLists_on_SQLite(SqliteHarbour harbour)
    : NamesAndLists(harbour),
        IClassFixture<SqliteHarbour>;

public sealed class NamesAndLists_on_PostgreSQL(PostgresHarbour harbour)
    : NamesAndLists(harbour),
        IClassFixture<PostgresHarbour>;

/// <summary>What everything with a name has in common, sort by sort; and what every list has.</summary>
public abstract class NamesAndLists(Harbour harbour)
{
    /// <summary>How each sort is asked for: its path, the code its refusals begin with, and what one of it is to be.</summary>
    private static readonly (string Path, string Code, Func<string, object> Request)[] Sorts =
    [
        ("groups", "group", name => new GroupRequest(name, "About it.")),
        ("areas", "area", name => new AreaRequest(name)),
        ("roles", "role", name => new RoleRequest(name, "Sees what there is.", "view")),
        ("resources", "resource", name => new ResourceRequest(name, "Collection")),
        ("organisations", "organisation", name => new OrganisationRequest(name, "partner")),
        ("seats", "pool", name => new PoolRequest(name, 3)),
        ("presets", "preset", name => new PresetRequest(name, "guest", "view")),
    ];

    public static TheoryData<int> Each => [.. Enumerable.Range(0, Sorts.Length)];

    [Theory]
    [MemberData(nameof(Each))]
    public async Task A_name_is_one_things_alone_and_everything_done_to_it_is_seen_first_versioned_and_recorded(
        int sort
    )
    {
        var ship = await harbour.NewShipAsync();
        using var http = ClientOf(ship);
        var (path, code, request) = Sorts[sort];
        if (path == "resources")
            await ship.Client.Areas.AddAsync(new AreaRequest("Collection"));

        // Tried, it is not there; made, it is found by its name in any case, and by its id.
        Assert.Equal(HttpStatusCode.OK, (await PostAsync("?dryRun=true", "Sextant")).Status);
        Assert.Empty(await OwnAsync());
        var (status, made) = await PostAsync("", " Sextant ");
        Assert.Equal(HttpStatusCode.Created, status);
        var id = IdOf(made);
        Assert.Equal(["Sextant"], await OwnAsync());

        // Whatever way it is written, the name is taken; some names mean something else.
        Assert.Equal(code + ".name-taken", CodeIn(await PostAsync("", "SEXTANT")));
        Assert.Equal("name.reserved", CodeIn(await PostAsync("", Guid.NewGuid().ToString())));
        Assert.NotEqual(HttpStatusCode.Created, (await PostAsync("", "  ")).Status);
        Assert.NotEqual(HttpStatusCode.Created, (await PostAsync("", new string('x', 500))).Status);

        // What replaces it says what it saw; what it saw must still be so.
        Assert.Equal("version.required", CodeIn(await PutAsync("sextant", "Octant", null)));
        Assert.Equal("version.stale", CodeIn(await PutAsync("sextant", "Octant", "\"7\"")));
        Assert.Equal("request.malformed", CodeIn(await PutAsync("sextant", "Octant", "1")));
        Assert.Equal("version.stale", CodeIn(await PutAsync("sextant", "Octant", "W/\"1\"")));
        Assert.Equal(
            HttpStatusCode.OK,
            (await PutAsync("SEXTANT", "Octant", "\"1\"", "?dryRun=true")).Status
        );
        Assert.Equal(["Sextant"], await OwnAsync());
        Assert.Equal(HttpStatusCode.OK, (await PutAsync("SEXTANT", "Octant", "\"1\"")).Status);
        Assert.Equal("version.stale", CodeIn(await PutAsync(id, "Astrolabe", "\"1\"")));
        Assert.Equal(HttpStatusCode.OK, (await PutAsync(id, "octant", "*")).Status);
        Assert.Equal(["octant"], await OwnAsync());

        // The old name is free again, and neither may take the other's.
        Assert.Equal(HttpStatusCode.Created, (await PostAsync("", "Sextant")).Status);
        Assert.Equal(code + ".name-taken", CodeIn(await PutAsync(id, "sextant", "*")));
        Assert.Equal(HttpStatusCode.NotFound, (await PutAsync("Compass", "Needle", "*")).Status);

        // As a file, a line for each.
        var file = await http.GetStringAsync(ship.Path($"/{path}?format=csv"));
        Assert.Contains("octant", file, StringComparison.Ordinal);
        Assert.DoesNotContain("ComeAboard.", file, StringComparison.Ordinal);

        // Removed: seen first, then gone, and what happened stands in the record.
        Assert.Equal(HttpStatusCode.OK, await DeleteAsync("octant?dryRun=true"));
        Assert.Equal(2, (await OwnAsync()).Count);
        Assert.Equal(HttpStatusCode.OK, await DeleteAsync(id));
        Assert.Equal(HttpStatusCode.NotFound, await DeleteAsync("octant"));
        Assert.Equal(["Sextant"], await OwnAsync());
        var actions = (await ship.Client.RecordAsync(limit: 200)).Items.Where(e => e.Subject == id);
        Assert.Equal(
            [code + ".removed", code + ".changed", code + ".changed", code + ".added"],
            actions.Select(e => e.Action)
        );

        async Task<(HttpStatusCode Status, JsonElement Answer)> PostAsync(string query, string name) =>
            await ReadAsync(
                await http.PostAsync(
                    ship.Path($"/{path}{query}"),
                    JsonContent.Create(request(name), request(name).GetType())
                )
            );

        async Task<(HttpStatusCode Status, JsonElement Answer)> PutAsync(
            string which,
            string name,
            string? match,
            string query = ""
        )
        {
            using var message = new HttpRequestMessage(
                HttpMethod.Put,
                ship.Path($"/{path}/{Uri.EscapeDataString(which)}{query}")
            )
            {
                Content = JsonContent.Create(request(name), request(name).GetType()),
            };
            if (match is not null)
                message.Headers.TryAddWithoutValidation("If-Match", match);
            return await ReadAsync(await http.SendAsync(message));
        }

        async Task<HttpStatusCode> DeleteAsync(string which) =>
            (await http.DeleteAsync(ship.Path($"/{path}/{which}"))).StatusCode;

        async Task<IReadOnlyList<string>> OwnAsync()
        {
            var page = await http.GetFromJsonAsync<JsonElement>(ship.Path("/" + path));
            return
            [
                .. page.GetProperty("items")
                    .EnumerateArray()
                    .Where(one => !(one.TryGetProperty("isBuiltIn", out var builtIn) && builtIn.GetBoolean()))
                    .Select(one => one.GetProperty("name").GetString()!)
                    .Where(name => name != "Collection"),
            ];
        }
    }

    [Theory]
    [MemberData(nameof(Each))]
    public async Task Of_several_who_take_a_name_at_once_one_has_it(int sort)
    {
        var ship = await harbour.NewShipAsync();
        using var http = ClientOf(ship);
        using var other = ClientOf(ship, atOtherNode: true);
        var (path, code, request) = Sorts[sort];
        if (path == "resources")
        {
            await ship.Client.Areas.AddAsync(new AreaRequest("Collection"));
            // The other node hears of it a moment later.
            await Patience.UntilAsync(
                () => ship.OtherNode.Areas.ListAsync(),
                areas => areas.Items.Count == 1
            );
        }
        var answers = await Task.WhenAll(
            Enumerable
                .Range(0, 6)
                .Select(async n =>
                {
                    var name = n % 2 == 0 ? "Sextant" : "SEXTANT";
                    return await ReadAsync(
                        await (n < 3 ? http : other).PostAsync(
                            ship.Path("/" + path),
                            JsonContent.Create(request(name), request(name).GetType())
                        )
                    );
                })
        );
        Assert.Single(answers, answer => answer.Status == HttpStatusCode.Created);
        Assert.Equal(5, answers.Count(answer => CodeIn(answer) == code + ".name-taken"));
    }

    [Theory]
    [InlineData(1)]
    [InlineData(2)]
    public async Task However_names_are_given_changed_and_taken_away_a_plain_book_says_the_same(int seed)
    {
        var ship = await harbour.NewShipAsync();
        var random = new Random(seed);
        string[] names = ["Watch", "WATCH", "watch", "Deck", "deck ", "Galley", "galley", "Hold"];
        var book = new Dictionary<string, (string Name, string About, int Version)>();
        for (var step = 0; step < 120; step++)
        {
            var client = random.Next(2) == 0 ? ship.Client : ship.OtherNode;
            var (which, to) = (names[random.Next(names.Length)], names[random.Next(names.Length)]);
            var (key, toKey) = (KeyOf(which), KeyOf(to));
            var (about, tries) = ("step " + step, random.Next(4) == 0);
            // What one node has done, the other has heard of before it is asked.
            await Patience.UntilAsync(
                () => client.Groups.ListAsync(),
                groups => groups.Items.Select(g => KeyOf(g.Name)).Order().SequenceEqual(book.Keys.Order())
            );
            await Patience.UntilAsync(
                async () => (await CodeAsync(client.Groups.RemoveAsync(which, dryRun: true))) ?? "",
                code => code.Length == 0 == book.ContainsKey(key)
            );
            switch (random.Next(4))
            {
                case 0 or 1:
                    var added = await CodeAsync(client.Groups.AddAsync(new(which, about), tries));
                    Assert.Equal(book.ContainsKey(key) ? "group.name-taken" : null, added);
                    if (added is null && !tries)
                        book[key] = (which.Trim(), about, 1);
                    break;
                case 2:
                    int? version = random.Next(3) switch
                    {
                        0 => null,
                        1 => book.GetValueOrDefault(key).Version,
                        _ => 99,
                    };
                    var expected =
                        !book.TryGetValue(key, out var old) ? "group.unknown"
                        : version is not null && version != old.Version ? "version.stale"
                        : toKey != key && book.ContainsKey(toKey) ? "group.name-taken"
                        : null;
                    Assert.Equal(
                        expected,
                        await CodeAsync(client.Groups.ChangeAsync(which, new(to, about), tries, version))
                    );
                    if (expected is null && !tries)
                    {
                        book.Remove(key);
                        book[toKey] = (to.Trim(), about, old.Version + 1);
                    }
                    break;
                default:
                    var removed = await CodeAsync(client.Groups.RemoveAsync(which, tries));
                    Assert.Equal(book.ContainsKey(key) ? null : "group.unknown", removed);
                    if (!tries)
                        book.Remove(key);
                    break;
            }
            Assert.Equal(
                book.OrderBy(entry => entry.Key).Select(entry => entry.Value),
                (await client.Groups.ListAsync())
                    .Items.OrderBy(g => KeyOf(g.Name))
                    .Select(g => (g.Name, g.About, g.Version))
            );
        }

        static string KeyOf(string name) => Core.Names.KeyOf(name);

        static async Task<string?> CodeAsync(Task call)
        {
            try
            {
                await call;
                return null;
            }
            catch (RefusedException refused)
            {
                return refused.Problem.Code;
            }
        }
    }

    [Fact]
    public async Task What_is_in_use_or_the_same_everywhere_stays()
    {
        var ship = await harbour.NewShipAsync();
        await ship.Client.Areas.AddAsync(new AreaRequest("Collection"));
        await ship.Client.Resources.AddAsync(new ResourceRequest("Register", "Collection"));
        await ship.Client.Pools.AddAsync(new PoolRequest("Desks", 1));
        await ship.Client.Roles.AddAsync(new RoleRequest("Reader", "Reads.", "view"));
        await ship.Client.Organisations.AddAsync(new OrganisationRequest("Harbour board", "guest", "HB"));
        var ines = ship.Address("ines");
        await ship.BringAboardAsync(ines);
        await ship.Client.GiveSeatsAsync("desks", new PeopleRequest([ines]));
        await ship.Client.GrantAsync(new GrantRequest("Reader", Person: ines));
        await ship.Client.PeopleStepsAsync(
            new PeopleStepRequest(
                "change",
                [ines],
                Details: new DetailsRequest(Organisation: "Harbour board")
            )
        );
        Assert.Equal("area.in-use", await CodeOf(ship.Client.Areas.RemoveAsync("collection")));
        Assert.Equal("pool.in-use", await CodeOf(ship.Client.Pools.RemoveAsync("desks", dryRun: true)));
        Assert.Equal("role.in-use", await CodeOf(ship.Client.Roles.RemoveAsync("reader")));
        Assert.Equal("organisation.has-people", await CodeOf(ship.Client.Organisations.RemoveAsync("hb")));
        Assert.Equal("role.built-in", await CodeOf(ship.Client.Roles.RemoveAsync("manage")));
        Assert.Equal(
            "role.built-in",
            await CodeOf(ship.Client.Roles.ChangeAsync("view", new RoleRequest("view", "Sees.", "edit")))
        );
        // A name that is a path of its own would never be found again.
        Assert.Equal(
            "name.reserved",
            await CodeOf(ship.Client.Roles.AddAsync(new RoleRequest("Compare", "Compares.", "view")))
        );
        Assert.Equal(
            "name.reserved",
            await CodeOf(ship.Client.Resources.AddAsync(new ResourceRequest("handover", "Collection")))
        );
        // With what hangs on it, said beforehand: the same number, and nobody keeps anything.
        var planned = await ship.Client.Resources.RemoveAsync("Register", dryRun: true);
        await ship.Client.GrantAsync(new GrantRequest("edit", Person: ines, Resource: "Register"));
        Assert.Equal(planned.Done + 1, (await ship.Client.Resources.RemoveAsync("Register")).Done);
    }

    [Fact]
    public async Task Every_list_is_walked_page_by_page_without_losing_or_repeating_anything()
    {
        var ship = await harbour.NewShipAsync();
        await ship.Client.Groups.AddAsync(new GroupRequest("Watch"));
        for (var n = 0; n < 7; n++)
        {
            var address = ship.Address("guest" + n);
            await ship.BringAboardAsync(address);
            await ship.Client.PutIntoGroupAsync("watch", new PeopleRequest([address]));
            await ship.Client.AddLinkAsync(new JoinLinkRequest("Link " + n, "guest", "view"));
            await ship.Client.AddPastedAsync(new PastedRequest($"x{n}@pier.example", "list " + n));
        }
        for (var n = 0; n < 5; n++)
            await ship.Client.EndAsync(ship.Address("guest" + n));
        using var http = ClientOf(ship);
        foreach (
            var list in (string[])
                [
                    "/people",
                    "/people?state=ended",
                    "/groups/watch/members",
                    "/links",
                    "/batches",
                    "/departures",
                    "/record",
                    "/invitations",
                    "/invitations?sort=oldest",
                    "/invitations?sort=deadline",
                    "/invitations?sort=last-step",
                    "/security-events",
                ]
        )
        {
            var whole = await WalkAsync(list, 200);
            Assert.Equal(whole.Count, whole.Distinct().Count());
            foreach (var size in (int[])[1, 2, 3, 5])
                Assert.Equal(whole, await WalkAsync(list, size));
            Assert.Equal(
                "cursor.malformed",
                CodeIn(await ReadAsync(await http.GetAsync(With(list, "cursor=nonsense"))))
            );
            // A page holds at least one and at most two hundred, whatever is asked for.
            Assert.True((await WalkAsync(list, 0)).Count >= Math.Min(1, whole.Count));
        }

        async Task<List<string>> WalkAsync(string list, int size)
        {
            var (all, next) = (new List<string>(), (string?)With(list, "limit=" + size));
            while (next is not null)
            {
                using var answer = await http.GetAsync(next);
                Assert.Equal(HttpStatusCode.OK, answer.StatusCode);
                var page = await answer.Content.ReadFromJsonAsync<JsonElement>();
                var items = page.GetProperty("items").EnumerateArray().ToList();
                Assert.True(items.Count <= Math.Max(1, size));
                all.AddRange(items.Select(KeyOf));
                // The link header and the cursor say the same (RFC 8288).
                var cursor = page.GetProperty("next").GetString();
                next = answer.Headers.TryGetValues("Link", out var links)
                    ? links.Single().Split('<', '>')[1]
                    : null;
                Assert.Equal(cursor is null, next is null);
            }
            return all;
        }

        string With(string list, string query) =>
            ship.Path(list) + (list.Contains('?', StringComparison.Ordinal) ? "&" : "?") + query;

        static string KeyOf(JsonElement one) =>
            one.TryGetProperty("id", out var id) ? id.GetString()! : one.GetProperty("sequence").ToString();
    }

    [Fact]
    public async Task A_list_saved_as_a_file_holds_what_the_list_holds_however_it_is_narrowed()
    {
        var ship = await harbour.NewShipAsync();
        for (var n = 0; n < 4; n++)
            await ship.BringAboardAsync(ship.Address("guest" + n), n % 2 == 0 ? "guest" : "partner");
        await ship.Client.EndAsync(ship.Address("guest0"));
        using var http = ClientOf(ship);
        foreach (
            var narrowing in (string[])["", "?kind=guest", "?state=ended", "?search=guest1", "?kind=client"]
        )
        {
            var listed = (await http.GetFromJsonAsync<JsonElement>(ship.Path("/people" + narrowing)))
                .GetProperty("items")
                .EnumerateArray()
                .Select(one => one.GetProperty("address").GetString()!)
                .ToList();
            var file = await http.GetStringAsync(ship.Path("/people?format=csv&" + narrowing.TrimStart('?')));
            var lines = file.Split("\r\n", StringSplitOptions.RemoveEmptyEntries);
            Assert.StartsWith("Id,Name,Address", lines[0].TrimStart('\uFEFF'), StringComparison.Ordinal);
            Assert.Equal(listed, lines.Skip(1).Select(line => line.Split(',')[2]));
        }
        // However long: more than a page, and more than a lot.
        await using (var rows = harbour.Database.Open(ship.Id))
        {
            rows.SecurityEvents.AddRange(
                Enumerable
                    .Range(0, 1_100)
                    .Select(n => new SecurityEventRow
                    {
                        WorkspaceId = ship.Id,
                        Id = Guid.CreateVersion7(),
                        At = DateTimeOffset.UtcNow,
                        Kind = "sign-in.failed",
                        Who = "event " + n,
                        Network = "",
                        Details = "",
                    })
            );
            await rows.SaveChangesAsync();
        }
        var events = await http.GetStringAsync(ship.Path("/security-events?format=csv"));
        Assert.Equal(
            1_100,
            events
                .Split("\r\n")
                .Where(line => line.Contains("event ", StringComparison.Ordinal))
                .Distinct()
                .Count()
        );
        Assert.Equal(
            "state.unknown",
            CodeIn(await ReadAsync(await http.GetAsync(ship.Path("/people?format=csv&state=adrift"))))
        );
    }

    [Fact]
    public async Task Rules_looks_and_wordings_are_not_overwritten_unseen_either()
    {
        var ship = await harbour.NewShipAsync();
        var seen = await ship.Client.RulesAsync();
        var changed = await ship.Client.ChangeRulesAsync(seen with { AnswerDays = 10 });
        Assert.NotEqual(seen.Version, changed.Version);
        Assert.Equal(
            "version.stale",
            await CodeOf(ship.Client.ChangeRulesAsync(seen with { HostForOutsiders = true }))
        );
        // The same again is no change, and so no other version.
        Assert.Equal(changed.Version, (await ship.Client.ChangeRulesAsync(changed)).Version);

        var looks = new AppearanceView("The Lantern Tide", null, "en", null)
        {
            Version = (await ship.Client.WorkspaceAsync()).Appearance,
        };
        await ship.Client.ChangeAppearanceAsync(looks with { Language = "de" });
        Assert.Equal(
            "version.stale",
            await CodeOf(ship.Client.ChangeAppearanceAsync(looks with { Colour = "#114455" }))
        );

        using var http = ClientOf(ship);
        var shipped = (await ship.Client.WordingsAsync()).Items.First(w =>
            w is { Letter: "invitation", Language: "en" }
        );
        Assert.Equal(HttpStatusCode.OK, await WordAsync("Come aboard", shipped.Version));
        Assert.Equal(HttpStatusCode.PreconditionFailed, await WordAsync("Other words", shipped.Version));
        await ship.Client.RemoveWordingAsync("invitation", "en");
        Assert.Equal(HttpStatusCode.OK, await WordAsync("Other words", shipped.Version));

        async Task<HttpStatusCode> WordAsync(string subject, int version)
        {
            using var message = new HttpRequestMessage(HttpMethod.Put, ship.Path("/wordings/invitation/en"))
            {
                Content = JsonContent.Create(new WordingRequest(subject, shipped.Body)),
            };
            message.Headers.TryAddWithoutValidation("If-Match", $"\"{version}\"");
            return (await http.SendAsync(message)).StatusCode;
        }
    }

    [Theory]
    [InlineData("view", "My places")]
    [InlineData("manage", "Overview Invite People Access Accounts Endings Record Workspace My places")]
    public async Task Each_is_told_the_pages_that_open_to_them(string role, string pages)
    {
        var ship = await harbour.NewShipAsync();
        var kofi = ship.Address("kofi");
        await ship.BringAboardAsync(kofi, "staff", role);
        using var theirs = await ship.ClientOfAsync(kofi);
        Assert.Equal(pages, string.Join(' ', (await theirs.WorkspaceAsync()).Pages));
        Assert.Equal((await theirs.WorkspaceAsync()).Pages, (await ship.Client.SeeAsAsync(kofi)).Pages);
    }

    private static HttpClient ClientOf(Ship ship, bool atOtherNode = false)
    {
        var http = new HttpClient
        {
            BaseAddress = Harbour.UrlOf(atOtherNode ? ship.Harbour.OtherNode : ship.Harbour.Node),
        };
        http.DefaultRequestHeaders.Authorization = new AuthenticationHeaderValue("Bearer", ship.Token);
        return http;
    }

    private static async Task<(HttpStatusCode Status, JsonElement Answer)> ReadAsync(
        HttpResponseMessage answer
    )
    {
        using (answer)
        {
            var text = await answer.Content.ReadAsStringAsync();
            return (answer.StatusCode, text.Length > 0 ? JsonDocument.Parse(text).RootElement : default);
        }
    }

    private static string? CodeIn((HttpStatusCode Status, JsonElement Answer) answered) =>
        answered.Answer.ValueKind == JsonValueKind.Object
        && answered.Answer.TryGetProperty("code", out var code)
            ? code.GetString()
            : null;

    private static string IdOf(JsonElement made) =>
        (made.TryGetProperty("role", out var role) && role.ValueKind == JsonValueKind.Object ? role : made)
            .GetProperty("id")
            .GetString()!;
}
