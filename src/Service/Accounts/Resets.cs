using ComeAboard.Client.Accounts;
using ComeAboard.Core;
using ComeAboard.Core.Access;
using ComeAboard.Core.Accounts;
using ComeAboard.Service.SignIn;
using ComeAboard.Service.Workspaces;
using ComeAboard.Storage;
using ComeAboard.Storage.Accounts;
using ComeAboard.Storage.SignIn;
using Microsoft.EntityFrameworkCore;

namespace ComeAboard.Service.Accounts;

/// <summary>Resetting ways in of accounts that a workspace holds.</summary>
public sealed class Resets(Database database, AccountWriter accounts, HolderNews news)
{
    internal static Refusal NotHeld { get; } =
        new(
            "account.not-held",
            "The account of this person is not in the workspace's custody, or its domain is lost.",
            "You can close this workspace's door: aboard people pause ADDRESS. To hold the account, ask: aboard claims ask ADDRESS",
            RefusalSort.Conflict
        );

    /// <summary>Removes ways in of the account of somebody here, if the workspace holds it; all its sign-ins are closed.</summary>
    public async Task<Outcome<ResetAnswer>> ResetAsync(Visitor visitor, string person, ResetRequest request)
    {
        if (!Read(request.Ways).Try(out var kinds, out var unknown))
            return unknown;
        Guid account;
        await using (var rows = database.Open(visitor.WorkspaceId))
        {
            if (!(await People.HereAsync(rows, person)).Try(out var found, out var refusal))
                return refusal;
            account = found.AccountId;
        }
        return await accounts.WriteAsync<ResetAnswer>(
            [account],
            [visitor.WorkspaceId],
            visitor.Caller,
            async held =>
            {
                var row = held[account];
                if (await ForbidsAsync(held, visitor, row) is { } no)
                    return no;
                var removed = await RemoveAsync(held, account, kinds);
                if (removed.Values.Sum() == 0)
                    return new Refusal(
                        "reset.nothing",
                        "The account has no such way in.",
                        "Nothing needs doing.",
                        RefusalSort.Conflict
                    );
                if (
                    !await held.Rows.Credentials.AnyAsync(c =>
                        c.AccountId == account
                        && (c.Kind == CredentialKind.Password || c.Kind == CredentialKind.Passkey)
                    )
                )
                    return new Refusal(
                        "reset.last-way",
                        "That is the account's last way in.",
                        "Let the person add another first.",
                        RefusalSort.Conflict
                    );
                var closed = await held.Rows.Sessions.Where(s => s.AccountId == account).ExecuteDeleteAsync();
                held.Note(
                    account,
                    "account.reset",
                    ("workspace", visitor.Workspace.Name),
                    ("ways", string.Join(", ", removed.Keys))
                );
                return await held.InAsync<ResetAnswer>(
                    visitor.WorkspaceId,
                    async write =>
                    {
                        var member = await write.Rows.Members.FirstAsync(m =>
                            m.AccountId == account && m.EndedAt == null
                        );
                        var world = await write.WorldAsync();
                        if (
                            GivingRules.ForbidsActingOn(world, visitor.Member.Id, member.Id, write.Today) is
                            { } beyond
                        )
                            return beyond;
                        write.Record(
                            "account.reset",
                            member.Id,
                            ("name", member.Name),
                            ("ways", string.Join(", ", removed.Keys)),
                            ("sign-ins closed", closed)
                        );
                        news.Tell(
                            write,
                            row,
                            "account.reset",
                            ("by", visitor.Member.Name),
                            ("workspace", visitor.Workspace.Name),
                            ("ways", string.Join(", ", removed.Keys))
                        );
                        return new ResetAnswer(row.Address, removed, closed);
                    }
                );
            }
        );
    }

    private static Outcome<IReadOnlyDictionary<CredentialKind, string>> Read(IReadOnlyList<string>? ways)
    {
        var kinds = new Dictionary<CredentialKind, string>();
        foreach (var word in ways ?? [])
        {
            switch (word?.Trim().ToLowerInvariant())
            {
                case "second-step":
                    kinds[CredentialKind.TimeCode] = "second-step";
                    kinds[CredentialKind.RecoveryCode] = "recovery-codes";
                    break;
                case "passkeys":
                    kinds[CredentialKind.Passkey] = "passkeys";
                    break;
                case "outside":
                    kinds[CredentialKind.OutsideIdentity] = "outside";
                    break;
                default:
                    return new Refusal(
                        "reset.way-unknown",
                        $"\"{Words.Short(word ?? "")}\" is no way in that can be reset.",
                        "Say second-step, passkeys or outside.",
                        Field: "ways"
                    );
            }
        }
        return kinds;
    }

    /// <summary>Removes them; how many of each.</summary>
    private static async Task<IReadOnlyDictionary<string, int>> RemoveAsync(
        AccountWrite held,
        Guid account,
        IReadOnlyDictionary<CredentialKind, string> kinds
    )
    {
        var removed = new Dictionary<string, int>();
        foreach (var (kind, word) in kinds)
            removed[word] = await held
                .Rows.Credentials.Where(c => c.AccountId == account && c.Kind == kind)
                .ExecuteDeleteAsync();
        return removed;
    }

    /// <summary>Refuses, with <c>account.not-held</c>, what only the workspace may do that holds the account, by a domain that is not lost.</summary>
    internal static async Task<Refusal?> ForbidsAsync(AccountWrite held, Visitor visitor, AccountRow account)
    {
        var domain = EmailAddress.Read(account.Address).Value.DomainKey;
        var row = await held
            .Rows.Domains.IgnoreQueryFilters()
            .AsNoTracking()
            .FirstOrDefaultAsync(d => d.WorkspaceId == visitor.WorkspaceId && d.Domain == domain);
        return account.CustodyId == visitor.WorkspaceId && row is not null && row.Proof.Holds(held.Now)
            ? null
            : NotHeld;
    }
}
