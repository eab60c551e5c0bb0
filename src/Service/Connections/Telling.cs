using System.Collections.Concurrent;
using ComeAboard.Core.Connections;
using ComeAboard.Storage.Connections;

namespace ComeAboard.Service.Connections;

/// <summary>One try to tell a system, that cannot be asked, what the accounts of a lot are to be.</summary>
internal sealed class Telling(ITellingSession session, TimeZoneInfo zone, IReadOnlyList<AccountThereRow> lot)
{
    private readonly ConcurrentDictionary<Guid, Tried> _tried = new();
    private volatile bool _isOver;

    public async Task<IReadOnlyList<Tried>> RunAsync(CancellationToken stop)
    {
        await Parallel.ForEachAsync(
            lot,
            new ParallelOptions { MaxDegreeOfParallelism = session.AtOnce, CancellationToken = stop },
            async (row, cancelled) =>
            {
                if (!_isOver)
                    await TellAsync(row, cancelled);
            }
        );
        return [.. _tried.Values];
    }

    private async Task TellAsync(AccountThereRow row, CancellationToken stop)
    {
        var (wanted, profile) = (Carrier.WantedOf(row), KnownAccounts.ProfileOf(row, zone));
        try
        {
            await session.TellAsync(row.MemberId, row.Version, profile, wanted, stop);
            var told =
                wanted.Account == AccountThere.Gone
                    ? null
                    : new HeldThere(
                        row.MemberId.ToString(),
                        wanted.Account == AccountThere.On,
                        row.Address,
                        row.Name,
                        wanted.Groups
                    );
            _tried[row.MemberId] = new Tried(row.MemberId, row.Version, "", false, told, true, [], null)
            {
                IsTold = true,
            };
        }
        catch (TargetException no)
        {
            if (no.Trouble != Trouble.ThisOne)
                _isOver = true;
            _tried[row.MemberId] = new Tried(row.MemberId, row.Version, "", false, null, false, [], no);
        }
    }
}
