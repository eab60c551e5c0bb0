namespace ComeAboard.Service.Mail;

/// <summary>What people read on pages when something is not done, in German: by the code, whatever the sentence in English names.</summary>
internal static class GermanRefusals
{
    /// <summary>Each sentence with what helps, by the code of the refusal.</summary>
    public static readonly Dictionary<string, (string Sentence, string Remedy)> Words = new()
    {
        ["sign-in.code-wrong"] = (
            "Der Code ist falsch, abgelaufen, oder wurde zu oft versucht.",
            "Prüfen Sie ihn, oder lassen Sie sich einen neuen schicken."
        ),
        ["link.malformed"] = (
            "Der Link ist nicht vollständig.",
            "Öffnen Sie ihn noch einmal aus der Nachricht, oder kopieren Sie ihn ganz."
        ),
        ["link.unknown"] = (
            "Der Link gehört zu keiner Einladung, oder eine neuere Nachricht hat ihn ersetzt.",
            "Suchen Sie nach einer neueren Nachricht, oder bitten Sie um eine neue Einladung."
        ),
        ["link.used"] = (
            "Diese Einladung ist schon beantwortet.",
            "Melden Sie sich mit dem Konto an, mit dem sie angenommen wurde."
        ),
        ["link.revoked"] = (
            "Diese Einladung wurde zurückgenommen.",
            "Fragen Sie nach, wenn Sie das für einen Irrtum halten."
        ),
        ["link.expired"] = ("Die Zeit dieses Links ist abgelaufen.", "Bitten Sie um einen neuen."),
        ["link.waiting"] = (
            "Sie haben diese Einladung schon angenommen; jemand muss sie noch freigeben.",
            "Sie erhalten eine Nachricht, sobald das geschehen ist."
        ),
        ["link.refused"] = (
            "Sie haben diese Einladung angenommen, und sie wurde nicht freigegeben.",
            "Fragen Sie nach, wer Sie eingeladen hat."
        ),
        ["link.closed"] = ("Dieser Link wurde geschlossen.", "Bitten Sie um einen anderen."),
        ["link.used-up"] = (
            "So viele, wie dieser Link vorsieht, sind schon dabei.",
            "Bitten Sie um einen anderen."
        ),
        ["link.domain"] = (
            "Dieser Link gilt nur für bestimmte Mail-Domänen.",
            "Geben Sie Ihre Adresse dort an."
        ),
        ["name.missing"] = (
            "Ein neues Konto braucht einen Namen.",
            "Geben Sie den Namen an, den andere sehen sollen."
        ),
        ["name.too-long"] = ("Der Name ist zu lang.", "Kürzen Sie ihn."),
        ["name.characters"] = (
            "Der Name enthält ein Zeichen, das dort nicht stehen darf.",
            "Schreiben Sie ihn noch einmal."
        ),
        ["password.too-short"] = (
            "Das Passwort ist kürzer als 10 Zeichen.",
            "Nehmen Sie ein längeres; ein paar Wörter zusammen sind am besten."
        ),
        ["password.too-long"] = ("Das Passwort ist länger als 128 Zeichen.", "Nehmen Sie ein kürzeres."),
        ["password.common"] = (
            "Dieses Passwort ist leicht zu erraten.",
            "Nehmen Sie ein anderes; ein paar Wörter zusammen sind am besten."
        ),
        ["sign-in.wrong"] = ("Adresse oder Passwort stimmen nicht.", "Prüfen Sie beides."),
        ["sign-in.required"] = (
            "Niemand ist angemeldet, oder die Anmeldung ist abgelaufen.",
            "Melden Sie sich an und versuchen Sie es noch einmal."
        ),
        ["account.exists"] = (
            "Zu dieser Adresse gibt es schon ein Konto.",
            "Melden Sie sich damit an, um anzunehmen."
        ),
        ["account.member"] = (
            "Dieses Konto ist hier schon dabei.",
            "Nehmen Sie mit einem anderen Konto an, oder lehnen Sie ab."
        ),
        ["account.address-taken"] = (
            "Diese Adresse gehört zu einem anderen Konto.",
            "Melden Sie sich mit jenem Konto an."
        ),
        ["code.needed"] = (
            "Ihr Konto hat eine andere Adresse als die eingeladene.",
            "Lassen Sie sich einen Code an die eingeladene Adresse schicken und geben Sie ihn hier ein."
        ),
        ["code.wrong"] = (
            "Der Code ist falsch, abgelaufen oder wurde zu oft versucht.",
            "Prüfen Sie ihn, oder lassen Sie sich einen neuen schicken."
        ),
        ["stay.past"] = ("Die Zeit, für die diese Einladung galt, ist vorbei.", "Bitten Sie um eine neue."),
        ["too-many"] = (
            "Das wurde zu oft in kurzer Zeit verlangt.",
            "Warten Sie ein wenig und versuchen Sie es noch einmal."
        ),
        ["address.malformed"] = ("Das ist keine Mail-Adresse.", "Berichtigen Sie sie."),
        ["address.missing"] = ("Es wurde keine Mail-Adresse angegeben.", "Geben Sie eine an."),
        ["address.domain-malformed"] = ("Hinter dem @ steht keine Mail-Domäne.", "Berichtigen Sie sie."),
        ["antiforgery.missing"] = (
            "Die Seite, von der das kam, ist älter als die Anmeldung.",
            "Laden Sie die Seite neu und wiederholen Sie den Schritt."
        ),
        ["workspace.not-found"] = (
            "Diesen Arbeitsbereich gibt es nicht, oder Sie gehören nicht dazu.",
            "Prüfen Sie seinen Kurznamen."
        ),
        ["request.malformed"] = (
            "Was gesendet wurde, ist nicht zu lesen.",
            "Laden Sie die Seite neu und wiederholen Sie den Schritt."
        ),
        ["storage.busy"] = (
            "Die Datenbank ist gerade beschäftigt. Es wurde nichts geschrieben.",
            "Versuchen Sie es gleich noch einmal."
        ),
        ["storage.away"] = (
            "Die Datenbank ist nicht zu erreichen. Es wurde nichts geschrieben.",
            "Versuchen Sie es gleich noch einmal; sagen Sie es dem Betreiber, wenn es so bleibt."
        ),
        ["service.fault"] = (
            "Der Dienst ist daran gescheitert; geändert wurde nichts.",
            "Versuchen Sie es noch einmal; bleibt es so, sagen Sie dem Betreiber, wann es geschah."
        ),
        ["not-found"] = ("Unter diesem Namen gibt es hier nichts.", "Prüfen Sie die Adresse."),
        ["password.wrong"] = (
            "Das bisherige Passwort ist ein anderes.",
            "Geben Sie das bisherige an; haben Sie es vergessen, melden Sie sich ab und lassen sich einen Link schicken."
        ),
        ["second-step.wrong"] = (
            "Dieser Code ist falsch, abgelaufen oder schon gebraucht.",
            "Warten Sie auf den nächsten, oder nehmen Sie einen Ihrer Wiederherstellungscodes."
        ),
        ["second-step.due"] = (
            "Die Anmeldung zu diesem Konto braucht einen zweiten Schritt.",
            "Geben Sie den Code an, den das Gerät jetzt zeigt, oder einen Ihrer Wiederherstellungscodes."
        ),
        ["second-step.offer-over"] = (
            "Das hat länger als zehn Minuten gedauert, oder war für jemand anderes.",
            "Beginnen Sie noch einmal."
        ),
        ["second-step.exists"] = (
            "Dieses Konto hat schon einen zweiten Schritt.",
            "Entfernen Sie ihn zuerst."
        ),
        ["second-step.not-due"] = (
            "Hier wartet keine Anmeldung auf einen Code; nach zehn Minuten ist sie vorbei.",
            "Melden Sie sich noch einmal an."
        ),
        ["sign-in.passkey-wrong"] = (
            "Mit diesem Passkey kommt hier niemand hinein, oder es hat zu lange gedauert.",
            "Versuchen Sie es noch einmal, oder melden Sie sich anders an."
        ),
        ["passkey.not-made"] = (
            "Der Passkey ließ sich nicht aufnehmen: Was der Browser geschickt hat, stimmt nicht, oder es hat zu lange gedauert.",
            "Versuchen Sie es noch einmal."
        ),
        ["passkey.too-many"] = (
            "Mehr Passkeys kann ein Konto nicht haben.",
            "Entfernen Sie einen, den Sie nicht mehr brauchen."
        ),
        ["outside.not-invited"] = (
            "Diese Adresse ist hier nicht eingeladen.",
            "Bitten Sie, wer den Arbeitsbereich betreut, um eine Einladung."
        ),
        ["outside.unverified"] = (
            "Ihre Organisation bürgt für keine Adresse von Ihnen.",
            "Melden Sie sich anders an, oder lassen Sie Ihre Adresse dort bestätigen."
        ),
        ["outside.other-domain"] = (
            "Ihre Adresse gehört zu keiner Domäne, für die die Anmeldung Ihrer Organisation hier zählt.",
            "Melden Sie sich anders an."
        ),
        ["outside.account-there"] = (
            "Zu dieser Adresse gibt es ein Konto, und nur wer es hat, kann diese Anmeldung dazunehmen.",
            "Melden Sie sich damit an wie sonst, und nehmen Sie die Anmeldung Ihrer Organisation auf der Seite Ihres Kontos dazu."
        ),
        ["outside.failed"] = (
            "Die Anmeldung durch Ihre Organisation ist misslungen: Ihre Antwort stimmte nicht, oder kam zu spät.",
            "Beginnen Sie noch einmal, oder melden Sie sich anders an."
        ),
        ["outside.denied"] = (
            "Ihre Organisation hat Sie nicht angemeldet.",
            "Beginnen Sie noch einmal, oder melden Sie sich anders an."
        ),
        ["outside.away"] = (
            "Die Anmeldung Ihrer Organisation antwortet nicht.",
            "Versuchen Sie es später, oder melden Sie sich anders an."
        ),
        ["outside.over"] = (
            "Die Anmeldung dieser Organisation zählt hier nicht mehr.",
            "Melden Sie sich anders an."
        ),
        ["outside.not-yours"] = (
            "Die Organisation bürgt für niemanden, der sich mit diesem Konto anmelden kann.",
            "Melden Sie sich dort als Sie selbst an, oder nehmen Sie jene Adresse zuerst in Ihr Konto auf."
        ),
        ["outside.not-fresh"] = (
            "Die Organisation hat Sie nicht neu gefragt, wer Sie sind.",
            "Zeigen Sie es hier auf eine andere Weise."
        ),
        ["outside.tied"] = (
            "Daran ist schon ein Konto gebunden.",
            "Melden Sie sich damit an, um zu sehen, welches."
        ),
        ["outside.no-provider"] = (
            "Für diese Adresse ist hier keine Anmeldung einer Organisation bekannt.",
            "Prüfen Sie die Adresse, oder melden Sie sich anders an."
        ),
        ["account.merged"] = (
            "Dieses Konto wurde mit einem anderen von Ihnen zu einem gemacht.",
            "Melden Sie sich wie bei jenem an, oder mit einem Code an eine Ihrer Adressen."
        ),
        ["account.closed"] = (
            "Dieses Konto wurde geschlossen.",
            "Fragen Sie, wer es geschlossen hat; geöffnet werden kann es nicht mehr."
        ),
        ["account.paused"] = (
            "Dieses Konto ist angehalten.",
            "Bitten Sie den Arbeitsbereich, in dessen Obhut es ist, Sie wieder einzulassen."
        ),
        ["access.ended"] = (
            "Ihr Zugang zu diesem Arbeitsbereich ist beendet.",
            "Fragen Sie, wer Sie eingeladen hat."
        ),
        ["access.not-begun"] = (
            "Ihre Zeit in diesem Arbeitsbereich hat noch nicht begonnen.",
            "Kommen Sie am ersten Tag wieder; wann das ist, steht unter „Meine Orte“."
        ),
        ["access.paused"] = (
            "Ihr Zugang zu diesem Arbeitsbereich ist angehalten.",
            "Fragen Sie Ihre Ansprechperson, oder wer den Arbeitsbereich verwaltet."
        ),
        ["access.agreement-over"] = (
            "Die Vereinbarung dieses Arbeitsbereichs mit Ihrer Organisation ist abgelaufen.",
            "Fragen Sie Ihre Ansprechperson, oder wer den Arbeitsbereich verwaltet."
        ),
        ["sign-in.too-weak"] = (
            "Wer hier Aufgaben hat, meldet sich mit einem Passkey oder einem zweiten Schritt an.",
            "Nehmen Sie in Ihrem Konto einen Passkey auf oder richten Sie den zweiten Schritt ein, und melden Sie sich damit an."
        ),
        ["proof.stale"] = (
            "Sie haben vor mehr als 10 Minuten gezeigt, dass dieses Konto Ihres ist.",
            "Zeigen Sie es noch einmal, und wiederholen Sie den Schritt."
        ),
        ["claim.over"] = (
            "Diese Frage ist beantwortet, zurückgenommen oder vorbei, oder eine neuere Nachricht hat einen anderen Link.",
            "Sehen Sie in Ihr Konto oder in die neueste Nachricht."
        ),
        ["claim.answer-unknown"] = (
            "Das ist keine Antwort auf diese Frage.",
            "Nehmen Sie eine der drei, die auf der Seite stehen."
        ),
        ["claim.keep-same"] = (
            "Auch das ist eine Adresse des Arbeitsbereichs, der fragt.",
            "Geben Sie eine eigene an, die woanders ist."
        ),
        ["claim.keep-unproved"] = (
            "Es ist nicht gezeigt, dass diese Adresse Ihre ist.",
            "Lassen Sie einen Code dorthin schicken, und geben Sie ihn hier an."
        ),
        ["claim.keep-taken"] = (
            "Diese Adresse gehört schon zu einem anderen Konto.",
            "Geben Sie eine an, zu der es noch kein Konto gibt."
        ),
        ["split.code-wrong"] = (
            "Der Code ist falsch, abgelaufen oder wurde zu oft versucht.",
            "Prüfen Sie ihn, oder lassen Sie sich einen neuen schicken."
        ),
        ["split.over"] = (
            "Die beiden Konten lassen sich auf diesem Weg nicht mehr zusammenführen.",
            "Es geht nur eine Zeit lang, und einmal."
        ),
        ["split.gone"] = (
            "Das Konto, von dem es abgetrennt wurde, ist geschlossen.",
            "Bleiben Sie bei diesem."
        ),
        ["split.both-here"] = (
            "Inzwischen kennt ein Arbeitsbereich beide Konten.",
            "Verlassen Sie ihn mit einem der beiden, oder behalten Sie beide."
        ),
        ["address.code-wrong"] = (
            "Der Code ist falsch, abgelaufen oder wurde zu oft versucht.",
            "Prüfen Sie ihn, oder lassen Sie sich einen neuen schicken."
        ),
        ["address.taken"] = (
            "Das ist die Adresse eines anderen Kontos.",
            "Melden Sie sich mit jenem an, oder geben Sie eine andere an."
        ),
        ["address.unproved"] = (
            "Es ist nicht gezeigt, dass diese Adresse Ihre ist.",
            "Lassen Sie einen Code dorthin schicken, und nehmen Sie sie in Ihr Konto auf."
        ),
        ["address.main"] = ("Das ist die Hauptadresse des Kontos.", "Machen Sie zuerst eine andere dazu."),
        ["address.last"] = (
            "Das ist die einzige Adresse, von der gezeigt ist, dass sie Ihre ist.",
            "Nehmen Sie zuerst eine andere auf."
        ),
        ["account.held"] = (
            "Dieses Konto ist in der Obhut eines Arbeitsbereichs, wegen seiner Hauptadresse.",
            "Bitten Sie ihn, sie zu ändern oder das Konto freizugeben."
        ),
        ["proposal.gone"] = ("Das wird nicht mehr vorgeschlagen.", "Es ist nichts zu tun."),
        ["proposal.unproved"] = (
            "Es ist noch nicht gezeigt, dass die vorgeschlagene Adresse Ihre ist.",
            "Lassen Sie einen Code dorthin schicken, und nehmen Sie sie in Ihr Konto auf."
        ),
        ["device.code-wrong"] = (
            "Kein Gerät wartet mit diesem Code; er gilt zehn Minuten, und einmal.",
            "Prüfen Sie ihn, oder beginnen Sie am Gerät noch einmal."
        ),
        ["application.no-access"] = (
            "Sie haben dort keinen Zugang.",
            "Fragen Sie Ihre Ansprechperson, oder bitten Sie um eine Einladung."
        ),
        ["application.out"] = (
            "Womit dieses Programm eingelassen war, gilt nicht mehr.",
            "Melden Sie sich noch einmal an."
        ),
        ["application.wrong-request"] = (
            "Eine Anwendung hat Sie mit einer Anfrage hierher geschickt, die nicht stimmt.",
            "Gehen Sie zu ihr zurück, oder sagen Sie es denen, die sie betreuen."
        ),
        ["merge.not-shown"] = (
            "Vor mehr als zehn Minuten wurde gezeigt, dass auch das andere Konto Ihres ist.",
            "Lassen Sie noch einmal einen Code dorthin schicken."
        ),
        ["merge.one"] = ("Beide sind ein und dasselbe Konto.", "Geben Sie eine Adresse des anderen an."),
        ["merge.over"] = (
            "Die beiden Konten lassen sich nicht mehr trennen.",
            "Es geht nur eine Zeit lang, und einmal."
        ),
        ["merge.gone"] = (
            "Das Konto, das blieb, ist geschlossen, und mit ihm, was zu beiden gehörte.",
            "Lassen Sie sich neu einladen."
        ),
        ["merge.held"] = (
            "Das Konto, das ginge, ist in der Obhut eines Arbeitsbereichs und kommt auf diesem Weg nicht heraus.",
            "Behalten Sie jenes Konto und lassen das andere gehen, oder bitten Sie den Arbeitsbereich, es freizugeben."
        ),
        ["merge.asked"] = (
            "Ein Arbeitsbereich hat nach einem der beiden Konten gefragt und wartet auf Antwort.",
            "Antworten Sie zuerst darauf."
        ),
        ["merge.last-address"] = (
            "Das Konto, das blieb, hat sonst keine Adresse, von der gezeigt ist, dass sie Ihre ist.",
            "Nehmen Sie dort zuerst eine auf."
        ),
        ["merge.differs"] = (
            "Das Zusammenlegen käme inzwischen auf etwas anderes heraus als geplant.",
            "Es wurde nichts geändert. Sehen Sie es sich noch einmal an."
        ),
        ["code.not-needed"] = (
            "Dieser Link kam mit einer Nachricht und zeigt schon, dass das Postfach Ihres ist.",
            "Nehmen Sie ohne Code an."
        ),
        ["administrator.last"] = (
            "Das ist die letzte Verwaltung ohne Enddatum; ohne sie könnte niemand mehr für den Arbeitsbereich sorgen.",
            "Machen Sie zuerst jemand anderes dazu."
        ),
        ["name.link"] = (
            "Der Name enthält etwas, woraus Mailprogramme einen Link machen.",
            "Setzen Sie hinter den Punkt ein Leerzeichen, oder lassen Sie ihn weg."
        ),
        ["seat.none-free"] = ("Es ist kein Platz frei.", "Fragen Sie, wer Sie eingeladen hat."),
        ["organisation.over"] = (
            "Die Vereinbarung mit Ihrer Organisation ist abgelaufen.",
            "Fragen Sie Ihre Ansprechperson."
        ),
        ["version.stale"] = (
            "Inzwischen hat jemand anderes etwas daran geändert.",
            "Sehen Sie es sich noch einmal an, und wiederholen Sie, was noch gewünscht ist."
        ),
        ["right.missing"] = (
            "Das gehört nicht zu Ihren Aufgaben hier.",
            "Fragen Sie, wer den Arbeitsbereich verwaltet."
        ),
        ["right.not-lead"] = (
            "Sie stehen hier keiner Organisation vor.",
            "Fragen Sie Ihre Ansprechperson im Arbeitsbereich."
        ),
        ["storage.unknown"] = (
            "Die Datenbank ging verloren, während das geschrieben wurde; ob es geschah, ist nicht bekannt.",
            "Sehen Sie nach, ob es da ist, bevor Sie es wiederholen."
        ),
        ["request.too-large"] = ("Was gesendet wurde, ist zu groß.", "Senden Sie weniger auf einmal."),
        ["merge.closed"] = (
            "Eines der beiden Konten ist geschlossen.",
            "Davon ist nichts übrig, was zusammenkommen könnte."
        ),
        ["merge.paused"] = (
            "Eines der beiden Konten ist angehalten.",
            "Lassen Sie es zuerst wieder in Gang setzen."
        ),
        ["language.unknown"] = (
            "In dieser Sprache können hier noch keine Nachrichten geschrieben werden.",
            "Wählen Sie eine von denen, die zur Wahl stehen."
        ),
        ["claim.no-account"] = (
            "Unter dieser Adresse gibt es kein Konto mehr, nach dem gefragt werden könnte.",
            "Es ist nichts zu tun."
        ),
        ["claim.step"] = (
            "Das geht bei dieser Frage nicht mehr.",
            "Laden Sie die Seite neu, und sehen Sie, wie sie jetzt steht."
        ),
        ["invitation.final"] = (
            "Diese Einladung ist schon beantwortet oder vorbei.",
            "Bitten Sie um eine neue, wenn Sie eine brauchen."
        ),
        ["invitation.not-pending"] = (
            "Diese Einladung wartet nicht mehr auf Antwort.",
            "Bitten Sie um eine neue, wenn Sie eine brauchen."
        ),
    };
}
