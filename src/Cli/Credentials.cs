using System.Text.Json;
using System.Text.Json.Serialization;

namespace ComeAboard.Cli;

/// <summary>What <c>aboard sign-in</c> keeps: the service, the workspace and the token, readable by the user alone.</summary>
/// <param name="Server">The service's address.</param>
/// <param name="Workspace">The workspace's short name.</param>
/// <param name="Token">The API token.</param>
public sealed record Credentials(string Server, string Workspace, string Token)
{
    private static string Directory =>
        Path.Combine(
            Environment.GetEnvironmentVariable("XDG_CONFIG_HOME") is { Length: > 0 } home
                ? home
                : Path.Combine(Environment.GetFolderPath(Environment.SpecialFolder.UserProfile), ".config"),
            "come-aboard"
        );

    private static string File => Path.Combine(Directory, "credentials.json");

    /// <summary>What was kept, or null.</summary>
    public static Credentials? Load()
    {
        try
        {
            using var stream = System.IO.File.OpenRead(File);
            return JsonSerializer.Deserialize(stream, CliJson.Default.Credentials);
        }
        catch (Exception fault) when (fault is IOException or JsonException or UnauthorizedAccessException)
        {
            return null;
        }
    }

    /// <summary>Keeps these.</summary>
    public void Save()
    {
        System.IO.Directory.CreateDirectory(Directory);
        using var stream = new FileStream(
            File,
            new FileStreamOptions
            {
                Mode = FileMode.Create,
                Access = FileAccess.Write,
                UnixCreateMode = UnixFileMode.UserRead | UnixFileMode.UserWrite,
            }
        );
        JsonSerializer.Serialize(stream, this, CliJson.Default.Credentials);
    }

    /// <summary>Forgets what was kept.</summary>
    public static void Forget() => System.IO.File.Delete(File);
}

/// <summary>JSON of the client's own.</summary>
[JsonSourceGenerationOptions(JsonSerializerDefaults.Web)]
[JsonSerializable(typeof(Credentials))]
[JsonSerializable(typeof(AddressProblem))]
internal sealed partial class CliJson : JsonSerializerContext;

/// <summary>Why one of several was refused.</summary>
/// <param name="Address">Which one.</param>
/// <param name="Problem">Why.</param>
public sealed record AddressProblem(string Address, Client.Problem Problem);
