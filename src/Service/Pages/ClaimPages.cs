using ComeAboard.Client.Accounts;
using ComeAboard.Core;
using ComeAboard.Core.Accounts;
using ComeAboard.Service.Accounts;
using ComeAboard.Service.Http;
using ComeAboard.Service.Mail;
using ComeAboard.Service.SignIn;

namespace ComeAboard.Service.Pages;

/// <summary>The page on which the holder of an account reads and answers a claim.</summary>
/// <param name="Offer">What is asked.</param>
/// <param name="Path">Where the answer goes.</param>
/// <param name="Silent">What follows from no answer.</param>
/// <param name="Deadline">Until when, in words.</param>
/// <param name="IsHolder">Whether whoever looks is signed in with the account.</param>
/// <param name="Keep">The other address, as it was given.</param>
/// <param name="CodeSent">Whether a code was just sent there.</param>
/// <param name="IsDone">Whether it was answered just now.</param>
/// <param name="Refusal">Why the last step was not taken.</param>
/// <param name="Language">The language it speaks.</param>
/// <param name="Token">The form token.</param>
public sealed record ClaimModel(
    ClaimOfferView Offer,
    string Path,
    string Silent,
    string Deadline,
    bool IsHolder,
    string Keep,
    bool CodeSent,
    bool IsDone,
    Refusal? Refusal,
    string Language,
    FormToken Token
);

/// <summary>The pages of a claim for the holder of the account: by the link of a mail, or from their own account.</summary>
public static class ClaimPages
{
    private const string Via = "page";

    public static void MapClaimPages(this RouteGroupBuilder pages)
    {
        foreach (var path in new[] { "/claim/{secret}", "/account/claims/{id:guid}" })
        {
            pages.MapGet(path, (Delegate)ShowAsync).LimitedBy(Limits.SigningIn);
            pages.MapPost(path, AnswerAsync).LimitedBy(Limits.SigningIn);
            pages.MapPost(path + "/code", SendCodeAsync).LimitedBy(Limits.Codes);
        }
    }

    private static async Task<IResult> ShowAsync(HttpContext http) =>
        (await FindAsync(http)).Try(out var found, out var refusal)
            ? Show(http, found, null)
            : PageEndpoints.Refused(http, refusal);

    private static async Task<IResult> AnswerAsync(IFormCollection form, HttpContext http)
    {
        if (!(await FindAsync(http)).Try(out var found, out var refusal))
            return PageEndpoints.Refused(http, refusal);
        if (!IsHolder(http, found) || http.Features.Get<Proof>() is not { } proof)
            return Results.Redirect("/sign-in?next=" + Uri.EscapeDataString(http.Request.Path));
        var keep = form["keep"].ToString();
        var request = new ClaimAnswerRequest(form["answer"].ToString(), keep, form["code"]);
        var answered = await AnswersOf(http).AnswerAsync(found, request, proof, Via);
        if (answered.Refusal?.Code == "proof.stale")
            return Results.Redirect("/confirm?next=" + Uri.EscapeDataString(http.Request.Path));
        if (!answered.Try(out var view, out refusal))
            return Show(http, found, refusal, keep);
        return Show(http, found, null, view: view);
    }

    private static async Task<IResult> SendCodeAsync(IFormCollection form, HttpContext http)
    {
        if (!(await FindAsync(http)).Try(out var found, out var refusal))
            return PageEndpoints.Refused(http, refusal);
        if (!IsHolder(http, found))
            return Results.Redirect("/sign-in");
        var keep = form["keep"].ToString();
        var sent = await AnswersOf(http).SendCodeAsync(found, keep, Via);
        return Show(http, found, sent.Refusal, keep, sent.Succeeded);
    }

    private static async Task<Outcome<FoundClaim>> FindAsync(HttpContext http)
    {
        if (http.GetRouteValue("secret") is string secret)
            return await AnswersOf(http).FindAsync(secret);
        if (http.User.AccountId() is not { } account)
            return CommonRefusals.SignInRequired;
        return
            await AnswersOf(http).OneAsync(account, Guid.Parse((string)http.GetRouteValue("id")!))
                is { } found
            ? found
            : CommonRefusals.NotFound;
    }

    private static bool IsHolder(HttpContext http, FoundClaim found) =>
        http.User.AccountId() == found.Account.Id;

    private static IResult Show(
        HttpContext http,
        FoundClaim found,
        Refusal? refusal,
        string keep = "",
        bool codeSent = false,
        ClaimOfferView? view = null
    )
    {
        var phrases = Phrases.Of(found.Account.Language);
        var path = http.Request.Path.ToString();
        return PageEndpoints.Page<ClaimPage>(
            new ClaimModel(
                view ?? AnswersOf(http).Show(found),
                path.EndsWith("/code", StringComparison.Ordinal) ? path[..^"/code".Length] : path,
                phrases.ClaimSilent(found.Workspace.Name, found.Row.Silence),
                found.Row.Deadline is { } end ? phrases.Instant(end, found.Workspace.Zone) : "",
                IsHolder(http, found),
                keep,
                codeSent,
                view is not null,
                refusal,
                found.Account.Language,
                PageEndpoints.TokenOf(http)
            ),
            refusal is null ? 200 : PageEndpoints.StatusOf(refusal)
        );
    }

    private static ClaimAnswers AnswersOf(HttpContext http) =>
        http.RequestServices.GetRequiredService<ClaimAnswers>();
}
