using System.Threading.RateLimiting;
using ComeAboard.Service.SignIn;

namespace ComeAboard.Service.Http;

/// <summary>How often things may be asked: sign-ins and codes per network, invitations per inviter.</summary>
public static class Limits
{
    public const string SigningIn = "signing-in";
    public const string Codes = "codes";
    public const string Inviting = "inviting";

    public static IServiceCollection AddLimits(this IServiceCollection services, LimitSettings limits) =>
        services.AddRateLimiter(options =>
        {
            options.OnRejected = async (context, _) =>
                await CommonRefusals.TooMany.WriteAsync(context.HttpContext);
            options.AddPolicy(
                SigningIn,
                http => Window(Network(http), limits.SignInsPerMinute, TimeSpan.FromMinutes(1))
            );
            options.AddPolicy(
                Codes,
                http => Window(Network(http), limits.CodesPerHour, TimeSpan.FromHours(1))
            );
            options.AddPolicy(
                Inviting,
                http => Window(Inviter(http), limits.InvitationsPerHour, TimeSpan.FromHours(1))
            );
        });

    private static RateLimitPartition<string> Window(string who, int permits, TimeSpan window) =>
        RateLimitPartition.GetSlidingWindowLimiter(
            who,
            _ => new SlidingWindowRateLimiterOptions
            {
                PermitLimit = permits,
                Window = window,
                SegmentsPerWindow = 6,
            }
        );

    private static string Network(HttpContext http) => http.Connection.RemoteIpAddress?.ToString() ?? "";

    private static string Inviter(HttpContext http) => http.User.AccountId()?.ToString() ?? Network(http);
}
