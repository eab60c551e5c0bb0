using System.Collections.Immutable;
using System.DirectoryServices.Protocols;
using ComeAboard.Core;
using ComeAboard.Core.Connections;

namespace ComeAboard.Service.Connections;

/// <summary>
/// A directory (LDAP) that access is carried out to: entries of people (RFC 2798) below one entry, locked or removed, and their
/// membership of groups (RFC 4519) below the entry above it.
/// </summary>
public sealed class LdapTarget(Reach reach) : ITarget
{
    /// <inheritdoc/>
    public string Type => "ldap";

    /// <inheritdoc/>
    public Outcome<string> ReadPlace(string? url) => LdapDoor.ReadPlace(url);

    /// <inheritdoc/>
    public async Task<ITargetSession> OpenAsync(
        SourceAccess access,
        IReadOnlySet<string> groups,
        CancellationToken stop
    )
    {
        var settings = access.Settings;
        if (settings.Base.Length == 0 || settings.SignInAs.Length == 0)
            throw new TargetException(
                Trouble.Barred,
                "It is not said below which entry people are, or as which entry to sign in."
            );
        return await LdapSession.AskedAsync(async () =>
            new LdapSession(await LdapDoor.OpenAsync(reach, access, stop), settings, groups)
        );
    }
}

/// <summary>A way to a directory while things are carried out there.</summary>
internal sealed class LdapSession(LdapDoor door, SourceSettings settings, IReadOnlySet<string> managed)
    : IAskedSession
{
    private const string IsGroup = "(objectClass=groupOfNames)";

    // Locked for good, of the password policy that directories share (draft-behera-ldap-password-policy, 5.3.3).
    private const string Lock = "pwdAccountLockedTime";
    private const string Locked = "000001010000Z";

    private static readonly string[] Attributes = ["uid", "cn", "mail", "employeeNumber", "entryUUID", Lock];

    private readonly string _groupBase = DirectoryText.Above(settings.Base);
    private Dictionary<string, string>? _groups;

    // One connection, and what it is asked blocks.
    /// <inheritdoc/>
    public int AtOnce => 1;

    /// <inheritdoc/>
    public bool Removes => true;

    /// <summary>Has what a directory answers mean for carrying out what it means for reading.</summary>
    public static async Task<T> AskedAsync<T>(Func<Task<T>> ask)
    {
        try
        {
            return await ask();
        }
        catch (SourceException fault)
        {
            throw new TargetException(
                fault.Refusal.Code is "connection.refused" or "connection.secret-missing"
                    ? Trouble.Barred
                    : Trouble.Away,
                fault.Refusal.Sentence
            );
        }
    }

    /// <inheritdoc/>
    public async Task<HeldThere?> ReadAsync(string key, CancellationToken stop) =>
        await FirstAsync($"(entryUUID={DirectoryText.InFilter(key)})", stop) is { } found
            ? await HeldAsync(found, stop)
            : null;

    /// <inheritdoc/>
    public async Task<HeldThere?> FindAsync(Guid member, ProfileThere profile, CancellationToken stop)
    {
        var address = DirectoryText.InFilter(profile.Address);
        foreach (
            var entry in await SearchAsync(
                settings.Base,
                $"(|(employeeNumber={member})(mail={address})(uid={address}))",
                Attributes,
                stop
            )
        )
        {
            var held = await HeldAsync(entry, stop);
            if (Pairing.IsOf(held, member, profile))
                return held;
        }
        return null;
    }

    /// <inheritdoc/>
    public async Task<string> MakeAsync(Guid member, ProfileThere profile, CancellationToken stop)
    {
        var name = $"uid={DirectoryText.InName(profile.Address)},{settings.Base}";
        await DoAsync(
            new AddRequest(
                name,
                new DirectoryAttribute("objectClass", "inetOrgPerson"),
                new DirectoryAttribute("uid", profile.Address),
                new DirectoryAttribute("cn", profile.Name),
                new DirectoryAttribute("sn", FamilyOf(profile.Name)),
                new DirectoryAttribute("mail", profile.Address),
                new DirectoryAttribute("employeeNumber", member.ToString())
            )
        );
        return
            (await FirstAsync($"(employeeNumber={member})", stop))?.First("entryUUID") is { Length: > 0 } key
            ? key
            : throw new TargetException(Trouble.ThisOne, "It made an entry and does not show it.");
    }

    /// <inheritdoc/>
    public async Task ApplyAsync(string key, ProfileThere profile, ThereStep step, CancellationToken stop)
    {
        if (await FirstAsync($"(entryUUID={DirectoryText.InFilter(key)})", stop) is not { } entry)
        {
            if (step.Deed is ThereDeed.Remove or ThereDeed.SwitchOff or ThereDeed.LeaveGroup)
                return;
            throw new TargetException(Trouble.ThisOne, "It has no such entry any more.");
        }
        switch (step.Deed)
        {
            case ThereDeed.Remove:
                await DoAsync(new DeleteRequest(entry.Name), ResultCode.NoSuchObject);
                break;
            case ThereDeed.SwitchOff:
                await DoAsync(Change(entry.Name, DirectoryAttributeOperation.Replace, Lock, Locked));
                break;
            case ThereDeed.SwitchOn:
                await DoAsync(
                    Change(entry.Name, DirectoryAttributeOperation.Delete, Lock),
                    ResultCode.NoSuchAttribute
                );
                break;
            case ThereDeed.Rewrite:
                foreach (
                    var (attribute, value) in ((string, string)[])
                        [("cn", profile.Name), ("sn", FamilyOf(profile.Name)), ("mail", profile.Address)]
                )
                    await DoAsync(Change(entry.Name, DirectoryAttributeOperation.Replace, attribute, value));
                break;
            case ThereDeed.JoinGroup or ThereDeed.LeaveGroup:
                await MoveAsync(entry.Name, step, stop);
                break;
            default:
                throw new InvalidOperationException("An entry that is there is not made.");
        }
    }

    /// <inheritdoc/>
    public void Forget() => _groups = null;

    /// <inheritdoc/>
    public async Task<IReadOnlyList<string>> MissingAsync(CancellationToken stop)
    {
        var there = await GroupsAsync(stop);
        return [.. managed.Where(name => !there.ContainsKey(name)).Order(StringComparer.Ordinal)];
    }

    /// <inheritdoc/>
    public async Task<IReadOnlyList<HeldThere>> AllAsync(CancellationToken stop)
    {
        var all = new List<HeldThere>();
        foreach (
            var entry in await SearchAsync(
                settings.Base,
                settings.Filter.Length > 0 ? settings.Filter : DirectoryPeople.Filter,
                Attributes,
                stop
            )
        )
            all.Add(await HeldAsync(entry, stop));
        return all;
    }

    /// <inheritdoc/>
    public ValueTask DisposeAsync() => door.DisposeAsync();

    private async Task MoveAsync(string entry, ThereStep step, CancellationToken stop)
    {
        var isIn = step.Deed == ThereDeed.JoinGroup;
        if (!(await GroupsAsync(stop)).TryGetValue(step.Group, out var group))
        {
            if (!isIn)
                return;
            throw new TargetException(Trouble.ThisOne, $"It has no group \"{step.Group}\".");
        }
        if (isIn)
        {
            await DoAsync(
                Change(group, DirectoryAttributeOperation.Add, "member", entry),
                ResultCode.AttributeOrValueExists
            );
            return;
        }
        var gone = Change(group, DirectoryAttributeOperation.Delete, "member", entry);
        // A group of names is never without one: whoever signs in for us stands in for the last.
        if (
            await DoAsync(gone, ResultCode.NoSuchAttribute, ResultCode.ObjectClassViolation)
            == ResultCode.ObjectClassViolation
        )
        {
            await DoAsync(
                Change(group, DirectoryAttributeOperation.Add, "member", settings.SignInAs),
                ResultCode.AttributeOrValueExists
            );
            await DoAsync(gone, ResultCode.NoSuchAttribute);
        }
    }

    /// <summary>The groups that are ours to give and take, by name.</summary>
    private async Task<Dictionary<string, string>> GroupsAsync(CancellationToken stop)
    {
        if (_groups is { } known)
            return known;
        var groups = new Dictionary<string, string>(StringComparer.Ordinal);
        foreach (var name in managed)
        foreach (
            var group in await SearchAsync(
                _groupBase,
                $"(&{IsGroup}(cn={DirectoryText.InFilter(name)}))",
                ["cn"],
                stop
            )
        )
            groups.TryAdd(name, group.Name);
        return _groups = groups;
    }

    private async Task<HeldThere> HeldAsync(DirectoryEntry entry, CancellationToken stop)
    {
        var groups = ImmutableSortedSet.CreateBuilder<string>(StringComparer.Ordinal);
        if (managed.Count > 0)
            foreach (
                var group in await SearchAsync(
                    _groupBase,
                    $"(&{IsGroup}(member={DirectoryText.InFilter(entry.Name)}))",
                    ["cn"],
                    stop
                )
            )
                groups.UnionWith(group.All("cn").Where(managed.Contains));
        return new HeldThere(
            entry.First("entryUUID"),
            entry.All(Lock).Count == 0,
            entry.First("mail", "uid"),
            entry.First("cn"),
            groups.ToImmutable()
        )
        {
            OurMark = entry.First("employeeNumber"),
            OffSaid = $"the attribute {Lock} is set, which keeps them out where a password policy says so",
            Addresses = [.. entry.All("mail"), .. entry.All("uid")],
        };
    }

    private async Task<DirectoryEntry?> FirstAsync(string filter, CancellationToken stop) =>
        (await SearchAsync(settings.Base, filter, Attributes, stop)) is [var first, ..] ? first : null;

    private Task<IReadOnlyList<DirectoryEntry>> SearchAsync(
        string below,
        string filter,
        string[] attributes,
        CancellationToken stop
    ) =>
        AskedAsync<IReadOnlyList<DirectoryEntry>>(async () =>
        {
            var found = new List<DirectoryEntry>();
            await foreach (var page in LdapSource.PagesAsync(door, below, filter, attributes, stop))
                found.AddRange(page.Select(LdapSource.EntryOf));
            return found;
        });

    /// <summary>Has something done; what is so already counts as done.</summary>
    private Task<ResultCode> DoAsync(DirectoryRequest request, params ResultCode[] so) =>
        AskedAsync(() =>
            door.AskAsync(ldap =>
            {
                try
                {
                    return ldap.SendRequest(request).ResultCode;
                }
                catch (DirectoryOperationException no)
                    when (no.Response is { } answer
                        && answer.ResultCode != ResultCode.InsufficientAccessRights
                    )
                {
                    return so.Contains(answer.ResultCode)
                        ? answer.ResultCode
                        : throw new TargetException(
                            answer.ResultCode is ResultCode.Busy or ResultCode.Unavailable
                                ? Trouble.Away
                                : Trouble.ThisOne,
                            $"It answered {answer.ResultCode}: {Words.Short(answer.ErrorMessage)}"
                        );
                }
            })
        );

    private static ModifyRequest Change(
        string name,
        DirectoryAttributeOperation how,
        string attribute,
        params object[] values
    ) => new(name, how, attribute, values);

    private static string FamilyOf(string name) => name[(name.LastIndexOf(' ') + 1)..];
}
