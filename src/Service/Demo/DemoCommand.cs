using System.CommandLine;
using System.Net;
using System.Net.Sockets;
using System.Text.Json;
using ComeAboard.Service.Mail;
using ComeAboard.Standins.Mail;

namespace ComeAboard.Service.Demo;

/// <summary><c>come-aboard demo</c>: the service with the demo world and a stand-in mail server, all on loopback.</summary>
public static class DemoCommand
{
    private const int UsualPort = 7420;

    public static Command Make()
    {
        var port = new Option<int>("--port")
        {
            Description =
                "The port of the service; the inbox takes the next one. 0 takes any two that are free",
            DefaultValueFactory = _ => UsualPort,
        };
        var data = new Option<string?>("--data")
        {
            Description =
                "A directory to keep the world in between starts; without it the world is new each time",
        };
        var json = new Option<bool>("--json") { Description = "Print one JSON line when ready" };
        var demo = new Command("demo", "Run the service with the demo world and a stand-in mail server")
        {
            port,
            data,
            json,
        };
        demo.SetAction(
            (parsed, stop) =>
                Commands.GuardAsync(() =>
                    RunAsync(parsed.GetValue(port), parsed.GetValue(data), parsed.GetValue(json), stop)
                )
        );
        return demo;
    }

    private static async Task<int> RunAsync(int port, string? data, bool json, CancellationToken stop)
    {
        var directory = data is null
            ? Directory.CreateTempSubdirectory("come-aboard-demo-")
            : Directory.CreateDirectory(data);
        try
        {
            if (port == 0)
                port = FreePort();
            await using var smtp = new SmtpStandin(new Inbox());
            await using var inbox = await InboxPages.StartAsync(smtp.Inbox, PortBeside(port));
            var settings = SettingsFor(port, directory.FullName, smtp.Port);
            var world = DemoWorld.Load();
            var isNew = !File.Exists(settings.DatabasePath);
            await Commands.PrepareAsync(settings, stop);
            if (isNew)
            {
                Say("Making the demo world: people, invitations, mails …");
                await world.HappenAsync(settings, smtp);
            }
            await using var app = ServiceHost.Build(settings);
            smtp.OnReturn = report => app.Services.GetRequiredService<DeliveryReports>().TakeAsync(report);
            await app.StartAsync(stop);
            var token = await world.NewTokenAsync(app.Services);
            if (isNew)
            {
                using var client = new Client.AboardClient(
                    settings.PublicUrl,
                    world.Workspaces[0].ShortName,
                    token,
                    "come-aboard-demo/0"
                );
                Say("… areas, resources, roles, groups, organisations, seats …");
                await DemoAccess.Load().MakeAsync(client, (await client.WorkspaceAsync(stop)).Today);
            }
            void Say(string what)
            {
                if (!json)
                    Console.Error.WriteLine(what);
            }

            if (json)
                Console.WriteLine(
                    JsonSerializer.Serialize(
                        new
                        {
                            ready = true,
                            url = settings.PublicUrl.ToString().TrimEnd('/'),
                            inbox = inbox.Url.ToString().TrimEnd('/'),
                            workspace = world.Workspaces[0].ShortName,
                            adminToken = token,
                        }
                    )
                );
            else
                Introduce(settings, inbox, world, token);
            await app.WaitForShutdownAsync(stop);
            return 0;
        }
        finally
        {
            if (data is null)
                directory.Delete(true);
        }
    }

    private static ServiceSettings SettingsFor(int port, string directory, int smtpPort)
    {
        var gathered = new Dictionary<string, string?>
        {
            ["Listen"] = $"http://localhost:{port}",
            ["PublicUrl"] = $"http://localhost:{port}",
            ["Database:Path"] = Path.Combine(directory, "come-aboard.db"),
            ["Mail:Host"] = "127.0.0.1",
            ["Mail:Port"] = smtpPort.ToString(),
            ["Mail:Tls"] = "none",
            ["Mail:From"] = "office@lantern-tide.example",
            ["Mail:FirstRetrySeconds"] = "2",
            ["Limits:SignInsPerMinute"] = "600",
            ["Log"] = "Warning",
        };
        // The operator's own variables come last, so that a demo can also run on a database or mail server of theirs.
        return ServiceSettings.Read(
            new ConfigurationBuilder()
                .AddInMemoryCollection(gathered)
                .AddEnvironmentVariables("COMEABOARD_")
                .Build()
        );
    }

    private static void Introduce(ServiceSettings settings, InboxPages inbox, DemoWorld world, string token)
    {
        var ship = world.Workspaces[0];
        Console.WriteLine(
            $"""

              Come Aboard, with the demo world of {ship.Name}

              Console   {settings.Link("/w/" + ship.ShortName)}
              Sign in   {ship.Administrator.Address}   password: {world.Password}
                        (everybody in the demo has this password, e.g. teodor@lantern-tide.example,
                         ines.calloway@saltmarsh-university.example)
              Inbox     {inbox.Url}   every mail the demo sends

              The client, in another terminal:
                export ABOARD_SERVER={settings.PublicUrl.ToString().TrimEnd(
                '/'
            )} ABOARD_WORKSPACE={ship.ShortName}
                export ABOARD_TOKEN={token}
                bin/aboard invitations list --state pending
                bin/aboard invitations send pilot@harbour.example --kind guest --role view --until {DateTime.UtcNow.AddDays(
                30
            ):yyyy-MM-dd} --dry-run

              Ctrl-C stops all of it.

            """
        );
    }

    private static int PortBeside(int port)
    {
        try
        {
            using var probe = new TcpListener(IPAddress.Loopback, port + 1);
            probe.Start();
            return port + 1;
        }
        catch (SocketException)
        {
            return 0;
        }
    }

    private static int FreePort()
    {
        using var probe = new TcpListener(IPAddress.Loopback, 0);
        probe.Start();
        return ((IPEndPoint)probe.LocalEndpoint).Port;
    }
}
