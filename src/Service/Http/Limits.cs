using System.Globalization;
using System.Net;
using System.Net.Sockets;
using ComeAboard.Service.SignIn;
using Microsoft.AspNetCore.HttpOverrides;

namespace ComeAboard.Service.Http;

/// <summary>
/// How often entry points may be asked: each has a budget of its own for each network, and for invitations for each
/// inviter. The network is that of the caller, told by the proxies that are named in the settings and by nobody else.
/// </summary>
public static class Limits
{
    public const string SigningIn = "signing-in";
    public const string Codes = "codes";
    public const string Inviting = "inviting";

    private const int PrefixOfIpv6 = 8;

    private sealed record Limited(string What);

    /// <summary>Gives an entry point a budget.</summary>
    public static TBuilder LimitedBy<TBuilder>(this TBuilder builder, string what)
        where TBuilder : IEndpointConventionBuilder => builder.WithMetadata(new Limited(what));

    /// <summary>Believes the forwarded headers of the proxies that are named (RFC 7239's predecessors), and of nobody else.</summary>
    public static IApplicationBuilder UseProxies(this IApplicationBuilder app, LimitSettings limits)
    {
        if (limits.Proxies.Count == 0)
            return app;
        var options = new ForwardedHeadersOptions
        {
            ForwardedHeaders = ForwardedHeaders.XForwardedFor | ForwardedHeaders.XForwardedProto,
            ForwardLimit = null,
        };
        options.KnownProxies.Clear();
        options.KnownIPNetworks.Clear();
        foreach (var network in limits.Proxies)
            options.KnownIPNetworks.Add(network);
        return app.UseForwardedHeaders(options);
    }

    /// <summary>Counts and refuses what is asked too often; the answer says how long to wait.</summary>
    public static IApplicationBuilder UseLimits(this IApplicationBuilder app, LimitSettings limits) =>
        app.Use(
            async (http, next) =>
            {
                var wait = TimeSpan.Zero;
                foreach (var limited in http.GetEndpoint()?.Metadata.GetOrderedMetadata<Limited>() ?? [])
                {
                    var (most, window) = limited.What switch
                    {
                        SigningIn => (limits.SignInsPerMinute, TimeSpan.FromMinutes(1)),
                        Codes => (limits.CodesPerHour, TimeSpan.FromHours(1)),
                        _ => (limits.InvitationsPerHour, TimeSpan.FromHours(1)),
                    };
                    var whose = limited.What == Inviting ? InviterOf(http) : NetworkOf(http);
                    // Each entry point has a budget of its own: looking at links does not use up signing in.
                    var what =
                        limited.What == Inviting
                            ? limited.What // all mail an inviter causes, by whichever way
                            : $"{limited.What}:{((RouteEndpoint)http.GetEndpoint()!).RoutePattern.RawText}";
                    if (
                        await http
                            .RequestServices.GetRequiredService<Budgets>()
                            .TakeAsync(what, whose, most, window) is
                        { } longer
                    )
                        wait = longer > wait ? longer : wait;
                }
                if (wait == TimeSpan.Zero)
                    await next(http);
                else
                {
                    http.RequestServices.GetRequiredService<SecurityEvents>()
                        .NoteLimit(http.GetEndpoint()?.DisplayName ?? "", NetworkOf(http));
                    await RefuseAsync(http, wait);
                }
            }
        );

    /// <summary>Answers that something was asked too often, and how long to wait (RFC 9110 section 10.2.3).</summary>
    public static Task RefuseAsync(HttpContext http, TimeSpan wait)
    {
        http.Response.Headers.RetryAfter = ((int)Math.Ceiling(wait.TotalSeconds)).ToString(
            CultureInfo.InvariantCulture
        );
        return CommonRefusals.TooMany.WriteAsync(http);
    }

    /// <summary>The network a request comes from: an IPv4 address, or the first 64 bits of an IPv6 one, which one subscriber has.</summary>
    public static string NetworkOf(HttpContext http) => NetworkOf(http.Connection.RemoteIpAddress);

    /// <summary>The network of an address.</summary>
    public static string NetworkOf(IPAddress? address)
    {
        if (address is null)
            return "";
        if (address.IsIPv4MappedToIPv6)
            address = address.MapToIPv4();
        if (address.AddressFamily != AddressFamily.InterNetworkV6 || IPAddress.IsLoopback(address))
            return address.ToString();
        var bytes = address.GetAddressBytes();
        Array.Clear(bytes, PrefixOfIpv6, bytes.Length - PrefixOfIpv6);
        return new IPAddress(bytes) + "/64";
    }

    private static string InviterOf(HttpContext http) => http.User.AccountId()?.ToString() ?? NetworkOf(http);
}
