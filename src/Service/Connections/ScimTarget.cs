using ComeAboard.Core;

namespace ComeAboard.Service.Connections;

/// <summary>A SCIM 2.0 service provider (RFC 7643, 7644) that access is carried out to.</summary>
public sealed class ScimTarget(Reach reach, ServiceSettings settings, TimeProvider clock) : ITarget
{
    /// <inheritdoc/>
    public string Type => "scim";

    /// <inheritdoc/>
    public Outcome<string> ReadPlace(string? url) => ScimDoor.ReadPlace(settings, url);

    /// <inheritdoc/>
    public async Task<ITargetSession> OpenAsync(
        SourceAccess access,
        IReadOnlySet<string> groups,
        CancellationToken stop
    )
    {
        var session = new ScimSession(
            new ScimCalls(ScimDoor.Open(reach, access, settings.IsPlain), access.Place, clock),
            groups
        );
        try
        {
            await session.DiscoverAsync(stop);
            return session;
        }
        catch
        {
            await session.DisposeAsync();
            throw;
        }
    }
}
