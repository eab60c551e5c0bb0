using System.Security.Claims;
using System.Text.Json;
using ComeAboard.Client.SignIn;
using ComeAboard.Core;
using ComeAboard.Core.Access;
using ComeAboard.Core.Accounts;
using ComeAboard.Core.Workspaces;
using ComeAboard.Service.Access;
using ComeAboard.Service.Accounts;
using ComeAboard.Service.SignIn;
using ComeAboard.Service.Workspaces;
using ComeAboard.Storage;
using ComeAboard.Storage.Accounts;
using ComeAboard.Storage.Applications;
using ComeAboard.Storage.SignIn;
using ComeAboard.Storage.Workspaces;
using Microsoft.EntityFrameworkCore;
using OpenIddict.Abstractions;
using static OpenIddict.Abstractions.OpenIddictConstants;
using Claims = OpenIddict.Abstractions.OpenIddictConstants.Claims;

namespace ComeAboard.Service.Applications;

/// <summary>A registered program, with its workspace.</summary>
public sealed record KnownProgram(ApplicationRow Application, WorkspaceRow Workspace);

/// <summary>That somebody may sign in to a program.</summary>
/// <param name="Program">Which.</param>
/// <param name="Member">As whom.</param>
/// <param name="Level">Their level at the resource it is.</param>
/// <param name="Duties">The duties it would have of theirs.</param>
public sealed record Admitted(KnownProgram Program, MemberRow Member, Level Level, Duties Duties);

/// <summary>Lets programs in: for somebody who signs in to them, for a device that somebody approved, for themselves.</summary>
public sealed class SignOns(
    Database database,
    AccountWriter accounts,
    AccessWorlds worlds,
    SignOnStanding standing,
    WriteGate gate,
    TimeProvider clock
)
{
    private static Refusal NotHere { get; } =
        new(
            "application.no-access",
            "You are not in the workspace this belongs to.",
            "Ask whoever sent you there for an invitation.",
            RefusalSort.NotAllowed
        );

    /// <summary>For a program that is let in no more: <c>application.out</c>.</summary>
    public static Refusal Out { get; } =
        new(
            "application.out",
            "What this program was let in by does not stand any more.",
            "Sign in again.",
            RefusalSort.NotSignedIn
        );

    /// <summary>The program with a client id; null when no workspace has it.</summary>
    public async Task<KnownProgram?> FindAsync(string? clientId)
    {
        await using var rows = database.Open();
        return await (
            from client in rows.OAuthClients
            join application in rows.Applications.IgnoreQueryFilters() on client.Id equals application.Id
            join workspace in rows.Workspaces on application.WorkspaceId equals workspace.Id
            where client.ClientId == clientId
            select new KnownProgram(application, workspace)
        )
            .AsNoTracking()
            .FirstOrDefaultAsync();
    }

    /// <summary>The id of a sign-in, as programs know it; null where there is none.</summary>
    /// <param name="session">The hash of its secret.</param>
    public async Task<Guid?> SessionAsync(string? session)
    {
        await using var rows = database.Open();
        return await rows
            .Sessions.Where(s => s.SecretHash == session)
            .Select(s => (Guid?)s.Id)
            .FirstOrDefaultAsync();
    }

    /// <summary>
    /// Whether somebody may sign in to a program: as a member with access above none to it, with what the workspace asks
    /// its members to show.
    /// </summary>
    public async Task<Outcome<Admitted>> AdmitAsync(
        KnownProgram program,
        Guid account,
        Proof proof,
        IEnumerable<string> scopes
    )
    {
        await using var rows = database.Open(program.Workspace.Id);
        var now = clock.Now();
        var member = await rows
            .Members.AsNoTracking()
            .FirstOrDefaultAsync(m => m.AccountId == account && m.EndedAt == null);
        if (member is null || program.Application.ResourceId is not { } resource)
            return NotHere;
        var world = await worlds.OfAsync(program.Workspace);
        var today = Days.Of(now, program.Workspace.Zone);
        var held = world.DutiesOf(member.Id, today);
        if (WorkspaceRules.Of(program.Workspace).ForbidsSignIn(proof, held, today) is { } weak)
            return weak;
        return ApplicationRules.Admit(world, member.Id, resource, today).Try(out var level, out var refusal)
            ? new Admitted(
                program,
                member,
                level,
                ProgramScopes.DutiesIn(scopes) & program.Application.Duties & held
            )
            : refusal;
    }

    /// <summary>Lets a program in for somebody who is signed in here.</summary>
    /// <param name="admitted">Whom, and where.</param>
    /// <param name="account">Their account.</param>
    /// <param name="session">The hash of the session they are signed in with.</param>
    /// <param name="proof">What they showed.</param>
    /// <param name="scopes">What the program asks for.</param>
    /// <param name="via">Through what.</param>
    public async Task<Outcome<ClaimsPrincipal>> OpenAsync(
        Admitted admitted,
        AccountRow account,
        string? session,
        Proof proof,
        IReadOnlyList<string> scopes,
        string via
    )
    {
        var (application, member) = (admitted.Program.Application, admitted.Member);
        var granted = ProgramPrincipals.Granted(scopes, admitted.Duties);
        var opened = await accounts.WriteAsync<OAuthSignOnRow>(
            [account.Id],
            [],
            Caller.Invitee(account.Name, via),
            async write =>
            {
                var open = await write
                    .Rows.Sessions.AsNoTracking()
                    .FirstOrDefaultAsync(s => s.SecretHash == session && s.AccountId == account.Id);
                if (open is null)
                    return CommonRefusals.SignInRequired;
                var row = new OAuthSignOnRow
                {
                    Id = Guid.CreateVersion7(write.Now),
                    ApplicationId = application.Id,
                    WorkspaceId = application.WorkspaceId,
                    MemberId = member.Id,
                    Subject = member.Id.ToString(),
                    Scopes = JsonSerializer.Serialize(granted),
                    Status = Statuses.Valid,
                    Type = AuthorizationTypes.AdHoc,
                    CreationDate = write.Now.UtcDateTime,
                    ConcurrencyToken = Guid.NewGuid().ToString(),
                    SessionId = open.Id,
                    Sid = open.Id,
                    SessionEndsAt = open.ExpiresAt,
                    EndsWithSession = !granted.Contains(Scopes.OfflineAccess),
                };
                write.Rows.OAuthSignOns.Add(row);
                write.Note(
                    account.Id,
                    "account.signed-in-to",
                    ("program", application.Name),
                    ("workspace", admitted.Program.Workspace.Name),
                    (
                        "duties",
                        admitted.Duties == Duties.None ? null : string.Join(", ", admitted.Duties.List())
                    )
                );
                return row;
            }
        );
        return opened.Try(out var signOn, out var refusal)
            ? await PrincipalAsync(signOn, admitted, granted, proof)
            : refusal;
    }

    /// <summary>
    /// Says anew who somebody is to a program that comes with a code or a refresh token, as it is at this moment; refuses
    /// when they may no longer sign in to it.
    /// </summary>
    public async Task<Outcome<ClaimsPrincipal>> RenewAsync(ClaimsPrincipal before)
    {
        if (!Guid.TryParse(before.GetAuthorizationId(), out var id))
            return Out;
        await using var rows = database.Open();
        var signOn = await rows
            .OAuthSignOns.AsNoTracking()
            .Include(s => s.Application)
            .FirstOrDefaultAsync(s => s.Id == id);
        if (signOn is null || !await standing.StandsAsync(signOn, CancellationToken.None))
            return Out;
        if (signOn.WorkspaceId is null)
        {
            await NoteSeenAsync(signOn);
            return ProgramPrincipals.Own(signOn, before);
        }
        var account = await rows
            .Members.IgnoreQueryFilters()
            .Where(m => m.WorkspaceId == signOn.WorkspaceId && m.Id == signOn.MemberId)
            .Select(m => m.AccountId)
            .FirstOrDefaultAsync();
        if (await FindAsync(signOn.Application!.ClientId) is not { } program || account == Guid.Empty)
            return Out;
        var (scopes, proof) = (before.GetScopes(), ProgramPrincipals.ProofIn(before));
        return (await AdmitAsync(program, account, proof, scopes)).Try(out var admitted, out var refusal)
            ? await PrincipalAsync(
                signOn,
                admitted,
                ProgramPrincipals.Granted(scopes, admitted.Duties),
                proof
            )
            : refusal;
    }

    /// <summary>Lets a program in that acts by itself, for the member who answers for it.</summary>
    public async Task<Outcome<ClaimsPrincipal>> ForItselfAsync(string? clientId, IReadOnlyList<string> scopes)
    {
        if (await FindAsync(clientId) is not { Application: { ActsForId: not null } application })
            return Out;
        await using var rows = database.Open();
        var signOn = await rows.OAuthSignOns.AsNoTracking().FirstOrDefaultAsync(s => s.Id == application.Id);
        if (signOn is null || !await standing.StandsAsync(signOn, CancellationToken.None))
            return Out with
            {
                Sentence = "Whoever this program acts for is not here any more, or is kept out.",
                Remedy = "An administrator can let it act for somebody else.",
            };
        var asked = scopes.Count > 0 ? ProgramScopes.DutiesIn(scopes) : application.Duties;
        var identity = ProgramPrincipals.NewIdentity();
        identity.SetClaim(Claims.Subject, clientId);
        return ProgramPrincipals.Finish(identity, signOn.Id, (asked & application.Duties).List());
    }

    private async Task<ClaimsPrincipal> PrincipalAsync(
        OAuthSignOnRow signOn,
        Admitted admitted,
        IReadOnlyList<string> scopes,
        Proof proof
    )
    {
        var member = admitted.Member;
        await using var rows = database.Open();
        var proved = await rows.AccountAddresses.AnyAsync(a =>
            a.AccountId == member.AccountId && a.Address == member.Address && a.ProvedAt != null
        );
        var language = await rows
            .Accounts.Where(a => a.Id == member.AccountId)
            .Select(a => a.Language)
            .FirstOrDefaultAsync();
        var identity = ProgramPrincipals.NewIdentity();
        identity.SetClaim(Claims.Subject, signOn.Subject);
        identity.SetClaim(Claims.Name, member.Name);
        identity.SetClaim(Claims.Email, member.Address);
        identity.SetClaim(Claims.EmailVerified, proved);
        identity.SetClaim(Claims.Locale, language);
        identity.SetClaim(ProgramClaims.Level, admitted.Level.Word());
        identity.SetClaim(ProgramClaims.Sid, signOn.Sid?.ToString());
        ProgramPrincipals.Keep(identity, proof);
        return ProgramPrincipals.Finish(identity, signOn.Id, scopes);
    }

    private async Task NoteSeenAsync(OAuthSignOnRow signOn)
    {
        var now = clock.Now();
        using var pass = await gate.EnterAsync();
        await using var rows = database.Open();
        await rows
            .Sessions.Where(s => s.Id == signOn.SessionId && s.SeenAt < now)
            .ExecuteUpdateAsync(set => set.SetProperty(s => s.SeenAt, now));
    }
}
