using System.Text.RegularExpressions;
using ComeAboard.Core;
using Xunit;

namespace ComeAboard.Core.Tests;

public sealed partial class Architecture
{
    private static readonly string[] Allowed =
    [
        "System.Runtime",
        "System.Collections",
        "System.Linq",
        "System.Memory",
        "System.Collections.Immutable",
        // Matching is done by several threads at once.
        "System.Collections.Concurrent",
        "System.Threading",
        "System.Threading.Tasks.Parallel",
        "System.Runtime.InteropServices",
        "System.Text.RegularExpressions",
        "System.Security.Cryptography",
        "System.Private.CoreLib",
    ];

    [Fact]
    public void Core_knows_no_interface_no_framework_and_no_input_or_output()
    {
        var strangers = typeof(Refusal)
            .Assembly.GetReferencedAssemblies()
            .Select(a => a.Name!)
            .Except(Allowed);
        Assert.Empty(strangers);
    }

    /// <summary>Requests and answers are for endpoints, pages and what carries a sign-in; the work is done without them.</summary>
    [Fact]
    public void The_service_does_its_work_apart_from_HTTP()
    {
        string[] carriers =
        [
            "/Http/",
            "/Pages/",
            "Endpoints.cs",
            "/Problems.cs",
            "/ServiceHost.cs",
            "/Visitor.cs",
        ];
        string[] signIn =
        [
            "/Asking.cs",
            "/KnownBrowsers.cs",
            "/PasskeyBrowser.cs",
            "/Sessions.cs",
            "/TokenSignIn.cs",
        ];
        var mixed = Files("Service")
            .Where(file => Speaking().IsMatch(File.ReadAllText(file)))
            .Where(file =>
                !carriers.Concat(signIn).Any(part => file.Contains(part, StringComparison.Ordinal))
            )
            .ToList();
        Assert.Empty(mixed);
        // And the other way round: whoever speaks HTTP leaves the rows alone.
        var reaching = Files("Service")
            .Where(file =>
                file.EndsWith("Endpoints.cs", StringComparison.Ordinal)
                || file.Contains("/Pages/", StringComparison.Ordinal)
            )
            .Where(file => Reaching().IsMatch(File.ReadAllText(file)))
            .ToList();
        Assert.Empty(reaching);
    }

    [Fact]
    public void Core_is_handed_the_time_and_chance_and_never_takes_them()
    {
        Assert.DoesNotContain(Files("Core"), file => Taking().IsMatch(File.ReadAllText(file)));
    }

    private static IEnumerable<string> Files(string project) =>
        Directory
            .EnumerateFiles(Path.Combine(Root(), "src", project), "*.cs", SearchOption.AllDirectories)
            .Where(file =>
                !file.Contains("/obj/", StringComparison.Ordinal)
                && !file.Contains("/bin/", StringComparison.Ordinal)
            );

    private static string Root()
    {
        var directory = new DirectoryInfo(AppContext.BaseDirectory);
        while (!File.Exists(Path.Combine(directory!.FullName, "ComeAboard.slnx")))
            directory = directory.Parent;
        return directory.FullName;
    }

    [Fact]
    public void What_the_record_holds_is_said_in_words_by_the_console()
    {
        var words = File.ReadAllText(Path.Combine(Root(), "console", "src", "ui", "words.ts"));
        var entries = Files("Service")
            .SelectMany(file => EntryPattern().Matches(File.ReadAllText(file)))
            .Select(match => match.Groups[1].Value)
            .Distinct()
            .ToList();
        Assert.True(entries.Count > 20, $"only {entries.Count} were found");
        Assert.DoesNotContain(entries, entry => !words.Contains($"\"{entry}\":", StringComparison.Ordinal));
    }

    [GeneratedRegex(@"\.Record\(\s*""([a-z-]+\.[a-z-]+)""")]
    private static partial Regex EntryPattern();

    [GeneratedRegex(
        @"UtcNow|DateTime\.Now|\.Today\b|NewGuid|CreateVersion7|Random\.Shared|new Random|RandomNumberGenerator|System\.IO|Environment\."
    )]
    private static partial Regex Taking();

    [GeneratedRegex(@"\b(HttpContext|HttpRequest|HttpResponse|IResult|RouteGroupBuilder|StatusCodes)\b")]
    private static partial Regex Speaking();

    [GeneratedRegex(@"\b(WorkspaceWriter|Database|Editing|ComeAboardContext|EntityFrameworkCore)\b")]
    private static partial Regex Reaching();
}
