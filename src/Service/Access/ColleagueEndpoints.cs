using ComeAboard.Client.Accounts;
using ComeAboard.Client.Invitations;
using ComeAboard.Service.Http;
using ComeAboard.Service.Workspaces;

namespace ComeAboard.Service.Access;

/// <summary>The lead's own people over HTTP.</summary>
public static class ColleagueEndpoints
{
    public static RouteGroupBuilder MapColleagues(this RouteGroupBuilder workspace)
    {
        workspace
            .MapGet(
                "/colleagues",
                async (Visitor visitor, Colleagues colleagues) =>
                    (await colleagues.FindAsync(visitor)).ToResult()
            )
            .WithName("listColleagues")
            .Produces<ColleaguesView>();
        workspace
            .MapPost(
                "/colleagues",
                async (Visitor visitor, ColleagueRequest request, HttpContext http, Colleagues colleagues) =>
                    (await colleagues.InviteAsync(visitor, request, http.Request.IdempotencyKey())).ToResult(
                        view => Results.Created((string?)null, view)
                    )
            )
            .WithName("inviteColleague")
            .Produces<InvitationView>(201)
            .LimitedBy(Limits.Inviting);
        return workspace;
    }
}
