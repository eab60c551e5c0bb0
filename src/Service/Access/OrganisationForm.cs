using ComeAboard.Client.Access;
using ComeAboard.Core;
using ComeAboard.Core.Access;
using ComeAboard.Core.Invitations;
using ComeAboard.Core.Workspaces;
using ComeAboard.Service.Workspaces;

namespace ComeAboard.Service.Access;

/// <summary>What somebody wants an organisation to be, read and found good.</summary>
public sealed record OrganisationForm(
    string Name,
    Kind Kind,
    string Code,
    string Colour,
    string Reference,
    IReadOnlyList<string> Domains,
    DateOnly? AgreementEnds,
    int? Cap,
    IReadOnlyList<(string Name, string Address, string Title)>? Contacts
) : INamed
{
    private const int MostContacts = 50;
    private static readonly NamedSort Contact = new("contact", MostContacts, Duties.Access);

    /// <summary>Reads it; refuses what cannot be kept.</summary>
    public static Outcome<OrganisationForm> Read(OrganisationRequest request)
    {
        if (!Organisations.Sort.ReadName(request.Name).Try(out var name, out var refusal))
            return refusal;
        if (!Kinds.Read(request.Kind).Try(out var kind, out refusal))
            return refusal;
        if (!kind.IsOutsider())
            return new Refusal(
                "organisation.kind",
                "People of an organisation are outsiders.",
                "Use guest, partner or client.",
                Field: "kind"
            );
        if (!PlainText.ReadName(request.Code).Try(out var code, out refusal) || code.Length > 8)
            return new Refusal(
                "organisation.code",
                "The code must have at most 8 characters.",
                "Shorten it.",
                Field: "code"
            );
        if (!PlainText.ReadName(request.Reference).Try(out var reference, out refusal))
            return refusal with { Field = "reference" };
        var colour = "";
        if (!string.IsNullOrWhiteSpace(request.Colour))
        {
            if (!Core.Workspaces.Colour.Read(request.Colour).Try(out var read, out refusal))
                return refusal;
            colour = read.Text;
        }
        if (!HouseRules.Domains(request.Domains, "domains").Try(out var domains, out refusal))
            return refusal;
        if (request.Cap is < 0 or > 1_000_000)
            return new Refusal(
                "organisation.cap",
                "The number of people must be 0 to 1000000.",
                "Correct it, or leave it out for any number.",
                Field: "cap"
            );
        return ReadContacts(request.Contacts).Try(out var contacts, out refusal)
            ? new OrganisationForm(
                name,
                kind,
                code.ToUpperInvariant(),
                colour,
                reference,
                domains,
                request.AgreementEnds,
                request.Cap,
                request.Contacts is null ? null : contacts
            )
            : refusal;
    }

    private static Outcome<List<(string Name, string Address, string Title)>> ReadContacts(
        IReadOnlyList<ContactView>? written
    )
    {
        var contacts = new List<(string, string, string)>();
        if (written is { Count: > MostContacts })
            return new Refusal(
                "organisation.contacts",
                $"At most {MostContacts} contacts can be kept.",
                "Leave some out.",
                Field: "contacts"
            );
        foreach (var contact in written ?? [])
        {
            if (!EmailAddress.Read(contact.Address).Try(out var address, out var refusal))
                return refusal with { Field = "contacts" };
            if (!Contact.ReadName(contact.Name).Try(out var name, out refusal))
                return refusal with { Field = "contacts" };
            if (!PlainText.ReadName(contact.Title).Try(out var title, out refusal))
                return refusal with { Field = "contacts" };
            contacts.Add((name, address.ToString(), title));
        }
        return contacts;
    }
}
