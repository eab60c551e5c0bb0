using System.CommandLine;
using System.Reflection;
using System.Text.Json;
using System.Text.Json.Serialization.Metadata;
using ComeAboard.Cli.SignIn;
using ComeAboard.Client;

namespace ComeAboard.Cli;

/// <summary>One run of the client: whom it speaks to, and how it answers.</summary>
public sealed class Session : IDisposable
{
    private readonly ParseResult _parsed;
    private AboardClient? _client;

    private Session(ParseResult parsed) => _parsed = parsed;

    /// <summary>Whether JSON is wanted.</summary>
    public bool Json => _parsed.GetValue(CommonOptions.Json);

    /// <summary>Whether no question is to be asked.</summary>
    public bool Yes => _parsed.GetValue(CommonOptions.Yes);

    /// <summary>The client of the service, as the member signed in.</summary>
    public AboardClient Client => _client ??= Connect();

    /// <summary>Makes a command do something, with refusals and their exit status in one place.</summary>
    public static void On(Command command, Func<Session, ParseResult, CancellationToken, Task<int>> work) =>
        command.SetAction(
            async (parsed, cancellation) =>
            {
                using var session = new Session(parsed);
                try
                {
                    return await work(session, parsed, cancellation);
                }
                catch (RefusedException refused)
                {
                    return session.Refuse(refused.Problem);
                }
                catch (UsageException wrong)
                {
                    await Console.Error.WriteLineAsync(wrong.Message);
                    return ExitStatus.WrongUsage;
                }
                catch (OperationCanceledException)
                {
                    await Console.Error.WriteLineAsync("Stopped.");
                    return ExitStatus.Failed;
                }
            }
        );

    /// <summary>The service's address.</summary>
    public Uri Server()
    {
        var text =
            _parsed.GetValue(CommonOptions.Server)
            ?? Variable("ABOARD_SERVER")
            ?? Credentials.Load()?.Server
            ?? throw new UsageException("Which service? Give --server, set ABOARD_SERVER, or sign in.");
        return Uri.TryCreate(text, UriKind.Absolute, out var server) && server.Scheme is "http" or "https"
            ? new Uri(server.GetLeftPart(UriPartial.Authority) + "/")
            : throw new UsageException($"\"{text}\" is not an http:// or https:// address.");
    }

    /// <summary>The workspace's short name, where one was said.</summary>
    public string? WorkspaceOrNone() =>
        _parsed.GetValue(CommonOptions.Workspace)
        ?? Variable("ABOARD_WORKSPACE")
        ?? (Credentials.Load()?.Workspace is { Length: > 0 } kept ? kept : null);

    /// <summary>The workspace's short name.</summary>
    public string Workspace() =>
        WorkspaceOrNone()
        ?? throw new UsageException("Which workspace? Give --workspace, set ABOARD_WORKSPACE, or sign in.");

    /// <summary>Whether it is signed in for the whole account, and not for one workspace.</summary>
    public bool IsOfAccount() =>
        Variable("ABOARD_TOKEN") is null
        && Credentials.Load() is { Refresh: not null } kept
        && new Uri(kept.Server) == Server();

    /// <summary>A client for calls about whoever is signed in, whichever workspace they mean.</summary>
    public AboardClient OfAccount() =>
        IsOfAccount()
            ? _client ??= new AboardClient(
                Server(),
                WorkspaceOrNone() ?? "",
                new KeptSignIn(Server()).TokenAsync,
                Program
            )
            : Client;

    /// <summary>A client without a sign-in, for calls that need none.</summary>
    public static AboardClient Anonymous(Uri server) => new(server, program: Program);

    /// <summary>Prints one JSON document on one line.</summary>
    public static void Print<T>(T value, JsonTypeInfo<T> type) =>
        Console.Out.WriteLine(JsonSerializer.Serialize(value, type));

    /// <summary>Says what went on, or what could be done next, beside the results.</summary>
    public static void Say(string line) => Console.Error.WriteLine(line);

    /// <summary>Says why not, and gives the exit status.</summary>
    public int Refuse(Problem problem, string? about = null)
    {
        if (Json)
        {
            if (about is null)
                Print(problem, WireJson.Default.Problem);
            else
                Print(new AddressProblem(about, problem), CliJson.Default.AddressProblem);
        }
        Say($"{(about is null ? "" : about + ": ")}{problem.Title} {problem.Detail} [{problem.Code}]");
        return ExitStatus.Of(problem);
    }

    /// <summary>Asks on a terminal; elsewhere it takes --yes to go on.</summary>
    public bool Confirm(string question)
    {
        if (Yes)
            return true;
        if (Console.IsInputRedirected || Console.IsErrorRedirected)
            throw new UsageException(
                "This asks before it changes anything, and there is no terminal to ask on: add --yes."
            );
        Console.Error.Write(question + " [y/N] ");
        return Console.ReadLine()?.Trim().ToUpperInvariant() is "Y" or "YES";
    }

    /// <inheritdoc/>
    public void Dispose() => _client?.Dispose();

    /// <summary>This program and its version.</summary>
    internal static string Program =>
        "aboard/"
        + (
            typeof(Session)
                .Assembly.GetCustomAttribute<AssemblyInformationalVersionAttribute>()
                ?.InformationalVersion
            ?? "0"
        );

    private AboardClient Connect()
    {
        var server = Server();
        var kept = Credentials.Load();
        if (IsOfAccount())
            return KnowingItsZone(
                new AboardClient(server, Workspace(), new KeptSignIn(server).TokenAsync, Program)
            );
        var token =
            Variable("ABOARD_TOKEN")
            ?? (kept is not null && new Uri(kept.Server) == server ? kept.Token : null);
        return token is null
            ? throw new RefusedException(
                new Problem
                {
                    Title = $"Nobody is signed in at {server}.",
                    Detail = "Use aboard sign-in, or set ABOARD_TOKEN.",
                    Code = "sign-in.required",
                    Status = 401,
                }
            )
            : KnowingItsZone(new AboardClient(server, Workspace(), token, Program));
    }

    /// <summary>Days and times are written as they are in the workspace.</summary>
    private static AboardClient KnowingItsZone(AboardClient client)
    {
        Texts.LookUpZoneBy(() =>
        {
            try
            {
                // Whoever writes a table does not write it anew when the zone comes in.
                return Task.Run(() => client.WorkspaceAsync()).GetAwaiter().GetResult().TimeZone;
            }
            catch (RefusedException)
            {
                return null;
            }
        });
        return client;
    }

    private static string? Variable(string name) =>
        Environment.GetEnvironmentVariable(name) is { Length: > 0 } value ? value : null;
}

/// <summary>The command was used wrongly.</summary>
/// <param name="message">How to use it.</param>
public sealed class UsageException(string message) : Exception(message);
