using ComeAboard.Client.Access;
using ComeAboard.Client.Workspaces;
using ComeAboard.Core;
using ComeAboard.Service.Workspaces;
using Microsoft.AspNetCore.Mvc;

// What is generic is put together when the service starts, and not when it is compiled.
#pragma warning disable RDG002

namespace ComeAboard.Service.Http;

/// <summary>Making, changing and removing things with names over HTTP: the same for every sort.</summary>
public static class NamedEndpoints
{
    /// <summary>Maps the list of all, also as a file.</summary>
    public static RouteGroupBuilder MapListed<TThings, TView>(
        this RouteGroupBuilder group,
        string words,
        Func<TThings, Visitor, Task<Page<TView>>> list
    )
        where TThings : class
    {
        Delegate all = (Visitor visitor, [FromServices] TThings things) => list(things, visitor);
        group
            .MapGet("", all)
            .OrCsv(words.ToLowerInvariant())
            .WithName("list" + words)
            .Produces<Page<TView>>();
        return group;
    }

    /// <summary>Maps looking at one, which says its version.</summary>
    public static RouteGroupBuilder MapShown<TThings, TView>(
        this RouteGroupBuilder group,
        string word,
        Func<TThings, Visitor, string, Task<Outcome<TView>>> show,
        Func<TView, int> version
    )
        where TThings : class
        where TView : notnull
    {
        Delegate one = async (
            Visitor visitor,
            string name,
            [FromServices] TThings things,
            HttpContext http
        ) => (await show(things, visitor, name)).ToResult(view => http.Versioned(view, version(view)));
        group.MapGet("/{name}", one).WithName("show" + word).Produces<TView>();
        return group;
    }

    /// <summary>Maps making, changing and removing.</summary>
    /// <param name="group">The path of the list.</param>
    /// <param name="sort">The sort.</param>
    /// <param name="word">What one is called in the names of operations.</param>
    public static RouteGroupBuilder MapNamed<TThings, TRequest, TAnswer>(
        this RouteGroupBuilder group,
        NamedSort sort,
        string word
    )
        where TThings : class, INamedThings<TRequest, TAnswer>
    {
        Delegate add = async (
            Visitor visitor,
            [FromBody] TRequest request,
            [FromServices] TThings things,
            HttpContext http,
            bool dryRun = false
        ) =>
            (await things.AddAsync(visitor, request, new Wanted(null, dryRun))).ToResult(kept =>
                dryRun
                    ? Results.Ok(kept.Answer)
                    : Results.Created($"{http.Request.Path}/{kept.Id}", kept.Answer)
            );
        Delegate change = async (
            Visitor visitor,
            string name,
            [FromBody] TRequest request,
            [FromServices] TThings things,
            HttpContext http,
            bool dryRun = false,
            bool tell = false
        ) =>
            (await things.ChangeAsync(visitor, name, request, http.Wanted(dryRun, tell))).ToResult(kept =>
                http.Versioned(kept.Answer, kept.Version)
            );
        Delegate remove = async (
            Visitor visitor,
            string name,
            [FromServices] TThings things,
            HttpContext http,
            bool dryRun = false,
            bool tell = false
        ) => (await things.RemoveAsync(visitor, name, http.Wanted(dryRun, tell))).ToResult();
        group
            .MapPost("", add)
            .ForMembers(sort.Duty)
            .WithName("add" + word)
            .Produces<TAnswer>(StatusCodes.Status201Created)
            .Produces<TAnswer>();
        group.MapPut("/{name}", change).ForMembers(sort.Duty).WithName("change" + word).Produces<TAnswer>();
        group
            .MapDelete("/{name}", remove)
            .ForMembers(sort.Duty)
            .WithName("remove" + word)
            .Produces<EditAnswer>();
        return group;
    }
}
