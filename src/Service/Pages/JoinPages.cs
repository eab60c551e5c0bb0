using ComeAboard.Core;
using ComeAboard.Service.Http;
using ComeAboard.Service.Invitations;
using ComeAboard.Service.Mail;
using ComeAboard.Service.Workspaces;

namespace ComeAboard.Service.Pages;

/// <summary>The pages of join links, and the colours of workspaces.</summary>
public static class JoinPages
{
    private const string Via = "page";

    public static void MapJoinPages(this RouteGroupBuilder pages)
    {
        pages.MapGet("/j/{secret}", ShowAsync);
        pages.MapPost("/j/{secret}", AskAsync).LimitedBy(Limits.Codes);
        pages.MapGet("/pages/{workspace}.css", ColoursAsync);
    }

    private static async Task<IResult> ShowAsync(string secret, HttpContext http, HeldLinks links) =>
        (await links.OpenAsync(secret)).Try(out var found, out var refusal)
            ? await OfferAsync(http, links, found, secret, "", "", null)
            : Closed(http, refusal);

    private static async Task<IResult> AskAsync(
        string secret,
        IFormCollection form,
        HttpContext http,
        HeldLinks links
    )
    {
        if (!(await links.OpenAsync(secret)).Try(out var found, out var refusal))
            return Closed(http, refusal);
        var (name, address) = (form["name"].ToString(), form["address"].ToString());
        if (!(await links.AskAsync(secret, address, name, Via)).Try(out _, out refusal))
            return await OfferAsync(http, links, found, secret, name, address, refusal);
        var words = Phrases.Of(found.Link.Language).Page;
        return PageEndpoints.Page<WordPage>(
            new WordModel(
                found.Workspace.Name,
                words.JoinMailTitle,
                [string.Format(null, words.JoinMailSentence, address.Trim())],
                Language: found.Link.Language,
                Colours: found.Workspace.ShortName
            )
        );
    }

    private static async Task<IResult> OfferAsync(
        HttpContext http,
        HeldLinks links,
        FoundLink found,
        string secret,
        string name,
        string address,
        Refusal? refusal
    ) =>
        PageEndpoints.Page<JoinPage>(
            new JoinModel(
                secret,
                await links.OfferOfAsync(found),
                found.Workspace,
                name,
                address,
                refusal,
                PageEndpoints.TokenOf(http)
            ),
            refusal is null ? 200 : PageEndpoints.StatusOf(refusal)
        );

    private static IResult Closed(HttpContext http, Refusal refusal)
    {
        var language = PageEndpoints.LanguageOf(http);
        return PageEndpoints.Page<WordPage>(
            new WordModel(
                "Come Aboard",
                Phrases.Of(language).Page.LinkClosed,
                [],
                refusal,
                Language: language
            ),
            PageEndpoints.StatusOf(refusal)
        );
    }

    /// <summary>The workspace's colour for invitee pages; the same empty answer whether it has none or is none.</summary>
    private static async Task<IResult> ColoursAsync(string workspace, HttpContext http, Overview overview)
    {
        var colour = await overview.ColourAsync(workspace);
        http.Response.Headers.CacheControl = "max-age=60";
        // In the dark the colour stays a surface behind white letters; what is written in it takes the product's own.
        return Results.Text(
            colour is null
                ? ""
                : $$"""
                main { border-top-color: {{colour}}; }
                button:not(.second):not(.plain), a.button { color: #ffffff; background: {{colour}}; border-color: {{colour}}; }
                @media (prefers-color-scheme: light) { button.second, button.plain { color: {{colour}}; } button.second { border-color: {{colour}}; } }
                """,
            "text/css; charset=utf-8"
        );
    }
}
