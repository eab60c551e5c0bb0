using System.Security.Cryptography;
using ComeAboard.Core;
using ComeAboard.Service.Workspaces;
using ComeAboard.Storage;
using ComeAboard.Storage.Applications;
using Microsoft.AspNetCore.DataProtection;
using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.Options;
using Microsoft.Extensions.Primitives;
using Microsoft.IdentityModel.Tokens;
using OpenIddict.Server;
using OpenIddict.Validation;

namespace ComeAboard.Service.Applications;

/// <summary>
/// The keys by which tokens are signed and sealed: rows that every process reads, sealed by the protection keys. A new one
/// is shown a day before it is used, so that every process and every application knows it by then; an old one stays for
/// as long as anything lives that was made with it.
/// </summary>
public sealed class OAuthKeys(
    Database database,
    WriteGate gate,
    IDataProtectionProvider protection,
    TimeProvider clock
) : IConfigureOptions<OpenIddictServerOptions>
{
    private const int RsaBits = 2048;
    private const int SealBytes = 32;

    private static readonly TimeSpan Lifetime = TimeSpan.FromDays(90);
    private static readonly TimeSpan ShownAhead = TimeSpan.FromDays(1);
    private static readonly TimeSpan KeptOn = TimeSpan.FromDays(60);

    private readonly IDataProtector _seal = protection.CreateProtector("keys of tokens");
    private readonly Lock _turn = new();
    private string? _known;

    /// <summary>Told when whoever gives out tokens is to take other keys.</summary>
    public Change<OpenIddictServerOptions> ForServer { get; } = new();

    /// <summary>Told when whoever looks at tokens is to take other keys.</summary>
    public Change<OpenIddictValidationOptions> ForValidation { get; } = new();

    /// <summary>Sees to it that there are keys, and that newer ones take their turn; rereads what other processes have made.</summary>
    public async Task EnsureAsync()
    {
        var now = clock.Now();
        await using (var rows = database.Open())
        {
            var kept = await rows.OAuthKeys.AsNoTracking().ToListAsync();
            foreach (var signs in (bool[])[true, false])
            {
                var newest = kept.Where(k => k.Signs == signs).MaxBy(k => k.UsedFrom);
                if (newest is null || newest.UsedFrom + Lifetime - ShownAhead <= now)
                    await MakeAsync(signs, newest is null ? now : now + ShownAhead, now);
            }
            if (kept.Any(k => IsOver(k, kept, now)))
                await ForgetAsync([.. kept.Where(k => IsOver(k, kept, now)).Select(k => k.Id)]);
        }
        Reread();
    }

    /// <summary>Makes new keys that are used from now on.</summary>
    /// <param name="forgets">
    /// Whether the old ones are forgotten at once, as when somebody may know one: nothing that they signed or sealed counts
    /// any more.
    /// </param>
    public async Task RenewAsync(bool forgets = false)
    {
        var now = clock.Now();
        List<Guid> old;
        await using (var rows = database.Open())
            old = await rows.OAuthKeys.Select(k => k.Id).ToListAsync();
        await MakeAsync(true, now, now);
        await MakeAsync(false, now, now);
        if (forgets)
            await ForgetAsync(old);
        Reread();
    }

    /// <inheritdoc/>
    public void Configure(OpenIddictServerOptions options)
    {
        var now = clock.Now();
        var kept = Read();
        // The library uses the first that fits: that is the newest in use; what comes after it is only shown.
        foreach (var key in kept.OrderBy(k => k.UsedFrom > now).ThenByDescending(k => k.UsedFrom))
        {
            var secret = _seal.Unprotect(Convert.FromBase64String(key.Secret));
            if (key.Signs)
            {
                var rsa = RSA.Create();
                rsa.ImportPkcs8PrivateKey(secret, out _);
                options.SigningCredentials.Add(
                    new SigningCredentials(
                        new RsaSecurityKey(rsa) { KeyId = key.Id.ToString("N") },
                        SecurityAlgorithms.RsaSha256
                    )
                );
            }
            else
                options.EncryptionCredentials.Add(
                    new EncryptingCredentials(
                        new SymmetricSecurityKey(secret) { KeyId = key.Id.ToString("N") },
                        SecurityAlgorithms.Aes256KW,
                        SecurityAlgorithms.Aes256CbcHmacSha512
                    )
                );
        }
    }

    private List<OAuthKeyRow> Read()
    {
        using var rows = database.Open();
        return rows.OAuthKeys.AsNoTracking().ToList();
    }

    /// <summary>Has the options made anew when there is something new in them.</summary>
    private void Reread()
    {
        var now = clock.Now();
        var read = string.Join(
            ' ',
            Read().OrderBy(k => k.Id).Select(k => $"{k.Id}{(k.UsedFrom <= now ? "" : "?")}")
        );
        lock (_turn)
        {
            if (_known == read)
                return;
            _known = read;
        }
        // Whoever looks at tokens takes the keys over from whoever gives them out.
        ForServer.Tell();
        ForValidation.Tell();
    }

    private static bool IsOver(OAuthKeyRow key, List<OAuthKeyRow> kept, DateTimeOffset now) =>
        kept.Any(k => k.Signs == key.Signs && k.UsedFrom > key.UsedFrom && k.UsedFrom + KeptOn <= now);

    private async Task MakeAsync(bool signs, DateTimeOffset from, DateTimeOffset now)
    {
        byte[] secret;
        if (signs)
        {
            using var rsa = RSA.Create(RsaBits);
            secret = rsa.ExportPkcs8PrivateKey();
        }
        else
            secret = RandomNumberGenerator.GetBytes(SealBytes);
        var row = new OAuthKeyRow
        {
            Id = Guid.CreateVersion7(now),
            Signs = signs,
            Secret = Convert.ToBase64String(_seal.Protect(secret)),
            MadeAt = now,
            UsedFrom = from,
        };
        using var pass = await gate.EnterAsync();
        await using var rows = database.Open();
        rows.OAuthKeys.Add(row);
        await rows.SaveChangesAsync();
    }

    private async Task ForgetAsync(List<Guid> ids)
    {
        using var pass = await gate.EnterAsync();
        await using var rows = database.Open();
        await rows.OAuthKeys.Where(k => ids.Contains(k.Id)).ExecuteDeleteAsync();
    }

    /// <summary>Says that options are to be made anew.</summary>
    public sealed class Change<T> : IOptionsChangeTokenSource<T>
    {
        private volatile ConfigurationReloadToken _changed = new();

        /// <inheritdoc/>
        public string? Name => Options.DefaultName;

        /// <inheritdoc/>
        public IChangeToken GetChangeToken() => _changed;

        internal void Tell()
        {
            var before = _changed;
            _changed = new ConfigurationReloadToken();
            before.OnReload();
        }
    }
}
