using ComeAboard.Core;
using ComeAboard.Core.Access;
using ComeAboard.Core.Workspaces;
using ComeAboard.Service.Access;
using ComeAboard.Service.Workspaces;
using ComeAboard.Storage;
using ComeAboard.Storage.Applications;
using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.Options;
using OpenIddict.Abstractions;
using OpenIddict.Core;
using static OpenIddict.Abstractions.OpenIddictConstants;

namespace ComeAboard.Service.Applications;

/// <summary>
/// Whether what a program was let in by still stands. Asked each time anything is done with a token of it, so that
/// whoever may no longer be here is out at once, whatever tokens are around.
/// </summary>
public sealed class SignOnStanding(Database database, AccessWorlds worlds, TimeProvider clock)
{
    /// <summary>Whether it stands at this moment.</summary>
    public async Task<bool> StandsAsync(OAuthSignOnRow signOn, CancellationToken cancellation)
    {
        var now = clock.Now();
        await using var rows = database.Open();
        if (
            signOn.EndsWithSession
            && !await rows.Sessions.AnyAsync(s => s.Id == signOn.SessionId && s.ExpiresAt > now, cancellation)
        )
            return false;
        if (signOn is not { WorkspaceId: { } id, MemberId: { } member })
            return true;
        var found = await (
            from workspace in rows.Workspaces
            from application in rows
                .Applications.IgnoreQueryFilters()
                .Where(a => a.WorkspaceId == workspace.Id && a.Id == signOn.ApplicationId)
            where workspace.Id == id
            select new { workspace, application }
        )
            .AsNoTracking()
            .FirstOrDefaultAsync(cancellation);
        if (found is null)
            return false;
        var world = await worlds.OfAsync(found.workspace);
        return Allows(signOn, found.application, world, Days.Of(now, found.workspace.Zone));
    }

    /// <summary>Whether the member may still be where the program lets them, or it act for them.</summary>
    /// <param name="signOn">What it was let in by.</param>
    /// <param name="application">The program.</param>
    /// <param name="world">Who may do what.</param>
    /// <param name="day">The day, in the workspace's time zone.</param>
    public static bool Allows(
        OAuthSignOnRow signOn,
        ApplicationRow application,
        AccessWorld world,
        DateOnly day
    ) =>
        signOn.MemberId is { } member
        && (
            signOn.Sid is null
                ? application.ActsForId == member && EntryRules.Forbids(world, member, day) is null
                : application.ResourceId is { } resource
                    && ApplicationRules.Admit(world, member, resource, day).Succeeded
        );
}

/// <summary>Asks, wherever the library looks at an authorization, whether it still stands.</summary>
public sealed class SignOnManager(
    IOpenIddictAuthorizationCache<OAuthSignOnRow> cache,
    ILogger<OpenIddictAuthorizationManager<OAuthSignOnRow>> log,
    IOptionsMonitor<OpenIddictCoreOptions> options,
    IOpenIddictAuthorizationStore<OAuthSignOnRow> store,
    SignOnStanding standing
) : OpenIddictAuthorizationManager<OAuthSignOnRow>(cache, log, options, store)
{
    /// <inheritdoc/>
    public override async ValueTask<bool> HasStatusAsync(
        OAuthSignOnRow authorization,
        string status,
        CancellationToken cancellationToken = default
    ) =>
        await base.HasStatusAsync(authorization, status, cancellationToken)
        && (status != Statuses.Valid || await standing.StandsAsync(authorization, cancellationToken));
}

/// <summary>Secrets of programs are as random as ours, and kept as ours are.</summary>
public sealed class OAuthClientManager(
    IOpenIddictApplicationCache<OAuthClientRow> cache,
    ILogger<OpenIddictApplicationManager<OAuthClientRow>> log,
    IOptionsMonitor<OpenIddictCoreOptions> options,
    IOpenIddictApplicationStore<OAuthClientRow> store
) : OpenIddictApplicationManager<OAuthClientRow>(cache, log, options, store)
{
    /// <inheritdoc/>
    protected override ValueTask<bool> ValidateClientSecretAsync(
        string secret,
        string comparand,
        CancellationToken cancellationToken = default
    ) =>
        ValueTask.FromResult(
            Secret.Read(secret) is { } read && read.Hash().Matches(new SecretHash(comparand))
        );
}
