using ComeAboard.Core;
using ComeAboard.Core.Accounts;
using ComeAboard.Core.Invitations;
using ComeAboard.Service.Invitations;
using ComeAboard.Service.Workspaces;
using ComeAboard.Storage;
using ComeAboard.Storage.Accounts;
using ComeAboard.Storage.Invitations;
using Microsoft.EntityFrameworkCore;

namespace ComeAboard.Service.SignIn;

/// <summary>What a provider said of somebody; its signature, issuer and time are checked.</summary>
/// <param name="Subject">Who they are to it.</param>
/// <param name="Address">The address it says is verified; null for none.</param>
/// <param name="Name">What it calls them; null for nothing.</param>
/// <param name="ShownAt">When they last showed it who they are; null where it does not say.</param>
public sealed record OutsideWord(
    string Subject,
    EmailAddress? Address,
    string? Name,
    DateTimeOffset? ShownAt
);

/// <summary>Signing in by the word of another organisation's provider (OpenID Connect), and tying an account to it.</summary>
public sealed class OutsideSignIn(
    Database database,
    WriteGate gate,
    OutsideProviders providers,
    ToldChanges told,
    Answering answering,
    HeldLinks links,
    TimeProvider clock
)
{
    private static readonly TimeSpan Skew = TimeSpan.FromMinutes(1);

    private static Refusal Over { get; } =
        new(
            "outside.over",
            "This organisation's sign-in does not count here any more.",
            "Sign in another way.",
            RefusalSort.NotSignedIn
        );

    /// <summary>Signs somebody in, or lets them in anew; refuses with <c>outside.*</c>.</summary>
    /// <param name="provider">Whose word it is.</param>
    /// <param name="word">What it said.</param>
    /// <param name="via">Through what.</param>
    public async Task<Outcome<Shown>> ComeAsync(ProviderRow provider, OutsideWord word, string via)
    {
        if (await providers.FindAsync(provider.Id) is null)
            return Over;
        var handle = OutsideProviders.HandleOf(provider, word.Subject);
        var (facts, invitation) = await ReadAsync(provider, word, handle);
        if (!OutsideRules.Decide(facts).Try(out var course, out var refusal))
            return refusal;
        return course switch
        {
            OutsideCourse.SignIn => await UseAsync(facts.Known!.Value, handle, word),
            OutsideCourse.Tie => await TieHeldAsync(facts.Holder!.Value, provider, word, via),
            OutsideCourse.Accept => await AcceptAsync(provider, word, via, invitation, null),
            _ => await AcceptAsync(provider, word, via, null, provider.JoinLinkId),
        };
    }

    /// <summary>
    /// Ties an account to who its holder is to a provider. The provider has to vouch for an address the account has proved,
    /// so that nobody ties another's account to themselves. Refuses with <c>outside.not-yours</c> or <c>outside.tied</c>.
    /// </summary>
    /// <param name="account">Whose holder is signed in, and has shown that lately.</param>
    /// <param name="provider">Whose word it is.</param>
    /// <param name="word">What it said.</param>
    /// <param name="via">Through what.</param>
    public async Task<Outcome<bool>> TieAsync(
        AccountRow account,
        ProviderRow provider,
        OutsideWord word,
        string via
    )
    {
        if (await providers.FindAsync(provider.Id) is null)
            return Over;
        var key = word.Address?.Key ?? "";
        var row = RowOf(account.Id, provider, word);
        return await told.TellAsync<bool>(
            account,
            "account.outside-added",
            via,
            async write =>
            {
                if (
                    !await write.Rows.AccountAddresses.AnyAsync(a =>
                        a.AccountId == account.Id && a.AddressKey == key && a.ProvedAt != null
                    )
                )
                    return new Refusal(
                        "outside.not-yours",
                        "The organisation does not vouch for an address of this account.",
                        "Sign in there as yourself, or add that address to your account first.",
                        RefusalSort.Conflict
                    );
                return await AddAsync(write, row) ? true : Tied;
            },
            ("provider", provider.Name)
        );
    }

    /// <summary>Whether a provider's word shows anew that somebody is the holder of an account; refuses with <c>outside.not-fresh</c> or <c>outside.not-yours</c>.</summary>
    /// <param name="account">The account.</param>
    /// <param name="provider">Whose word it is.</param>
    /// <param name="word">What it said.</param>
    public async Task<Outcome<Shown>> ConfirmAsync(AccountRow account, ProviderRow provider, OutsideWord word)
    {
        // Being signed in there since yesterday shows nothing.
        if (word.ShownAt is not { } at || at < clock.Now() - Proof.FreshFor - Skew)
            return new Refusal(
                "outside.not-fresh",
                "The organisation did not ask you anew who you are.",
                "Show it here in another way.",
                RefusalSort.Invalid
            );
        if (await providers.FindAsync(provider.Id) is null)
            return Over;
        var used = await UseAsync(account.Id, OutsideProviders.HandleOf(provider, word.Subject), word);
        return used.Succeeded
            ? used
            : new Refusal(
                "outside.not-yours",
                "That is nobody who can sign in to this account.",
                "Sign in there as yourself.",
                RefusalSort.Invalid
            );
    }

    /// <summary>The providers that an account has among its ways in.</summary>
    public async Task<IReadOnlySet<Guid>> TiedToAsync(Guid account)
    {
        await using var rows = database.Open();
        var kept = await rows
            .Credentials.Where(c => c.AccountId == account && c.Kind == CredentialKind.OutsideIdentity)
            .Select(c => c.Secret)
            .ToListAsync();
        return kept.Select(OutsideProviders.ProviderOf).ToHashSet();
    }

    /// <summary>Removes such a way in of an account.</summary>
    /// <param name="account">Whose holder is signed in.</param>
    /// <param name="id">Which.</param>
    /// <param name="via">Through what.</param>
    public async Task<Outcome<bool>> RemoveAsync(AccountRow account, Guid id, string via)
    {
        string? label;
        await using (var rows = database.Open())
            label = await rows
                .Credentials.Where(c =>
                    c.AccountId == account.Id && c.Id == id && c.Kind == CredentialKind.OutsideIdentity
                )
                .Select(c => c.Label)
                .FirstOrDefaultAsync();
        if (label is null)
            return CommonRefusals.NotFound;
        return await told.TellAsync<bool>(
            account,
            "account.outside-removed",
            via,
            async write =>
                await write
                    .Rows.Credentials.Where(c => c.AccountId == account.Id && c.Id == id)
                    .ExecuteDeleteAsync() == 1
                    ? true
                    : CommonRefusals.NotFound,
            ("provider", label)
        );
    }

    private static Refusal Tied { get; } =
        new(
            "outside.tied",
            "An account is tied to that already.",
            "Sign in with it to see which.",
            RefusalSort.Conflict
        );

    private async Task<(OutsideFacts Facts, FoundInvitation? Invitation)> ReadAsync(
        ProviderRow provider,
        OutsideWord word,
        string handle
    )
    {
        var now = clock.Now();
        var (key, domain) = (word.Address?.Key ?? "", word.Address?.DomainKey ?? "");
        await using var rows = database.Open(provider.WorkspaceId);
        var known = await rows
            .Credentials.Where(c => c.Handle == handle)
            .Select(c => (Guid?)c.AccountId)
            .FirstOrDefaultAsync();
        var at = await rows
            .Domains.AsNoTracking()
            .FirstOrDefaultAsync(d => d.Holds == domain && d.ProviderId == provider.Id);
        var holder = await (
            from bears in rows.AccountAddresses
            join account in rows.Accounts on bears.AccountId equals account.Id
            where bears.AddressKey == key && bears.ProvedAt != null
            select new
            {
                account.Id,
                account.CustodyId,
                IsMain = account.Address == bears.Address,
            }
        ).FirstOrDefaultAsync();
        var invitation = await rows
            .Invitations.AsNoTracking()
            .FirstOrDefaultAsync(i => i.AddressKey == key && i.IsPending && i.SecretHash != null);
        var facts = new OutsideFacts(
            known,
            word.Address,
            at is not null && at.Proof.Gains(now),
            holder?.Id,
            holder is { IsMain: true } && holder.CustodyId == provider.WorkspaceId,
            invitation is not null,
            provider.JoinLinkId is not null
        );
        if (invitation is null)
            return (facts, null);
        var workspace = await rows.Workspaces.AsNoTracking().FirstAsync(w => w.Id == provider.WorkspaceId);
        return (
            facts,
            new FoundInvitation(invitation, workspace) { Hash = new SecretHash(invitation.SecretHash!) }
        );
    }

    private async Task<Outcome<Shown>> UseAsync(Guid account, string handle, OutsideWord word)
    {
        var now = clock.Now();
        using var pass = await gate.EnterAsync();
        await using var rows = database.Open();
        // One that was removed at this very moment lets nobody in.
        var used = await rows
            .Credentials.Where(c => c.AccountId == account && c.Handle == handle)
            .ExecuteUpdateAsync(set => set.SetProperty(c => c.LastUsedAt, now));
        return used == 1
            ? new Shown(
                await rows.Accounts.AsNoTracking().FirstAsync(a => a.Id == account),
                ProofOf(word, now)
            )
            : Over;
    }

    /// <summary>When somebody was let in there is what counts, not when they came over.</summary>
    private static Proof ProofOf(OutsideWord word, DateTimeOffset now) =>
        new(ProofWay.OutsideIdentity, word.ShownAt is { } at && at < now ? at : now);

    private async Task<Outcome<Shown>> TieHeldAsync(
        Guid id,
        ProviderRow provider,
        OutsideWord word,
        string via
    )
    {
        AccountRow account;
        await using (var rows = database.Open())
            account = await rows.Accounts.AsNoTracking().FirstAsync(a => a.Id == id);
        var row = RowOf(id, provider, word);
        var workspace = provider.WorkspaceId;
        var key = word.Address!.Key;
        var tied = await told.TellAsync<bool>(
            account,
            "account.outside-added",
            via,
            async write =>
                write[id].CustodyId == workspace && EmailAddress.Read(write[id].Address).Value.Key == key
                    ? await AddAsync(write, row)
                        ? true
                        : Tied
                    : Over,
            ("provider", provider.Name)
        );
        return tied.Try(out _, out var refusal) ? new Shown(account, ProofOf(word, clock.Now())) : refusal;
    }

    private static async Task<bool> AddAsync(Accounts.AccountWrite write, CredentialRow row)
    {
        if (await write.Rows.Credentials.AnyAsync(c => c.Handle == row.Handle))
            return false;
        write.Rows.Credentials.Add(row);
        return true;
    }

    private async Task<Outcome<Shown>> AcceptAsync(
        ProviderRow provider,
        OutsideWord word,
        string via,
        FoundInvitation? invitation,
        Guid? link
    )
    {
        var name = PlainText.ReadPersonName(word.Name).Try(out var told, out _) ? told : "";
        if (name.Length == 0)
            name = invitation?.Invitation.Name is { Length: > 0 } written
                ? written
                : word.Address!.ToString().Split('@')[0];
        var newcomer = new Vouched(
            name,
            word.Address!,
            provider.Name,
            account => RowOf(account, provider, word)
        );
        var joined =
            invitation is not null ? await answering.AcceptVouchedAsync(invitation, newcomer, via)
            : (await links.FindAsync(provider.WorkspaceId, link!.Value)).Try(out var open, out var closed)
                ? await answering.JoinVouchedAsync(open, newcomer, links, via)
            : closed;
        return joined.Then(came => new Shown(came.Account, ProofOf(word, clock.Now())));
    }

    private CredentialRow RowOf(Guid account, ProviderRow provider, OutsideWord word) =>
        new()
        {
            AccountId = account,
            Id = Guid.CreateVersion7(clock.Now()),
            Kind = CredentialKind.OutsideIdentity,
            Label = provider.Name,
            Handle = OutsideProviders.HandleOf(provider, word.Subject),
            Secret = OutsideProviders.MarkOf(provider.WorkspaceId, provider.Id),
            MadeAt = clock.Now(),
            LastUsedAt = clock.Now(),
        };
}
