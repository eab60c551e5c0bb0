using ComeAboard.Service.Workspaces;
using ComeAboard.Storage;
using ComeAboard.Storage.Accounts;
using Microsoft.AspNetCore.Identity;
using Microsoft.EntityFrameworkCore;

namespace ComeAboard.Service.SignIn;

/// <summary>Where ASP.NET Core Identity keeps our accounts. The "user name" is the key of any address of the account.</summary>
public sealed class AccountStore(Database database, WriteGate gate)
    : IUserPasswordStore<AccountRow>,
        IUserLockoutStore<AccountRow>,
        IUserSecurityStampStore<AccountRow>
{
    public async Task<AccountRow?> FindByNameAsync(
        string normalizedUserName,
        CancellationToken cancellationToken
    )
    {
        await using var rows = database.Open();
        // Of several who wrote the address down, the one who proved it counts.
        return await (
            from address in rows.AccountAddresses
            join account in rows.Accounts on address.AccountId equals account.Id
            where address.AddressKey == normalizedUserName
            orderby address.ProvedAt == null
            select account
        )
            .AsNoTracking()
            .FirstOrDefaultAsync(cancellationToken);
    }

    public async Task<AccountRow?> FindByIdAsync(string userId, CancellationToken cancellationToken)
    {
        await using var rows = database.Open();
        var id = Guid.Parse(userId);
        return await rows.Accounts.AsNoTracking().FirstOrDefaultAsync(a => a.Id == id, cancellationToken);
    }

    public Task<IdentityResult> CreateAsync(AccountRow user, CancellationToken cancellationToken) =>
        throw new NotSupportedException("Accounts are made by answering an invitation or a set-up link.");

    public Task<IdentityResult> DeleteAsync(AccountRow user, CancellationToken cancellationToken) =>
        throw new NotSupportedException("Accounts are not deleted through sign-in.");

    public async Task<IdentityResult> UpdateAsync(AccountRow user, CancellationToken cancellationToken)
    {
        using var pass = await gate.EnterAsync();
        await using var rows = database.Open();
        await rows
            .Accounts.Where(a => a.Id == user.Id)
            .ExecuteUpdateAsync(
                set =>
                    set.SetProperty(a => a.PasswordHash, user.PasswordHash)
                        .SetProperty(a => a.SecurityStamp, user.SecurityStamp)
                        .SetProperty(a => a.FailedTries, user.FailedTries)
                        .SetProperty(a => a.LockedUntil, user.LockedUntil),
                cancellationToken
            );
        return IdentityResult.Success;
    }

    public Task<string> GetUserIdAsync(AccountRow user, CancellationToken cancellationToken) =>
        Task.FromResult(user.Id.ToString());

    public Task<string?> GetUserNameAsync(AccountRow user, CancellationToken cancellationToken) =>
        Task.FromResult<string?>(user.Address);

    public Task SetUserNameAsync(AccountRow user, string? userName, CancellationToken cancellationToken) =>
        Task.CompletedTask;

    public Task<string?> GetNormalizedUserNameAsync(AccountRow user, CancellationToken cancellationToken) =>
        Task.FromResult<string?>(user.Address);

    public Task SetNormalizedUserNameAsync(
        AccountRow user,
        string? normalizedName,
        CancellationToken cancellationToken
    ) => Task.CompletedTask;

    public Task SetPasswordHashAsync(
        AccountRow user,
        string? passwordHash,
        CancellationToken cancellationToken
    )
    {
        user.PasswordHash = passwordHash;
        return Task.CompletedTask;
    }

    public Task<string?> GetPasswordHashAsync(AccountRow user, CancellationToken cancellationToken) =>
        Task.FromResult(user.PasswordHash);

    public Task<bool> HasPasswordAsync(AccountRow user, CancellationToken cancellationToken) =>
        Task.FromResult(user.PasswordHash is not null);

    public Task<DateTimeOffset?> GetLockoutEndDateAsync(
        AccountRow user,
        CancellationToken cancellationToken
    ) => Task.FromResult(user.LockedUntil);

    public Task SetLockoutEndDateAsync(
        AccountRow user,
        DateTimeOffset? lockoutEnd,
        CancellationToken cancellationToken
    )
    {
        user.LockedUntil = lockoutEnd;
        return Task.CompletedTask;
    }

    public Task<int> IncrementAccessFailedCountAsync(AccountRow user, CancellationToken cancellationToken) =>
        Task.FromResult(++user.FailedTries);

    public Task ResetAccessFailedCountAsync(AccountRow user, CancellationToken cancellationToken)
    {
        user.FailedTries = 0;
        return Task.CompletedTask;
    }

    public Task<int> GetAccessFailedCountAsync(AccountRow user, CancellationToken cancellationToken) =>
        Task.FromResult(user.FailedTries);

    public Task<bool> GetLockoutEnabledAsync(AccountRow user, CancellationToken cancellationToken) =>
        Task.FromResult(true);

    public Task SetLockoutEnabledAsync(AccountRow user, bool enabled, CancellationToken cancellationToken) =>
        Task.CompletedTask;

    public Task SetSecurityStampAsync(AccountRow user, string stamp, CancellationToken cancellationToken)
    {
        user.SecurityStamp = stamp;
        return Task.CompletedTask;
    }

    public Task<string?> GetSecurityStampAsync(AccountRow user, CancellationToken cancellationToken) =>
        Task.FromResult<string?>(user.SecurityStamp);

    public void Dispose() { }
}
