namespace ComeAboard.Core.Accounts;

/// <summary>What follows from a step of a claim, in the words in which it is shown before it is done.</summary>
public static class ClaimOutlook
{
    /// <summary>What a step comes to, one sentence each; what cannot be done has a refusal instead.</summary>
    /// <param name="before">The claim before the step.</param>
    /// <param name="step">The step.</param>
    /// <param name="facts">What is known of the account.</param>
    /// <param name="seat">What its custody takes of the seats, as a sentence; null where none are counted.</param>
    public static IReadOnlyList<string> Of(Claim before, ClaimStep step, ClaimFacts facts, string? seat)
    {
        var elsewhere = facts.OtherWorkspaces switch
        {
            0 => "The account is in no other workspace.",
            1 => "The account is in 1 other workspace, which nothing is changed in.",
            var many => $"The account is in {many} other workspaces, which nothing is changed in.",
        };
        if (step.Asks)
            return
            [
                elsewhere,
                "If they come, you may correct its name and address, reset its ways in, and pause or close it; you may not sign in as them.",
                .. facts.OtherWorkspaces > 0
                    ? ["They may keep the rest in an account of their own, at another address."]
                    : Array.Empty<string>(),
                .. seat is null ? Array.Empty<string>() : ["Then: " + seat],
                "If they decline, nothing changes; you may ask again after 14 days, or take the address back.",
                Silent(step.Next),
            ];
        if (step.Takes)
            return
            [
                elsewhere,
                "You may correct its name and address, reset its ways in, and pause or close it; you may not sign in as them.",
                .. seat is null ? Array.Empty<string>() : [seat],
                "Its holder is told, by mail and in their account.",
            ];
        if (step.GivesUp)
            return
            [
                "The account is its holder's own again, with all it is; what it may do here stays.",
                "Ways in by the workspace's own providers end; a seat that came with custody is free.",
                "Its holder is told.",
            ];
        if (step.FreesAddress)
            return
            [
                "The address is free for a new account.",
                "The account goes on under another address of its holder's, or a stand-in; all it is stays, here and elsewhere.",
                "Its holder is told, and how to set another address.",
            ];
        return before.State == ClaimState.Asked
            ? ["Nothing changes; its holder is told that the question is withdrawn."]
            : ["Nothing changes."];
    }

    private static string Silent(Claim asked) =>
        asked.IsSitting ? "If they do not answer while you sit together, the question is withdrawn by itself."
        : asked.Silence == Silence.Take
            ? "If they do not answer in time, the account is taken, once three mails have gone."
        : asked.Silence == Silence.Release ? "If they do not answer in time, the address is taken back."
        : "If they do not answer in time, nothing follows; you decide then.";
}
