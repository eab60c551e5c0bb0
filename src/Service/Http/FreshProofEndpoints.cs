using ComeAboard.Core.Accounts;
using ComeAboard.Service.Workspaces;

namespace ComeAboard.Service.Http;

/// <summary>Marking what asks for a fresh proof.</summary>
public static class FreshProofEndpoints
{
    /// <summary>Marks an endpoint as dangerous: in a browser it refuses, with <c>proof.stale</c>, whoever did not show lately who they are.</summary>
    public static RouteHandlerBuilder WithFreshProof(this RouteHandlerBuilder endpoint) =>
        endpoint.AddEndpointFilter(
            async (context, next) =>
            {
                var http = context.HttpContext;
                var now = http.RequestServices.GetRequiredService<TimeProvider>().Now();
                if (http.IsRehearsal() || http.Features.Get<Proof>()?.ForbidsDangerous(now) is not { } stale)
                    return await next(context);
                http.Features.Set(new StaleProof());
                return stale.ToResult();
            }
        );
}

/// <summary>Said of a request that was asked for a fresh proof: nobody tried what they may not do.</summary>
public sealed class StaleProof;
