using ComeAboard.Core.Access;
using ComeAboard.Core.Connections;
using ComeAboard.Core.Workspaces;
using ComeAboard.Storage.Connections;

namespace ComeAboard.Service.Connections;

/// <summary>What is known here of the accounts in a connected system, for laying it beside what the system holds.</summary>
internal static class KnownAccounts
{
    /// <summary>Everybody who is to have something there on a day, and everybody who had.</summary>
    public static IEnumerable<KnownThere> Of(
        AccessWorld world,
        IReadOnlyList<MappingLine> mapping,
        IReadOnlyList<AccountThereRow> accounts,
        DateOnly today,
        TimeZoneInfo zone
    )
    {
        var by = accounts.ToDictionary(account => account.MemberId);
        foreach (var id in world.People.Keys.Concat(by.Keys.Where(id => !world.People.ContainsKey(id))))
        {
            var wanted = Carrying.Of(world, mapping, id, today);
            var account = by.GetValueOrDefault(id);
            if (account is null && wanted.Account != AccountThere.On)
                continue;
            var profile = world.People.TryGetValue(id, out var person)
                ? new ProfileThere(person.AddressKey, person.Name)
                : new ProfileThere(account!.Address, account.Name);
            yield return new KnownThere(
                id,
                profile with
                {
                    Ends = EndsOf(wanted.LastDay, zone),
                },
                wanted,
                account?.TheirKey ?? "",
                account?.IsOurs ?? false
            );
        }
    }

    /// <summary>The groups there that are ours to give and take: of the mapping, and those we put somebody into before.</summary>
    public static HashSet<string> Managed(
        IReadOnlyList<MappingLine> mapping,
        IReadOnlyList<AccountThereRow> accounts
    ) =>
        [
            .. mapping.Select(line => line.GroupThere).Where(name => name.Length > 0),
            .. accounts.SelectMany(account => Carrier.SetOf(account.HeldGroups)),
        ];

    /// <summary>How the owner of an account is written there.</summary>
    public static ProfileThere ProfileOf(AccountThereRow row, TimeZoneInfo zone) =>
        new(row.Address, row.Name) { Ends = EndsOf(row.WantedLastDay, zone) };

    private static DateTimeOffset? EndsOf(DateOnly? lastDay, TimeZoneInfo zone) =>
        lastDay is { } last ? Days.Begin(last.AddDays(1), zone) : null;
}
