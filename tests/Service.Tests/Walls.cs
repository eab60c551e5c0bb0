using System.Net;
using System.Net.Http.Headers;
using System.Net.Http.Json;
using System.Text;
using System.Text.Json;
using ComeAboard.Client;
using ComeAboard.Client.SignIn;
using ComeAboard.Core.Access;
using ComeAboard.Service.Tests.World;
using ComeAboard.Storage;
using ComeAboard.Storage.Accounts;
using Microsoft.Data.Sqlite;
using Microsoft.EntityFrameworkCore;
using Xunit;
using Patience = ComeAboard.Service.Tests.World.Patience;

namespace ComeAboard.Service.Tests;

public sealed class Walls_on_SQLite(SqliteHarbour harbour) : Walls(harbour), IClassFixture<SqliteHarbour>;

public sealed class Walls_on_PostgreSQL(PostgresHarbour harbour)
    : Walls(harbour),
        IClassFixture<PostgresHarbour>;

/// <summary>What keeps workspaces, strangers and browsers apart.</summary>
public abstract class Walls(Harbour harbour)
{
    private static readonly HttpMethod[] Methods =
    [
        HttpMethod.Get,
        HttpMethod.Post,
        HttpMethod.Put,
        HttpMethod.Delete,
        HttpMethod.Patch,
    ];

    private static readonly string[] Named =
    [
        "{id}",
        "{person}",
        "{preset}",
        "{role}",
        "{area}",
        "{resource}",
        "{group}",
        "{organisation}",
        "{pool}",
        "{connection}",
        "{departure}",
        "{line}",
        "{delivery}",
        "{step}",
    ];

    // What every member may ask: what there is for themselves, and what would stop them.
    private static readonly string[] ForEverybody =
    [
        "/resources",
        "/readiness",
        "/access/v1/evaluation",
        "/access/v1/evaluations",
        "/resources/handover",
        "/tokens",
    ];

    private static readonly HttpStatusCode[] Absent =
    [
        HttpStatusCode.NotFound,
        HttpStatusCode.UnprocessableEntity,
    ];

    private static bool IsDecision(string path) => path.Contains("/access/v1/", StringComparison.Ordinal);

    [Fact]
    public async Task Every_path_of_a_workspace_is_closed_to_strangers_to_other_workspaces_and_to_members_without_the_duty()
    {
        var ship = await harbour.NewShipAsync();
        var other = await harbour.NewShipAsync();
        var theirs = await other.InviteAsync(other.Address("ines"));
        var ines = ship.Address("ines");
        await ship.BringAboardAsync(ines, "guest", "manage");
        var inesToken = await ship.Client.SignInAsync(
            new ProgramSignInRequest(ines, Ship.Password, ship.Name)
        );
        using var http = new HttpClient { BaseAddress = Harbour.UrlOf(harbour.Node) };
        var document = await http.GetFromJsonAsync<JsonElement>("/openapi/v1.json");
        var tried = 0;
        foreach (
            var path in document
                .GetProperty("paths")
                .EnumerateObject()
                .Where(p => p.Name.Contains("{workspace}", StringComparison.Ordinal))
        )
        foreach (var verb in path.Value.EnumerateObject())
        {
            tried++;
            var method = new HttpMethod(verb.Name.ToUpperInvariant());
            // Where access is decided is no secret, and the same for every name.
            if (path.Name.StartsWith("/.well-known/", StringComparison.Ordinal))
                continue;
            // Another workspace, named as it is, with ids that exist in it.
            var there = Fill(path.Name, other.Name, theirs.Id, other.Administrator);
            Assert.Equal(
                (method, path.Name, HttpStatusCode.Unauthorized),
                (method, path.Name, await StatusAsync(http, method, there, null))
            );
            Assert.Equal(
                (path.Name, IsDecision(path.Name) ? HttpStatusCode.Unauthorized : HttpStatusCode.NotFound),
                (path.Name, await StatusAsync(http, method, there, ship.Token))
            );
            // Our own workspace, with the other's ids: as if they did not exist.
            if (Named.Any(name => path.Name.Contains(name, StringComparison.Ordinal)))
            {
                var absent = await StatusAsync(
                    http,
                    method,
                    Fill(path.Name, ship.Name, theirs.Id, other.Administrator),
                    ship.Token
                );
                Assert.True(Absent.Contains(absent), $"{method} {path.Name}: {absent}");
            }
            // A member without duties gets no further than the workspace itself.
            var here = Fill(path.Name, ship.Name, Guid.NewGuid(), ines);
            var expected = path.Name.EndsWith("{workspace}", StringComparison.Ordinal)
                ? HttpStatusCode.OK
                : HttpStatusCode.Forbidden;
            if (ForEverybody.Any(end => path.Name.EndsWith(end, StringComparison.Ordinal)))
                continue;
            var status = await StatusAsync(http, method, here, inesToken.Token);
            Assert.True(
                status == expected
                    || status == HttpStatusCode.NotFound && expected == HttpStatusCode.Forbidden,
                $"{method} {path.Name}: {status}"
            );
        }
        Assert.True(tried >= 60, $"only {tried} operations were found");
        Assert.Equal(
            "queued|sent",
            (await other.Client.InvitationAsync(theirs.Id)).State is "queued" or "sent"
                ? "queued|sent"
                : "changed"
        );
    }

    [Fact]
    public async Task The_query_filter_cannot_be_got_round()
    {
        var ship = await harbour.NewShipAsync();
        var other = await harbour.NewShipAsync();
        await using var nowhere = harbour.Database.Open();
        Assert.Empty(await nowhere.Members.ToListAsync());
        Assert.Equal(0, await nowhere.Record.CountAsync());

        await using var here = harbour.Database.Open(ship.Id);
        var theirs = await Unfiltered(other.Id);
        Assert.Null(await here.Members.FindAsync(other.Id, theirs.Id));
        Assert.False(await here.Members.AnyAsync(m => m.WorkspaceId == other.Id));
        Assert.Empty(await here.Members.Where(m => m.Id == theirs.Id).ToListAsync());
        Assert.Equal(0, await here.Members.Where(m => m.Id == theirs.Id).ExecuteDeleteAsync());
        Assert.Throws<InvalidOperationException>(() => here.Enter(other.Id));

        here.Members.Attach(theirs);
        here.Entry(theirs).Property(m => m.Name).CurrentValue = "Nobody";
        here.Entry(theirs).State = EntityState.Modified;
        await Assert.ThrowsAsync<InvalidOperationException>(() => here.SaveChangesAsync());

        async Task<MemberRow> Unfiltered(Guid workspace)
        {
            await using var there = harbour.Database.Open(workspace);
            return await there.Members.AsNoTracking().FirstAsync();
        }
    }

    [Fact]
    public async Task Signing_in_tells_nobody_whether_there_is_an_account()
    {
        var ship = await harbour.NewShipAsync();
        using var http = new HttpClient { BaseAddress = Harbour.UrlOf(harbour.Node) };
        var unknown = await http.PostAsJsonAsync(
            "/api/v1/sessions",
            new SignInRequest("nobody@nowhere.example", "x")
        );
        var wrong = await http.PostAsJsonAsync(
            "/api/v1/sessions",
            new SignInRequest(ship.Administrator, "x")
        );
        Assert.Equal(await unknown.Content.ReadAsStringAsync(), await wrong.Content.ReadAsStringAsync());
        Assert.Equal(HttpStatusCode.Unauthorized, unknown.StatusCode);
        Assert.Equal(unknown.StatusCode, wrong.StatusCode);
    }

    [Fact]
    public async Task Guessing_locks_an_account_for_a_minute_and_no_longer()
    {
        var ship = await harbour.NewShipAsync();
        using var http = new HttpClient { BaseAddress = Harbour.UrlOf(harbour.Node) };
        for (var i = 0; i < 5; i++)
            await http.PostAsJsonAsync(
                "/api/v1/sessions",
                new SignInRequest(ship.Administrator, "guess " + i)
            );
        var right = new SignInRequest(ship.Administrator, Ship.Password);
        Assert.Equal(
            HttpStatusCode.Unauthorized,
            (await http.PostAsJsonAsync("/api/v1/sessions", right)).StatusCode
        );
        await Sql.RunGlobalAsync(harbour, "UPDATE accounts SET locked_until = NULL");
        Assert.Equal(
            HttpStatusCode.NoContent,
            (await http.PostAsJsonAsync("/api/v1/sessions", right)).StatusCode
        );
    }

    [Fact]
    public async Task A_browser_session_changes_nothing_without_its_antiforgery_token()
    {
        var ship = await harbour.NewShipAsync();
        using var browser = await ship.BrowserOfAsync(ship.Administrator);
        var request = new Client.Invitations.InvitationRequest(ship.Address("ines"), "guest", "view");
        var without = await browser.PostAsJsonAsync(ship.Path("/invitations"), request);
        Assert.Equal("antiforgery.missing", (await without.Content.ReadFromJsonAsync<Problem>())!.Code);
        var token = (await browser.GetFromJsonAsync<AntiforgeryView>("/api/v1/antiforgery"))!.Token;
        browser.DefaultRequestHeaders.Add("X-Antiforgery", token);
        var with = await browser.PostAsJsonAsync(ship.Path("/invitations"), request);
        Assert.Equal(HttpStatusCode.Created, with.StatusCode);
        Assert.Equal("\"1\"", with.Headers.ETag!.Tag);
    }

    [Fact]
    public async Task The_landing_page_reads_without_scripts_and_opening_it_answers_nothing()
    {
        var ship = await harbour.NewShipAsync();
        var sent = await ship.InviteAsync(ship.Address("ines"), message: "Bring <b>boots</b>.");
        var secret = await ship.SecretAsync(ship.Address("ines"));
        using var http = new HttpClient { BaseAddress = Harbour.UrlOf(harbour.Node) };
        var page = await http.GetAsync("/i/" + secret);
        var html = await page.Content.ReadAsStringAsync();
        Assert.Contains("Bring &lt;b&gt;boots&lt;/b&gt;.", html, StringComparison.Ordinal);
        Assert.DoesNotContain("<script", html, StringComparison.OrdinalIgnoreCase);
        Assert.Equal("no-referrer", page.Headers.GetValues("Referrer-Policy").Single());
        Assert.StartsWith(
            "default-src 'none'; style-src 'self';",
            page.Headers.GetValues("Content-Security-Policy").Single(),
            StringComparison.Ordinal
        );
        var after = await Patience.UntilAsync(
            () => ship.Client.InvitationAsync(sent.Id),
            invitation => invitation.SeenAt is not null
        );
        Assert.Null(after.AnsweredAt);
        Assert.NotNull(after.SeenAt);
        Assert.Equal(HttpStatusCode.NotFound, (await http.GetAsync("/i/" + secret[..20])).StatusCode);
        // A form without its token is not taken either.
        var bare = await http.PostAsync($"/i/{secret}/decline", new FormUrlEncodedContent([]));
        Assert.False(bare.IsSuccessStatusCode);
        Assert.Equal("sent", (await ship.Client.InvitationAsync(sent.Id)).State);
    }

    [Theory]
    [InlineData("{\"address\":", "application/json")]
    [InlineData("[]", "application/json")]
    [InlineData("{\"address\":{\"a\":1},\"kind\":\"guest\"}", "application/json")]
    [InlineData("{\"address\":\"\\ud800@harbour.example\",\"kind\":\"guest\"}", "application/json")]
    [InlineData("{\"kind\":\"guest\"}", "application/json")]
    [InlineData("null", "application/json")]
    [InlineData("", "application/json")]
    [InlineData("address=x", "application/x-www-form-urlencoded")]
    public async Task No_body_whatever_its_form_breaks_the_service(string body, string type)
    {
        var ship = await harbour.NewShipAsync();
        using var http = new HttpClient { BaseAddress = Harbour.UrlOf(harbour.Node) };
        http.DefaultRequestHeaders.Authorization = new AuthenticationHeaderValue("Bearer", ship.Token);
        var answer = await http.PostAsync(
            ship.Path("/invitations"),
            new StringContent(body, Encoding.UTF8, type)
        );
        Assert.InRange((int)answer.StatusCode, 400, 422);
        Assert.NotEmpty((await answer.Content.ReadFromJsonAsync<Problem>())!.Code);
    }

    [Theory]
    [InlineData("POST", "/invitations", "text/plain", 415, "media-type.unsupported")]
    [InlineData("PUT", "/invitations", "application/json", 405, "method.not-allowed")]
    [InlineData("GET", "/invitations/elsewhere/nowhere", null, 404, "not-found")]
    [InlineData("GET", "/nothing", null, 404, "not-found")]
    public async Task What_a_path_does_not_take_is_refused_for_what_it_is(
        string method,
        string path,
        string? type,
        int status,
        string code
    )
    {
        var ship = await harbour.NewShipAsync();
        using var http = new HttpClient { BaseAddress = Harbour.UrlOf(harbour.Node) };
        http.DefaultRequestHeaders.Authorization = new AuthenticationHeaderValue("Bearer", ship.Token);
        using var request = new HttpRequestMessage(new HttpMethod(method), ship.Path(path));
        if (type is not null)
            request.Content = new StringContent("{}", Encoding.UTF8, type);
        var answer = await http.SendAsync(request);
        Assert.Equal(status, (int)answer.StatusCode);
        Assert.Equal(Problem.MediaType, answer.Content.Headers.ContentType!.MediaType);
        Assert.Equal(code, (await answer.Content.ReadFromJsonAsync<Problem>())!.Code);
        if (status == 405)
            Assert.Equal(["GET", "POST"], answer.Content.Headers.Allow.Order());
    }

    [Fact]
    public async Task A_huge_body_and_a_deep_one_are_refused()
    {
        var ship = await harbour.NewShipAsync();
        using var http = new HttpClient { BaseAddress = Harbour.UrlOf(harbour.Node) };
        http.DefaultRequestHeaders.Authorization = new AuthenticationHeaderValue("Bearer", ship.Token);
        foreach (
            var body in new[]
            {
                new string(' ', 300_000) + "{}",
                string.Concat(Enumerable.Repeat("{\"a\":", 5000)),
            }
        )
        {
            var answer = await http.PostAsync(
                ship.Path("/invitations"),
                new StringContent(body, Encoding.UTF8, "application/json")
            );
            Assert.InRange((int)answer.StatusCode, 400, 422);
        }
    }

    [Fact]
    public async Task A_database_held_by_another_program_gives_a_clear_answer_and_nothing_half_written()
    {
        var ship = await harbour.NewShipAsync();
        if (harbour.Engine == Engine.Sqlite)
        {
            await using var other = new SqliteConnection(
                $"Data Source={harbour.Settings.DatabasePath};Pooling=false"
            );
            await other.OpenAsync();
            await using var hold = other.BeginTransaction(deferred: false);
            Assert.Equal("storage.busy", await Refusing.CodeOf(ship.InviteAsync(ship.Address("ines"))));
            await hold.RollbackAsync();
        }
        else
        {
            // The database throws every connection out for a moment.
            await Sql.RunGlobalAsync(harbour, "CREATE TABLE held (x int)");
            await using var rows = harbour.Database.Open(ship.Id);
            await using var hold = await rows.Database.BeginTransactionAsync();
            await rows.Database.ExecuteSqlAsync($"SELECT 1 FROM workspaces WHERE id = {ship.Id} FOR UPDATE");
            var waiting = ship.InviteAsync(ship.Address("ines"));
            await Task.Delay(300);
            await Sql.RunGlobalAsync(
                harbour,
                "SELECT pg_terminate_backend(pid) FROM pg_stat_activity WHERE datname = current_database() AND pid <> pg_backend_pid() AND wait_event_type = 'Lock'"
            );
            Assert.Equal("storage.away", await Refusing.CodeOf(waiting));
            await hold.RollbackAsync();
        }
        Assert.Empty((await ship.Client.InvitationsAsync()).Items);
        Assert.True((await ship.Client.VerifyRecordAsync()).Whole);
        await ship.InviteAsync(ship.Address("ines"));
    }

    private static string Fill(string path, string workspace, Guid id, string person) =>
        path.Replace("{workspace}", workspace, StringComparison.Ordinal)
            .Replace("{id}", id.ToString(), StringComparison.Ordinal)
            .Replace("{person}", person, StringComparison.Ordinal)
            .Replace("{preset}", id.ToString(), StringComparison.Ordinal)
            .Replace("{role}", id.ToString(), StringComparison.Ordinal)
            .Replace("{area}", id.ToString(), StringComparison.Ordinal)
            .Replace("{resource}", id.ToString(), StringComparison.Ordinal)
            .Replace("{group}", id.ToString(), StringComparison.Ordinal)
            .Replace("{organisation}", id.ToString(), StringComparison.Ordinal)
            .Replace("{pool}", id.ToString(), StringComparison.Ordinal)
            .Replace("{connection}", id.ToString(), StringComparison.Ordinal)
            .Replace("{departure}", id.ToString(), StringComparison.Ordinal)
            .Replace("{line}", id.ToString(), StringComparison.Ordinal)
            .Replace("{delivery}", id.ToString(), StringComparison.Ordinal)
            .Replace("{step}", "1", StringComparison.Ordinal)
            .Replace("{holder}", id.ToString(), StringComparison.Ordinal)
            .Replace("{number}", "1", StringComparison.Ordinal)
            .Replace("{letter}", "invitation", StringComparison.Ordinal)
            .Replace("{language}", "en", StringComparison.Ordinal)
            .Replace("{address}", "x@y.example", StringComparison.Ordinal);

    private static async Task<HttpStatusCode> StatusAsync(
        HttpClient http,
        HttpMethod method,
        string path,
        string? token
    )
    {
        Assert.Contains(method, Methods);
        using var request = new HttpRequestMessage(method, path);
        request.Headers.TryAddWithoutValidation("If-Match", "*");
        if (token is not null)
            request.Headers.Authorization = new AuthenticationHeaderValue("Bearer", token);
        if (method == HttpMethod.Post || method == HttpMethod.Put || method == HttpMethod.Patch)
            request.Content = new StringContent(
                """{"address":"x@y.example","kind":"guest","label":"x","name":"x","days":5,"role":"view","area":"x","sentence":"x","step":"pause","people":["x@y.example"],"person":"x@y.example","total":1,"to":"b@y.example"}""",
                Encoding.UTF8,
                "application/json"
            );
        if (IsDecision(path))
            request.Content = JsonContent.Create(
                new
                {
                    subject = new { type = "user", id = "x@y.example" },
                    action = new { name = "view" },
                    resource = new { type = "resource", id = "x" },
                }
            );
        if (path.EndsWith("/pass", StringComparison.Ordinal))
            request.Content = JsonContent.Create(new { from = "a@y.example", to = "b@y.example" });
        if (
            method == HttpMethod.Post
            && (
                path.EndsWith("/batches", StringComparison.Ordinal)
                || path.EndsWith("batches/check", StringComparison.Ordinal)
                || path.EndsWith("/file", StringComparison.Ordinal)
            )
        )
            request.Content = new MultipartFormDataContent
            {
                { new StringContent("Address\nx@y.example"), "file", "x.csv" },
            };
        using var answer = await http.SendAsync(request);
        return answer.StatusCode;
    }
}
