using ComeAboard.Core;
using ComeAboard.Core.Accounts;
using ComeAboard.Service.Mail;
using ComeAboard.Service.SignIn;
using ComeAboard.Service.Workspaces;
using ComeAboard.Storage;
using ComeAboard.Storage.Accounts;
using Microsoft.EntityFrameworkCore;

namespace ComeAboard.Service.Accounts;

/// <summary>What a step of a claim is about.</summary>
/// <param name="Workspace">The workspace that claims.</param>
/// <param name="One">The account and the claim, as they are under the locks.</param>
/// <param name="Step">What follows.</param>
/// <param name="Action">How record and history name it: <c>claim.asked</c>.</param>
public sealed record ClaimDeed(Guid Workspace, ClaimedAccount One, ClaimStep Step, string Action)
{
    /// <summary>The reason the holder is told; null leaves it as it is.</summary>
    public string? Reason { get; init; }

    /// <summary>Who asks; null leaves it as it is.</summary>
    public string? AskedBy { get; init; }

    /// <summary>The address of the account that keeps the other workspaces.</summary>
    public EmailAddress? Keep { get; init; }
}

/// <summary>Does what follows from a step of a claim: all of it in one change of the account and the workspaces it touches.</summary>
public sealed class ClaimDeeds(Outbox outbox, ServiceSettings settings)
{
    /// <summary>The end of the addresses under which accounts go on that lost theirs: nobody can have a mailbox there (RFC 2606).</summary>
    public const string StandInDomain = "released.invalid";

    /// <summary>Does it. The locks of the account and of every workspace it touches are held.</summary>
    public async Task<Outcome<bool>> DoAsync(AccountWrite held, ClaimDeed deed, IReadOnlyList<Guid> others)
    {
        var account = held[deed.One.Account.Id];
        var (step, id) = (deed.Step, account.Id);
        var before = account.Address;
        if (step.Splits)
        {
            var split = await SplitAsync(held, account, deed.Keep!, others);
            if (!split.Succeeded)
                return split;
        }
        if (step.Takes || step.GivesUp)
        {
            Guid? custody = step.Takes ? deed.Workspace : null;
            DateTimeOffset? since = step.Takes ? held.Now : null;
            await held
                .Rows.Accounts.Where(a => a.Id == id)
                .ExecuteUpdateAsync(set =>
                    set.SetProperty(a => a.CustodyId, custody).SetProperty(a => a.CustodySince, since)
                );
        }
        // Whom the workspace vouched for as their keeper, it does not open any more.
        if (step.GivesUp || step.FreesAddress)
            await ForgetOutsideAsync(held, id, deed.Workspace);
        if (step.FreesAddress)
        {
            var freed = await FreeAsync(held, account, deed, others);
            if (!freed.Succeeded)
                return freed;
        }
        var kept = await held.InAsync<string>(
            deed.Workspace,
            async write =>
            {
                if (step.GivesUp)
                    await HeldSeats.TakeBackAsync(write, id);
                if (step.Takes && await HeldSeats.GiveAsync(write, id) is { } full)
                    return full;
                var row = await KeepAsync(write, deed, account);
                var link = step.Asks ? NewLink(row) : null;
                write.Record(
                    deed.Action,
                    id,
                    ("name", account.Name),
                    ("address", deed.One.Address),
                    ("before", ClaimKnowledge.Word(deed.One.Claim(deed.Workspace).State)),
                    ("after", ClaimKnowledge.Word(step.Next.State)),
                    ("notice", step.Asks ? step.Next.NoticeDays : null),
                    ("reason", row.Reason.Length > 0 ? row.Reason : null)
                );
                Mail(write, deed, account, row, before, link);
                await TellAskerAsync(write, deed, account, row);
                return write.Workspace.Name;
            }
        );
        if (!kept.Try(out var name, out var refusal))
            return refusal;
        held.Note(id, "account." + deed.Action, ("workspace", name), ("address", deed.One.Address));
        return true;
    }

    /// <summary>Asks again by itself: the same question, a new link.</summary>
    public async Task<Outcome<bool>> RemindAsync(AccountWrite held, Guid workspace, ClaimRow found)
    {
        var account = held[found.AccountId];
        return await held.InAsync<bool>(
            workspace,
            async write =>
            {
                var row = await write.Rows.Claims.FirstAsync(c => c.Id == found.Id);
                row.Mails++;
                row.NextAt = row.Claim.NextAt(write.Now);
                row.Version++;
                outbox.Queue(
                    write,
                    Purposes.Notice,
                    account.Address,
                    Letters.ClaimAsked(account, write.Workspace, row, NewLink(row), isAgain: true)
                );
                write.Record("claim.reminded", account.Id, ("name", account.Name), ("address", row.Address));
                return true;
            }
        );
    }

    private static async Task ForgetOutsideAsync(AccountWrite held, Guid account, Guid workspace)
    {
        var whose = OutsideProviders.MarkOf(workspace, null);
        var ways = held.Rows.Credentials.Where(c =>
            c.AccountId == account && c.Kind == CredentialKind.OutsideIdentity && c.Secret.StartsWith(whose)
        );
        foreach (var label in await ways.Select(c => c.Label).ToListAsync())
            held.Note(account, "account.outside-removed", ("provider", label));
        await ways.ExecuteDeleteAsync();
    }

    private static async Task<ClaimRow> KeepAsync(WorkspaceWrite write, ClaimDeed deed, AccountRow account)
    {
        var row = await write.Rows.Claims.FirstOrDefaultAsync(c => c.AccountId == account.Id);
        if (row is null)
        {
            row = new ClaimRow
            {
                WorkspaceId = deed.Workspace,
                Id = Guid.CreateVersion7(write.Now),
                AccountId = account.Id,
                Address = deed.One.Address,
                AddressKey = EmailAddress.Read(deed.One.Address).Value.Key,
                Version = 0,
            };
            write.Rows.Claims.Add(row);
        }
        row.Claim = deed.Step.Next;
        row.NextAt = row.Claim.NextAt(write.Now);
        row.Version++;
        row.OtherWorkspaces = deed.One.Facts.OtherWorkspaces;
        row.Reason = deed.Reason ?? row.Reason;
        row.AskedByName = deed.AskedBy ?? row.AskedByName;
        if (deed.Step.Asks)
            row.AskedById = write.Caller.MemberId ?? row.AskedById;
        if (deed.Step.Next.State != ClaimState.Asked)
            row.SecretHash = null;
        return row;
    }

    private string NewLink(ClaimRow row)
    {
        var secret = ApiTokens.NewSecret();
        row.SecretHash = secret.Hash().Value;
        return settings.Link("/claim/" + secret.Reveal());
    }

    private void Mail(
        WorkspaceWrite write,
        ClaimDeed deed,
        AccountRow account,
        ClaimRow row,
        string to,
        string? link
    )
    {
        var step = deed.Step;
        if (link is not null)
            outbox.Queue(
                write,
                Purposes.Notice,
                to,
                Letters.ClaimAsked(account, write.Workspace, row, link, step.Next.Mails > 1)
            );
        else if (
            step.Next.State is not (ClaimState.Declined or ClaimState.Found)
            && (deed.One.Row?.State == ClaimState.Asked || step.Takes || step.FreesAddress || step.GivesUp)
        )
            outbox.Queue(
                write,
                Purposes.Notice,
                to,
                Letters.ClaimTurned(account, write.Workspace, row, settings.Link("/account"))
            );
    }

    /// <summary>Whoever asked is told what the holder said, or that they said nothing; not what colleagues do about it.</summary>
    private Task TellAskerAsync(WorkspaceWrite write, ClaimDeed deed, AccountRow account, ClaimRow row) =>
        write.Caller.MemberId is null
        && deed.One.Row?.State is ClaimState.Asked or ClaimState.Agreed
        && deed.Step.Next.State != ClaimState.Asked
            ? outbox.TellAsync(
                write,
                row.AskedById,
                asker =>
                    Letters.ClaimAnswered(
                        asker,
                        write.Workspace,
                        account.Name,
                        row,
                        isSilence: write.Caller == Caller.Clock,
                        settings.Link($"/w/{write.Workspace.ShortName}/accounts")
                    )
            )
            : Task.CompletedTask;

    /// <summary>
    /// Makes a second, personal account at another proved address, and lets it take the memberships of all other workspaces.
    /// It has the same password; passkeys and a second step stay with the first.
    /// </summary>
    private async Task<Outcome<bool>> SplitAsync(
        AccountWrite held,
        AccountRow account,
        EmailAddress keep,
        IReadOnlyList<Guid> others
    )
    {
        var rows = held.Rows;
        var hash = await rows
            .Credentials.Where(c => c.AccountId == account.Id && c.Kind == CredentialKind.Password)
            .Select(c => c.Secret)
            .FirstOrDefaultAsync();
        if (
            await rows.AccountAddresses.AnyAsync(a =>
                a.AddressKey == keep.Key && a.ProvedAt != null && a.AccountId != account.Id
            )
        )
            return new Refusal(
                "claim.keep-taken",
                $"{keep} is the address of another account already.",
                "Give an address that has no account yet.",
                RefusalSort.Conflict,
                "keep"
            );
        var own = new AccountRow
        {
            Id = Guid.CreateVersion7(held.Now),
            Name = account.Name,
            Address = keep.ToString(),
            Language = account.Language,
            CreatedAt = held.Now,
        };
        await rows
            .AccountAddresses.Where(a => a.AddressKey == keep.Key && a.AccountId == account.Id)
            .ExecuteDeleteAsync();
        held.Begin(own, hash);
        rows.AccountAddresses.Add(
            new AccountAddressRow
            {
                AccountId = own.Id,
                AddressKey = keep.Key,
                Address = keep.ToString(),
                ProvedAt = held.Now,
            }
        );
        foreach (var other in others.Order())
        {
            var moved = await held.InAsync<bool>(
                other,
                async write =>
                {
                    foreach (
                        var member in await write
                            .Rows.Members.Where(m => m.AccountId == account.Id)
                            .ToListAsync()
                    )
                    {
                        Readdress(write, member, account.Address, keep);
                        member.AccountId = own.Id;
                    }
                    foreach (
                        var token in await write
                            .Rows.ApiTokens.Where(t => t.AccountId == account.Id)
                            .ToListAsync()
                    )
                        token.AccountId = own.Id;
                    return true;
                }
            );
            if (!moved.Succeeded)
                return moved;
        }
        rows.AccountSplits.Add(
            new AccountSplitRow
            {
                FromId = account.Id,
                ToId = own.Id,
                At = held.Now,
            }
        );
        held.Note(account.Id, "account.split", ("address", keep.ToString()));
        held.Note(own.Id, "account.split-from", ("address", account.Address));
        return true;
    }

    /// <summary>Takes the address from the account, which goes on under another proved one of its own, or under a stand-in.</summary>
    private async Task<Outcome<bool>> FreeAsync(
        AccountWrite held,
        AccountRow account,
        ClaimDeed deed,
        IReadOnlyList<Guid> others
    )
    {
        var (rows, id) = (held.Rows, account.Id);
        var key = EmailAddress.Read(deed.One.Address).Value.Key;
        var next =
            await rows
                .AccountAddresses.Where(a => a.AccountId == id && a.AddressKey != key && a.ProvedAt != null)
                .OrderBy(a => a.AddressKey)
                .Select(a => a.Address)
                .FirstOrDefaultAsync()
            ?? $"account-{id.ToString("N")[^12..]}@{StandInDomain}";
        var to = EmailAddress.Read(next).Value;
        await rows.AccountAddresses.Where(a => a.AccountId == id && a.AddressKey == key).ExecuteDeleteAsync();
        await rows
            .Accounts.Where(a => a.Id == id)
            .ExecuteUpdateAsync(set =>
                set.SetProperty(a => a.Address, next).SetProperty(a => a.Version, a => a.Version + 1)
            );
        if (!await rows.AccountAddresses.AnyAsync(a => a.AccountId == id && a.AddressKey == to.Key))
            rows.AccountAddresses.Add(
                new AccountAddressRow
                {
                    AccountId = id,
                    AddressKey = to.Key,
                    Address = next,
                }
            );
        // Mail of other workspaces must not go to a mailbox that is somebody else's from now on.
        foreach (var other in others.Order())
        {
            var told = await held.InAsync<bool>(
                other,
                async write =>
                {
                    foreach (
                        var member in await write.Rows.Members.Where(m => m.AccountId == id).ToListAsync()
                    )
                        Readdress(write, member, account.Address, to);
                    return true;
                }
            );
            if (!told.Succeeded)
                return told;
        }
        account.Address = next;
        return true;
    }

    /// <summary>Lets mail to a member go to another address, where it went to the one that changes.</summary>
    internal static void Readdress(WorkspaceWrite write, MemberRow member, string from, EmailAddress to)
    {
        if (member.AddressKey != EmailAddress.Read(from).Value.Key)
            return;
        write.Record(
            "member.address-changed",
            member.Id,
            ("name", member.Name),
            ("before", member.Address),
            ("after", to.ToString())
        );
        (member.Address, member.AddressKey) = (to.ToString(), to.Key);
        member.Version++;
        member.WithSearchText();
    }
}
