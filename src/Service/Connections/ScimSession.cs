using System.Collections.Concurrent;
using System.Collections.Immutable;
using System.Text.Json;
using System.Text.Json.Nodes;
using ComeAboard.Core.Connections;

namespace ComeAboard.Service.Connections;

/// <summary>A way to a SCIM service provider. Nothing is sent twice by it: what is tried again is for the lane to say.</summary>
internal sealed class ScimSession(ScimCalls calls, IReadOnlySet<string> managed) : IAskedSession
{
    private const string Patch = "urn:ietf:params:scim:api:messages:2.0:PatchOp";
    private const string User = "urn:ietf:params:scim:schemas:core:2.0:User";

    private sealed record GroupThere(string Id, HashSet<string> Members);

    private readonly SemaphoreSlim _reading = new(1);
    private readonly SemaphoreSlim _listing = new(1);
    private readonly ConcurrentDictionary<string, SemaphoreSlim> _rewriting = new(StringComparer.Ordinal);
    private Dictionary<string, GroupThere>? _groups;
    private IReadOnlyList<HeldThere>? _all;
    private bool _patches = true;
    private bool _hasTags;

    /// <inheritdoc/>
    public int AtOnce => 8;

    /// <inheritdoc/>
    public bool Removes { get; private set; } = true;

    /// <summary>Asks what it can do (RFC 7643, section 5); one that does not say is taken to do what most do.</summary>
    public async Task DiscoverAsync(CancellationToken stop)
    {
        using var said = await calls.TryAsync(HttpMethod.Get, "/ServiceProviderConfig", null, stop);
        if (said is null)
            return;
        _patches = Says(said.RootElement, "patch") ?? true;
        _hasTags = Says(said.RootElement, "etag") ?? false;
    }

    /// <inheritdoc/>
    public async Task<HeldThere?> ReadAsync(string key, CancellationToken stop)
    {
        var groups = await GroupsAsync(stop);
        using var user = await calls.TryAsync(HttpMethod.Get, UserPath(key), null, stop);
        return user is null ? null : HeldOf(user.RootElement, groups);
    }

    /// <inheritdoc/>
    public async Task<HeldThere?> FindAsync(Guid member, ProfileThere profile, CancellationToken stop)
    {
        if (_all is null)
        {
            var groups = await GroupsAsync(stop);
            string[] filters = [$"externalId eq \"{member}\"", $"userName eq \"{Quoted(profile.Address)}\""];
            foreach (var filter in filters)
            {
                using var page = await calls.TryAsync(
                    HttpMethod.Get,
                    "/Users?count=2&filter=" + Uri.EscapeDataString(filter),
                    null,
                    stop
                );
                // A filter that was not understood may have found anybody.
                var found = page is null
                    ? null
                    : ScimCalls
                        .UsersOf(page.RootElement)
                        .Select(user => HeldOf(user, groups))
                        .FirstOrDefault(held => Pairing.IsOf(held, member, profile));
                if (found is not null)
                    return found;
            }
        }
        // A search that finds nothing proves nothing: names are told apart by case in some, and filters are not understood.
        return (await AllAsync(stop)).FirstOrDefault(held => Pairing.IsOf(held, member, profile));
    }

    /// <inheritdoc/>
    public async Task<string> MakeAsync(Guid member, ProfileThere profile, CancellationToken stop)
    {
        var user = new JsonObject
        {
            ["schemas"] = new JsonArray(User),
            ["externalId"] = member.ToString(),
            ["active"] = true,
        };
        Write(user, profile);
        using var made = await calls.SendAsync(HttpMethod.Post, "/Users", user, stop);
        return ScimJson.Text(made.RootElement, "id") is { Length: > 0 } id
            ? id
            : throw new TargetException(Trouble.ThisOne, "It made an account and did not say which.");
    }

    /// <inheritdoc/>
    public Task ApplyAsync(string key, ProfileThere profile, ThereStep step, CancellationToken stop) =>
        step.Deed switch
        {
            ThereDeed.Remove => RemoveAsync(key, stop),
            ThereDeed.SwitchOff => SwitchAsync(key, false, stop),
            ThereDeed.SwitchOn => SwitchAsync(key, true, stop),
            ThereDeed.Rewrite => ChangeUserAsync(
                key,
                user => Write(user, profile),
                [
                    Replace("userName", profile.Address),
                    Replace("displayName", profile.Name),
                    Replace("name.formatted", profile.Name),
                    Replace("emails", MailsOf(profile)),
                ],
                stop
            ),
            ThereDeed.JoinGroup => MoveAsync(key, step.Group, true, stop),
            ThereDeed.LeaveGroup => MoveAsync(key, step.Group, false, stop),
            _ => throw new InvalidOperationException("An account that is there is not made."),
        };

    /// <inheritdoc/>
    public void Forget() => (_groups, _all) = (null, null);

    /// <inheritdoc/>
    public async Task<IReadOnlyList<string>> MissingAsync(CancellationToken stop)
    {
        var there = await GroupsAsync(stop);
        return [.. managed.Where(name => !there.ContainsKey(name)).Order(StringComparer.Ordinal)];
    }

    /// <inheritdoc/>
    public async Task<IReadOnlyList<HeldThere>> AllAsync(CancellationToken stop)
    {
        var groups = await GroupsAsync(stop);
        await _listing.WaitAsync(stop);
        try
        {
            return _all ??= [
                .. (await calls.ListAsync("/Users?", stop)).Select(user => HeldOf(user, groups)),
            ];
        }
        finally
        {
            _listing.Release();
        }
    }

    /// <inheritdoc/>
    public ValueTask DisposeAsync()
    {
        calls.Dispose();
        _reading.Dispose();
        _listing.Dispose();
        foreach (var one in _rewriting.Values)
            one.Dispose();
        return ValueTask.CompletedTask;
    }

    private async Task RemoveAsync(string key, CancellationToken stop)
    {
        try
        {
            // Not there is what was wanted.
            using var gone = await calls.TryAsync(HttpMethod.Delete, UserPath(key), null, stop);
        }
        catch (TargetException no) when (no.Data["status"] is 405 or 501)
        {
            Removes = false;
            await SwitchAsync(key, false, stop);
        }
    }

    private Task SwitchAsync(string key, bool isOn, CancellationToken stop) =>
        ChangeUserAsync(key, user => user["active"] = isOn, [Replace("active", isOn)], stop);

    private async Task ChangeUserAsync(
        string key,
        Action<JsonObject> rewrite,
        JsonArray operations,
        CancellationToken stop
    )
    {
        if (_patches)
            (await calls.SendAsync(HttpMethod.Patch, UserPath(key), PatchOf(operations), stop)).Dispose();
        else
            await RewriteAsync(UserPath(key), rewrite, stop);
    }

    private async Task MoveAsync(string key, string name, bool isIn, CancellationToken stop)
    {
        if (!(await GroupsAsync(stop)).TryGetValue(name, out var group))
        {
            if (!isIn)
                return;
            throw new TargetException(Trouble.ThisOne, $"It has no group \"{name}\".");
        }
        // One that is put in twice may count twice.
        lock (group)
            if (group.Members.Contains(key) == isIn)
                return;
        var path = "/Groups/" + Uri.EscapeDataString(group.Id);
        if (_patches)
        {
            var operation = isIn
                ? new JsonObject
                {
                    ["op"] = "add",
                    ["path"] = "members",
                    ["value"] = new JsonArray(new JsonObject { ["value"] = key }),
                }
                : new JsonObject { ["op"] = "remove", ["path"] = $"members[value eq \"{Quoted(key)}\"]" };
            (await calls.SendAsync(HttpMethod.Patch, path, PatchOf([operation]), stop)).Dispose();
        }
        else
        {
            var one = _rewriting.GetOrAdd(group.Id, _ => new SemaphoreSlim(1));
            await one.WaitAsync(stop);
            try
            {
                await RewriteAsync(path, it => Put(it, key, isIn), stop);
            }
            finally
            {
                one.Release();
            }
        }
        lock (group)
            _ = isIn ? group.Members.Add(key) : group.Members.Remove(key);
    }

    private static void Put(JsonObject group, string key, bool isIn)
    {
        var members = group["members"] as JsonArray ?? [];
        var others = members
            .OfType<JsonObject>()
            .Where(member => member["value"]?.GetValue<string>() != key)
            .Select(member => member.DeepClone());
        group["members"] = new JsonArray([
            .. others,
            .. isIn ? [new JsonObject { ["value"] = key }] : Array.Empty<JsonNode>(),
        ]);
    }

    /// <summary>Reads something, changes it, and puts it back whole, for a server that takes no smaller change.</summary>
    private async Task RewriteAsync(string path, Action<JsonObject> change, CancellationToken stop)
    {
        using var read = await calls.SendAsync(HttpMethod.Get, path, null, stop);
        var node = JsonNode.Parse(read.RootElement.GetRawText())!.AsObject();
        var tag = _hasTags ? node["meta"]?["version"]?.GetValue<string>() : null;
        change(node);
        node.Remove("meta");
        (await calls.SendAsync(HttpMethod.Put, path, node, stop, tag)).Dispose();
    }

    /// <summary>The groups that are ours to give and take, as they are; those that are not there are not among them.</summary>
    private async Task<Dictionary<string, GroupThere>> GroupsAsync(CancellationToken stop)
    {
        if (_groups is { } known)
            return known;
        await _reading.WaitAsync(stop);
        try
        {
            if (_groups is { } meanwhile)
                return meanwhile;
            var groups = new Dictionary<string, GroupThere>(StringComparer.Ordinal);
            if (managed.Count == 0)
                return _groups = groups;
            foreach (var listed in await calls.ListAsync("/Groups?attributes=displayName&", stop))
            {
                var name = ScimJson.Text(listed, "displayName");
                if (!managed.Contains(name))
                    continue;
                var id = ScimJson.Text(listed, "id");
                using var group = await calls.SendAsync(
                    HttpMethod.Get,
                    "/Groups/" + Uri.EscapeDataString(id),
                    null,
                    stop
                );
                groups[name] = new GroupThere(
                    id,
                    [
                        .. ScimJson
                            .Each(group.RootElement, "members")
                            .Select(member => ScimJson.Text(member, "value")),
                    ]
                );
            }
            return _groups = groups;
        }
        finally
        {
            _reading.Release();
        }
    }

    private static HeldThere HeldOf(JsonElement user, Dictionary<string, GroupThere> groups)
    {
        var key = ScimJson.Text(user, "id");
        var name =
            user.ValueKind == JsonValueKind.Object && user.TryGetProperty("name", out var parts)
                ? ScimJson.Text(parts, "formatted")
                : "";
        return new HeldThere(
            key,
            ScimUsers.IsOn(user),
            ScimJson.Text(user, "userName"),
            ScimJson.Text(user, "displayName") is { Length: > 0 } shown ? shown : name,
            [.. groups.Where(group => IsIn(group.Value, key)).Select(group => group.Key)]
        )
        {
            OurMark = ScimJson.Text(user, "externalId"),
            Addresses =
            [
                .. ScimJson
                    .Each(user, "emails")
                    .Select(mail => ScimJson.Text(mail, "value"))
                    .Where(text => text.Length > 0),
            ],
        };

        static bool IsIn(GroupThere group, string key)
        {
            lock (group)
                return group.Members.Contains(key);
        }
    }

    private static bool? Says(JsonElement said, string feature) =>
        said.ValueKind == JsonValueKind.Object
        && said.TryGetProperty(feature, out var of)
        && of.ValueKind == JsonValueKind.Object
        && of.TryGetProperty("supported", out var supported)
        && supported.ValueKind is JsonValueKind.True or JsonValueKind.False
            ? supported.GetBoolean()
            : null;

    private static void Write(JsonObject user, ProfileThere profile)
    {
        user["userName"] = profile.Address;
        user["displayName"] = profile.Name;
        var name = user["name"] as JsonObject ?? [];
        name["formatted"] = profile.Name;
        user["name"] = name.DeepClone();
        user["emails"] = MailsOf(profile);
    }

    private static JsonArray MailsOf(ProfileThere profile) =>
        [
            new JsonObject
            {
                ["value"] = profile.Address,
                ["type"] = "work",
                ["primary"] = true,
            },
        ];

    private static JsonObject Replace(string path, JsonNode value) =>
        new()
        {
            ["op"] = "replace",
            ["path"] = path,
            ["value"] = value,
        };

    private static JsonObject PatchOf(JsonArray operations) =>
        new() { ["schemas"] = new JsonArray(Patch), ["Operations"] = operations };

    private static string UserPath(string key) => "/Users/" + Uri.EscapeDataString(key);

    // RFC 7644 takes its strings in filters from JSON.
    private static string Quoted(string text) =>
        text.Replace("\\", "\\\\", StringComparison.Ordinal).Replace("\"", "\\\"", StringComparison.Ordinal);
}
