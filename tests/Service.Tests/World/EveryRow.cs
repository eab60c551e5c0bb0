using System.Text.Json;
using ComeAboard.Storage;
using ComeAboard.Storage.Access;
using ComeAboard.Storage.Accounts;
using ComeAboard.Storage.Applications;
using ComeAboard.Storage.Departures;
using ComeAboard.Storage.Invitations;
using ComeAboard.Storage.Mail;
using ComeAboard.Storage.Record;
using ComeAboard.Storage.SignIn;
using ComeAboard.Storage.Workspaces;
using Microsoft.EntityFrameworkCore;
using Microsoft.EntityFrameworkCore.Metadata;
using Xunit;

namespace ComeAboard.Service.Tests.World;

/// <summary>Every row there is, for saying that something came to nothing.</summary>
public static class EveryRow
{
    /// <summary>What tells what happened, or is forgotten by itself; and what only counts changes.</summary>
    private static readonly Type[] Passing =
    [
        typeof(RecordRow),
        typeof(HistoryRow),
        typeof(DeliveryRow),
        typeof(AccessChangeRow),
        typeof(AccountMergeRow),
        typeof(MemberMergeRow),
        typeof(SessionRow),
        typeof(AccountLinkRow),
        typeof(MailedCodeRow),
        typeof(BudgetRow),
        typeof(SecurityEventRow),
        typeof(IdempotencyRow),
        typeof(DuplicateRow),
        typeof(CeremonyRow),
        typeof(ProtectionKeyRow),
        typeof(OAuthKeyRow),
    ];

    private static readonly HashSet<string> Counting =
    [
        "Version",
        "RecordSequence",
        "RecordHash",
        "HistorySequence",
        "HistoryHash",
        "AccessVersion",
        "MatchDueAt",
        "LastSeenAt",
        "SeenAt",
        "SentAt",
        "LastUsedAt",
    ];

    /// <summary>Fails where two dumps differ, and says in what.</summary>
    public static void Same(string before, string after, string when)
    {
        var (was, now) = (before.Split('\n'), after.Split('\n'));
        Assert.True(
            before == after,
            $"{when}\nnot any more:\n{string.Join('\n', was.Except(now).Take(8))}\nnew:\n{string.Join('\n', now.Except(was).Take(8))}"
        );
    }

    /// <summary>Every row of a workspace, those that tell what happened, too; one a line.</summary>
    public static async Task<string> OfAsync(Harbour harbour, Ship ship)
    {
        await using var rows = harbour.Database.Open(ship.Id);
        var types = rows.Model.GetEntityTypes().Where(t => t.ClrType.IsAssignableTo(typeof(ITenantRow)));
        var lines = new List<string>();
        foreach (var type in types)
            lines.AddRange(await LinesAsync(rows, type, [.. type.GetProperties()], ship));
        return string.Join('\n', lines);
    }

    /// <summary>Every row there is, one a line; only those of a workspace where one is named.</summary>
    /// <param name="harbour">Where.</param>
    /// <param name="ship">The workspace; null for all.</param>
    /// <param name="beside">Types of rows that are left out beside those that only tell what happened.</param>
    public static async Task<string> DumpAsync(Harbour harbour, Ship? ship, params Type[] beside)
    {
        await using var rows = harbour.Database.Open(ship?.Id ?? Guid.Empty);
        var lines = new List<string>();
        foreach (
            var type in rows
                .Model.GetEntityTypes()
                .Where(type => !Passing.Contains(type.ClrType) && !beside.Contains(type.ClrType))
        )
        {
            var properties = type.GetProperties().Where(p => !Counting.Contains(p.Name)).ToList();
            lines.AddRange(await LinesAsync(rows, type, properties, ship));
        }
        return string.Join('\n', lines.Order(StringComparer.Ordinal));
    }

    private static async Task<IReadOnlyList<string>> LinesAsync(
        ComeAboardContext rows,
        IEntityType type,
        IReadOnlyList<IProperty> properties,
        Ship? ship
    )
    {
        var all =
            (IQueryable<object>)
                rows.GetType()
                    .GetMethod(nameof(DbContext.Set), 1, [])!
                    .MakeGenericMethod(type.ClrType)
                    .Invoke(rows, [])!;
        var lines = new List<string>();
        foreach (var row in await all.IgnoreQueryFilters().AsNoTracking().ToListAsync())
        {
            var values = properties.ToDictionary(
                p => p.Name,
                p => p.PropertyInfo?.GetValue(row)?.ToString() ?? ""
            );
            if (ship is null || !values.TryGetValue("WorkspaceId", out var at) || at == ship.Id.ToString())
                lines.Add(type.ClrType.Name + " " + JsonSerializer.Serialize(values));
        }
        return lines;
    }
}
