using System.Collections.Frozen;
using System.Collections.Immutable;
using System.Runtime.CompilerServices;
using System.Text.Json;
using ComeAboard.Client;
using ComeAboard.Client.Access;
using ComeAboard.Core;
using ComeAboard.Core.Access;
using ComeAboard.Core.Invitations;
using ComeAboard.Core.Workspaces;
using ComeAboard.Service.Http;
using ComeAboard.Service.SignIn;
using ComeAboard.Service.Workspaces;

namespace ComeAboard.Service.Access;

/// <summary>
/// Access decisions for other systems: the OpenID AuthZEN Authorization API 1.0. They are answered from memory, the sign-in
/// of the asking program included; nothing is asked of the database as long as it was looked at within the last
/// half second (see <see cref="AccessWorlds"/>).
/// </summary>
public static class Decisions
{
    private const int MostAtOnce = 1_000;
    private const string Bearer = "Bearer ";

    public static IEndpointRouteBuilder MapDecisions(this IEndpointRouteBuilder app)
    {
        var decisions = app.MapGroup("/api/v1/workspaces/{workspace}/access/v1")
            .WithMetadata(new NoSignIn.Marked());
        decisions
            .MapPost("/evaluation", EvaluateAsync)
            .WithName("evaluateAccess")
            .Accepts<EvaluationRequest>("application/json")
            .Produces<EvaluationAnswer>();
        decisions
            .MapPost("/evaluations", EvaluateAllAsync)
            .WithName("evaluateAccessTogether")
            .Accepts<EvaluationsRequest>("application/json")
            .Produces<EvaluationsAnswer>();
        app.MapGet("/.well-known/authzen-configuration/api/v1/workspaces/{workspace}", Describe)
            .WithName("describeDecisions")
            .Produces<DecisionPoint>();
        return app;
    }

    private static IResult Describe(string workspace, ServiceSettings settings)
    {
        var place = settings.Link($"/api/v1/workspaces/{Uri.EscapeDataString(workspace)}");
        return Results.Ok(
            new DecisionPoint(place, place + "/access/v1/evaluation", place + "/access/v1/evaluations")
        );
    }

    private static async Task EvaluateAsync(HttpContext http, string workspace)
    {
        if (!(await AskerAsync(http, workspace)).Try(out var asker, out var refusal))
        {
            await refusal.WriteAsync(http);
            return;
        }
        if (await ReadAsync(http, WireJson.Default.EvaluationRequest) is not { } request || !IsWhole(request))
        {
            await WriteBadAsync(http);
            return;
        }
        await WriteAsync(http, asker.Decide(request), WireJson.Default.EvaluationAnswer);
    }

    private static async Task EvaluateAllAsync(HttpContext http, string workspace)
    {
        if (!(await AskerAsync(http, workspace)).Try(out var asker, out var refusal))
        {
            await refusal.WriteAsync(http);
            return;
        }
        var request = await ReadAsync(http, WireJson.Default.EvaluationsRequest);
        if (request is null || request.Evaluations is { Count: > MostAtOnce })
        {
            await WriteBadAsync(http);
            return;
        }
        var common = new EvaluationRequest(
            request.Subject,
            request.Action,
            request.Resource,
            request.Context
        );
        // Without a list of questions it is a single one (section 7.1).
        if (request.Evaluations is not { Count: > 0 } questions)
        {
            if (IsWhole(common))
                await WriteAsync(http, asker.Decide(common), WireJson.Default.EvaluationAnswer);
            else
                await WriteBadAsync(http);
            return;
        }
        bool? stopsAt = SemanticOf(request) switch
        {
            "deny_on_first_deny" => false,
            "permit_on_first_permit" => true,
            _ => null,
        };
        var answers = new List<EvaluationAnswer>(questions.Count);
        foreach (var question in questions)
        {
            var whole = new EvaluationRequest(
                question.Subject ?? common.Subject,
                question.Action ?? common.Action,
                question.Resource ?? common.Resource,
                question.Context ?? common.Context
            );
            if (!IsWhole(whole))
            {
                await WriteBadAsync(http);
                return;
            }
            answers.Add(asker.Decide(whole));
            if (answers[^1].Decision == stopsAt)
                break;
        }
        await WriteAsync(http, new EvaluationsAnswer(answers), WireJson.Default.EvaluationsAnswer);
    }

    // Resources change seldom and are asked for by name all the time.
    private static readonly ConditionalWeakTable<
        ImmutableDictionary<Guid, Resource>,
        FrozenDictionary<string, Resource>
    > ResourcesByName = [];

    private static FrozenDictionary<string, Resource> ByName(ImmutableDictionary<Guid, Resource> resources) =>
        ResourcesByName.GetValue(
            resources,
            all => all.Values.ToFrozenDictionary(r => Names.KeyOf(r.Name), StringComparer.Ordinal)
        );

    private static string? SemanticOf(EvaluationsRequest request) =>
        request.Options?.GetValueOrDefault("evaluations_semantic") is { ValueKind: JsonValueKind.String } word
            ? word.GetString()
            : null;

    private static bool IsWhole(EvaluationRequest request) =>
        request
            is {
                Subject: { Type: not null, Id: not null },
                Action.Name: not null,
                Resource: { Type: not null, Id: not null }
            };

    private static async Task<T?> ReadAsync<T>(
        HttpContext http,
        System.Text.Json.Serialization.Metadata.JsonTypeInfo<T> type
    )
        where T : class
    {
        if (!http.Request.HasJsonContentType())
            return null;
        try
        {
            return await JsonSerializer.DeserializeAsync(http.Request.Body, type, http.RequestAborted);
        }
        catch (JsonException)
        {
            return null;
        }
    }

    private static async Task WriteAsync<T>(
        HttpContext http,
        T answer,
        System.Text.Json.Serialization.Metadata.JsonTypeInfo<T> type
    )
    {
        // Whoever asks with a name for the question gets it back (section 10.1.2).
        if (
            http.Request.Headers.TryGetValue("X-Request-ID", out var id)
            && id.ToString() is { Length: <= 200 } text
        )
            http.Response.Headers["X-Request-ID"] = text;
        http.Response.Headers.CacheControl = "no-store";
        http.Response.ContentType = "application/json";
        await JsonSerializer.SerializeAsync(http.Response.Body, answer, type, http.RequestAborted);
    }

    private static Task WriteBadAsync(HttpContext http)
    {
        var problem = CommonRefusals
            .Malformed("it is no access evaluation: subject, action and resource are needed.")
            .ToProblem() with
        {
            Status = StatusCodes.Status400BadRequest,
        };
        return Results
            .Json(problem, WireJson.Default.Problem, Problem.MediaType, problem.Status)
            .ExecuteAsync(http);
    }

    /// <summary>Who asks, and what they may ask: those who look after access about everybody, everybody about themselves.</summary>
    private static async Task<Outcome<Asker>> AskerAsync(HttpContext http, string workspace)
    {
        var header = http.Request.Headers.Authorization.ToString();
        if (!header.StartsWith(Bearer, StringComparison.OrdinalIgnoreCase))
            return CommonRefusals.SignInRequired;
        if (Secret.Read(header[Bearer.Length..].Trim()) is not { } secret)
            return CommonRefusals.SignInRequired;
        var worlds = http.RequestServices.GetRequiredService<AccessWorlds>();
        var kept = await worlds.NowAsync(workspace);
        if (kept is null || !kept.Picture.Tokens.TryGetValue(secret.Hash().Value, out var member))
            return CommonRefusals.SignInRequired;
        var now = http.RequestServices.GetRequiredService<TimeProvider>().GetUtcNow();
        var today = Days.Of(now, kept.Zone);
        if (Visitors.Forbids(kept.World, member, today) is { } cut)
            return cut;
        return new Asker(kept, member, today, kept.World.DutiesOf(member, today).HasFlag(Duties.Access));
    }

    /// <summary>Whoever asks, with the workspace at this moment.</summary>
    private sealed record Asker(KeptWorld Kept, Guid Member, DateOnly Today, bool AsksAboutAll)
    {
        private AccessWorld World => Kept.World;

        public EvaluationAnswer Decide(EvaluationRequest request)
        {
            var explains = request.Context?.GetValueOrDefault("explain") is { ValueKind: JsonValueKind.True };
            if (Find(request.Subject!) is not { } subject || !AsksAboutAll && subject != Member)
                return No(explains, "subject.unknown", "There is nobody here by that name.");
            if (request.Resource!.Type == "workspace")
                return OfWorkspace(request, subject, explains);
            if (PlaceOf(request.Resource) is not { } place)
                return No(explains, "resource.unknown", "There is no such resource here.");
            if (Words(request.Action!.Name!) is not { } asked)
                return No(explains, "action.unknown", "There is no such action here.");
            var held = World.LevelOf(subject, place, Today);
            var decision = Decision.Allows(
                held,
                asked,
                MadeBy(request.Resource) is { } maker ? maker == subject : null,
                World.Areas.GetValueOrDefault(place.Area)?.HasPrivateEntries ?? false
            );
            return explains
                ? Explained(subject, place, held, asked, decision)
                : new EvaluationAnswer(decision);
        }

        private EvaluationAnswer OfWorkspace(EvaluationRequest request, Guid subject, bool explains)
        {
            var name = request.Action!.Name!;
            if (request.Resource!.Id != Kept.Workspace.ShortName)
                return No(explains, "resource.unknown", "There is no such workspace here.");
            if (Words(name) is { } asked)
            {
                var held = World.LevelOf(subject, Place.Elsewhere, Today);
                return explains
                    ? Explained(subject, Place.Elsewhere, held, asked, held >= asked)
                    : new EvaluationAnswer(held >= asked);
            }
            if (!DutyWords.Read([name]).Try(out var duty, out _))
                return No(explains, "action.unknown", "There is no such action here.");
            var holds = World.DutiesOf(subject, Today).HasFlag(duty);
            if (!explains)
                return new EvaluationAnswer(holds);
            var because = World.ExplainDuties(subject, Today).FirstOrDefault(answer => answer.Duty == duty);
            return new EvaluationAnswer(
                holds,
                new EvaluationReason(
                    holds ? $"They hold the duty {name}." : $"They do not hold the duty {name}.",
                    holds ? "granted" : "duty",
                    [.. (because?.Because ?? []).Select(path => path.Grant.Id)]
                )
            );
        }

        private EvaluationAnswer Explained(Guid subject, Place place, Level held, Level asked, bool decision)
        {
            var answer = World.Explain(subject, place, Today);
            var reason =
                answer.Cut != Cut.None ? $"Nothing is allowed: {Differences.CutSentence(answer.Cut)}."
                : decision ? $"They hold {held.Word()} there, and {asked.Word()} is asked."
                : $"They hold {held.Word()} there; {asked.Word()} is asked.";
            return new EvaluationAnswer(
                decision,
                new EvaluationReason(
                    reason,
                    answer.Cut != Cut.None ? "cut." + answer.Cut.ToString().ToLowerInvariant()
                        : decision ? "granted"
                        : "level",
                    [.. answer.Because.Select(path => path.Grant.Id)]
                )
            );
        }

        private static EvaluationAnswer No(bool explains, string code, string reason) =>
            new(false, explains ? new EvaluationReason(reason, code, []) : null);

        private Guid? Find(EvaluationSubject subject) =>
            subject.Type is not ("user" or "person") ? null : Find(subject.Id!);

        private Guid? Find(string person)
        {
            if (Guid.TryParse(person, out var id))
                return World.People.ContainsKey(id) ? id : null;
            // Most write the address as it is kept; reading it costs more than looking it up.
            if (World.ByAddress.TryGetValue(person, out id))
                return id;
            return
                EmailAddress.Read(person).Try(out var address, out _)
                && World.ByAddress.TryGetValue(address.Key, out id)
                ? id
                : null;
        }

        private Place? PlaceOf(EvaluationResource resource)
        {
            if (resource.Type == "area")
                return World.FindArea(resource.Id).Try(out var area, out _) ? Place.In(area) : null;
            if (resource.Type != "resource")
                return null;
            if (Guid.TryParse(resource.Id, out var id))
                return World.Resources.TryGetValue(id, out var known) ? Place.At(known) : null;
            return ByName(World.Resources).TryGetValue(Names.KeyOf(resource.Id!), out var found)
                ? Place.At(found)
                : null;
        }

        private Guid? MadeBy(EvaluationResource resource) =>
            resource.Properties?.GetValueOrDefault("made_by") is { ValueKind: JsonValueKind.String } maker
                // Somebody unknown is somebody else.
                ? Find(maker.GetString()!) ?? Guid.Empty
                : null;

        private static Level? Words(string action) =>
            action switch
            {
                "view" => Level.View,
                "contribute" => Level.Contribute,
                "edit" => Level.Edit,
                "manage" => Level.Manage,
                _ => null,
            };
    }
}
