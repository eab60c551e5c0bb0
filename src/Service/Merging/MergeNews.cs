using ComeAboard.Core.Access;
using ComeAboard.Service.Accounts;
using ComeAboard.Service.Mail;
using ComeAboard.Service.Workspaces;
using ComeAboard.Storage.Accounts;
using Microsoft.EntityFrameworkCore;

namespace ComeAboard.Service.Merging;

/// <summary>Tells those who look after the people of a workspace of accounts that others merged and parted.</summary>
public sealed class MergeNews(Outbox outbox, ServiceSettings settings)
{
    private const int MostTold = 10;

    /// <summary>Tells the administrators of a workspace, which did not do it, that a member comes in by another account now.</summary>
    /// <param name="write">The change.</param>
    /// <param name="member">The member.</param>
    /// <param name="account">The main address of the account that member is from now on.</param>
    /// <param name="isParted">Whether accounts were parted again.</param>
    public async Task TellAdministratorsAsync(
        WorkspaceWrite write,
        MemberRow member,
        string account,
        bool isParted = false
    )
    {
        var world = await write.WorldAsync();
        var told = world
            .People.Keys.Where(id => world.DutiesHeldBy(id, write.Today).HasFlag(Duties.People))
            .ToList();
        var readers = await write
            .Rows.Members.AsNoTracking()
            .Where(m => told.Contains(m.Id) && m.EndedAt == null && m.Id != member.Id)
            .OrderBy(m => m.Id)
            .Take(MostTold)
            .ToListAsync();
        var link = settings.Link($"/w/{write.Workspace.ShortName}/people/{member.Id}");
        foreach (var reader in readers)
            outbox.Queue(
                write,
                Purposes.News,
                reader.Address,
                Letters.AccountMerged(reader, write.Workspace, member, account, isParted, link)
            );
    }
}
