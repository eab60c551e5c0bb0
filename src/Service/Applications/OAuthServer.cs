using ComeAboard.Service.Http;
using ComeAboard.Storage;
using ComeAboard.Storage.Applications;
using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.Options;
using OpenIddict.EntityFrameworkCore;
using OpenIddict.Server;
using OpenIddict.Validation;
using static OpenIddict.Abstractions.OpenIddictConstants;
using static OpenIddict.Server.OpenIddictServerEvents;

namespace ComeAboard.Service.Applications;

/// <summary>OAuth 2.0 and OpenID Connect for programs, by the library over our own rows and rules.</summary>
public static class OAuthServer
{
    public const string Authorize = "/oauth/authorize";
    public const string Token = "/oauth/token";
    public const string Device = "/oauth/device";
    public const string DeviceAnswer = "/device/answer";
    public const string Revoke = "/oauth/revoke";
    public const string UserInfo = "/oauth/userinfo";
    public const string EndSession = "/oauth/end-session";

    /// <summary>How long an access token counts.</summary>
    public static readonly TimeSpan AccessLifetime = TimeSpan.FromMinutes(30);

    /// <summary>How long a program stays let in, where it may stay.</summary>
    public static readonly TimeSpan StayLifetime = TimeSpan.FromDays(30);

    /// <summary>How long a device may wait for its approval.</summary>
    public static readonly TimeSpan DeviceLifetime = TimeSpan.FromMinutes(10);

    // Letters that cannot be taken for one another and make no words (RFC 8628 section 6.1).
    private const string CodeLetters = "BCDFGHJKLMNPQRSTVWXZ";
    private const int CodeLength = 8;

    public static IServiceCollection AddOAuth(this IServiceCollection services, ServiceSettings settings)
    {
        services
            .AddSingleton<SignOnStanding>()
            .AddSingleton<IConfigureOptions<OpenIddictServerOptions>>(all =>
                all.GetRequiredService<OAuthKeys>()
            )
            .AddSingleton<IOptionsChangeTokenSource<OpenIddictServerOptions>>(all =>
                all.GetRequiredService<OAuthKeys>().ForServer
            )
            .AddSingleton<IOptionsChangeTokenSource<OpenIddictValidationOptions>>(all =>
                all.GetRequiredService<OAuthKeys>().ForValidation
            )
            .AddScoped<IOpenIddictEntityFrameworkCoreContext, OwnContext>();
        services
            .AddOpenIddict()
            .AddCore(core =>
            {
                core.UseEntityFrameworkCore()
                    .ReplaceDefaultEntities<
                        OAuthClientRow,
                        OAuthSignOnRow,
                        OAuthScopeRow,
                        OAuthTokenRow,
                        Guid
                    >();
                core.DisableEntityCaching();
                core.ReplaceAuthorizationManager<OAuthSignOnRow, SignOnManager>();
                core.ReplaceApplicationManager<OAuthClientRow, OAuthClientManager>();
            })
            .AddServer(server => Configure(server, settings))
            .AddValidation(validation =>
            {
                validation.UseLocalServer();
                validation.UseAspNetCore();
                validation.EnableTokenEntryValidation();
                validation.EnableAuthorizationEntryValidation();
            });
        return services;
    }

    private static void Configure(OpenIddictServerBuilder server, ServiceSettings settings)
    {
        server.SetIssuer(settings.PublicUrl);
        // The first is what is told to others, whatever name a request came by; the second is where it is answered.
        server.SetAuthorizationEndpointUris(settings.Link(Authorize), Authorize[1..]);
        server.SetTokenEndpointUris(settings.Link(Token), Token[1..]);
        server.SetDeviceAuthorizationEndpointUris(settings.Link(Device), Device[1..]);
        server.SetEndUserVerificationEndpointUris(settings.Link(DeviceAnswer), DeviceAnswer[1..]);
        server.SetRevocationEndpointUris(settings.Link(Revoke), Revoke[1..]);
        server.SetUserInfoEndpointUris(settings.Link(UserInfo), UserInfo[1..]);
        server.SetEndSessionEndpointUris(settings.Link(EndSession), EndSession[1..]);
        server.SetConfigurationEndpointUris(
            settings.Link("/.well-known/openid-configuration"),
            ".well-known/openid-configuration",
            ".well-known/oauth-authorization-server"
        );
        server.SetJsonWebKeySetEndpointUris(settings.Link("/.well-known/jwks"), ".well-known/jwks");
        server
            .AllowAuthorizationCodeFlow()
            .AllowClientCredentialsFlow()
            .AllowDeviceAuthorizationFlow()
            .AllowRefreshTokenFlow()
            .RequireProofKeyForCodeExchange();
        server.Configure(options =>
        {
            options.CodeChallengeMethods.Remove(CodeChallengeMethods.Plain);
            options.ResponseModes.Remove(ResponseModes.FormPost);
            options.ResponseModes.Remove(ResponseModes.Fragment);
        });
        server
            .UseReferenceAccessTokens()
            .UseReferenceRefreshTokens()
            .SetRefreshTokenReuseLeeway(TimeSpan.Zero)
            .DisableSlidingRefreshTokenExpiration()
            .SetAuthorizationCodeLifetime(TimeSpan.FromMinutes(2))
            .SetAccessTokenLifetime(AccessLifetime)
            .SetIdentityTokenLifetime(TimeSpan.FromMinutes(10))
            .SetRefreshTokenLifetime(StayLifetime)
            .SetDeviceCodeLifetime(DeviceLifetime)
            .SetUserCodeLifetime(DeviceLifetime)
            .SetUserCodeCharset([.. CodeLetters.Select(letter => letter.ToString())])
            .SetUserCodeLength(CodeLength)
            .SetUserCodeDisplayFormat("{0}{1}{2}{3}-{4}{5}{6}{7}");
        server.RegisterScopes([.. ProgramScopes.All]);
        server.RegisterClaims(
            Claims.Name,
            Claims.Email,
            Claims.EmailVerified,
            Claims.Locale,
            Claims.AuthenticationTime,
            ProgramClaims.Level,
            ProgramClaims.Sid
        );
        server.RegisterPromptValues(PromptValues.None, PromptValues.Login, PromptValues.Consent);
        server
            .UseAspNetCore()
            .EnableAuthorizationEndpointPassthrough()
            .EnableTokenEndpointPassthrough()
            .EnableUserInfoEndpointPassthrough()
            .EnableEndSessionEndpointPassthrough()
            .EnableEndUserVerificationEndpointPassthrough()
            .EnableErrorPassthrough()
            // Whoever ends TLS before us says so or not; what is told to others is the public address, whatever it is.
            .DisableTransportSecurityRequirement();
        server.AddEventHandler<ValidateTokenRequestContext>(handler =>
            handler.UseScopedHandler<DevicePace>().SetOrder(int.MinValue + 50_000)
        );
        server.AddEventHandler<ApplyDeviceAuthorizationResponseContext>(handler =>
            handler.UseScopedHandler<DeviceBegun>().SetOrder(int.MinValue + 50_000)
        );
        server.AddEventHandler<HandleConfigurationRequestContext>(handler =>
            handler
                .UseInlineHandler(context =>
                {
                    context.Metadata["backchannel_logout_supported"] = true;
                    context.Metadata["backchannel_logout_session_supported"] = true;
                    context.Metadata["claims_parameter_supported"] = false;
                    return default;
                })
                .SetOrder(int.MaxValue - 100_000)
        );
    }

    /// <summary>One of our contexts for the stores of one request; no workspace is entered in it.</summary>
    private sealed class OwnContext(Database database)
        : IOpenIddictEntityFrameworkCoreContext,
            IAsyncDisposable,
            IDisposable
    {
        private ComeAboardContext? _rows;

        public ValueTask<DbContext> GetDbContextAsync(CancellationToken cancellationToken) =>
            ValueTask.FromResult<DbContext>(_rows ??= database.Open());

        public ValueTask DisposeAsync() => _rows?.DisposeAsync() ?? ValueTask.CompletedTask;

        public void Dispose() => _rows?.Dispose();
    }
}

/// <summary>What we tell of people beside the registered claims.</summary>
public static class ProgramClaims
{
    /// <summary>Their level at the resource that the program is: <c>view</c>, <c>contribute</c>, <c>edit</c>, <c>manage</c>.</summary>
    public const string Level = "level";

    /// <summary>The sign-in it came from (OpenID Connect Back-Channel Logout 1.0 section 2.1).</summary>
    public const string Sid = "sid";

    /// <summary>What was shown to sign in; for ourselves alone.</summary>
    public const string Way = "aboard_way";

    /// <summary>What was shown besides; for ourselves alone.</summary>
    public const string Second = "aboard_second";

    /// <summary>The sign-in by which a device was approved; for ourselves alone.</summary>
    public const string Approved = "aboard_approved";
}
