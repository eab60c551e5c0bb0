using System.Collections.Concurrent;
using ComeAboard.Service.Workspaces;
using ComeAboard.Storage.Accounts;
using Microsoft.EntityFrameworkCore;

namespace ComeAboard.Service.Jobs;

/// <summary>
/// When somebody was last here, and when the page of an invitation was first opened. Noted in passing, so that nobody who
/// only looks waits for those who write, and written a moment later through the workspace's door, many at once.
/// </summary>
public sealed class SeenMarks(
    WorkspaceWriter writer,
    FirstAnswer first,
    TimeProvider clock,
    ILogger<SeenMarks> log
) : BackgroundWork(first)
{
    private static readonly TimeSpan Gathering = TimeSpan.FromMilliseconds(200);

    // How often is often enough.
    private static readonly TimeSpan Enough = TimeSpan.FromMinutes(5);

    private readonly ConcurrentDictionary<(Guid Workspace, Guid Id, bool IsMember), DateTimeOffset> _marks =
    [];
    private readonly ConcurrentDictionary<(Guid Workspace, Guid Id), DateTimeOffset> _noted = [];
    private readonly Bell _bell = new();

    /// <summary>Notes that a member is here, where that was not done within the last minutes.</summary>
    public void NoteMember(MemberRow member)
    {
        var (key, now) = ((member.WorkspaceId, member.Id), clock.Now());
        if (member.LastSeenAt > now - Enough || _noted.TryGetValue(key, out var at) && at > now - Enough)
            return;
        _noted[key] = now;
        Note((member.WorkspaceId, member.Id, true));
    }

    /// <summary>Notes that the page of an invitation was opened.</summary>
    public void NoteInvitation(Guid workspace, Guid invitation) => Note((workspace, invitation, false));

    private void Note((Guid, Guid, bool) mark)
    {
        if (_marks.TryAdd(mark, clock.Now()))
            _bell.Ring();
    }

    protected override async Task GoOnAsync(CancellationToken stop)
    {
        while (!stop.IsCancellationRequested)
        {
            await _bell.WaitAsync(TimeSpan.FromMinutes(1), stop);
            await Task.Delay(Gathering, stop);
            foreach (var workspace in _marks.Keys.Select(mark => mark.Workspace).Distinct().ToList())
                await WriteAsync(workspace);
        }
    }

    private async Task WriteAsync(Guid workspace)
    {
        IReadOnlyList<KeyValuePair<(Guid Workspace, Guid Id, bool IsMember), DateTimeOffset>> marks =
        [
            .. _marks.Where(mark => mark.Key.Workspace == workspace),
        ];
        try
        {
            await writer.WriteAsync<bool>(
                workspace,
                Caller.Clock,
                async write =>
                {
                    foreach (var ((_, id, isMember), at) in marks)
                    {
                        if (isMember)
                            await write
                                .Rows.Members.Where(m => m.Id == id)
                                .ExecuteUpdateAsync(set => set.SetProperty(m => m.LastSeenAt, at));
                        else
                            await write
                                .Rows.Invitations.Where(i => i.Id == id && i.SeenAt == null)
                                .ExecuteUpdateAsync(set => set.SetProperty(i => i.SeenAt, at));
                    }
                    return true;
                }
            );
        }
        catch (Exception fault)
        {
            // A mark that is lost is made again at the next look.
            log.LogWarning(fault, "Noting who was here failed");
            foreach (var ((_, id, _), _) in marks)
                _noted.TryRemove((workspace, id), out _);
        }
        var old = clock.Now() - Enough;
        foreach (var noted in _noted.Where(noted => noted.Value < old))
            _noted.TryRemove(noted);
        foreach (var mark in marks)
            _marks.TryRemove(mark);
    }
}
