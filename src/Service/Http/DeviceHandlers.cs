using ComeAboard.Service.Applications;
using Microsoft.AspNetCore;
using OpenIddict.Abstractions;
using OpenIddict.Server;
using OpenIddict.Server.AspNetCore;
using static OpenIddict.Abstractions.OpenIddictConstants;
using static OpenIddict.Server.OpenIddictServerEvents;

namespace ComeAboard.Service.Http;

/// <summary>Holds up devices that ask too often whether they were approved, which the library does not.</summary>
public sealed class DevicePace(DeviceSignIn devices, IOpenIddictTokenManager tokens)
    : IOpenIddictServerHandler<ValidateTokenRequestContext>
{
    /// <inheritdoc/>
    public async ValueTask HandleAsync(ValidateTokenRequestContext context)
    {
        if (
            context.Request.IsDeviceCodeGrantType()
            && context.Request.DeviceCode is { Length: > 0 } code
            && await devices.IsTooSoonAsync(code, tokens)
        )
            context.Reject(
                Errors.SlowDown,
                $"It is asked too often: every {DeviceSignIn.Pause.TotalSeconds} seconds is enough."
            );
    }
}

/// <summary>Sends people to our own page for codes, and keeps what the device says of itself.</summary>
public sealed class DeviceBegun(
    DeviceSignIn devices,
    IOpenIddictTokenManager tokens,
    ServiceSettings settings
) : IOpenIddictServerHandler<ApplyDeviceAuthorizationResponseContext>
{
    private const int LongestProgram = 200;

    /// <inheritdoc/>
    public async ValueTask HandleAsync(ApplyDeviceAuthorizationResponseContext context)
    {
        var response = context.Response;
        if (response is not { DeviceCode: { Length: > 0 } device, UserCode: { Length: > 0 } user })
            return;
        response["verification_uri"] = settings.Link("/device");
        response["verification_uri_complete"] = settings.Link("/device?code=" + user);
        response["interval"] = (long)DeviceSignIn.Pause.TotalSeconds;
        var http = context.Transaction.GetHttpRequest()!.HttpContext;
        var program = http.Request.Headers.UserAgent.ToString();
        await devices.NoteAsync(
            device,
            user,
            program.Length <= LongestProgram ? program : program[..LongestProgram],
            Limits.NetworkOf(http),
            tokens
        );
    }
}
