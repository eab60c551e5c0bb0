using System.CommandLine;

namespace ComeAboard.Cli;

/// <summary>Options every command takes, and those that every changing command takes.</summary>
public static class CommonOptions
{
    public static Option<string?> Server { get; } =
        new("--server") { Description = "The service's address (or ABOARD_SERVER)", Recursive = true };

    public static Option<string?> Workspace { get; } =
        new("--workspace")
        {
            Description = "The workspace's short name (or ABOARD_WORKSPACE)",
            Recursive = true,
        };

    public static Option<bool> Json { get; } =
        new("--json")
        {
            Description = "Print JSON: one document, or one line for each item of a list",
            Recursive = true,
        };

    public static Option<bool> Yes { get; } =
        new("--yes") { Description = "Ask no question", Recursive = true };

    public static Option<bool> DryRun { get; } =
        new("--dry-run") { Description = "Show what would happen, change nothing" };

    public static Option<int> Limit { get; } =
        new("--limit") { Description = "List at most so many", DefaultValueFactory = _ => 1000 };

    public static void AddTo(RootCommand root)
    {
        root.Options.Add(Server);
        root.Options.Add(Workspace);
        root.Options.Add(Json);
        root.Options.Add(Yes);
    }
}
