using System.CommandLine;
using ComeAboard.Client;
using ComeAboard.Client.Applications;

namespace ComeAboard.Cli.Applications;

/// <summary><c>aboard applications …</c>: applications that people sign in to with us, and those that act by themselves.</summary>
public static class ApplicationCommands
{
    private static readonly Argument<string> Name = new("NAME")
    {
        Description = "What people know the application by, such as \"Rigging log\"",
    };

    private static readonly Option<string?> Resource = new("--resource")
    {
        Description = "The resource it is: whoever has access there may sign in to it",
        HelpName = "NAME",
    };

    private static readonly Option<string[]> Redirects = new("--redirect")
    {
        Description = "An address people come back to from signing in; may be given several times",
        HelpName = "URL",
    };

    private static readonly Option<string[]> AfterSignOut = new("--after-sign-out")
    {
        Description = "An address people may be sent to after signing out; may be given several times",
        HelpName = "URL",
    };

    private static readonly Option<string?> TellSignOuts = new("--tell-sign-outs")
    {
        Description = "The address at which it is told that somebody was signed out",
        HelpName = "URL",
    };

    private static readonly Option<string[]> Duties = new("--duty")
    {
        Description = "A duty it may ask for, as a scope; may be given several times",
        HelpName = "DUTY",
    };

    private static readonly Option<string?> ActsFor = new("--acts-for")
    {
        Description = "The member for whom it acts by itself",
        HelpName = "ADDRESS",
    };

    private static readonly Option<bool> Public = new("--public")
    {
        Description = "It runs where it cannot keep a secret, and gets none",
    };

    private static readonly Listing<ApplicationView> Table = new(
        new("Name", a => a.Name),
        new("People", a => a.Resource.Length > 0 ? $"with access to {a.Resource}" : "none"),
        new("Duties", a => string.Join(", ", a.Duties), 1),
        new("Acts for", a => a.ActsFor, 2),
        new("Signed in", a => a.SignedIn.ToString(), 1),
        new("Client id", a => a.ClientId, 3)
    );

    public static Command Make() =>
        new(
            "applications",
            "Applications that people sign in to with us, and applications that act by themselves"
        )
        {
            Commands.List(
                "List the registered applications",
                [],
                async (session, _, cancellation) =>
                    (await session.Client.ApplicationsAsync(cancellation)).Items,
                Table,
                WireJson.Default.ApplicationView,
                "No application is registered. Register one: aboard applications add NAME --resource NAME --redirect URL",
                _ => "applications?format=csv"
            ),
            Commands.Do(
                "show",
                "Show one application",
                [Name],
                (session, parsed, cancellation) =>
                    session.Client.ApplicationAsync(parsed.GetValue(Name)!, cancellation),
                WireJson.Default.ApplicationView,
                (application, _) => Print(application)
            ),
            Commands.Do(
                "add",
                "Register an application; its secret is shown this once",
                [
                    Name,
                    Resource,
                    Redirects,
                    AfterSignOut,
                    TellSignOuts,
                    Duties,
                    ActsFor,
                    Public,
                    CommonOptions.DryRun,
                ],
                (session, parsed, cancellation) =>
                    session.Client.AddApplicationAsync(
                        Read(parsed) with
                        {
                            IsPublic = parsed.GetValue(Public),
                        },
                        parsed.GetValue(CommonOptions.DryRun),
                        cancellation
                    ),
                WireJson.Default.NewApplication,
                (added, parsed) =>
                {
                    Print(added.Application);
                    PrintSecret(added.Secret);
                    Commands.Said(
                        parsed,
                        $"{added.Application.Name} is registered.",
                        "aboard applications list"
                    );
                }
            ),
            Commands.Do(
                "change",
                "Say anew what an application is and may do; what is left out it is no more",
                [
                    Name,
                    Resource,
                    Redirects,
                    AfterSignOut,
                    TellSignOuts,
                    Duties,
                    ActsFor,
                    CommonOptions.DryRun,
                ],
                (session, parsed, cancellation) =>
                    session.Client.ChangeApplicationAsync(
                        parsed.GetValue(Name)!,
                        Read(parsed),
                        parsed.GetValue(CommonOptions.DryRun),
                        cancellation
                    ),
                WireJson.Default.ApplicationView,
                (application, parsed) =>
                {
                    Print(application);
                    Commands.Said(parsed, $"{application.Name} is changed.", "aboard applications list");
                }
            ),
            Commands.Do(
                "renew",
                "Give an application another secret, shown this once; the one it had does not count any more",
                [Name, CommonOptions.DryRun],
                (session, parsed, cancellation) =>
                    session.Client.RenewApplicationSecretAsync(
                        parsed.GetValue(Name)!,
                        parsed.GetValue(CommonOptions.DryRun),
                        cancellation
                    ),
                WireJson.Default.NewApplication,
                (renewed, parsed) =>
                {
                    PrintSecret(renewed.Secret);
                    Commands.Said(
                        parsed,
                        $"{renewed.Application.Name} has another secret.",
                        "give it to the application"
                    );
                }
            ),
            Commands.Do(
                "remove",
                "Remove an application; nobody signs in to it any more, and every token of it is dead",
                [Name, CommonOptions.DryRun],
                (session, parsed, cancellation) =>
                    session.Client.RemoveApplicationAsync(
                        parsed.GetValue(Name)!,
                        parsed.GetValue(CommonOptions.DryRun),
                        cancellation
                    ),
                WireJson.Default.ApplicationView,
                (application, parsed) =>
                    Commands.Said(
                        parsed,
                        application.SignedIn == 0
                            ? $"{application.Name} is not registered any more."
                            : $"{application.Name} is not registered any more; {application.SignedIn} sign-ins to it ended.",
                        "aboard applications list"
                    )
            ),
        };

    private static ApplicationRequest Read(ParseResult parsed) =>
        new(
            parsed.GetValue(Name)!,
            parsed.GetValue(Resource),
            parsed.GetValue(Redirects) ?? [],
            parsed.GetValue(AfterSignOut) ?? [],
            parsed.GetValue(TellSignOuts),
            parsed.GetValue(Duties) ?? [],
            parsed.GetValue(ActsFor)
        );

    private static void Print(ApplicationView application)
    {
        Console.WriteLine($"{application.Name}: client id {application.ClientId}");
        if (application.Redirects.Count > 0)
        {
            Console.WriteLine($"  people    with access to {application.Resource}");
            Console.WriteLine($"  back to   {string.Join(", ", application.Redirects)}");
        }
        if (application.AfterSignOut.Count > 0)
            Console.WriteLine($"  after     {string.Join(", ", application.AfterSignOut)}");
        if (application.SignOutAddress.Length > 0)
            Console.WriteLine($"  told at   {application.SignOutAddress}");
        if (application.Duties.Count > 0)
            Console.WriteLine($"  duties    {string.Join(", ", application.Duties)}");
        if (application.ActsFor.Length > 0)
            Console.WriteLine($"  acts for  {application.ActsFor}");
        if (!application.HasSecret)
            Console.WriteLine("  secret    none: it runs on people's own devices");
    }

    private static void PrintSecret(string secret)
    {
        if (secret.Length > 0)
            Console.WriteLine($"  secret    {secret}");
    }
}
