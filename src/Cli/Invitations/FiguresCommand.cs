using System.CommandLine;
using System.Globalization;
using ComeAboard.Client;
using ComeAboard.Client.Invitations;

namespace ComeAboard.Cli.Invitations;

/// <summary><c>aboard invitations figures</c></summary>
public static class FiguresCommand
{
    private static readonly Option<string?> From = new("--from")
    {
        Description = "The first day; 90 days before the last when absent",
    };
    private static readonly Option<string?> Until = new("--until")
    {
        Description = "The last day; today when absent",
    };

    private static readonly Listing<GroupFigures> Table = new(
        new("By", g => g.By),
        new("Name", g => g.Name),
        new("Sent", g => g.Figures.Sent.ToString(), IsNumber: true),
        new("Accepted", g => g.Figures.Accepted.ToString(), 1, true),
        new("Declined", g => g.Figures.Declined.ToString(), 2, true),
        new(
            "Answered",
            g => g.Figures.AnswerRate is { } rate ? rate.ToString("P0", CultureInfo.InvariantCulture) : "–",
            IsNumber: true
        ),
        new("Median time", g => Time(g.Figures.MedianHours), IsNumber: true)
    );

    public static Command Make()
    {
        var figures = new Command("figures", "How invitations were answered, by kind, host and organisation")
        {
            From,
            Until,
            Commands.Csv,
        };
        Session.On(
            figures,
            async (session, parsed, cancellation) =>
            {
                var from = Texts.ReadDay(parsed.GetValue(From), "--from");
                var until = Texts.ReadDay(parsed.GetValue(Until), "--until");
                if (parsed.GetValue(Commands.Csv))
                {
                    await Files.WriteAsync(
                        "-",
                        await session.Client.FiguresCsvAsync(from, until, cancellation),
                        cancellation
                    );
                    return ExitStatus.Done;
                }
                var view = await session.Client.FiguresAsync(from, until, cancellation);
                if (session.Json)
                {
                    Session.Print(view, WireJson.Default.FiguresView);
                    return ExitStatus.Done;
                }
                Console.WriteLine($"{Texts.Plain(view.From)} to {Texts.Plain(view.Until)}");
                Table.Print([new GroupFigures("all", "", view.Total), .. view.Groups]);
                return ExitStatus.Done;
            }
        );
        return figures;
    }

    private static string Time(double? hours) =>
        hours switch
        {
            null => "–",
            < 1 => $"{hours * 60:0} min",
            < 48 => $"{hours:0.#} h",
            _ => $"{hours / 24:0.#} days",
        };
}
