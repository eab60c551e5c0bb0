using System.Buffers.Text;
using System.Text.Json;
using ComeAboard.Core.Accounts;
using ComeAboard.Storage;
using ComeAboard.Storage.Accounts;
using Microsoft.AspNetCore.Identity;
using Microsoft.EntityFrameworkCore;

namespace ComeAboard.Service.SignIn;

/// <summary>
/// Where the library that checks passkeys reads accounts and passkeys. It writes nothing here: what it has checked is
/// kept through the door of accounts.
/// </summary>
public sealed class PasskeyStore(Database database) : IUserPasskeyStore<AccountRow>
{
    /// <summary>The name under which a passkey is found: its id in base64url.</summary>
    public static string HandleOf(byte[] credentialId) => Base64Url.EncodeToString(credentialId);

    /// <summary>A passkey as it is kept.</summary>
    public static string Write(UserPasskeyInfo passkey) => JsonSerializer.Serialize(Kept.Of(passkey));

    private static UserPasskeyInfo Read(CredentialRow row) =>
        JsonSerializer.Deserialize<Kept>(row.Secret)!.ToPasskey(row);

    public async Task<IList<UserPasskeyInfo>> GetPasskeysAsync(
        AccountRow user,
        CancellationToken cancellationToken
    )
    {
        await using var rows = database.Open();
        return
        [
            .. (
                await rows
                    .Credentials.AsNoTracking()
                    .Where(c => c.AccountId == user.Id && c.Kind == CredentialKind.Passkey)
                    .ToListAsync(cancellationToken)
            ).Select(Read),
        ];
    }

    public async Task<AccountRow?> FindByPasskeyIdAsync(
        byte[] credentialId,
        CancellationToken cancellationToken
    )
    {
        var handle = HandleOf(credentialId);
        await using var rows = database.Open();
        return await (
            from credential in rows.Credentials
            join account in rows.Accounts on credential.AccountId equals account.Id
            where credential.Handle == handle
            select account
        )
            .AsNoTracking()
            .FirstOrDefaultAsync(cancellationToken);
    }

    public async Task<UserPasskeyInfo?> FindPasskeyAsync(
        AccountRow user,
        byte[] credentialId,
        CancellationToken cancellationToken
    )
    {
        var handle = HandleOf(credentialId);
        await using var rows = database.Open();
        return
            await rows
                .Credentials.AsNoTracking()
                .FirstOrDefaultAsync(c => c.AccountId == user.Id && c.Handle == handle, cancellationToken)
                is { } row
            ? Read(row)
            : null;
    }

    public async Task<AccountRow?> FindByIdAsync(string userId, CancellationToken cancellationToken)
    {
        // What a browser sends as the holder's id is anybody's guess.
        if (!Guid.TryParse(userId, out var id))
            return null;
        await using var rows = database.Open();
        return await rows.Accounts.AsNoTracking().FirstOrDefaultAsync(a => a.Id == id, cancellationToken);
    }

    public Task<string> GetUserIdAsync(AccountRow user, CancellationToken cancellationToken) =>
        Task.FromResult(user.Id.ToString());

    public Task<string?> GetUserNameAsync(AccountRow user, CancellationToken cancellationToken) =>
        Task.FromResult<string?>(user.Address);

    public Task<string?> GetNormalizedUserNameAsync(AccountRow user, CancellationToken cancellationToken) =>
        Task.FromResult<string?>(user.Address);

    public Task<AccountRow?> FindByNameAsync(
        string normalizedUserName,
        CancellationToken cancellationToken
    ) => throw Unused();

    public Task AddOrUpdatePasskeyAsync(
        AccountRow user,
        UserPasskeyInfo passkey,
        CancellationToken cancellationToken
    ) => throw Unused();

    public Task RemovePasskeyAsync(
        AccountRow user,
        byte[] credentialId,
        CancellationToken cancellationToken
    ) => throw Unused();

    public Task SetUserNameAsync(AccountRow user, string? userName, CancellationToken cancellationToken) =>
        throw Unused();

    public Task SetNormalizedUserNameAsync(
        AccountRow user,
        string? normalizedName,
        CancellationToken cancellationToken
    ) => throw Unused();

    public Task<IdentityResult> CreateAsync(AccountRow user, CancellationToken cancellationToken) =>
        throw Unused();

    public Task<IdentityResult> UpdateAsync(AccountRow user, CancellationToken cancellationToken) =>
        throw Unused();

    public Task<IdentityResult> DeleteAsync(AccountRow user, CancellationToken cancellationToken) =>
        throw Unused();

    public void Dispose() { }

    private static NotSupportedException Unused() =>
        new("Accounts are changed through their own door, and found by what was shown.");

    private sealed record Kept(
        byte[] PublicKey,
        uint SignCount,
        string[]? Transports,
        bool IsUserVerified,
        bool IsBackupEligible,
        bool IsBackedUp,
        byte[] AttestationObject,
        byte[] ClientDataJson
    )
    {
        public static Kept Of(UserPasskeyInfo passkey) =>
            new(
                passkey.PublicKey,
                passkey.SignCount,
                passkey.Transports,
                passkey.IsUserVerified,
                passkey.IsBackupEligible,
                passkey.IsBackedUp,
                passkey.AttestationObject,
                passkey.ClientDataJson
            );

        public UserPasskeyInfo ToPasskey(CredentialRow row) =>
            new(
                Base64Url.DecodeFromChars(row.Handle),
                PublicKey,
                row.MadeAt,
                SignCount,
                Transports,
                IsUserVerified,
                IsBackupEligible,
                IsBackedUp,
                AttestationObject,
                ClientDataJson
            )
            {
                Name = row.Label,
            };
    }
}
