using System.CommandLine;
using ComeAboard.Client;
using ComeAboard.Client.SignIn;

namespace ComeAboard.Cli.SignIn;

/// <summary><c>aboard sign-in | whoami | sign-out</c></summary>
public static class SignInCommands
{
    private static readonly Option<string?> Address = new("--address")
    {
        Description = "The mail address of your account",
    };

    private static readonly Option<string?> Code = new("--code")
    {
        Description = "A code of your second step, where your account has one",
    };

    public static void AddTo(RootCommand root)
    {
        var signIn = new Command("sign-in", "Sign in and keep a token on this machine")
        {
            Address,
            Passwords.FromStdin,
            Code,
        };
        Session.On(signIn, SignInAsync);
        root.Subcommands.Add(signIn);

        var whoAmI = new Command("whoami", "Say who is signed in");
        Session.On(whoAmI, WhoAmIAsync);
        root.Subcommands.Add(whoAmI);

        var signOut = new Command("sign-out", "Revoke the token in use and forget it");
        Session.On(signOut, SignOutAsync);
        root.Subcommands.Add(signOut);
    }

    private static async Task<int> SignInAsync(
        Session session,
        ParseResult parsed,
        CancellationToken cancellation
    )
    {
        var (server, workspace) = (session.Server(), session.Workspace());
        var address = parsed.GetValue(Address) ?? Ask("Mail address");
        var password = Passwords.Read(parsed, "Password");
        using var client = Session.Anonymous(server);
        var wish = new ProgramSignInRequest(
            address,
            password,
            workspace,
            $"aboard on {Environment.MachineName}",
            parsed.GetValue(Code)
        );
        NewToken token;
        try
        {
            token = await client.SignInAsync(wish, cancellation);
        }
        catch (RefusedException refused)
            when (refused.Problem.Code == "second-step.due" && !Console.IsInputRedirected)
        {
            token = await client.SignInAsync(
                wish with
                {
                    Code = Ask("Code of your second step"),
                },
                cancellation
            );
        }
        new Credentials(server.ToString(), workspace, token.Token).Save();
        Session.Say($"Signed in to {workspace} at {server} as {address}. Next: aboard whoami");
        return ExitStatus.Done;
    }

    private static async Task<int> WhoAmIAsync(
        Session session,
        ParseResult parsed,
        CancellationToken cancellation
    )
    {
        var me = await session.Client.WhoAmIAsync(cancellation);
        if (session.Json)
        {
            Session.Print(me, WireJson.Default.MeView);
            return ExitStatus.Done;
        }
        Console.WriteLine($"{me.Name} <{me.Address}> at {session.Server()}");
        foreach (var place in me.Places)
            Console.WriteLine(
                $"  {place.Workspace}  {place.Name}: {place.Kind}, role {place.Role}, until {Texts.Day(place.Until, Texts.Today)}"
                    + (place.Duties.Count > 0 ? $"; duties {string.Join(", ", place.Duties)}" : "")
            );
        return ExitStatus.Done;
    }

    private static async Task<int> SignOutAsync(
        Session session,
        ParseResult parsed,
        CancellationToken cancellation
    )
    {
        await session.Client.SignOutAsync(cancellation);
        Credentials.Forget();
        Session.Say("Signed out: the token is revoked and forgotten.");
        return ExitStatus.Done;
    }

    private static string Ask(string question)
    {
        if (Console.IsInputRedirected)
            throw new UsageException("There is no terminal to ask on: give --address.");
        Console.Error.Write(question + ": ");
        return Console.ReadLine() ?? "";
    }
}
