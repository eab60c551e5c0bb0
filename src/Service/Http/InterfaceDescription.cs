using ComeAboard.Client;
using Microsoft.AspNetCore.Mvc.ApiExplorer;
using Microsoft.AspNetCore.OpenApi;
using Microsoft.OpenApi;

namespace ComeAboard.Service.Http;

/// <summary>What the generated OpenAPI 3.1 document says beside the paths.</summary>
public static class InterfaceDescription
{
    public static void Configure(OpenApiOptions options)
    {
        options.OpenApiVersion = OpenApiSpecVersion.OpenApi3_1;
        options.AddDocumentTransformer(
            (document, _, _) =>
            {
                document.Info = new OpenApiInfo
                {
                    Title = "Come Aboard",
                    Version = "1",
                    Description =
                        "Invite people, see who has answered, end access. Refusals are RFC 9457 problem details with a stable code.",
                };
                document.Info.License = new OpenApiLicense { Name = "MIT", Identifier = "MIT" };
                document.Servers = [new OpenApiServer { Url = "/" }];
                document.Security = [new OpenApiSecurityRequirement { [new("token", document)] = [] }];
                document.Components ??= new OpenApiComponents();
                document.Components.SecuritySchemes = new Dictionary<string, IOpenApiSecurityScheme>
                {
                    ["token"] = new OpenApiSecurityScheme
                    {
                        Type = SecuritySchemeType.Http,
                        Scheme = "bearer",
                    },
                };
                // Details are an object, or nothing: what may be anything is nothing, too, and fits one of both no more.
                if (
                    document.Components.Schemas is { } schemas
                    && schemas.TryGetValue(nameof(System.Text.Json.JsonElement), out var found)
                    && found is OpenApiSchema anything
                )
                    (anything.Type, anything.AdditionalProperties) = (
                        JsonSchemaType.Object,
                        new OpenApiSchema()
                    );
                PutInOrder(document);
                ShareExamples(document);
                return Task.CompletedTask;
            }
        );
        options.AddOperationTransformer(
            async (operation, context, cancellation) =>
            {
                if (context.Document?.Components?.Schemas?.ContainsKey(nameof(Problem)) is not true)
                    context.Document!.AddComponent(
                        nameof(Problem),
                        await context.GetOrCreateSchemaAsync(typeof(Problem), null, cancellation)
                    );
                var problem = new OpenApiSchemaReference(nameof(Problem), context.Document);
                DescribeParameters(operation, context.Description);
                operation.Responses ??= [];
                Words.Describe(operation);
                operation.Responses["default"] = new OpenApiResponse
                {
                    Description = Words.RefusalsOf(operation.OperationId),
                    Content = new Dictionary<string, OpenApiMediaType>
                    {
                        [Problem.MediaType] = new() { Schema = problem },
                    },
                };
            }
        );
    }

    private static readonly InterfaceWords Words = InterfaceWords.Load();

    /// <summary>Puts what belongs together under one heading: what its path begins with, behind the workspace.</summary>
    private static void PutInOrder(OpenApiDocument document)
    {
        document.Tags = new HashSet<OpenApiTag>();
        foreach (var (path, item) in document.Paths)
        {
            var parts = path.Split('/', StringSplitOptions.RemoveEmptyEntries)
                .SkipWhile(part => part is "api" or "v1" or ".well-known" or "authzen-configuration")
                .ToList();
            var heading = parts is ["workspaces", "{workspace}", .. var behind]
                ? behind.FirstOrDefault("workspace")
                : parts[0];
            heading = char.ToUpperInvariant(heading[0]) + heading[1..].Replace('-', ' ');
            document.Tags.Add(new OpenApiTag { Name = heading, Description = Words.Headings[heading] });
            foreach (var operation in item.Operations!.Values)
                operation.Tags = new HashSet<OpenApiTagReference> { new(heading, document) };
        }
    }

    /// <summary>Gives an answer without an example of its own the example of another operation that answers alike.</summary>
    private static void ShareExamples(OpenApiDocument document)
    {
        var answers = document
            .Paths.Values.SelectMany(item => item.Operations!.Values)
            .SelectMany(operation => operation.Responses!)
            .Where(response => response.Key.StartsWith('2'))
            .SelectMany(response => response.Value.Content ?? new Dictionary<string, OpenApiMediaType>())
            .Where(content => content is { Key: "application/json", Value.Schema: OpenApiSchemaReference })
            .Select(content => content.Value)
            .ToLookup(content => ((OpenApiSchemaReference)content.Schema!).Reference.Id);
        foreach (var alike in answers)
            if (alike.FirstOrDefault(content => content.Examples is { Count: > 0 }) is { } shown)
                foreach (var content in alike.Where(content => content.Examples is not { Count: > 0 }))
                    content.Examples = shown.Examples;
    }

    /// <summary>What endpoints read from the request itself, and so cannot be seen in their signatures.</summary>
    private static void DescribeParameters(OpenApiOperation operation, ApiDescription described)
    {
        var path = described.RelativePath ?? "";
        operation.Parameters ??= [];
        if (
            described.ActionDescriptor.EndpointMetadata.OfType<AlsoCsv>().Any()
            && operation.Parameters.All(parameter => parameter.Name != "format")
        )
        {
            Add(operation, "format", ParameterLocation.Query, "");
            operation.Responses!["200"].Content!["text/csv"] = new OpenApiMediaType
            {
                Schema = new OpenApiSchema { Type = JsonSchemaType.String },
            };
        }
        if (described.ActionDescriptor.EndpointMetadata.OfType<CanBeTried>().Any())
            Add(operation, "dryRun", ParameterLocation.Query, "");
        if (
            path.Contains("{workspace}", StringComparison.Ordinal)
            && operation.Parameters.All(parameter => parameter.Name != "workspace")
        )
            Add(operation, "workspace", ParameterLocation.Path, "The short name of the workspace.");
        if (operation.OperationId is "sendInvitation" or "inviteColleague")
            Add(
                operation,
                "Idempotency-Key",
                ParameterLocation.Header,
                "A key of the caller's, at most 200 characters: the same key twice sends once and answers the same."
            );
        if (HttpMethods.IsPut(described.HttpMethod ?? ""))
            Add(
                operation,
                "If-Match",
                ParameterLocation.Header,
                "The version that is replaced, in quotes, or * for whatever it is now: refused with 428 when absent, with 412 when it is no longer so."
            );
        if (operation.OperationId is "resendInvitation" or "revokeInvitation" or "endPerson")
            Add(
                operation,
                "If-Match",
                ParameterLocation.Header,
                "The version last seen, in quotes; refused with 412 when it is no longer so."
            );
    }

    private static void Add(
        OpenApiOperation operation,
        string name,
        ParameterLocation location,
        string description
    ) =>
        operation.Parameters!.Insert(
            0,
            new OpenApiParameter
            {
                Name = name,
                In = location,
                Required = location == ParameterLocation.Path,
                Description = description,
                Schema = new OpenApiSchema { Type = JsonSchemaType.String },
            }
        );
}
