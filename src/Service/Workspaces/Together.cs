using System.Diagnostics;
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

    private const int Some = 25;

    // Others want to change the workspace, too, and wait for its turn.
    private static readonly TimeSpan LongestTurn = TimeSpan.FromMilliseconds(400);

    /// <summary>Takes a step for each of some things.</summary>
    /// <param name="workspace">Where.</param>
    /// <param name="caller">Who takes it.</param>
    /// <param name="duty">The duty it needs; null when no member takes it, as for the clock.</param>
    /// <param name="all">The things.</param>
    /// <param name="prepare">Reads what is needed for a lot, and gives back the step; the actor is null without a duty.</param>
    /// <param name="keep">
    /// False to try it only: all of it in one change. Kept, it is as many changes as it takes for none to hold up others for long.
    /// </param>
    public Task<Outcome<TakenTogether<T>>> EachAsync<T>(
        Guid workspace,
        Caller caller,
        Duties? duty,
        IReadOnlyList<T> all,
        Func<WorkspaceWrite, MemberRow?, IReadOnlyList<T>, Task<Func<T, Task<Refusal?>>>> prepare,
        bool keep = true
    ) =>
        RunAsync(
            workspace,
            caller,
            duty,
            all,
            1,
            async (write, actor, lot) =>
            {
                var step = await prepare(write, actor, lot);
                return some => step(some[0]);
            },
            keep
        );

    /// <summary>
    /// The same where several are cheaper as one: they are taken together, and one by one only where that is refused.
    /// </summary>
    /// <param name="workspace">Where.</param>
    /// <param name="caller">Who takes it.</param>
    /// <param name="all">The things.</param>
    /// <param name="prepare">Reads what is needed for a lot, and gives back the step for some of it.</param>
    public Task<Outcome<TakenTogether<T>>> SomeAsync<T>(
        Guid workspace,
        Caller caller,
        IReadOnlyList<T> all,
        Func<WorkspaceWrite, IReadOnlyList<T>, Func<IReadOnlyList<T>, Task<Refusal?>>> prepare
    ) =>
        RunAsync(
            workspace,
            caller,
            null,
            all,
            Some,
            (write, _, lot) => Task.FromResult(prepare(write, lot)),
            true
        );

    private async Task<Outcome<TakenTogether<T>>> RunAsync<T>(
        Guid workspace,
        Caller caller,
        Duties? duty,
        IReadOnlyList<T> all,
        int size,
        Func<
            WorkspaceWrite,
            MemberRow?,
            IReadOnlyList<T>,
            Task<Func<IReadOnlyList<T>, Task<Refusal?>>>
        > prepare,
        bool keep
    )
    {
        var (done, refused) = (new List<T>(), new List<(T, Refusal)>());
        for (var at = 0; at == 0 || at < all.Count; )
        {
            IReadOnlyList<T> run = keep ? [.. all.Skip(at).Take(AtOnce)] : all;
            var outcome = await writer.WriteAsync<TakenTogether<T>>(
                workspace,
                caller,
                write =>
                    RunAsync(write, duty, run, size, prepare, keep ? LongestTurn : Timeout.InfiniteTimeSpan),
                keep
            );
            if (!outcome.Try(out var taken, out var refusal))
                return refusal;
            done.AddRange(taken.Done);
            refused.AddRange(taken.Refused);
            at += Math.Max(1, taken.Done.Count + taken.Refused.Count);
        }
        return new TakenTogether<T>(done, refused);
    }

    private static async Task<Outcome<TakenTogether<T>>> RunAsync<T>(
        WorkspaceWrite write,
        Duties? duty,
        IReadOnlyList<T> run,
        int size,
        Func<
            WorkspaceWrite,
            MemberRow?,
            IReadOnlyList<T>,
            Task<Func<IReadOnlyList<T>, Task<Refusal?>>>
        > prepare,
        TimeSpan longest
    )
    {
        var (began, done, refused) = (Stopwatch.GetTimestamp(), new List<T>(), new List<(T, Refusal)>());
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
            foreach (var some in lot.Chunk(size))
            {
                if (await write.AttemptAsync(() => step(some)) is not { } no)
                    done.AddRange(some);
                else if (some.Length == 1)
                    refused.Add((some[0], no));
                else
                {
                    // One of them cannot be; which, only each by itself tells.
                    step = await prepare(write, actor, lot);
                    foreach (var one in some)
                        if (await write.AttemptAsync(() => step([one])) is { } why)
                            refused.Add((one, why));
                        else
                            done.Add(one);
                }
                if (longest > TimeSpan.Zero && Stopwatch.GetElapsedTime(began) > longest)
                    return new TakenTogether<T>(done, refused);
            }
        }
        return new TakenTogether<T>(done, refused);
    }
}
