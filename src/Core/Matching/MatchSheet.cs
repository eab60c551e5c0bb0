using ComeAboard.Core.Invitations;

namespace ComeAboard.Core.Matching;

/// <summary>
/// The columns of a list whose people are matched, known by their headings: those of a list of people to invite, and <c>id</c>,
/// <c>other_addresses</c>, <c>external_id</c> and <c>phone</c>.
/// </summary>
public sealed class MatchSheet
{
    private enum Column
    {
        Id,
        Name,
        GivenName,
        FamilyName,
        Address,
        OtherAddresses,
        Organisation,
        Title,
        ExternalId,
        Phone,
    }

    private static readonly Dictionary<string, Column> Own = new(StringComparer.Ordinal)
    {
        [Folding.Fold("id")] = Column.Id,
        [Folding.Fold("key")] = Column.Id,
        [Folding.Fold("number")] = Column.Id,
        [Folding.Fold("nummer")] = Column.Id,
        [Folding.Fold("otheraddresses")] = Column.OtherAddresses,
        [Folding.Fold("otheraddress")] = Column.OtherAddresses,
        [Folding.Fold("furtheraddresses")] = Column.OtherAddresses,
        [Folding.Fold("weitereadressen")] = Column.OtherAddresses,
        [Folding.Fold("externalid")] = Column.ExternalId,
        [Folding.Fold("personnelnumber")] = Column.ExternalId,
        [Folding.Fold("personalnummer")] = Column.ExternalId,
        [Folding.Fold("phone")] = Column.Phone,
        [Folding.Fold("telephone")] = Column.Phone,
        [Folding.Fold("phonenumber")] = Column.Phone,
        [Folding.Fold("telefon")] = Column.Phone,
        [Folding.Fold("mobile")] = Column.Phone,
    };

    private readonly Column?[] _columns;

    private MatchSheet(Column?[] columns) => _columns = columns;

    /// <summary>
    /// Reads headings; others are passed over. Refuses, with <c>match.no-columns</c>, a list that tells neither names nor
    /// addresses, and with <c>sheet.heading-twice</c> one with two columns of one meaning.
    /// </summary>
    public static Outcome<MatchSheet> Read(IReadOnlyList<string> headings)
    {
        var columns = headings.Select(Of).ToArray();
        if (
            columns
                .Where(column => column is not null)
                .GroupBy(column => column)
                .FirstOrDefault(same => same.Count() > 1) is
            { } twice
        )
            return new Refusal(
                "sheet.heading-twice",
                $"Two columns are headed like \"{Words.Short(headings[Array.IndexOf(columns, twice.Key)].Trim())}\".",
                "Leave one of them."
            );
        return columns.Any(column =>
            column
                is Column.Name
                    or Column.FamilyName
                    or Column.Address
                    or Column.OtherAddresses
                    or Column.ExternalId
        )
            ? new MatchSheet(columns)
            : new Refusal(
                "match.no-columns",
                "The first row names no column by which people could be matched.",
                "Give any of id, name, given_name, family_name, address, other_addresses, organisation, title, external_id, phone."
            );
    }

    /// <summary>Reads a row.</summary>
    /// <param name="cells">Its cells.</param>
    /// <returns>What the row calls itself, empty where it does not, and the record.</returns>
    public (string Id, MatchRecord Record) Row(IReadOnlyList<string> cells)
    {
        var (id, record) = ("", new MatchRecord());
        for (var i = 0; i < Math.Min(cells.Count, _columns.Length); i++)
        {
            var cell = cells[i];
            if (string.IsNullOrWhiteSpace(cell))
                continue;
            switch (_columns[i])
            {
                case Column.Id:
                    id = cell.Trim();
                    break;
                case Column.Name:
                    record = record with { Name = cell };
                    break;
                case Column.GivenName:
                    record = record with { GivenName = cell };
                    break;
                case Column.FamilyName:
                    record = record with { FamilyName = cell };
                    break;
                case Column.Address:
                    record = record with { Address = cell };
                    break;
                case Column.OtherAddresses:
                    record = record with { OtherAddresses = cell };
                    break;
                case Column.Organisation:
                    record = record with { Organisation = cell };
                    break;
                case Column.Title:
                    record = record with { Title = cell };
                    break;
                case Column.ExternalId:
                    record = record with { ExternalId = cell };
                    break;
                case Column.Phone:
                    record = record with { Phone = cell };
                    break;
            }
        }
        return (id, record);
    }

    private static Column? Of(string heading) =>
        Own.TryGetValue(Folding.Fold(heading), out var own)
            ? own
            : SheetHeadings.Find(heading) switch
            {
                SheetColumn.Name => Column.Name,
                SheetColumn.GivenName => Column.GivenName,
                SheetColumn.FamilyName => Column.FamilyName,
                SheetColumn.Address => Column.Address,
                SheetColumn.Organisation => Column.Organisation,
                SheetColumn.Title => Column.Title,
                _ => null,
            };
}
