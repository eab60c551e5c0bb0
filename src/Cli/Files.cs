namespace ComeAboard.Cli;

/// <summary>Files named on the command line; - is standard input or output.</summary>
public static class Files
{
    public static async Task<byte[]> ReadAsync(string name, CancellationToken cancellation)
    {
        try
        {
            if (name != "-")
                return await File.ReadAllBytesAsync(name, cancellation);
            using var content = new MemoryStream();
            await using var input = Console.OpenStandardInput();
            await input.CopyToAsync(content, cancellation);
            return content.ToArray();
        }
        catch (Exception fault) when (fault is IOException or UnauthorizedAccessException)
        {
            throw new UsageException($"{name} cannot be read: {fault.Message}");
        }
    }

    public static async Task WriteAsync(string name, byte[] content, CancellationToken cancellation)
    {
        try
        {
            if (name == "-")
            {
                await using var output = Console.OpenStandardOutput();
                await output.WriteAsync(content, cancellation);
                return;
            }
            await File.WriteAllBytesAsync(name, content, cancellation);
            Session.Say($"Written: {name}");
        }
        catch (Exception fault) when (fault is IOException or UnauthorizedAccessException)
        {
            throw new UsageException($"{name} cannot be written: {fault.Message}");
        }
    }
}
