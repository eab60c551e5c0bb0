using System.Net;
using System.Net.Http.Json;
using ComeAboard.Client;
using ComeAboard.Service.Tests.World;
using Xunit;

namespace ComeAboard.Service.Tests;

public sealed class AnsweredByPages_on_SQLite(SqliteHarbour harbour)
    : AnsweredByPages(harbour),
        IClassFixture<SqliteHarbour>;

public sealed class AnsweredByPages_on_PostgreSQL(PostgresHarbour harbour)
    : AnsweredByPages(harbour),
        IClassFixture<PostgresHarbour>;

/// <summary>Whoever looks at an answer is given a page also where something was refused before any page was reached.</summary>
public abstract class AnsweredByPages(Harbour harbour)
{
    private const string Looking = "text/html,application/xhtml+xml,application/xml;q=0.9,*/*;q=0.8";

    [Theory]
    [InlineData("/nothing", HttpStatusCode.NotFound, "not-found")]
    [InlineData("/account/nothing", HttpStatusCode.NotFound, "not-found")]
    [InlineData("/i/", HttpStatusCode.NotFound, "not-found")]
    [InlineData("/account/language", HttpStatusCode.MethodNotAllowed, "not-found")]
    [InlineData("/places/nobody-s/leave", HttpStatusCode.NotFound, "workspace.not-found")]
    public async Task What_is_not_there_is_said_by_a_page_that_leads_on(
        string path,
        HttpStatusCode status,
        string code
    )
    {
        var ship = await harbour.NewShipAsync();
        using var browser = await LookingAsync(ship);
        using var answer = await browser.GetAsync(path);
        Assert.Equal(status, answer.StatusCode);
        var page = await PageAsync(answer);
        Assert.Contains($"data-code=\"{code}\"", page, StringComparison.Ordinal);
        Assert.Contains("href=\"/places\"", page, StringComparison.Ordinal);
    }

    [Fact]
    public async Task Whoever_has_to_sign_in_first_comes_to_where_they_wanted_to_be()
    {
        var ship = await harbour.NewShipAsync();
        using var stranger = new HttpClient(new HttpClientHandler { AllowAutoRedirect = false })
        {
            BaseAddress = Harbour.UrlOf(harbour.Node),
        };
        stranger.DefaultRequestHeaders.Accept.ParseAdd(Looking);
        var leave = $"/places/{ship.Name}/leave";
        using var seen = await stranger.GetAsync(leave + "?from=a&b");
        Assert.Equal(HttpStatusCode.Redirect, seen.StatusCode);
        Assert.Equal(
            leave + "?from=a&b",
            System.Web.HttpUtility.ParseQueryString(seen.Headers.Location!.ToString().Split('?')[1])["next"]
        );
        // What was sent is not sent again by signing in.
        using var sent = await stranger.PostAsync(leave, new FormUrlEncodedContent([]));
        Assert.Equal(HttpStatusCode.Unauthorized, sent.StatusCode);
        Assert.Contains("href=\"/sign-in\"", await PageAsync(sent), StringComparison.Ordinal);
    }

    [Fact]
    public async Task A_page_that_is_older_than_the_sign_in_is_told_so_in_the_language_of_the_browser()
    {
        var ship = await harbour.NewShipAsync();
        using var browser = await LookingAsync(ship);
        browser.DefaultRequestHeaders.AcceptLanguage.ParseAdd("de-DE,de;q=0.9,en;q=0.5");
        using var answer = await browser.PostAsync(
            "/account/language",
            new FormUrlEncodedContent([new("language", "de"), new("__RequestVerificationToken", "of before")])
        );
        Assert.Equal(HttpStatusCode.Forbidden, answer.StatusCode);
        var page = await PageAsync(answer);
        Assert.Contains("data-code=\"antiforgery.missing\"", page, StringComparison.Ordinal);
        Assert.Contains("Laden Sie die Seite neu", page, StringComparison.Ordinal);
        Assert.Contains("<html lang=\"de\">", page, StringComparison.Ordinal);
    }

    [Fact]
    public async Task A_stranger_whose_form_is_old_is_told_to_load_it_again_and_not_to_sign_in()
    {
        var ship = await harbour.NewShipAsync();
        var sent = await ship.InviteAsync(ship.Address("ines"));
        var secret = await ship.SecretAsync(ship.Address("ines"));
        using var stranger = new HttpClient { BaseAddress = Harbour.UrlOf(harbour.Node) };
        stranger.DefaultRequestHeaders.Accept.ParseAdd(Looking);
        using var answer = await stranger.PostAsync(
            $"/i/{secret}/decline",
            new FormUrlEncodedContent([new("__RequestVerificationToken", "of before")])
        );
        Assert.Equal(HttpStatusCode.Forbidden, answer.StatusCode);
        var page = await PageAsync(answer);
        Assert.Contains("Load the page again", page, StringComparison.Ordinal);
        Assert.DoesNotContain("/sign-in", page, StringComparison.Ordinal);
        Assert.NotEqual("declined", (await ship.Client.InvitationAsync(sent.Id)).State);
    }

    [Theory]
    [InlineData("/api/v1/nothing", Looking)]
    [InlineData("/nothing", "application/json")]
    [InlineData("/nothing", "*/*")]
    public async Task Whatever_asks_the_interface_or_for_no_page_is_given_the_document(
        string path,
        string accept
    )
    {
        using var program = new HttpClient { BaseAddress = Harbour.UrlOf(harbour.Node) };
        program.DefaultRequestHeaders.Accept.ParseAdd(accept);
        using var answer = await program.GetAsync(path);
        Assert.Equal(HttpStatusCode.NotFound, answer.StatusCode);
        Assert.Equal("not-found", (await answer.Content.ReadFromJsonAsync<Problem>())!.Code);
    }

    private static async Task<HttpClient> LookingAsync(Ship ship)
    {
        var browser = await ship.BrowserOfAsync(ship.Administrator);
        browser.DefaultRequestHeaders.Accept.ParseAdd(Looking);
        return browser;
    }

    /// <summary>The page that was answered; it runs nothing and is kept nowhere, as all of them.</summary>
    private static async Task<string> PageAsync(HttpResponseMessage answer)
    {
        Assert.Equal("text/html", answer.Content.Headers.ContentType!.MediaType);
        Assert.StartsWith(
            "default-src 'none'",
            answer.Headers.GetValues("Content-Security-Policy").Single(),
            StringComparison.Ordinal
        );
        Assert.True(answer.Headers.CacheControl!.NoStore);
        var page = await answer.Content.ReadAsStringAsync();
        Assert.DoesNotContain("<script", page, StringComparison.OrdinalIgnoreCase);
        return page;
    }
}
