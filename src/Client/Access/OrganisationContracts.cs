namespace ComeAboard.Client.Access;

/// <summary>Somebody to turn to in an organisation.</summary>
/// <param name="Name">Their name.</param>
/// <param name="Address">Their mail address.</param>
/// <param name="Title">Their job title.</param>
public sealed record ContactView(string Name, string Address, string? Title = null);

/// <summary>An organisation to be made or changed.</summary>
/// <param name="Name">Its name, unique in the workspace.</param>
/// <param name="Kind">As what its people come in: guest, partner or client.</param>
/// <param name="Code">A short code for recognition, at most 8 characters.</param>
/// <param name="Colour">A colour for recognition as #rrggbb.</param>
/// <param name="Reference">Its reference number in the workspace's books.</param>
/// <param name="Domains">Its mail domains.</param>
/// <param name="AgreementEnds">The last day of the agreement, inclusive; absent for no end.</param>
/// <param name="Cap">How many people it may have here; absent for any number.</param>
/// <param name="Contacts">Whom to turn to there; left as they are when absent.</param>
public sealed record OrganisationRequest(
    string Name,
    string Kind,
    string? Code = null,
    string? Colour = null,
    string? Reference = null,
    IReadOnlyList<string>? Domains = null,
    DateOnly? AgreementEnds = null,
    int? Cap = null,
    IReadOnlyList<ContactView>? Contacts = null
);

/// <summary>A firm or body that outsiders belong to.</summary>
/// <param name="Id">Its id.</param>
/// <param name="Name">Its name.</param>
/// <param name="Kind">As what its people come in.</param>
/// <param name="Code">Its code; empty for none.</param>
/// <param name="Colour">Its colour; empty for none.</param>
/// <param name="Reference">Its reference number; empty for none.</param>
/// <param name="Domains">Its mail domains.</param>
/// <param name="AgreementEnds">The last day of the agreement, inclusive; null for no end.</param>
/// <param name="IsOver">Whether the agreement is over; then none of its people get in.</param>
/// <param name="Cap">How many people it may have here; null for any number.</param>
/// <param name="People">How many are here.</param>
/// <param name="Invited">How many are invited and have not answered.</param>
/// <param name="Leads">The names of those who may invite colleagues.</param>
/// <param name="Contacts">Whom to turn to there.</param>
/// <param name="Grants">What is given to everybody of it.</param>
/// <param name="OffAt">The resources it is switched off for.</param>
/// <param name="Version">The version to give back in If-Match.</param>
public sealed record OrganisationView(
    Guid Id,
    string Name,
    string Kind,
    string Code,
    string Colour,
    string Reference,
    IReadOnlyList<string> Domains,
    DateOnly? AgreementEnds,
    bool IsOver,
    int? Cap,
    int People,
    int Invited,
    IReadOnlyList<string> Leads,
    IReadOnlyList<ContactView> Contacts,
    IReadOnlyList<GrantView> Grants,
    IReadOnlyList<string> OffAt,
    int Version
) : INamedView
{
    /// <summary>In the answer to a change, what it changes for whom; null otherwise.</summary>
    public DifferenceView? Difference { get; init; }
}
