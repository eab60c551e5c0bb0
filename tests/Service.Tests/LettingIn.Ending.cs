using System.Collections.Concurrent;
using System.Net;
using System.Text.Json;
using ComeAboard.Client;
using ComeAboard.Client.Access;
using ComeAboard.Client.Applications;
using ComeAboard.Service.Applications;
using ComeAboard.Service.Tests.World;
using Microsoft.AspNetCore.Builder;
using Microsoft.AspNetCore.Http;
using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.DependencyInjection;
using Microsoft.Extensions.Logging;
using Microsoft.IdentityModel.JsonWebTokens;
using Microsoft.IdentityModel.Tokens;
using Xunit;

namespace ComeAboard.Service.Tests;

public abstract partial class LettingIn
{
    [Theory]
    [InlineData("ended")]
    [InlineData("left")]
    [InlineData("paused")]
    [InlineData("taken")]
    [InlineData("switched off")]
    [InlineData("signed out")]
    [InlineData("closed")]
    public async Task Whoever_may_not_be_there_any_more_is_out_at_once_and_the_program_is_told(string how)
    {
        await using var told = await ToldOfSignOuts.StartAsync();
        var (ship, rigging) = await RiggingAsync(told: told.Address);
        var (kit, oona) = (ship.Address("kit"), ship.Address("oona"));
        await ship.BringAboardAsync(kit, role: "nothing");
        await ship.BringAboardAsync(oona);
        var grant = await ship.Client.GrantAsync(
            new GrantRequest("edit", Person: kit, Resource: "Rigging log")
        );
        using var browser = await ship.BrowserOfAsync(kit);
        using var others = await ship.BrowserOfAsync(oona);
        var stays = await rigging.SignInAsync(others, "openid offline_access");
        var tokens = await rigging.SignInAsync(browser, "openid offline_access");
        var short_ = await rigging.SignInAsync(browser, "openid");
        Assert.Equal("edit", tokens.Identity.GetProperty("level").GetString());
        Assert.Equal(3, (await ship.Client.ApplicationAsync("Rigging log")).SignedIn);
        switch (how)
        {
            case "ended":
                await ship.Client.EndAsync(kit);
                break;
            case "left":
                await browser.FormAsync($"/places/{ship.Name}/leave", $"/places/{ship.Name}/leave", []);
                break;
            case "paused":
                await ship.Client.PeopleStepsAsync(
                    new Client.Accounts.PeopleStepRequest("pause", [kit], Reason: "Away")
                );
                break;
            case "taken":
                await ship.Client.TakeGrantAsync(grant.Grant!.Id);
                break;
            case "switched off":
                await ship.Client.SwitchOffAsync("Rigging log", new SwitchRequest(Person: kit));
                break;
            case "signed out":
                await browser.FormAsync("/places", "/sign-out", []);
                break;
            default:
                await browser.SendAsync(HttpMethod.Post, "/api/v1/me/account/sign-ins/close-others", new { });
                using (var second = await ship.BrowserOfAsync(kit))
                    await second.SendAsync(
                        HttpMethod.Post,
                        "/api/v1/me/account/sign-ins/close-others",
                        new { }
                    );
                break;
        }
        var isOut = how is not ("signed out" or "closed");
        Assert.Equal("invalid_token", (await rigging.WhoAsync(short_.Access)).Error);
        if (isOut)
        {
            Assert.Equal("invalid_token", (await rigging.WhoAsync(tokens.Access)).Error);
            Assert.Equal("invalid_grant", (await rigging.RefreshAsync(tokens.Refresh)).Error);
        }
        else
            // What was let in to stay stays; that it is known is what matters.
            Assert.Equal("", (await rigging.RefreshAsync(tokens.Refresh)).Error);
        var news = await told.TakeAsync(2);
        Assert.Equal(
            [tokens.Identity.GetProperty("sid").GetString()!],
            news.Select(token => token.GetClaim("sid").Value).Distinct()
        );
        var keys = await KeysAsync();
        foreach (var token in news)
        {
            var (known, person) = (
                (await ship.Client.ApplicationAsync("Rigging log")).ClientId,
                tokens.Identity.GetProperty("sub").GetString()
            );
            Assert.Equal("logout+jwt", token.Typ);
            Assert.Equal(person, token.Subject);
            Assert.False(token.TryGetClaim("nonce", out _));
            Assert.Contains("backchannel-logout", token.GetClaim("events").Value, StringComparison.Ordinal);
            var read = await new JsonWebTokenHandler().ValidateTokenAsync(
                token.EncodedToken,
                new TokenValidationParameters
                {
                    ValidIssuer = "http://127.0.0.1:1/",
                    ValidAudience = known,
                    IssuerSigningKeys = keys.GetSigningKeys(),
                    ValidateLifetime = false,
                }
            );
            Assert.True(read.IsValid, read.Exception?.Message);
        }
        // Nobody else is touched.
        Assert.Equal("", (await rigging.RefreshAsync(stays.Refresh)).Error);
        Assert.Equal(isOut ? 1 : 2, (await ship.Client.ApplicationAsync("Rigging log")).SignedIn);
    }

    [Fact]
    public async Task A_program_that_is_away_is_told_later_and_one_that_is_there_at_once()
    {
        await using var told = await ToldOfSignOuts.StartAsync();
        var (ship, rigging) = await RiggingAsync(told: "http://127.0.0.1:9/none");
        var made = await ship.Client.AddApplicationAsync(
            Wish("Bilge log", Relying.Redirect) with
            {
                SignOutAddress = told.Address,
            }
        );
        using var bilge = new Relying(harbour.Node, made.Application.ClientId, made.Secret);
        var kit = ship.Address("kit");
        await ship.BringAboardAsync(kit);
        using var browser = await ship.BrowserOfAsync(kit);
        await rigging.SignInAsync(browser, "openid");
        await bilge.SignInAsync(browser, "openid");
        await ship.Client.EndAsync(kit);
        await told.TakeAsync(1);
        await ship.Client.ChangeApplicationAsync(
            "Rigging log",
            Wish("Rigging log", Relying.Redirect) with
            {
                SignOutAddress = told.Address,
            }
        );
        harbour.Clock.Offset += TimeSpan.FromMinutes(1);
        var news = harbour.Node.Services.GetRequiredService<SignOutNews>();
        await news.CatchUpAsync(TestContext.Current.CancellationToken);
        var late = await told.TakeAsync(1);
        Assert.NotEqual(made.Application.ClientId, late.Single().Audiences.Single());
        harbour.Clock.Offset += TimeSpan.FromHours(3);
        await news.CatchUpAsync(TestContext.Current.CancellationToken);
        Assert.Equal(0, told.Waiting);
    }

    [Fact]
    public async Task What_was_given_until_a_day_ends_with_it()
    {
        await using var told = await ToldOfSignOuts.StartAsync();
        var (ship, rigging) = await RiggingAsync(told: told.Address);
        var today = (await ship.Client.WorkspaceAsync()).Today;
        var kit = ship.Address("kit");
        await ship.BringAboardAsync(kit, role: "nothing");
        await ship.Client.GrantAsync(
            new GrantRequest("view", Person: kit, Resource: "Rigging log", Until: today.AddDays(1))
        );
        using var browser = await ship.BrowserOfAsync(kit);
        var tokens = await rigging.SignInAsync(browser, "openid offline_access");
        harbour.Clock.Offset += TimeSpan.FromDays(2);
        Assert.Equal("invalid_grant", (await rigging.RefreshAsync(tokens.Refresh)).Error);
        await harbour
            .Node.Services.GetRequiredService<SignOutNews>()
            .CatchUpAsync(TestContext.Current.CancellationToken);
        await told.TakeAsync(1);
    }

    [Fact]
    public async Task Whoever_is_let_in_while_lost_sign_ins_are_looked_for_stays_in()
    {
        var (ship, _) = await RiggingAsync();
        var made = await ship.Client.AddApplicationAsync(Wish("Bilge log", Relying.Redirect));
        using var bilge = new Relying(harbour.OtherNode, made.Application.ClientId, made.Secret);
        var kit = ship.Address("kit");
        await ship.BringAboardAsync(kit, role: "nothing");
        using var browser = await ship.BrowserOfAsync(kit, atOtherNode: true);
        // Both nodes have looked for today; the third is the only one that looks now.
        var stop = TestContext.Current.CancellationToken;
        foreach (var node in new[] { harbour.Node, harbour.OtherNode })
            await node.Services.GetRequiredService<SignOutNews>().CatchUpAsync(stop);
        Relying.Answer? tokens = null;
        using var meanwhile = new Meanwhile(
            harbour.Database,
            "FROM oauth_sign_ons AS o\nWHERE o.workspace_id",
            ship.Id,
            async () =>
            {
                await ship.OtherNode.GrantAsync(
                    new GrantRequest("edit", Person: kit, Resource: "Rigging log")
                );
                tokens = await bilge.SignInAsync(browser, "openid offline_access");
            }
        );
        await ActivatorUtilities.CreateInstance<SignOutNews>(harbour.Node.Services).CatchUpAsync(stop);
        await meanwhile.Work;
        Assert.Equal("", (await bilge.RefreshAsync(tokens!.Refresh)).Error);
        Assert.Equal(1, (await ship.Client.ApplicationAsync("Bilge log")).SignedIn);
    }

    [Fact]
    public async Task What_is_over_is_forgotten_and_what_a_program_acts_by_itself_by_is_not()
    {
        var (ship, rigging) = await RiggingAsync();
        var made = await ship.Client.AddApplicationAsync(
            new ApplicationRequest("Crew board", Duties: ["people"], ActsFor: ship.Administrator)
        );
        using var board = new Relying(harbour.Node, made.Application.ClientId, made.Secret);
        await board.ForItselfAsync();
        using var browser = await ship.BrowserOfAsync(ship.Administrator);
        await rigging.SignInAsync(browser, "openid");
        await rigging.SignInAsync(browser, "openid offline_access");
        await rigging.AskAsync(browser, "openid");
        await harbour.LetPassAsync(TimeSpan.FromDays(40));
        await using var rows = harbour.Database.Open();
        var left = await rows.OAuthSignOns.Where(s => s.WorkspaceId == ship.Id).ToListAsync();
        Assert.Equal([made.Application.Id], left.Select(s => s.Id));
        Assert.Equal("", (await board.ForItselfAsync()).Error);
    }

    private async Task<JsonWebKeySet> KeysAsync()
    {
        using var http = new HttpClient { BaseAddress = Harbour.UrlOf(harbour.OtherNode) };
        return new JsonWebKeySet(await http.GetStringAsync("/.well-known/jwks"));
    }

    /// <summary>Where a program is told of sign-outs.</summary>
    private sealed class ToldOfSignOuts(WebApplication app) : IAsyncDisposable
    {
        private readonly ConcurrentQueue<JsonWebToken> _told = new();

        public string Address => Harbour.UrlOf(app) + "signed-out";
        public int Waiting => _told.Count;

        public static async Task<ToldOfSignOuts> StartAsync()
        {
            var builder = WebApplication.CreateSlimBuilder();
            builder.Logging.ClearProviders();
            var app = builder.Build();
            app.Urls.Add("http://127.0.0.1:0");
            var told = new ToldOfSignOuts(app);
            app.MapPost(
                "/signed-out",
                async (HttpRequest request) =>
                {
                    var form = await request.ReadFormAsync();
                    told._told.Enqueue(new JsonWebToken(form["logout_token"].ToString()));
                    return Results.Ok();
                }
            );
            await app.StartAsync();
            return told;
        }

        /// <summary>So many as were told, in whatever time it takes.</summary>
        public async Task<List<JsonWebToken>> TakeAsync(int count)
        {
            var taken = new List<JsonWebToken>();
            for (var tries = 0; taken.Count < count; tries++)
            {
                Assert.True(tries < 300, $"told {taken.Count} of {count}");
                if (_told.TryDequeue(out var token))
                    taken.Add(token);
                else
                    await Task.Delay(50);
            }
            return taken;
        }

        public ValueTask DisposeAsync() => app.DisposeAsync();
    }
}
