namespace ComeAboard.Core.Access;

/// <summary>Who may belong to an organisation.</summary>
public static class OrganisationRules
{
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
