using System.Globalization;
using ComeAboard.Core;
using ComeAboard.Core.Access;
using ComeAboard.Core.Accounts;
using ComeAboard.Core.Workspaces;
using ComeAboard.Service.Invitations;

namespace ComeAboard.Service.Mail;

/// <summary>German.</summary>
internal sealed partial class GermanPhrases : Phrases
{
    public override string Language => "de";
    public override CultureInfo Culture { get; } = CultureInfo.GetCultureInfo("de-DE");

    public override string Day(DateOnly day) => day.ToString("d. MMMM yyyy", Culture);

    public override string Instant(DateTimeOffset at, TimeZoneInfo zone) =>
        TimeZoneInfo.ConvertTime(at, zone).ToString("d. MMMM yyyy, HH:mm", Culture) + $" Uhr ({zone.Id})";

    public override string StaySentence(Stay stay) =>
        (stay.FirstDay is { } first ? $"Ihr Zugang beginnt am {Day(first)}. " : "")
        + (
            stay.LastDay is { } day
                ? $"Ihr Zugang endet nach dem {Day(day)}."
                : "Ihr Zugang hat kein Enddatum."
        );

    public override string RoleSentence(Role role, Kind kind) =>
        role.IsBuiltIn
            ? role.Everywhere switch
            {
                Level.View => "Alles im Arbeitsbereich ansehen.",
                Level.Contribute => "Alles im Arbeitsbereich ansehen, ergänzen und Eigenes ändern.",
                Level.Edit => "Alles im Arbeitsbereich ansehen und ändern.",
                _ => "Alles im Arbeitsbereich ansehen, ändern und ordnen.",
            }
                + (
                    role.DutiesFor(kind) == Duties.None
                        ? ""
                        : " Als Verwalterin oder Verwalter: Menschen einladen, Zugänge beenden, das Protokoll lesen."
                )
            // The workspace writes the sentences of its own roles in its own language.
            : role.SentenceFor(kind);

    public override string RoleAt(Role role, string resource, Kind kind) =>
        role.IsBuiltIn
            ? role.Everywhere switch
            {
                Level.View => $"{resource} ansehen.",
                Level.Contribute => $"{resource} ansehen, ergänzen und Eigenes ändern.",
                Level.Edit => $"{resource} ansehen und ändern.",
                _ => $"{resource} ansehen, ändern und ordnen.",
            }
            : $"{resource}: {role.Sentence}";

    public override string NothingYet => "Noch nichts: Dort entscheidet jemand, was Sie tun können.";

    public override LetterWords AccessChanged(string name, string workspace, string can) =>
        new(
            $"Was Sie bei {workspace} tun können, hat sich geändert",
            [Greeting(name), $"Was Sie bei {workspace} tun können, hat sich geändert. Von jetzt an: {can}"],
            [$"Sie bekommen diese Nachricht, weil Sie bei {workspace} Mitglied sind."]
        );

    public override string AsKind(Kind kind) => "als " + KindWord(kind);

    public override string KindWord(Kind kind) =>
        kind switch
        {
            Kind.Staff => "Teil der Belegschaft",
            Kind.Guest => "Gast",
            Kind.Partner => "Partner",
            _ => "Auftraggeber",
        };

    public override string Greeting(string name) => name.Length > 0 ? $"Guten Tag {name}," : "Guten Tag,";

    public override Wording Invitation { get; } =
        new(
            "{{ inviter }} lädt Sie zu {{ workspace }} ein",
            """
            {{ greeting }}

            {{ inviter }} lädt Sie {{ as_kind }} zu {{ workspace }} ein.

            Was Sie dort tun können: {{ can }} {{ stay }}
            """
        );

    public override Wording Reminder { get; } =
        new(
            "Noch offen: {{ inviter }} lädt Sie zu {{ workspace }} ein",
            """
            {{ greeting }}

            {{ inviter }} hat Sie {{ as_kind }} zu {{ workspace }} eingeladen, und Sie haben noch nicht geantwortet. Das können Sie bis {{ deadline }} tun.

            Was Sie dort tun können: {{ can }} {{ stay }}
            """
        );

    public override string Writes(string who) => $"{who} schreibt:";

    public override string SeeTheInvitation => "Einladung ansehen";
    public override string SeeYourPlaces => "Meine Orte ansehen";
    public override string SeeThePerson => "Person ansehen";

    public override IReadOnlyList<string> InvitationSmall(string address, string deadline, string inviter) =>
        [
            $"Die Einladung gilt für {address} und kann bis {deadline} beantwortet werden.",
            $"Sie erhalten diese Nachricht, weil {inviter} Ihre Adresse eingetragen hat. Das Öffnen des Links nimmt nichts an: Auf der Seite können Sie annehmen, ablehnen oder darum bitten, nicht mehr eingeladen zu werden.",
            "Der Link ist nur für Sie bestimmt; bitte geben Sie ihn nicht weiter.",
        ];

    public override LetterWords Code(string workspace, string invited, string account, string code) =>
        new(
            $"Ihr Code für {workspace}",
            [
                "Guten Tag,",
                $"jemand, der als {account} angemeldet ist, möchte die Einladung annehmen, die an {invited} ging. Wenn Sie das sind, geben Sie diesen Code auf der Seite der Einladung ein:",
            ],
            [
                "Der Code gilt 10 Minuten.",
                "Wenn Sie es nicht sind, geben Sie den Code niemandem: Ohne ihn kann die Einladung nicht angenommen werden.",
            ]
        )
        {
            Code = code,
        };

    public override LetterWords Welcome(
        string name,
        string workspace,
        string asKind,
        string can,
        string stay,
        string address,
        string joined,
        string? host
    ) =>
        new(
            $"Willkommen an Bord: {workspace}",
            [
                Greeting(name),
                $"Sie haben die Einladung zu {workspace} {asKind} angenommen.",
                $"Was Sie tun können: {can} {stay}" + (host is null ? "" : $" Für Sie da ist {host}."),
            ],
            [
                $"Sie erhalten diese Nachricht, weil die Einladung an {address} am {joined} angenommen wurde. Wenn Sie das nicht waren, antworten Sie bitte sofort auf diese Nachricht.",
            ]
        );

    public override LetterWords Accepted(
        string inviter,
        string person,
        string workspace,
        string address,
        string asKind
    ) =>
        new(
            $"{person} hat Ihre Einladung angenommen",
            [
                Greeting(inviter),
                $"{person} hat Ihre Einladung zu {workspace} angenommen, die an {address} ging, und ist jetzt {asKind} dabei.",
            ],
            ["Sie erhalten diese Nachricht, weil Sie eingeladen haben oder Gastgeber sind."]
        );

    public override LetterWords AwaitsApproval(
        string approver,
        string person,
        string workspace,
        string asKind
    ) =>
        new(
            $"{person} wartet auf Freigabe",
            [
                Greeting(approver),
                $"{person} hat eine Einladung zu {workspace} {asKind} angenommen. Sie wird wirksam, sobald jemand sie freigibt.",
            ],
            ["Sie erhalten diese Nachricht, weil Sie eingeladen haben."]
        );

    public override LetterWords Waiting(string name, string workspace) =>
        new(
            $"Ihre Antwort ist vermerkt: {workspace}",
            [
                Greeting(name),
                $"Sie haben die Einladung zu {workspace} angenommen. Dort muss sie noch jemand freigeben; sobald das geschehen ist, erhalten Sie eine Nachricht.",
            ],
            [
                "Sie erhalten diese Nachricht, weil die Einladung an Ihre Adresse angenommen wurde. Wenn Sie das nicht waren, antworten Sie bitte sofort.",
            ]
        );

    public override LetterWords NotApproved(string name, string workspace, string reason) =>
        new(
            $"Nicht freigegeben: {workspace}",
            [
                Greeting(name),
                $"Ihre Annahme der Einladung zu {workspace} wurde nicht freigegeben."
                    + (reason.Length > 0 ? $" Der angegebene Grund: {reason}" : ""),
                "Ihr Konto selbst bleibt unberührt.",
            ],
            ["Wenn Sie das für einen Irrtum halten, antworten Sie auf diese Nachricht."]
        );

    public override LetterWords NewPassword(string name) =>
        new(
            "Neues Passwort wählen",
            [
                Greeting(name),
                "jemand – hoffentlich Sie – hat um ein neues Passwort für Ihr Konto gebeten. Mit diesem Link wählen Sie eines:",
            ],
            [
                "Der Link gilt eine Stunde lang, ein Mal. Ein neues Passwort beendet alle Anmeldungen des Kontos.",
                "Wenn Sie es nicht waren, tun Sie nichts: Ohne den Link ändert sich nichts.",
            ]
        );

    public override LetterWords SignInCode(string name, string code) =>
        new(
            "Ihr Code zum Anmelden",
            [
                Greeting(name),
                "geben Sie diesen Code auf der Seite ein, auf der Sie darum gebeten haben, und Sie sind angemeldet:",
            ],
            [
                "Der Code gilt 10 Minuten lang, ein Mal.",
                "Wenn Sie nicht darum gebeten haben, geben Sie ihn niemandem, auf keiner Seite und an keinem Telefon: Wer ihn hat, kann sich als Sie anmelden.",
            ]
        )
        {
            Code = code,
        };

    public override LetterWords ProveAddress(string name, string address) =>
        new(
            "Ist das Ihr Postfach?",
            [
                Greeting(name),
                $"Ihr Konto nennt {address} als seine Adresse. Zeigen Sie, dass sie Ihnen gehört, damit sie gilt, falls Sie einmal Ihr Passwort vergessen, und niemand anders sie beanspruchen kann:",
            ],
            ["Der Link gilt 7 Tage. Wenn Sie kein solches Konto haben, tun Sie nichts."]
        );

    public override LetterWords PasswordChanged(string name, string at) =>
        new(
            "Ihr Passwort wurde geändert",
            [
                Greeting(name),
                $"das Passwort Ihres Kontos wurde am {at} geändert, und seine anderen Anmeldungen wurden beendet. API-Tokens gelten weiter; Sie können sie im Arbeitsbereich widerrufen.",
            ],
            ["Wenn Sie es nicht waren, wählen Sie über den Link oben sofort ein anderes."]
        );

    public override LetterWords ClaimAsked(
        string name,
        string workspace,
        string by,
        string address,
        string reason,
        Silence silence,
        string deadline,
        bool isAgain
    ) =>
        new(
            $"{(isAgain ? "Noch einmal: " : "")}{workspace} möchte Ihr Konto verwalten",
            [
                Greeting(name),
                $"{by} bittet für {workspace} darum, dass Ihr Konto {address} in dessen Obhut kommt: {workspace} hat gezeigt, dass es über die Adressen dieser Domain bestimmt.",
                .. reason.Length > 0 ? new[] { $"Als Grund wird genannt: {reason}" } : [],
                .. ClaimChanges(workspace),
                "Sie können mit allem kommen, kommen und Ihre anderen Arbeitsbereiche in einem eigenen Konto behalten, oder ablehnen.",
            ],
            [$"Sie können bis {deadline} antworten. {ClaimSilent(workspace, silence)}"]
        );

    public override IReadOnlyList<string> ClaimChanges(string workspace) =>
        [
            $"{workspace} könnte dann Namen und Adresse des Kontos ändern, seine Zugangswege zurücksetzen und es anhalten oder schließen.",
            "Es könnte sich nicht als Sie anmelden und nicht sehen oder ändern, was Sie in anderen Arbeitsbereichen sind.",
        ];

    public override string ClaimSilent(string workspace, Silence silence) =>
        silence switch
        {
            Silence.Take => $"Wenn Sie nicht antworten, kommt das Konto in die Obhut von {workspace}.",
            Silence.Release =>
                "Wenn Sie nicht antworten, wird dem Konto die Adresse genommen; das Konto selbst bleibt Ihres, unter einer Ersatzadresse.",
            _ => "Wenn Sie nicht antworten, ändert sich nichts.",
        };

    public override LetterWords ClaimAnswered(
        string name,
        string workspace,
        string holder,
        string address,
        ClaimState state,
        bool isSilence
    )
    {
        var said = isSilence
            ? $"{holder} ({address}) hat nicht rechtzeitig geantwortet."
            : $"{holder} ({address}) hat geantwortet.";
        var (subject, what) = state switch
        {
            ClaimState.Taken => (
                $"{holder}: das Konto ist in Obhut",
                isSilence
                    ? $"Wie die Regel von {workspace} sagt, ist das Konto jetzt in dessen Obhut."
                    : $"Das Konto ist jetzt in der Obhut von {workspace}."
            ),
            ClaimState.Agreed => (
                $"{holder} hat zugestimmt",
                $"Das Konto kommt, sobald {workspace} seine Domain nachweist und einen Platz frei hat."
            ),
            ClaimState.Declined => (
                $"{holder} hat abgelehnt",
                "Das Konto bleibt privat. Sie können die Adresse zurücknehmen, nach 14 Tagen noch einmal fragen oder es dabei belassen."
            ),
            ClaimState.Released => (
                $"{holder}: die Adresse wurde zurückgenommen",
                $"Wie die Regel von {workspace} sagt, wurde die Adresse zurückgenommen; das Konto bleibt privat."
            ),
            ClaimState.Unanswered => (
                $"{holder} hat nicht geantwortet",
                "Nichts hat sich geändert. Sie können die Adresse zurücknehmen, noch einmal fragen oder es dabei belassen."
            ),
            _ => ($"{holder}: die Frage ist vorbei", "Nichts hat sich geändert."),
        };
        return new(subject, [Greeting(name), said, what], []);
    }

    public override LetterWords ClaimTurned(
        string name,
        string workspace,
        string by,
        string address,
        ClaimState state,
        string next
    ) =>
        state switch
        {
            ClaimState.Taken => new(
                $"Ihr Konto ist in der Obhut von {workspace}",
                [
                    Greeting(name),
                    $"Ihr Konto {address} ist jetzt in der Obhut von {workspace}.",
                    .. ClaimChanges(workspace),
                ],
                [
                    by.Length > 0
                        ? $"Wenn etwas unklar ist, fragen Sie {by}."
                        : $"Wenn etwas unklar ist, fragen Sie {workspace}.",
                ]
            ),
            ClaimState.Agreed => new(
                $"Ihre Antwort an {workspace}",
                [
                    Greeting(name),
                    $"Sie haben zugestimmt, dass {address} in die Obhut von {workspace} kommt. Das geschieht, sobald {workspace} seine Domain nachweist und Platz für das Konto hat.",
                ],
                ["Sie brauchen nichts zu tun."]
            ),
            ClaimState.Released => new(
                $"{address} ist keine Adresse Ihres Kontos mehr",
                [
                    Greeting(name),
                    $"{workspace} hat die Adresse {address} zurückgenommen. Ihr Konto bleibt Ihres, mit allem, was es in anderen Arbeitsbereichen ist; es heißt jetzt {next}.",
                    "Melden Sie sich damit und mit Ihrem Passwort an, oder mit einem Passkey, und legen Sie eine eigene Adresse fest.",
                ],
                ["Diese Mail ist die letzte an die alte Adresse."]
            ),
            ClaimState.Unanswered => new(
                $"Die Frage von {workspace} ist erledigt",
                [
                    Greeting(name),
                    $"die Zeit für eine Antwort ist vorbei, und nichts hat sich geändert: {address} bleibt Ihres.",
                ],
                ["Man kann Sie wieder fragen."]
            ),
            _ => new(
                $"{workspace} hat seine Frage zurückgezogen",
                [Greeting(name), $"{address} ist ein persönliches Konto; {workspace} verwaltet es nicht."],
                ["Sie brauchen nichts zu tun."]
            ),
        };

    public override LetterWords AccountMade(string name, string workspace, string by, string address) =>
        new(
            $"Ihr Konto bei {workspace}",
            [
                Greeting(name),
                $"{by} hat ein Konto für Sie angelegt, {address}. Es ist in der Obhut von {workspace}. Wählen Sie ein Passwort dafür, das niemand sonst kennt.",
            ],
            ["Der Link gilt 14 Tage, einmal."]
        );

    public override LetterWords AddressCode(string name, string address, string code) =>
        new(
            "Ihr Code für eine andere Adresse",
            [
                Greeting(name),
                $"geben Sie diesen Code auf der Seite an, auf der Sie ihn verlangt haben, und es ist gezeigt, dass {address} Ihnen gehört:",
            ],
            ["Der Code gilt 10 Minuten.", "Wenn Sie ihn nicht verlangt haben, geben Sie ihn niemandem."]
        )
        {
            Code = code,
        };

    public override LetterWords MergeCode(string asker, string address, string code) =>
        new(
            "Ihr Code zum Verbinden zweier Konten",
            [
                "Guten Tag,",
                $"jemand, der als {asker} angemeldet ist, möchte das Konto mit der Adresse {address} mit dem eigenen verbinden. Wenn Sie das sind, geben Sie diesen Code auf der Seite an, auf der Sie ihn verlangt haben:",
            ],
            [
                "Der Code gilt 10 Minuten.",
                "Wenn Sie es nicht sind, geben Sie ihn niemandem: Wer ihn hat, kann das Konto übernehmen.",
            ]
        )
        {
            Code = code,
        };

    public override LetterWords DomainTurned(
        string name,
        string workspace,
        string domain,
        DomainTurn turn,
        string lostBy
    ) =>
        turn switch
        {
            DomainTurn.Proved or DomainTurn.Back => new(
                $"{domain} ist nachgewiesen",
                [
                    Greeting(name),
                    $"es ist gezeigt, dass {domain} zu {workspace} gehört. Konten dort können vom Arbeitsbereich verwaltet werden.",
                ],
                ["Lassen Sie den Eintrag im DNS, wo er ist: Er wird immer wieder angesehen."]
            ),
            DomainTurn.Lost => new(
                $"Der Nachweis für {domain} ist verloren",
                [
                    Greeting(name),
                    $"seit 14 Tagen zeigt das DNS nicht mehr, dass {domain} zu {workspace} gehört. Die Konten dort bleiben, wie sie sind, aber {workspace} kann nichts mehr an ihnen ändern, bis es wieder gezeigt ist.",
                ],
                ["Setzen Sie den Eintrag wieder ein; die Domain wird von selbst angesehen."]
            ),
            _ => new(
                $"{domain} wird nicht mehr gezeigt",
                [
                    Greeting(name),
                    $"das DNS zeigt nicht mehr, dass {domain} zu {workspace} gehört. Bleibt das bis {lostBy} so, kann {workspace} an den Konten, die es dort verwaltet, nichts mehr ändern.",
                ],
                ["Setzen Sie den Eintrag wieder ein; die Domain wird von selbst angesehen."]
            ),
        };

    public override LetterWords AccountMerged(
        string name,
        string workspace,
        string member,
        string address,
        string account,
        bool isParted
    ) =>
        isParted
            ? new(
                $"{member} hat wieder ein eigenes Konto",
                [
                    Greeting(name),
                    $"zwei Konten, die eins geworden waren, wurden wieder getrennt. {member} ({address}) kommt von nun an mit dem Konto {account} zu {workspace}.",
                ],
                ["Was sie hier sind und dürfen, ist wie zuvor. Wenn Sie das nicht erwarten, fragen Sie nach."]
            )
            : new(
                $"Zwei Konten von {member} sind jetzt eins",
                [
                    Greeting(name),
                    $"zwei Konten derselben Person wurden eins. {member} ({address}) kommt von nun an mit dem Konto {account} zu {workspace}.",
                ],
                ["Mehr dürfen sie dadurch hier nicht. Wenn Sie das nicht erwarten, fragen Sie nach."]
            );

    public override LetterWords WayInChanged(string name, string what, string at) =>
        new(
            "Das Anmelden an Ihrem Konto hat sich geändert",
            [Greeting(name), $"am {at} ist mit Ihrem Konto Folgendes geschehen:", what],
            [
                "Wenn Sie es nicht waren, wählen Sie sofort ein anderes Passwort, und sehen Sie nach, was sonst da ist.",
            ]
        );

    public override LetterWords Proposed(
        string name,
        string workspace,
        string by,
        string newName,
        string newAddress,
        string reason,
        string until
    ) =>
        new(
            $"{workspace} schlägt etwas für Ihr Konto vor",
            [
                Greeting(name),
                $"{by} schlägt für {workspace} vor, dass Ihr Konto {(newName.Length == 0 ? "eine andere Hauptadresse" : newAddress.Length == 0 ? "einen anderen Namen" : "einen anderen Namen und eine andere Hauptadresse")} hat:",
                string.Join(", ", new[] { newName, newAddress }.Where(one => one.Length > 0)),
                .. reason.Length > 0 ? [reason] : Array.Empty<string>(),
                newAddress.Length == 0
                    ? $"Bis {until} können Sie dem auf der Seite Ihres Kontos zustimmen."
                    : $"Bis {until} können Sie dem auf der Seite Ihres Kontos zustimmen, sobald Sie gezeigt haben, dass die Adresse Ihnen gehört.",
            ],
            ["Es folgt nichts, wenn Sie es lassen."]
        );

    public override LetterWords TakenBack(string name, string workspace) =>
        new(
            $"Zurückgenommen: {workspace}",
            [
                Greeting(name),
                $"die Einladung zu {workspace}, die Sie angenommen hatten, wurde zurückgenommen, bevor sie freigegeben war.",
                "Sie brauchen nichts zu tun; Ihr Konto selbst bleibt unberührt.",
            ],
            ["Wenn Sie das für einen Irrtum halten, antworten Sie auf diese Nachricht."]
        );

    public override LetterWords Declined(string inviter, string address, string workspace, No no) =>
        new(
            $"{address} hat Ihre Einladung abgelehnt",
            [
                Greeting(inviter),
                $"{address} hat die Einladung zu {workspace} abgelehnt."
                    + (no.NotMe ? " Gemeint war offenbar jemand anderes: Prüfen Sie die Adresse." : "")
                    + (
                        no.DoNotInviteAgain
                            ? " Außerdem wünscht die Adresse keine weiteren Einladungen; weitere werden abgewiesen."
                            : ""
                    ),
            ],
            ["Sie erhalten diese Nachricht, weil Sie eingeladen haben."]
        );

    public override LetterWords Ended(string name, string workspace, string asKind) =>
        new(
            $"Ihr Zugang zu {workspace} ist beendet",
            [
                Greeting(name),
                $"Ihr Zugang zu {workspace} {asKind} ist beendet. Ihr Konto selbst und Ihre Zugänge zu anderen Arbeitsbereichen bleiben unberührt.",
            ],
            ["Wenn Sie das für einen Irrtum halten, antworten Sie auf diese Nachricht."]
        );

    public override LetterWords Reinstated(string name, string workspace, string asKind) =>
        new(
            $"Ihr Zugang zu {workspace} besteht wieder",
            [
                Greeting(name),
                $"das Ende Ihres Zugangs zu {workspace} {asKind} wurde zurückgenommen. Sie haben wieder, was Sie hatten; melden Sie sich an wie zuvor.",
            ],
            ["Wenn Sie das für einen Irrtum halten, antworten Sie auf diese Nachricht."]
        );

    public override Refusal Translate(Refusal refusal) =>
        GermanRefusals.Words.TryGetValue(refusal.Code, out var german)
            ? refusal with
            {
                Sentence = german.Sentence,
                Remedy = german.Remedy,
            }
            : refusal;
}
