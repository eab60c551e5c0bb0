namespace ComeAboard.Core.Matching;

/// <summary>A reason for or against two records being one human.</summary>
/// <param name="Piece">What it is about.</param>
/// <param name="Degree">How they stand to one another in it.</param>
/// <param name="Bits">What it weighs: the base-2 logarithm of how much more often it is so with one human than with two; negative against.</param>
/// <param name="Sentence">It in words.</param>
public sealed record MatchReason(MatchPiece Piece, MatchDegree Degree, double Bits, string Sentence);

/// <summary>Says in words what was added up.</summary>
public static class MatchReasons
{
    private const float Rare = 11;
    private const float Common = 7;

    internal static IReadOnlyList<MatchReason> Of(
        Evidence evidence,
        MatchRecord left,
        MatchRecord right,
        float rarity
    )
    {
        var reasons = new List<MatchReason>();
        for (var i = 0; i < Evidence.Pieces; i++)
        {
            var piece = (MatchPiece)i;
            var degree = evidence.DegreeOf(piece);
            if (degree == MatchDegree.Missing || piece == MatchPiece.Family && degree == MatchDegree.Swapped)
                continue;
            reasons.Add(
                new MatchReason(
                    piece,
                    degree,
                    Math.Round(evidence[piece], 1),
                    Sentence(piece, degree, left, right, rarity)
                )
            );
        }
        return [.. reasons.OrderByDescending(reason => Math.Abs(reason.Bits))];
    }

    private static string Sentence(
        MatchPiece piece,
        MatchDegree degree,
        MatchRecord left,
        MatchRecord right,
        float rarity
    ) =>
        (piece, degree) switch
        {
            (MatchPiece.Address, _) => IsSame(left.Address, right.Address)
                ? "same address"
                : "an address of the one is an address of the other",
            (MatchPiece.Outside, MatchDegree.Same) => "same identifier in the other system",
            (MatchPiece.Outside, _) => "two identifiers in the same system",
            (MatchPiece.Phone, MatchDegree.Same) => "same telephone number",
            (MatchPiece.Phone, _) => "different telephone numbers",
            (MatchPiece.Given, MatchDegree.Same) => "same given name",
            (MatchPiece.Given, MatchDegree.ShortForm) => "the given name is a short form of the other",
            (MatchPiece.Given, MatchDegree.Slip) => "the given names differ by one slip",
            (MatchPiece.Given, MatchDegree.Near) => "the given names are nearly the same",
            (MatchPiece.Given, MatchDegree.Initial) => "the given name is the initial of the other",
            (MatchPiece.Given, MatchDegree.Further) => "the given name is a further one of the other",
            (MatchPiece.Given, MatchDegree.InAddress) => "the given name stands in the address of the other",
            (MatchPiece.Given, MatchDegree.Swapped) => "given and family name are swapped",
            (MatchPiece.Given, _) => "the given names differ",
            (MatchPiece.Family, MatchDegree.Same) => rarity >= Rare ? "same family name, which is rare here"
            : rarity <= Common ? "same family name, which is common here"
            : "same family name",
            (MatchPiece.Family, MatchDegree.Further) => "the family name is a part of the other's",
            (MatchPiece.Family, MatchDegree.InAddress) =>
                "the family name stands in the address of the other",
            (MatchPiece.Family, MatchDegree.Slip) => "the family names differ by one slip",
            (MatchPiece.Family, MatchDegree.Near) => "the family names are nearly the same",
            (MatchPiece.Family, MatchDegree.Sound) => "the family names sound alike",
            (MatchPiece.Family, _) => "the family names differ",
            (MatchPiece.Firm, MatchDegree.Same) => SharesDomain(left, right)
                ? "addresses at the same company"
                : "same organisation",
            (MatchPiece.Firm, MatchDegree.Further) => "addresses at domains of one house",
            (MatchPiece.Firm, MatchDegree.ShortForm) => "the organisation is an abbreviation of the other",
            (MatchPiece.Firm, _) => "different organisations",
            (MatchPiece.Local, _) => "the addresses begin alike",
            (MatchPiece.Title, MatchDegree.Same) => "same job title",
            (MatchPiece.Title, _) => "different job titles",
            _ => "both are active in one workspace",
        };

    private static bool IsSame(string? one, string? other) =>
        one is not null && string.Equals(one.Trim(), other?.Trim(), StringComparison.OrdinalIgnoreCase);

    private static bool SharesDomain(MatchRecord left, MatchRecord right) =>
        left.Address is { } one
        && right.Address is { } other
        && IsSame(one[(one.LastIndexOf('@') + 1)..], other[(other.LastIndexOf('@') + 1)..]);
}
