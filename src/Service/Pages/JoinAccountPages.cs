using ComeAboard.Core;
using ComeAboard.Core.Accounts;
using ComeAboard.Service.Http;
using ComeAboard.Service.Mail;
using ComeAboard.Service.Merging;
using ComeAboard.Service.SignIn;
using ComeAboard.Storage.Accounts;
using Microsoft.AspNetCore.Authentication;

namespace ComeAboard.Service.Pages;

/// <summary>The pages on which somebody joins two accounts of their own, and parts them again.</summary>
public static class JoinAccountPages
{
    private const string Via = "page";
    private const string Place = "/account/join";

    public static void MapJoinAccountPages(this RouteGroupBuilder pages)
    {
        pages.MapGet(Place, BeginAsync);
        pages.MapPost(Place + "/code", SendCodeAsync).LimitedBy(Limits.Codes);
        pages.MapPost(Place + "/show", ShowAsync).LimitedBy(Limits.SigningIn);
        pages.MapPost(Place + "/plan", PlanAsync).LimitedBy(Limits.SigningIn);
        pages.MapPost(Place + "/do", JoinAsync).LimitedBy(Limits.SigningIn);
        pages.MapPost(Place + "/part", PartAsync).LimitedBy(Limits.SigningIn);
    }

    private static Task<IResult> BeginAsync(string? with, HttpContext http) =>
        WithAccountAsync(
            http,
            account => Task.FromResult(Page(http, account, new JoinStep(with ?? "", false, null), null))
        );

    private static Task<IResult> SendCodeAsync(IFormCollection form, HttpContext http) =>
        WithAccountAsync(
            http,
            async account =>
            {
                var address = form["address"].ToString();
                var sent = await MergesOf(http).SendCodeAsync(account, address, Via);
                return Page(http, account, new JoinStep(address, sent.Succeeded, null), sent.Refusal);
            }
        );

    private static Task<IResult> ShowAsync(IFormCollection form, HttpContext http) =>
        WithAccountAsync(
            http,
            async account =>
            {
                var address = form["address"].ToString();
                var shown = await MergesOf(http)
                    .ShowAsync(account, address, form["code"], form["step"], Asking.Of(http), Via);
                return shown.Try(out var plan, out var refusal)
                    ? Page(http, account, new JoinStep(address, true, plan), null)
                    : Page(http, account, new JoinStep(address, true, null), refusal);
            }
        );

    private static Task<IResult> PlanAsync(IFormCollection form, HttpContext http) =>
        WithAccountAsync(
            http,
            async account =>
                (await MergesOf(http).PlanAsync(account, form["ticket"], form["keep"] == "other", Via)).Try(
                    out var plan,
                    out var refusal
                )
                    ? Page(http, account, new JoinStep("", true, plan), null)
                    : Page(http, account, new JoinStep("", false, null), refusal)
        );

    private static Task<IResult> JoinAsync(IFormCollection form, HttpContext http) =>
        WithAccountAsync(
            http,
            async account =>
            {
                var keepsOther = form["keep"] == "other";
                var joined = await MergesOf(http)
                    .JoinAsync(account, form["ticket"], keepsOther, http.Features.Get<Proof>()!, Via);
                if (!joined.Try(out var done, out var refusal))
                    return Page(http, account, new JoinStep("", false, null), refusal);
                if (keepsOther)
                    await http.SignOutAsync(SessionSignIn.Scheme);
                var words = Phrases.Of(account.Language).Page;
                return Said(
                    account,
                    string.Format(null, words.MergeDone, done.Goes.Address, done.Stays.Address),
                    keepsOther ? words.SignIn : words.YourAccount,
                    keepsOther ? "/sign-in" : "/account"
                );
            }
        );

    private static Task<IResult> PartAsync(IFormCollection form, HttpContext http) =>
        WithAccountAsync(
            http,
            async account =>
            {
                _ = Guid.TryParse(form["merge"], out var id);
                var parted = await MergesOf(http).PartAsync(account, id, http.Features.Get<Proof>()!, Via);
                if (!parted.Try(out _, out var refusal))
                    return PageEndpoints.Refused(http, refusal);
                await http.SignOutAsync(SessionSignIn.Scheme);
                var words = Phrases.Of(account.Language).Page;
                return Said(account, words.MergeParted, words.SignIn, "/sign-in");
            }
        );

    /// <summary>Goes on for somebody who is signed in and showed lately that the account is theirs.</summary>
    private static async Task<IResult> WithAccountAsync(
        HttpContext http,
        Func<AccountRow, Task<IResult>> go
    ) =>
        await PageEndpoints.AccountAsync(http) is not { } account
            ? Results.Redirect("/sign-in?next=" + Place)
            : SecondStepPages.Stale(http, Place) ?? await go(account);

    private static IResult Said(AccountRow account, string sentence, string word, string on) =>
        PageEndpoints.Page<WordPage>(
            new WordModel(
                "Come Aboard",
                Phrases.Of(account.Language).Page.MergeTitle,
                [sentence],
                null,
                word,
                on,
                Language: account.Language
            )
        );

    private static IResult Page(HttpContext http, AccountRow account, JoinStep step, Refusal? refusal) =>
        PageEndpoints.Page<JoinAccountPage>(
            new JoinAccountModel(
                account.Address,
                step,
                refusal ?? step.Plan?.Done.No,
                account.Language,
                PageEndpoints.TokenOf(http)
            ),
            refusal is null ? 200 : PageEndpoints.StatusOf(refusal)
        );

    private static YourMerges MergesOf(HttpContext http) =>
        http.RequestServices.GetRequiredService<YourMerges>();
}
