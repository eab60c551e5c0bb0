namespace ComeAboard.Service.Mail;

/// <summary>What the pages say on which programs and devices are let in.</summary>
public sealed record ProgramWords
{
    public required string DeviceTitle { get; init; }
    public required string DeviceCodeHow { get; init; }
    public required string DeviceAsks { get; init; }
    public required string DeviceCode { get; init; }
    public required string DeviceProgram { get; init; }
    public required string DeviceNetwork { get; init; }
    public required string DeviceSince { get; init; }
    public required string DeviceAs { get; init; }
    public required string DeviceWarning { get; init; }
    public required string DeviceAllow { get; init; }
    public required string DeviceDeny { get; init; }
    public required string DeviceIn { get; init; }
    public required string DeviceInHow { get; init; }
    public required string DeviceRefused { get; init; }
    public required string DeviceRefusedHow { get; init; }
    public required string GoOn { get; init; }

    /// <summary>{0} is the program.</summary>
    public required string LetIn { get; init; }

    /// <summary>{0} is the program, {1} the workspace.</summary>
    public required string LetInWhat { get; init; }
    public required string LetInDuties { get; init; }
    public required string LetInStays { get; init; }
    public required string LetInUntilSignOut { get; init; }
    public required string LetInYes { get; init; }
    public required string LetInNo { get; init; }

    /// <summary>What somebody may do who holds a duty, by its word.</summary>
    public required IReadOnlyDictionary<string, string> DutySentences { get; init; }
    public required string SignOutTitle { get; init; }
    public required string SignOutWhat { get; init; }
    public required string StaySignedIn { get; init; }
    public required string OnwardTitle { get; init; }
    public required string RequestWrong { get; init; }

    /// <summary>In a language.</summary>
    /// <param name="language">A BCP 47 tag.</param>
    public static ProgramWords Of(string language) => language == "de" ? German : English;

    private static ProgramWords English { get; } =
        new()
        {
            DeviceTitle = "Sign a device in",
            DeviceCodeHow = "The code that the device shows",
            DeviceAsks = "A device asks to be signed in as you, and to do all you may do:",
            DeviceCode = "Code",
            DeviceProgram = "Program",
            DeviceNetwork = "From",
            DeviceSince = "Since",
            DeviceAs = "As",
            DeviceWarning =
                "Allow it only if you began this yourself just now and the device shows this very code. We never ask anybody for such a code.",
            DeviceAllow = "Allow",
            DeviceDeny = "Do not allow",
            DeviceIn = "The device is signed in",
            DeviceInHow =
                "It goes on by itself in a few seconds. Your account lists it with your other sign-ins; you can close it there.",
            DeviceRefused = "The device is not signed in",
            DeviceRefusedHow = "It is told so. Nothing else has changed.",
            GoOn = "Go on",
            LetIn = "Let {0} act for you?",
            LetInWhat = "{0}, of {1}, learns your name and address there.",
            LetInDuties = "It may do in your name:",
            LetInStays = "It stays let in for 30 days, also when you sign out here.",
            LetInUntilSignOut = "It is let in until you sign out here.",
            LetInYes = "Let it in",
            LetInNo = "Do not let it in",
            DutySentences = new Dictionary<string, string>
            {
                ["invite"] = "invite people",
                ["approve"] = "approve or refuse who was invited",
                ["people"] = "see people, change their details, end their access",
                ["access"] = "decide who may do what",
                ["seats"] = "give and take seats",
                ["claims"] = "ask accounts into the workspace's custody",
                ["record"] = "read the record",
                ["settings"] = "change the workspace's settings",
            },
            SignOutTitle = "Sign out here, too?",
            SignOutWhat = "You signed out of a program that you came to from here.",
            StaySignedIn = "Stay signed in",
            OnwardTitle = "One moment",
            RequestWrong = "This does not lead on",
        };

    private static ProgramWords German { get; } =
        new()
        {
            DeviceTitle = "Ein Gerät anmelden",
            DeviceCodeHow = "Der Code, den das Gerät zeigt",
            DeviceAsks = "Ein Gerät möchte als Sie angemeldet werden und alles tun, was Sie dürfen:",
            DeviceCode = "Code",
            DeviceProgram = "Programm",
            DeviceNetwork = "Von",
            DeviceSince = "Seit",
            DeviceAs = "Als",
            DeviceWarning =
                "Erlauben Sie es nur, wenn Sie das eben selbst begonnen haben und das Gerät genau diesen Code zeigt. Wir fragen niemanden nach einem solchen Code.",
            DeviceAllow = "Erlauben",
            DeviceDeny = "Nicht erlauben",
            DeviceIn = "Das Gerät ist angemeldet",
            DeviceInHow =
                "Es macht in wenigen Sekunden von selbst weiter. Ihr Konto führt es bei Ihren anderen Anmeldungen auf; dort können Sie es beenden.",
            DeviceRefused = "Das Gerät ist nicht angemeldet",
            DeviceRefusedHow = "Es erfährt das. Sonst hat sich nichts geändert.",
            GoOn = "Weiter",
            LetIn = "Darf {0} für Sie handeln?",
            LetInWhat = "{0}, von {1}, erfährt Ihren Namen und Ihre Adresse dort.",
            LetInDuties = "Es darf in Ihrem Namen:",
            LetInStays = "Es bleibt 30 Tage zugelassen, auch wenn Sie sich hier abmelden.",
            LetInUntilSignOut = "Es ist zugelassen, bis Sie sich hier abmelden.",
            LetInYes = "Zulassen",
            LetInNo = "Nicht zulassen",
            DutySentences = new Dictionary<string, string>
            {
                ["invite"] = "Leute einladen",
                ["approve"] = "annehmen oder ablehnen, wer eingeladen wurde",
                ["people"] = "Leute sehen, ihre Angaben ändern, ihren Zugang beenden",
                ["access"] = "entscheiden, wer was darf",
                ["seats"] = "Plätze geben und nehmen",
                ["claims"] = "Konten in die Obhut des Arbeitsbereichs erbitten",
                ["record"] = "das Protokoll lesen",
                ["settings"] = "die Einstellungen des Arbeitsbereichs ändern",
            },
            SignOutTitle = "Auch hier abmelden?",
            SignOutWhat = "Sie haben sich von einem Programm abgemeldet, zu dem Sie von hier kamen.",
            StaySignedIn = "Angemeldet bleiben",
            OnwardTitle = "Einen Augenblick",
            RequestWrong = "Hier geht es nicht weiter",
        };
}
