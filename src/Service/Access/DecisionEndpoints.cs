using System.Collections.Frozen;
using System.Runtime.CompilerServices;
using System.Text.Json;
using ComeAboard.Client;
using ComeAboard.Client.Access;
using ComeAboard.Core;
using ComeAboard.Core.Access;
using ComeAboard.Core.Workspaces;
using ComeAboard.Service.Applications;
using ComeAboard.Service.Http;
using ComeAboard.Service.SignIn;

namespace ComeAboard.Service.Access;

/// <summary>
/// Access decisions for other systems: the OpenID AuthZEN Authorization API 1.0. They are answered from memory, the sign-in
/// of the asking program included; nothing is asked of the database as long as it was looked at within the last
/// half second (see <see cref="AccessWorlds"/>).
/// </summary>
public static class DecisionEndpoints
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
        var worlds = http.RequestServices.GetRequiredService<AccessWorlds>();
        var kept = await worlds.NowAsync(workspace);
        var now = http.RequestServices.GetRequiredService<TimeProvider>().GetUtcNow();
        if (kept is null)
            return CommonRefusals.SignInRequired;
        var text = header[Bearer.Length..].Trim();
        var (member, most) = (Guid.Empty, Duties.All);
        if (
            Secret.Read(text) is { } secret
            && kept.Picture.Tokens.TryGetValue(secret.Hash().Value, out var holder)
            && holder.ExpiresAt > now
        )
            member = holder.Member;
        else if (await ProgramAsync(http, kept, text) is { } program)
            (member, most) = program;
        else
            return CommonRefusals.SignInRequired;
        var today = Days.Of(now, kept.Zone);
        if (EntryRules.Forbids(kept.World, member, today) is { } cut)
            return cut;
        return new Asker(
            kept,
            member,
            today,
            (kept.World.DutiesOf(member, today) & most).HasFlag(Duties.Access)
        );
    }

    /// <summary>For whom a program asks that comes with an access token, and with which duties; null when it does not count.</summary>
    private static async ValueTask<(Guid Member, Duties Most)?> ProgramAsync(
        HttpContext http,
        KeptWorld kept,
        string token
    )
    {
        var tokens = http.RequestServices.GetRequiredService<LookedAtTokens>();
        var program = await tokens.FindAsync(token, () => TokenSignIn.ActingAsync(http));
        if (program is null)
            return null;
        if (program.Standing is { } standing)
            return standing.Workspace.Id == kept.Workspace.Id
                ? (standing.Member.Id, program.Bound ?? Duties.All)
                : null;
        // The client of the service's own asks as whoever it is, wherever they are.
        var member = await http
            .RequestServices.GetRequiredService<WhoIsHere>()
            .MemberAsync(program.Account, kept.Workspace.Id);
        return member is { } id ? (id, Duties.All) : null;
    }
}
