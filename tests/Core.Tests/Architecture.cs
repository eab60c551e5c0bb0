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

    [Fact]
    public void Core_is_handed_the_time_and_chance_and_never_takes_them()
    {
        var core = Path.Combine(Root(), "src", "Core");
        var takers = Directory
            .EnumerateFiles(core, "*.cs", SearchOption.AllDirectories)
            .Where(file =>
                !file.Contains("/obj/", StringComparison.Ordinal) && Taking().IsMatch(File.ReadAllText(file))
            )
            .ToList();
        Assert.Empty(takers);
    }

    private static string Root()
    {
        var directory = new DirectoryInfo(AppContext.BaseDirectory);
        while (!File.Exists(Path.Combine(directory!.FullName, "ComeAboard.slnx")))
            directory = directory.Parent;
        return directory.FullName;
    }

    [GeneratedRegex(
        @"UtcNow|DateTime\.Now|\.Today\b|NewGuid|CreateVersion7|Random\.Shared|new Random|RandomNumberGenerator|System\.IO|Environment\."
    )]
    private static partial Regex Taking();
}
