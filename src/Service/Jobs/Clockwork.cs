using ComeAboard.Core.Invitations;
using ComeAboard.Core.Workspaces;
using ComeAboard.Service.Applications;
using ComeAboard.Service.Departures;
using ComeAboard.Service.Invitations;
using ComeAboard.Service.Keys;
using ComeAboard.Service.Workspaces;
using ComeAboard.Storage;
using Microsoft.EntityFrameworkCore;
using static OpenIddict.Abstractions.OpenIddictConstants;

namespace ComeAboard.Service.Jobs;

/// <summary>
/// Does what time alone brings: invitations expire, stays end. Nobody depends on its punctuality – every request judges
/// by the clock itself – it only writes down what has become true.
/// </summary>
public sealed class Clockwork(
    Database database,
    WriteGate gate,
    Ending ending,
    InvitationSteps steps,
    Accounts.Claims claims,
    Merging.RestingAccounts resting,
    Connections.Connections connections,
    KeyRotation keys,
    OAuthKeys oauthKeys,
    Applications.Applications applications,
    FirstAnswer first,
    TimeProvider clock,
    ILogger<Clockwork> log
) : BackgroundWork(first)
{
    private static readonly TimeSpan Pause = TimeSpan.FromSeconds(5);
    private static readonly TimeSpan KeyPause = TimeSpan.FromHours(1);
    private static readonly TimeSpan IdempotencyLifetime = TimeSpan.FromDays(2);
    private static readonly TimeSpan EventLifetime = TimeSpan.FromDays(90);
    private const int AtOnce = 100;

    private DateTimeOffset _keysLookedAt;

    /// <summary>Writes down everything that has become true by now.</summary>
    public async Task CatchUpAsync()
    {
        if (LookAfterKeys())
            await TidyAsync();
        await oauthKeys.EnsureAsync();
        while (await ExpireAsync() == AtOnce) { }
        while (await RemindAsync() == AtOnce) { }
        while (await EndAsync() == AtOnce) { }
        await claims.CatchUpAsync();
        await resting.CatchUpAsync();
        await connections.CatchUpAsync();
        await database.CountNewTablesAsync();
        await database.TidyIndexesAsync();
    }

    /// <inheritdoc/>
    public override async Task StartAsync(CancellationToken cancellationToken)
    {
        LookAfterKeys();
        await oauthKeys.EnsureAsync();
        await applications.EnsureOwnAsync();
        await base.StartAsync(cancellationToken);
    }

    /// <inheritdoc/>
    protected override async Task GoOnAsync(CancellationToken stoppingToken)
    {
        using var timer = new PeriodicTimer(Pause, clock);
        do
        {
            try
            {
                await CatchUpAsync();
            }
            catch (Exception fault)
            {
                log.LogWarning(fault, "The clock's work could not be done; it is tried again");
            }
        } while (await timer.WaitForNextTickAsync(stoppingToken));
    }

    /// <summary>Once an hour; true when it was time.</summary>
    private bool LookAfterKeys()
    {
        if (clock.Now() < _keysLookedAt + KeyPause)
            return false;
        keys.Ensure();
        _keysLookedAt = clock.Now();
        return true;
    }

    /// <summary>Forgets what no request can need any more: sessions and codes that are over, old idempotency keys.</summary>
    private async Task TidyAsync()
    {
        var now = clock.Now();
        var old = now - IdempotencyLifetime;
        using var pass = await gate.EnterAsync();
        await using var rows = database.Open();
        await rows.Sessions.Where(s => s.ExpiresAt < now).ExecuteDeleteAsync();
        await rows.AccountLinks.Where(l => l.ExpiresAt < old).ExecuteDeleteAsync();
        await rows.Budgets.Where(b => b.EndsAt < now.ToUnixTimeMilliseconds()).ExecuteDeleteAsync();
        await rows
            .SecurityEvents.IgnoreQueryFilters()
            .Where(e => e.At < now - EventLifetime)
            .ExecuteDeleteAsync();
        await ForgetLettingInAsync(rows, now);
        await rows.Ceremonies.Where(c => c.ExpiresAt < now).ExecuteDeleteAsync();
        await rows
            .EventsSent.IgnoreQueryFilters()
            .Where(e => e.At < now - EventLifetime)
            .ExecuteDeleteAsync();
        await rows.MailedCodes.Where(c => c.ExpiresAt < now).ExecuteDeleteAsync();
        await rows.IdempotencyKeys.IgnoreQueryFilters().Where(k => k.CreatedAt < old).ExecuteDeleteAsync();
    }

    /// <summary>Tokens that are over, and what programs were let in by once nothing hangs on it and nothing is to be told.</summary>
    private static async Task ForgetLettingInAsync(ComeAboardContext rows, DateTimeOffset now)
    {
        var old = (now - IdempotencyLifetime).UtcDateTime;
        var over = (now - IdempotencyLifetime - OAuthServer.StayLifetime).UtcDateTime;
        await rows.OAuthTokens.Where(t => t.ExpirationDate < old).ExecuteDeleteAsync();
        await rows
            .OAuthSignOns.Where(s =>
                s.CreationDate < old
                && s.TellAt == null
                && (
                    s.CreationDate < over
                    || s.Status != Statuses.Valid
                    || s.EndsWithSession && s.SessionId == null
                )
                // By what a program acts by itself stays as long as the program.
                && (s.Sid != null || s.MemberId == null)
                && (s.SessionId == null || s.CreationDate < over)
                && !rows.OAuthTokens.Any(t => t.AuthorizationId == s.Id)
            )
            .ExecuteDeleteAsync();
    }

    private async Task<int> ExpireAsync()
    {
        var now = clock.Now();
        await using var rows = database.Open();
        var overdue = await rows
            .Invitations.IgnoreQueryFilters()
            .AsNoTracking()
            .Where(i =>
                (i.State == InvitationState.Queued || i.State == InvitationState.Sent) && i.Deadline <= now
            )
            .OrderBy(i => i.Deadline)
            .Select(i => new { i.WorkspaceId, i.Id })
            .Take(AtOnce)
            .ToListAsync();
        foreach (var house in overdue.GroupBy(found => found.WorkspaceId))
            await steps.ExpireAsync(house.Key, [.. house.Select(found => found.Id)]);
        return overdue.Count;
    }

    private async Task<int> RemindAsync()
    {
        var now = clock.Now();
        await using var rows = database.Open();
        var due = await rows
            .Invitations.IgnoreQueryFilters()
            .AsNoTracking()
            .Where(i => i.NextReminderAt != null && i.NextReminderAt <= now)
            .OrderBy(i => i.NextReminderAt)
            .Select(i => new { i.WorkspaceId, i.Id })
            .Take(AtOnce)
            .ToListAsync();
        foreach (var house in due.GroupBy(found => found.WorkspaceId))
            await steps.RemindDueAsync(house.Key, [.. house.Select(found => found.Id)]);
        return due.Count;
    }

    private async Task<int> EndAsync()
    {
        var now = clock.Now();
        // No zone is more than a day ahead of UTC; the exact instant is judged below in the workspace's own zone.
        var latest = DateOnly.FromDateTime(now.UtcDateTime).AddDays(1);
        await using var rows = database.Open();
        var candidates = await (
            from member in rows.Members.IgnoreQueryFilters()
            join workspace in rows.Workspaces on member.WorkspaceId equals workspace.Id
            where member.EndedAt == null && member.LastDay < latest
            orderby member.LastDay
            select new
            {
                member.WorkspaceId,
                member.Id,
                member.LastDay,
                workspace.TimeZone,
            }
        )
            .AsNoTracking()
            .Take(AtOnce)
            .ToListAsync();
        var over = candidates
            .Where(c => new Stay(c.LastDay).IsOver(now, TimeZoneInfo.FindSystemTimeZoneById(c.TimeZone)))
            .ToList();
        foreach (var house in over.GroupBy(found => found.WorkspaceId))
            await ending.FinishAsync(house.Key, [.. house.Select(found => found.Id)]);
        return over.Count;
    }
}
