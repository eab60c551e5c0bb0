using ComeAboard.Core.Invitations;
using ComeAboard.Core.Matching;

namespace ComeAboard.Core.Connections;

/// <summary>
/// The columns of a list that is read as an outside system: those by which people are matched (<see cref="MatchSheet"/>), and
/// department, manager and country. An <c>id</c> or, where there is none, the address tells its rows apart.
/// </summary>
public sealed class SourceSheet
{
    private readonly MatchSheet _match;
    private readonly int _department;
    private readonly int _manager;
    private readonly int _country;

    private SourceSheet(MatchSheet match, IReadOnlyList<string> headings)
    {
        _match = match;
        var columns = headings.Select(SheetHeadings.Find).ToList();
        _department = columns.IndexOf(SheetColumn.Department);
        _manager = columns.IndexOf(SheetColumn.Manager);
        _country = columns.IndexOf(SheetColumn.Country);
    }

    /// <summary>Reads headings; refuses as <see cref="MatchSheet.Read"/> does.</summary>
    public static Outcome<SourceSheet> Read(IReadOnlyList<string> headings) =>
        MatchSheet.Read(headings).Then(match => new SourceSheet(match, headings));

    /// <summary>
    /// Reads all rows; refuses, with <c>source.key-twice</c>, two rows with one id. Rows without an id that have the same
    /// address are told apart by their order.
    /// </summary>
    public Outcome<IReadOnlyList<SourceRecord>> Rows(IEnumerable<IReadOnlyList<string>> rows)
    {
        var (records, ids, alike) = (
            new List<SourceRecord>(),
            new HashSet<string>(StringComparer.Ordinal),
            new Dictionary<string, int>(StringComparer.Ordinal)
        );
        foreach (var cells in rows)
        {
            var (id, match) = _match.Row(cells);
            id = id.Length > 0 ? id : match.ExternalId?.Trim() ?? "";
            if (id.Length > 0 && !ids.Add(id))
                return new Refusal(
                    "source.key-twice",
                    $"Two rows have the id \"{Words.Short(id)}\".",
                    "Each row needs an id of its own.",
                    Field: "file"
                );
            records.Add(Record(id.Length > 0 ? "id:" + id : KeyOf(match, alike), match, cells));
        }
        return Outcome.Of<IReadOnlyList<SourceRecord>>(records);
    }

    private SourceRecord Record(string key, MatchRecord match, IReadOnlyList<string> cells) =>
        new(key)
        {
            Address = match.Address?.Trim() ?? "",
            OtherAddresses = match.OtherAddresses?.Trim() ?? "",
            Name = match.Name?.Trim() ?? "",
            GivenName = match.GivenName?.Trim() ?? "",
            FamilyName = match.FamilyName?.Trim() ?? "",
            Organisation = match.Organisation?.Trim() ?? "",
            Title = match.Title?.Trim() ?? "",
            Department = Cell(cells, _department),
            Manager = Cell(cells, _manager),
            Country = Cell(cells, _country),
            Phone = match.Phone?.Trim() ?? "",
        };

    private static string KeyOf(MatchRecord match, Dictionary<string, int> alike)
    {
        var own = EmailAddress.Read(match.Address).Try(out var address, out _)
            ? "address:" + address.Key
            : "name:" + Folding.Fold(match.Name ?? match.GivenName + " " + match.FamilyName);
        var times = alike[own] = alike.GetValueOrDefault(own) + 1;
        return times == 1 ? own : $"{own}#{times}";
    }

    private static string Cell(IReadOnlyList<string> cells, int at) =>
        at >= 0 && at < cells.Count ? cells[at].Trim() : "";
}
