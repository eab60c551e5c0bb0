using System.CommandLine;
using ComeAboard.Client;
using ComeAboard.Client.Accounts;

namespace ComeAboard.Cli.Accounts;

/// <summary>Looking at somebody: what they would see, and what they did lately.</summary>
public static class LookingCommands
{
    private static readonly Argument<string> Person = new("ADDRESS")
    {
        Description = "The person's address, or id",
    };

    public static Command SeeAs() =>
        Commands.Do(
            "see-as",
            "What somebody would see; looking is written into the record",
            [Person],
            (session, parsed, cancellation) =>
                session.Client.SeeAsAsync(parsed.GetValue(Person)!, cancellation),
            WireJson.Default.SeenAs,
            (seen, _) =>
            {
                Console.WriteLine($"As {seen.Person.Name} ({seen.Person.Kind}) sees it:");
                if (!seen.Allowed)
                {
                    Console.WriteLine("  " + seen.Why);
                    return;
                }
                foreach (var sentence in seen.Sentences)
                    Console.WriteLine("  " + sentence);
                Console.WriteLine("  pages: " + string.Join(", ", seen.Pages));
                foreach (var place in seen.Areas)
                    Console.WriteLine($"  {(place.IsResource ? "  " : "") + place.Place, -26} {place.Level}");
            }
        );

    public static Command Activity() =>
        Commands.Do(
            "activity",
            "What somebody did lately, and when they were last here",
            [Person],
            (session, parsed, cancellation) =>
                session.Client.PersonActivityAsync(parsed.GetValue(Person)!, cancellation),
            WireJson.Default.PageRecordEntryView,
            (page, _) =>
            {
                if (page.Items.Count == 0)
                    Console.WriteLine("Nothing is in the record that they did.");
                Texts.PrintHistory(page.Items);
            }
        );
}
