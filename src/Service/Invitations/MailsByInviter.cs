using ComeAboard.Core;
using ComeAboard.Service.Workspaces;

namespace ComeAboard.Service.Invitations;

/// <summary>
/// How much mail one inviter causes by lists and by steps for many, whichever process they ask: singly they have a budget of
/// their own.
/// </summary>
public sealed class MailsByInviter(Budgets budgets, ServiceSettings settings)
{
    private static readonly TimeSpan Window = TimeSpan.FromDays(1);

    private const string Budget = "listed";

    /// <summary>
    /// Does something that causes some mails if the inviter's budget holds them; refuses with <c>too-many</c> what goes beyond
    /// it. What is refused in the end has cost nothing.
    /// </summary>
    public async Task<Outcome<T>> WithinAsync<T>(Visitor visitor, int mails, Func<Task<Outcome<T>>> work)
        where T : notnull
    {
        if (mails <= 0)
            return await work();
        var (most, whose) = (settings.Limits.ListedPerDay, visitor.Member.AccountId.ToString());
        if (await budgets.TakeAsync(Budget, whose, most, Window, mails) is { } wait)
            return new Refusal(
                "too-many",
                $"These {mails} mails would be more than the {most} a day that one inviter may cause by lists.",
                $"Try again in {Math.Ceiling(wait.TotalHours)} hours, or with fewer; the operator can allow more (Limits:ListedPerDay).",
                RefusalSort.TooMany
            );
        var outcome = await work();
        if (!outcome.Succeeded)
            await budgets.GiveBackAsync(Budget, whose, mails);
        return outcome;
    }
}
