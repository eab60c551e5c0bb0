using ComeAboard.Client.Accounts;
using ComeAboard.Core;
using ComeAboard.Service.Access;
using ComeAboard.Service.Http;
using ComeAboard.Service.Invitations;
using ComeAboard.Service.SignIn;
using ComeAboard.Service.Workspaces;
using ComeAboard.Storage;
using ComeAboard.Storage.Workspaces;

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
        pages.MapPost(Path, InviteAsync).ForMembers().LimitedBy(Limits.Inviting);
    }

    private static Task<IResult> ShowAsync(Visitor visitor, HttpContext http, Colleagues colleagues) =>
        PageAsync(visitor, http, colleagues, "", "", "", null);

    private static async Task<IResult> InviteAsync(
        Visitor visitor,
        IFormCollection form,
        HttpContext http,
        Colleagues colleagues
    )
    {
        var (name, address) = (form["name"].ToString(), form["address"].ToString());
        var request = new ColleagueRequest(address, name);
        return (await colleagues.InviteAsync(visitor, request, null)).Try(out var sent, out var refusal)
            ? await PageAsync(visitor, http, colleagues, "", "", sent.Address, null)
            : await PageAsync(visitor, http, colleagues, name, address, "", refusal);
    }

    private static async Task<IResult> PageAsync(
        Visitor visitor,
        HttpContext http,
        Colleagues colleagues,
        string name,
        string address,
        string invited,
        Refusal? refusal
    )
    {
        if (!(await colleagues.FindAsync(visitor)).Try(out var view, out var no))
            return RefusedPages.Of(no, http);
        var language = (await PageEndpoints.AccountAsync(http))?.Language ?? "en";
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
