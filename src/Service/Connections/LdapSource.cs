using System.DirectoryServices.Protocols;
using System.Runtime.CompilerServices;
using ComeAboard.Core;
using ComeAboard.Core.Connections;

namespace ComeAboard.Service.Connections;

/// <summary>A directory (LDAP, RFC 4511), read page by page (RFC 2696) and over TLS.</summary>
public sealed class LdapSource(Reach reach) : ISource
{
    // Some servers give larger pages to nobody.
    private const int PageSize = 250;

    /// <inheritdoc/>
    public string Type => "ldap";

    /// <inheritdoc/>
    public Outcome<string> ReadPlace(string? url) => LdapDoor.ReadPlace(url);

    /// <inheritdoc/>
    public async IAsyncEnumerable<IReadOnlyList<SourceRecord>> PagesAsync(
        SourceAccess access,
        [EnumeratorCancellation] CancellationToken stop
    )
    {
        await using var door = await LdapDoor.OpenAsync(reach, access, stop);
        await foreach (
            var page in PagesAsync(
                door,
                access.Settings.Base,
                access.Settings.Filter.Length > 0 ? access.Settings.Filter : DirectoryPeople.Filter,
                [.. DirectoryPeople.Attributes],
                stop
            )
        )
            yield return
            [
                .. page.Select(entry => DirectoryPeople.Read(EntryOf(entry))).OfType<SourceRecord>(),
            ];
    }

    /// <summary>All entries that a filter holds for, page by page, to their end or not at all.</summary>
    internal static async IAsyncEnumerable<IReadOnlyList<SearchResultEntry>> PagesAsync(
        LdapDoor door,
        string below,
        string filter,
        string[] attributes,
        [EnumeratorCancellation] CancellationToken stop
    )
    {
        var paging = new PageResultRequestControl(PageSize);
        do
        {
            stop.ThrowIfCancellationRequested();
            var request = new SearchRequest(below, filter, SearchScope.Subtree, attributes);
            request.Controls.Add(paging);
            var answer = await door.AskAsync(ldap => (SearchResponse)ldap.SendRequest(request));
            if (answer.ResultCode != ResultCode.Success)
                throw LdapDoor.Fault(answer.ResultCode, answer.ErrorMessage);
            if (answer.References.Count > 0)
                throw SourceException.Partial("some of it is in another directory.");
            yield return [.. answer.Entries.Cast<SearchResultEntry>()];
            paging.Cookie =
                answer.Controls.OfType<PageResultResponseControl>().FirstOrDefault()?.Cookie ?? [];
        } while (paging.Cookie.Length > 0);
    }

    /// <summary>An entry as it was found.</summary>
    internal static DirectoryEntry EntryOf(SearchResultEntry found)
    {
        var entry = new DirectoryEntry(found.DistinguishedName);
        foreach (string name in found.Attributes.AttributeNames)
        foreach (byte[] value in found.Attributes[name].GetValues(typeof(byte[])))
            entry.Add(name, value);
        return entry;
    }
}
