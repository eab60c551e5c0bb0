using ComeAboard.Core.Invitations;
using ComeAboard.Service.Tests.World;
using ComeAboard.Storage;
using Microsoft.EntityFrameworkCore;
using Microsoft.EntityFrameworkCore.Infrastructure;
using Microsoft.EntityFrameworkCore.Migrations;
using Xunit;

namespace ComeAboard.Service.Tests;

/// <summary>A database of the first version keeps every row and is searched and listed like any other afterwards.</summary>
public sealed class Upgrading(PostgresCluster cluster)
{
    private static readonly Guid Workspace = Guid.Parse("01a00000-0000-7000-8000-000000000001");
    private static readonly Guid Invitation = Guid.Parse("01a00000-0000-7000-8000-000000000002");

    [Theory]
    [InlineData(Engine.Sqlite)]
    [InlineData(Engine.Postgres)]
    public async Task A_database_of_the_first_version_keeps_its_invitations(Engine engine)
    {
        var directory = Directory.CreateTempSubdirectory("aboard-old-");
        var database =
            engine == Engine.Sqlite
                ? Database.Sqlite(Path.Combine(directory.FullName, "old.db"))
                : Database.Postgres(await cluster.NewDatabaseAsync());
        await using (var old = database.Open())
        {
            await old.GetService<IMigrator>().MigrateAsync("First");
            object at =
                engine == Engine.Sqlite
                    ? 1_790_000_000_000L
                    : DateTimeOffset.FromUnixTimeMilliseconds(1_790_000_000_000);
            await old.Database.ExecuteSqlRawAsync(
                """
                INSERT INTO workspaces (id, short_name, name, time_zone, language, sender_name, answer_seconds, created_at, record_sequence, record_hash)
                VALUES ({0}, 'tide', 'Tide', 'Etc/UTC', 'en', 'Tide', 86400, {1}, 0, 'x')
                """,
                Workspace,
                at
            );
            await old.Database.ExecuteSqlRawAsync(
                """
                INSERT INTO invitations (workspace_id, id, address, address_key, name, kind, role, message, language, state, secret_hash,
                    deadline, answer_seconds, invited_by, invited_by_name, created_at, last_step_at, resends, version, search_text)
                VALUES ({0}, {1}, 'ines@tide.example', 'ines@tide.example', 'Ines', 'guest', 'view', '', 'en', 'sent', 'hash',
                    {2}, 86400, {0}, 'Mira', {2}, {2}, 0, 1, 'ines ines@tide.example')
                """,
                Workspace,
                Invitation,
                at
            );
        }
        await database.MigrateAsync();
        await using var rows = database.Open(Workspace);
        var kept = await rows.Invitations.SingleAsync(i => i.IsPending);
        Assert.Equal(
            (Invitation, InvitationState.Sent, "hash", ""),
            (kept.Id, kept.State, kept.SecretHash, kept.Organisation)
        );
        var found = await Service.Invitations.InvitationLists.PageAsync(
            rows,
            new Service.Invitations.InvitationQuery(null, null, "nes@ti", null, null, null, null, null),
            DateTimeOffset.UtcNow
        );
        Assert.Equal(Invitation, Assert.Single(found.Value.Items).Id);
        Microsoft.Data.Sqlite.SqliteConnection.ClearAllPools();
        directory.Delete(true);
    }
}
