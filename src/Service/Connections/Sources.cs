using System.Text.Json;
using ComeAboard.Core;
using ComeAboard.Core.Connections;
using ComeAboard.Service.Invitations;
using ComeAboard.Storage.Connections;
using Microsoft.AspNetCore.DataProtection;

namespace ComeAboard.Service.Connections;

/// <summary>The outside systems by their type, and reading one whole.</summary>
public sealed class Sources(IEnumerable<ISource> all, Targets targets, IDataProtectionProvider protection)
{
    /// <summary>Most people that are read from one system.</summary>
    public const int MostRecords = 200_000;

    private readonly IDataProtector _secrets = protection.CreateProtector("ComeAboard.Connections.Secret.v1");

    /// <summary>Seals a secret; empty for none.</summary>
    public string Seal(string? secret) => string.IsNullOrEmpty(secret) ? "" : _secrets.Protect(secret);

    /// <summary>For a connection that people are not read from.</summary>
    public static Refusal NoSource { get; } =
        new(
            "connection.no-source",
            "People are not read from connections of this type.",
            "Access is carried out to it: aboard connections map NAME",
            RefusalSort.Conflict
        );

    /// <summary>The type of a word; refuses with <c>connection.type-unknown</c>.</summary>
    public Outcome<IConnectionType> TypeOf(string? type)
    {
        IConnectionType[] types =
        [
            .. all,
            .. targets.All.Where(one => all.All(other => other.Type != one.Type)),
        ];
        return types.FirstOrDefault(one => one.Type == type?.Trim().ToLowerInvariant()) is { } found
            ? Outcome.Of(found)
            : new Refusal(
                "connection.type-unknown",
                $"There is no type of connection \"{Words.Short(type ?? "")}\".",
                $"Say one of: {string.Join(", ", types.Select(one => one.Type))}.",
                Field: "type"
            );
    }

    /// <summary>Whether people are read from connections of a type.</summary>
    public bool Reads(string type) => all.Any(one => one.Type == type);

    /// <summary>The first page of a system, and whether it is all there is.</summary>
    public async Task<Outcome<(IReadOnlyList<SourceRecord> Page, bool IsWhole)>> FirstAsync(
        ConnectionRow connection,
        CancellationToken stop
    )
    {
        try
        {
            IReadOnlyList<SourceRecord>? first = null;
            await foreach (var page in PagesOf(connection, stop))
            {
                if (first is not null)
                    return (first, false);
                first = [.. page.Select(one => one.Tidied())];
            }
            return (first ?? [], true);
        }
        catch (SourceException fault)
        {
            return fault.Refusal;
        }
    }

    /// <summary>Reads a system whole, each record once; refuses where it does not come to the end of it.</summary>
    public async Task<Outcome<IReadOnlyList<SourceRecord>>> ReadAsync(
        ConnectionRow connection,
        CancellationToken stop
    )
    {
        var records = new List<SourceRecord>();
        var keys = new HashSet<string>(StringComparer.Ordinal);
        try
        {
            await foreach (var page in PagesOf(connection, stop))
            foreach (var record in page)
            {
                if (record.Key.Length is 0 or > SourceRecord.LongestKey)
                    throw SourceException.Partial("it has a record that it cannot tell from others.");
                // A page may begin with what the one before ended with.
                if (keys.Add(record.Key))
                    records.Add(record.Tidied());
                if (records.Count > MostRecords)
                    return new Refusal(
                        "connection.too-many",
                        $"It has more than {MostRecords} people.",
                        "Narrow it by a filter, or read it in parts.",
                        RefusalSort.Conflict
                    );
            }
            return Outcome.Of<IReadOnlyList<SourceRecord>>(records);
        }
        catch (SourceException fault)
        {
            return fault.Refusal;
        }
    }

    /// <summary>Everything that is needed to ask a system.</summary>
    public SourceAccess AccessOf(ConnectionRow connection) =>
        new(
            connection.WorkspaceId,
            connection.Id,
            connection.Place,
            JsonSerializer.Deserialize<SourceSettings>(connection.Settings, BatchJudge.Json)!,
            connection.Secret.Length > 0 ? _secrets.Unprotect(connection.Secret) : ""
        );

    private IAsyncEnumerable<IReadOnlyList<SourceRecord>> PagesOf(
        ConnectionRow connection,
        CancellationToken stop
    ) =>
        (
            all.FirstOrDefault(one => one.Type == connection.Type) ?? throw new SourceException(NoSource)
        ).PagesAsync(AccessOf(connection), stop);
}
