using ComeAboard.Core.Invitations;
using ComeAboard.Storage;
using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.Caching.Memory;

namespace ComeAboard.Service.Invitations;

/// <summary>
/// Some of the texts that a workspace's invitations are searched in, from all of its time: they tell what nearly all of them hold, and how often a part is met.
/// Nothing but the way of a search depends on them, and they are looked at again after a minute.
/// </summary>
public sealed class SearchedTexts : IDisposable
{
    // From so many places so many each.
    private const int Places = 8;
    private const int Each = 32;

    private const int Workspaces = 1_000;
    private static readonly TimeSpan Kept = TimeSpan.FromMinutes(1);

    private readonly MemoryCache _kept = new(new MemoryCacheOptions { SizeLimit = Workspaces });

    /// <summary>Texts of the entered workspace; none where there are no invitations.</summary>
    public async Task<IReadOnlyList<string>> OfAsync(ComeAboardContext rows)
    {
        if (_kept.TryGetValue(rows.Workspace, out List<string>? texts))
            return texts!;
        texts = await ReadAsync(rows);
        return _kept.Set(
            rows.Workspace,
            texts,
            new MemoryCacheEntryOptions { Size = 1, AbsoluteExpirationRelativeToNow = Kept }
        );
    }

    private static async Task<List<string>> ReadAsync(ComeAboardContext rows)
    {
        var ids = rows.Invitations.Select(i => i.Id);
        var (first, last) = (
            await ids.OrderBy(id => id).FirstOrDefaultAsync(),
            await ids.OrderByDescending(id => id).FirstOrDefaultAsync()
        );
        var texts = new List<string>(Places * Each);
        foreach (var from in SpreadIds.Between(first, last, Places))
            texts.AddRange(
                await rows
                    .Invitations.Where(i => i.Id.CompareTo(from) >= 0)
                    .OrderBy(i => i.Id)
                    .Take(Each)
                    .Select(i => i.SearchText)
                    .ToListAsync()
            );
        return texts;
    }

    /// <inheritdoc/>
    public void Dispose() => _kept.Dispose();
}
