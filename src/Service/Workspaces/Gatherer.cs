using System.Collections.Concurrent;
using ComeAboard.Storage;

namespace ComeAboard.Service.Workspaces;

/// <summary>
/// Gathers what is asked about one workspace while something is being done there, and does it together next: under
/// load many share one wait, alone nobody waits. Within a workspace nothing runs at the same time.
/// </summary>
/// <typeparam name="TAsk">What is asked.</typeparam>
/// <param name="most">How many are done together at most.</param>
/// <param name="doTogether">Does them; it has to answer each, and may throw when it was handed exactly one.</param>
public sealed class Gatherer<TAsk>(int most, Func<Guid, IReadOnlyList<TAsk>, Task> doTogether)
{
    private readonly ConcurrentDictionary<Guid, Lane> _lanes = new();

    /// <summary>Asks; the answer comes by way of the ask itself.</summary>
    public void Ask(Guid workspace, TAsk ask)
    {
        var lane = _lanes.GetOrAdd(workspace, _ => new Lane());
        if (!lane.Enter(ask))
            return;
        // What is done is done for all who ask: with nothing of whoever happened to be the first.
        using (ExecutionContext.SuppressFlow())
            _ = Task.Run(() => DrainAsync(workspace, lane));
    }

    private async Task DrainAsync(Guid workspace, Lane lane)
    {
        using var patience = Patience.Within(Patience.OfRequest);
        while (lane.Take(most) is { Count: > 0 } group)
            await doTogether(workspace, group);
    }

    /// <summary>What waits for one workspace.</summary>
    private sealed class Lane
    {
        private readonly Queue<TAsk> _queue = [];
        private bool _isDraining;

        /// <summary>Queues; true when the caller has to start draining.</summary>
        public bool Enter(TAsk ask)
        {
            lock (_queue)
            {
                _queue.Enqueue(ask);
                var starts = !_isDraining;
                _isDraining = true;
                return starts;
            }
        }

        /// <summary>The next group; empty once nothing waits, and then draining is over.</summary>
        public List<TAsk> Take(int most)
        {
            lock (_queue)
            {
                var group = new List<TAsk>();
                while (group.Count < most && _queue.TryDequeue(out var next))
                    group.Add(next);
                _isDraining = group.Count > 0;
                return group;
            }
        }
    }
}
