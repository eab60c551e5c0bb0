using ComeAboard.Client.Accounts;
using ComeAboard.Core;
using ComeAboard.Service.Access;
using ComeAboard.Service.Http;
using ComeAboard.Service.Invitations;
using ComeAboard.Service.SignIn;
using ComeAboard.Service.Workspaces;
using ComeAboard.Storage;
using ComeAboard.Storage.Workspaces;
using Microsoft.EntityFrameworkCore;

namespace ComeAboard.Service.Pages;

/// <summary>The page on which the lead of an organisation keeps their own people current.</summary>
/// <param name="View">The people.</param>
/// <param name="Workspace">Where.</param>
/// <param name="Language">The lead's language.</param>
/// <param name="Name">The name as last typed.</param>
/// <param name="Address">The address as last typed.</param>
/// <param name="Invited">The address just invited; empty for none.</param>
/// <param name="Refusal">Why the last step was not taken.</param>
/// <param name="Token">The form token.</param>
public sealed record ColleaguesModel(
    ColleaguesView View,
    WorkspaceRow Workspace,
    string Language,
    string Name,
    string Address,
    string Invited,
    Refusal? Refusal,
    FormToken Token
);

/// <summary>Leads' pages: their colleagues, and inviting one.</summary>
public static class ColleaguePages
{
    private const string Path = "/places/{workspace}/colleagues";

    public static void MapColleaguePages(this RouteGroupBuilder pages)
    {
        pages.MapGet(Path, ShowAsync).ForMembers();
        pages.MapPost(Path, InviteAsync).ForMembers().RequireRateLimiting(Limits.Inviting);
    }

    private static Task<IResult> ShowAsync(
        Visitor visitor,
        HttpContext http,
        Database database,
        TimeProvider clock
    ) => PageAsync(visitor, http, database, clock, "", "", "", null);

    private static async Task<IResult> InviteAsync(
        Visitor visitor,
        IFormCollection form,
        HttpContext http,
        Inviting inviting,
        Database database,
        TimeProvider clock
    )
    {
        var (name, address) = (form["name"].ToString(), form["address"].ToString());
        var request = new ColleagueRequest(address, name);
        return (await Colleagues.InviteAsync(visitor, inviting, request, null)).Try(
            out var sent,
            out var refusal
        )
            ? await PageAsync(visitor, http, database, clock, "", "", sent.Address, null)
            : await PageAsync(visitor, http, database, clock, name, address, "", refusal);
    }

    private static async Task<IResult> PageAsync(
        Visitor visitor,
        HttpContext http,
        Database database,
        TimeProvider clock,
        string name,
        string address,
        string invited,
        Refusal? refusal
    )
    {
        if (!(await Colleagues.FindAsync(visitor, database, clock)).Try(out var view, out var no))
            return no.ToResult();
        await using var rows = database.Open();
        var id = http.User.AccountId();
        var language = await rows.Accounts.Where(a => a.Id == id).Select(a => a.Language).FirstAsync();
        return PageEndpoints.Page<ColleaguesPage>(
            new ColleaguesModel(
                view,
                visitor.Workspace,
                language,
                name,
                address,
                invited,
                refusal,
                PageEndpoints.TokenOf(http)
            ),
            refusal is null ? 200 : PageEndpoints.StatusOf(refusal)
        );
    }
}
