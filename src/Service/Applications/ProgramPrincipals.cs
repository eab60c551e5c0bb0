using System.Security.Claims;
using ComeAboard.Core.Access;
using ComeAboard.Core.Accounts;
using ComeAboard.Storage.Applications;
using OpenIddict.Abstractions;
using static OpenIddict.Abstractions.OpenIddictConstants;
using Claims = OpenIddict.Abstractions.OpenIddictConstants.Claims;

namespace ComeAboard.Service.Applications;

/// <summary>What tokens say of people: to the program, to the application it belongs to, and to ourselves.</summary>
internal static class ProgramPrincipals
{
    /// <summary>What somebody showed to sign in, as a token of ours keeps it.</summary>
    public static Proof ProofIn(ClaimsPrincipal principal) =>
        new(
            Enum.TryParse<ProofWay>(principal.GetClaim(ProgramClaims.Way), out var way)
                ? way
                : ProofWay.Password,
            DateTimeOffset.FromUnixTimeSeconds(
                long.TryParse(principal.GetClaim(Claims.AuthenticationTime), out var at) ? at : 0
            ),
            Enum.TryParse<ProofWay>(principal.GetClaim(ProgramClaims.Second), out var second) ? second : null
        );

    /// <summary>Keeps with a token what was shown to sign in.</summary>
    public static void Keep(ClaimsIdentity identity, Proof proof)
    {
        identity.SetClaim(Claims.AuthenticationTime, proof.At.ToUnixTimeSeconds());
        identity.SetClaim(ProgramClaims.Way, proof.Way.ToString());
        if (proof.Second is { } second)
            identity.SetClaim(ProgramClaims.Second, second.ToString());
    }

    /// <summary>Somebody, of whom nothing is said yet.</summary>
    public static ClaimsIdentity NewIdentity() =>
        new(authenticationType: "oauth", nameType: Claims.Name, roleType: Claims.Role);

    /// <summary>Whoever holds this acts as the person, everywhere they are.</summary>
    public static ClaimsPrincipal Own(OAuthSignOnRow signOn, ClaimsPrincipal before)
    {
        var identity = NewIdentity();
        identity.SetClaim(Claims.Subject, signOn.Subject);
        Keep(identity, ProofIn(before));
        return Finish(identity, signOn.Id, before.GetScopes());
    }

    /// <summary>The scopes that are granted: who somebody is as far as it was asked, and the duties they have.</summary>
    public static List<string> Granted(IEnumerable<string> asked, Duties duties) =>
        [.. asked.Where(ProgramScopes.OfPeople.Contains), .. duties.List()];

    /// <summary>Says what it hangs on, and which of it is told to whom.</summary>
    public static ClaimsPrincipal Finish(ClaimsIdentity identity, Guid signOn, IEnumerable<string> scopes)
    {
        identity.SetAuthorizationId(signOn.ToString());
        identity.SetScopes(scopes);
        identity.SetDestinations(claim =>
            claim.Type switch
            {
                Claims.Name or Claims.Locale or Claims.UpdatedAt => Told(Scopes.Profile),
                Claims.Email or Claims.EmailVerified => Told(Scopes.Email),
                ProgramClaims.Level or ProgramClaims.Sid => Told(Scopes.OpenId),
                Claims.AuthenticationTime => [Destinations.AccessToken, .. Told(Scopes.OpenId)],
                Claims.Subject or ProgramClaims.Way or ProgramClaims.Second => [Destinations.AccessToken],
                _ => [],
            }
        );
        return new ClaimsPrincipal(identity);

        IEnumerable<string> Told(string scope) =>
            identity.HasScope(scope) ? [Destinations.IdentityToken] : [];
    }
}
