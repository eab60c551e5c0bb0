using System.CommandLine;
using System.Text;

namespace ComeAboard.Cli;

/// <summary>Passwords come from standard input or from a terminal without echo; never from the command line.</summary>
public static class Passwords
{
    public static Option<bool> FromStdin { get; } =
        new("--password-stdin") { Description = "Read the password from the first line of standard input" };

    /// <summary>Reads one.</summary>
    public static string Read(ParseResult parsed, string question)
    {
        if (parsed.GetValue(FromStdin))
            return Console.In.ReadLine()
                ?? throw new UsageException("--password-stdin: nothing came from standard input.");
        if (Console.IsInputRedirected)
            throw new UsageException(
                "There is no terminal to ask for the password on: use --password-stdin."
            );
        Console.Error.Write(question + ": ");
        var password = new StringBuilder();
        for (var key = Console.ReadKey(true); key.Key != ConsoleKey.Enter; key = Console.ReadKey(true))
        {
            if (key.Key == ConsoleKey.Backspace && password.Length > 0)
                password.Length--;
            else if (!char.IsControl(key.KeyChar))
                password.Append(key.KeyChar);
        }
        Console.Error.WriteLine();
        return password.ToString();
    }
}
