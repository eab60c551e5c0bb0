using ComeAboard.Service.Mail;
using ComeAboard.Service.Workspaces;
using ComeAboard.Storage.Accounts;

namespace ComeAboard.Service.Accounts;

/// <summary>Tells the holder of an account by mail what happened to it, in the words of its history.</summary>
public sealed class HolderNews(Outbox outbox, ServiceSettings settings)
{
    /// <summary>Queues the mail, within a change of the workspace it goes out from.</summary>
    /// <param name="write">The change.</param>
    /// <param name="account">Whose; the mail goes to its main address.</param>
    /// <param name="action">What, as its history says it: <c>account.reset</c>.</param>
    /// <param name="details">What the sentence about it names.</param>
    public void Tell(
        WorkspaceWrite write,
        AccountRow account,
        string action,
        params IEnumerable<(string Name, object? Value)> details
    ) =>
        outbox.Queue(
            write,
            Purposes.Notice,
            account.Address,
            Letters.WayInChanged(
                account,
                write.Workspace,
                HistoryPhrases.Sentence(
                    account.Language,
                    action,
                    details.ToDictionary(detail => detail.Name, detail => detail.Value?.ToString() ?? "")
                ),
                write.Now,
                settings.Link("/account")
            )
        );
}
