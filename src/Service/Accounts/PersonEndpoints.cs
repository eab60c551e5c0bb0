using ComeAboard.Client.Accounts;
using ComeAboard.Client.Record;
using ComeAboard.Client.Workspaces;
using ComeAboard.Core.Access;
using ComeAboard.Service.Http;
using ComeAboard.Service.Workspaces;

namespace ComeAboard.Service.Accounts;

/// <summary>One person over HTTP.</summary>
public static class PersonEndpoints
{
    public static RouteGroupBuilder MapPerson(this RouteGroupBuilder workspace)
    {
        var person = workspace.MapGroup("/people/{person}").ForMembers(Duties.People | Duties.Access);
        person
            .MapGet(
                "",
                async (Visitor visitor, string person, HttpContext http, OnePerson one) =>
                    (await one.ShowAsync(visitor, person)).ToResult(view =>
                        http.Versioned(view, view.Version)
                    )
            )
            .WithName("showPerson")
            .Produces<PersonView>();
        person
            .MapGet(
                "/access",
                async (Visitor visitor, string person, HttpContext http, OnePerson one) =>
                    (await one.AccessAsync(visitor, person)).ToResult(found =>
                        http.Versioned(found.Access, found.Version)
                    )
            )
            .WithName("personAccess")
            .Produces<PersonAccess>();
        person
            .MapPost(
                "/see-as",
                async (Visitor visitor, string person, PersonAccessViews views) =>
                    (await views.SeeAsAsync(visitor, person)).ToResult()
            )
            .WithName("seeAs")
            .Produces<SeenAs>();
        person
            .MapGet(
                "/history",
                async (Visitor visitor, string person, OnePerson one) =>
                    (await one.HistoryAsync(visitor, person)).ToResult()
            )
            .WithName("personHistory")
            .Produces<Page<RecordEntryView>>();
        person
            .MapGet(
                "/activity",
                async (Visitor visitor, string person, OnePerson one) =>
                    (await one.ActivityAsync(visitor, person)).ToResult()
            )
            .OrCsv("activity")
            .WithName("personActivity")
            .Produces<Page<RecordEntryView>>();
        return workspace;
    }
}
