using System.Runtime.CompilerServices;
using System.Text;
using ComeAboard.Core;
using ComeAboard.Core.Connections;
using ComeAboard.Service.Invitations;
using ComeAboard.Storage;
using Microsoft.EntityFrameworkCore;

namespace ComeAboard.Service.Connections;

/// <summary>A file that was handed in: the export of a directory (LDIF), or a table (CSV, XLSX).</summary>
public sealed class FileSource(Database database) : ISource
{
    /// <inheritdoc/>
    public string Type => "file";

    /// <summary>A file has no address; its name is said when it is handed in.</summary>
    public Outcome<string> ReadPlace(string? url) =>
        string.IsNullOrWhiteSpace(url)
            ? ""
            : new Refusal(
                "connection.place",
                "A file has no address.",
                "Leave the address out, and hand the file in.",
                Field: "url"
            );

    /// <inheritdoc/>
    public async IAsyncEnumerable<IReadOnlyList<SourceRecord>> PagesAsync(
        SourceAccess access,
        [EnumeratorCancellation] CancellationToken stop
    )
    {
        await using var rows = database.Open(access.Workspace);
        var content = await rows
            .ConnectionContents.Where(c => c.ConnectionId == access.Connection)
            .Select(c => c.Content)
            .FirstOrDefaultAsync(stop);
        if (content is null)
            throw new SourceException(
                new Refusal(
                    "connection.no-file",
                    "No file was handed in as yet.",
                    "Hand in an LDIF, CSV or XLSX file.",
                    RefusalSort.Conflict
                )
            );
        if (!Read(content, stop).Try(out var records, out var refusal))
            throw new SourceException(refusal);
        yield return records;
    }

    /// <summary>Reads a file; refuses with <c>file.…</c>, <c>ldif.…</c>, <c>match.no-columns</c>, <c>sheet.…</c> or <c>source.…</c>.</summary>
    public static Outcome<IReadOnlyList<SourceRecord>> Read(byte[] content, CancellationToken stop)
    {
        if (!Ldif.IsLikely(content))
        {
            if (!Tables.Unread(content, stop).Try(out var table, out var no))
                return no;
            return SourceSheet.Read(table.Headings).Try(out var sheet, out no)
                ? sheet.Rows(table.Rows())
                : no;
        }
        if (content.Length > Tables.LargestFile)
            return Tables.TooLarge;
        return Ldif.Read(Encoding.UTF8.GetString(content))
            .Then<IReadOnlyList<SourceRecord>>(entries =>
                [.. entries.Select(DirectoryPeople.Read).OfType<SourceRecord>()]
            );
    }
}
