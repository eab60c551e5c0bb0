using ComeAboard.Client.Applications;
using ComeAboard.Core;
using ComeAboard.Core.Access;
using ComeAboard.Service.Access;
using ComeAboard.Service.Accounts;
using ComeAboard.Service.Workspaces;
using OpenIddict.Abstractions;

namespace ComeAboard.Service.Applications;

/// <summary>An application as somebody wants it to be, read and judged.</summary>
internal sealed record ApplicationForm(
    string Name,
    string NameKey,
    Resource? Resource,
    IReadOnlyList<string> Redirects,
    IReadOnlyList<string> AfterSignOut,
    string? SignOutAddress,
    Duties Duties,
    Guid? ActsFor
)
{
    /// <summary>Reads and judges what somebody who looks after the settings wants.</summary>
    public static async Task<Outcome<ApplicationForm>> ReadAsync(
        WorkspaceWrite write,
        ApplicationRequest request
    )
    {
        if (!(await write.RequireAsync(Duties.Settings)).Try(out var actor, out var refusal))
            return refusal;
        if (!PlainText.ReadName(request.Name).Try(out var name, out refusal))
            return refusal;
        if (name.Length == 0)
            return new Refusal(
                "name.missing",
                "An application needs a name.",
                "Give the one people know it by.",
                Field: "name"
            );
        if (!ReadAddresses(request.Redirects, "redirects").Try(out var redirects, out refusal))
            return refusal;
        if (!ReadAddresses(request.AfterSignOut, "afterSignOut").Try(out var after, out refusal))
            return refusal;
        string? told = null;
        if (
            !string.IsNullOrWhiteSpace(request.SignOutAddress)
            && !ApplicationRules
                .ReadAddress(request.SignOutAddress, "signOutAddress")
                .Try(out told, out refusal)
        )
            return refusal;
        if (!DutyWords.Read(request.Duties).Try(out var duties, out refusal))
            return refusal;
        var world = await write.WorldAsync();
        Resource? resource = null;
        if (
            !string.IsNullOrWhiteSpace(request.Resource)
            && !world.FindResource(request.Resource).Try(out resource, out refusal)
        )
            return refusal with { Field = "resource" };
        Guid? actsFor = null;
        if (!string.IsNullOrWhiteSpace(request.ActsFor))
        {
            if (!(await People.HereAsync(write.Rows, request.ActsFor)).Try(out var member, out refusal))
                return refusal with { Field = "actsFor" };
            actsFor = member.Id;
        }
        if (
            ApplicationRules.ForbidsShape(redirects.Count, resource is not null, duties, actsFor) is { } shape
        )
            return shape;
        if (ApplicationRules.Forbids(world, actor.Id, duties, actsFor, write.Today) is { } beyond)
            return beyond;
        return new ApplicationForm(
            name,
            name.ToLowerInvariant(),
            resource,
            redirects,
            after,
            told,
            duties,
            actsFor
        );
    }

    private static Outcome<IReadOnlyList<string>> ReadAddresses(IReadOnlyList<string>? texts, string field)
    {
        var read = new List<string>();
        foreach (var text in texts ?? [])
        {
            if (!ApplicationRules.ReadAddress(text, field).Try(out var address, out var refusal))
                return refusal;
            if (!read.Contains(address))
                read.Add(address);
        }
        return read.Count <= ApplicationRules.MostAddresses
            ? Outcome.Of<IReadOnlyList<string>>(read)
            : new Refusal(
                "application.too-many-addresses",
                $"An application has at most {ApplicationRules.MostAddresses} addresses of a sort.",
                "Leave some out.",
                Field: field
            );
    }

    /// <summary>What the protocol lets it do, in the library's words.</summary>
    public List<string> Permissions()
    {
        var may = new List<string>
        {
            OpenIddictConstants.Permissions.Endpoints.Token,
            OpenIddictConstants.Permissions.Endpoints.Revocation,
        };
        if (Redirects.Count > 0)
            may.AddRange(
                OpenIddictConstants.Permissions.Endpoints.Authorization,
                OpenIddictConstants.Permissions.Endpoints.EndSession,
                OpenIddictConstants.Permissions.GrantTypes.AuthorizationCode,
                OpenIddictConstants.Permissions.GrantTypes.RefreshToken,
                OpenIddictConstants.Permissions.ResponseTypes.Code,
                OpenIddictConstants.Permissions.Scopes.Profile,
                OpenIddictConstants.Permissions.Scopes.Email
            );
        if (ActsFor is not null)
            may.Add(OpenIddictConstants.Permissions.GrantTypes.ClientCredentials);
        may.AddRange(Duties.List().Select(duty => OpenIddictConstants.Permissions.Prefixes.Scope + duty));
        return may;
    }
}
