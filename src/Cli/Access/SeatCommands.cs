using System.CommandLine;
using ComeAboard.Client;
using ComeAboard.Client.Access;

namespace ComeAboard.Cli.Access;

/// <summary><c>aboard seats …</c></summary>
public static class SeatCommands
{
    private static readonly Argument<string> Pool = new("POOL") { Description = "Its name or id" };
    private static readonly Argument<string[]> People = new("ADDRESS")
    {
        Description = "People's addresses",
        Arity = ArgumentArity.OneOrMore,
    };
    private static readonly Argument<string> Person = new("ADDRESS") { Description = "A person's address" };
    private static readonly Option<int?> Total = new("--total") { Description = "How many seats there are" };
    private static readonly Option<int?> Changes = new("--changes")
    {
        Description = "Yearly changes for each seat, pooled over all; -1 for any number",
    };
    private static readonly Option<string?> About = new("--about") { Description = "A line about it" };
    private static readonly Option<string> From = new("--from")
    {
        Description = "Who holds it",
        Required = true,
    };
    private static readonly Option<string> To = new("--to") { Description = "Who will", Required = true };

    private static readonly Listing<PoolView> Table = new(
        new("Pool", p => p.Name),
        new("Seats", p => p.Total.ToString(), 0, true),
        new("Held", p => p.Held.ToString(), 0, true),
        new("Reserved", p => p.Reserved.ToString(), 1, true),
        new("Free", p => p.Free.ToString(), 0, true),
        new("Changes left", ChangesOf, 2, true),
        new("About", p => p.About, 3)
    );

    private static readonly NamedCommands<PoolRequest, PoolView, PoolView> Pools = new(
        "seat pool",
        Pool,
        client => client.Pools,
        WireJson.Default.PoolView,
        WireJson.Default.PoolView
    );

    public static Command Make() =>
        new("seats", "Seat pools: who holds a seat, and how many are left")
        {
            Commands.List(
                "List seat pools",
                [],
                async (session, _, cancellation) =>
                    (await session.Client.Pools.ListAsync(cancellation)).Items,
                Table,
                WireJson.Default.PoolView,
                "There is no seat pool. Make one: aboard seats add NAME --total 10",
                _ => "seats?format=csv"
            ),
            Show(),
            AddAndChange(),
            Pools.Remove("seats"),
            Commands.Do(
                "give",
                "Give people seats",
                [Pool, People, CommonOptions.DryRun],
                (session, parsed, cancellation) =>
                    session.Client.GiveSeatsAsync(
                        parsed.GetValue(Pool)!,
                        new PeopleRequest(parsed.GetValue(People)!),
                        parsed.GetValue(CommonOptions.DryRun),
                        cancellation
                    ),
                WireJson.Default.SeatAnswer,
                (answer, parsed) => Print(answer, parsed, "given to")
            ),
            Commands.Do(
                "take",
                "Take somebody's seat",
                [Pool, Person, CommonOptions.DryRun],
                (session, parsed, cancellation) =>
                    session.Client.TakeSeatAsync(
                        parsed.GetValue(Pool)!,
                        parsed.GetValue(Person)!,
                        parsed.GetValue(CommonOptions.DryRun),
                        cancellation
                    ),
                WireJson.Default.SeatAnswer,
                (answer, parsed) => Print(answer, parsed, "taken from")
            ),
            Commands.Do(
                "pass",
                "Pass a seat from one person to another",
                [Pool, From, To, CommonOptions.DryRun],
                (session, parsed, cancellation) =>
                    session.Client.PassSeatAsync(
                        parsed.GetValue(Pool)!,
                        new PassRequest(parsed.GetValue(From)!, parsed.GetValue(To)!),
                        parsed.GetValue(CommonOptions.DryRun),
                        cancellation
                    ),
                WireJson.Default.SeatAnswer,
                (answer, parsed) => Print(answer, parsed, "passed on:")
            ),
        };

    private static Command Show()
    {
        var show = Commands.Made("show", "Show a pool and who holds its seats", [Pool]);
        Session.On(
            show,
            async (session, parsed, cancellation) =>
            {
                var pool = await session.Client.Pools.ShowAsync(parsed.GetValue(Pool)!, cancellation);
                if (session.Json)
                {
                    Session.Print(pool, WireJson.Default.PoolView);
                    return ExitStatus.Done;
                }
                Console.WriteLine(pool.Name);
                Console.WriteLine("  " + AccountOf(pool));
                var holders = await session.Client.SeatHoldersAsync(pool.Id.ToString(), cancellation);
                foreach (var seat in holders.Items)
                    Console.WriteLine(
                        $"  {seat.Name, -24} {seat.Address, -44} {(seat.IsReservation ? "reserved" : "since " + Texts.Instant(seat.Since))}"
                    );
                return ExitStatus.Done;
            }
        );
        return show;
    }

    private static Command[] AddAndChange() =>
        Pools.AddAndChange(
            [Total, Changes, About],
            (parsed, name, before) =>
            {
                var changes = parsed.GetValue(Changes);
                return new PoolRequest(
                    name,
                    parsed.GetValue(Total)
                        ?? before?.Total
                        ?? throw new UsageException("How many seats? Give --total."),
                    changes == -1 ? null : changes ?? before?.ChangesPerSeat,
                    parsed.GetValue(About) ?? before?.About
                );
            },
            (pool, parsed) =>
                Commands.Said(
                    parsed,
                    $"{pool.Name}: {AccountOf(pool)}.",
                    $"aboard seats give \"{pool.Name}\" ADDRESS"
                )
        );

    private static void Print(SeatAnswer answer, ParseResult parsed, string done)
    {
        Console.WriteLine($"  before  {AccountOf(answer.Before)}");
        Console.WriteLine($"  after   {AccountOf(answer.After)}");
        Commands.Said(
            parsed,
            $"A seat of {answer.After.Name} {done} {string.Join(", ", answer.People)}.",
            $"aboard seats show \"{answer.After.Name}\""
        );
    }

    private static string AccountOf(PoolView pool) =>
        $"{pool.Total} seats: {pool.Held} held, {pool.Reserved} reserved, {pool.Free} free"
        + (pool.ChangesLeft is { } left ? $"; {left} changes left in {pool.Year}" : "");

    private static string ChangesOf(PoolView pool) =>
        pool.ChangesLeft is { } left ? $"{left} in {pool.Year}" : "any number";
}
