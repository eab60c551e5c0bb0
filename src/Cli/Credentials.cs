using System.Text.Json;
using System.Text.Json.Serialization;

namespace ComeAboard.Cli;

/// <summary>What <c>aboard sign-in</c> keeps: the service, the workspace and the token, readable by the user alone.</summary>
/// <param name="Server">The service's address.</param>
/// <param name="Workspace">The workspace's short name; empty where none was chosen.</param>
/// <param name="Token">The API token, or the access token.</param>
public sealed record Credentials(string Server, string Workspace, string Token)
{
    /// <summary>What the next access token is fetched with; null for an API token.</summary>
    public string? Refresh { get; init; }

    /// <summary>When the access token is over; null for an API token, which says so itself.</summary>
    public DateTimeOffset? ExpiresAt { get; init; }

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

    /// <summary>Keeps these, whole or not at all.</summary>
    public void Save()
    {
        System.IO.Directory.CreateDirectory(Directory);
        var next = $"{File}.{Environment.ProcessId}";
        using (
            var stream = new FileStream(
                next,
                new FileStreamOptions
                {
                    Mode = FileMode.Create,
                    Access = FileAccess.Write,
                    UnixCreateMode = UnixFileMode.UserRead | UnixFileMode.UserWrite,
                }
            )
        )
            JsonSerializer.Serialize(stream, this, CliJson.Default.Credentials);
        System.IO.File.Move(next, File, overwrite: true);
    }

    /// <summary>
    /// Waits until no other <c>aboard</c> of this user renews what is kept: a refresh token that is shown twice counts for
    /// stolen.
    /// </summary>
    public static async Task<IDisposable> LockAsync(CancellationToken cancellation)
    {
        System.IO.Directory.CreateDirectory(Directory);
        while (true)
        {
            try
            {
                return new FileStream(
                    File + ".lock",
                    FileMode.OpenOrCreate,
                    FileAccess.ReadWrite,
                    FileShare.None
                );
            }
            catch (IOException)
            {
                await Task.Delay(50, cancellation);
            }
        }
    }

    /// <summary>Forgets what was kept.</summary>
    public static void Forget() => System.IO.File.Delete(File);
}

/// <summary>JSON of the client's own.</summary>
[JsonSourceGenerationOptions(JsonSerializerDefaults.Web)]
[JsonSerializable(typeof(Credentials))]
[JsonSerializable(typeof(AddressProblem))]
[JsonSerializable(typeof(SignIn.WaitingSignIn))]
internal sealed partial class CliJson : JsonSerializerContext;

/// <summary>Why one of several was refused.</summary>
/// <param name="Address">Which one.</param>
/// <param name="Problem">Why.</param>
public sealed record AddressProblem(string Address, Client.Problem Problem);
