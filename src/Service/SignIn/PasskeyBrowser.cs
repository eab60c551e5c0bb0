using System.Text.Json;
using ComeAboard.Storage.Accounts;
using Microsoft.AspNetCore.Identity;

namespace ComeAboard.Service.SignIn;

/// <summary>A browser that is asked to make or show a passkey, through the library that checks what it answers.</summary>
public sealed class PasskeyBrowser
{
    private readonly HttpContext _http;
    private readonly IPasskeyHandler<AccountRow> _handler;

    private PasskeyBrowser(HttpContext http) =>
        (_http, _handler) = (http, http.RequestServices.GetRequiredService<IPasskeyHandler<AccountRow>>());

    /// <summary>The browser of a request.</summary>
    public static PasskeyBrowser Of(HttpContext http) => new(http);

    /// <summary>What it is asked to make a passkey for an account, and what has to be kept of that.</summary>
    public async Task<(string Options, string State)> AskToMakeAsync(AccountRow account)
    {
        var asked = await _handler.MakeCreationOptionsAsync(
            new PasskeyUserEntity
            {
                Id = account.Id.ToString(),
                Name = account.Address,
                DisplayName = account.Name,
            },
            _http
        );
        return (asked.CreationOptionsJson, asked.AttestationState ?? "");
    }

    /// <summary>The passkey it has made for an account; null when what it answers is not right.</summary>
    public async Task<UserPasskeyInfo?> MadeAsync(AccountRow account, JsonElement credential, string state)
    {
        var made = await _handler.PerformAttestationAsync(
            new PasskeyAttestationContext
            {
                HttpContext = _http,
                CredentialJson = credential.GetRawText(),
                AttestationState = state,
            }
        );
        return made.Succeeded && made.UserEntity.Id == account.Id.ToString() ? made.Passkey : null;
    }

    /// <summary>What it is asked to show a passkey of whomever, and what has to be kept of that.</summary>
    public async Task<(string Options, string State)> AskToShowAsync()
    {
        var asked = await _handler.MakeRequestOptionsAsync(null!, _http);
        return (asked.RequestOptionsJson, asked.AssertionState ?? "");
    }

    /// <summary>The account whose passkey it has shown, and the passkey as it is now; null when what it answers is not right.</summary>
    public async Task<(AccountRow Account, UserPasskeyInfo Passkey)?> ShownAsync(
        JsonElement credential,
        string state
    )
    {
        var shown = await _handler.PerformAssertionAsync(
            new PasskeyAssertionContext
            {
                HttpContext = _http,
                CredentialJson = credential.GetRawText(),
                AssertionState = state,
            }
        );
        return shown.Succeeded ? (shown.User, shown.Passkey) : null;
    }
}
