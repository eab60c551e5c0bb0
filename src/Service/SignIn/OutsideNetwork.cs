using ComeAboard.Core;
using ComeAboard.Service.Connections;
using Microsoft.IdentityModel.Protocols;
using Microsoft.IdentityModel.Protocols.OpenIdConnect;

namespace ComeAboard.Service.SignIn;

/// <summary>
/// The way to providers.
/// </summary>
public sealed class OutsideNetwork(ServiceSettings settings, Reach reach) : IDisposable
{
    /// <summary>How long a provider may take to answer.</summary>
    public static readonly TimeSpan Patience = TimeSpan.FromSeconds(10);

    private const int LargestAnswer = 512 * 1024;
    private const int LongestIssuer = 500;

    private SocketsHttpHandler? _handler;

    /// <summary>What connects; whoever gets it leaves it open.</summary>
    public SocketsHttpHandler Handler => _handler ??= reach.Handler();

    /// <summary>Reads an issuer that somebody names; refuses with <c>provider.issuer-malformed</c>.</summary>
    public Outcome<string> ReadIssuer(string? text) =>
        text?.Trim() is { Length: > 0 and <= LongestIssuer } issuer
        && Uri.TryCreate(issuer, UriKind.Absolute, out var address)
        && (address.Scheme == Uri.UriSchemeHttps || settings.IsPlain && address.Scheme == Uri.UriSchemeHttp)
        && address.Query.Length == 0
        && address.Fragment.Length == 0
        && address.UserInfo.Length == 0
            ? issuer
            : new Refusal(
                "provider.issuer-malformed",
                $"\"{Words.Short(text ?? "")}\" is no issuer of a provider.",
                "Give the https address by which it calls itself, without ? or #.",
                Field: "issuer"
            );

    /// <summary>
    /// Asks a provider who it is: it has to call itself as it is called here. Refuses with <c>provider.unreachable</c> or
    /// <c>provider.other-issuer</c>.
    /// </summary>
    public async Task<Refusal?> ForbidsAsync(string issuer)
    {
        try
        {
            using var client = new HttpClient(Handler, disposeHandler: false)
            {
                Timeout = Patience,
                MaxResponseContentBufferSize = LargestAnswer,
            };
            var told = await OpenIdConnectConfigurationRetriever.GetAsync(
                OutsideOptions.MetadataOf(issuer),
                new HttpDocumentRetriever(client) { RequireHttps = !settings.IsPlain },
                CancellationToken.None
            );
            if (told.Issuer == issuer && told.SigningKeys.Count > 0)
                return null;
            return new Refusal(
                "provider.other-issuer",
                told.Issuer == issuer
                    ? "The provider shows no key to check its word by."
                    : $"The provider calls itself \"{Words.Short(told.Issuer ?? "")}\".",
                "Give its issuer exactly as it says it.",
                RefusalSort.Conflict,
                "issuer"
            );
        }
        catch (Exception fault)
            when (fault
                    is HttpRequestException
                        or IOException
                        or OperationCanceledException
                        or InvalidOperationException
                        or ArgumentException
                        or System.Text.Json.JsonException
            )
        {
            return new Refusal(
                "provider.unreachable",
                $"The provider did not tell who it is: {WhyOf(fault)}",
                $"Look whether {OutsideOptions.MetadataOf(issuer)} can be reached from this service.",
                RefusalSort.Conflict,
                "issuer"
            );
        }
    }

    private static string WhyOf(Exception fault) =>
        fault.GetBaseException() switch
        {
            OperationCanceledException => $"no answer within {Patience.TotalSeconds:0} seconds.",
            var cause => Words.Short(cause.Message.TrimEnd('.')) + ".",
        };

    /// <inheritdoc/>
    public void Dispose() => _handler?.Dispose();
}
