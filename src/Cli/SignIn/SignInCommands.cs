using System.CommandLine;
using ComeAboard.Client;
using ComeAboard.Client.SignIn;

namespace ComeAboard.Cli.SignIn;

/// <summary><c>aboard sign-in | whoami | sign-out</c></summary>
public static class SignInCommands
{
    private static readonly Option<string?> Address = new("--address")
    {
        Description = "Sign in here with this address and its password, to one workspace",
    };

    private static readonly Option<string?> Code = new("--code")
    {
        Description = "With --address: a code of your second step, where your account has one",
    };

    private static readonly Option<bool> All = new("--all")
    {
        Description = "List every workspace you are in",
    };

    public static void AddTo(RootCommand root)
    {
        var signIn = new Command(
            "sign-in",
            "Sign in by a browser: prints an address and a code, and waits. With --address by a password, at once"
        )
        {
            Address,
            Passwords.FromStdin,
            Code,
        };
        Session.On(
            signIn,
            (session, parsed, cancellation) =>
                parsed.GetValue(Address) is not null || parsed.GetValue(Passwords.FromStdin)
                    ? SignInAsync(session, parsed, cancellation)
                    : SignInByBrowserAsync(session, cancellation)
        );
        root.Subcommands.Add(signIn);

        var whoAmI = new Command("whoami", "Say who is signed in") { All };
        Session.On(whoAmI, WhoAmIAsync);
        root.Subcommands.Add(whoAmI);

        var signOut = new Command("sign-out", "Revoke the token in use and forget it");
        Session.On(signOut, SignOutAsync);
        root.Subcommands.Add(signOut);
    }

    private static async Task<int> SignInByBrowserAsync(Session session, CancellationToken cancellation)
    {
        var server = session.Server();
        using var own = new OwnSignIn(server, KeptSignIn.Program);
        var begun = await own.BeginAsync(cancellation);
        if (session.Json)
            Session.Print(
                new WaitingSignIn(
                    begun.VerificationUri,
                    begun.UserCode,
                    begun.VerificationUriComplete,
                    begun.ExpiresIn
                ),
                CliJson.Default.WaitingSignIn
            );
        else
        {
            Session.Say($"Open    {begun.VerificationUri}");
            Session.Say($"Code    {begun.UserCode}");
            Session.Say($"Waiting for at most {begun.ExpiresIn / 60} minutes …");
        }
        var tokens = await own.WaitAsync(begun, cancellation);
        using var client = new AboardClient(server, "", tokens.AccessToken, Session.Program);
        var me = await client.WhoAmIAsync(cancellation);
        var workspace = session.WorkspaceOrNone();
        if (workspace is null && me.Places is [var only])
            workspace = only.Workspace;
        KeptSignIn.Of(server, workspace ?? "", tokens).Save();
        if (session.Json)
            Session.Print(me, WireJson.Default.MeView);
        Session.Say(
            workspace is not null
                ? $"Signed in at {server} as {me.Address}, for {workspace}. Next: aboard whoami --all"
                : $"Signed in at {server} as {me.Address}. You are in {me.Places.Count} workspaces: say which with --workspace or ABOARD_WORKSPACE. Next: aboard whoami --all"
        );
        return ExitStatus.Done;
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
        var me = await session.OfAccount().WhoAmIAsync(cancellation);
        var (isAll, here) = (parsed.GetValue(All), session.WorkspaceOrNone());
        var shown = isAll
            ? me.Places
            : [.. me.Places.Where(place => here is null || place.Workspace == here)];
        if (session.Json)
        {
            Session.Print(me with { Places = shown }, WireJson.Default.MeView);
            return ExitStatus.Done;
        }
        Console.WriteLine($"{me.Name} <{me.Address}> at {session.Server()}");
        foreach (var place in shown)
            Print(place);
        if (shown.Count == 0)
            Session.Say(here is null ? "You are in no workspace." : $"You are not in {here}.");
        if (me.Places.Count > shown.Count)
            Session.Say($"{me.Places.Count - shown.Count} more: aboard whoami --all");
        else if (isAll && !session.IsOfAccount())
            Session.Say(
                "This token counts in one workspace. To see all you are in, sign in by a browser: aboard sign-in"
            );
        return ExitStatus.Done;
    }

    private static void Print(PlaceView place)
    {
        Console.WriteLine(
            $"  {place.Workspace}  {place.Name}: {place.Kind}, role {place.Role}, until {Texts.Day(place.Until, Texts.Today)}"
                + (place.From is { } from ? $", from {Texts.Day(from, Texts.Today)}" : "")
                + (place.Host is { Length: > 0 } host ? $"; host {host}" : "")
                + (place.Duties.Count > 0 ? $"; duties {string.Join(", ", place.Duties)}" : "")
        );
        if (place.Stopped.Length > 0)
            Console.WriteLine($"    {place.Stopped}");
    }

    private static async Task<int> SignOutAsync(
        Session session,
        ParseResult parsed,
        CancellationToken cancellation
    )
    {
        await session.OfAccount().SignOutAsync(cancellation);
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

/// <summary>What somebody is to do in a browser, as JSON.</summary>
/// <param name="Address">The page on which the code is given.</param>
/// <param name="Code">The code.</param>
/// <param name="AddressWithCode">The same page with the code in it.</param>
/// <param name="Seconds">How long it counts.</param>
public sealed record WaitingSignIn(string Address, string Code, string? AddressWithCode, int Seconds);
