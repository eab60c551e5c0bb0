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
        ["account.signed-in-to"] = (
            "You signed in to {program}, of {workspace}.",
            "Sie haben sich bei {program} angemeldet, von {workspace}."
        ),
        ["account.program-ended"] = (
            "You ended what {program} was let in by.",
            "Sie haben beendet, wodurch {program} zugelassen war."
        ),
        ["account.device-signed-in"] = (
            "A device was signed in that you allowed: {browser}, {network}.",
            "Ein Gerät wurde angemeldet, das Sie erlaubt haben: {browser}, {network}."
        ),
        ["account.claim.asked"] = (
            "{by} asked, for {workspace}, that {address} comes into its custody.",
            "{by} hat für {workspace} gebeten, dass {address} in dessen Obhut kommt."
        ),
        ["account.claim.agreed"] = (
            "You agreed that {address} comes into the custody of {workspace}.",
            "Sie haben zugestimmt, dass {address} in die Obhut von {workspace} kommt."
        ),
        ["account.claim.declined"] = (
            "You declined that {address} comes into the custody of {workspace}.",
            "Sie haben abgelehnt, dass {address} in die Obhut von {workspace} kommt."
        ),
        ["account.claim.taken"] = (
            "{address} came into the custody of {workspace}.",
            "{address} kam in die Obhut von {workspace}."
        ),
        ["account.claim.released"] = (
            "{workspace} took the address {address} back.",
            "{workspace} hat die Adresse {address} zurückgenommen."
        ),
        ["account.claim.dropped"] = (
            "{workspace} withdrew its question, or gave custody up.",
            "{workspace} hat seine Frage zurückgezogen oder die Obhut aufgegeben."
        ),
        ["account.claim.unanswered"] = (
            "The time to answer {workspace} was over; nothing changed.",
            "Die Zeit, {workspace} zu antworten, war vorbei; nichts hat sich geändert."
        ),
        ["account.held"] = (
            "{by} made it, in the custody of {workspace}.",
            "{by} hat es angelegt, in der Obhut von {workspace}."
        ),
        ["account.reset"] = (
            "{by} removed, for {workspace}: {ways}. All sign-ins were closed.",
            "{by} hat für {workspace} entfernt: {ways}. Alle Anmeldungen wurden beendet."
        ),
        ["account.paused"] = (
            "{by} paused it, for {workspace}. All sign-ins were closed.",
            "{by} hat es für {workspace} angehalten. Alle Anmeldungen wurden beendet."
        ),
        ["account.resumed"] = (
            "{by} let it be used again, for {workspace}.",
            "{by} hat es für {workspace} wieder freigegeben."
        ),
        ["account.closed"] = (
            "{by} closed it for good, for {workspace}.",
            "{by} hat es für {workspace} endgültig geschlossen."
        ),
        ["account.joined-again"] = (
            "Your account at {address} came back into this one, with all it was.",
            "Ihr Konto mit der Adresse {address} kam mit allem zu diesem zurück."
        ),
        ["account.joined-into"] = (
            "This account went back into the one at {address}, with all it was.",
            "Dieses Konto ging mit allem in das Konto mit der Adresse {address} zurück."
        ),
        ["account.merged"] = (
            "Your account at {address} was made one with this one. Its addresses lead here; its ways in rest.",
            "Ihr Konto mit der Adresse {address} wurde mit diesem zu einem. Seine Adressen führen hierher, seine Anmeldewege ruhen."
        ),
        ["account.merged-into"] = (
            "This account was made one with the one at {address}: sign in there, or by a code to any of your addresses.",
            "Dieses Konto wurde eins mit dem Konto mit der Adresse {address}: Melden Sie sich dort an oder mit einem Code an eine Ihrer Adressen."
        ),
        ["account.unmerged"] = (
            "This account and the one at {address} were parted again. All sign-ins were closed.",
            "Dieses Konto und das mit der Adresse {address} wurden wieder getrennt. Alle Anmeldungen wurden beendet."
        ),
        ["account.forgotten"] = (
            "Its ways in were forgotten: the two accounts stay one.",
            "Seine Anmeldewege wurden vergessen: Die beiden Konten bleiben eins."
        ),
        ["account.address-changed"] = (
            "The main address was changed from {before} to {after}.",
            "Die Hauptadresse wurde von {before} auf {after} geändert."
        ),
        ["account.notices-moved"] = (
            "Notices of the work go to {address} from now on.",
            "Nachrichten über die Arbeit gehen von nun an an {address}."
        ),
        ["account.address-removed"] = (
            "The address {address} was removed.",
            "Die Adresse {address} wurde entfernt."
        ),
        ["account.split"] = (
            "Your other workspaces went to an account of your own, {address}.",
            "Ihre anderen Arbeitsbereiche kamen in ein eigenes Konto, {address}."
        ),
        ["account.split-from"] = (
            "This account took over the other workspaces of {address}.",
            "Dieses Konto hat die anderen Arbeitsbereiche von {address} übernommen."
        ),
        ["account.signed-in-twofold"] = (
            "You signed in, {with}, and {second}.",
            "Sie haben sich angemeldet, {with} und {second}."
        ),
        ["account.second-step-added"] = (
            "A second step was set up: signing in asks for a code besides.",
            "Ein zweiter Schritt wurde eingerichtet: Beim Anmelden wird zusätzlich ein Code verlangt."
        ),
        ["account.second-step-removed"] = (
            "The second step was removed, with its recovery codes.",
            "Der zweite Schritt wurde entfernt, mit seinen Wiederherstellungscodes."
        ),
        ["account.recovery-codes-made"] = (
            "New recovery codes were made; the ones before do not count any more.",
            "Neue Wiederherstellungscodes wurden erzeugt; die bisherigen gelten nicht mehr."
        ),
        ["account.recovery-code-used"] = (
            "A recovery code was used; {left} are left.",
            "Ein Wiederherstellungscode wurde benutzt; {left} sind übrig."
        ),
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
        ["account.outside-added"] = (
            "Sign-in by {provider} was added.",
            "Die Anmeldung über {provider} wurde hinzugefügt."
        ),
        ["account.outside-removed"] = (
            "Sign-in by {provider} was removed.",
            "Die Anmeldung über {provider} wurde entfernt."
        ),
        ["account.corrected"] = (
            "{by} corrected the account for {workspace}: {what}.",
            "{by} hat das Konto für {workspace} berichtigt: {what}."
        ),
        ["account.proposed"] = (
            "{by} proposed, for {workspace}: {what}.",
            "{by} hat für {workspace} vorgeschlagen: {what}."
        ),
        ["account.proposal-accepted"] = (
            "You accepted what was proposed: {what}.",
            "Sie haben dem Vorschlag zugestimmt: {what}."
        ),
        ["account.proposal-set-aside"] = (
            "You set aside what was proposed.",
            "Sie haben einen Vorschlag beiseitegelegt."
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
        ["timecode"] = ("with a time-based code", "mit einem zeitbasierten Code"),
        ["recoverycode"] = ("with a recovery code", "mit einem Wiederherstellungscode"),
        ["outsideidentity"] = ("by your organisation", "über Ihre Organisation"),
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
            "with" or "second" => Way(language, value),
            "after" when value.Length == 2 => System
                .Globalization.CultureInfo.GetCultureInfo(value)
                .NativeName,
            "browser" => SignIn.BrowserNames.Of(value) is { Length: > 0 } browser ? browser : "–",
            _ => value,
        };

    private static string Choose(string language, (string English, string German) both) =>
        language == "de" ? both.German : both.English;
}
