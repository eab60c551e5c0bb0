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
                [Label, Days, CommonOptions.DryRun],
                (session, parsed, cancellation) =>
                    session.Client.AddTokenAsync(
                        new TokenRequest(parsed.GetValue(Label)!, parsed.GetValue(Days)),
                        parsed.GetValue(CommonOptions.DryRun),
                        cancellation
                    ),
                WireJson.Default.NewToken,
                (made, parsed) =>
                {
                    if (made.Token.Length > 0)
                        Console.WriteLine(made.Token);
                    var end = $"{Texts.Instant(made.ExpiresAt)} ({Texts.Zone.Id})";
                    Session.Say(
                        parsed.GetValue(CommonOptions.DryRun)
                            ? $"Nothing was changed. It would count until {end}."
                            : $"It is shown this once and counts until {end}. Next: aboard tokens revoke {made.Id}"
                    );
                }
            )
        );
        var revoke = new Command("revoke", "Revoke one; it is dead within a second")
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
                await session.Client.RevokeTokenAsync(
                    id,
                    parsed.GetValue(CommonOptions.DryRun),
                    cancellation
                );
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
