using System.Data.Common;
using System.Text.Json;
using ComeAboard.Core;
using Microsoft.AspNetCore.Antiforgery;
using Microsoft.Data.Sqlite;
using Microsoft.EntityFrameworkCore;
using Npgsql;

namespace ComeAboard.Service.Http;

/// <summary>Turns what went wrong unexpectedly into an answer with a code; nothing was written when it comes.</summary>
public static class Faults
{
    private const int SqliteBusy = 5;
    private const int SqliteLocked = 6;
    private const int SqliteReadOnly = 8;
    private const int SqliteIo = 10;
    private const int SqliteFull = 13;
    private const int SqliteCannotOpen = 14;

    /// <summary>Catches exceptions of everything behind it.</summary>
    public static IApplicationBuilder UseFaults(this IApplicationBuilder app) =>
        app.Use(
            async (http, next) =>
            {
                try
                {
                    await next(http);
                }
                catch (OperationCanceledException) when (http.RequestAborted.IsCancellationRequested)
                {
                    // The caller left; nobody reads an answer.
                }
                catch (Exception fault) when (!http.Response.HasStarted)
                {
                    http.Response.Clear();
                    await Explain(fault, http).WriteAsync(http);
                }
            }
        );

    /// <summary>The refusal that explains a fault; unknown ones are logged.</summary>
    public static Refusal Explain(Exception fault, HttpContext http)
    {
        if (Find<BadHttpRequestException>(fault) is { } bad)
            return bad.StatusCode == StatusCodes.Status413PayloadTooLarge
                ? new Refusal("request.too-large", "The request is too large.", "Send less at once.")
                : CommonRefusals.Malformed(
                    bad.InnerException is JsonException json
                        ? Where(json)
                        : "a value is missing or of the wrong form."
                );
        if (Find<JsonException>(fault) is { } unread)
            return CommonRefusals.Malformed(Where(unread));
        if (Find<AntiforgeryValidationException>(fault) is not null)
            return CommonRefusals.Antiforgery;
        if (Find<DbUpdateConcurrencyException>(fault) is not null)
            return CommonRefusals.Stale;

        var log = http.RequestServices.GetRequiredService<ILoggerFactory>().CreateLogger("ComeAboard.Faults");
        log.LogError(fault, "A request failed");
        return ExplainStorage(fault)
            ?? new Refusal(
                "service.fault",
                "The service failed at this request; nothing was changed.",
                "Try again; if it stays so, tell the operator the time it happened.",
                RefusalSort.Unavailable
            );
    }

    /// <summary>The refusal for a database that cannot take the work just now, or null for any other fault.</summary>
    public static Refusal? ExplainStorage(Exception fault)
    {
        if (Find<SqliteException>(fault) is { } sqlite)
            return sqlite.SqliteErrorCode switch
            {
                SqliteBusy or SqliteLocked => Storage(
                    "busy",
                    "The database is locked by another program.",
                    "Try again in a moment."
                ),
                SqliteFull => Storage(
                    "full",
                    "The disk of the database is full.",
                    "Tell the operator to make room; then try again."
                ),
                SqliteReadOnly or SqliteIo or SqliteCannotOpen => Storage(
                    "unwritable",
                    "The database file cannot be written.",
                    "Tell the operator to check the disk and the file's rights."
                ),
                _ => null,
            };
        if (Find<PostgresException>(fault) is { } postgres)
            return postgres.SqlState switch
            {
                PostgresErrorCodes.DiskFull => Storage(
                    "full",
                    "The disk of the database is full.",
                    "Tell the operator to make room; then try again."
                ),
                PostgresErrorCodes.LockNotAvailable or PostgresErrorCodes.QueryCanceled => Storage(
                    "busy",
                    "The database is busy.",
                    "Try again in a moment."
                ),
                var state
                    when state.StartsWith("57P", StringComparison.Ordinal)
                        || state.StartsWith("53", StringComparison.Ordinal) => Away(),
                _ => null,
            };
        return
            Find<DbException>(fault) is { IsTransient: true }
            || Find<NpgsqlException>(fault) is not null
            || Find<TimeoutException>(fault) is not null
            ? Away()
            : null;
    }

    private static Refusal Away() =>
        Storage(
            "away",
            "The database cannot be reached.",
            "Try again in a moment; tell the operator if it lasts."
        );

    private static Refusal Storage(string code, string sentence, string remedy) =>
        new("storage." + code, sentence + " Nothing was written.", remedy, RefusalSort.Unavailable);

    private static string Where(JsonException json) =>
        json.Path is { Length: > 1 } path
            ? $"the value at {path} is of the wrong form."
            : "it is not the JSON expected here.";

    private static T? Find<T>(Exception? fault)
        where T : Exception
    {
        for (; fault is not null; fault = fault.InnerException)
        {
            if (fault is T found)
                return found;
        }
        return null;
    }
}
