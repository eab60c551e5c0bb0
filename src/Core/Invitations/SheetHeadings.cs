using ComeAboard.Core.Matching;

namespace ComeAboard.Core.Invitations;

/// <summary>The headings of lists of people, in every language shipped; known without any knowledge of the machine's languages.</summary>
public static class SheetHeadings
{
    /// <summary>The headings of the template in English and German; other spellings are understood too.</summary>
    public static IReadOnlyDictionary<SheetColumn, (string English, string German)> All { get; } =
        new Dictionary<SheetColumn, (string, string)>
        {
            [SheetColumn.Address] = ("Address", "Adresse"),
            [SheetColumn.Name] = ("Name", "Name"),
            [SheetColumn.GivenName] = ("Given name", "Vorname"),
            [SheetColumn.FamilyName] = ("Family name", "Nachname"),
            [SheetColumn.Kind] = ("Kind", "Art"),
            [SheetColumn.Organisation] = ("Organisation", "Organisation"),
            [SheetColumn.Title] = ("Title", "Funktion"),
            [SheetColumn.Department] = ("Department", "Abteilung"),
            [SheetColumn.Manager] = ("Manager", "Vorgesetzte"),
            [SheetColumn.Country] = ("Country", "Land"),
            [SheetColumn.Language] = ("Language", "Sprache"),
            [SheetColumn.Host] = ("Host", "Gastgeber"),
            [SheetColumn.Role] = ("Role", "Rolle"),
            [SheetColumn.Group] = ("Group", "Gruppe"),
            [SheetColumn.Resource] = ("Resource", "Ressource"),
            [SheetColumn.From] = ("Start", "Beginn"),
            [SheetColumn.Until] = ("End", "Ende"),
            [SheetColumn.Message] = ("Message", "Nachricht"),
            [SheetColumn.Note] = ("Note", "Notiz"),
        };

    private static readonly Dictionary<string, SheetColumn> Known = Spellings();

    /// <summary>The column that is headed so; case, accents, spaces and signs do not matter. Null for none.</summary>
    public static SheetColumn? Find(string heading) =>
        Known.TryGetValue(Folding.Fold(heading), out var column) ? column : null;

    /// <summary>The separator that stands most often in the first line, outside quotes.</summary>
    public static char SeparatorOf(ReadOnlySpan<byte> csv)
    {
        var (commas, semicolons, tabs, quoted) = (0, 0, 0, false);
        foreach (var sign in csv)
        {
            if (sign == '"')
                quoted = !quoted;
            if (quoted)
                continue;
            if (sign is (byte)'\n' or (byte)'\r' && commas + semicolons + tabs > 0)
                break;
            commas += sign == ',' ? 1 : 0;
            semicolons += sign == ';' ? 1 : 0;
            tabs += sign == '\t' ? 1 : 0;
            if (sign == '\n')
                break;
        }
        return semicolons > commas && semicolons >= tabs ? ';'
            : tabs > commas ? '\t'
            : ',';
    }

    private static Dictionary<string, SheetColumn> Spellings()
    {
        var known = new Dictionary<string, SheetColumn>(StringComparer.Ordinal);
        foreach (var (column, (english, german)) in All)
        {
            known[Folding.Fold(english)] = column;
            known[Folding.Fold(german)] = column;
        }
        foreach (
            var (spelling, column) in (ReadOnlySpan<(string, SheetColumn)>)
                [
                    ("mail", SheetColumn.Address),
                    ("email", SheetColumn.Address),
                    ("mailaddress", SheetColumn.Address),
                    ("emailaddress", SheetColumn.Address),
                    ("mailadresse", SheetColumn.Address),
                    ("emailadresse", SheetColumn.Address),
                    ("fullname", SheetColumn.Name),
                    ("vollername", SheetColumn.Name),
                    ("firstname", SheetColumn.GivenName),
                    ("lastname", SheetColumn.FamilyName),
                    ("surname", SheetColumn.FamilyName),
                    ("familienname", SheetColumn.FamilyName),
                    ("organization", SheetColumn.Organisation),
                    ("company", SheetColumn.Organisation),
                    ("firma", SheetColumn.Organisation),
                    ("jobtitle", SheetColumn.Title),
                    ("position", SheetColumn.Title),
                    ("startdate", SheetColumn.From),
                    ("startday", SheetColumn.From),
                    ("starts", SheetColumn.From),
                    ("startson", SheetColumn.From),
                    ("firstday", SheetColumn.From),
                    ("begin", SheetColumn.From),
                    ("begins", SheetColumn.From),
                    ("beginning", SheetColumn.From),
                    ("begindate", SheetColumn.From),
                    ("from", SheetColumn.From),
                    ("since", SheetColumn.From),
                    ("validfrom", SheetColumn.From),
                    ("arrival", SheetColumn.From),
                    ("arrives", SheetColumn.From),
                    ("accessfrom", SheetColumn.From),
                    ("joining", SheetColumn.From),
                    ("joiningdate", SheetColumn.From),
                    ("startdatum", SheetColumn.From),
                    ("starttag", SheetColumn.From),
                    ("erstertag", SheetColumn.From),
                    ("anfang", SheetColumn.From),
                    ("anfangsdatum", SheetColumn.From),
                    ("beginndatum", SheetColumn.From),
                    ("beginntag", SheetColumn.From),
                    ("von", SheetColumn.From),
                    ("ab", SheetColumn.From),
                    ("gueltigab", SheetColumn.From),
                    ("gueltigvon", SheetColumn.From),
                    ("gultigab", SheetColumn.From),
                    ("gultigvon", SheetColumn.From),
                    ("eintritt", SheetColumn.From),
                    ("eintrittsdatum", SheetColumn.From),
                    ("anreise", SheetColumn.From),
                    ("zugangab", SheetColumn.From),
                    ("enddate", SheetColumn.Until),
                    ("endday", SheetColumn.Until),
                    ("ends", SheetColumn.Until),
                    ("endson", SheetColumn.Until),
                    ("lastday", SheetColumn.Until),
                    ("until", SheetColumn.Until),
                    ("to", SheetColumn.Until),
                    ("till", SheetColumn.Until),
                    ("through", SheetColumn.Until),
                    ("finish", SheetColumn.Until),
                    ("finishes", SheetColumn.Until),
                    ("expiry", SheetColumn.Until),
                    ("expires", SheetColumn.Until),
                    ("expireson", SheetColumn.Until),
                    ("expirydate", SheetColumn.Until),
                    ("validuntil", SheetColumn.Until),
                    ("validto", SheetColumn.Until),
                    ("validtill", SheetColumn.Until),
                    ("departure", SheetColumn.Until),
                    ("departs", SheetColumn.Until),
                    ("leaving", SheetColumn.Until),
                    ("leavingdate", SheetColumn.Until),
                    ("accessuntil", SheetColumn.Until),
                    ("enddatum", SheetColumn.Until),
                    ("endtag", SheetColumn.Until),
                    ("letztertag", SheetColumn.Until),
                    ("bis", SheetColumn.Until),
                    ("gueltigbis", SheetColumn.Until),
                    ("gultigbis", SheetColumn.Until),
                    ("befristetbis", SheetColumn.Until),
                    ("befristung", SheetColumn.Until),
                    ("ablauf", SheetColumn.Until),
                    ("ablaufdatum", SheetColumn.Until),
                    ("lauftab", SheetColumn.Until),
                    ("austritt", SheetColumn.Until),
                    ("austrittsdatum", SheetColumn.Until),
                    ("abreise", SheetColumn.Until),
                    ("zugangbis", SheetColumn.Until),
                    ("remarkonreading", SheetColumn.Remark),
                    ("vorgesetzter", SheetColumn.Manager),
                    ("gastgeberin", SheetColumn.Host),
                ]
        )
            known[Folding.Fold(spelling)] = column;
        return known;
    }
}
