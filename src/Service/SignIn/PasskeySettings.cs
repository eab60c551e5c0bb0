using ComeAboard.Storage.Accounts;
using Microsoft.AspNetCore.Identity;
using Microsoft.Extensions.DependencyInjection.Extensions;

namespace ComeAboard.Service.SignIn;

/// <summary>The library that checks passkeys, and what it must not be left to its defaults with.</summary>
public static class PasskeySettings
{
    public static IServiceCollection AddPasskeys(this IServiceCollection services, ServiceSettings settings)
    {
        services.AddIdentityCore<AccountRow>();
        // It would refuse addresses that are none of a user name's letters.
        services.RemoveAll<IUserValidator<AccountRow>>();
        services.AddScoped<IUserStore<AccountRow>, PasskeyStore>();
        services.AddScoped<IPasskeyHandler<AccountRow>, PasskeyHandler<AccountRow>>();
        var origin = settings.PublicUrl.GetLeftPart(UriPartial.Authority);
        services.Configure<IdentityPasskeyOptions>(options =>
        {
            options.ServerDomain = settings.PublicUrl.Host;
            options.UserVerificationRequirement = "required";
            options.ResidentKeyRequirement = "required";
            // By default whatever host the request names would do.
            options.ValidateOrigin = context =>
                ValueTask.FromResult(
                    !context.CrossOrigin
                        && string.Equals(context.Origin, origin, StringComparison.OrdinalIgnoreCase)
                );
        });
        return services;
    }
}
