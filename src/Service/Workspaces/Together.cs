using ComeAboard.Core;
using ComeAboard.Core.Access;
using ComeAboard.Storage.Accounts;

namespace ComeAboard.Service.Workspaces;

/// <summary>What came of a step for several.</summary>
/// <param name="Done">Those that took it, or would.</param>
/// <param name="Refused">Those that did not, with the reason.</param>
public sealed record TakenTogether<T>(IReadOnlyList<T> Done, IReadOnlyList<(T Which, Refusal Why)> Refused);

/// <summary>
/// The one way for many: the same step for one, several, all that match, or what the clock has to do. Each is decided by
/// itself; what one that is refused had begun is undone to the last trace, and holds no other up. Tried out, all of it is
/// done in one change and then undone, so that the answer is the one the real thing would give.
/// </summary>
public sealed class Together(WorkspaceWriter writer)
{
    private const int AtOnce = 100;

    /// <summary>Takes a step for each of some things.</summary>
    /// <param name="workspace">Where.</param>
    /// <param name="caller">Who takes it.</param>
    /// <param name="duty">The duty it needs; null when no member takes it, as for the clock.</param>
    /// <param name="all">The things.</param>
    /// <param name="prepare">Reads what is needed for a lot, and gives back the step; the actor is null without a duty.</param>
    /// <param name="keep">False to try it only.</param>
    public async Task<Outcome<TakenTogether<T>>> EachAsync<T>(
        Guid workspace,
        Caller caller,
        Duties? duty,
        IReadOnlyList<T> all,
        Func<WorkspaceWrite, MemberRow?, IReadOnlyList<T>, Task<Func<T, Task<Refusal?>>>> prepare,
        bool keep = true
    )
    {
        var (done, refused) = (new List<T>(), new List<(T, Refusal)>());
        foreach (
            var run in keep
                ? all.Chunk(AtOnce)
                :
                [
                    [.. all],
                ]
        )
        {
            var outcome = await writer.WriteAsync<TakenTogether<T>>(
                workspace,
                caller,
                write => RunAsync(write, duty, run, prepare),
                keep
            );
            if (!outcome.Try(out var taken, out var refusal))
                return refusal;
            done.AddRange(taken.Done);
            refused.AddRange(taken.Refused);
        }
        return new TakenTogether<T>(done, refused);
    }

    private static async Task<Outcome<TakenTogether<T>>> RunAsync<T>(
        WorkspaceWrite write,
        Duties? duty,
        IReadOnlyList<T> run,
        Func<WorkspaceWrite, MemberRow?, IReadOnlyList<T>, Task<Func<T, Task<Refusal?>>>> prepare
    )
    {
        var (done, refused) = (new List<T>(), new List<(T, Refusal)>());
        write.IsOneOfMany = run.Count > 1;
        foreach (var lot in run.Chunk(AtOnce))
        {
            MemberRow? actor = null;
            if (duty is { } needed)
            {
                // Rights may change on the way: somebody who ends themselves ends nobody after that.
                if (!(await write.RequireAsync(needed)).Try(out actor, out var refusal))
                    return refusal;
            }
            var step = await prepare(write, actor, lot);
            foreach (var one in lot)
            {
                if (await write.AttemptAsync(() => step(one)) is { } no)
                    refused.Add((one, no));
                else
                    done.Add(one);
            }
        }
        return new TakenTogether<T>(done, refused);
    }
}
