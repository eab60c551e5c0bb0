using System.DirectoryServices.Protocols;
using System.Net;
using System.Net.Sockets;
using System.Security.Authentication;
using ComeAboard.Core;

namespace ComeAboard.Service.Connections;

/// <summary>A way to a directory (LDAP, RFC 4511), signed in: through a relay of our own, over TLS, following no referral.</summary>
internal sealed class LdapDoor : IAsyncDisposable
{
    // RFC 4511, appendix A; the library has no name for it.
    private const int InvalidCredentials = 49;
    private static readonly TimeSpan Patience = TimeSpan.FromSeconds(10);

    private readonly LdapRelay _relay;
    private readonly LdapConnection _connection;

    private LdapDoor(LdapRelay relay, LdapConnection connection) =>
        (_relay, _connection) = (relay, connection);

    /// <summary>Reads where a directory is; refuses with <c>connection.place</c>.</summary>
    public static Outcome<string> ReadPlace(string? url) =>
        Uri.TryCreate(url?.Trim(), UriKind.Absolute, out var place)
        && place.Scheme is "ldaps" or "ldap"
        && place.Host.Length > 0
        && place.UserInfo.Length == 0
        && place.AbsolutePath is "" or "/"
        && place.Query.Length + place.Fragment.Length == 0
            ? $"{place.Scheme}://{place.Authority}"
            : new Refusal(
                "connection.place",
                $"\"{Words.Short(url ?? "")}\" is no address of a directory.",
                "Write it like ldaps://directory.example, or ldap:// where it offers StartTLS.",
                Field: "url"
            );

    /// <summary>Opens a way and signs in.</summary>
    /// <exception cref="SourceException">It cannot be reached, is not who it is called, or does not let us in.</exception>
    public static async Task<LdapDoor> OpenAsync(Reach reach, SourceAccess access, CancellationToken stop)
    {
        var settings = access.Settings;
        // With an empty password a server takes whoever asks for nobody, and answers all the same (RFC 4513, 5.1.2).
        if (settings.SignInAs.Length > 0 && access.Secret.Length == 0)
            throw new SourceException(
                new Refusal(
                    "connection.secret-missing",
                    $"There is no password for {Words.Short(settings.SignInAs)}.",
                    "Give it: aboard connections change NAME --secret-stdin",
                    RefusalSort.Conflict
                )
            );
        var relay = await RelayAsync(reach, access, stop);
        var connection = new LdapConnection(
            new LdapDirectoryIdentifier("127.0.0.1", relay.Port, fullyQualifiedDnsHostName: false, false)
        )
        {
            AuthType = settings.SignInAs.Length > 0 ? AuthType.Basic : AuthType.Anonymous,
            AutoBind = false,
        };
        var door = new LdapDoor(relay, connection);
        try
        {
            connection.SessionOptions.ProtocolVersion = 3;
            // It connects to nothing that a directory names.
            connection.SessionOptions.ReferralChasing = ReferralChasingOptions.None;
            await door.AskAsync(ldap =>
            {
                if (settings.SignInAs.Length > 0)
                    ldap.Bind(new NetworkCredential(settings.SignInAs, access.Secret));
                else
                    ldap.Bind();
                return true;
            });
            return door;
        }
        catch
        {
            await door.DisposeAsync();
            throw;
        }
    }

    /// <summary>Asks something that blocks, away from those who must not wait.</summary>
    /// <exception cref="SourceException">It refuses, or does not answer any more.</exception>
    public async Task<T> AskAsync<T>(Func<LdapConnection, T> ask)
    {
        try
        {
            return await Task.Factory.StartNew(
                () => ask(_connection),
                CancellationToken.None,
                TaskCreationOptions.LongRunning,
                TaskScheduler.Default
            );
        }
        catch (DirectoryOperationException fault)
        {
            throw Fault(fault.Response?.ResultCode ?? ResultCode.Other, fault.Message);
        }
        catch (LdapException fault) when (fault.ErrorCode == InvalidCredentials)
        {
            throw Refused("It does not let that entry sign in with that password.");
        }
        catch (LdapException fault)
        {
            throw SourceException.Unreachable($"it does not answer any more ({fault.Message.TrimEnd('.')}).");
        }
    }

    /// <summary>What an answer that is no success means.</summary>
    public static SourceException Fault(ResultCode code, string? said) =>
        code switch
        {
            ResultCode.SizeLimitExceeded or ResultCode.AdminLimitExceeded or ResultCode.TimeLimitExceeded =>
                SourceException.Partial("it has more than it gives at once."),
            ResultCode.Referral => SourceException.Partial("what is asked for is in another directory."),
            ResultCode.NoSuchObject => Refused("There is no such entry to look below."),
            ResultCode.InsufficientAccessRights => Refused("It does not let that entry do this."),
            _ => Refused($"It refused ({code}): {Words.Short(said ?? "")}"),
        };

    /// <inheritdoc/>
    public async ValueTask DisposeAsync()
    {
        _connection.Dispose();
        await _relay.DisposeAsync();
    }

    private static async Task<LdapRelay> RelayAsync(Reach reach, SourceAccess access, CancellationToken stop)
    {
        try
        {
            return await LdapRelay.OpenAsync(
                reach,
                new Uri(access.Place),
                access.Settings.Certificate,
                access.Settings.AllowPrivate ?? true,
                Patience,
                stop
            );
        }
        catch (AuthenticationException)
        {
            throw SourceException.Unreachable(
                "it does not show, by a certificate that is trusted, that it is who it is called."
            );
        }
        catch (Exception fault) when (fault is IOException or SocketException)
        {
            throw SourceException.Unreachable(fault.Message);
        }
        catch (OperationCanceledException) when (!stop.IsCancellationRequested)
        {
            throw SourceException.Unreachable("it does not answer in time.");
        }
    }

    private static SourceException Refused(string sentence) =>
        new(
            new Refusal(
                "connection.refused",
                sentence,
                "Check how it is asked. Nothing was changed.",
                RefusalSort.Conflict
            )
        );
}
