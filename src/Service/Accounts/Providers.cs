using ComeAboard.Client.Accounts;
using ComeAboard.Client.Workspaces;
using ComeAboard.Core;
using ComeAboard.Core.Access;
using ComeAboard.Core.Accounts;
using ComeAboard.Service.SignIn;
using ComeAboard.Service.Workspaces;
using ComeAboard.Storage;
using ComeAboard.Storage.Accounts;
using ComeAboard.Storage.Invitations;
using Microsoft.EntityFrameworkCore;

namespace ComeAboard.Service.Accounts;

/// <summary>The providers (OpenID Connect) by which people at a workspace's proved domains sign in.</summary>
public sealed class Providers(
    Database database,
    WorkspaceWriter writer,
    OutsideProviders outside,
    OutsideNetwork network,
    ServiceSettings settings
)
{
    private const int MostProviders = 20;
    private const int LongestSecret = 1_000;
    private const int LongestClientId = 500;

    private static Refusal NotFound { get; } =
        CommonRefusals.NotFound with
        {
            Remedy = "See which there are: aboard providers list",
        };

    /// <summary>The providers of a workspace, by name.</summary>
    public async Task<Page<ProviderView>> ListAsync(Visitor visitor)
    {
        await using var rows = database.Open(visitor.WorkspaceId);
        var found = await rows.Providers.AsNoTracking().OrderBy(p => p.NameKey).ToListAsync();
        var views = new List<ProviderView>();
        foreach (var row in found)
            views.Add(await ViewAsync(rows, row));
        return new Page<ProviderView>(views, null);
    }

    /// <summary>Adds a provider, after asking it who it is.</summary>
    public async Task<Outcome<ProviderView>> AddAsync(Visitor visitor, ProviderRequest request)
    {
        if (!network.ReadIssuer(request.Issuer).Try(out var issuer, out var refusal))
            return refusal;
        if (!Read(request).Try(out var read, out refusal))
            return refusal;
        // Asked before anything is locked: it may take its time.
        if (await network.ForbidsAsync(issuer) is { } no)
            return no;
        var secret = outside.Seal(request.ClientSecret);
        return await writer.WriteAsync<ProviderView>(
            visitor.WorkspaceId,
            visitor.Caller,
            async write =>
            {
                if (await write.Rows.Providers.CountAsync() >= MostProviders)
                    return new Refusal(
                        "provider.too-many",
                        $"There are {MostProviders} providers already.",
                        "Remove one that is not needed.",
                        RefusalSort.Conflict
                    );
                if (await write.Rows.Providers.AnyAsync(p => p.NameKey == read.NameKey))
                    return new Refusal(
                        "provider.exists",
                        $"There is a provider \"{read.Name}\" already.",
                        "Choose another name, or change that one.",
                        RefusalSort.Conflict,
                        "name"
                    );
                var row = new ProviderRow
                {
                    WorkspaceId = visitor.WorkspaceId,
                    Id = Guid.CreateVersion7(write.Now),
                    Name = read.Name,
                    NameKey = read.NameKey,
                    Issuer = issuer,
                    ClientId = read.ClientId,
                    Secret = secret,
                    AddedAt = write.Now,
                    AddedByName = visitor.Member.Name,
                };
                write.Rows.Providers.Add(row);
                return await PutAsync(write, row, request, "provider.added");
            }
        );
    }

    /// <summary>Changes a provider; what was begun with it as it was is refused.</summary>
    public async Task<Outcome<ProviderView>> ChangeAsync(
        Visitor visitor,
        string provider,
        ProviderRequest request
    )
    {
        if (!Read(request).Try(out var read, out var refusal))
            return refusal;
        var secret = outside.Seal(request.ClientSecret);
        return await writer.WriteAsync<ProviderView>(
            visitor.WorkspaceId,
            visitor.Caller,
            async write =>
            {
                if (await FindAsync(write.Rows, provider) is not { } row)
                    return NotFound;
                if (await write.Rows.Providers.AnyAsync(p => p.NameKey == read.NameKey && p.Id != row.Id))
                    return new Refusal(
                        "provider.exists",
                        $"There is a provider \"{read.Name}\" already.",
                        "Choose another name.",
                        RefusalSort.Conflict,
                        "name"
                    );
                (row.Name, row.NameKey, row.ClientId) = (read.Name, read.NameKey, read.ClientId);
                if (secret.Length > 0)
                    row.Secret = secret;
                row.Version++;
                return await PutAsync(write, row, request, "provider.changed");
            }
        );
    }

    /// <summary>Removes a provider; nobody signs in by it any more, and whoever did keeps their account.</summary>
    public Task<Outcome<ProviderView>> RemoveAsync(Visitor visitor, string provider) =>
        writer.WriteAsync<ProviderView>(
            visitor.WorkspaceId,
            visitor.Caller,
            async write =>
            {
                if (await FindAsync(write.Rows, provider) is not { } row)
                    return NotFound;
                var view = await ViewAsync(write.Rows, row);
                foreach (
                    var domain in await write.Rows.Domains.Where(d => d.ProviderId == row.Id).ToListAsync()
                )
                    (domain.ProviderId, domain.Version) = (null, domain.Version + 1);
                write.Rows.Providers.Remove(row);
                write.Record("provider.removed", row.Id, ("name", row.Name), ("issuer", row.Issuer));
                return view;
            }
        );

    private async Task<Outcome<ProviderView>> PutAsync(
        WorkspaceWrite write,
        ProviderRow row,
        ProviderRequest request,
        string action
    )
    {
        if (await ForbidsLinkAsync(write, row, request.JoinLink) is { } no)
            return no;
        if (await ForbidsDomainsAsync(write, row, request.Domains ?? []) is { } other)
            return other;
        await write.SaveAsync();
        var view = await ViewAsync(write.Rows, row);
        write.Record(
            action,
            row.Id,
            ("name", row.Name),
            ("issuer", row.Issuer),
            ("domains", string.Join(" ", view.Domains)),
            ("joining by", view.JoinLink.Length > 0 ? view.JoinLink : null)
        );
        return view;
    }

    private static async Task<Refusal?> ForbidsLinkAsync(WorkspaceWrite write, ProviderRow row, string? text)
    {
        if (string.IsNullOrWhiteSpace(text))
        {
            row.JoinLinkId = null;
            return null;
        }
        // Whoever opens a link to everybody at a domain invites them.
        if (!(await write.RequireAsync(Duties.Invite)).Try(out _, out var missing))
            return missing;
        var label = text.Trim();
        var id = Guid.TryParse(label, out var read) ? read : Guid.Empty;
        var found = await write
            .Rows.JoinLinks.AsNoTracking()
            .Where(l => l.ClosedAt == null && (l.Id == id || l.Label == label))
            .OrderByDescending(l => l.Id)
            .FirstOrDefaultAsync();
        if (found is null)
            return new Refusal(
                "provider.no-link",
                $"There is no open join link \"{Words.Short(label)}\".",
                "See which there are: aboard links list",
                RefusalSort.Conflict,
                "joinLink"
            );
        row.JoinLinkId = found.Id;
        return null;
    }

    private static async Task<Refusal?> ForbidsDomainsAsync(
        WorkspaceWrite write,
        ProviderRow row,
        IReadOnlyList<string> wanted
    )
    {
        var names = wanted.Select(name => name.Trim().TrimEnd('.').ToLowerInvariant()).Distinct().ToList();
        var found = await write.Rows.Domains.ToListAsync();
        foreach (var name in names)
        {
            var domain = found.FirstOrDefault(d => d.Domain == name);
            if (domain is null || !domain.Proof.Gains(write.Now))
                return new Refusal(
                    "provider.domain-not-proved",
                    $"{Words.Short(name)} is not proved by this workspace.",
                    "Prove it first: aboard domains add " + Words.Short(name),
                    RefusalSort.Conflict,
                    "domains"
                );
            if (domain.ProviderId is { } other && other != row.Id)
                return new Refusal(
                    "provider.domain-taken",
                    $"People at {name} sign in by another provider already.",
                    "Take the domain from that one first.",
                    RefusalSort.Conflict,
                    "domains"
                );
        }
        foreach (var domain in found)
        {
            var mine = names.Contains(domain.Domain);
            if (mine == (domain.ProviderId == row.Id))
                continue;
            (domain.ProviderId, domain.Version) = (mine ? row.Id : null, domain.Version + 1);
        }
        return null;
    }

    private sealed record Wanted(string Name, string NameKey, string ClientId);

    private static Outcome<Wanted> Read(ProviderRequest request)
    {
        if (!PlainText.ReadName(request.Name).Try(out var name, out var refusal))
            return refusal;
        if (name.Length == 0)
            return new Refusal(
                "name.missing",
                "A provider needs a name.",
                "Give the one people know it by.",
                Field: "name"
            );
        if (request.ClientId?.Trim() is not { Length: > 0 and <= LongestClientId } client)
            return new Refusal(
                "provider.client-missing",
                "The client id is missing or too long.",
                "Register this service with the provider; it gives one.",
                Field: "clientId"
            );
        if (request.ClientSecret?.Length > LongestSecret)
            return new Refusal(
                "provider.secret-long",
                $"A secret has at most {LongestSecret} characters.",
                "Check it.",
                Field: "clientSecret"
            );
        if (request.Domains is not { Count: > 0 })
            return new Refusal(
                "provider.no-domain",
                "A provider is for people at a domain.",
                "Name one the workspace has proved.",
                Field: "domains"
            );
        return new Wanted(name, name.ToLowerInvariant(), client);
    }

    private static async Task<ProviderRow?> FindAsync(ComeAboardContext rows, string provider)
    {
        var key = provider.Trim().ToLowerInvariant();
        return Guid.TryParse(provider, out var id)
            ? await rows.Providers.FirstOrDefaultAsync(p => p.Id == id)
            : await rows.Providers.FirstOrDefaultAsync(p => p.NameKey == key);
    }

    private async Task<ProviderView> ViewAsync(ComeAboardContext rows, ProviderRow row)
    {
        var domains = await rows
            .Domains.Where(d => d.ProviderId == row.Id)
            .OrderBy(d => d.Domain)
            .Select(d => d.Domain)
            .ToListAsync();
        var link = row.JoinLinkId is { } id
            ? await rows.JoinLinks.Where(l => l.Id == id).Select(l => l.Label).FirstOrDefaultAsync()
            : null;
        var own = OutsideProviders.MarkOf(row.WorkspaceId, row.Id);
        // Of accounts that are here: who else has one is nobody's business.
        var used = await rows
            .Members.Where(m => m.EndedAt == null)
            .CountAsync(m =>
                rows.Credentials.Any(c =>
                    c.AccountId == m.AccountId && c.Kind == CredentialKind.OutsideIdentity && c.Secret == own
                )
            );
        return new ProviderView(
            row.Id,
            row.Name,
            row.Issuer,
            row.ClientId,
            row.Secret.Length > 0,
            domains,
            settings.Link(OutsideOptions.PathBack(row.Id)),
            link ?? "",
            used,
            row.AddedAt,
            row.AddedByName,
            row.Version
        );
    }
}
