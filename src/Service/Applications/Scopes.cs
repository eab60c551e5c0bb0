using ComeAboard.Core.Access;
using static OpenIddict.Abstractions.OpenIddictConstants;

namespace ComeAboard.Service.Applications;

/// <summary>What programs may ask for (RFC 6749 section 3.3): who somebody is, and duties by their words.</summary>
public static class ProgramScopes
{
    /// <summary>To act as the person everywhere they are; for the client of the service's own alone.</summary>
    public const string AsMe = "as_me";

    /// <summary>The id of the client of the service's own.</summary>
    public const string OwnClient = "aboard";

    /// <summary>Those that tell who somebody is.</summary>
    public static IReadOnlyList<string> OfPeople { get; } =
    [Scopes.OpenId, Scopes.Profile, Scopes.Email, Scopes.OfflineAccess];

    /// <summary>All there are.</summary>
    public static IReadOnlyList<string> All { get; } = [.. OfPeople, .. Duties.All.List(), AsMe];

    /// <summary>The duties among scopes.</summary>
    public static Duties DutiesIn(IEnumerable<string> scopes)
    {
        var words = Duties.All.List();
        return DutyWords.Read(scopes.Where(words.Contains)).Try(out var duties, out _) ? duties : Duties.None;
    }
}
