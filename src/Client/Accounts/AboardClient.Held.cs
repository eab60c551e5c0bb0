using ComeAboard.Client.Accounts;

namespace ComeAboard.Client;

// Accounts in the workspace's custody. With dryRun everything is decided and nothing kept.
public sealed partial class AboardClient
{
    /// <summary>Makes an account outright at a proved domain; refused with <c>domain.not-shown</c> or <c>account.exists</c>.</summary>
    public Task<HeldAccountView> AddAccountAsync(
        HeldAccountRequest request,
        bool dryRun = false,
        CancellationToken cancellation = default
    ) =>
        CallAsync(
            HttpMethod.Post,
            $"{_workspace}/accounts{Dry(dryRun)}",
            request,
            WireJson.Default.HeldAccountRequest,
            WireJson.Default.HeldAccountView,
            cancellation
        );

    /// <summary>
    /// Pauses, resumes or closes a held account; refused with <c>account.not-held</c> for any other, and closing with
    /// <c>account.elsewhere</c> or <c>account.here</c> while its holder is anywhere with it.
    /// </summary>
    public Task<HeldStepAnswer> StepAccountAsync(
        HeldStepRequest request,
        bool dryRun = false,
        CancellationToken cancellation = default
    ) =>
        CallAsync(
            HttpMethod.Post,
            $"{_workspace}/accounts/steps{Dry(dryRun)}",
            request,
            WireJson.Default.HeldStepRequest,
            WireJson.Default.HeldStepAnswer,
            cancellation
        );

    /// <summary>Removes ways in of a held account; refused with <c>account.not-held</c> for any other.</summary>
    public Task<ResetAnswer> ResetAsync(
        string person,
        ResetRequest request,
        bool dryRun = false,
        CancellationToken cancellation = default
    ) =>
        CallAsync(
            HttpMethod.Post,
            $"{_workspace}/people/{Part(person)}/reset{Dry(dryRun)}",
            request,
            WireJson.Default.ResetRequest,
            WireJson.Default.ResetAnswer,
            cancellation
        );

    /// <summary>
    /// Corrects the name of a held account at once, and its address once its holder has shown that it is theirs; refused with
    /// <c>account.not-held</c> for any other.
    /// </summary>
    public Task<AccountCorrected> CorrectAccountAsync(
        AccountCorrection request,
        bool dryRun = false,
        CancellationToken cancellation = default
    ) => CorrectAsync("correct", request, dryRun, cancellation);

    /// <summary>
    /// New addresses for many at once; each that is not done says why. Refused with <c>pattern.malformed</c>, <c>domain.unknown</c>,
    /// <c>readdress.one-way</c>, <c>readdress.how-many</c> and <c>readdress.twice</c>.
    /// </summary>
    public Task<ReaddressAnswer> ReaddressAsync(
        ReaddressRequest request,
        bool dryRun = false,
        CancellationToken cancellation = default
    ) =>
        CallAsync(
            HttpMethod.Post,
            $"{_workspace}/accounts/readdress{Dry(dryRun)}",
            request,
            WireJson.Default.ReaddressRequest,
            WireJson.Default.ReaddressAnswer,
            cancellation
        );

    /// <summary>Proposes a name or an address to somebody here whose account is their own; refused with <c>account.held</c> for any other.</summary>
    public Task<AccountCorrected> ProposeAsync(
        AccountCorrection request,
        bool dryRun = false,
        CancellationToken cancellation = default
    ) => CorrectAsync("propose", request, dryRun, cancellation);

    private Task<AccountCorrected> CorrectAsync(
        string step,
        AccountCorrection request,
        bool dryRun,
        CancellationToken cancellation
    ) =>
        CallAsync(
            HttpMethod.Post,
            $"{_workspace}/accounts/{step}{Dry(dryRun)}",
            request,
            WireJson.Default.AccountCorrection,
            WireJson.Default.AccountCorrected,
            cancellation
        );
}
