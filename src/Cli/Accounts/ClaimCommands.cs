using System.CommandLine;
using ComeAboard.Client;
using ComeAboard.Client.Accounts;
using ComeAboard.Client.Workspaces;

namespace ComeAboard.Cli.Accounts;

/// <summary><c>aboard claims …</c>: asking personally held accounts at the proved domains into custody.</summary>
public static class ClaimCommands
{
    private static readonly Argument<string[]> Addresses = new("ADDRESS")
    {
        Description = "The accounts' addresses",
        Arity = ArgumentArity.OneOrMore,
    };
    private static readonly Argument<string> Address = new("ADDRESS")
    {
        Description = "An account's address",
    };
    private static readonly Argument<string> Link = new("LINK")
    {
        Description = "The link of the mail, or its last part",
    };
    private static readonly Option<string?> State = new("--state")
    {
        Description =
            "Only those that are found, asked, agreed, declined, unanswered, taken, released or dropped",
    };
    private static readonly Option<string?> Notice = new("--notice")
    {
        Description = "How long there is to answer, such as 14d",
    };
    private static readonly Option<bool> AtOnce = new("--at-once")
    {
        Description =
            "Without notice: take what nobody would miss, ask everybody else here and now (a quarter of an hour to answer)",
    };
    private static readonly Option<string?> Reason = new("--reason")
    {
        Description = "What the holder is told why",
    };
    private static readonly Option<bool> Come = new("--come") { Description = "Come with everything" };
    private static readonly Option<string?> ComeAndKeep = new("--come-and-keep")
    {
        Description = "Come, and keep the other workspaces in an account of your own at this address",
    };
    private static readonly Option<bool> Decline = new("--decline") { Description = "Decline" };
    private static readonly Option<string?> Code = new("--code")
    {
        Description = "The code that was mailed to the address to keep",
    };
    private static readonly Option<string?> SecondStep = new("--second-step")
    {
        Description = "A code of your second step, where your account has one",
    };

    private static readonly Listing<ClaimView> Table = new(
        new("Address", c => c.Address),
        new("Name", c => c.Name, 2),
        new("State", c => c.State),
        new("Deadline", c => c.Deadline is { } at ? Texts.Instant(at) : "", 1),
        new("Elsewhere", c => c.Workspaces.ToString(), 3, true),
        new("Can", c => string.Join(", ", c.Can), 4)
    );

    public static Command Make() =>
        new("claims", "Personally held accounts at the proved domains: ask them into custody")
        {
            Commands.List(
                "List the accounts at the proved domains, and how it stands with their claims",
                [State],
                (session, parsed, cancellation) =>
                    Commands.AllAsync(cursor =>
                        session.Client.ClaimsAsync(parsed.GetValue(State), cursor, cancellation)
                    ),
                Table,
                WireJson.Default.ClaimView,
                "There is no such account. A domain has to be proved first: aboard domains list",
                parsed => "claims?format=csv" + (parsed.GetValue(State) is { } state ? "&state=" + state : "")
            ),
            Commands.Do(
                "show",
                "Show the claim to an account",
                [Address],
                (session, parsed, cancellation) =>
                    session.Client.ClaimAsync(parsed.GetValue(Address)!, cancellation),
                WireJson.Default.ClaimView,
                (claim, _) => Print(claim)
            ),
            Step("ask", "Ask the holders of accounts", [Notice, AtOnce, Reason]),
            Step("ask-again", "Ask holders again", [Notice, Reason]),
            Step("cancel", "Withdraw the question", []),
            Step("take", "Take accounts without an answer, where that is allowed", []),
            Step("release", "Take the address back after a no or no answer; or give custody up", []),
            ClaimFiles.Import(),
            Answer(),
        };

    private static Command Step(string verb, string description, IEnumerable<Symbol> options)
    {
        var step = Commands.Made(verb, description, [Addresses, .. options, CommonOptions.DryRun]);
        Session.On(
            step,
            async (session, parsed, cancellation) =>
            {
                var isAsk = verb is "ask" or "ask-again";
                var request = new ClaimStepRequest(
                    verb,
                    parsed.GetValue(Addresses)!,
                    isAsk ? Days(parsed.GetValue(Notice)) : null,
                    verb == "ask" && parsed.GetValue(AtOnce),
                    isAsk ? parsed.GetValue(Reason) : null
                );
                var isDry = parsed.GetValue(CommonOptions.DryRun);
                var answer = await session.Client.ClaimStepAsync(request, isDry, cancellation);
                return Print(session, answer.Results, isDry);
            }
        );
        return step;
    }

    /// <summary>Prints what steps came to; done in part where some were refused.</summary>
    public static int Print(Session session, IReadOnlyList<ClaimResult> results, bool isDry)
    {
        foreach (var one in results)
        {
            if (session.Json)
                Session.Print(one, WireJson.Default.ClaimResult);
            else
                Console.WriteLine(
                    $"  {(one.Done ? "✓" : "✗")} {one.Address, -40} {one.Sentence}{(one.Code is { } code ? $" [{code}]" : "")}"
                );
            if (!session.Json && isDry)
                foreach (var sentence in one.Follows)
                    Console.WriteLine($"      {sentence}");
        }
        var done = results.Count(one => one.Done);
        var count = done == 1 ? "1 claim" : $"{done} claims";
        Session.Say(
            isDry
                ? $"Nothing was changed. It would be done with {count}."
                : $"Done with {count}. Next: aboard claims list"
        );
        return done == results.Count ? ExitStatus.Done
            : done == 0 ? ExitStatus.Refused
            : ExitStatus.DoneInPart;
    }

    private static Command Answer()
    {
        var answer = Commands.Made(
            "answer",
            "Answer the question of a workspace, as the holder of the account",
            [Link, Come, ComeAndKeep, Decline, Code, SecondStep, Passwords.FromStdin]
        );
        Session.On(
            answer,
            async (session, parsed, cancellation) =>
            {
                var keep = parsed.GetValue(ComeAndKeep);
                var answers = new[]
                {
                    parsed.GetValue(Come) ? "come" : null,
                    keep is null ? null : "come-and-keep",
                    parsed.GetValue(Decline) ? "decline" : null,
                };
                if (answers.OfType<string>().ToList() is not [var said])
                    throw new UsageException("Give one of --come, --come-and-keep ADDRESS and --decline.");
                var secret = parsed.GetValue(Link)!.TrimEnd('/').Split('/')[^1];
                using var client = Session.Anonymous(session.Server());
                var offer = await client.ClaimOfferAsync(secret, cancellation);
                Session.Say(
                    $"{offer.AskedBy} asks, for {offer.WorkspaceName}, that {offer.Address} comes into its custody."
                );
                foreach (var change in offer.Changes)
                    Session.Say("  " + change);
                var code = parsed.GetValue(Code);
                if (keep is not null && code is null && !Console.IsInputRedirected)
                {
                    await client.SendClaimCodeAsync(secret, new ClaimCodeRequest(keep), cancellation);
                    Console.Error.Write($"The code that was mailed to {keep}: ");
                    code = Console.ReadLine();
                }
                else if (keep is not null && code is null)
                {
                    await client.SendClaimCodeAsync(secret, new ClaimCodeRequest(keep), cancellation);
                    Session.Say($"A code was mailed to {keep}. Answer again, with --code.");
                    return ExitStatus.DoneInPart;
                }
                var answered = await client.AnswerClaimAsync(
                    secret,
                    new ClaimAnswerRequest(
                        said,
                        keep,
                        code,
                        Passwords.Read(parsed, "Password"),
                        parsed.GetValue(SecondStep)
                    ),
                    cancellation
                );
                if (session.Json)
                    Session.Print(answered, WireJson.Default.ClaimOfferView);
                else
                    Console.WriteLine($"{answered.Address}: {answered.State}");
                return ExitStatus.Done;
            }
        );
        return answer;
    }

    private static void Print(ClaimView claim)
    {
        Console.WriteLine($"{claim.Address}: {claim.State}");
        Say("name", claim.Name);
        Say("there since", Texts.Instant(claim.Since));
        Say("last used", Texts.Instant(claim.LastUsedAt));
        Say("other workspaces", claim.Workspaces.ToString());
        if (claim.Paused)
            Say("paused", "nobody signs in with it");
        if (claim.AskedAt is { } asked)
            Say(
                "asked",
                $"{Texts.Instant(asked)} by {claim.AskedBy}, {(claim.Mails == 1 ? "1 mail" : $"{claim.Mails} mails")}"
            );
        if (claim.Deadline is { } deadline)
            Say(
                "until",
                Texts.Instant(deadline)
                    + (claim.AtOnce ? ", in the same sitting" : $"; silence: {claim.Silence}")
            );
        if (claim.Reason.Length > 0)
            Say("reason", claim.Reason);
        Session.Say(
            claim.Can.Count == 0
                ? "Nothing can be done with it at present."
                : $"Next: {string.Join(", or ", claim.Can.Select(verb => $"aboard claims {verb} {claim.Address}"))}"
        );
    }

    private static void Say(string what, string value) => Console.WriteLine($"  {what, -18}{value}");

    private static int? Days(string? written)
    {
        if (written is null)
            return null;
        return int.TryParse(written.TrimEnd('d'), out var days)
            ? days
            : throw new UsageException($"--notice: \"{written}\" is not a number of days such as 14d.");
    }
}
