using System.Collections.Concurrent;
using System.Net;
using System.Text;
using System.Text.Json;
using System.Text.Json.Nodes;
using Microsoft.AspNetCore.Builder;
using Microsoft.AspNetCore.Hosting;
using Microsoft.AspNetCore.Hosting.Server;
using Microsoft.AspNetCore.Hosting.Server.Features;
using Microsoft.AspNetCore.Http;
using Microsoft.Extensions.DependencyInjection;
using Microsoft.Extensions.Logging;

namespace ComeAboard.Standins.Outside;

/// <summary>An account of the stand-in application.</summary>
/// <param name="Id">Its id there.</param>
/// <param name="UserName">The name it is signed in with.</param>
/// <param name="Name">The name of its owner.</param>
/// <param name="Mark">What whoever made it left there to know it again by.</param>
/// <param name="IsOn">Whether it can be used.</param>
public sealed record OutsideAccount(string Id, string UserName, string Name, string Mark, bool IsOn);

/// <summary>
/// A stand-in for an outside application that people have accounts in, on loopback: a small SCIM 2.0 service (RFC 7644), and a page
/// on which one sees its accounts come and go. It can be told to be slow, to refuse and to lie.
/// </summary>
public sealed class OutsideApp : IAsyncDisposable
{
    /// <summary>The secret it lets programs in by.</summary>
    public const string Secret = "a secret of the outside application";

    private const string Style =
        "body{font:16px/1.5 system-ui,sans-serif;max-width:56rem;margin:2rem auto;padding:0 1rem;color:#20262b;background:#eef0ea}"
        + "main{background:#fff;padding:1.5rem 2rem;border:1px solid #c6cbbd}table{border-collapse:collapse;width:100%}"
        + "td,th{text-align:left;padding:.45rem .6rem;border-bottom:1px solid #dde0d6;vertical-align:top}small{color:#5a6258}"
        + "button{font:inherit;padding:.3rem .8rem;margin:0 .4rem .4rem 0}button[aria-pressed=true]{background:#26493a;color:#fff}";

    private static readonly string[] Manners = ["as it should", "slow", "refuses", "lies"];

    private readonly WebApplication _app;
    private readonly string _name;
    private readonly ConcurrentDictionary<string, OutsideAccount> _accounts = new(StringComparer.Ordinal);
    private readonly ConcurrentDictionary<string, ConcurrentDictionary<string, bool>> _groups = new(
        StringComparer.Ordinal
    );

    private OutsideApp(string name, WebApplication app) => (_name, _app) = (name, app);

    /// <summary>Where its page is.</summary>
    public Uri Page { get; private set; } = new("http://localhost");

    /// <summary>Where programs speak SCIM with it.</summary>
    public string Url => Page + "scim";

    /// <summary>The accounts it has.</summary>
    public IReadOnlyCollection<OutsideAccount> Accounts => [.. _accounts.Values];

    /// <summary>How it behaves: as it should, slow (a second for each call), refuses (whatever changes) or lies (says that it is done).</summary>
    public string Manner { get; set; } = Manners[0];

    /// <summary>How long each call takes.</summary>
    public TimeSpan Takes { get; set; }

    /// <summary>Starts one on loopback.</summary>
    /// <param name="name">What its page is headed with.</param>
    /// <param name="port">The port, or 0 for any free one.</param>
    /// <param name="groups">The groups it has.</param>
    public static async Task<OutsideApp> StartAsync(string name, int port = 0, params string[] groups)
    {
        var builder = WebApplication.CreateEmptyBuilder(new WebApplicationOptions());
        builder.WebHost.UseKestrelCore();
        builder.Services.AddRoutingCore();
        builder.Logging.ClearProviders();
        builder.WebHost.ConfigureKestrel(kestrel => kestrel.Listen(IPAddress.Loopback, port));
        var app = new OutsideApp(name, builder.Build());
        foreach (var group in groups)
            app._groups[group] = new ConcurrentDictionary<string, bool>(StringComparer.Ordinal);
        app.Map();
        await app._app.StartAsync();
        app.Page = new Uri(
            app._app.Services.GetRequiredService<IServer>()
                .Features.Get<IServerAddressesFeature>()!
                .Addresses.First()
        );
        return app;
    }

    /// <summary>Puts an account there that it has from somewhere else.</summary>
    public void Put(OutsideAccount account, params IEnumerable<string> groups)
    {
        _accounts[account.Id] = account;
        foreach (var group in groups)
            if (_groups.TryGetValue(group, out var members))
                members[account.Id] = true;
    }

    /// <inheritdoc/>
    public async ValueTask DisposeAsync()
    {
        await _app.StopAsync();
        await _app.DisposeAsync();
    }

    private void Map()
    {
        _app.MapGet("/", () => Results.Content(Show(), "text/html; charset=utf-8"));
        _app.MapPost(
            "/manner",
            async (HttpRequest request) =>
            {
                var form = await request.ReadFormAsync();
                if (Manners.Contains(form["manner"].ToString()))
                    Manner = form["manner"].ToString();
                return Results.Redirect("/");
            }
        );
        var scim = _app.MapGroup("/scim").AddEndpointFilter(GuardAsync);
        scim.MapGet("/ServiceProviderConfig", Describe);
        scim.MapGet(
            "/Users",
            (HttpRequest request) =>
                Answer(
                    List(
                        request,
                        _accounts.Values.OrderBy(one => one.Id, StringComparer.Ordinal).Select(UserOf),
                        "userName",
                        "externalId"
                    )
                )
        );
        scim.MapGet(
            "/Users/{id}",
            (string id) => _accounts.TryGetValue(id, out var found) ? Answer(UserOf(found)) : None()
        );
        scim.MapPost("/Users", MakeAsync);
        scim.MapPatch("/Users/{id}", ChangeAsync);
        scim.MapDelete("/Users/{id}", Remove);
        scim.MapGet(
            "/Groups",
            (HttpRequest request) =>
                Answer(
                    List(request, _groups.Keys.Order(StringComparer.Ordinal).Select(GroupOf), "displayName")
                )
        );
        scim.MapGet("/Groups/{id}", (string id) => _groups.ContainsKey(id) ? Answer(GroupOf(id)) : None());
        scim.MapPatch("/Groups/{id}", MoveAsync);
    }

    private async ValueTask<object?> GuardAsync(
        EndpointFilterInvocationContext context,
        EndpointFilterDelegate next
    )
    {
        var request = context.HttpContext.Request;
        if (request.Headers.Authorization != "Bearer " + Secret)
            return Fault(401, "Who are you?");
        if (Takes > TimeSpan.Zero)
            await Task.Delay(Takes, context.HttpContext.RequestAborted);
        if (Manner == "slow")
            await Task.Delay(TimeSpan.FromSeconds(1), context.HttpContext.RequestAborted);
        return Manner == "refuses" && !HttpMethods.IsGet(request.Method)
            ? Fault(400, "Closed for stocktaking.")
            : await next(context);
    }

    private static IResult Describe() =>
        Answer(
            new JsonObject
            {
                ["schemas"] = new JsonArray("urn:ietf:params:scim:schemas:core:2.0:ServiceProviderConfig"),
                ["patch"] = new JsonObject { ["supported"] = true },
                ["bulk"] = new JsonObject { ["supported"] = false },
                ["filter"] = new JsonObject { ["supported"] = true, ["maxResults"] = 200 },
                ["etag"] = new JsonObject { ["supported"] = false },
            }
        );

    /// <summary>A page of a list; it understands one filter, for equality.</summary>
    private static JsonObject List(HttpRequest request, IEnumerable<JsonObject> all, params string[] filtered)
    {
        var filter = request.Query["filter"].ToString().Split(" eq ", 2);
        if (filter is [var attribute, var quoted] && filtered.Contains(attribute))
        {
            var wanted = quoted.Trim().Trim('"');
            all = all.Where(one => one[attribute]?.GetValue<string>() == wanted);
        }
        var found = all.ToList();
        var start = int.TryParse(request.Query["startIndex"], out var index) ? Math.Max(1, index) : 1;
        var count = int.TryParse(request.Query["count"], out var many) ? Math.Clamp(many, 0, 200) : 200;
        var page = found.Skip(start - 1).Take(count).ToArray();
        return new JsonObject
        {
            ["schemas"] = new JsonArray("urn:ietf:params:scim:api:messages:2.0:ListResponse"),
            ["totalResults"] = found.Count,
            ["startIndex"] = start,
            ["itemsPerPage"] = page.Length,
            ["Resources"] = new JsonArray([.. page]),
        };
    }

    private async Task<IResult> MakeAsync(HttpRequest request)
    {
        var user = await ReadAsync(request);
        var name = Text(user["userName"]);
        if (name.Length == 0)
            return Fault(400, "It takes a userName.");
        if (_accounts.Values.Any(one => one.UserName.Equals(name, StringComparison.OrdinalIgnoreCase)))
            return Fault(409, "There is one of that name.");
        var account = new OutsideAccount(
            // What it gave an account in an earlier life, it gives to no other.
            Guid.CreateVersion7().ToString("N"),
            name,
            Text(user["displayName"]),
            Text(user["externalId"]),
            user["active"]?.GetValue<bool>() ?? true
        );
        if (Manner != "lies")
            _accounts[account.Id] = account;
        return Answer(UserOf(account), 201);
    }

    private async Task<IResult> ChangeAsync(string id, HttpRequest request)
    {
        if (!_accounts.TryGetValue(id, out var account))
            return None();
        foreach (var operation in (await ReadAsync(request))["Operations"]?.AsArray() ?? [])
            account = Text(operation?["path"]) switch
            {
                "active" => account with { IsOn = operation!["value"]!.GetValue<bool>() },
                "userName" => account with { UserName = Text(operation!["value"]) },
                "displayName" => account with { Name = Text(operation!["value"]) },
                _ => account,
            };
        if (Manner != "lies")
            _accounts[id] = account;
        return Answer(UserOf(account));
    }

    private IResult Remove(string id)
    {
        if (!_accounts.ContainsKey(id))
            return None();
        if (Manner == "lies")
            return Results.NoContent();
        _accounts.TryRemove(id, out _);
        foreach (var members in _groups.Values)
            members.TryRemove(id, out _);
        return Results.NoContent();
    }

    private async Task<IResult> MoveAsync(string id, HttpRequest request)
    {
        if (!_groups.TryGetValue(id, out var members))
            return None();
        foreach (var operation in (await ReadAsync(request))["Operations"]?.AsArray() ?? [])
        {
            var path = Text(operation?["path"]);
            if (Manner == "lies")
                continue;
            if (Text(operation?["op"]) == "add")
                foreach (var member in operation!["value"]!.AsArray())
                    members[Text(member?["value"])] = true;
            else if (path.Split('"') is [_, var gone, _])
                members.TryRemove(gone, out _);
        }
        return Answer(GroupOf(id));
    }

    private static JsonObject UserOf(OutsideAccount account) =>
        new()
        {
            ["schemas"] = new JsonArray("urn:ietf:params:scim:schemas:core:2.0:User"),
            ["id"] = account.Id,
            ["externalId"] = account.Mark,
            ["userName"] = account.UserName,
            ["displayName"] = account.Name,
            ["active"] = account.IsOn,
        };

    private JsonObject GroupOf(string name) =>
        new()
        {
            ["schemas"] = new JsonArray("urn:ietf:params:scim:schemas:core:2.0:Group"),
            ["id"] = name,
            ["displayName"] = name,
            ["members"] = new JsonArray([
                .. _groups[name]
                    .Keys.Order(StringComparer.Ordinal)
                    .Select(id => new JsonObject { ["value"] = id }),
            ]),
        };

    private string Show()
    {
        var page = new StringBuilder(
            $"<!doctype html><html lang=\"en\"><meta charset=\"utf-8\"><meta http-equiv=\"refresh\" content=\"5\"><title>{Escape(_name)}</title><style>{Style}</style><main><h1>{Escape(_name)}</h1><p>This stands in for an application outside, in which people have accounts of their own.</p><form method=\"post\" action=\"/manner\"><p>It behaves: "
        );
        foreach (var manner in Manners)
            page.Append(
                $"<button name=\"manner\" value=\"{manner}\" aria-pressed=\"{(manner == Manner ? "true" : "false")}\">{manner}</button>"
            );
        page.Append("</p></form>");
        var accounts = _accounts.Values.OrderBy(one => one.Name, StringComparer.Ordinal).ToList();
        page.Append(
            $"<h2>{(accounts.Count == 1 ? "1 account" : $"{accounts.Count} accounts")}</h2><table><tr><th>Who</th><th>Signs in with</th><th>State</th><th>Groups</th></tr>"
        );
        foreach (var account in accounts)
        {
            var groups = _groups
                .Where(group => group.Value.ContainsKey(account.Id))
                .Select(group => group.Key)
                .Order(StringComparer.Ordinal);
            page.Append(
                $"<tr><td>{Escape(account.Name)}<br><small>{Escape(account.Mark.Length > 0 ? "made for Come Aboard" : "made here")}</small></td><td>{Escape(account.UserName)}</td><td>{(account.IsOn ? "on" : "off")}</td><td>{Escape(string.Join(", ", groups))}</td></tr>"
            );
        }
        return page.Append("</table></main></html>").ToString();
    }

    private static async Task<JsonObject> ReadAsync(HttpRequest request)
    {
        try
        {
            return (await JsonNode.ParseAsync(request.Body))?.AsObject() ?? [];
        }
        catch (JsonException)
        {
            return [];
        }
    }

    private static string Text(JsonNode? node) =>
        node?.GetValueKind() == JsonValueKind.String ? node.GetValue<string>() : "";

    private static IResult Answer(JsonObject body, int status = 200) =>
        Results.Text(body.ToJsonString(), "application/scim+json", Encoding.UTF8, status);

    private static IResult None() => Fault(404, "There is none.");

    private static IResult Fault(int status, string detail) =>
        Answer(
            new JsonObject
            {
                ["schemas"] = new JsonArray("urn:ietf:params:scim:api:messages:2.0:Error"),
                ["status"] = status.ToString(),
                ["detail"] = detail,
            },
            status
        );

    private static string Escape(string text) => WebUtility.HtmlEncode(text);
}
