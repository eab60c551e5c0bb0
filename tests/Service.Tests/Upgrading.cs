using System.Text.RegularExpressions;
using ComeAboard.Core;
using ComeAboard.Core.Access;
using ComeAboard.Core.Accounts;
using ComeAboard.Core.Invitations;
using ComeAboard.Core.Record;
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

    private static readonly DateOnly Today = new(2026, 11, 23);
    private static readonly (Guid Id, Role Role, Kind Kind)[] Members =
    [
        (Guid.Parse("01a00000-0000-7000-8000-0000000000a1"), Role.Manage, Kind.Staff),
        (Guid.Parse("01a00000-0000-7000-8000-0000000000a2"), Role.Edit, Kind.Partner),
        (Guid.Parse("01a00000-0000-7000-8000-0000000000a3"), Role.View, Kind.Guest),
        (Guid.Parse("01a00000-0000-7000-8000-0000000000a4"), Role.Manage, Kind.Client),
    ];

    [Fact]
    public async Task Every_migration_of_a_file_is_one_transaction_so_that_a_kill_leaves_none_half()
    {
        var file = Path.Combine(Path.GetTempPath(), $"{Guid.NewGuid()}.db");
        await using var rows = Database.Sqlite(file).Open();
        var script = rows.GetService<IMigrator>().GenerateScript();
        var begun = Regex.Count(script, "^BEGIN TRANSACTION;", RegexOptions.Multiline);
        Assert.Equal(rows.Database.GetMigrations().Count(), begun);
        Assert.Equal(begun, Regex.Count(script, "^COMMIT;", RegexOptions.Multiline));
    }

    /// <summary>After a migration was added, <c>make schema</c> writes the words anew.</summary>
    [Theory]
    [InlineData(Engine.Sqlite)]
    [InlineData(Engine.Postgres)]
    public async Task A_new_database_is_made_by_the_words_that_all_migrations_come_to(Engine engine)
    {
        await using var rows = (
            engine == Engine.Sqlite
                ? Database.Sqlite(Path.Combine(Path.GetTempPath(), $"{Guid.NewGuid()}.db"))
                : Database.Postgres("Host=127.0.0.1")
        ).Open();
        using var kept = new StreamReader(
            typeof(Database).Assembly.GetManifestResourceStream($"{engine}.Whole.sql")!
        );
        Assert.Equal(
            rows.GetService<IMigrator>()
                .GenerateScript(options: MigrationsSqlGenerationOptions.NoTransactions),
            await kept.ReadToEndAsync()
        );
    }

    [Fact]
    public async Task A_file_made_new_is_the_same_as_one_that_came_through_every_migration()
    {
        var directory = Directory.CreateTempSubdirectory("aboard-new-");
        var (made, migrated) = (await TablesOfAsync("made", false), await TablesOfAsync("migrated", true));
        Assert.NotEmpty(made);
        Assert.Equal(migrated, made);
        directory.Delete(true);

        async Task<List<string>> TablesOfAsync(string name, bool oneByOne)
        {
            var database = Database.Sqlite(Path.Combine(directory.FullName, name + ".db"));
            await using var rows = database.Open();
            if (oneByOne)
            {
                await rows.Database.OpenConnectionAsync();
                await rows.Database.ExecuteSqlRawAsync("PRAGMA foreign_keys = OFF");
                await rows.Database.MigrateAsync();
            }
            else
                await database.MigrateAsync();
            return await rows
                .Database.SqlQuery<string>(
                    $"SELECT type || ' ' || name || ' ' || coalesce(sql, '') AS Value FROM sqlite_master WHERE name <> '__EFMigrationsLock' ORDER BY 1"
                )
                .ToListAsync();
        }
    }

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
            await old.Database.ExecuteSqlRawAsync(
                """
                INSERT INTO accounts (id, name, address, password_hash, security_stamp, failed_tries, language, created_at, version)
                VALUES ({0}, 'Ines', 'ines@tide.example', 'as it was kept', '', 0, 'en', {1}, 1)
                """,
                Invitation,
                at
            );
            foreach (var (member, role, kind) in Members)
                await old.Database.ExecuteSqlRawAsync(
                    """
                    INSERT INTO members (workspace_id, id, account_id, address, address_key, name, kind, role, joined_at, version, search_text)
                    VALUES ({0}, {1}, {1}, {2}, {2}, 'Somebody', {3}, {4}, {5}, 1, '')
                    """,
                    Workspace,
                    member,
                    $"{member}@tide.example",
                    kind.Word(),
                    role.Name,
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
        // A password has become a row, and the account begins a history.
        var credential = await rows.Credentials.SingleAsync();
        Assert.Equal(
            (Invitation, CredentialKind.Password, "as it was kept"),
            (credential.AccountId, credential.Kind, credential.Secret)
        );
        Assert.Equal(RecordHead.Empty, (await rows.Accounts.SingleAsync()).HistoryHead);
        var world = (await Storage.Access.AccessPicture.ReadAsync(rows, 0)).World;
        Assert.Equal([new GivenRole(Role.View.Id)], kept.Bundle.Roles);
        // The three roles of before have become grants, and nobody has more or less by them than they had.
        foreach (var (member, role, kind) in Members)
        {
            Assert.Equal(role.Everywhere, world.LevelOf(member, Place.Elsewhere, Today));
            Assert.Equal(role.DutiesFor(kind), world.DutiesOf(member, Today));
        }
        using var texts = new Service.Invitations.SearchedTexts();
        var found = await new Service.Invitations.InvitationLists(
            database,
            texts,
            TimeProvider.System
        ).PageAsync(
            await rows.Workspaces.FirstAsync(),
            world,
            new Service.Invitations.InvitationQuery { Search = "nes@ti" }
        );
        Assert.Equal(Invitation, Assert.Single(found.Value.Items).Id);
        Microsoft.Data.Sqlite.SqliteConnection.ClearAllPools();
        directory.Delete(true);
    }

    [Theory]
    [InlineData(Engine.Sqlite)]
    [InlineData(Engine.Postgres)]
    public async Task A_list_that_was_being_read_is_read_on_after_what_was_handed_in_is_kept_in_parts(
        Engine engine
    )
    {
        var directory = Directory.CreateTempSubdirectory("aboard-old-");
        var database =
            engine == Engine.Sqlite
                ? Database.Sqlite(Path.Combine(directory.FullName, "old.db"))
                : Database.Postgres(await cluster.NewDatabaseAsync());
        await using (var old = database.Open())
        {
            await old.GetService<IMigrator>().MigrateAsync("Erasing");
            await old.Database.ExecuteSqlRawAsync(
                "INSERT INTO batch_contents (workspace_id, batch_id, csv) VALUES ({0}, {1}, {2})",
                Workspace,
                Invitation,
                "Name,Address\nInes,ines@tide.example\n\nOona,oona@tide.example"u8.ToArray()
            );
        }
        await database.MigrateAsync();
        await using var sheet = await Service.Invitations.BatchSheet.OpenAsync(
            database,
            Workspace,
            Invitation,
            default
        );
        var rows = new List<string>();
        while (await sheet!.NextAsync(default) is { } cells)
            rows.Add(sheet.Sheet.ReadRow(cells).Wish.Address!);
        Assert.Equal(["ines@tide.example", "oona@tide.example"], rows);
        Microsoft.Data.Sqlite.SqliteConnection.ClearAllPools();
        directory.Delete(true);
    }

    /// <summary>Two addresses of one account that both take notices would leave all mail unsent.</summary>
    [Theory]
    [InlineData(Engine.Sqlite)]
    [InlineData(Engine.Postgres)]
    public async Task One_address_at_most_of_an_account_takes_notices_whatever_was_kept_before(Engine engine)
    {
        var directory = Directory.CreateTempSubdirectory("aboard-old-");
        var database =
            engine == Engine.Sqlite
                ? Database.Sqlite(Path.Combine(directory.FullName, "old.db"))
                : Database.Postgres(await cluster.NewDatabaseAsync());
        var (kit, ines) = (Members[0].Id, Members[1].Id);
        await using (var old = database.Open())
        {
            await old.GetService<IMigrator>().MigrateAsync("BatchParts");
            foreach (var account in new[] { kit, ines })
                await old.Database.ExecuteSqlRawAsync(
                    """
                    INSERT INTO accounts (id, name, address, security_stamp, failed_tries, language, created_at, version)
                    VALUES ({0}, 'Somebody', 'somebody@tide.example', '', 0, 'en', {1}, 1)
                    """,
                    account,
                    engine == Engine.Sqlite ? 1_790_000_000_000L : DateTimeOffset.UnixEpoch
                );
            foreach (var (account, address) in Of(("b", kit), ("c", kit), ("a", ines), ("d", ines)))
                await PutAsync(old, account, address, address != "a@tide.example");
        }
        await database.MigrateAsync();
        await using var rows = database.Open();
        var takes = await rows
            .AccountAddresses.Where(a => a.TakesNotices)
            .OrderBy(a => a.Address)
            .Select(a => a.Address)
            .ToListAsync();
        Assert.Equal(["b@tide.example", "d@tide.example"], takes);
        Assert.Equal(4, await rows.AccountAddresses.CountAsync());
        await PutAsync(rows, kit, "e@tide.example", false);
        await Assert.ThrowsAnyAsync<System.Data.Common.DbException>(() =>
            PutAsync(rows, kit, "f@tide.example", true)
        );
        Microsoft.Data.Sqlite.SqliteConnection.ClearAllPools();
        directory.Delete(true);

        static IEnumerable<(Guid Account, string Address)> Of(params (string Name, Guid Account)[] all) =>
            all.Select(one => (one.Account, one.Name + "@tide.example"));

        static Task PutAsync(DbContext rows, Guid account, string address, bool takesNotices) =>
            rows.Database.ExecuteSqlRawAsync(
                "INSERT INTO account_addresses (account_id, address, address_key, domain, takes_notices) VALUES ({0}, {1}, {1}, 'tide.example', {2})",
                account,
                address,
                takesNotices
            );
    }
}
