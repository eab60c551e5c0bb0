using System.CommandLine;
using ComeAboard.Client;
using ComeAboard.Client.SignIn;

namespace ComeAboard.Cli.SignIn;

/// <summary><c>aboard tokens list | add | revoke</c></summary>
public static class TokenCommands
{
    private static readonly Listing<TokenView> Table = new(
        new("For", t => t.Label),
        new("Acts as", t => t.Holder, 1),
        new("Made", t => Texts.Instant(t.CreatedAt), 3),
        new("Counts until", t => Texts.Instant(t.ExpiresAt), 2),
        new("State", StateOf),
        new("Id", t => t.Id.ToString())
    );

    private static readonly Argument<string> Label = new("LABEL") { Description = "What it is for" };
    private static readonly Option<int?> Days = new("--days")
    {
        Description = "How many days it counts, 1 to 365; 90 when absent",
    };
    private static readonly Argument<Guid> Id = new("ID") { Description = "The token's id" };

    public static Command Make()
    {
        var tokens = new Command("tokens", "API tokens: your own, and with the duty settings everybody's");
        tokens.Subcommands.Add(
            Commands.List(
                "List them, newest first",
                [],
                async (session, _, cancellation) => (await session.Client.TokensAsync(cancellation)).Items,
                Table,
                WireJson.Default.TokenView,
                "There are none. Next: aboard tokens add LABEL",
                _ => "tokens?format=csv"
            )
        );
        tokens.Subcommands.Add(
            Commands.Do(
                "add",
                "Make one by which a program acts as you",
                [Label, Days],
                (session, parsed, cancellation) =>
                    session.Client.AddTokenAsync(
                        new TokenRequest(parsed.GetValue(Label)!, parsed.GetValue(Days)),
                        cancellation
                    ),
                WireJson.Default.NewToken,
                (made, _) =>
                {
                    Console.WriteLine(made.Token);
                    Session.Say(
                        $"It is shown this once and counts until {Texts.Instant(made.ExpiresAt)} ({Texts.Zone.Id}). Next: aboard tokens revoke {made.Id}"
                    );
                }
            )
        );
        var revoke = new Command("revoke", "Revoke one; it is dead on its next use")
        {
            Id,
            CommonOptions.DryRun,
        };
        Session.On(
            revoke,
            async (session, parsed, cancellation) =>
            {
                var id = parsed.GetValue(Id);
                var token = (await session.Client.TokensAsync(cancellation)).Items.FirstOrDefault(one =>
                    one.Id == id
                );
                if (!parsed.GetValue(CommonOptions.DryRun))
                    await session.Client.RevokeTokenAsync(id, cancellation);
                else if (token is not { RevokedAt: null })
                {
                    Session.Say("There is no such token that still counts.");
                    return ExitStatus.NotFound;
                }
                Commands.Said(
                    parsed,
                    $"The token {token?.Label ?? id.ToString()} revoked.",
                    "aboard tokens list"
                );
                return ExitStatus.Done;
            }
        );
        tokens.Subcommands.Add(revoke);
        return tokens;
    }

    private static string StateOf(TokenView token) =>
        token.RevokedAt is not null ? "revoked"
        : token.ExpiresAt <= DateTimeOffset.UtcNow ? "over"
        : "counts";
}
