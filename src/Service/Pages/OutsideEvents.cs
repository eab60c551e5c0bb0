using System.Globalization;
using System.IdentityModel.Tokens.Jwt;
using System.Security.Claims;
using System.Text.Json;
using ComeAboard.Core;
using ComeAboard.Service.Http;
using ComeAboard.Service.SignIn;
using Microsoft.AspNetCore.Authentication;
using Microsoft.AspNetCore.Authentication.OpenIdConnect;

namespace ComeAboard.Service.Pages;

/// <summary>
/// What we ask of a provider's answer beyond what the library does: it says who it is where it promised to (RFC 9207), its
/// identity token is signed and from the very issuer that was asked, and an address counts only with its own word that it
/// is verified.
/// </summary>
public sealed class OutsideEvents(ServiceSettings settings, ILogger<OutsideEvents> log) : OpenIdConnectEvents
{
    /// <summary>What the answer is for, among what is sealed into the question.</summary>
    internal const string Purpose = "for";

    /// <summary>Whose account it is about.</summary>
    internal const string Account = "account";

    /// <summary>Which provider is asked.</summary>
    internal const string Provider = "provider";

    /// <summary>The address that whoever is asked has typed.</summary>
    internal const string Hint = "hint";

    private sealed record UserInformation(JsonElement Told);

    /// <inheritdoc/>
    public override Task RedirectToIdentityProvider(RedirectContext context)
    {
        // By the address people reach us at, whatever a request calls us.
        context.ProtocolMessage.RedirectUri = settings.Link(context.Options.CallbackPath);
        context.ProtocolMessage.LoginHint = context.Properties.Items.TryGetValue(Hint, out var hint)
            ? hint
            : null;
        if (context.Properties.Items[Purpose] == OutsidePages.ToConfirm)
            (context.ProtocolMessage.Prompt, context.ProtocolMessage.MaxAge) = ("login", "0");
        return Task.CompletedTask;
    }

    /// <inheritdoc/>
    public override async Task MessageReceived(MessageReceivedContext context)
    {
        var told = await context.Options.ConfigurationManager!.GetConfigurationAsync(
            context.HttpContext.RequestAborted
        );
        var says = context.ProtocolMessage.Iss;
        if (
            string.IsNullOrEmpty(says)
                ? told.AuthorizationResponseIssParameterSupported
                : says != context.Options.Authority
        )
            context.Fail("The answer does not say that it is from the provider that was asked.");
    }

    /// <inheritdoc/>
    public override Task TokenValidated(TokenValidatedContext context)
    {
        if (context.SecurityToken is not { RawSignature.Length: > 0 })
            context.Fail("The identity token is not signed.");
        else if (context.SecurityToken.Issuer != context.Options.Authority)
            context.Fail("The identity token is from another issuer.");
        return Task.CompletedTask;
    }

    /// <inheritdoc/>
    public override Task UserInformationReceived(UserInformationReceivedContext context)
    {
        context.HttpContext.Features.Set(new UserInformation(context.User.RootElement.Clone()));
        return Task.CompletedTask;
    }

    /// <inheritdoc/>
    public override async Task TicketReceived(TicketReceivedContext context)
    {
        var http = context.HttpContext;
        var word = WordOf(context.Principal!, http.Features.Get<UserInformation>()?.Told);
        var result = await OutsidePages.ReceivedAsync(http, context.Properties!, context.ReturnUri, word);
        await result.ExecuteAsync(http);
        context.HandleResponse();
    }

    /// <inheritdoc/>
    public override async Task RemoteFailure(RemoteFailureContext context)
    {
        // What a provider says of its fault is not shown: anybody can write it into an address.
        log.LogWarning(context.Failure, "A provider's answer was refused");
        var http = context.HttpContext;
        http.RequestServices.GetRequiredService<SecurityEvents>().NoteOutside(Limits.NetworkOf(http));
        await OutsidePages.Refused(http, OutsidePages.Failed).ExecuteAsync(http);
        context.HandleResponse();
    }

    /// <inheritdoc/>
    public override async Task AccessDenied(AccessDeniedContext context)
    {
        await OutsidePages
            .Refused(context.HttpContext, OutsidePages.Denied)
            .ExecuteAsync(context.HttpContext);
        context.HandleResponse();
    }

    private static OutsideWord WordOf(ClaimsPrincipal principal, JsonElement? information)
    {
        var subject = principal.FindFirstValue(JwtRegisteredClaimNames.Sub) ?? "";
        // An address and the word that it is verified belong together: both are taken from where the address is.
        var address =
            Verified(
                principal.FindFirstValue(JwtRegisteredClaimNames.Email),
                principal.FindFirstValue("email_verified")
            ) ?? Verified(Text(information, "email"), Text(information, "email_verified"));
        var at = long.TryParse(
            principal.FindFirstValue("auth_time"),
            NumberStyles.None,
            CultureInfo.InvariantCulture,
            out var seconds
        )
            ? DateTimeOffset.FromUnixTimeSeconds(Math.Min(seconds, uint.MaxValue))
            : (DateTimeOffset?)null;
        return new OutsideWord(
            subject,
            address,
            principal.FindFirstValue("name") ?? Text(information, "name"),
            at
        );
    }

    private static EmailAddress? Verified(string? address, string? verified) =>
        string.Equals(verified, "true", StringComparison.OrdinalIgnoreCase)
        && EmailAddress.Read(address).Try(out var read, out _)
            ? read
            : null;

    private static string? Text(JsonElement? information, string name) =>
        information is { ValueKind: JsonValueKind.Object } told && told.TryGetProperty(name, out var value)
            ? value.ValueKind switch
            {
                JsonValueKind.String => value.GetString(),
                JsonValueKind.True => "true",
                _ => null,
            }
            : null;
}
