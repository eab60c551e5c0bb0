namespace ComeAboard.Core.Access;

/// <summary>Who may belong to an organisation.</summary>
public static class OrganisationRules
{
    /// <summary>
    /// The organisation somebody wrote, among those known here. A name that none of them has is not kept beside them
    /// unless it is meant so: it is asked about, with <c>organisation.unknown</c>.
    /// </summary>
    /// <param name="world">Where they are looked up.</param>
    /// <param name="written">A name, code or id; empty for none.</param>
    /// <param name="asWritten">Whether it is meant as it is written.</param>
    /// <returns>The organisation; none where nothing is written, or just a name is meant.</returns>
    public static Outcome<(Organisation? Known, string Written)> Find(
        AccessWorld world,
        string? written,
        bool asWritten
    )
    {
        var text = written?.Trim() ?? "";
        if (text.Length == 0)
            return (null, "");
        if (world.FindOrganisation(text).Try(out var known, out var unknown))
            return (known, known.Name);
        // Where no organisation is known, a name stands beside none.
        return asWritten || world.Organisations.Count == 0
            ? (null, text)
            : unknown with
            {
                Remedy =
                    (unknown.Remedy.StartsWith("Did", StringComparison.Ordinal) ? unknown.Remedy + " " : "")
                    + "Add it to the organisations first, or say that the name is meant as it is written.",
                Sort = RefusalSort.Invalid,
            };
    }

    /// <summary>Refuses, with <c>organisation.kind</c>, a kind its people do not come as.</summary>
    /// <param name="organisation">The organisation.</param>
    /// <param name="kind">As what somebody comes, or is here.</param>
    public static Refusal? ForbidsKind(Organisation organisation, Kind kind) =>
        organisation.Kind == kind
            ? null
            : new Refusal(
                "organisation.kind",
                $"People of {organisation.Name} come as {organisation.Kind.Word()}, not as {kind.Word()}.",
                $"Take them as {organisation.Kind.Word()}, or leave the organisation out.",
                RefusalSort.Conflict,
                "organisation"
            );

    /// <summary>Refuses, with <c>organisation.full</c>, one more than it may have here.</summary>
    /// <param name="organisation">The organisation.</param>
    /// <param name="there">How many people of it are here or invited.</param>
    public static Refusal? ForbidsMore(Organisation organisation, int there) =>
        organisation.Cap is { } cap && there >= cap
            ? new Refusal(
                "organisation.full",
                $"{organisation.Name} may have {cap} people here, and has {there}, the invited ones included.",
                "End somebody of it, or raise the number.",
                RefusalSort.Conflict,
                "organisation"
            )
            : null;
}
