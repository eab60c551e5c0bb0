using ComeAboard.Client.Access;
using ComeAboard.Client.Workspaces;
using ComeAboard.Core;
using ComeAboard.Service.Workspaces;

namespace ComeAboard.Service.Http;

/// <summary>Making, changing and removing things with names over HTTP: the same for every sort.</summary>
/// <remarks>
/// What a handler takes is of no sort in particular: only then is it put together when this is compiled, and not each time the
/// service starts. The things and what is asked for are taken from the request.
/// </remarks>
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
        group
            .MapGet(
                "",
                async (Visitor visitor, HttpContext http) =>
                    Results.Ok(await list(http.Of<TThings>(), visitor))
            )
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
        group
            .MapGet(
                "/{name}",
                async (Visitor visitor, string name, HttpContext http) =>
                    (await show(http.Of<TThings>(), visitor, name)).ToResult(view =>
                        http.Versioned(view, version(view))
                    )
            )
            .WithName("show" + word)
            .Produces<TView>();
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
        where TRequest : class
    {
        group
            .MapPost(
                "",
                async (Visitor visitor, HttpContext http, bool dryRun = false) =>
                    (
                        await http.Of<TThings>()
                            .AddAsync(visitor, await http.BodyAsync<TRequest>(), new Wanted(null, dryRun))
                    ).ToResult(kept =>
                        dryRun
                            ? Results.Ok(kept.Answer)
                            : Results.Created($"{http.Request.Path}/{kept.Id}", kept.Answer)
                    )
            )
            .Accepts<TRequest>("application/json")
            .ForMembers(sort.Duty)
            .WithName("add" + word)
            .Produces<TAnswer>(StatusCodes.Status201Created)
            .Produces<TAnswer>();
        group
            .MapPut(
                "/{name}",
                async (
                    Visitor visitor,
                    string name,
                    HttpContext http,
                    bool dryRun = false,
                    bool tell = false
                ) =>
                    (
                        await http.Of<TThings>()
                            .ChangeAsync(
                                visitor,
                                name,
                                await http.BodyAsync<TRequest>(),
                                http.Wanted(dryRun, tell)
                            )
                    ).ToResult(kept => http.Versioned(kept.Answer, kept.Version))
            )
            .Accepts<TRequest>("application/json")
            .ForMembers(sort.Duty)
            .WithName("change" + word)
            .Produces<TAnswer>();
        group
            .MapDelete(
                "/{name}",
                async (
                    Visitor visitor,
                    string name,
                    HttpContext http,
                    bool dryRun = false,
                    bool tell = false
                ) =>
                    (
                        await http.Of<TThings>().RemoveAsync(visitor, name, http.Wanted(dryRun, tell))
                    ).ToResult()
            )
            .ForMembers(sort.Duty)
            .WithName("remove" + word)
            .Produces<EditAnswer>();
        return group;
    }

    private static T Of<T>(this HttpContext http)
        where T : class => http.RequestServices.GetRequiredService<T>();
}
