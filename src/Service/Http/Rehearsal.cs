namespace ComeAboard.Service.Http;

/// <summary>Marks an operation that can be tried by <c>?dryRun=true</c>: all it writes through the door is undone.</summary>
public sealed record CanBeTried;

/// <summary>Trying an operation.</summary>
public static class Rehearsal
{
    /// <summary>Lets the operation be tried.</summary>
    public static RouteHandlerBuilder OrTried(this RouteHandlerBuilder endpoint) =>
        endpoint.WithMetadata(new CanBeTried());

    /// <summary>Whether this request only tries its operation.</summary>
    public static bool IsRehearsal(this HttpContext http) =>
        http.GetEndpoint()?.Metadata.GetMetadata<CanBeTried>() is not null
        && bool.TryParse(http.Request.Query["dryRun"], out var isDry)
        && isDry;
}
