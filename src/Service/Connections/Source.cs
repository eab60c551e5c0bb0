using ComeAboard.Core;
using ComeAboard.Core.Connections;

namespace ComeAboard.Service.Connections;

/// <summary>How an outside system is read.</summary>
/// <param name="Base">Below which entry of the directory people are (LDAP); empty otherwise.</param>
/// <param name="Filter">Which entries are people; empty for the usual.</param>
/// <param name="SignInAs">The entry that is signed in with (LDAP); empty for none.</param>
/// <param name="Certificate">The certificates (PEM) of the authority that vouches for it; empty for the public ones.</param>
public sealed record SourceSettings(string Base, string Filter, string SignInAs, string Certificate)
{
    /// <summary>Where a token is asked for with the secret (OAuth 2.0 client credentials); empty where the secret is the token.</summary>
    public string TokenUrl { get; init; } = "";

    /// <summary>As which client it is asked for.</summary>
    public string ClientId { get; init; } = "";

    /// <summary>
    /// Whether somebody meant it to be at an address of this network; such a one is reached only where the operator allows it,
    /// too. Null where it was added before that was asked.
    /// </summary>
    public bool? AllowPrivate { get; init; }
}

/// <summary>Everything that is needed to read an outside system.</summary>
/// <param name="Workspace">Whose connection it is.</param>
/// <param name="Connection">Its id.</param>
/// <param name="Place">Where it is.</param>
/// <param name="Settings">How it is read.</param>
/// <param name="Secret">The secret it is asked with; empty for none.</param>
public sealed record SourceAccess(
    Guid Workspace,
    Guid Connection,
    string Place,
    SourceSettings Settings,
    string Secret
);

/// <summary>A type of outside system.</summary>
public interface IConnectionType
{
    /// <summary>Its word: file, ldap, scim, postgres or webhook.</summary>
    string Type { get; }

    /// <summary>Reads where one is; refuses with <c>connection.place</c>.</summary>
    Outcome<string> ReadPlace(string? url);
}

/// <summary>
/// An outside system that people are read from. It gives them page by page, and either comes to the end of all of them or
/// ends with a <see cref="SourceException"/>: what came before the fault is only a part and counts for nothing.
/// </summary>
public interface ISource : IConnectionType
{
    /// <summary>Reads people, page by page.</summary>
    IAsyncEnumerable<IReadOnlyList<SourceRecord>> PagesAsync(SourceAccess access, CancellationToken stop);
}

/// <summary>Why an outside system could not be read to its end.</summary>
public sealed class SourceException(Refusal refusal) : Exception(refusal.Sentence)
{
    /// <summary>The reason, for people.</summary>
    public Refusal Refusal => refusal;

    /// <summary>It cannot be reached, or stopped answering: <c>connection.unreachable</c>.</summary>
    public static SourceException Unreachable(string why) =>
        new(
            new Refusal(
                "connection.unreachable",
                $"It could not be read: {why}",
                "Look whether it can be reached from this service, and try again. Nothing was changed.",
                RefusalSort.Conflict
            )
        );

    /// <summary>It answered in part only: <c>connection.partial</c>.</summary>
    public static SourceException Partial(string why) =>
        new(
            new Refusal(
                "connection.partial",
                $"It answered in part only: {why}",
                "Have it allow larger answers to this account. Nothing was changed.",
                RefusalSort.Conflict
            )
        );
}
