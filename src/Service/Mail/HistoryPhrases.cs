namespace ComeAboard.Service.Mail;

/// <summary>What happened to an account, in sentences for its holder.</summary>
public static class HistoryPhrases
{
    private static readonly Dictionary<string, (string English, string German)> Sentences = new()
    {
        ["account.made"] = (
            "The account was made, with the address {address}.",
            "Das Konto wurde angelegt, mit der Adresse {address}."
        ),
        ["account.accepted"] = (
            "You accepted the invitation to {workspace}.",
            "Sie haben die Einladung zu {workspace} angenommen."
        ),
        ["account.signed-in"] = ("You signed in, {with}.", "Sie haben sich angemeldet, {with}."),
        ["account.sign-in-closed"] = (
            "The sign-in of {browser} was closed.",
            "Die Anmeldung von {browser} wurde beendet."
        ),
        ["account.sign-ins-closed"] = (
            "All other sign-ins were closed: {count}.",
            "Alle anderen Anmeldungen wurden beendet: {count}."
        ),
        ["account.password-changed"] = (
            "The password was changed. Other sign-ins that were closed: {other sign-ins closed}.",
            "Das Passwort wurde geändert. Andere Anmeldungen, die beendet wurden: {other sign-ins closed}."
        ),
        ["account.password-link"] = (
            "A link for a new password was mailed to {address}.",
            "Ein Link für ein neues Passwort wurde an {address} geschickt."
        ),
        ["account.code-mailed"] = (
            "A code to sign in with was mailed to {address}.",
            "Ein Code zum Anmelden wurde an {address} geschickt."
        ),
        ["account.language-changed"] = (
            "The language of your mails and pages was changed to {after}.",
            "Die Sprache Ihrer Mails und Seiten wurde auf {after} geändert."
        ),
        ["account.passkey-added"] = (
            "The passkey \"{label}\" was added.",
            "Der Passkey „{label}“ wurde hinzugefügt."
        ),
        ["account.passkey-removed"] = (
            "The passkey \"{label}\" was removed.",
            "Der Passkey „{label}“ wurde entfernt."
        ),
        ["account.proof-link"] = (
            "A link to show that {address} is yours was mailed there.",
            "Ein Link, der zeigt, dass {address} Ihnen gehört, wurde dorthin geschickt."
        ),
        ["account.address-proved"] = (
            "It was shown that {address} is yours.",
            "Es wurde gezeigt, dass {address} Ihnen gehört."
        ),
        ["account.recovery-link"] = (
            "The operator of the service made a link for a new password.",
            "Der Betreiber des Dienstes hat einen Link für ein neues Passwort erzeugt."
        ),
    };

    private static readonly Dictionary<string, (string English, string German)> Ways = new()
    {
        ["password"] = ("with the password", "mit dem Passwort"),
        ["passkey"] = ("with a passkey", "mit einem Passkey"),
        ["mailedcode"] = ("with a mailed code", "mit einem zugesandten Code"),
        ["mailedlink"] = ("by a mailed link", "über einen zugesandten Link"),
    };

    /// <summary>What happened, as a sentence.</summary>
    /// <param name="language">The account's language.</param>
    /// <param name="action">What happened: <c>account.signed-in</c>.</param>
    /// <param name="details">Names and numbers of it.</param>
    public static string Sentence(string language, string action, IReadOnlyDictionary<string, string> details)
    {
        if (!Sentences.TryGetValue(action, out var both))
            return action;
        var sentence = Choose(language, both);
        foreach (var (name, value) in details)
            sentence = sentence.Replace(
                "{" + name + "}",
                Word(language, name, value),
                StringComparison.Ordinal
            );
        return sentence;
    }

    /// <summary>By what somebody signed in: <c>with the password</c>.</summary>
    public static string Way(string language, string way) =>
        Ways.TryGetValue(way, out var both) ? Choose(language, both) : way;

    private static string Word(string language, string name, string value) =>
        name switch
        {
            "with" => Way(language, value),
            "after" when value.Length == 2 => System
                .Globalization.CultureInfo.GetCultureInfo(value)
                .NativeName,
            "browser" => SignIn.BrowserNames.Of(value) is { Length: > 0 } browser ? browser : "–",
            _ => value,
        };

    private static string Choose(string language, (string English, string German) both) =>
        language == "de" ? both.German : both.English;
}
