using ComeAboard.Client;
using ComeAboard.Service.Workspaces;
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
                    Description = "Invite people, see who has answered, end access. Refusals are RFC 9457 problem details with a stable code.",
                };
                document.Servers = [];
                document.Components ??= new OpenApiComponents();
                document.Components.SecuritySchemes = new Dictionary<string, IOpenApiSecurityScheme>
                {
                    ["token"] = new OpenApiSecurityScheme { Type = SecuritySchemeType.Http, Scheme = "bearer" },
                };
                return Task.CompletedTask;
            }
        );
        options.AddOperationTransformer(
            async (operation, context, cancellation) =>
            {
                var problem = await context.GetOrCreateSchemaAsync(typeof(Problem), null, cancellation);
                operation.Responses ??= [];
                operation.Responses["default"] = new OpenApiResponse
                {
                    Description = "Refused",
                    Content = new Dictionary<string, OpenApiMediaType> { [Problem.MediaType] = new() { Schema = problem } },
                };
            }
        );
    }
}
