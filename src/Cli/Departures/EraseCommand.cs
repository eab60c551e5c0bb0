using System.CommandLine;
using ComeAboard.Client;
using ComeAboard.Client.Departures;

namespace ComeAboard.Cli.Departures;

/// <summary><c>aboard people erase</c>: takes the data of somebody away who has left.</summary>
public static class EraseCommand
{
    private static readonly Argument<string> Person = new("ADDRESS")
    {
        Description = "Whose data, by the address or the id",
    };

    public static Command Make()
    {
        var erase = Commands.Made(
            "erase",
            "Take the data of somebody away who has left; the record keeps that something was done, and when",
            [Person, CommonOptions.DryRun]
        );
        Session.On(
            erase,
            async (session, parsed, cancellation) =>
            {
                var person = parsed.GetValue(Person)!;
                var plan = await session.Client.EraseAsync(person, dryRun: true, cancellation);
                var isDry = parsed.GetValue(CommonOptions.DryRun);
                if (!session.Json)
                    Show(plan);
                else if (isDry)
                    Session.Print(plan, WireJson.Default.ErasedView);
                if (isDry)
                    return ExitStatus.Done;
                if (!session.Confirm($"Erase {plan.Person.Name}? Nobody can take that back."))
                {
                    Session.Say("Nothing was changed.");
                    return ExitStatus.Failed;
                }
                var done = await session.Client.EraseAsync(person, cancellation: cancellation);
                if (session.Json)
                    Session.Print(done, WireJson.Default.ErasedView);
                else
                    Console.WriteLine($"Erased: what is left is the id {done.Person.Id}.");
                Session.Say("The record is whole all the same: aboard record verify");
                return ExitStatus.Done;
            }
        );
        return erase;
    }

    private static void Show(ErasedView plan)
    {
        Console.WriteLine($"{plan.Person.Name} <{plan.Person.Address}> is erased: nobody can take that back");
        new Beside()
            .Add("goes", plan.Goes.Where(line => line.Count > 0).Select(line => $"{line.Count} {line.What}"))
            .Add("stays", plan.Stays)
            .Print();
    }
}
