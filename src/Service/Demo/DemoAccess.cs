using System.Text.Json;
using ComeAboard.Client;
using ComeAboard.Client.Access;
using ComeAboard.Client.Accounts;
using ComeAboard.Client.Invitations;

namespace ComeAboard.Service.Demo;

/// <summary>An organisation of the demo world, with what it has.</summary>
public sealed record DemoOrganisation(
    OrganisationRequest Organisation,
    int? EndsDay,
    IReadOnlyList<string> People,
    string? Lead,
    IReadOnlyList<DemoGrant> Grants
);

/// <summary>A group of the demo world.</summary>
public sealed record DemoGroup(
    string Name,
    string About,
    IReadOnlyList<string> People,
    IReadOnlyList<DemoGrant> Grants
);

/// <summary>A seat pool of the demo world.</summary>
public sealed record DemoPool(PoolRequest Pool, IReadOnlyList<string> Holders);

/// <summary>A grant of the demo world; days are counted from today.</summary>
public sealed record DemoGrant(string Role, string? Person, string? Resource, int? FromDay, int? UntilDay);

/// <summary>Somebody or some organisation switched off for a resource.</summary>
public sealed record DemoOff(string Resource, string? Person, string? Organisation);

/// <summary>Somebody paused.</summary>
public sealed record DemoPause(string Person, string Reason);

/// <summary>Who may do what in the demo world: made over HTTP, as an administrator would.</summary>
public sealed record DemoAccess(
    IReadOnlyList<AreaRequest> Areas,
    IReadOnlyList<ResourceRequest> Resources,
    IReadOnlyList<RoleRequest> Roles,
    IReadOnlyList<DemoOrganisation> Organisations,
    IReadOnlyList<DemoGroup> Groups,
    IReadOnlyList<DemoPool> Pools,
    IReadOnlyList<DemoGrant> Grants,
    IReadOnlyList<string> TakenFromOutsiders,
    IReadOnlyList<DemoOff> Off,
    IReadOnlyList<DemoPause> Paused,
    InvitationRequest Invited
)
{
    /// <summary>Reads what ships with the product.</summary>
    public static DemoAccess Load()
    {
        using var stream = typeof(DemoAccess).Assembly.GetManifestResourceStream("lantern-tide-access.json")!;
        return JsonSerializer.Deserialize<DemoAccess>(stream, JsonSerializerOptions.Web)!;
    }

    /// <summary>Makes it.</summary>
    /// <param name="client">An administrator's client.</param>
    /// <param name="today">Today there.</param>
    public async Task MakeAsync(AboardClient client, DateOnly today)
    {
        foreach (var area in Areas)
            await client.Areas.AddAsync(area);
        foreach (var resource in Resources)
            await client.Resources.AddAsync(resource);
        foreach (var role in Roles)
            await client.Roles.AddAsync(role);
        await TakeBlanketRolesAsync(client);
        foreach (var entry in Organisations)
            await MakeAsync(client, entry, today);
        foreach (var group in Groups)
        {
            await client.Groups.AddAsync(new GroupRequest(group.Name, group.About));
            if (group.People.Count > 0)
                await client.PutIntoGroupAsync(group.Name, new PeopleRequest(group.People));
            foreach (var grant in group.Grants)
                await client.GrantAsync(RequestOf(grant, today) with { Group = group.Name });
        }
        foreach (var grant in Grants)
            if (await IsHereAsync(client, grant.Person!))
                await client.GrantAsync(RequestOf(grant, today));
        foreach (var entry in Pools)
        {
            await client.Pools.AddAsync(entry.Pool);
            await client.GiveSeatsAsync(entry.Pool.Name, new PeopleRequest(entry.Holders));
        }
        foreach (var off in Off)
            await client.SwitchOffAsync(off.Resource, new SwitchRequest(off.Person, off.Organisation));
        foreach (var pause in Paused)
            await client.PeopleStepsAsync(
                new PeopleStepRequest("pause", [pause.Person], Reason: pause.Reason)
            );
        await client.SendInvitationAsync(Invited with { Until = today.AddDays(60) }, "demo-invited");
    }

    /// <summary>Before there were roles of its own, outsiders had got more than they needed.</summary>
    private async Task TakeBlanketRolesAsync(AboardClient client)
    {
        var outsiders = (await client.PeopleAsync("active", limit: 200)).Items.Where(p => p.Kind != "staff");
        foreach (var role in TakenFromOutsiders)
        {
            var holders = outsiders.Where(p => p.Role == role).Select(p => p.Address).ToList();
            if (holders.Count > 0)
                await client.PeopleStepsAsync(new PeopleStepRequest("take", holders, Role: role));
        }
    }

    private static async Task MakeAsync(AboardClient client, DemoOrganisation entry, DateOnly today)
    {
        DateOnly? ends = entry.EndsDay is { } day ? today.AddDays(day) : null;
        await client.Organisations.AddAsync(entry.Organisation with { AgreementEnds = ends });
        if (entry.People.Count > 0)
            await client.PeopleStepsAsync(
                new PeopleStepRequest(
                    "change",
                    entry.People,
                    Details: new DetailsRequest(Organisation: entry.Organisation.Name)
                )
            );
        if (entry.Lead is { } lead)
            await client.ChangePersonAsync(lead, new DetailsRequest(Leads: true));
        foreach (var grant in entry.Grants)
            await client.GrantAsync(RequestOf(grant, today) with { Organisation = entry.Organisation.Name });
    }

    private static GrantRequest RequestOf(DemoGrant grant, DateOnly today) =>
        new(
            grant.Role,
            grant.Person,
            Resource: grant.Resource,
            From: grant.FromDay is { } from ? today.AddDays(from) : null,
            Until: grant.UntilDay is { } until ? today.AddDays(until) : null
        );

    private static async Task<bool> IsHereAsync(AboardClient client, string person) =>
        (await client.PersonAsync(person)).State is "active" or "paused";
}
