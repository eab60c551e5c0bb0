using System.CommandLine;
using ComeAboard.Client;
using ComeAboard.Client.Accounts;

namespace ComeAboard.Cli.Accounts;

/// <summary><c>aboard accounts duplicates</c> and <c>distinct</c>: who is here twice, and who is not.</summary>
public static class DuplicateCommands
{
    private static readonly Option<string> Least = new("--least")
    {
        Description = "Show what is at least so certain: likely or same",
        DefaultValueFactory = _ => "likely",
    };
    private static readonly Option<bool> SaidDistinct = new("--distinct")
    {
        Description = "Show those of whom somebody said that they are two people",
    };
    private static readonly Argument<string> One = new("A") { Description = "The address or id of the one" };
    private static readonly Argument<string> Other = new("B")
    {
        Description = "The address or id of the other",
    };
    private static readonly Option<string?> Reason = new("--reason") { Description = "Why, for the record" };
    private static readonly Option<bool> TakeBack = new("--take-back")
    {
        Description = "It is not to hold any more: they may be one person after all",
    };

    private static readonly Option<bool> OnPurpose = new("--two-capacities")
    {
        Description = "It is one person, who is here twice on purpose: both stay as they are",
    };

    private static readonly Listing<DuplicateView> Table = new(
        new("One", pair => Said(pair.Left)),
        new("Other", pair => Said(pair.Right)),
        new("Verdict", pair => pair.Verdict),
        new("Score", pair => Texts.Probability(pair.Score), 2, true),
        new("Why", pair => string.Join("; ", pair.Reasons.Take(2)), 3)
    );

    private static readonly Listing<DuplicateView> SaidTable = new(
        new("One", pair => Said(pair.Left)),
        new("Other", pair => Said(pair.Right)),
        new("They are", pair => pair.Distinct?.OnPurpose == true ? "one, in two capacities" : "two people"),
        new("Said by", pair => pair.Distinct?.By ?? ""),
        new("When", pair => pair.Distinct is { } said ? Texts.Instant(said.At) : "", 2),
        new("Why", pair => pair.Distinct?.Reason ?? "", 3)
    );

    public static Command List()
    {
        Least.AcceptOnlyFromAmong("likely", "same");
        var list = Commands.Made(
            "duplicates",
            "List people here who may be one human, the likeliest first",
            [Least, SaidDistinct]
        );
        Session.On(
            list,
            async (session, parsed, cancellation) =>
            {
                var isSaid = parsed.GetValue(SaidDistinct);
                var found = await Commands.AllAsync(cursor =>
                    session.Client.DuplicatesAsync(
                        isSaid ? null : parsed.GetValue(Least),
                        isSaid ? "distinct" : "open",
                        cursor,
                        cancellation
                    )
                );
                if (session.Json)
                    foreach (var pair in found)
                        Session.Print(pair, WireJson.Default.DuplicateView);
                else if (found.Count == 0)
                    Console.WriteLine(
                        isSaid
                            ? "Of nobody was it said that they are two, or one on purpose."
                            : "Nobody was found who is here twice."
                    );
                else
                    (isSaid ? SaidTable : Table).Print(found);
                if (!session.Json && !isSaid && found.Count > 0)
                    Session.Say(
                        $"One person? aboard accounts merge {found[0].Left.Address} {found[0].Right.Address} --dry-run   Two? aboard accounts distinct {found[0].Left.Address} {found[0].Right.Address}"
                    );
                return ExitStatus.Done;
            }
        );
        return list;
    }

    public static Command Distinct() =>
        Commands.Do(
            "distinct",
            "Say of two people here that they are not one; it is remembered, with who said so",
            [One, Other, Reason, OnPurpose, TakeBack, CommonOptions.DryRun],
            (session, parsed, cancellation) =>
                session.Client.DistinguishAsync(
                    new DistinctRequest(
                        parsed.GetValue(One)!,
                        parsed.GetValue(Other)!,
                        parsed.GetValue(Reason),
                        parsed.GetValue(TakeBack),
                        parsed.GetValue(OnPurpose)
                    ),
                    parsed.GetValue(CommonOptions.DryRun),
                    cancellation
                ),
            WireJson.Default.DuplicateView,
            (pair, parsed) =>
            {
                Console.WriteLine(
                    pair.Distinct is null
                        ? $"{Said(pair.Left)} and {Said(pair.Right)} may be one person after all"
                    : pair.Distinct.OnPurpose
                        ? $"{Said(pair.Left)} and {Said(pair.Right)} are one person in two capacities"
                    : $"{Said(pair.Left)} and {Said(pair.Right)} are two people"
                );
                Commands.Said(
                    parsed,
                    pair.Distinct is null
                        ? "They are weighed anew within seconds."
                        : "They are not brought up again.",
                    pair.Distinct is null
                        ? "aboard accounts duplicates"
                        : $"aboard accounts distinct {pair.Left.Address} {pair.Right.Address} --take-back"
                );
            }
        );

    private static string Said(TwinView one) => $"{one.Name} <{one.Address}>";
}
