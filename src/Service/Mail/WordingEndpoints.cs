using ComeAboard.Client.Invitations;
using ComeAboard.Client.Workspaces;
using ComeAboard.Core.Access;
using ComeAboard.Service.Http;
using ComeAboard.Service.Workspaces;

namespace ComeAboard.Service.Mail;

/// <summary>A workspace's own wordings over HTTP.</summary>
public static class WordingEndpoints
{
    public static RouteGroupBuilder MapWordings(this RouteGroupBuilder workspace)
    {
        var wordings = workspace.MapGroup("/wordings").ForMembers(Duties.Settings);
        wordings
            .MapGet("", (Visitor visitor, Wordings all) => all.ListAsync(visitor))
            .WithName("listWordings")
            .Produces<Page<WordingView>>();
        wordings
            .MapPut("/{letter}/{language}", ChangeAsync)
            .WithName("changeWording")
            .Produces<WordingView>();
        wordings.MapDelete("/{letter}/{language}", RemoveAsync).WithName("removeWording").Produces(204);
        wordings
            .MapPost("/{letter}/{language}/preview", Preview)
            .WithName("previewWording")
            .Produces<LetterView>();
        return workspace;
    }

    private static async Task<IResult> ChangeAsync(
        Visitor visitor,
        string letter,
        string language,
        WordingRequest request,
        Wordings all,
        HttpContext http
    ) =>
        (
            await all.ChangeAsync(visitor, letter, language, request, http.Request.ExpectedVersion())
        ).ToResult();

    private static async Task<IResult> RemoveAsync(
        Visitor visitor,
        string letter,
        string language,
        Wordings all
    ) => (await all.RemoveAsync(visitor, letter, language)).ToResult(_ => Results.NoContent());

    private static IResult Preview(
        Visitor visitor,
        string letter,
        string language,
        WordingRequest request,
        Wordings all
    ) => all.Preview(visitor, letter, language, request).ToResult();
}
