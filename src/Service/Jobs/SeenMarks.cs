using System.Collections.Concurrent;
using ComeAboard.Service.Workspaces;
using Microsoft.EntityFrameworkCore;

namespace ComeAboard.Service.Jobs;

/// <summary>
/// When somebody was last here, and when the page of an invitation was first opened. Noted in passing, so that nobody who
/// only looks waits for those who write, and written a moment later through the workspace's door, many at once.
/// </summary>
public sealed class SeenMarks(WorkspaceWriter writer, TimeProvider clock, ILogger<SeenMarks> log)
    : BackgroundService
{
    private static readonly TimeSpan Gathering = TimeSpan.FromMilliseconds(200);

    private readonly ConcurrentDictionary<(Guid Workspace, Guid Id, bool IsMember), DateTimeOffset> _marks =
    [];
    private readonly Bell _bell = new();

    /// <summary>Notes that a member is here.</summary>
    public void NoteMember(Guid workspace, Guid member) => Note((workspace, member, true));

    /// <summary>Notes that the page of an invitation was opened.</summary>
    public void NoteInvitation(Guid workspace, Guid invitation) => Note((workspace, invitation, false));

    private void Note((Guid, Guid, bool) mark)
    {
        if (_marks.TryAdd(mark, clock.Now()))
            _bell.Ring();
    }

    protected override async Task ExecuteAsync(CancellationToken stop)
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
        }
        foreach (var mark in marks)
            _marks.TryRemove(mark);
    }
}
