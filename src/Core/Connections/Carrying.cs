using System.Collections.Immutable;
using ComeAboard.Core.Access;

namespace ComeAboard.Core.Connections;

/// <summary>What an account in a connected system is to be.</summary>
public enum AccountThere
{
    /// <summary>Nobody signs in with it any more: it is not there, or – where it was there before us – it is off.</summary>
    Gone,

    /// <summary>It is kept, and nobody signs in with it for now.</summary>
    Off,

    /// <summary>It is there, and can be used.</summary>
    On,
}

/// <summary>What somebody is to have in a connected system.</summary>
/// <param name="Account">What their account is to be.</param>
/// <param name="Groups">The groups there that they are to be in, of those the mapping names; none unless the account is on.</param>
public sealed record WantedThere(AccountThere Account, ImmutableSortedSet<string> Groups)
{
    /// <summary>The last day of it, inclusive, for systems that keep one; null for none, and unless the account is on.</summary>
    public DateOnly? LastDay { get; init; }

    /// <summary>Nothing.</summary>
    public static WantedThere Nothing { get; } =
        new(AccountThere.Gone, ImmutableSortedSet.Create<string>(StringComparer.Ordinal));

    /// <summary>The account, without anything, and off.</summary>
    public static WantedThere Resting { get; } = Nothing with { Account = AccountThere.Off };
}

/// <summary>
/// What a connected system is to hold: nothing but who may do what, the mapping and the day decide it. So an event nobody told
/// of, an end that came about by itself, a pause, an agreement that is over – all of them close access there, too.
/// </summary>
public static class Carrying
{
    /// <summary>What a member is to have there on a day.</summary>
    /// <param name="world">Who may do what.</param>
    /// <param name="mapping">The mapping of the system.</param>
    /// <param name="member">Who; nobody who is not here has anything.</param>
    /// <param name="day">The day, in the workspace's time zone.</param>
    public static WantedThere Of(
        AccessWorld world,
        IReadOnlyList<MappingLine> mapping,
        Guid member,
        DateOnly day
    )
    {
        if (!world.People.TryGetValue(member, out var person))
            return WantedThere.Nothing;
        switch (world.CutOf(person, day))
        {
            case Cut.None:
                break;
            case Cut.NotHere or Cut.Over:
                return WantedThere.Nothing;
            default:
                // For a while, or not as yet: what is there is kept, and nobody gets in by it.
                return WantedThere.Resting;
        }
        var groups = WantedThere.Nothing.Groups;
        var isCovered = false;
        foreach (var line in mapping)
        {
            if (!line.Covers(world, person, day))
                continue;
            isCovered = true;
            if (line.GroupThere.Length > 0)
                groups = groups.Add(line.GroupThere);
        }
        return isCovered
            ? new WantedThere(AccountThere.On, groups) { LastDay = LastDayOf(world, person) }
            : WantedThere.Nothing;
    }

    /// <summary>The day after which, as things stand, a member has nothing any more: of their stay, or of their agreement.</summary>
    private static DateOnly? LastDayOf(AccessWorld world, Person person)
    {
        var agreed =
            person.OrganisationId is { } own && world.Organisations.TryGetValue(own, out var organisation)
                ? organisation.AgreementEnds
                : null;
        return person.Stay.LastDay is { } last && !(agreed < last) ? last : agreed;
    }
}
