using ComeAboard.Core.Access;
using ComeAboard.Core.Invitations;
using ComeAboard.Core.Workspaces;

namespace ComeAboard.Service.Invitations;

/// <summary>What the standard of the house says of the name somebody is invited by.</summary>
public static class NameNotes
{
    /// <summary>The name by the standard, offered; nothing where there is nothing to offer.</summary>
    public static IReadOnlyList<AddressNote> Of(InvitationOffer offer, HouseRules rules, AccessWorld world)
    {
        var organisation =
            offer.OrganisationId is { } own && world.Organisations.TryGetValue(own, out var known)
                ? known.Name
                : offer.Details.Organisation;
        return rules.OutsiderNames.Offer(offer.Name, organisation, offer.Kind) is { } offered
            ?
            [
                new AddressNote(
                    "name.standard",
                    $"By the standard of the house the name would be \"{offered}\"."
                ),
            ]
            : [];
    }
}
