using System.Security.Claims;
using ComeAboard.Client.SignIn;
using ComeAboard.Core;
using ComeAboard.Core.Access;
using ComeAboard.Core.Accounts;
using ComeAboard.Service.Applications;
using ComeAboard.Service.Http;
using ComeAboard.Service.Mail;
using ComeAboard.Service.SignIn;
using Microsoft.AspNetCore;
using Microsoft.AspNetCore.Antiforgery;
using Microsoft.AspNetCore.Authentication;
using OpenIddict.Abstractions;
using OpenIddict.Server.AspNetCore;
using static OpenIddict.Abstractions.OpenIddictConstants;

namespace ComeAboard.Service.Pages;

/// <summary>The page that asks whether a program may act for somebody.</summary>
/// <param name="Program">Its name.</param>
/// <param name="House">The workspace it belongs to.</param>
/// <param name="Duties">The duties it would have.</param>
/// <param name="Stays">Whether it would stay let in when its holder signs out.</param>
/// <param name="Asked">The question as it came, to be sent along.</param>
/// <param name="Language">The language it speaks.</param>
/// <param name="Token">The form token.</param>
public sealed record ConsentModel(
    string Program,
    string House,
    IReadOnlyList<string> Duties,
    bool Stays,
    IReadOnlyList<KeyValuePair<string, string>> Asked,
    string Language,
    FormToken Token
);

/// <summary>The page that asks whether to sign out here because a program signed out.</summary>
/// <param name="Asked">The question as it came, to be sent along.</param>
/// <param name="Language">The language it speaks.</param>
/// <param name="Token">The form token.</param>
public sealed record SignOutModel(
    IReadOnlyList<KeyValuePair<string, string>> Asked,
    string Language,
    FormToken Token
);

/// <summary>Signing in to programs with us, and out of them (OpenID Connect Core 1.0, RP-Initiated Logout 1.0).</summary>
public static class ProgramPages
{
    private const string Scheme = OpenIddictServerAspNetCoreDefaults.AuthenticationScheme;
    private const string Via = "page";
    private const string Onward = "/onward";
    private const string Answer = "answer";

    // Whoever was sent to sign in anew has done so within this time.
    private const int AnewSeconds = 120;

    public static void MapProgramPages(this RouteGroupBuilder pages)
    {
        pages.MapMethods(OAuthServer.Authorize, ["GET", "POST"], (Delegate)AuthorizeAsync);
        pages.MapMethods(OAuthServer.EndSession, ["GET", "POST"], (Delegate)EndAsync);
        pages.MapGet(Onward, GoOn);
    }

    private static async Task<IResult> AuthorizeAsync(HttpContext http, SignOns signOns)
    {
        if (http.GetOpenIddictServerResponse() is { Error: not null } wrong)
            return Wrong(http, wrong);
        var request = http.GetOpenIddictServerRequest()!;
        var proof = http.Features.Get<Proof>();
        var account = await PageEndpoints.AccountAsync(http);
        var isSilent = request.HasPromptValue(PromptValues.None);
        if (account is null || proof is null || AsksAnew(http, request, proof))
            return isSilent
                ? OAuthEndpoints.Refuse(Errors.LoginRequired, "Nobody is signed in here.")
                : SignInFirst(request);
        if (await signOns.FindAsync(request.ClientId) is not { } program)
            return OAuthEndpoints.Refuse(Errors.AccessDenied, SignOns.Out.Sentence);
        var scopes = request.GetScopes();
        if (!(await signOns.AdmitAsync(program, account.Id, proof, scopes)).Try(out var admitted, out var no))
            return OAuthEndpoints.Refuse(Errors.AccessDenied, $"{no.Sentence} [{no.Code}]");
        var isAnswered = HttpMethods.IsPost(http.Request.Method) && http.Request.Form.ContainsKey(Answer);
        if (isAnswered)
        {
            await http.RequestServices.GetRequiredService<IAntiforgery>().ValidateRequestAsync(http);
            if (http.Request.Form[Answer] != "yes")
                return OAuthEndpoints.Refuse(Errors.AccessDenied, "They did not let the program in.");
        }
        else if (admitted.Duties != Duties.None || request.HasPromptValue(PromptValues.Consent))
            return isSilent
                ? OAuthEndpoints.Refuse(Errors.ConsentRequired, "They are to be asked first.")
                : Ask(http, request, admitted, account.Language);
        var opened = await signOns.OpenAsync(
            admitted,
            account,
            SessionSignIn.HashOf(http.User),
            proof,
            scopes,
            Via
        );
        return opened.Try(out var principal, out var refusal)
            ? OAuthEndpoints.GiveOut(principal)
            : OAuthEndpoints.Refuse(Errors.AccessDenied, refusal.Sentence);
    }

    private static bool AsksAnew(HttpContext http, OpenIddictRequest request, Proof proof)
    {
        var now = http.RequestServices.GetRequiredService<TimeProvider>().GetUtcNow();
        return request.HasPromptValue(PromptValues.Login)
            || request.MaxAge is { } seconds && proof.At.AddSeconds(seconds) < now;
    }

    /// <summary>
    /// To our own sign-in, and back by a page of its own: a browser lets a form lead only where its page says, and the
    /// page with the form cannot know which program is behind.
    /// </summary>
    private static IResult SignInFirst(OpenIddictRequest request)
    {
        var asked = Asked(request).Where(pair => pair.Key is not (Parameters.Prompt or Parameters.MaxAge));
        var prompts = request.GetPromptValues().Where(prompt => prompt != PromptValues.Login).ToList();
        if (prompts.Count > 0)
            asked = asked.Append(new(Parameters.Prompt, string.Join(' ', prompts)));
        if (request.HasPromptValue(PromptValues.Login) || request.MaxAge is not null)
            asked = asked.Append(
                new(Parameters.MaxAge, Math.Max(request.MaxAge ?? AnewSeconds, AnewSeconds).ToString())
            );
        var back = OAuthServer.Authorize + QueryString.Create(asked!);
        var on = Onward + QueryString.Create("to", back);
        return Results.Redirect("/sign-in" + QueryString.Create("next", on));
    }

    private static IResult GoOn(string? to, HttpContext http) =>
        to is not null
        && to.StartsWith(OAuthServer.Authorize + "?", StringComparison.Ordinal)
        && PageEndpoints.IsLocal(to)
            ? PageEndpoints.Page<OnwardPage>(new OnwardModel(to, PageEndpoints.LanguageOf(http)))
            : Results.Redirect("/home");

    private static IResult Ask(
        HttpContext http,
        OpenIddictRequest request,
        Admitted admitted,
        string language
    )
    {
        http.AllowFormTo(request.RedirectUri);
        return PageEndpoints.Page<ConsentPage>(
            new ConsentModel(
                admitted.Program.Application.Name,
                admitted.Program.Workspace.Name,
                admitted.Duties.List(),
                request.HasScope(Scopes.OfflineAccess),
                Asked(request),
                language,
                PageEndpoints.TokenOf(http)
            )
        );
    }

    private static async Task<IResult> EndAsync(HttpContext http, SignOns signOns)
    {
        if (http.GetOpenIddictServerResponse() is { Error: not null } wrong)
            return Wrong(http, wrong);
        var request = http.GetOpenIddictServerRequest()!;
        if (await PageEndpoints.AccountAsync(http) is not { } account)
            return SignedOut();
        var hint = (await http.AuthenticateAsync(Scheme)).Principal?.FindFirstValue(ProgramClaims.Sid);
        var session = await signOns.SessionAsync(SessionSignIn.HashOf(http.User));
        var isAnswered = HttpMethods.IsPost(http.Request.Method) && http.Request.Form.ContainsKey(Answer);
        if (isAnswered)
            await http.RequestServices.GetRequiredService<IAntiforgery>().ValidateRequestAsync(http);
        // Whoever shows what we said of this very sign-in may end it; anybody else's wish is asked about.
        else if (hint is null || hint != session?.ToString())
        {
            http.AllowFormTo(request.PostLogoutRedirectUri);
            return PageEndpoints.Page<SignOutPage>(
                new SignOutModel(Asked(request), account.Language, PageEndpoints.TokenOf(http))
            );
        }
        await SessionSignIn.CloseAsync(http);
        return SignedOut();
    }

    private static IResult SignedOut() =>
        Results.SignOut(new AuthenticationProperties { RedirectUri = "/sign-in" }, [Scheme]);

    private static List<KeyValuePair<string, string>> Asked(OpenIddictRequest request) =>
        [
            .. request
                .GetParameters()
                .Where(pair => pair.Key != Answer && !pair.Key.StartsWith("__", StringComparison.Ordinal))
                .Select(pair => new KeyValuePair<string, string>(pair.Key, (string?)pair.Value ?? "")),
        ];

    /// <summary>What nobody can be sent back with: the program is unknown, or not at that address.</summary>
    private static IResult Wrong(HttpContext http, OpenIddictResponse wrong)
    {
        var language = PageEndpoints.LanguageOf(http);
        var refusal = new Refusal(
            "application.wrong-request",
            $"An application sent you here with a request that is not right: {wrong.ErrorDescription ?? wrong.Error}",
            "Go back to it, or tell whoever looks after it."
        );
        return PageEndpoints.Page<WordPage>(
            new WordModel(
                "Come Aboard",
                ProgramWords.Of(language).RequestWrong,
                [],
                refusal,
                Language: language
            ),
            PageEndpoints.StatusOf(refusal)
        );
    }
}

/// <summary>The page that goes on to a place of ours by itself.</summary>
/// <param name="To">Where.</param>
/// <param name="Language">The language it speaks.</param>
public sealed record OnwardModel(string To, string Language);
