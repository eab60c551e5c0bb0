using System.Collections.Immutable;
using System.Security.Cryptography;
using System.Text;
using System.Text.Json.Serialization;
using CloudNative.CloudEvents;
using CloudNative.CloudEvents.SystemTextJson;
using ComeAboard.Core;
using ComeAboard.Core.Connections;
using ComeAboard.Service.Workspaces;
using ComeAboard.Storage;
using ComeAboard.Storage.Connections;
using Microsoft.EntityFrameworkCore;

namespace ComeAboard.Service.Connections;

/// <summary>
/// A system that is told by a signed webhook what accounts are to be: events in the structured mode of CloudEvents 1.0, each with
/// an id that stays the same however often it is sent, and a signature over id, instant and body (HMAC with SHA-256).
/// </summary>
public sealed class WebhookTarget(
    Reach reach,
    Database database,
    WriteGate gate,
    ServiceSettings settings,
    TimeProvider clock
) : ITarget
{
    private static readonly TimeSpan Patience = TimeSpan.FromSeconds(20);
    private const int LargestAnswer = 64 * 1024;
    private const int ShortestSecret = 24;

    /// <inheritdoc/>
    public string Type => "webhook";

    /// <inheritdoc/>
    public bool IsOnlyTold => true;

    /// <inheritdoc/>
    public Outcome<string> ReadPlace(string? url) =>
        Uri.TryCreate(url?.Trim(), UriKind.Absolute, out var place)
        && (place.Scheme == Uri.UriSchemeHttps || settings.IsPlain && place.Scheme == Uri.UriSchemeHttp)
        && place.UserInfo.Length + place.Fragment.Length == 0
            ? place.ToString()
            : new Refusal(
                "connection.place",
                $"\"{Words.Short(url ?? "")}\" is no address that is told anything.",
                "Give its https address.",
                Field: "url"
            );

    /// <inheritdoc/>
    public async Task<ITargetSession> OpenAsync(
        SourceAccess access,
        IReadOnlySet<string> groups,
        CancellationToken stop
    )
    {
        if (access.Secret.Length < ShortestSecret)
            throw new TargetException(
                Trouble.Barred,
                $"What it is told is signed with a secret of {ShortestSecret} signs at least: aboard connections change NAME --secret-stdin"
            );
        string name;
        await using (var rows = database.Open(access.Workspace))
            name = (
                await rows.Workspaces.AsNoTracking().FirstAsync(w => w.Id == access.Workspace, stop)
            ).ShortName;
        return new WebhookSession(
            new HttpClient(reach.Handler(access.Settings.Certificate, access.Settings.AllowPrivate ?? true))
            {
                Timeout = Patience,
                MaxResponseContentBufferSize = LargestAnswer,
            },
            access,
            new Uri(settings.Link("/w/" + name)),
            database,
            gate,
            clock
        );
    }
}

/// <summary>What an event says of an account.</summary>
/// <param name="Member">Whose: the id of their membership.</param>
/// <param name="Address">Their address.</param>
/// <param name="Name">Their name.</param>
/// <param name="Account">What their account is to be: on, off or gone.</param>
/// <param name="Groups">The groups there that they are to be in.</param>
/// <param name="LastDay">The last day of it, inclusive; null for no end.</param>
internal sealed record AccountWanted(
    Guid Member,
    string Address,
    string Name,
    string Account,
    IReadOnlyList<string> Groups,
    [property: JsonIgnore(Condition = JsonIgnoreCondition.WhenWritingNull)] DateOnly? LastDay
);

/// <summary>A way to a system that is told by webhooks.</summary>
internal sealed class WebhookSession(
    HttpClient client,
    SourceAccess access,
    Uri workspace,
    Database database,
    WriteGate gate,
    TimeProvider clock
) : ITellingSession
{
    /// <summary>The type of the events that say what an account is to be.</summary>
    public const string Wanted = "comeaboard.account.wanted";

    /// <summary>The type of the event that says nothing.</summary>
    public const string Trial = "comeaboard.trial";

    private const string KeyPrefix = "whsec_";
    private static readonly JsonEventFormatter Formatter = new(
        new System.Text.Json.JsonSerializerOptions(System.Text.Json.JsonSerializerDefaults.Web),
        default
    );

    /// <inheritdoc/>
    public int AtOnce => 8;

    /// <inheritdoc/>
    public async Task TellAsync(
        Guid member,
        int version,
        ProfileThere profile,
        WantedThere wanted,
        CancellationToken stop
    )
    {
        EventSentRow? sent;
        await using (var rows = database.Open(access.Workspace))
            sent = await rows
                .EventsSent.AsNoTracking()
                .FirstOrDefaultAsync(
                    e => e.ConnectionId == access.Connection && e.MemberId == member && e.Version == version,
                    stop
                );
        sent ??= await KeepAsync(
            Wanted,
            member,
            version,
            $"{profile.Name} <{profile.Address}> is to be {wanted.Account.Word()}{(wanted.Groups.Count > 0 ? ", in " + string.Join(", ", wanted.Groups) : "")}",
            new AccountWanted(
                member,
                profile.Address,
                profile.Name,
                wanted.Account.Word(),
                wanted.Groups,
                wanted.LastDay
            )
        );
        await SendAsync(sent, stop);
    }

    /// <inheritdoc/>
    public async Task TryAsync(string by, CancellationToken stop) =>
        await SendAsync(
            await KeepAsync(
                Trial,
                Guid.Empty,
                0,
                $"A trial by {by}",
                new Dictionary<string, string> { ["by"] = by }
            ),
            stop
        );

    /// <summary>Sends an event, whether or not it was before; what was written once is what is sent.</summary>
    /// <exception cref="TargetException">It was not taken.</exception>
    public async Task SendAsync(EventSentRow sent, CancellationToken stop)
    {
        TargetException? trouble = null;
        try
        {
            await HttpTrouble.AskedAsync(() => PostAsync(sent, stop), stop);
        }
        catch (TargetException no)
        {
            trouble = no;
        }
        var (now, answer) = (clock.Now(), trouble?.Message ?? "It took it.");
        using (await gate.EnterAsync())
        {
            await using var rows = database.Open(access.Workspace);
            await rows
                .EventsSent.Where(e => e.Id == sent.Id)
                .ExecuteUpdateAsync(
                    set =>
                        set.SetProperty(e => e.Tries, e => e.Tries + 1)
                            .SetProperty(e => e.TriedAt, now)
                            .SetProperty(e => e.Answer, answer)
                            .SetProperty(
                                e => e.AcceptedAt,
                                e => e.AcceptedAt ?? (trouble == null ? now : (DateTimeOffset?)null)
                            ),
                    CancellationToken.None
                );
        }
        if (trouble is not null)
            throw trouble;
    }

    /// <inheritdoc/>
    public Task<IReadOnlyList<string>> MissingAsync(CancellationToken stop) =>
        Task.FromResult<IReadOnlyList<string>>([]);

    /// <inheritdoc/>
    public async Task<IReadOnlyList<HeldThere>> AllAsync(CancellationToken stop)
    {
        await using var rows = database.Open(access.Workspace);
        var told = await rows
            .AccountsThere.AsNoTracking()
            .Where(a => a.ConnectionId == access.Connection && a.Held != null && a.Held != AccountThere.Gone)
            .ToListAsync(stop);
        return
        [
            .. told.Select(one => new HeldThere(
                one.MemberId.ToString(),
                one.Held == AccountThere.On,
                one.Address,
                one.Name,
                Carrier.SetOf(one.HeldGroups).ToImmutableSortedSet(StringComparer.Ordinal)
            )
            {
                OurMark = one.MemberId.ToString(),
            }),
        ];
    }

    /// <inheritdoc/>
    public ValueTask DisposeAsync()
    {
        client.Dispose();
        return ValueTask.CompletedTask;
    }

    /// <summary>Writes an event down before it is sent, so that it is the same one however often that takes.</summary>
    private async Task<EventSentRow> KeepAsync(
        string type,
        Guid member,
        int version,
        string sentence,
        object data
    )
    {
        var now = clock.Now();
        var id = Guid.CreateVersion7(now);
        var written = new CloudEvent
        {
            Id = id.ToString(),
            Type = type,
            Source = workspace,
            Subject = member == Guid.Empty ? null : member.ToString(),
            Time = now,
            DataContentType = "application/json",
            Data = data,
        };
        var sent = new EventSentRow
        {
            WorkspaceId = access.Workspace,
            Id = id,
            ConnectionId = access.Connection,
            MemberId = member,
            Version = version,
            Sentence = sentence,
            At = now,
            Body = Encoding.UTF8.GetString(Formatter.EncodeStructuredModeMessage(written, out _).Span),
        };
        using var pass = await gate.EnterAsync();
        await using var rows = database.Open(access.Workspace);
        rows.EventsSent.Add(sent);
        await rows.SaveChangesAsync();
        return sent;
    }

    private async Task<bool> PostAsync(EventSentRow sent, CancellationToken stop)
    {
        var body = Encoding.UTF8.GetBytes(sent.Body);
        var at = clock.Now().ToUnixTimeSeconds().ToString();
        byte[] signed = [.. Encoding.UTF8.GetBytes($"{sent.Id}.{at}."), .. body];
        using var request = new HttpRequestMessage(HttpMethod.Post, access.Place)
        {
            Content = new ByteArrayContent(body),
        };
        request.Content.Headers.TryAddWithoutValidation(
            "Content-Type",
            "application/cloudevents+json; charset=utf-8"
        );
        request.Headers.Add("webhook-id", sent.Id.ToString());
        request.Headers.Add("webhook-timestamp", at);
        request.Headers.Add(
            "webhook-signature",
            "v1," + Convert.ToBase64String(HMACSHA256.HashData(KeyOf(access.Secret), signed))
        );
        using var answer = await client.SendAsync(request, stop);
        return answer.IsSuccessStatusCode ? true : throw HttpTrouble.Of(answer, "", clock);
    }

    /// <summary>The bytes of a secret: those it writes in Base64 where it says so by its prefix, else its own.</summary>
    private static byte[] KeyOf(string secret)
    {
        var written = secret.StartsWith(KeyPrefix, StringComparison.Ordinal)
            ? secret[KeyPrefix.Length..]
            : "";
        var key = new byte[written.Length];
        return written.Length > 0 && Convert.TryFromBase64String(written, key, out var length)
            ? key[..length]
            : Encoding.UTF8.GetBytes(secret);
    }
}
