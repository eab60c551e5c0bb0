using ComeAboard.Measure;

// measure bare …        the reference of V4: a service that does one bare insert and commit
// measure send          the reference of V5: a loop that sends what its input asks for
// measure decide        the service with the reference of V2 beside it
// measure [ROW …]       measures the rows named, or all, and writes bench/results.json
if (args is ["bare", ..])
{
    await BareService.RunAsync(args);
    return 0;
}
if (args is ["send", ..])
{
    await BareSending.RunAsync();
    return 0;
}
if (args is ["decide", ..])
{
    await Deciding.ServeAsync();
    return 0;
}
var wanted = args.Length > 0 ? args : ["V1", "V2", "V3", "V4", "V5", "V6", "V7", "V8", "V9", "V10"];
var figures = new List<Figure>();
try
{
    foreach (var row in wanted)
    {
        Console.Error.WriteLine($"measuring {row} …");
        figures.AddRange(
            row.ToUpperInvariant() switch
            {
                "V1" => await Importing.MeasureAsync(),
                "V1M" => await ImportingMany.MeasureAsync(),
                "V2" => await Deciding.MeasureAsync(),
                "V3" => await Listing.MeasureAsync(),
                "V5" => await Sending.MeasureAsync(),
                "V6" => Matching.Measure(),
                "V7" => await Departing.MeasureAsync(),
                "V4" => (await Inviting.MeasureAsync()).Concat(await InvitingAmongMany.MeasureAsync()),
                "V4A" => await Inviting.MeasureAsync(),
                "V8" => ClientStart.Measure(),
                "V9" => await ServiceStart.MeasureAsync(),
                "V10" => ConsoleSize
                    .Measure()
                    .Concat(await Scrolling.MeasureAsync())
                    .Concat(await Clicking.MeasureAsync()),
                "V10C" => await Clicking.MeasureAsync(),
                "V2M" => await Growing.BesidePeopleAsync(),
                "V4M" => await Growing.OnEachAsync(Growing.InvitingAsync),
                "V5M" => await Growing.OnEachAsync(Sending.GrowthAsync),
                "V6M" => [Matching.Growth()],
                "V7M" => await Growing.OnEachAsync(Departing.GrowthAsync),
                "GROWTH" => await Growing.MeasureAsync(),
                _ => throw new ArgumentException($"There is no row {row}."),
            }
        );
    }
}
finally
{
    Places.EndAll();
}
Report.Print(figures);
Report.Save(figures);
return 0;
