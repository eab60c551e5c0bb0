using ComeAboard.Client.SignIn;
using ComeAboard.Client.Workspaces;
using ComeAboard.Core;
using ComeAboard.Service.Workspaces;
using ComeAboard.Storage;
using ComeAboard.Storage.Accounts;
using ComeAboard.Storage.SignIn;
using Microsoft.EntityFrameworkCore;

namespace ComeAboard.Service.SignIn;

/// <summary>
/// What touches safety – failed sign-ins, locks, limits, refused rights – in the log, and for the administrators of the
/// workspaces it concerns. It is written beside the work, never holds it up, and is bounded for each person and sort.
/// </summary>
public sealed class SecurityEvents(
    Database database,
    WriteGate gate,
    Budgets budgets,
    TimeProvider clock,
    ILogger<SecurityEvents> log
)
{
    private const int KeptPerHour = 20;

    /// <summary>A password was wrong, or an account is locked for a while.</summary>
    public void NoteSignIn(AccountRow account, bool isLocked, string network)
    {
        var (kind, what) = isLocked
            ? ("sign-in.locked", "too many wrong passwords; locked for a minute")
            : ("sign-in.failed", "a wrong password");
        NoteSignIn(account, kind, network, what);
    }

    private void NoteSignIn(AccountRow account, string kind, string network, string what)
    {
        log.LogWarning("Security {Kind}: account {Account} from {Network}", kind, account.Id, network);
        Keep(
            kind,
            account.Id.ToString(),
            async rows =>
                await rows
                    .Members.IgnoreQueryFilters()
                    .Where(m => m.AccountId == account.Id && m.EndedAt == null)
                    .Select(m => new Concerned(m.WorkspaceId, m.Name + " <" + m.Address + ">"))
                    .ToListAsync(),
            network,
            what
        );
    }

    /// <summary>Somebody knew how to begin signing in, and gave a wrong code as the second step.</summary>
    public void NoteSecondStep(AccountRow account, string network) =>
        NoteSignIn(account, "sign-in.failed", network, "a wrong code as the second step");

    /// <summary>What came as a provider's answer was not right.</summary>
    public void NoteOutside(string network) =>
        log.LogWarning("Security {Kind}: from {Network}", "outside.refused", network);

    /// <summary>Somebody was refused what their duties do not cover.</summary>
    public void NoteRefused(Visitor visitor, string what, string network)
    {
        log.LogWarning(
            "Security {Kind}: member {Member} in {Workspace}: {What}",
            "right.refused",
            visitor.Member.Id,
            visitor.Workspace.ShortName,
            what
        );
        Keep(
            "right.refused",
            visitor.Member.Id.ToString(),
            _ =>
                Task.FromResult<List<Concerned>>([
                    new(visitor.WorkspaceId, $"{visitor.Member.Name} <{visitor.Member.Address}>"),
                ]),
            network,
            what
        );
    }

    /// <summary>A limit was reached.</summary>
    public void NoteLimit(string what, string network) =>
        log.LogWarning("Security {Kind}: {What} from {Network}", "limit.reached", what, network);

    /// <summary>A page of the events of a workspace, newest first.</summary>
    public async Task<Outcome<Page<SecurityEventView>>> ListAsync(Visitor visitor, Paging paging)
    {
        await using var rows = database.Open(visitor.WorkspaceId);
        return await rows
            .SecurityEvents.AsNoTracking()
            .PageAsync(paging, page => Task.FromResult(ViewsOf(page)));
    }

    /// <summary>All of them, a lot at a time.</summary>
    public async IAsyncEnumerable<IReadOnlyList<SecurityEventView>> LotsAsync(Visitor visitor)
    {
        await using var rows = database.Open(visitor.WorkspaceId);
        await foreach (var lot in rows.SecurityEvents.AsNoTracking().LotsAsync())
            yield return ViewsOf(lot);
    }

    private static IReadOnlyList<SecurityEventView> ViewsOf(IReadOnlyList<SecurityEventRow> events) =>
        [.. events.Select(e => new SecurityEventView(e.Id, e.At, e.Kind, e.Who, e.Network, e.Details))];

    private sealed record Concerned(Guid Workspace, string Who);

    private void Keep(
        string kind,
        string whose,
        Func<ComeAboardContext, Task<List<Concerned>>> concerned,
        string network,
        string details
    ) =>
        _ = Task.Run(async () =>
        {
            try
            {
                if (await budgets.TakeAsync(kind, whose, KeptPerHour, TimeSpan.FromHours(1)) is not null)
                    return;
                var now = clock.Now();
                await using var looking = database.Open();
                foreach (var place in await concerned(looking))
                {
                    using var pass = await gate.EnterAsync();
                    await using var rows = database.Open(place.Workspace);
                    rows.SecurityEvents.Add(
                        new SecurityEventRow
                        {
                            WorkspaceId = place.Workspace,
                            Id = Guid.CreateVersion7(now),
                            At = now,
                            Kind = kind,
                            Who = place.Who,
                            Network = network,
                            Details = details.Length > 400 ? details[..400] : details,
                        }
                    );
                    await rows.SaveChangesAsync();
                }
            }
            catch (Exception fault)
            {
                log.LogWarning(fault, "A security event could not be kept");
            }
        });
}
