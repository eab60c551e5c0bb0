using System.Text.RegularExpressions;
using ComeAboard.Core.Invitations;

namespace ComeAboard.Core.Workspaces;

/// <summary>What an administrator or operator decides about a workspace when it is made.</summary>
public sealed partial record WorkspaceSettings
{
    /// <summary>How long an invitation may be answered when nobody says otherwise.</summary>
    public static readonly TimeSpan DefaultAnswerTime = TimeSpan.FromDays(30);

    private WorkspaceSettings(string name, string shortName, TimeZoneInfo zone, string language)
    {
        Name = name;
        ShortName = shortName;
        Zone = zone;
        Language = language;
    }

    /// <summary>The name people see.</summary>
    public string Name { get; }

    /// <summary>The name in links: lower-case letters, digits and hyphens, 2 to 40 characters.</summary>
    public string ShortName { get; }

    /// <summary>The time zone in which days begin and end here.</summary>
    public TimeZoneInfo Zone { get; }

    /// <summary>The language of mails, as a BCP 47 tag.</summary>
    public string Language { get; }

    /// <summary>
    /// Reads the settings of a new workspace; refuses with <c>workspace.name</c>, <c>workspace.short-name</c>,
    /// <c>workspace.time-zone</c> or <c>language.unknown</c>.
    /// </summary>
    public static Outcome<WorkspaceSettings> Read(
        string? name,
        string? shortName,
        string? timeZone,
        string? language
    )
    {
        if (!PlainText.ReadName(name).Try(out var goodName, out var refusal) || goodName.Length == 0)
            return refusal
                ?? new Refusal("workspace.name", "The workspace has no name.", "Give it one.", Field: "name");
        shortName ??= Shorten(goodName);
        if (!ShortNameForm().IsMatch(shortName))
            return new Refusal(
                "workspace.short-name",
                $"\"{Words.Short(shortName)}\" cannot be a short name.",
                "Use 2 to 40 lower-case letters, digits and hyphens, beginning with a letter.",
                Field: "shortName"
            );
        if (!TimeZoneInfo.TryFindSystemTimeZoneById(timeZone ?? "Etc/UTC", out var zone))
            return new Refusal(
                "workspace.time-zone",
                $"There is no time zone \"{Words.Short(timeZone)}\".",
                "Use a name of the time zone database, such as Europe/Lisbon.",
                Field: "timeZone"
            );
        return Languages.Read(language ?? Languages.Default).Try(out var tag, out refusal)
            ? new WorkspaceSettings(goodName, shortName, zone, tag)
            : refusal;
    }

    private static string Shorten(string name)
    {
        var words = NotInShortName().Replace(name.ToLowerInvariant(), "-").Trim('-');
        return words.Length > 40 ? words[..40].Trim('-') : words;
    }

    [GeneratedRegex("^[a-z][a-z0-9-]{0,38}[a-z0-9]$", RegexOptions.CultureInvariant)]
    private static partial Regex ShortNameForm();

    [GeneratedRegex("[^a-z0-9]+", RegexOptions.CultureInvariant)]
    private static partial Regex NotInShortName();
}

/// <summary>The languages that mails and invitee pages are complete in.</summary>
public static class Languages
{
    /// <summary>The language used when nobody says otherwise.</summary>
    public const string Default = "en";

    /// <summary>All, as BCP 47 tags.</summary>
    public static IReadOnlyList<string> All { get; } = [Default, "de"];

    /// <summary>Reads a language tag; refuses with <c>language.unknown</c>.</summary>
    public static Outcome<string> Read(string? tag)
    {
        var found = All.FirstOrDefault(l =>
            string.Equals(l, tag?.Trim(), StringComparison.OrdinalIgnoreCase)
        );
        return found is not null
            ? found
            : new Refusal(
                "language.unknown",
                $"Mails cannot be written in \"{Words.Short(tag)}\" yet.",
                $"Use one of: {string.Join(", ", All)}.",
                Field: "language"
            );
    }
}
