using ComeAboard.Client;
using ComeAboard.Client.SignIn;

namespace ComeAboard.Cli.SignIn;

/// <summary>The sign-in that is kept on this machine: its access token is renewed as it is used.</summary>
public sealed class KeptSignIn(Uri server)
{
    // What is over so soon is not worth being shown.
    private static readonly TimeSpan Ahead = TimeSpan.FromMinutes(1);

    private Credentials? _kept;

    /// <summary>This program, its machine and its system, as whoever approves it sees them.</summary>
    public static string Program =>
        $"{Session.Program} ({string.Concat(Environment.MachineName.Where(c => c is > ' ' and < '\u007f' and not ('(' or ')' or '\\')))}; {(OperatingSystem.IsLinux() ? "Linux" : OperatingSystem.IsMacOS() ? "Macintosh" : "Windows")})";

    /// <summary>The access token that counts now.</summary>
    public async ValueTask<string> TokenAsync(CancellationToken cancellation)
    {
        if (_kept is { } known && IsGood(known))
            return known.Token;
        using var turn = await Credentials.LockAsync(cancellation);
        var kept = Credentials.Load();
        if (kept is not { Refresh: { } refresh })
            throw Nobody();
        if (!IsGood(kept))
        {
            using var own = new OwnSignIn(server, Program);
            try
            {
                kept = Of(server, kept.Workspace, await own.RefreshAsync(refresh, cancellation));
            }
            catch (RefusedException refused) when (refused.Problem.Code == "oauth.invalid_grant")
            {
                Credentials.Forget();
                throw;
            }
            kept.Save();
        }
        _kept = kept;
        return kept.Token;
    }

    /// <summary>What is kept of tokens.</summary>
    public static Credentials Of(Uri server, string workspace, ProgramTokens tokens) =>
        new(server.ToString(), workspace, tokens.AccessToken)
        {
            Refresh = tokens.RefreshToken,
            ExpiresAt = DateTimeOffset.UtcNow.AddSeconds(tokens.ExpiresIn),
        };

    private static bool IsGood(Credentials kept) => kept.ExpiresAt > DateTimeOffset.UtcNow + Ahead;

    private RefusedException Nobody() =>
        new(
            new Problem
            {
                Title = $"Nobody is signed in at {server}.",
                Detail = "Use aboard sign-in, or set ABOARD_TOKEN.",
                Code = "sign-in.required",
                Status = 401,
            }
        );
}
