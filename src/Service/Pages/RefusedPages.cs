using ComeAboard.Core;
using ComeAboard.Service.Mail;
using ComeAboard.Service.SignIn;

namespace ComeAboard.Service.Pages;

/// <summary>What is refused to somebody at a browser before a page of its own could say so: a page says it, and leads on.</summary>
public static class RefusedPages
{
    /// <summary>
    /// Whether somebody looks at the answer. A browser that goes somewhere or sends a form says that it takes HTML (RFC 9110
    /// section 12.5.1); whatever asks the interface takes its documents.
    /// </summary>
    public static bool IsLookedAt(HttpContext http) =>
        !http.Request.Path.StartsWithSegments("/api")
        && http.Request.GetTypedHeaders()
            .Accept.Any(type => type.MediaType.Equals("text/html", StringComparison.OrdinalIgnoreCase));

    /// <summary>The page that says a refusal; whoever only has to sign in to see what they asked for is led there.</summary>
    /// <param name="refusal">Why not.</param>
    /// <param name="http">The request.</param>
    /// <param name="status">The status; null for the refusal's own.</param>
    public static IResult Of(Refusal refusal, HttpContext http, int? status = null)
    {
        var needsSignIn = refusal.Sort == RefusalSort.NotSignedIn;
        if (needsSignIn && HttpMethods.IsGet(http.Request.Method))
            return Results.Redirect(
                "/sign-in" + QueryString.Create("next", http.Request.Path + http.Request.QueryString)
            );
        var language = PageEndpoints.LanguageOf(http);
        var words = Phrases.Of(language).Page;
        // A stranger who was asked for nothing but an answer is not sent to a sign-in that they may not have.
        (string? action, string? link) =
            needsSignIn ? (words.SignIn, "/sign-in")
            : http.User.AccountId() is not null ? (words.MyPlaces, "/places")
            : refusal.Sort == RefusalSort.NotFound ? (words.SignIn, "/sign-in")
            : default;
        return PageEndpoints.Page<WordPage>(
            new WordModel("Come Aboard", words.NotDone, [], refusal, action, link, Language: language),
            status ?? PageEndpoints.StatusOf(refusal)
        );
    }
}
