using System.Collections.Concurrent;
using System.Net;
using System.Security.Cryptography;
using System.Text;
using Microsoft.AspNetCore.Builder;
using Microsoft.AspNetCore.Hosting;
using Microsoft.AspNetCore.Hosting.Server;
using Microsoft.AspNetCore.Hosting.Server.Features;
using Microsoft.AspNetCore.Http;
using Microsoft.Extensions.DependencyInjection;
using Microsoft.Extensions.Logging;
using Microsoft.IdentityModel.JsonWebTokens;
using Microsoft.IdentityModel.Tokens;

namespace ComeAboard.Standins.SignIn;

/// <summary>Somebody whom the stand-in provider knows.</summary>
/// <param name="Subject">Who they are to it.</param>
/// <param name="Name">Their name.</param>
/// <param name="Address">Their address.</param>
/// <param name="IsVerified">Whether it says that the address is verified.</param>
public sealed record KnownPerson(string Subject, string Name, string Address, bool IsVerified = true);

/// <summary>
/// A stand-in for another organisation's OpenID Connect provider, on loopback: whoever comes chooses who they are. It
/// speaks the authorization code flow with PKCE (RFC 7636), and can be told to lie.
/// </summary>
public sealed class ProviderStandin : IAsyncDisposable
{
    /// <summary>The client id under which it knows the service.</summary>
    public const string ClientId = "come-aboard";

    /// <summary>The secret it gave the service.</summary>
    public const string ClientSecret = "a secret of the stand-in";

    private const string Style =
        "body{font:16px/1.5 system-ui,sans-serif;max-width:32rem;margin:4rem auto;padding:0 1rem;color:#222;background:#eef1f4}"
        + "main{background:#fff;padding:1.5rem 2rem;border:1px solid #c4ccd4}a{display:block;padding:.6rem 0;color:#1c4f86}small{color:#5a646e}";

    private sealed record Granted(
        KnownPerson Person,
        string Nonce,
        string Challenge,
        string RedirectUri,
        DateTimeOffset At
    );

    private readonly WebApplication _app;
    private readonly RSA _key = RSA.Create(2048);
    private readonly RSA _other = RSA.Create(2048);
    private readonly ConcurrentDictionary<string, Granted> _codes = new();
    private readonly ConcurrentDictionary<string, KnownPerson> _tokens = new();
    private readonly string _name;

    private ProviderStandin(string name, WebApplication app) => (_name, _app) = (name, app);

    /// <summary>Its issuer.</summary>
    public string Issuer { get; private set; } = "";

    /// <summary>Whom it knows.</summary>
    public ConcurrentDictionary<string, KnownPerson> People { get; } = new();

    /// <summary>Changes what an identity token says, before it is signed.</summary>
    public Action<IDictionary<string, object>> Twist { get; set; } = _ => { };

    /// <summary>What the answer in the browser says of who it is from; null says nothing.</summary>
    public Func<string, string?> SaysItIs { get; set; } = issuer => issuer;

    /// <summary>What its description of itself says it is called.</summary>
    public Func<string, string> CallsItself { get; set; } = issuer => issuer;

    /// <summary>Whether it leaves its identity tokens unsigned.</summary>
    public bool IsUnsigned { get; set; }

    /// <summary>Whether it signs with a key that it does not show.</summary>
    public bool HasForeignKey { get; set; }

    /// <summary>When it says that it last asked somebody who they are.</summary>
    public Func<DateTimeOffset> AskedAt { get; set; } = () => DateTimeOffset.UtcNow;

    /// <summary>Starts one on loopback.</summary>
    /// <param name="name">What its page is headed with.</param>
    /// <param name="port">The port, or 0 for any free one.</param>
    /// <param name="people">Whom it knows.</param>
    public static async Task<ProviderStandin> StartAsync(
        string name,
        int port = 0,
        params KnownPerson[] people
    )
    {
        var builder = WebApplication.CreateEmptyBuilder(new WebApplicationOptions());
        builder.WebHost.UseKestrelCore();
        builder.Services.AddRoutingCore();
        builder.Logging.ClearProviders();
        builder.WebHost.ConfigureKestrel(kestrel => kestrel.Listen(IPAddress.Loopback, port));
        var standin = new ProviderStandin(name, builder.Build());
        foreach (var person in people)
            standin.People[person.Subject] = person;
        standin.Map();
        await standin._app.StartAsync();
        var address = standin
            ._app.Services.GetRequiredService<IServer>()
            .Features.Get<IServerAddressesFeature>()!
            .Addresses.First();
        standin.Issuer = address.TrimEnd('/');
        return standin;
    }

    /// <inheritdoc/>
    public async ValueTask DisposeAsync()
    {
        await _app.StopAsync();
        await _app.DisposeAsync();
        _key.Dispose();
        _other.Dispose();
    }

    private void Map()
    {
        _app.MapGet("/.well-known/openid-configuration", Describe);
        _app.MapGet("/keys", Keys);
        _app.MapGet("/authorize", (HttpRequest request) => Choose(request));
        _app.MapGet("/authorize/{subject}", Grant);
        _app.MapPost("/token", TokenAsync);
        _app.MapGet("/userinfo", Inform);
    }

    private IResult Describe() =>
        Results.Json(
            new Dictionary<string, object>
            {
                ["issuer"] = CallsItself(Issuer),
                ["authorization_endpoint"] = Issuer + "/authorize",
                ["token_endpoint"] = Issuer + "/token",
                ["userinfo_endpoint"] = Issuer + "/userinfo",
                ["jwks_uri"] = Issuer + "/keys",
                ["response_types_supported"] = (string[])["code"],
                ["subject_types_supported"] = (string[])["public"],
                ["id_token_signing_alg_values_supported"] = (string[])["RS256"],
                ["code_challenge_methods_supported"] = (string[])["S256"],
                ["authorization_response_iss_parameter_supported"] = true,
            }
        );

    private IResult Keys()
    {
        var shown = _key.ExportParameters(false);
        return Results.Json(
            new
            {
                keys = new[]
                {
                    new
                    {
                        kty = "RSA",
                        use = "sig",
                        alg = "RS256",
                        kid = "one",
                        n = Base64UrlEncoder.Encode(shown.Modulus),
                        e = Base64UrlEncoder.Encode(shown.Exponent),
                    },
                },
            }
        );
    }

    private IResult Choose(HttpRequest request)
    {
        var page = new StringBuilder(
            $"<!doctype html><html lang=\"en\"><meta charset=\"utf-8\"><title>{Escape(_name)}</title><style>{Style}</style><main><h1>{Escape(_name)}</h1><p>This stands in for an organisation's own sign-in. Who are you?</p>"
        );
        foreach (var person in People.Values.OrderBy(person => person.Name, StringComparer.Ordinal))
            page.Append(
                $"<a href=\"/authorize/{Uri.EscapeDataString(person.Subject)}{Escape(request.QueryString.ToString())}\">{Escape(person.Name)}<br><small>{Escape(person.Address)}</small></a>"
            );
        var back =
            request.Query["redirect_uri"]
            + "?error=access_denied&state="
            + Uri.EscapeDataString(request.Query["state"].ToString());
        page.Append($"<a href=\"{Escape(back + From())}\">Nobody of these</a></main></html>");
        return Results.Content(page.ToString(), "text/html; charset=utf-8");
    }

    private IResult Grant(string subject, HttpRequest request)
    {
        if (!People.TryGetValue(subject, out var person) || request.Query["client_id"] != ClientId)
            return Results.BadRequest();
        var code = Convert.ToHexStringLower(RandomNumberGenerator.GetBytes(16));
        var redirect = request.Query["redirect_uri"].ToString();
        _codes[code] = new Granted(
            person,
            request.Query["nonce"].ToString(),
            request.Query["code_challenge"].ToString(),
            redirect,
            DateTimeOffset.UtcNow
        );
        return Results.Redirect(
            $"{redirect}?code={code}&state={Uri.EscapeDataString(request.Query["state"].ToString())}{From()}"
        );
    }

    private string From() => SaysItIs(Issuer) is { } says ? "&iss=" + Uri.EscapeDataString(says) : "";

    private async Task<IResult> TokenAsync(HttpRequest request)
    {
        var form = await request.ReadFormAsync();
        var challenge = Base64UrlEncoder.Encode(
            SHA256.HashData(Encoding.ASCII.GetBytes(form["code_verifier"].ToString()))
        );
        if (
            form["client_id"] != ClientId
            || form["client_secret"] != ClientSecret
            || !_codes.TryRemove(form["code"].ToString(), out var granted)
            || granted.Challenge != challenge
            || granted.RedirectUri != form["redirect_uri"]
        )
            return Results.Json(new { error = "invalid_grant" }, statusCode: 400);
        var access = Convert.ToHexStringLower(RandomNumberGenerator.GetBytes(16));
        _tokens[access] = granted.Person;
        return Results.Json(
            new
            {
                access_token = access,
                token_type = "Bearer",
                expires_in = 300,
                id_token = Sign(granted),
            }
        );
    }

    private string Sign(Granted granted)
    {
        var claims = new Dictionary<string, object>
        {
            ["iss"] = Issuer,
            ["aud"] = ClientId,
            ["sub"] = granted.Person.Subject,
            ["nonce"] = granted.Nonce,
            ["auth_time"] = AskedAt().ToUnixTimeSeconds(),
            ["iat"] = granted.At.ToUnixTimeSeconds(),
            ["exp"] = granted.At.AddMinutes(5).ToUnixTimeSeconds(),
            ["name"] = granted.Person.Name,
            ["email"] = granted.Person.Address,
            ["email_verified"] = granted.Person.IsVerified,
        };
        Twist(claims);
        var key = new RsaSecurityKey(HasForeignKey ? _other : _key) { KeyId = "one" };
        return new JsonWebTokenHandler { SetDefaultTimesOnTokenCreation = false }.CreateToken(
            new SecurityTokenDescriptor
            {
                Claims = claims,
                SigningCredentials = IsUnsigned
                    ? null
                    : new SigningCredentials(key, SecurityAlgorithms.RsaSha256)
                    {
                        CryptoProviderFactory = new CryptoProviderFactory { CacheSignatureProviders = false },
                    },
            }
        );
    }

    private IResult Inform(HttpRequest request)
    {
        var shown = request.Headers.Authorization.ToString();
        return
            shown.StartsWith("Bearer ", StringComparison.Ordinal)
            && _tokens.TryRemove(shown["Bearer ".Length..], out var person)
            ? Results.Json(new { sub = person.Subject, name = person.Name })
            : Results.Unauthorized();
    }

    private static string Escape(string text) => WebUtility.HtmlEncode(text);
}
