using System.CommandLine;
using System.Text.Json.Serialization.Metadata;
using ComeAboard.Client;

namespace ComeAboard.Cli;

/// <summary>The commands that are the same for everything with a name: list, show, add, change, remove.</summary>
/// <param name="what">What one of them is called.</param>
/// <param name="which">The argument that names it.</param>
/// <param name="things">Where they are kept.</param>
/// <param name="view">Writes one as JSON.</param>
/// <param name="answer">Writes what making or changing one came to.</param>
public sealed class NamedCommands<TRequest, TView, TAnswer>(
    string what,
    Argument<string> which,
    Func<AboardClient, NamedThings<TRequest, TView, TAnswer>> things,
    JsonTypeInfo<TView> view,
    JsonTypeInfo<TAnswer> answer
)
    where TView : class, INamedView
{
    private readonly Option<string?> _name = new("--name") { Description = "Another name" };

    /// <summary>Lists all of them.</summary>
    public Command List(Listing<TView> table, string empty, string? csv = null) =>
        Commands.List(
            $"List {what}s",
            [],
            async (session, _, cancellation) => (await things(session.Client).ListAsync(cancellation)).Items,
            table,
            view,
            empty,
            csv is null ? null : _ => csv
        );

    /// <summary>Shows one.</summary>
    public Command Show(Action<TView> print) =>
        Commands.Do(
            "show",
            $"Show {Words.A(what)}",
            [which],
            (session, parsed, cancellation) =>
                things(session.Client).ShowAsync(parsed.GetValue(which)!, cancellation),
            view,
            (one, _) => print(one)
        );

    /// <summary>Makes one, and changes one: what is not said stays.</summary>
    /// <param name="words">What can be said of it.</param>
    /// <param name="request">What it is to be, from what was said, its name, and what it was before if it was.</param>
    /// <param name="print">Says what came of it.</param>
    public Command[] AddAndChange(
        IReadOnlyList<Symbol> words,
        Func<ParseResult, string, TView?, TRequest> request,
        Action<TAnswer, ParseResult> print
    ) =>
        AddAndChange(
            words,
            (_, parsed, name, before, _) => Task.FromResult(request(parsed, name, before)),
            print
        );

    /// <summary>The same for what has to be asked about before it is known.</summary>
    public Command[] AddAndChange(
        IReadOnlyList<Symbol> words,
        Func<Session, ParseResult, string, TView?, CancellationToken, Task<TRequest>> request,
        Action<TAnswer, ParseResult> print
    ) =>
        [
            Commands.Do(
                "add",
                $"Make {Words.A(what)}",
                [which, .. words, CommonOptions.DryRun],
                async (session, parsed, cancellation) =>
                    await SaveAsync(
                        session,
                        null,
                        await request(session, parsed, parsed.GetValue(which)!, null, cancellation),
                        parsed.GetValue(CommonOptions.DryRun),
                        cancellation
                    ),
                answer,
                print
            ),
            Commands.Do(
                "change",
                $"Change {Words.A(what)}; what is not said stays",
                [which, .. words, CommonOptions.DryRun, _name],
                async (session, parsed, cancellation) =>
                {
                    var before = await things(session.Client)
                        .ShowAsync(parsed.GetValue(which)!, cancellation);
                    return await SaveAsync(
                        session,
                        before,
                        await request(
                            session,
                            parsed,
                            parsed.GetValue(_name) ?? before.Name,
                            before,
                            cancellation
                        ),
                        parsed.GetValue(CommonOptions.DryRun),
                        cancellation
                    );
                },
                answer,
                print
            ),
        ];

    /// <summary>Makes one, or changes the one that was looked at, if nobody else did so since.</summary>
    public Task<TAnswer> SaveAsync(
        Session session,
        TView? before,
        TRequest request,
        bool dryRun,
        CancellationToken cancellation
    ) =>
        before is null
            ? things(session.Client).AddAsync(request, dryRun, cancellation)
            : things(session.Client)
                .ChangeAsync(before.Id.ToString(), request, dryRun, before.Version, cancellation);

    /// <summary>Removes one, after showing what that changes for whom.</summary>
    /// <param name="with">What goes with it, for the question; "grants".</param>
    public Command Remove(string with)
    {
        var command = Commands.Made(
            "remove",
            $"Remove {Words.A(what)}, and what is given by it",
            [which, CommonOptions.DryRun]
        );
        Session.On(
            command,
            async (session, parsed, cancellation) =>
            {
                var name = parsed.GetValue(which)!;
                var plan = await things(session.Client)
                    .RemoveAsync(name, dryRun: true, cancellation: cancellation);
                if (!session.Json)
                    Commands.Print(plan.Difference);
                if (parsed.GetValue(CommonOptions.DryRun))
                {
                    if (session.Json)
                        Session.Print(plan, WireJson.Default.EditAnswer);
                    Session.Say($"Nothing was changed. It would be: {name} removed.");
                    return ExitStatus.Done;
                }
                var also = plan.Done > 0 ? $", with {plan.Done} {with}" : "";
                if (!session.Confirm($"Remove the {what} {name}{also}?"))
                    return ExitStatus.Failed;
                var done = await things(session.Client).RemoveAsync(name, cancellation: cancellation);
                if (session.Json)
                    Session.Print(done, WireJson.Default.EditAnswer);
                else
                    Console.WriteLine($"Removed the {what} {name}{also}.");
                Session.Say($"Next: aboard {command.Parents.FirstOrDefault()?.Name} list");
                return ExitStatus.Done;
            }
        );
        return command;
    }

    private static class Words
    {
        public static string A(string word) => (word[0] is 'a' or 'e' or 'i' or 'o' ? "an " : "a ") + word;
    }
}
