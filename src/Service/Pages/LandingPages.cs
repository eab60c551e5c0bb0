using ComeAboard.Core;
using ComeAboard.Service.Http;
using ComeAboard.Service.Invitations;
using ComeAboard.Service.Jobs;
using ComeAboard.Service.Mail;
using ComeAboard.Service.SignIn;
using Microsoft.AspNetCore.Antiforgery;
using Microsoft.AspNetCore.Components;
using Microsoft.AspNetCore.Http.HttpResults;

namespace ComeAboard.Service.Pages;

/// <summary>The invitee's pages: what an invitation offers, saying yes, saying no, asking not to be asked again.</summary>
public static class LandingPages
{
    private const string Via = "page";

    public static void MapLandingPages(this RouteGroupBuilder pages)
    {
        pages.MapGet("/i/{secret}", LandAsync);
        pages.MapPost("/i/{secret}/accept", AcceptAsync).LimitedBy(Limits.SigningIn);
        pages.MapPost("/i/{secret}/accept-held", AcceptHeldAsync).LimitedBy(Limits.SigningIn);
        pages.MapPost("/i/{secret}/code", CodeAsync).LimitedBy(Limits.Codes);
        pages.MapPost("/i/{secret}/sign-in", SignInAtLandingAsync).LimitedBy(Limits.SigningIn);
        pages.MapPost("/i/{secret}/sign-out", SignOutAtLandingAsync);
        pages.MapPost("/i/{secret}/decline", DeclineAsync);
        pages.MapGet("/i/{secret}/stop", StopPageAsync);
        // Mail programs ask for this by themselves, without cookies (RFC 8058); the secret is all they need.
        pages.MapPost("/i/{secret}/stop", StopAsync).DisableAntiforgery().LimitedBy(Limits.SigningIn);

        pages.MapPost("/i/{secret}/allow", AllowAsync).LimitedBy(Limits.Codes);
    }

    private static async Task<IResult> LandAsync(
        string secret,
        HttpContext http,
        Answering answering,
        SeenMarks marks
    )
    {
        if (!(await answering.FindAsync(secret)).Try(out var found, out var refusal))
            return PageEndpoints.Refused(http, refusal);
        if (HttpMethods.IsGet(http.Request.Method) && found.Invitation.SeenAt is null)
            marks.NoteInvitation(found.Invitation.WorkspaceId, found.Invitation.Id);
        return await LandingAsync(http, secret, answering, null);
    }

    private static async Task<IResult> AcceptAsync(
        string secret,
        IFormCollection form,
        HttpContext http,
        Answering answering
    )
    {
        var (name, address) = (form["name"].ToString(), form["address"].ToString());
        var wish = new Newcomer(name, form["password"], address, form["code"]);
        var joined = await answering.AcceptAsNewAsync(secret, wish, Via);
        if (!joined.Try(out var came, out var refusal))
            return await LandingAsync(http, secret, answering, refusal, name, address: address);
        await SessionSignIn.OpenAsync(http, came.Account, came.Proof!);
        return Welcome(came);
    }

    private static async Task<IResult> AcceptHeldAsync(
        string secret,
        IFormCollection form,
        HttpContext http,
        Answering answering
    )
    {
        if (await PageEndpoints.AccountAsync(http) is not { } account)
            return await LandingAsync(http, secret, answering, CommonRefusals.SignInRequired);
        var joined = await answering.AcceptAsHeldAsync(secret, account, form["code"], Via);
        return joined.Try(out var came, out var refusal)
            ? Welcome(came)
            : await LandingAsync(http, secret, answering, refusal);
    }

    private static async Task<IResult> CodeAsync(
        string secret,
        IFormCollection form,
        HttpContext http,
        Answering answering
    )
    {
        var (name, address) = (form["name"].ToString(), form["address"].ToString());
        var sent = await PageEndpoints.AccountAsync(http) is { } account
            ? await answering.SendCodeAsync(secret, account, Via)
            : await answering.SendCodeAsync(secret, address, Via);
        return await LandingAsync(http, secret, answering, sent.Refusal, name, sent.Succeeded, address);
    }

    private static async Task<IResult> SignInAtLandingAsync(
        string secret,
        IFormCollection form,
        HttpContext http,
        Answering answering,
        SignInDesk desk
    )
    {
        if (
            !(await desk.CheckAsync(form["address"], form["password"], Asking.Of(http))).Try(
                out var shown,
                out var refusal
            )
        )
            return await LandingAsync(http, secret, answering, refusal);
        return SecondStepPages.Onward(
            http,
            await SessionSignIn.OpenAsync(http, shown.Account, shown.Proof),
            $"/i/{secret}"
        );
    }

    private static async Task<IResult> SignOutAtLandingAsync(
        string secret,
        IFormCollection form,
        HttpContext http
    )
    {
        _ = form;
        await SessionSignIn.CloseAsync(http);
        return Results.Redirect($"/i/{secret}");
    }

    private static async Task<IResult> DeclineAsync(
        string secret,
        IFormCollection form,
        HttpContext http,
        Answering answering,
        Declining declining
    )
    {
        var no = new No(form["reason"] == "not-me", form["stop"] == "yes");
        if (!(await declining.DeclineAsync(secret, no, Via)).Try(out _, out var refusal))
            return PageEndpoints.Refused(http, refusal);
        var found = (await answering.FindAsync(secret)).Value;
        var words = Phrases.Of(found.Invitation.Language).Page;
        return PageEndpoints.Page<WordPage>(
            new WordModel(
                found.Workspace.Name,
                words.Declined,
                [no.DoNotInviteAgain ? words.DeclinedStopped : words.DeclinedKept],
                Language: found.Invitation.Language,
                Colours: found.Workspace.ShortName
            )
        );
    }

    /// <summary>What a mail's way out leads to in a browser: opening it changes nothing yet.</summary>
    private static async Task<IResult> StopPageAsync(string secret, HttpContext http, Answering answering)
    {
        if (!(await answering.FindAsync(secret)).Try(out var found, out var refusal))
            return PageEndpoints.Refused(http, refusal);
        var words = Phrases.Of(found.Invitation.Language).Page;
        return PageEndpoints.Page<WordPage>(
            new WordModel(
                found.Workspace.Name,
                words.StopTitle,
                [string.Format(null, words.StopSentence, found.Invitation.Address)],
                StopPath: $"/i/{secret}/stop",
                Token: PageEndpoints.TokenOf(http),
                Language: found.Invitation.Language,
                Colours: found.Workspace.ShortName
            )
            {
                AllowPath = $"/i/{secret}/allow",
                FormToken = PageEndpoints.TokenOf(http),
            }
        );
    }

    private static async Task<IResult> StopAsync(
        string secret,
        HttpContext http,
        Answering answering,
        Declining declining
    )
    {
        if (!(await answering.FindAsync(secret)).Try(out var found, out var refusal))
            return PageEndpoints.Refused(http, refusal);
        if (!(await declining.DeclineAsync(secret, new No(false, true), Via)).Try(out _, out refusal))
            return PageEndpoints.Refused(http, refusal);
        return PageEndpoints.Page<WordPage>(
            new WordModel(
                found.Workspace.Name,
                Phrases.Of(found.Invitation.Language).Page.StopTitle,
                [Phrases.Of(found.Invitation.Language).Page.Stopped],
                Language: found.Invitation.Language,
                Colours: found.Workspace.ShortName
            )
        );
    }

    /// <summary>Lets an address be invited again whose owner asked not to be: with a code, mailed to it.</summary>
    private static async Task<IResult> AllowAsync(
        string secret,
        IFormCollection form,
        HttpContext http,
        Answering answering,
        Declining declining
    )
    {
        if (!(await answering.FindAsync(secret)).Try(out var found, out var refusal))
            return PageEndpoints.Refused(http, refusal);
        var words = Phrases.Of(found.Invitation.Language).Page;
        var answer = await declining.AllowAsync(found, form["code"], Via);
        var isLifted = answer.Try(out var lifted, out refusal) && lifted;
        return PageEndpoints.Page<WordPage>(
            new WordModel(
                found.Workspace.Name,
                isLifted ? words.AllowedTitle : words.AllowTitle,
                [
                    string.Format(
                        null,
                        isLifted ? words.Allowed : words.CodeOnItsWay,
                        found.Invitation.Address
                    ),
                ],
                refusal,
                Language: found.Invitation.Language,
                Colours: found.Workspace.ShortName
            )
            {
                CodePath = isLifted ? null : $"/i/{secret}/allow",
                FormToken = PageEndpoints.TokenOf(http),
            },
            refusal is null ? 200 : PageEndpoints.StatusOf(refusal)
        );
    }

    /// <summary>Where somebody goes who said yes.</summary>
    private static IResult Welcome(Joined came)
    {
        if (came.Member is not null)
            return Results.Redirect("/places");
        var language = came.Invitation!.Language;
        var words = Phrases.Of(language).Page;
        return PageEndpoints.Page<WordPage>(
            new WordModel(
                came.Workspace.Name,
                words.WaitingTitle,
                [string.Format(null, words.WaitingSentence, came.Workspace.Name)],
                Language: language,
                Colours: came.Workspace.ShortName
            )
        );
    }

    private static async Task<IResult> LandingAsync(
        HttpContext http,
        string secret,
        Answering answering,
        Refusal? refusal,
        string typed = "",
        bool codeSent = false,
        string address = ""
    )
    {
        if (!(await answering.FindAsync(secret)).Try(out var found, out var closed))
            return PageEndpoints.Refused(http, closed);
        var landing = http.RequestServices.GetRequiredService<Landing>();
        if (!(await landing.ReadAsync(secret)).Try(out var offer, out closed))
            return PageEndpoints.Refused(http, closed, found, $"/i/{secret}/decline");
        var me = await http.MeAsync();
        var needsCode = me is not null && !await landing.HoldsAsync(me.AccountId, found);
        var model = new LandingModel(
            secret,
            offer,
            found.Workspace,
            me,
            needsCode,
            codeSent,
            refusal,
            typed,
            address,
            PageEndpoints.TokenOf(http)
        );
        return PageEndpoints.Page<LandingPage>(
            model,
            refusal is null ? 200 : PageEndpoints.StatusOf(refusal)
        );
    }
}
