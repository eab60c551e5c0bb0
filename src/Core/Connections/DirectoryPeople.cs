namespace ComeAboard.Core.Connections;

/// <summary>
/// People in a directory: which entries are people, and what their attributes say. The attributes are those of RFC 4519, RFC
/// 2798 (<c>inetOrgPerson</c>) and RFC 4524, and those by which common servers tell that somebody may not sign in.
/// </summary>
public static class DirectoryPeople
{
    /// <summary>The filter (RFC 4515) of the entries that are people, where nobody gives another.</summary>
    public const string Filter = "(objectClass=person)";

    private const int DisabledFlag = 2;

    private static readonly string[] PersonClasses =
    [
        "person",
        "organizationalPerson",
        "inetOrgPerson",
        "user",
    ];

    /// <summary>The attributes that are asked for; operational ones have to be named.</summary>
    public static IReadOnlyList<string> Attributes { get; } =
    [
        "objectClass",
        "entryUUID",
        "objectGUID",
        "nsUniqueId",
        "cn",
        "displayName",
        "givenName",
        "sn",
        "mail",
        "mailLocalAddress",
        "mailAlternateAddress",
        "o",
        "company",
        "ou",
        "department",
        "departmentNumber",
        "title",
        "manager",
        "c",
        "co",
        "telephoneNumber",
        "mobile",
        "pwdAccountLockedTime",
        "nsAccountLock",
        "loginDisabled",
        "userAccountControl",
    ];

    /// <summary>Reads an entry; null where it is no person.</summary>
    public static SourceRecord? Read(DirectoryEntry entry)
    {
        if (!IsPerson(entry))
            return null;
        var addresses = entry
            .All("mail")
            .Concat(entry.All("mailLocalAddress"))
            .Concat(entry.All("mailAlternateAddress"))
            .Distinct(StringComparer.OrdinalIgnoreCase)
            .ToList();
        return new SourceRecord(KeyOf(entry))
        {
            Address = addresses.FirstOrDefault() ?? "",
            OtherAddresses = string.Join(' ', addresses.Skip(1).Take(10)),
            Name = entry.First("displayName", "cn"),
            GivenName = entry.First("givenName"),
            FamilyName = entry.First("sn"),
            Organisation = entry.First("o", "company"),
            Title = entry.First("title"),
            Department = entry.First("department", "ou", "departmentNumber"),
            Manager = NameIn(entry.First("manager")),
            Country = entry.First("co", "c"),
            Phone = entry.First("telephoneNumber", "mobile"),
            IsOff = IsOff(entry),
        };
    }

    private static bool IsPerson(DirectoryEntry entry)
    {
        var classes = entry.All("objectClass");
        if (classes.Contains("computer", StringComparer.OrdinalIgnoreCase))
            return false;
        // A list that names no classes is taken by what it says.
        return classes.Count == 0
            ? entry.First("sn", "mail").Length > 0
            : classes.Any(one => PersonClasses.Contains(one, StringComparer.OrdinalIgnoreCase));
    }

    // A name changes when somebody marries or moves; what the server itself tells entries apart by does not (RFC 4530).
    private static string KeyOf(DirectoryEntry entry)
    {
        var own = entry.First("entryUUID", "objectGUID", "nsUniqueId");
        return own.Length > 0 ? own.ToLowerInvariant() : entry.Name.ToLowerInvariant();
    }

    private static bool IsOff(DirectoryEntry entry) =>
        entry.First("pwdAccountLockedTime").Length > 0
        || entry.First("nsAccountLock", "loginDisabled").Equals("true", StringComparison.OrdinalIgnoreCase)
        || int.TryParse(entry.First("userAccountControl"), out var flags) && (flags & DisabledFlag) != 0;

    /// <summary>The name in a distinguished name (RFC 4514), as a manager is given: of <c>cn=Mira Tollander,ou=…</c> the first part.</summary>
    private static string NameIn(string name)
    {
        var equals = name.IndexOf('=', StringComparison.Ordinal);
        if (equals < 0)
            return name;
        // By a number or a short name nobody is known.
        if (!name[..equals].Trim().Equals("cn", StringComparison.OrdinalIgnoreCase))
            return "";
        var end = equals + 1;
        while (end < name.Length && name[end] != ',')
            end += name[end] == '\\' ? 2 : 1;
        return name[(equals + 1)..Math.Min(end, name.Length)]
            .Replace("\\", "", StringComparison.Ordinal)
            .Trim();
    }
}
