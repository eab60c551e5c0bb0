using System.CommandLine;
using ComeAboard.Client;
using ComeAboard.Client.Departures;

namespace ComeAboard.Cli.Departures;

/// <summary>Files beside somebody's word that a step of a departure is so.</summary>
public static class StepFiles
{
    private static readonly Option<string?> Out = new("--out")
    {
        Description = "The file to write; standard output when absent",
        HelpName = "FILE",
    };

    /// <summary><c>aboard departures file</c>: gets one.</summary>
    public static Command Make(Argument<Guid> id, Argument<string> step)
    {
        var file = Commands.Made(
            "file",
            "Get the file that was put beside a step confirmed by hand",
            [id, step, Out]
        );
        Session.On(
            file,
            async (session, parsed, cancellation) =>
            {
                var found = await session.Client.StepFileAsync(
                    parsed.GetValue(id),
                    parsed.GetValue(step)!,
                    cancellation
                );
                if (session.Json)
                    Session.Print(found, WireJson.Default.StepFile);
                else if (parsed.GetValue(Out) is { } path)
                    await File.WriteAllBytesAsync(path, found.Content, cancellation);
                else
                {
                    await using var output = Console.OpenStandardOutput();
                    await output.WriteAsync(found.Content, cancellation);
                }
                Session.Say($"{found.Name}, {Texts.Many(found.Content.Length, "byte", "bytes")}");
                return ExitStatus.Done;
            }
        );
        return file;
    }

    /// <summary>Reads the file that is to be put beside a word; null where none is named.</summary>
    /// <exception cref="UsageException">It cannot be read.</exception>
    public static async Task<StepFile?> ReadAsync(string? path, CancellationToken cancellation)
    {
        if (path is null)
            return null;
        try
        {
            return new StepFile(Path.GetFileName(path), await File.ReadAllBytesAsync(path, cancellation));
        }
        catch (Exception fault) when (fault is IOException or UnauthorizedAccessException)
        {
            throw new UsageException($"{path} cannot be read: {fault.Message}");
        }
    }

    /// <summary>What was found of a step, or whose word stands for it, and what was put beside that.</summary>
    public static string Said(string by, string answer, StepFileView? file) =>
        (by.Length > 0 ? $"{by}: {answer}" : answer)
        + (file is null ? "" : $" [{file.Name}, SHA-256 {file.Sha256[..16]}…]");
}
