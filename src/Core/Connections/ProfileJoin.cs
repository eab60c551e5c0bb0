namespace ComeAboard.Core.Connections;

/// <summary>Whose value of a field wins where a profile here is joined with a record there.</summary>
public enum WhoseValue
{
    /// <summary>Ours stays where there is one; an empty field is filled.</summary>
    Filled,

    /// <summary>Theirs is taken over, and kept up to date.</summary>
    Theirs,

    /// <summary>Ours stays, even where it is empty.</summary>
    Ours,
}

/// <summary>A field of a profile that outside systems know as well.</summary>
public enum ProfileField
{
    /// <summary>The name.</summary>
    Name,

    /// <summary>The organisation as it is written; it never makes anybody belong to an organisation the workspace knows.</summary>
    Organisation,

    /// <summary>The job title.</summary>
    Title,

    /// <summary>The department.</summary>
    Department,

    /// <summary>Whom they report to.</summary>
    Manager,

    /// <summary>The country.</summary>
    Country,
}

/// <summary>What stands in a profile here.</summary>
/// <param name="Name">The name.</param>
/// <param name="Organisation">The organisation, as it is written.</param>
/// <param name="Title">The job title.</param>
/// <param name="Department">The department.</param>
/// <param name="Manager">Whom they report to.</param>
/// <param name="Country">The country.</param>
/// <param name="IsInOrganisation">Whether they belong to an organisation the workspace knows: that stays, since access hangs on it.</param>
public sealed record Profile(
    string Name,
    string Organisation,
    string Title,
    string Department,
    string Manager,
    string Country,
    bool IsInOrganisation
)
{
    /// <summary>What stands in a field.</summary>
    public string this[ProfileField field] =>
        field switch
        {
            ProfileField.Name => Name,
            ProfileField.Organisation => Organisation,
            ProfileField.Title => Title,
            ProfileField.Department => Department,
            ProfileField.Manager => Manager,
            _ => Country,
        };
}

/// <summary>A field that joining changes.</summary>
/// <param name="Field">Which.</param>
/// <param name="Before">What stands there.</param>
/// <param name="After">What will stand there; never empty.</param>
public sealed record FieldChange(ProfileField Field, string Before, string After);

/// <summary>
/// Joining a profile here with a record there, field by field. It changes what is written of somebody and never what they
/// may do: nobody gets into an organisation, or out of one, by it. An empty value there never empties a field here.
/// </summary>
public sealed class ProfileJoin
{
    private readonly IReadOnlyDictionary<ProfileField, WhoseValue> _rules;

    private ProfileJoin(IReadOnlyDictionary<ProfileField, WhoseValue> rules) => _rules = rules;

    /// <summary>The words of the fields, and of whose values win.</summary>
    public static IReadOnlyList<string> FieldWords { get; } =
    [.. Enum.GetNames<ProfileField>().Select(name => name.ToLowerInvariant())];

    /// <summary>Reads the rules; fields that are not named are filled where they are empty.</summary>
    /// <param name="rules">By the word of the field: filled, theirs or ours.</param>
    /// <returns>The rules, or <c>wins.unknown</c>.</returns>
    public static Outcome<ProfileJoin> Read(IReadOnlyDictionary<string, string>? rules)
    {
        var read = new Dictionary<ProfileField, WhoseValue>();
        foreach (var (field, whose) in rules ?? new Dictionary<string, string>())
        {
            if (!FieldWords.Contains(field) || !Enum.TryParse<ProfileField>(field, true, out var known))
                return Unknown($"There is no field \"{Words.Short(field)}\".");
            if (
                whose is not ("filled" or "theirs" or "ours")
                || !Enum.TryParse<WhoseValue>(whose, true, out var wins)
            )
                return Unknown($"\"{Words.Short(whose)}\" does not say whose {field} wins.");
            read[known] = wins;
        }
        return new ProfileJoin(read);
    }

    /// <summary>The rules in words, all fields in their order.</summary>
    public IReadOnlyDictionary<string, string> Said =>
        Enum.GetValues<ProfileField>()
            .ToDictionary(
                one => one.ToString().ToLowerInvariant(),
                one => Of(one).ToString().ToLowerInvariant()
            );

    /// <summary>What joining changes, in the order of the fields.</summary>
    public IReadOnlyList<FieldChange> Changes(Profile ours, SourceRecord theirs) =>
        [
            .. Enum.GetValues<ProfileField>()
                .Select(field => new FieldChange(field, ours[field], Theirs(theirs, field)))
                .Where(one =>
                    one.After.Length > 0
                    && one.After != one.Before
                    && (
                        Of(one.Field) == WhoseValue.Theirs
                        || Of(one.Field) == WhoseValue.Filled && one.Before.Length == 0
                    )
                    && !(one.Field == ProfileField.Organisation && ours.IsInOrganisation)
                ),
        ];

    private WhoseValue Of(ProfileField field) => _rules.GetValueOrDefault(field, WhoseValue.Filled);

    private static string Theirs(SourceRecord theirs, ProfileField field) =>
        field switch
        {
            // What is shown in place of a name that is missing is no name.
            ProfileField.Name => theirs.Name.Length > 0 ? theirs.Name
            : theirs.GivenName.Length > 0 && theirs.FamilyName.Length > 0
                ? $"{theirs.GivenName} {theirs.FamilyName}"
            : "",
            ProfileField.Organisation => theirs.Organisation,
            ProfileField.Title => theirs.Title,
            ProfileField.Department => theirs.Department,
            ProfileField.Manager => theirs.Manager,
            _ => theirs.Country,
        };

    private static Refusal Unknown(string sentence) =>
        new(
            "wins.unknown",
            sentence,
            $"Write it like title=theirs; the fields are {string.Join(", ", FieldWords)}, and there are filled, theirs and ours.",
            Field: "wins"
        );
}
