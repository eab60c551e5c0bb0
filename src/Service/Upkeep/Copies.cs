using System.Security.Cryptography;
using System.Text.Json;
using ComeAboard.Core;
using ComeAboard.Core.Record;
using ComeAboard.Storage;
using ComeAboard.Storage.Copies;
using ComeAboard.Storage.Record;
using Microsoft.Data.Sqlite;
using Microsoft.EntityFrameworkCore;

namespace ComeAboard.Service.Upkeep;

/// <summary>Backing up, restoring and checking a database. A back-up is one SQLite file, whichever engine it is of.</summary>
/// <param name="database">The database the service runs on.</param>
/// <param name="place">The path of its file; null for a server.</param>
/// <param name="clock">The present.</param>
public sealed class Copies(Database database, string? place, TimeProvider clock)
{
    /// <summary>Takes a back-up while the service runs, and reads it through before it gets its name.</summary>
    /// <param name="file">The path of the new file.</param>
    /// <param name="progress">Told how many rows are copied so far.</param>
    /// <param name="cancellation">Breaks it off; nothing stays.</param>
    public async Task<Outcome<CheckResult>> BackUpAsync(
        string file,
        Action<long>? progress = null,
        CancellationToken cancellation = default
    )
    {
        if (File.Exists(file))
            return Exists(file, "Name a file that does not exist yet.");
        var part = file + ".part";
        if (File.Exists(part))
            return Exists(part, "A back-up is being written there, or one was broken off; remove it then.");
        await database.RequireCurrentAsync(cancellation);
        try
        {
            await Copying.SaveAsync(database, part, progress, cancellation);
            var result = await new DatabaseCheck(Database.Sqlite(part)).RunAsync(cancellation);
            Copying.Seal(part);
            // Never over one that came meanwhile.
            File.Move(part, file, overwrite: false);
            return result;
        }
        catch (Exception fault) when (fault is IOException or UnauthorizedAccessException)
        {
            Remove(part);
            return Unwritable(file, fault);
        }
        catch
        {
            Remove(part);
            throw;
        }
    }

    /// <summary>
    /// Makes the database out of a back-up, where there is none. Nobody is signed in afterwards, and each record says
    /// that what follows was restored.
    /// </summary>
    /// <param name="file">The back-up, of this version or an earlier one.</param>
    /// <param name="allowsFindings">Whether it is restored even if something in it does not add up.</param>
    /// <param name="progress">Told how many rows are copied so far.</param>
    /// <param name="cancellation">Breaks it off; nothing stays.</param>
    public async Task<Outcome<CheckResult>> RestoreAsync(
        string file,
        bool allowsFindings = false,
        Action<long>? progress = null,
        CancellationToken cancellation = default
    )
    {
        if (!File.Exists(file))
            return NoFile(file);
        if (!await database.IsNewAsync(cancellation))
            return new Refusal(
                "restore.not-empty",
                place is null
                    ? "There is something in the database already."
                    : $"There is a database {place} already.",
                "Restoring replaces nothing: move it away first, or name another under Database.",
                RefusalSort.Conflict
            );
        // Beside where it will stand: the same disk, and as private.
        var part = place is null ? Path.GetTempFileName() : place + ".part";
        try
        {
            if (!(await OpenCopyAsync(file, part, cancellation)).Try(out var copy, out var unreadable))
            {
                Remove(part);
                return unreadable;
            }
            var result = await new DatabaseCheck(copy).RunAsync(cancellation);
            if (result.Findings.Count > 0 && !allowsFindings)
            {
                Remove(part);
                return result;
            }
            if (place is null)
            {
                await database.MigrateAsync(cancellation: cancellation);
                await Copying.CopyAsync(copy, database, AfterwardsAsync, progress, cancellation);
                Remove(part);
            }
            else
            {
                await using (var rows = copy.Open())
                {
                    await using var transaction = await rows.Database.BeginTransactionAsync(cancellation);
                    await AfterwardsAsync(rows);
                    await transaction.CommitAsync(cancellation);
                }
                Copying.Seal(part);
                File.Move(part, place, overwrite: false);
            }
            return result;
        }
        catch (Exception fault) when (fault is IOException or UnauthorizedAccessException)
        {
            Remove(part);
            return Unwritable(place ?? part, fault);
        }
        catch
        {
            Remove(part);
            throw;
        }
    }

    /// <summary>Checks the database itself, while it is in use.</summary>
    public async Task<CheckResult> CheckAsync(CancellationToken cancellation = default)
    {
        await database.RequireCurrentAsync(cancellation);
        return await new DatabaseCheck(database).RunAsync(cancellation);
    }

    /// <summary>Checks a back-up; it is not touched.</summary>
    public static async Task<Outcome<CheckResult>> CheckAsync(
        string file,
        CancellationToken cancellation = default
    )
    {
        if (!File.Exists(file))
            return NoFile(file);
        var part = Path.GetTempFileName();
        try
        {
            return (await OpenCopyAsync(file, part, cancellation)).Try(out var copy, out var unreadable)
                ? await new DatabaseCheck(copy).RunAsync(cancellation)
                : unreadable;
        }
        finally
        {
            Remove(part);
        }
    }

    // A back-up of an earlier version is brought up to date where it is copied, never where it lies.
    private static async Task<Outcome<Database>> OpenCopyAsync(
        string file,
        string part,
        CancellationToken cancellation
    )
    {
        try
        {
            File.Copy(file, part, overwrite: true);
        }
        catch (UnauthorizedAccessException fault)
        {
            return Unreadable(file, fault.Message);
        }
        var copy = Database.Sqlite(part);
        try
        {
            await copy.MigrateAsync(makes: false, cancellation: cancellation);
            return copy;
        }
        catch (UnusableDatabaseException unusable) when (unusable.IsNewer)
        {
            return Unreadable(file, unusable.Message);
        }
        catch (UnusableDatabaseException)
        {
            return Unreadable(file, "There is nothing of the service in it.");
        }
        catch (SqliteException fault) when (fault.SqliteErrorCode is NotADatabase or Corrupt)
        {
            return Unreadable(file, fault.Message);
        }
    }

    /// <summary>A sign-in that ended since the back-up must not live again, and the record is told.</summary>
    private async Task AfterwardsAsync(ComeAboardContext rows)
    {
        await rows.Sessions.ExecuteDeleteAsync();
        foreach (var workspace in await rows.Workspaces.AsNoTracking().ToListAsync())
        {
            var details = JsonSerializer.Serialize(
                new { by = "the operator", after = workspace.RecordSequence }
            );
            var entry = RecordChain.Append(
                workspace.RecordHead,
                new Happening(
                    clock.GetUtcNow(),
                    "service",
                    "operator",
                    "workspace.restored",
                    workspace.Id.ToString(),
                    details
                ),
                RandomNumberGenerator.GetBytes(16)
            );
            await Copying.AppendAsync(rows, RecordRow.Of(workspace.Id, entry));
            await rows
                .Workspaces.Where(w => w.Id == workspace.Id)
                .ExecuteUpdateAsync(set =>
                    set.SetProperty(w => w.RecordSequence, entry.Sequence)
                        .SetProperty(w => w.RecordHash, entry.Hash)
                );
        }
    }

    private static void Remove(string part)
    {
        Copying.LetGo(part);
        if (!Directory.Exists(Path.GetDirectoryName(Path.GetFullPath(part))))
            return;
        foreach (var ending in (ReadOnlySpan<string>)["", "-wal", "-shm", "-journal"])
            File.Delete(part + ending);
    }

    private const int Corrupt = 11;
    private const int NotADatabase = 26;

    private static Refusal Exists(string file, string remedy) =>
        new("file.exists", $"There is a file {file} already.", remedy, RefusalSort.Conflict);

    private static Refusal Unreadable(string file, string why) =>
        new(
            "backup.unreadable",
            $"{file} cannot be read as a back-up: {why}",
            "Take another one.",
            RefusalSort.Conflict
        );

    private static Refusal Unwritable(string file, Exception fault) =>
        new(
            "file.unwritable",
            $"{file} cannot be written: {fault.Message}",
            "Name a place that exists, with room, where you may write.",
            RefusalSort.Conflict
        );

    private static Refusal NoFile(string file) =>
        new("file.unknown", $"There is no file {file}.", "Check its name.", RefusalSort.NotFound);
}
