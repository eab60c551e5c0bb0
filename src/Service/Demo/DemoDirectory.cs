using ComeAboard.Client.Connections;
using ComeAboard.Client.Invitations;
using ComeAboard.Core;
using ComeAboard.Service.Connections;
using ComeAboard.Service.Workspaces;

namespace ComeAboard.Service.Demo;

/// <summary>The directory of the harbour authority: joined with two people a month ago, and read again since.</summary>
public static class DemoDirectory
{
    private const string Name = "Harbour authority";

    public static async Task AddAsync(IServiceProvider services, Visitor visitor)
    {
        var (connections, runner) = (
            services.GetRequiredService<Connections.Connections>(),
            services.GetRequiredService<ConnectionRunner>()
        );
        DemoWorld.Expect(
            await connections.AddAsync(
                visitor,
                new ConnectionRequest(
                    Name,
                    "file",
                    Defaults: new BatchDefaults(Preset: "Loan partner", Host: "ilse@lantern-tide.example"),
                    Wins: new Dictionary<string, string> { ["title"] = "theirs" }
                )
            )
        );
        await ReadAsync("harbour-authority-last-month.ldif");
        DemoWorld.Expect(await connections.RunAsync(visitor, Name));
        await runner.RunDueAsync();
        await ReadAsync("harbour-authority.ldif");

        async Task ReadAsync(string file)
        {
            using var stream = typeof(DemoDirectory).Assembly.GetManifestResourceStream(file)!;
            using var content = new MemoryStream();
            await stream.CopyToAsync(content);
            DemoWorld.Expect(
                await connections.HandInAsync(visitor, Name, file, content.ToArray(), CancellationToken.None)
            );
            DemoWorld.Expect(await connections.ReadAsync(visitor, Name, believe: false));
            await runner.RunDueAsync();
        }
    }
}
