using System.Text;
using ComeAboard.Client.Connections;

namespace ComeAboard.Service.Tests.World;

/// <summary>An outside system that a ship reads people from.</summary>
public sealed class Elsewhere(Ship ship, string name)
{
    public static readonly string Headings = "id,name,address,organisation,title\n";

    /// <summary>Adds a connection that is a file.</summary>
    public static async Task<Elsewhere> OfFileAsync(
        Ship ship,
        string content,
        ConnectionRequest? wish = null,
        string file = "harbour.csv"
    )
    {
        var request = wish ?? new ConnectionRequest("Harbour authority", Defaults: new("guest", "view"));
        await ship.Client.AddConnectionAsync(request with { Type = "file" });
        var directory = new Elsewhere(ship, request.Name);
        await directory.HandInAsync(content, file);
        return directory;
    }

    public Task<ConnectionView> HandInAsync(string content, string file = "harbour.csv") =>
        ship.Client.HandInAsync(name, new MemoryStream(Encoding.UTF8.GetBytes(content)), file);

    /// <summary>Has it read, and waits until that is over.</summary>
    public async Task<ConnectionView> ReadAsync(bool believe = false)
    {
        await ship.Client.ReadConnectionAsync(name, believe);
        return await RestAsync();
    }

    /// <summary>Has done what is decided, and waits until that is over.</summary>
    public async Task<ConnectionView> RunAsync()
    {
        await ship.Client.RunConnectionAsync(name);
        return await RestAsync();
    }

    public async Task<ConnectionView> RestAsync()
    {
        for (var tries = 0; tries < 600; tries++)
        {
            var view = await ship.OtherNode.ConnectionAsync(name);
            if (view.State == "resting")
                return view;
            await Task.Delay(50);
        }
        throw new TimeoutException("The connection did not come to rest.");
    }

    public async Task<IReadOnlyList<SourceRecordView>> TableAsync(string? verdict = null)
    {
        var all = new List<SourceRecordView>();
        string? cursor = null;
        do
        {
            var page = await ship.Client.SourceRecordsAsync(name, verdict, cursor: cursor);
            all.AddRange(page.Items);
            cursor = page.Next;
        } while (cursor is not null);
        return all;
    }

    public async Task<SourceRecordView> RecordAsync(string key) =>
        (await TableAsync()).Single(one => one.Key == "id:" + key);

    public Task<DecideAnswer> DecideAsync(string key, string? decision, string? person = null) =>
        ship.Client.DecideAsync(name, new DecideRequest([new RecordDecision("id:" + key, decision, person)]));
}
