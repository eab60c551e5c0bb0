using System.Security.Cryptography;
using System.Text;
using ComeAboard.Core;
using ComeAboard.Core.Accounts;
using ComeAboard.Service.Workspaces;
using ComeAboard.Storage;
using ComeAboard.Storage.Accounts;
using Microsoft.AspNetCore.DataProtection;
using Microsoft.EntityFrameworkCore;

namespace ComeAboard.Service.SignIn;

/// <summary>The providers by which people sign in, as those who sign in find them.</summary>
public sealed class OutsideProviders(
    Database database,
    IDataProtectionProvider protection,
    TimeProvider clock
)
{
    private readonly IDataProtector _secrets = protection.CreateProtector(
        "ComeAboard.SignIn.ProviderSecret.v1"
    );

    /// <summary>For an address at whose domain nobody signs in by a provider.</summary>
    public static Refusal Unknown { get; } =
        new(
            "outside.no-provider",
            "No organisation's sign-in is known here for that address.",
            "Check the address, or sign in another way.",
            RefusalSort.Invalid,
            "address"
        );

    /// <summary>Whether there is any.</summary>
    public async Task<bool> AreAnyAsync()
    {
        await using var rows = database.Open();
        return await rows.Domains.IgnoreQueryFilters().AnyAsync(d => d.ProviderId != null && d.Holds != null);
    }

    /// <summary>The provider for an address: that of its domain, if the proof of that counts.</summary>
    public async Task<ProviderRow?> ForAsync(EmailAddress address)
    {
        await using var rows = database.Open();
        var domain = address.DomainKey;
        var found = await Living(rows).Where(l => l.Domain == domain).FirstOrDefaultAsync();
        return found is not null && found.At.Proof.Holds(clock.Now()) ? found.Provider : null;
    }

    /// <summary>A provider that counts: one of the domains it is for is still proved.</summary>
    public async Task<ProviderRow?> FindAsync(Guid id)
    {
        await using var rows = database.Open();
        var found = await Living(rows).Where(l => l.Provider.Id == id).ToListAsync();
        return found.FirstOrDefault(l => l.At.Proof.Holds(clock.Now()))?.Provider;
    }

    /// <summary>The providers whose word counts for an account's own proved addresses.</summary>
    public async Task<IReadOnlyList<ProviderRow>> OfAccountAsync(Guid account)
    {
        await using var rows = database.Open();
        var found = await (
            from living in Living(rows)
            join at in rows.AccountAddresses on living.Domain equals at.Domain
            where at.AccountId == account && at.ProvedAt != null
            select living
        ).ToListAsync();
        return
        [
            .. found
                .Where(l => l.At.Proof.Holds(clock.Now()))
                .Select(l => l.Provider)
                .DistinctBy(p => p.Id)
                .OrderBy(p => p.NameKey, StringComparer.Ordinal),
        ];
    }

    /// <summary>Under what an identity is kept: told by one workspace's provider, it counts by that alone.</summary>
    public static string HandleOf(ProviderRow provider, string subject) =>
        "outside:"
        + Convert.ToHexStringLower(
            SHA256.HashData(Encoding.UTF8.GetBytes($"{provider.WorkspaceId:N}\n{provider.Issuer}\n{subject}"))
        );

    /// <summary>What is kept with an identity: whose provider told it, and which.</summary>
    public static string MarkOf(Guid workspace, Guid? provider) => $"{workspace:N}.{provider:N}";

    /// <summary>The provider that such a mark names.</summary>
    public static Guid ProviderOf(string mark) => Guid.Parse(mark[(mark.IndexOf('.') + 1)..]);

    /// <summary>Seals the secret that a provider gave us.</summary>
    public string Seal(string? secret) => string.IsNullOrEmpty(secret) ? "" : _secrets.Protect(secret);

    /// <summary>That secret; null for none.</summary>
    public string? Open(ProviderRow provider) =>
        provider.Secret.Length == 0 ? null : _secrets.Unprotect(provider.Secret);

    private sealed class Found
    {
        public required ProviderRow Provider { get; init; }
        public required DomainRow At { get; init; }
        public required string? Domain { get; init; }
    }

    private static IQueryable<Found> Living(ComeAboardContext rows) =>
        from domain in rows.Domains.IgnoreQueryFilters().AsNoTracking()
        join provider in rows.Providers.IgnoreQueryFilters().AsNoTracking()
            on domain.ProviderId equals (Guid?)provider.Id
        where domain.Holds != null && domain.WorkspaceId == provider.WorkspaceId
        select new Found
        {
            Provider = provider,
            At = domain,
            Domain = domain.Holds,
        };
}
