using System.Collections.Concurrent;
using ComeAboard.Service.Pages;
using ComeAboard.Storage.Accounts;
using Microsoft.AspNetCore.Authentication.OpenIdConnect;
using Microsoft.Extensions.Options;
using Microsoft.IdentityModel.Protocols.OpenIdConnect;

namespace ComeAboard.Service.SignIn;

/// <summary>
/// How the library speaks with a provider, out of its row. Every version of a row has a name of its own, and what was
/// begun with one ends with it: an answer is sealed to the name.
/// </summary>
public sealed class OutsideOptions(
    OutsideProviders providers,
    OutsideNetwork network,
    ServiceSettings settings,
    IOptionsMonitorCache<OpenIdConnectOptions> made
) : IConfigureNamedOptions<OpenIdConnectOptions>
{
    // What signs an identity token: with a key that only the provider has.
    private static readonly string[] Algorithms =
    [
        "RS256",
        "RS384",
        "RS512",
        "PS256",
        "PS384",
        "PS512",
        "ES256",
        "ES384",
        "ES512",
    ];

    private readonly ConcurrentDictionary<Guid, (string Name, ProviderRow Provider)> _ready = new();

    /// <summary>Where a provider sends people back to.</summary>
    public static string PathBack(Guid provider) => $"/sign-in/from/{provider:N}";

    /// <summary>The name under which the library has what belongs to a provider as it is now.</summary>
    public string Ready(ProviderRow provider)
    {
        var name = $"outside.{provider.Id:N}.{provider.Version}";
        if (_ready.TryGetValue(provider.Id, out var before) && before.Name == name)
            return name;
        _ready[provider.Id] = (name, provider);
        // What is made of a version is made anew, also where an older one took its place for a moment.
        made.TryRemove(name);
        if (before.Name is { } old)
            made.TryRemove(old);
        return name;
    }

    /// <inheritdoc/>
    public void Configure(OpenIdConnectOptions options) { }

    /// <inheritdoc/>
    public void Configure(string? name, OpenIdConnectOptions options)
    {
        if (_ready.Values.FirstOrDefault(ready => ready.Name == name).Provider is not { } provider)
            return;
        options.Authority = provider.Issuer;
        options.MetadataAddress = MetadataOf(provider.Issuer);
        options.RequireHttpsMetadata = !settings.IsPlain;
        options.ClientId = provider.ClientId;
        options.ClientSecret = providers.Open(provider);
        options.ResponseType = OpenIdConnectResponseType.Code;
        options.ResponseMode = OpenIdConnectResponseMode.Query;
        options.UsePkce = true;
        options.Scope.Clear();
        foreach (var scope in (string[])["openid", "email", "profile"])
            options.Scope.Add(scope);
        options.MapInboundClaims = false;
        options.ClaimActions.Clear();
        options.GetClaimsFromUserInfoEndpoint = true;
        options.SaveTokens = false;
        options.DisableTelemetry = true;
        options.CallbackPath = PathBack(provider.Id);
        options.SignInScheme = SessionSignIn.Scheme;
        options.EventsType = typeof(OutsideEvents);
        options.TokenValidationParameters.ValidAlgorithms = Algorithms;
        options.TokenValidationParameters.RequireSignedTokens = true;
        options.BackchannelHttpHandler = network.Handler;
        options.BackchannelTimeout = OutsideNetwork.Patience;
        options.RemoteAuthenticationTimeout = TimeSpan.FromMinutes(10);
        foreach (var cookie in (CookieBuilder[])[options.CorrelationCookie, options.NonceCookie])
        {
            // The answer comes from another site, by a link that is followed.
            cookie.SameSite = SameSiteMode.Lax;
            cookie.SecurePolicy = settings.IsPlain
                ? CookieSecurePolicy.SameAsRequest
                : CookieSecurePolicy.Always;
        }
        options.CorrelationCookie.Name = "aboard_outside.";
        options.NonceCookie.Name = "aboard_outside_once.";
    }

    /// <summary>Where a provider tells of itself (OpenID Connect Discovery 1.0, section 4).</summary>
    public static string MetadataOf(string issuer) =>
        issuer.TrimEnd('/') + "/.well-known/openid-configuration";
}
