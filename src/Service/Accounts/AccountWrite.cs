using System.Security.Cryptography;
using ComeAboard.Core;
using ComeAboard.Core.Accounts;
using ComeAboard.Core.Record;
using ComeAboard.Service.Workspaces;
using ComeAboard.Storage;
using ComeAboard.Storage.Accounts;
using Microsoft.EntityFrameworkCore;

namespace ComeAboard.Service.Accounts;

/// <summary>
/// One change of accounts while it is being made: nobody else changes them, or the workspaces it touches, meanwhile. What
/// is added here is kept only together.
/// </summary>
public sealed class AccountWrite(
    ComeAboardContext rows,
    IReadOnlyDictionary<Guid, AccountRow> locked,
    IReadOnlyDictionary<Guid, WorkspaceTurn> turns,
    Caller caller,
    DateTimeOffset now
)
{
    private readonly Dictionary<Guid, RecordHead> _heads = [];
    private readonly List<object> _entries = [];

    public ComeAboardContext Rows => rows;
    public Caller Caller => caller;
    public DateTimeOffset Now => now;

    /// <summary>An account as it is at this very moment.</summary>
    public AccountRow this[Guid account] => locked[account];

    /// <summary>A password as it is kept.</summary>
    public static CredentialRow PasswordOf(Guid account, string hash, DateTimeOffset now) =>
        new()
        {
            AccountId = account,
            Id = Guid.CreateVersion7(now),
            Kind = CredentialKind.Password,
            Label = "",
            Secret = hash,
            MadeAt = now,
        };

    /// <summary>Begins a new account, and its history.</summary>
    /// <param name="account">The account.</param>
    /// <param name="passwordHash">Its password as it is kept; null for none.</param>
    public void Begin(AccountRow account, string? passwordHash)
    {
        rows.Accounts.Add(account);
        if (passwordHash is not null)
            rows.Credentials.Add(PasswordOf(account.Id, passwordHash, now));
        _heads[account.Id] = RecordHead.Empty;
        Note(account.Id, "account.made", ("name", account.Name), ("address", account.Address));
    }

    /// <summary>Writes into an account's own history what is being done with it.</summary>
    /// <param name="account">One that was locked or begun here.</param>
    /// <param name="action">What: <c>account.password-changed</c>.</param>
    /// <param name="details">Names, before and after; nothing that is another's.</param>
    public void Note(Guid account, string action, params ReadOnlySpan<(string Name, object? Value)> details)
    {
        var head = _heads.TryGetValue(account, out var later) ? later : locked[account].HistoryHead;
        var happening = new Happening(
            now,
            caller.Actor,
            caller.Via,
            action,
            account.ToString(),
            WorkspaceWrite.DetailsOf(caller, details)
        );
        var entry = RecordChain.Append(head, happening, RandomNumberGenerator.GetBytes(16));
        _heads[account] = RecordChain.After(entry);
        _entries.Add(HistoryRow.Of(account, entry));
    }

    /// <summary>Changes a workspace along with the accounts. What was loaded before is to be loaded again.</summary>
    /// <param name="workspace">One of those that were locked for this change.</param>
    /// <param name="change">Reads, decides and adds rows.</param>
    public async Task<Outcome<T>> InAsync<T>(Guid workspace, Func<WorkspaceWrite, Task<Outcome<T>>> change)
        where T : notnull
    {
        var turn = turns[workspace];
        await SaveAsync();
        rows.Turn(workspace);
        var write = turn.Begin(caller, now);
        var outcome = await change(write);
        if (!outcome.Succeeded)
            return outcome;
        if (await turn.SaveAsync(write) is { } forbidden)
            return forbidden;
        turn.Keep(write);
        rows.Turn();
        return outcome;
    }

    /// <summary>Writes what was changed, and the ends of the histories.</summary>
    internal async Task FinishAsync()
    {
        await SaveAsync();
        if (_entries.Count == 0)
            return;
        await RowLoader.LoadAsync(rows, typeof(HistoryRow), _entries);
        foreach (var (account, head) in _heads)
            await rows
                .Accounts.Where(a => a.Id == account)
                .ExecuteUpdateAsync(set =>
                    set.SetProperty(a => a.HistorySequence, head.Sequence)
                        .SetProperty(a => a.HistoryHash, head.Hash)
                );
    }

    private async Task SaveAsync()
    {
        if (rows.ChangeTracker.HasChanges())
            await rows.SaveChangesAsync();
    }
}
