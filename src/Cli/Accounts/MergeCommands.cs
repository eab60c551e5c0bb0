using System.CommandLine;
using ComeAboard.Client;
using ComeAboard.Client.Accounts;

namespace ComeAboard.Cli.Accounts;

/// <summary><c>aboard accounts merge</c>, <c>unmerge</c> and <c>merges</c>: two accounts made one, and parted again.</summary>
public static class MergeCommands
{
    private static readonly Argument<string> One = new("A") { Description = "The address or id of the one" };
    private static readonly Argument<string> Other = new("B")
    {
        Description = "The address or id of the other",
    };
    private static readonly Argument<string> Account = new("A")
    {
        Description = "An address of either of the two",
    };
    private static readonly Option<string?> Keep = new("--keep")
    {
        Description = "Which of the two stays; a plan proposes one",
    };
    private static readonly Option<string?> Take = new("--take")
    {
        Description = "Fields of which the other's value is taken, such as title,stay",
    };
    private static readonly Option<bool> WithGains = new("--with-gains")
    {
        Description = "Give also what neither of them could do before",
    };

    private static readonly Listing<MergeFieldView> Fields = new(
        new("Field", field => field.Field),
        new("Stays", field => field.Kept),
        new("Goes", field => field.Gone),
        new("Then", field => field.Chosen),
        new("Why", field => field.Why, 2)
    );

    private static readonly Listing<MergeView> Table = new(
        new("When", merge => merge.At is { } at ? Texts.Instant(at) : ""),
        new("Stayed", merge => Said(merge.Kept)),
        new("Went", merge => Said(merge.Gone)),
        new("By", merge => merge.By, 2),
        new(
            "Now",
            merge =>
                merge.UndoneAt is { } undone ? $"parted {Texts.Instant(undone)}"
                : merge.CanBeUndone ? $"can be parted until {Texts.Instant(merge.Until!.Value)}"
                : "for good",
            3
        )
    );

    public static IEnumerable<Command> All() => [Merge(), Unmerge(), List()];

    private static Command Merge()
    {
        var merge = Commands.Made(
            "merge",
            "Make two accounts one that the workspace holds: a plan first, field by field",
            [One, Other, Keep, Take, WithGains, CommonOptions.DryRun]
        );
        Session.On(merge, MergeAsync);
        return merge;
    }

    private static async Task<int> MergeAsync(
        Session session,
        ParseResult parsed,
        CancellationToken cancellation
    )
    {
        var isDry = parsed.GetValue(CommonOptions.DryRun);
        if (!isDry && parsed.GetValue(Keep) is null)
            throw new UsageException("Say which of the two stays: --keep A. A plan proposes one: --dry-run.");
        var request = new MergeRequest(
            parsed.GetValue(One)!,
            parsed.GetValue(Other)!,
            parsed.GetValue(Keep),
            Commands.Words(parsed.GetValue(Take)),
            parsed.GetValue(WithGains)
        );
        var plan = await session.Client.MergeAsync(request, dryRun: true, cancellation);
        if (session.Json && isDry)
            Session.Print(plan, WireJson.Default.MergeView);
        else if (!session.Json)
            Show(plan);
        // As JSON the plan says it itself.
        if (plan.Problem is { } problem)
            return session.Json && isDry
                ? ExitStatus.Of(problem)
                : session.Refuse(problem, plan.Gone.Address);
        if (isDry)
        {
            Session.Say(
                $"Nothing was changed. To do it: aboard accounts merge {request.Left} {request.Right} --keep {plan.Kept.Address}"
            );
            return ExitStatus.Done;
        }
        if (!session.Confirm($"Make {Said(plan.Gone)} one with {Said(plan.Kept)}?"))
        {
            Session.Say("Nothing was changed.");
            return ExitStatus.Failed;
        }
        var done = await session.Client.MergeAsync(request, dryRun: false, cancellation);
        if (session.Json)
            Session.Print(done, WireJson.Default.MergeView);
        else
            Console.WriteLine(
                $"Made one: {Said(done.Kept)}. {done.Gone.Address} leads there. It can be parted again until {Texts.Instant(done.Until!.Value)}."
            );
        Session.Say($"Next: aboard people explain {done.Kept.Address}");
        return ExitStatus.Done;
    }

    private static void Show(MergeView plan)
    {
        Console.WriteLine(
            $"{Said(plan.Kept)} stays{(plan.Because.Length > 0 ? $" ({plan.Because})" : "")}, {Said(plan.Gone)} goes."
        );
        if (plan.TwoCapacities is { } two)
            Console.WriteLine(
                $"{two}\nTo keep them apart: aboard accounts distinct {plan.Kept.Address} {plan.Gone.Address} --two-capacities"
            );
        var differ = plan.Fields.Where(field => field.Kept != field.Gone).ToList();
        if (differ.Count > 0)
            Fields.Print(differ);
        foreach (var step in plan.Steps.Where(step => step.Deed != "field"))
        {
            Console.WriteLine($"  {(step.IsLeft ? "✗" : "✓")} {step.Sentence}");
            foreach (var gain in step.Gains)
                Console.WriteLine($"      {(step.IsLeft ? "left out, as it would give" : "gives")} {gain}");
        }
        foreach (var loss in plan.Losses)
            Console.WriteLine($"  − lost: {loss}");
        if (plan.Elsewhere > 0)
            Console.WriteLine(
                plan.Elsewhere == 1
                    ? "1 other workspace is untouched; whoever looks after it is told."
                    : $"{plan.Elsewhere} other workspaces are untouched; whoever looks after them is told."
            );
        foreach (var note in plan.Notes)
            Console.WriteLine(note);
        if (plan.Steps.Any(step => step.IsLeft))
            Session.Say("To give that as well: --with-gains");
    }

    private static Command Unmerge() =>
        Commands.Do(
            "unmerge",
            "Part two accounts again that were made one: possible for 30 days",
            [Account, CommonOptions.DryRun],
            (session, parsed, cancellation) =>
                session.Client.UnmergeAsync(
                    new UnmergeRequest(parsed.GetValue(Account)!),
                    parsed.GetValue(CommonOptions.DryRun),
                    cancellation
                ),
            WireJson.Default.MergeView,
            (parted, parsed) =>
            {
                Console.WriteLine($"Two again: {Said(parted.Kept)} and {Said(parted.Gone)}");
                foreach (var note in parted.Notes)
                    Console.WriteLine($"  {note}");
                Commands.Said(
                    parsed,
                    "Both are as they were; what happened since stays with the first.",
                    $"aboard people show {parted.Gone.Address}"
                );
            }
        );

    private static Command List()
    {
        var list = Commands.Made(
            "merges",
            "List the accounts that were made one, newest first",
            [Commands.Csv]
        );
        Session.On(
            list,
            async (session, parsed, cancellation) =>
            {
                if (parsed.GetValue(Commands.Csv))
                    return await Commands.PrintCsvAsync(session, "merges?format=csv", cancellation);
                var found = await Commands.AllAsync(cursor =>
                    session.Client.MergesAsync(cursor, cancellation)
                );
                if (session.Json)
                    foreach (var one in found)
                        Session.Print(one, WireJson.Default.MergeView);
                else if (found.Count == 0)
                    Console.WriteLine("No accounts were made one here.");
                else
                    Table.Print(found);
                return ExitStatus.Done;
            }
        );
        return list;
    }

    private static string Said(MergedView one) => $"{one.Name} <{one.Address}>";
}
