using ComeAboard.Client.Applications;
using ComeAboard.Client.Workspaces;
using ComeAboard.Core.Access;
using ComeAboard.Service.Http;
using ComeAboard.Service.Workspaces;

namespace ComeAboard.Service.Applications;

/// <summary>Registered applications over HTTP.</summary>
public static class ApplicationEndpoints
{
    public static RouteGroupBuilder MapApplications(this RouteGroupBuilder workspace)
    {
        var applications = workspace.MapGroup("/applications").ForMembers(Duties.Settings);
        applications
            .MapGet("", (Visitor visitor, Applications all) => all.ListAsync(visitor))
            .OrCsv("applications")
            .WithName("listApplications")
            .Produces<Page<ApplicationView>>();
        applications
            .MapGet(
                "/{application}",
                async (Visitor visitor, string application, Applications all, HttpContext http) =>
                    (await all.ShowAsync(visitor, application)).ToResult(view =>
                        http.Versioned(view, view.Version)
                    )
            )
            .WithName("showApplication")
            .Produces<ApplicationView>();
        applications
            .MapPost(
                "",
                async (Visitor visitor, ApplicationRequest request, Applications all) =>
                    (await all.AddAsync(visitor, request)).ToResult(added =>
                        visitor.Caller.Rehearses ? Results.Ok(added) : Results.Created((string?)null, added)
                    )
            )
            .WithName("addApplication")
            .WithFreshProof()
            .OrTried()
            .Produces<NewApplication>()
            .Produces<NewApplication>(201);
        applications
            .MapPut(
                "/{application}",
                async (
                    Visitor visitor,
                    string application,
                    ApplicationRequest request,
                    Applications all,
                    HttpContext http
                ) =>
                    (
                        await all.ChangeAsync(visitor, application, request, http.Request.ExpectedVersion())
                    ).ToResult(view => http.Versioned(view, view.Version))
            )
            .WithName("changeApplication")
            .WithFreshProof()
            .OrTried()
            .Produces<ApplicationView>();
        applications
            .MapPost(
                "/{application}/secret",
                async (Visitor visitor, string application, Applications all) =>
                    (await all.RenewSecretAsync(visitor, application)).ToResult()
            )
            .WithName("renewApplicationSecret")
            .WithFreshProof()
            .OrTried()
            .Produces<NewApplication>();
        applications
            .MapDelete(
                "/{application}",
                async (Visitor visitor, string application, Applications all) =>
                    (await all.RemoveAsync(visitor, application)).ToResult()
            )
            .WithName("removeApplication")
            .WithFreshProof()
            .OrTried()
            .Produces<ApplicationView>();
        return workspace;
    }
}
