using ComeAboard.Core;
using ComeAboard.Core.Access;
using ComeAboard.Core.Departures;
using ComeAboard.Storage;
using ComeAboard.Storage.Access;
using ComeAboard.Storage.Workspaces;
using Microsoft.EntityFrameworkCore;

namespace ComeAboard.Service.Access;

/// <summary>
/// Who may do what, as the changes of one transaction see it: each sees what those before it did, and nobody else sees
/// anything before it is committed. Here stands the guard that no change takes away the last administrator.
/// </summary>
public sealed class AccessInWrite(AccessWorlds worlds, ComeAboardContext rows, WorkspaceRow locked)
{
    private readonly HashSet<AccessSubject> _changed = [];
    private AccessPicture? _picture;
    private readonly WorkspaceRow _locked = locked;
    private readonly long _before = locked.AccessVersion;

    // The workspace's own row, with what the changes made of it.
    private WorkspaceRow _house = locked;
    private Guid _administrator;

    /// <summary>Everything that has changed since the transaction began.</summary>
    public IReadOnlyCollection<AccessSubject> Changed => _changed;

    /// <summary>The version after this transaction.</summary>
    public long NextVersion => _before + 1;

    /// <summary>Who may do what now.</summary>
    public async Task<AccessWorld> WorldAsync() =>
        (_picture ??= await worlds.WithinAsync(rows, _locked)).World;

    /// <summary>Takes what was just saved into account; refuses with <c>administrator.last</c> when it must not stay.</summary>
    public async Task<Refusal?> TakeInAsync(DateOnly today)
    {
        if (rows.Touched.Count == 0)
            return null;
        var touched = rows.Touched.ToList();
        rows.Touched.Clear();
        var before = _picture;
        _picture = before is null
            ? await AccessPicture.ReadAsync(rows, NextVersion)
            : await before.CatchUpAsync(rows, touched, NextVersion);
        _changed.UnionWith(touched);
        if (touched.Contains(AccessSubject.Model))
            _house = await rows.Workspaces.AsNoTracking().FirstAsync(w => w.Id == _locked.Id);
        return
            HasAdministrator(_picture.World, today)
            || before is not null && !HasAdministrator(before.World, today)
            ? null
            : AdministratorRule.Last;
    }

    /// <summary>How everything stands, to come back to when what follows is undone.</summary>
    public object Mark() => new Marked(_picture, _house, _administrator, [.. _changed]);

    /// <summary>Comes back to how everything stood at a mark.</summary>
    public void Restore(object mark)
    {
        var (picture, house, administrator, changed) = (Marked)mark;
        (_picture, _house, _administrator) = (picture, house, administrator);
        _changed.Clear();
        _changed.UnionWith(changed);
        rows.Touched.Clear();
    }

    private sealed record Marked(
        AccessPicture? Picture,
        WorkspaceRow House,
        Guid Administrator,
        IReadOnlyList<AccessSubject> Changed
    );

    /// <summary>Puts in force what was committed.</summary>
    public void Publish()
    {
        if (_changed.Count == 0)
            return;
        _locked.AccessVersion = _house.AccessVersion = NextVersion;
        worlds.Publish(_house, _picture!);
    }

    // Whoever was one a moment ago most often still is: that spares looking at everybody.
    private bool HasAdministrator(AccessWorld world, DateOnly today)
    {
        if (AdministratorRule.IsLasting(world, _administrator, today))
            return true;
        _administrator = AdministratorRule.Lasting(world, today).FirstOrDefault();
        return _administrator != default;
    }
}
