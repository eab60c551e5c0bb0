using System.Security.Claims;
using ComeAboard.Core.Access;
using ComeAboard.Core.Accounts;
using ComeAboard.Service.Workspaces;
using ComeAboard.Storage;
using Microsoft.EntityFrameworkCore;
using OpenIddict.Abstractions;
using static OpenIddict.Abstractions.OpenIddictConstants;

namespace ComeAboard.Service.Applications;

/// <summary>Whom a program acts for that comes with an access token, and how far.</summary>
/// <param name="Account">The account.</param>
/// <param name="Standing">The only membership it counts in; null for the client of the service's own, which counts in all.</param>
/// <param name="Bound">The only duties that count; null for all.</param>
/// <param name="Proof">What the person showed to let it in.</param>
public sealed record ActingProgram(Guid Account, Standing? Standing, Duties? Bound, Proof? Proof)
{
    /// <summary>The sign-in that it is; null for a program that stays let in without one.</summary>
    public Guid? Session { get; init; }
}

/// <summary>Reads access tokens of programs, after the library has found that they count.</summary>
public sealed class ProgramTokens(Database database)
{
    /// <summary>Whom a program acts for; null when it was let in to see who somebody is, and no more.</summary>
    public async Task<ActingProgram?> ReadAsync(ClaimsPrincipal principal)
    {
        if (!Guid.TryParse(principal.GetAuthorizationId(), out var id))
            return null;
        await using var rows = database.Open();
        var signOn = await rows.OAuthSignOns.AsNoTracking().FirstOrDefaultAsync(s => s.Id == id);
        if (signOn is null)
            return null;
        if (signOn.WorkspaceId is null)
            return
                principal.HasScope(ProgramScopes.AsMe)
                && Guid.TryParse(principal.GetClaim(Claims.Subject), out var account)
                ? new ActingProgram(account, null, null, ProgramPrincipals.ProofIn(principal))
                {
                    Session = signOn.SessionId,
                }
                : null;
        var found = await (
            from application in rows.Applications.IgnoreQueryFilters()
            join member in rows.Members.IgnoreQueryFilters()
                on application.WorkspaceId equals member.WorkspaceId
            join workspace in rows.Workspaces on application.WorkspaceId equals workspace.Id
            where application.Id == signOn.ApplicationId && member.Id == signOn.MemberId
            select new { application, standing = new Standing(workspace, member) }
        )
            .AsNoTracking()
            .FirstOrDefaultAsync();
        if (found is null)
            return null;
        var duties = ProgramScopes.DutiesIn(principal.GetScopes()) & found.application.Duties;
        return duties == Duties.None
            ? null
            : new ActingProgram(
                found.standing.Member.AccountId,
                found.standing,
                duties,
                signOn.Sid is null ? null : ProgramPrincipals.ProofIn(principal)
            );
    }
}
