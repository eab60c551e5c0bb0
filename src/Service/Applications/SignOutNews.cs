using System.Security.Claims;
using ComeAboard.Core.Access;
using ComeAboard.Core.Workspaces;
using ComeAboard.Service.Access;
using ComeAboard.Service.Jobs;
using ComeAboard.Service.SignIn;
using ComeAboard.Service.Workspaces;
using ComeAboard.Storage;
using ComeAboard.Storage.Access;
using ComeAboard.Storage.Applications;
using ComeAboard.Storage.Workspaces;
using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.Options;
using Microsoft.IdentityModel.JsonWebTokens;
using Microsoft.IdentityModel.Tokens;
using OpenIddict.Server;
using static OpenIddict.Abstractions.OpenIddictConstants;
using Claims = OpenIddict.Abstractions.OpenIddictConstants.Claims;

namespace ComeAboard.Service.Applications;

/// <summary>Rung when programs are to be told that somebody was signed out.</summary>
public sealed class SignOutBell : Bell;

/// <summary>
/// Ends sign-ins to programs whose people may no longer be there, and tells the programs (OpenID Connect Back-Channel
/// Logout 1.0). What is to be told is a mark on the sign-in's row, set in the transaction that ended it; a program that is
/// away is told again later, and holds up no other.
/// </summary>
public sealed class SignOutNews(
    Database database,
    WriteGate gate,
    SignOutBell bell,
    WorkspaceWriter writer,
    AccessWorlds worlds,
    OutsideNetwork network,
    IOptionsMonitor<OpenIddictServerOptions> options,
    ServiceSettings settings,
    FirstAnswer first,
    TimeProvider clock,
    ILogger<SignOutNews> log
) : BackgroundWork(first)
{
    private const string Happened = "http://schemas.openid.net/event/backchannel-logout";
    private const int AtOnce = 50;
    private const int MostTries = 12;

    private static readonly TimeSpan Pace = TimeSpan.FromSeconds(2);
    private static readonly TimeSpan Leased = TimeSpan.FromSeconds(30);
    private static readonly TimeSpan FirstRetry = TimeSpan.FromSeconds(10);
    private static readonly TimeSpan LongestRetry = TimeSpan.FromHours(2);
    private static readonly TimeSpan Counts = TimeSpan.FromMinutes(2);

    private readonly Dictionary<Guid, DateOnly> _lookedAt = [];

    /// <summary>
    /// Ends, within a change of a workspace, the sign-ins of those whom the change leaves without access to a program.
    /// </summary>
    /// <param name="rows">The change's rows.</param>
    /// <param name="workspace">The workspace.</param>
    /// <param name="world">Who may do what after it.</param>
    /// <param name="changed">What it changed of that.</param>
    /// <param name="now">When.</param>
    /// <returns>Whether there is anything to tell.</returns>
    public static async Task<bool> EndLostAsync(
        ComeAboardContext rows,
        WorkspaceRow workspace,
        AccessWorld world,
        IReadOnlyCollection<AccessSubject> changed,
        DateTimeOffset now
    )
    {
        if (changed.All(subject => subject.Kind == AccessSubjectKind.Tokens))
            return false;
        var applications = await rows.Applications.AsNoTracking().ToDictionaryAsync(a => a.Id);
        if (applications.Count == 0)
            return false;
        var standing = rows
            .OAuthSignOns.AsNoTracking()
            .Where(s => s.WorkspaceId == workspace.Id && s.Status == Statuses.Valid && s.Sid != null);
        if (changed.All(subject => subject.Kind is AccessSubjectKind.Member or AccessSubjectKind.Tokens))
        {
            var members = changed.Select(subject => (Guid?)subject.Id).ToList();
            if (members.Count <= AtOnce)
                standing = standing.Where(s => members.Contains(s.MemberId));
        }
        var today = Days.Of(now, workspace.Zone);
        var lost = (await standing.ToListAsync())
            .Where(s =>
                !applications.TryGetValue(s.ApplicationId ?? Guid.Empty, out var application)
                || !SignOnStanding.Allows(s, application, world, today)
            )
            .ToList();
        foreach (var program in lost.GroupBy(s => s.ApplicationId ?? Guid.Empty))
        {
            var tells = applications.GetValueOrDefault(program.Key)?.SignOutAddress is not null;
            DateTimeOffset? tellAt = tells ? now : null;
            foreach (var lot in program.Select(s => s.Id).Chunk(500))
                await rows
                    .OAuthSignOns.Where(s => lot.Contains(s.Id))
                    .ExecuteUpdateAsync(set =>
                        set.SetProperty(s => s.Status, Statuses.Revoked)
                            .SetProperty(s => s.TellAt, tellAt)
                            .SetProperty(s => s.SessionEndsAt, (DateTimeOffset?)null)
                    );
        }
        return lost.Count > 0;
    }

    /// <summary>Notices what was closed, ends what time alone has ended, and tells what is to be told by now.</summary>
    public async Task CatchUpAsync(CancellationToken stop = default)
    {
        await NoticeClosedAsync();
        await NoticeDaysAsync();
        while (await TellDueAsync(stop) == AtOnce) { }
    }

    /// <inheritdoc/>
    protected override async Task GoOnAsync(CancellationToken stoppingToken)
    {
        while (!stoppingToken.IsCancellationRequested)
        {
            try
            {
                await CatchUpAsync(stoppingToken);
                await bell.WaitAsync(Pace, stoppingToken);
            }
            catch (OperationCanceledException) when (stoppingToken.IsCancellationRequested)
            {
                return;
            }
            catch (Exception fault)
            {
                log.LogWarning(fault, "Programs could not be told of sign-outs; it is tried again");
                await Task.Delay(Pace, clock, stoppingToken).ContinueWith(_ => { }, CancellationToken.None);
            }
        }
    }

    /// <summary>The database itself empties the sign-in of a row when that is closed, by whatever way.</summary>
    private async Task NoticeClosedAsync()
    {
        var now = clock.Now();
        await using var rows = database.Open();
        var closed = await rows
            .OAuthSignOns.AsNoTracking()
            .Where(s => s.SessionId == null && s.SessionEndsAt != null)
            .OrderBy(s => s.SessionEndsAt)
            .Take(AtOnce)
            .Select(s => new
            {
                s.Id,
                s.EndsWithSession,
                s.SessionEndsAt,
                Tells = rows
                    .Applications.IgnoreQueryFilters()
                    .Any(a => a.Id == s.ApplicationId && a.SignOutAddress != null),
            })
            .ToListAsync();
        foreach (var one in closed)
        {
            // Whose time was over was not signed out: what they have here is over there, too, when they look.
            DateTimeOffset? tellAt = one.Tells && one.SessionEndsAt > now ? now : null;
            using var pass = await gate.EnterAsync();
            await rows
                .OAuthSignOns.Where(s => s.Id == one.Id && s.SessionEndsAt != null)
                .ExecuteUpdateAsync(set =>
                    set.SetProperty(s => s.SessionEndsAt, (DateTimeOffset?)null)
                        .SetProperty(s => s.TellAt, tellAt)
                        .SetProperty(s => s.Status, s => one.EndsWithSession ? Statuses.Revoked : s.Status)
                );
        }
    }

    /// <summary>What was given until a day ends with that day, without anybody changing anything.</summary>
    private async Task NoticeDaysAsync()
    {
        var now = clock.Now();
        await using var rows = database.Open();
        var houses = await rows
            .Workspaces.AsNoTracking()
            .Where(w => rows.Applications.IgnoreQueryFilters().Any(a => a.WorkspaceId == w.Id))
            .ToListAsync();
        foreach (var house in houses)
        {
            var today = Days.Of(now, house.Zone);
            if (_lookedAt.TryGetValue(house.Id, out var day) && day == today)
                continue;
            // Read before, so that what takes long is not read under the lock; and judged under it: by what was known
            // before, whoever is let in meanwhile would be put out again.
            await worlds.OfAsync(house);
            await writer.WriteAsync<bool>(
                house.Id,
                Caller.Clock,
                async write =>
                    await EndLostAsync(
                        write.Rows,
                        write.Workspace,
                        await write.WorldAsync(),
                        [AccessSubject.Model],
                        write.Now
                    )
            );
            _lookedAt[house.Id] = today;
        }
    }

    private async Task<int> TellDueAsync(CancellationToken stop)
    {
        var now = clock.Now();
        await using var rows = database.Open();
        var due = await (
            from signOn in rows.OAuthSignOns
            join client in rows.OAuthClients on signOn.ApplicationId equals client.Id
            join application in rows.Applications.IgnoreQueryFilters() on client.Id equals application.Id
            where signOn.TellAt <= now && application.SignOutAddress != null
            orderby signOn.TellAt
            select new
            {
                signOn.Id,
                signOn.Subject,
                signOn.Sid,
                signOn.Tries,
                client.ClientId,
                application.SignOutAddress,
            }
        )
            .AsNoTracking()
            .Take(AtOnce)
            .ToListAsync(stop);
        await Parallel.ForEachAsync(
            due.GroupBy(one => one.SignOutAddress!),
            stop,
            async (program, cancellation) =>
            {
                var isAway = false;
                foreach (var one in program)
                {
                    if (!await LeaseAsync(one.Id, now))
                        continue;
                    // One that did not answer is not asked for every other as well.
                    var isTold =
                        !isAway
                        && await TellAsync(
                            program.Key,
                            LogoutToken(one.Id, one.ClientId!, one.Subject!, one.Sid!.Value),
                            cancellation
                        );
                    isAway |= !isTold;
                    await SettleAsync(one.Id, isTold, one.Tries + 1);
                }
            }
        );
        return due.Count;
    }

    /// <summary>Of several processes one tells.</summary>
    private async Task<bool> LeaseAsync(Guid id, DateTimeOffset now)
    {
        DateTimeOffset? until = now + Leased;
        using var pass = await gate.EnterAsync();
        await using var rows = database.Open();
        return await rows
                .OAuthSignOns.Where(s => s.Id == id && s.TellAt <= now)
                .ExecuteUpdateAsync(set => set.SetProperty(s => s.TellAt, until)) == 1;
    }

    private async Task SettleAsync(Guid id, bool isTold, int tries)
    {
        var pause = FirstRetry * Math.Pow(2, tries - 1);
        DateTimeOffset? next =
            isTold || tries >= MostTries ? null : clock.Now() + (pause < LongestRetry ? pause : LongestRetry);
        if (!isTold && tries >= MostTries)
            log.LogWarning("A program was told of a sign-out {Tries} times and did not take it", tries);
        using var pass = await gate.EnterAsync();
        await using var rows = database.Open();
        await rows
            .OAuthSignOns.Where(s => s.Id == id)
            .ExecuteUpdateAsync(set => set.SetProperty(s => s.TellAt, next).SetProperty(s => s.Tries, tries));
    }

    private async Task<bool> TellAsync(string address, string token, CancellationToken cancellation)
    {
        try
        {
            using var client = new HttpClient(network.Handler, disposeHandler: false)
            {
                Timeout = OutsideNetwork.Patience,
            };
            using var answer = await client.PostAsync(
                address,
                new FormUrlEncodedContent([new("logout_token", token)]),
                cancellation
            );
            return answer.IsSuccessStatusCode;
        }
        catch (Exception fault) when (fault is HttpRequestException or IOException or TaskCanceledException)
        {
            log.LogInformation("A program could not be told of a sign-out: {Why}", fault.Message);
            return false;
        }
    }

    private string LogoutToken(Guid id, string clientId, string subject, Guid sid)
    {
        var now = clock.Now();
        return new JsonWebTokenHandler { SetDefaultTimesOnTokenCreation = false }.CreateToken(
            new SecurityTokenDescriptor
            {
                Issuer = settings.PublicUrl.AbsoluteUri,
                Audience = clientId,
                IssuedAt = now.UtcDateTime,
                Expires = (now + Counts).UtcDateTime,
                TokenType = "logout+jwt",
                SigningCredentials = options.CurrentValue.SigningCredentials[0],
                Subject = new ClaimsIdentity(),
                Claims = new Dictionary<string, object>
                {
                    // The same however often it is told.
                    [Claims.JwtId] = id.ToString(),
                    [Claims.Subject] = subject,
                    [ProgramClaims.Sid] = sid.ToString(),
                    ["events"] = new Dictionary<string, object>
                    {
                        [Happened] = new Dictionary<string, object>(),
                    },
                },
            }
        );
    }
}
