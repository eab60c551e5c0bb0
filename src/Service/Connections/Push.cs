using System.Collections.Concurrent;
using ComeAboard.Core.Connections;
using ComeAboard.Storage.Connections;

namespace ComeAboard.Service.Connections;

/// <summary>What became of an account in one try.</summary>
/// <param name="Member">Whose.</param>
/// <param name="Version">Which wish was carried out.</param>
/// <param name="Key">By what the system tells it apart, as far as is known now.</param>
/// <param name="IsOurs">Whether we made it.</param>
/// <param name="Held">What it was when it was read back; null for not there, or not read.</param>
/// <param name="IsRead">Whether it was read back.</param>
/// <param name="Done">What was done to it.</param>
/// <param name="No">Why it is not as it is to be; null where it is.</param>
internal sealed record Tried(
    Guid Member,
    int Version,
    string Key,
    bool IsOurs,
    HeldThere? Held,
    bool IsRead,
    IReadOnlyList<ThereStep> Done,
    TargetException? No
)
{
    /// <summary>Whether it was told, to a system that cannot be asked.</summary>
    public bool IsTold { get; init; }
}

/// <summary>One try to have the accounts of a lot as they are to be: done, and then all read back.</summary>
internal sealed class Push(
    IAskedSession session,
    IReadOnlySet<string> managed,
    TimeZoneInfo zone,
    IReadOnlyList<AccountThereRow> lot
)
{
    private readonly ConcurrentDictionary<Guid, Tried> _tried = new();
    private volatile bool _isOver;

    public async Task<IReadOnlyList<Tried>> RunAsync(CancellationToken stop)
    {
        await EachAsync(lot, DoAsync, stop);
        session.Forget();
        await EachAsync(
            [.. lot.Where(row => _tried.TryGetValue(row.MemberId, out var one) && one.No is null)],
            ReadBackAsync,
            stop
        );
        return [.. _tried.Values];
    }

    private Task EachAsync(
        IReadOnlyList<AccountThereRow> rows,
        Func<AccountThereRow, CancellationToken, Task> work,
        CancellationToken stop
    ) =>
        Parallel.ForEachAsync(
            rows,
            new ParallelOptions { MaxDegreeOfParallelism = session.AtOnce, CancellationToken = stop },
            async (row, cancelled) =>
            {
                if (!_isOver)
                    await work(row, cancelled);
            }
        );

    private async Task DoAsync(AccountThereRow row, CancellationToken stop)
    {
        var done = new List<ThereStep>();
        var (key, isOurs) = (row.TheirKey, row.IsOurs);
        try
        {
            var (wanted, profile) = (Carrier.WantedOf(row), ProfileOf(row));
            var held = await HeldAsync(session, row, ProfileOf(row), stop);
            (key, isOurs) = Known(row, held);
            foreach (var step in Steps(row, held, isOurs))
            {
                if (step.Deed == ThereDeed.Make)
                    (key, isOurs) = await MakeAsync(row, profile, stop);
                else
                    await session.ApplyAsync(key, profile, step, stop);
                done.Add(step);
            }
            Put(row, key, isOurs, null, false, done, null);
        }
        catch (TargetException no)
        {
            Put(row, key, isOurs, null, false, done, no);
        }
    }

    private async Task ReadBackAsync(AccountThereRow row, CancellationToken stop)
    {
        var one = _tried[row.MemberId];
        try
        {
            var held = one.Key.Length > 0 ? await session.ReadAsync(one.Key, stop) : null;
            var left = Steps(row, held, one.IsOurs);
            var isClosed =
                row.Wanted != AccountThere.On
                && ThereDifference.IsClosed(held, managed)
                && (held is null || row.Wanted == AccountThere.Off || !one.IsOurs || !session.Removes);
            Put(
                row,
                one.Key,
                one.IsOurs,
                held,
                true,
                one.Done,
                left.Count == 0 || isClosed
                    ? null
                    : new TargetException(
                        Trouble.ThisOne,
                        one.Done.Count > 0
                            ? $"It said that it was done, and did not do it: the account is still to be {left[0].Said()}."
                            : $"The account is still to be {left[0].Said()}."
                    )
            );
        }
        catch (TargetException no)
        {
            Put(row, one.Key, one.IsOurs, null, false, one.Done, no);
        }
    }

    /// <summary>What is there, by the key or – where that is not known, or names nothing any more – by looking for it.</summary>
    public static async Task<HeldThere?> HeldAsync(
        IAskedSession session,
        AccountThereRow row,
        ProfileThere profile,
        CancellationToken stop
    )
    {
        if (row.TheirKey.Length > 0 && await session.ReadAsync(row.TheirKey, stop) is { } held)
            return held;
        var isOn = row.Wanted == AccountThere.On;
        // What is to be gone and is not there by its key, is gone.
        if (row.TheirKey.Length > 0 && !isOn)
            return null;
        var found = await session.FindAsync(row.MemberId, profile, stop);
        // By an address alone nothing is closed that was never taken over.
        var isKnown = isOn || row.Held is AccountThere.On or AccountThere.Off;
        return found is null || isKnown || Pairing.IsMarked(found, row.MemberId) ? found : null;
    }

    private static (string Key, bool IsOurs) Known(AccountThereRow row, HeldThere? held) =>
        held is null ? ("", false)
        : held.Key == row.TheirKey ? (held.Key, row.IsOurs)
        : (held.Key, Pairing.IsMarked(held, row.MemberId));

    private async Task<(string, bool)> MakeAsync(
        AccountThereRow row,
        ProfileThere profile,
        CancellationToken stop
    )
    {
        try
        {
            return (await session.MakeAsync(row.MemberId, profile, stop), true);
        }
        catch (TargetException no) when (no.Trouble == Trouble.ThisOne)
        {
            // One that somebody made meanwhile, or that a try made whose answer was lost.
            session.Forget();
            if (await session.FindAsync(row.MemberId, profile, stop) is not { } there)
                throw;
            if (!there.IsOn)
                await session.ApplyAsync(there.Key, profile, new ThereStep(ThereDeed.SwitchOn), stop);
            return (there.Key, Pairing.IsMarked(there, row.MemberId));
        }
    }

    private IReadOnlyList<ThereStep> Steps(AccountThereRow row, HeldThere? held, bool isOurs) =>
        ThereDifference.Between(Carrier.WantedOf(row), ProfileOf(row), held, managed, isOurs, row.Tries > 0);

    private void Put(
        AccountThereRow row,
        string key,
        bool isOurs,
        HeldThere? held,
        bool isRead,
        IReadOnlyList<ThereStep> done,
        TargetException? no
    )
    {
        if (no is { Trouble: not Trouble.ThisOne })
            _isOver = true;
        _tried[row.MemberId] = new Tried(row.MemberId, row.Version, key, isOurs, held, isRead, done, no);
    }

    private ProfileThere ProfileOf(AccountThereRow row) => KnownAccounts.ProfileOf(row, zone);
}
