using System.Net;
using System.Net.Http.Json;
using System.Text.RegularExpressions;
using ComeAboard.Client;
using ComeAboard.Client.SignIn;
using ComeAboard.Client.Workspaces;
using ComeAboard.Core;
using ComeAboard.Service.Accounts;
using ComeAboard.Service.Tests.World;
using ComeAboard.Service.Upkeep;
using ComeAboard.Service.Workspaces;
using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.DependencyInjection;
using Xunit;

namespace ComeAboard.Service.Tests;

public sealed class OwnAccounts_on_SQLite(SqliteHarbour harbour)
    : OwnAccounts(harbour),
        IClassFixture<SqliteHarbour>;

public sealed class OwnAccounts_on_PostgreSQL(PostgresHarbour harbour)
    : OwnAccounts(harbour),
        IClassFixture<PostgresHarbour>;

/// <summary>An account as its holder looks after it, and the door through which it is changed.</summary>
public abstract partial class OwnAccounts(Harbour harbour)
{
    private const string Other = "quite another set of words";

    [Fact]
    public async Task Its_holder_sees_where_they_are_signed_in_and_closes_what_they_do_not_know()
    {
        var (ship, ines) = await AboardAsync("ines");
        using var here = await ship.BrowserOfAsync(ines);
        using var there = await ship.BrowserOfAsync(ines, atOtherNode: true);
        using var forgotten = await ship.BrowserOfAsync(ines);
        using var program = await ship.ClientOfAsync(ines);

        var account = await ShowAsync(here);
        Assert.Equal((ines, 3), (account.Address, account.SignIns.Count));
        Assert.Single(account.SignIns, one => one.IsThis);
        Assert.All(account.SignIns, one => Assert.Equal("password", one.With));
        var password = Assert.Single(account.WaysIn);
        Assert.Equal("password", password.Kind);
        Assert.NotNull(password.LastUsedAt);
        Assert.NotNull(Assert.Single(account.Addresses).ProvedAt);
        Assert.Equal(ship.Name, Assert.Single(account.Programs).Workspace);

        // Everything can be done on the page, without scripts.
        var page = await here.GetStringAsync("/account");
        Assert.Contains(ines, page, StringComparison.Ordinal);
        var stranger = (await ShowAsync(there)).SignIns.Single(one => one.IsThis).Id;
        await StepAsync(here, "/account/close", stranger);
        Assert.Equal(HttpStatusCode.Unauthorized, (await there.GetAsync("/api/v1/me")).StatusCode);
        Assert.Equal(HttpStatusCode.OK, (await forgotten.GetAsync("/api/v1/me")).StatusCode);
        await StepAsync(here, "/account/close-others", Guid.Empty);
        Assert.Equal(HttpStatusCode.Unauthorized, (await forgotten.GetAsync("/api/v1/me")).StatusCode);
        Assert.Equal(HttpStatusCode.OK, (await here.GetAsync("/api/v1/me")).StatusCode);
        await StepAsync(here, "/account/withdraw", account.Programs[0].Id);
        Assert.Equal(
            "sign-in.required",
            (await Assert.ThrowsAsync<RefusedException>(() => program.WhoAmIAsync())).Problem.Code
        );
        Assert.Empty((await ShowAsync(here)).Programs);

        var happened = await HistoryAsync(here);
        Assert.Equal(
            [
                "account.sign-ins-closed",
                "account.sign-in-closed",
                "account.signed-in",
                "account.signed-in",
                "account.signed-in",
                "account.accepted",
                "account.address-proved",
                "account.made",
            ],
            happened.Select(one => one.Action)
        );
        Assert.Equal("All other sign-ins were closed: 1.", happened[0].Sentence);
        Assert.All(happened, one => Assert.DoesNotContain("{", one.Sentence, StringComparison.Ordinal));
        Assert.All(happened, one => Assert.EndsWith(".", one.Sentence, StringComparison.Ordinal));
    }

    [Fact]
    public async Task Nobody_looks_after_an_account_that_is_not_theirs()
    {
        var (ship, ines) = await AboardAsync("ines");
        var bo = ship.Address("bo");
        await ship.BringAboardAsync(bo);
        using var inesHere = await ship.BrowserOfAsync(ines);
        using var boHere = await ship.BrowserOfAsync(bo);
        using var program = await ship.ClientOfAsync(ines);
        var account = await ShowAsync(inesHere);
        foreach (
            var (path, id) in new[]
            {
                ("/account/close", account.SignIns[0].Id),
                ("/account/withdraw", account.Programs[0].Id),
                ("/account/close", Guid.NewGuid()),
            }
        )
            Assert.Equal(HttpStatusCode.NotFound, (await StepAsync(boHere, path, id)).StatusCode);
        await StepAsync(boHere, "/account/close-others", Guid.Empty);
        Assert.Equal(HttpStatusCode.OK, (await inesHere.GetAsync("/api/v1/me")).StatusCode);
        await program.WhoAmIAsync();
        Assert.DoesNotContain(ines, await boHere.GetStringAsync("/account"), StringComparison.Ordinal);

        // A token counts in one workspace, and an account is more than that.
        using var http = new HttpClient { BaseAddress = Harbour.UrlOf(harbour.Node) };
        http.DefaultRequestHeaders.Add("Authorization", "Bearer " + ship.Token);
        foreach (var path in (string[])["/api/v1/me/account", "/api/v1/me/account/history"])
        {
            var answer = await http.GetAsync(new Uri(path, UriKind.Relative));
            Assert.Equal(HttpStatusCode.Forbidden, answer.StatusCode);
            Assert.Contains(
                "token.one-workspace",
                await answer.Content.ReadAsStringAsync(),
                StringComparison.Ordinal
            );
        }
        using var nobody = new HttpClient { BaseAddress = Harbour.UrlOf(harbour.Node) };
        Assert.Equal(
            HttpStatusCode.Unauthorized,
            (await nobody.GetAsync(new Uri("/api/v1/me/account", UriKind.Relative))).StatusCode
        );
    }

    [Fact]
    public async Task Everything_that_is_stored_about_somebody_is_written_out_for_them_and_nobody_elses()
    {
        var (ship, ines) = await AboardAsync("ines");
        var other = await harbour.NewShipAsync();
        await other.InviteAsync(ines, message: "Come over to us, too.");
        await other.SecretAsync(ines, mails: 2);
        var bo = ship.Address("bo");
        await ship.BringAboardAsync(bo);
        using var here = await ship.BrowserOfAsync(ines);
        var answer = await here.GetAsync(new Uri("/api/v1/me/account/stored", UriKind.Relative));
        Assert.Equal("attachment", answer.Content.Headers.ContentDisposition!.DispositionType);
        var text = await answer.Content.ReadAsStringAsync();
        var stored = System.Text.Json.JsonSerializer.Deserialize(text, WireJson.Default.StoredAboutYou)!;
        Assert.Equal(ines, Assert.Single(stored.Memberships).Address);
        Assert.Equal(
            [("sent", "Come over to us, too."), ("accepted", "")],
            stored.Invitations.Select(one => (one.State == "queued" ? "sent" : one.State, one.Message))
        );
        Assert.Equal(
            ["account.made", "account.address-proved", "account.accepted", "account.signed-in"],
            stored.History.Select(one => one.Action)
        );
        Assert.Empty(stored.AsksNotToBeInvited);
        // Nothing of anybody else, and no secret.
        Assert.DoesNotContain(bo, text, StringComparison.Ordinal);
        await using (var rows = harbour.Database.Open())
        {
            var id = await IdAsync(ines);
            Assert.DoesNotContain(
                (await rows.Credentials.SingleAsync(c => c.AccountId == id)).Secret,
                text,
                StringComparison.Ordinal
            );
        }

        // Their own language, in which every workspace writes to them from then on.
        await here.FormAsync("/places", "/account/language", new() { ["language"] = "de" });
        Assert.Contains("Ihr Konto", await here.GetStringAsync("/account"), StringComparison.Ordinal);
        Assert.Equal(
            HttpStatusCode.UnprocessableEntity,
            (await here.FormAsync("/places", "/account/language", new() { ["language"] = "tlh" })).StatusCode
        );
        using var browser = Browser.At(harbour.Node);
        await browser.FormAsync("/forgotten", "/forgotten", new() { ["address"] = ines });
        await ship.MailAsync(ines, "Neues Passwort wählen");
    }

    [Fact]
    public async Task What_is_dangerous_asks_whoever_sits_at_a_browser_to_show_anew_who_they_are()
    {
        var ship = await harbour.NewShipAsync();
        using var browser = await ship.BrowserOfAsync(ship.Administrator);
        Assert.Equal(HttpStatusCode.Created, await AddAsync());
        await MoveProofAsync(-11);
        Assert.Equal(HttpStatusCode.Forbidden, await AddAsync());
        // To try it is no danger, and neither is anything else.
        Assert.Equal(HttpStatusCode.OK, await AddAsync("?dryRun=true"));
        Assert.Equal(HttpStatusCode.OK, (await browser.GetAsync(ship.Path("/people"))).StatusCode);
        // A program has shown it when it was given its token.
        await ship.Client.AddTokenAsync(new TokenRequest("by a program"));
        Assert.Equal(HttpStatusCode.UnprocessableEntity, await ProveAsync("a guess at it"));
        Assert.Equal(HttpStatusCode.Forbidden, await AddAsync());
        Assert.Equal(HttpStatusCode.NoContent, await ProveAsync(Ship.Password));
        Assert.Equal(HttpStatusCode.Created, await AddAsync());
        // To be asked for a proof is no attempt at what somebody may not do.
        Assert.DoesNotContain(
            (await ship.Client.SecurityEventsAsync()).Items,
            one => one.Kind == "right.refused"
        );

        async Task<HttpStatusCode> AddAsync(string query = "") =>
            (
                await browser.SendAsync(
                    HttpMethod.Post,
                    ship.Path("/tokens") + query,
                    new TokenRequest("by hand")
                )
            ).StatusCode;
        async Task<HttpStatusCode> ProveAsync(string password) =>
            (
                await browser.SendAsync(HttpMethod.Post, "/api/v1/me/proof", new ProofRequest(password))
            ).StatusCode;
        async Task MoveProofAsync(int minutes)
        {
            var id = (await ShowAsync(browser)).SignIns.Single(one => one.IsThis).Id;
            await using var rows = harbour.Database.Open();
            var at = (await rows.Sessions.SingleAsync(s => s.Id == id)).ProvedAt.AddMinutes(minutes);
            await rows
                .Sessions.Where(s => s.Id == id)
                .ExecuteUpdateAsync(set => set.SetProperty(s => s.ProvedAt, at));
        }
    }

    [Fact]
    public async Task A_wrong_guess_never_undoes_a_password_that_is_changed_at_the_same_moment()
    {
        var (ship, ines) = await AboardAsync("ines");
        using var browser = await ship.BrowserOfAsync(ines);
        using var stranger = new HttpClient { BaseAddress = Harbour.UrlOf(harbour.OtherNode) };
        var guesses = Enumerable
            .Range(0, 30)
            .Select(n =>
                stranger.PostAsJsonAsync("/api/v1/sessions", new SignInRequest(ines, $"a guess at it {n}"))
            )
            .ToList();
        var changed = await browser.FormAsync(
            "/password",
            "/password",
            new() { ["old"] = Ship.Password, ["password"] = Other }
        );
        await Task.WhenAll(guesses);
        Assert.Equal(HttpStatusCode.OK, changed.StatusCode);
        // So many guesses lock the account for a while; that is another matter.
        await using (var rows = harbour.Database.Open())
        {
            var id = await IdAsync(ines);
            await rows
                .Accounts.Where(a => a.Id == id)
                .ExecuteUpdateAsync(set => set.SetProperty(a => a.LockedUntil, (DateTimeOffset?)null));
        }
        var right = await stranger.PostAsJsonAsync("/api/v1/sessions", new SignInRequest(ines, Other));
        Assert.Equal(HttpStatusCode.NoContent, right.StatusCode);
        using var another = Browser.At(harbour.Node);
        var old = await another.PostAsJsonAsync("/api/v1/sessions", new SignInRequest(ines, Ship.Password));
        Assert.Equal(HttpStatusCode.Unauthorized, old.StatusCode);
    }

    [Fact]
    public async Task Whatever_happens_to_an_account_and_its_workspace_at_once_nobody_waits_for_the_other()
    {
        var (ship, ines) = await AboardAsync("ines");
        var id = (await ship.Client.PersonAsync(ines)).Id;
        var password = Ship.Password;
        var changes = Task.Run(async () =>
        {
            for (var n = 0; n < 8; n++)
            {
                var next = $"{Other} {n}";
                // Somebody signs them out everywhere meanwhile, so that they sign in anew before each.
                using var browser = Browser.At(harbour.Node);
                var opened = await browser.PostAsJsonAsync(
                    "/api/v1/sessions",
                    new SignInRequest(ines, password)
                );
                Assert.Equal(HttpStatusCode.NoContent, opened.StatusCode);
                var form = await browser.FormAsync(
                    "/password",
                    "/password",
                    new() { ["old"] = password, ["password"] = next }
                );
                Assert.True((int)form.StatusCode < 500, await form.Content.ReadAsStringAsync());
                if (form.StatusCode == HttpStatusCode.OK)
                    password = next;
            }
        });
        var endings = Task.Run(async () =>
        {
            for (var n = 0; n < 12; n++)
                await ship.OtherNode.PeopleStepsAsync(
                    new Client.Accounts.PeopleStepRequest("sign-out", [id.ToString()])
                );
        });
        await Task.WhenAll(changes, endings);
        using var again = Browser.At(harbour.OtherNode);
        Assert.Equal(
            HttpStatusCode.NoContent,
            (await again.PostAsJsonAsync("/api/v1/sessions", new SignInRequest(ines, password))).StatusCode
        );
    }

    [Fact]
    public async Task What_is_refused_leaves_neither_account_nor_workspace_changed_and_two_are_locked_in_one_order()
    {
        var (ship, ines) = await AboardAsync("ines");
        var bo = ship.Address("bo");
        await ship.BringAboardAsync(bo);
        var (one, other) = (await IdAsync(ines), await IdAsync(bo));
        var door = harbour.Node.Services.GetRequiredService<AccountWriter>();
        var before = (await ship.Client.RecordAsync()).Items[0].Sequence;
        var refused = await door.WriteAsync<bool>(
            [one],
            [ship.Id],
            Caller.Invitee("Ines", "page"),
            async write =>
            {
                write.Note(one, "account.made");
                write.Rows.Sessions.RemoveRange(await write.Rows.Sessions.ToListAsync());
                await write.InAsync<bool>(
                    ship.Id,
                    inShip =>
                    {
                        inShip.Record("account.password-changed", one);
                        return Task.FromResult<Outcome<bool>>(true);
                    }
                );
                return CommonRefusals.NotFound;
            }
        );
        Assert.Equal("not-found", refused.Refusal!.Code);
        Assert.Equal(before, (await ship.Client.RecordAsync()).Items[0].Sequence);

        // Each names the accounts in another order; both get through.
        await Task.WhenAll(
            Enumerable
                .Range(0, 20)
                .Select(n =>
                    (
                        n % 2 == 0 ? door : harbour.OtherNode.Services.GetRequiredService<AccountWriter>()
                    ).WriteAsync<bool>(
                        n % 2 == 0 ? [one, other] : [other, one],
                        [],
                        Caller.Invitee("Ines", "page"),
                        write =>
                        {
                            write.Note(one, "account.proof-link", ("address", ines));
                            write.Note(other, "account.proof-link", ("address", bo));
                            return Task.FromResult<Outcome<bool>>(true);
                        }
                    )
                )
        );
        await using var rows = harbour.Database.Open();
        Assert.Equal(
            20,
            await rows.AccountHistory.CountAsync(h => h.AccountId == one && h.Action == "account.proof-link")
        );
    }

    [Fact]
    public async Task A_history_that_was_tampered_with_is_found()
    {
        var (_, ines) = await AboardAsync("ines");
        var id = await IdAsync(ines);
        await using var rows = harbour.Database.Open();
        var entry = rows.AccountHistory.Where(h => h.AccountId == id && h.Sequence == 2);
        var (action, head) = (await entry.Select(h => h.Action).SingleAsync(), await HeadAsync());
        await entry.ExecuteUpdateAsync(set => set.SetProperty(h => h.Action, "account.signed-in"));
        Assert.Equal("record.changed", await FoundAsync());
        await entry.ExecuteUpdateAsync(set => set.SetProperty(h => h.Action, action));
        // Cut off at its end, it does not reach what is kept apart.
        await SetHeadAsync(head + 1);
        Assert.Equal("record.cut", await FoundAsync());
        await SetHeadAsync(head);
        Assert.Null(await FoundAsync());

        Task<long> HeadAsync() =>
            rows.Accounts.Where(a => a.Id == id).Select(a => a.HistorySequence).SingleAsync();
        Task<int> SetHeadAsync(long sequence) =>
            rows
                .Accounts.Where(a => a.Id == id)
                .ExecuteUpdateAsync(set => set.SetProperty(a => a.HistorySequence, sequence));
        async Task<string?> FoundAsync() =>
            (await new DatabaseCheck(harbour.Database).RunAsync())
                .Findings.SingleOrDefault(found => found.Sentence.Contains(ines, StringComparison.Ordinal))
                ?.Code;
    }

    private async Task<(Ship, string Address)> AboardAsync(string name, Ship? at = null)
    {
        var ship = at ?? await harbour.NewShipAsync();
        var address = ship.Address(name);
        await ship.BringAboardAsync(address);
        return (ship, address);
    }

    private async Task<Guid> IdAsync(string address)
    {
        await using var rows = harbour.Database.Open();
        return await rows
            .AccountAddresses.Where(a => a.Address == address)
            .Select(a => a.AccountId)
            .SingleAsync();
    }

    private static async Task<AccountView> ShowAsync(HttpClient browser) =>
        (await browser.GetFromJsonAsync<AccountView>("/api/v1/me/account"))!;

    private static async Task<IReadOnlyList<AccountEventView>> HistoryAsync(HttpClient browser)
    {
        var all = new List<AccountEventView>();
        string? next = "";
        while (next is not null)
        {
            var page = await browser.GetFromJsonAsync<Page<AccountEventView>>(
                $"/api/v1/me/account/history?limit=3{(next.Length > 0 ? "&cursor=" + next : "")}"
            );
            all.AddRange(page!.Items);
            next = page.Next;
        }
        return all;
    }

    private static Task<HttpResponseMessage> StepAsync(HttpClient browser, string path, Guid id) =>
        browser.FormAsync("/places", path, new() { ["id"] = id.ToString() });
}
