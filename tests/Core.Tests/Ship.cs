using System.Collections.Immutable;
using ComeAboard.Core.Access;
using ComeAboard.Core.Invitations;
using ComeAboard.Core.Workspaces;

namespace ComeAboard.Core.Tests;

/// <summary>The museum ship as a small fixed workspace, for what is said of one case at a time.</summary>
internal static class Ship
{
    public static readonly DateOnly Today = new(2026, 11, 23);
    public static readonly DateTimeOffset Now = new(2026, 11, 23, 12, 0, 0, TimeSpan.Zero);

    public static readonly Area Deck = new(Id(1), "Deck bookings");
    public static readonly Area Archive = new(Id(2), "Archive", HasPrivateEntries: true);
    public static readonly Resource Wheelhouse = new(Id(11), Deck.Id, "Wheelhouse");
    public static readonly Resource Logbook = new(Id(12), Archive.Id, "Logbook");

    /// <summary>Changes deck bookings, and nothing else.</summary>
    public static readonly Role Bosun = RoleOf(21, "bosun", Level.None, (Deck, Level.Edit));

    /// <summary>Looks on everywhere, and invites.</summary>
    public static readonly Role Warden = RoleOf(22, "warden", Level.View) with
    {
        Duties = Duties.Invite | Duties.Record,
    };

    /// <summary>Decides over the archive, and looks on elsewhere.</summary>
    public static readonly Role Curator = RoleOf(23, "curator", Level.View, (Archive, Level.Manage));

    public static readonly Group Crew = new(Id(31), "Crew", [Given(Bosun)]);
    public static readonly Group Readers = new(Id(32), "Readers", [Given(Role.View, Logbook)]);

    public static readonly Organisation Tide = new(
        Id(41),
        "Tide Institute",
        Kind.Partner,
        Today.AddDays(10),
        ["tide.example"],
        3,
        [Given(Role.View, Logbook)]
    )
    {
        Code = "TI",
    };

    public static readonly Organisation Pier = new(Id(42), "Pier Friends", Kind.Guest, null, [], null, []);

    public static readonly Guid Desks = Id(51);

    /// <summary>Administrator.</summary>
    public static readonly Person Mira = PersonOf(61, "Mira Okafor", Kind.Staff) with
    {
        Grants = [Given(Role.Manage)],
    };

    /// <summary>Invites, and gives no more than to look on.</summary>
    public static readonly Person Yara = PersonOf(62, "Yara Lindqvist", Kind.Staff) with
    {
        Grants = [Given(Warden)],
    };

    /// <summary>Of the crew: changes deck bookings.</summary>
    public static readonly Person Bo = PersonOf(63, "Bo Tanaka", Kind.Staff) with { Groups = [Crew.Id] };

    /// <summary>Decides over the archive, without any duty.</summary>
    public static readonly Person Ada = PersonOf(64, "Ada Brandt", Kind.Staff) with
    {
        Grants = [Given(Curator)],
    };

    /// <summary>Leads the partners of the institute until the fifth day from today.</summary>
    public static readonly Person Ines = PersonOf(65, "Ines Calloway", Kind.Partner) with
    {
        OrganisationId = Tide.Id,
        Leads = true,
        Stay = new Stay(Today.AddDays(5)),
    };

    /// <summary>A guest.</summary>
    public static readonly Person Kofi = PersonOf(66, "Kofi Mensah", Kind.Guest) with
    {
        Grants = [Given(Role.View)],
    };

    public static readonly AccessWorld World = new[] { Mira, Yara, Bo, Ada, Ines, Kofi }.Aggregate(
        AccessWorld.Empty with
        {
            Areas = new[] { Deck, Archive }.ToImmutableDictionary(area => area.Id),
            Resources = new[] { Wheelhouse, Logbook }.ToImmutableDictionary(resource => resource.Id),
            Roles = AccessWorld.Empty.Roles.AddRange(
                new[] { Bosun, Warden, Curator }.Select(role => KeyValuePair.Create(role.Id, role))
            ),
            Groups = new[] { Crew, Readers }.ToImmutableDictionary(group => group.Id),
            Organisations = new[] { Tide, Pier }.ToImmutableDictionary(body => body.Id),
            Pools = ImmutableDictionary<Guid, string>.Empty.Add(Desks, "Reading desks"),
        },
        (world, person) => world.With(person)
    );

    public static Guid Id(int number) => new(number + 1000, 0, 0, new byte[8]);

    public static EmailAddress At(string address) => EmailAddress.Read(address).Value;

    /// <summary>A role given for good, in the whole workspace or at a resource.</summary>
    public static Grant Given(Role role, Resource? at = null) =>
        new(Guid.NewGuid(), role.Id, at?.Id, Stay.Endless);

    /// <summary>What an invitation gives: roles in the whole workspace.</summary>
    public static Bundle Gives(params Role[] roles) =>
        new([.. roles.Select(role => new GivenRole(role.Id))], [], []);

    public static Role RoleOf(
        int number,
        string name,
        Level everywhere,
        params (Area Area, Level Level)[] levels
    ) =>
        new(
            Id(number),
            name,
            $"Work as {name}.",
            everywhere,
            levels.ToImmutableSortedDictionary(level => level.Area.Id, level => level.Level),
            Duties.None
        );

    public static Person PersonOf(int number, string name, Kind kind) =>
        new(Id(number), kind, Stay.Endless, false, null, false, [], [])
        {
            Name = name,
            AddressKey = $"{name.Split(' ')[0].ToLowerInvariant()}@ship.example",
        };

    /// <summary>An offer to come as a guest and look on, for somebody to change with <c>with</c>.</summary>
    public static InvitationOffer Offer(string address = "hamish@orlo.example") =>
        new(
            At(address),
            Kind.Guest,
            Bundle.Of(Role.View),
            new Stay(Today.AddDays(30)),
            "Hamish Orlo",
            PersonDetails.None,
            "",
            "en",
            null
        )
        {
            AnswerTime = TimeSpan.FromDays(10),
        };
}
