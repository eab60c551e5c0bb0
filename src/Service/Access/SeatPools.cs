using ComeAboard.Client.Access;
using ComeAboard.Client.Workspaces;
using ComeAboard.Core;
using ComeAboard.Core.Access;
using ComeAboard.Service.Workspaces;
using ComeAboard.Storage;
using ComeAboard.Storage.Access;
using ComeAboard.Storage.Accounts;
using Microsoft.EntityFrameworkCore;

namespace ComeAboard.Service.Access;

/// <summary>What a seat pool is to be.</summary>
/// <param name="Name">Its name.</param>
/// <param name="About">A line about it.</param>
/// <param name="Total">How many seats it has.</param>
/// <param name="ChangesPerSeat">How often each may change hands in a year; null for as often as wanted.</param>
public sealed record PoolWords(string Name, string About, int Total, int? ChangesPerSeat) : INamed;

/// <summary>Seat pools.</summary>
public sealed class SeatPools(Editing editing, Database database)
    : NamedThings<SeatPoolRow, PoolRequest, PoolWords, PoolView>(Sort, editing)
{
    public static NamedSort Sort { get; } = new("seat pool", 200, Duties.Seats, "pool");

    /// <summary>All of them, by name.</summary>
    public async Task<Page<PoolView>> ListAsync(Visitor visitor)
    {
        await using var rows = database.Open(visitor.WorkspaceId);
        var found = await rows.SeatPools.AsNoTracking().OrderBy(p => p.NameKey).ToListAsync();
        return new Page<PoolView>([.. found.Select(p => ViewOf(p, visitor.Today))], null);
    }

    /// <summary>One.</summary>
    public async Task<Outcome<PoolView>> ShowAsync(Visitor visitor, string name)
    {
        if (!visitor.World.FindPool(name).Try(out var id, out var refusal))
            return refusal;
        await using var rows = database.Open(visitor.WorkspaceId);
        return await rows.SeatPools.AsNoTracking().FirstOrDefaultAsync(p => p.Id == id) is { } row
            ? ViewOf(row, visitor.Today)
            : CommonRefusals.NotFound;
    }

    protected override Task<Outcome<Guid>> FindAsync(Visitor visitor, string name) =>
        Task.FromResult(visitor.World.FindPool(name));

    protected override Outcome<PoolWords> Read(PoolRequest request, AccessWorld world) =>
        Sort.ReadWords(request.Name, request.About).Try(out var words, out var refusal)
            ? new PoolWords(words.Name, words.About, request.Total, request.ChangesPerSeat)
            : refusal;

    protected override Task<Outcome<(string Name, object? Value)[]>> FillAsync(
        WorkspaceWrite write,
        MemberRow editor,
        SeatPoolRow row,
        PoolWords words
    )
    {
        var before = row.AccountOn(write.Today);
        if (!before.Resize(words.Total, words.ChangesPerSeat).Try(out var account, out var refusal))
            return Task.FromResult<Outcome<(string, object?)[]>>(refusal);
        (row.About, row.Account) = (words.About, account);
        return Task.FromResult(
            Facts(
                ("total before", before.Total),
                ("total after", account.Total),
                ("changes per seat before", before.ChangesPerSeat),
                ("changes per seat after", account.ChangesPerSeat)
            )
        );
    }

    protected override Task<Outcome<int>> ClearAsync(WorkspaceWrite write, SeatPoolRow row) =>
        Task.FromResult<Outcome<int>>(
            row.Held + row.Reserved > 0
                ? Sort.InUse(
                    $"{row.Held} seats of {row.Name} are held and {row.Reserved} reserved.",
                    "Take them first."
                )
                : 0
        );

    protected override Task<PoolView> AnswerAsync(Visitor visitor, Edited<SeatPoolRow> done) =>
        Task.FromResult(ViewOf(done.Value, visitor.Today));

    /// <summary>A pool as it goes over the wire.</summary>
    public static PoolView ViewOf(SeatPoolRow row, DateOnly today)
    {
        var account = row.AccountOn(today);
        return new PoolView(
            row.Id,
            row.Name,
            row.About,
            account.Total,
            account.Held,
            account.Reserved,
            account.Free,
            account.ChangesPerSeat,
            account.ChangesUsed,
            account.ReservedChanges,
            account.ChangesLeft,
            account.Year,
            row.Version
        );
    }
}
