using ComeAboard.Core;

namespace ComeAboard.Service;

/// <summary>The refusals that belong to no step of the work.</summary>
public static class CommonRefusals
{
    public static Refusal NotFound { get; } =
        new(
            "not-found",
            "There is nothing here by that name.",
            "Check the address or the id.",
            RefusalSort.NotFound
        );

    public static Refusal SignInRequired { get; } =
        new(
            "sign-in.required",
            "Nobody is signed in, or the sign-in has ended.",
            "Sign in and try again.",
            RefusalSort.NotSignedIn
        );

    public static Refusal TooMany { get; } =
        new(
            "too-many",
            "That was asked too often in a short time.",
            "Wait a little and try again.",
            RefusalSort.TooMany
        );

    public static Refusal Stale { get; } =
        new(
            "version.stale",
            "Somebody else changed this meanwhile.",
            "Look at it again and repeat what is still wanted.",
            RefusalSort.Stale
        );

    public static Refusal Unseen { get; } =
        new(
            "version.required",
            "The request does not say which version it changes, so it could undo what somebody else did.",
            "Send the version of what you looked at in If-Match, or * for whatever it is now.",
            RefusalSort.Unseen
        );

    public static Refusal Malformed(string why) =>
        new(
            "request.malformed",
            "The request cannot be read: " + why,
            "Correct it as the interface's description says."
        );

    public static Refusal Antiforgery { get; } =
        new(
            "antiforgery.missing",
            "The page that sent this is older than the sign-in: its antiforgery token is not this session's.",
            "Load the page again and repeat the step.",
            RefusalSort.NotAllowed
        );
}
