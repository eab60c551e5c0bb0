using Microsoft.EntityFrameworkCore;

namespace ComeAboard.Service.Tests.World;

/// <summary>What somebody with the database's own tools could do.</summary>
public static class Sql
{
    /// <summary>Runs statements on one workspace's rows.</summary>
    public static async Task RunAsync(Harbour harbour, string statements, Guid workspace)
    {
        await using var rows = harbour.Database.Open();
        foreach (var statement in statements.Split(';', StringSplitOptions.RemoveEmptyEntries))
        {
            var only = statement.Replace("WHERE", "WHERE workspace_id = {0} AND", StringComparison.Ordinal);
            await rows.Database.ExecuteSqlRawAsync(only, workspace);
        }
    }

    /// <summary>Runs one statement on rows that belong to no workspace.</summary>
    public static async Task RunGlobalAsync(Harbour harbour, string statement)
    {
        await using var rows = harbour.Database.Open();
        await rows.Database.ExecuteSqlRawAsync(statement);
    }
}
