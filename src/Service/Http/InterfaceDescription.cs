using ComeAboard.Client;
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
                document.Servers = [];
                document.Components ??= new OpenApiComponents();
                document.Components.SecuritySchemes = new Dictionary<string, IOpenApiSecurityScheme>
                {
                    ["token"] = new OpenApiSecurityScheme
                    {
                        Type = SecuritySchemeType.Http,
                        Scheme = "bearer",
                    },
                };
                return Task.CompletedTask;
            }
        );
        options.AddOperationTransformer(
            async (operation, context, cancellation) =>
            {
                var problem = await context.GetOrCreateSchemaAsync(typeof(Problem), null, cancellation);
                DescribeParameters(operation, context.Description.RelativePath ?? "");
                operation.Responses ??= [];
                operation.Responses["default"] = new OpenApiResponse
                {
                    Description = "Refused",
                    Content = new Dictionary<string, OpenApiMediaType>
                    {
                        [Problem.MediaType] = new() { Schema = problem },
                    },
                };
            }
        );
    }

    /// <summary>What endpoints read from the request itself, and so cannot be seen in their signatures.</summary>
    private static void DescribeParameters(OpenApiOperation operation, string path)
    {
        operation.Parameters ??= [];
        if (path.Contains("{workspace}", StringComparison.Ordinal))
            Add(operation, "workspace", ParameterLocation.Path, "The short name of the workspace.");
        if (operation.OperationId == "sendInvitation")
            Add(
                operation,
                "Idempotency-Key",
                ParameterLocation.Header,
                "A key of the caller's, at most 200 characters: the same key twice sends once and answers the same."
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
