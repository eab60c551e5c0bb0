using System.Text.Json;
using ComeAboard.Core;
using ComeAboard.Core.Connections;

namespace ComeAboard.Service.Connections;

/// <summary>Users of a SCIM source (RFC 7643, sections 4.1 and 4.3), as records; what a server writes otherwise than it ought to is read for what it means.</summary>
internal static class ScimUsers
{
    private const string Enterprise = "urn:ietf:params:scim:schemas:extension:enterprise:2.0:User";

    /// <summary>Reads a user; null where it has no id.</summary>
    public static SourceRecord? Read(JsonElement user)
    {
        var id = ScimJson.Text(user, "id");
        if (id.Length == 0)
            return null;
        var (name, firm) = (ScimJson.Inner(user, "name"), ScimJson.Inner(user, Enterprise));
        var mails = Values(user, "emails");
        var userName = ScimJson.Text(user, "userName");
        if (mails.Count == 0 && EmailAddress.Read(userName).Succeeded)
            mails = [userName];
        return new SourceRecord(id)
        {
            Address = mails.FirstOrDefault() ?? "",
            OtherAddresses = string.Join(' ', mails.Skip(1).Take(10)),
            Name = FirstOf(ScimJson.Text(name, "formatted"), ScimJson.Text(user, "displayName")),
            GivenName = ScimJson.Text(name, "givenName"),
            FamilyName = ScimJson.Text(name, "familyName"),
            Title = ScimJson.Text(user, "title"),
            Organisation = ScimJson.Text(firm, "organization"),
            Department = ScimJson.Text(firm, "department"),
            Manager = ScimJson.Text(ScimJson.Inner(firm, "manager"), "displayName"),
            Country = Values(user, "addresses", "country").FirstOrDefault() ?? "",
            Phone = Values(user, "phoneNumbers").FirstOrDefault() ?? "",
            IsOff = !IsOn(user),
        };
    }

    /// <summary>Whether a user can be used: what is not said to be off is not off.</summary>
    public static bool IsOn(JsonElement user) =>
        !(user.TryGetProperty("active", out var active) && IsFalse(active));

    private static bool IsFalse(JsonElement value) =>
        value.ValueKind == JsonValueKind.False
        || value.ValueKind == JsonValueKind.String
            && value.GetString()!.Equals("false", StringComparison.OrdinalIgnoreCase);

    /// <summary>The values of an attribute that may have several: the primary first, each once.</summary>
    private static List<string> Values(JsonElement of, string attribute, string part = "value") =>
        [
            .. ScimJson
                .Each(of, attribute)
                .Where(one => one.ValueKind == JsonValueKind.Object)
                .OrderByDescending(one =>
                    one.TryGetProperty("primary", out var primary) && primary.ValueKind == JsonValueKind.True
                )
                .Select(one => ScimJson.Text(one, part))
                .Where(text => text.Length > 0)
                .Distinct(StringComparer.OrdinalIgnoreCase),
        ];

    private static string FirstOf(string one, string other) => one.Length > 0 ? one : other;
}
