using ComeAboard.Core;
using ComeAboard.Core.Departures;
using ComeAboard.Service.Access;
using ComeAboard.Service.Departures;
using ComeAboard.Service.Mail;
using ComeAboard.Service.Workspaces;
using ComeAboard.Storage.Workspaces;

namespace ComeAboard.Service.Pages;

/// <summary>The page on which somebody leaves a workspace by themselves.</summary>
/// <param name="Workspace">Which.</param>
/// <param name="Language">Their language.</param>
/// <param name="Allows">What they can do there, as sentences.</param>
/// <param name="Plan">What leaving does; null when they cannot.</param>
/// <param name="Refusal">Why they cannot.</param>
/// <param name="Token">The form token.</param>
public sealed record LeaveModel(
    WorkspaceRow Workspace,
    string Language,
    string Allows,
    DeparturePlan? Plan,
    Refusal? Refusal,
    FormToken Token
);

/// <summary>Leaving a workspace: what is lost is said first.</summary>
public static class LeavePages
{
    private const string Path = "/places/{workspace}/leave";

    public static void MapLeavePages(this RouteGroupBuilder pages)
    {
        pages.MapGet(Path, ShowAsync).ForMembers().EvenKeptOut();
        pages.MapPost(Path, LeaveAsync).ForMembers().EvenKeptOut();
    }

    private static async Task<IResult> ShowAsync(Visitor visitor, HttpContext http, Ending ending) =>
        (await ending.PlanLeavingAsync(visitor)).Try(out var plan, out var refusal)
            ? await PageAsync(visitor, http, plan, null)
            : await PageAsync(visitor, http, null, refusal);

    private static async Task<IResult> LeaveAsync(
        Visitor visitor,
        IFormCollection form,
        HttpContext http,
        Ending ending
    )
    {
        // Only its token is wanted, which is checked because the form is.
        _ = form;
        if (!(await ending.LeaveAsync(visitor)).Try(out _, out var refusal))
            return await PageAsync(visitor, http, null, refusal);
        var words = Phrases.Of(await LanguageAsync(http)).Page;
        return PageEndpoints.Page<WordPage>(
            new WordModel(
                visitor.Workspace.Name,
                words.MyPlaces,
                [string.Format(null, words.Left, visitor.Workspace.Name)],
                Action: words.MyPlaces,
                Link: "/places",
                Language: await LanguageAsync(http)
            )
        );
    }

    private static async Task<IResult> PageAsync(
        Visitor visitor,
        HttpContext http,
        DeparturePlan? plan,
        Refusal? refusal
    )
    {
        var language = await LanguageAsync(http);
        return PageEndpoints.Page<LeavePage>(
            new LeaveModel(
                visitor.Workspace,
                language,
                Bundles.SentenceOf(
                    Phrases.Of(language),
                    visitor.World,
                    visitor.Member.Id,
                    visitor.Member.Kind
                ),
                plan,
                refusal,
                PageEndpoints.TokenOf(http)
            ),
            refusal is null ? 200 : PageEndpoints.StatusOf(refusal)
        );
    }

    private static async Task<string> LanguageAsync(HttpContext http) =>
        (await PageEndpoints.AccountAsync(http))?.Language ?? "en";
}
