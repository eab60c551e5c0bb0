using System.CommandLine;
using System.Net;
using System.Text.Json;
using ComeAboard.Service.Accounts;
using ComeAboard.Service.Mail;
using ComeAboard.Standins;
using ComeAboard.Standins.Dns;
using ComeAboard.Standins.Mail;
using ComeAboard.Storage;

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
                "A directory to keep the world in between starts; without it what happened is forgotten each time",
        };
        var json = new Option<bool>("--json") { Description = "Print one JSON line when ready" };
        var prepare = new Option<bool>("--prepare")
        {
            Description = "Only make the world of today, for the next start to take it from the cache",
        };
        var demo = new Command("demo", "Run the service with the demo world and a stand-in mail server")
        {
            port,
            data,
            json,
            prepare,
        };
        demo.SetAction(
            (parsed, stop) =>
                Commands.GuardAsync(() =>
                    parsed.GetValue(prepare)
                        ? RunAsync(0, null, Show.Nothing, stop)
                        : RunAsync(
                            parsed.GetValue(port),
                            parsed.GetValue(data),
                            parsed.GetValue(json) ? Show.Json : Show.Words,
                            stop
                        )
                )
        );
        return demo;
    }

    /// <summary>What is said once the world is there; after nothing, it stops.</summary>
    private enum Show
    {
        Words,
        Json,
        Nothing,
    }

    private static async Task<int> RunAsync(int port, string? data, Show show, CancellationToken stop)
    {
        var directory = data is null
            ? Directory.CreateTempSubdirectory("come-aboard-demo-")
            : Directory.CreateDirectory(data);
        try
        {
            if (port == 0)
                port = Ports.Free();
            await using var smtp = new SmtpStandin(new Inbox());
            await using var dns = new DnsStandin();
            await using var inbox = await Ports.AfterAsync(
                port,
                at => InboxPages.StartAsync(smtp.Inbox, at, dns)
            );
            var domain = DemoWorld.Load().Workspaces[0].Administrator.Address.Split('@')[1];
            await using var provider = await Ports.AfterAsync(
                inbox.Url.Port,
                at => DemoProvider.StartAsync(at, domain)
            );
            await using var connected = await DemoConnected.StartAsync(new Uri(provider.Issuer).Port);
            var settings = SettingsFor(port, directory.FullName, smtp.Port, dns.Address);
            var (app, token) = await StartAsync(
                settings,
                smtp,
                dns,
                connected,
                show is Show.Json ? _ => { } : Console.Error.WriteLine,
                stop
            );
            await using var running = app;
            var ship = DemoWorld.Load().Workspaces[0];
            using (var client = ClientOf(settings, ship, token))
            {
                await DemoProvider.NameAsync(client, provider, domain);
                await connected.NameAsync(client, app.Services, ship.ShortName);
            }
            if (show is Show.Nothing)
            {
                await app.StopAsync(stop);
                return 0;
            }
            if (show is Show.Json)
                Console.WriteLine(
                    JsonSerializer.Serialize(
                        new
                        {
                            ready = true,
                            url = settings.PublicUrl.ToString().TrimEnd('/'),
                            inbox = inbox.Url.ToString().TrimEnd('/'),
                            workspace = ship.ShortName,
                            adminToken = token,
                        }
                    )
                );
            else
                Introduce(settings, inbox, connected, token);
            await app.WaitForShutdownAsync(stop);
            return 0;
        }
        finally
        {
            if (data is null)
                directory.Delete(true);
        }
    }

    /// <summary>The service at work on the demo world, with an API token of its administrator.</summary>
    private static async Task<(WebApplication, string Token)> StartAsync(
        ServiceSettings settings,
        SmtpStandin smtp,
        DnsStandin dns,
        DemoConnected connected,
        Action<string> say,
        CancellationToken stop
    )
    {
        var world = DemoWorld.Load();
        var ship = world.Workspaces[0];
        var kept = new KeptWorld(
            KeptWorld.UsualPlace(),
            settings.PublicUrl,
            DateTimeOffset.UtcNow,
            TimeZoneInfo.FindSystemTimeZoneById(ship.TimeZone)
        );
        var isThere = File.Exists(settings.DatabasePath);
        // On a database of the operator's own, what was kept of another does not help.
        var token =
            isThere || settings.Engine != Engine.Sqlite
                ? null
                : await kept.TakeAsync(settings.DatabasePath, smtp.Inbox);
        var isNew = !isThere && token is null;
        var preparing = Task.Run(() => Commands.PrepareAsync(settings, stop), stop);
        if (isNew)
        {
            say("Making the demo world of today: people, invitations, mails …");
            await preparing;
            await world.HappenAsync(settings, smtp);
        }
        var app = ServiceHost.Build(settings);
        await preparing;
        smtp.OnReturn = report => app.Services.GetRequiredService<DeliveryReports>().TakeAsync(report);
        // The stand-in forgets; what was proved is there to be seen again.
        foreach (var (domain, value) in await app.Services.GetRequiredService<Domains>().ProvedAsync())
            dns.Put(domain, value);
        await app.StartAsync(stop);
        token ??= await world.NewTokenAsync(app.Services);
        if (isNew)
        {
            using var client = ClientOf(settings, ship, token);
            say(
                "… areas, resources, roles, groups, organisations, seats (kept: the next start takes seconds) …"
            );
            await DemoAccess.Load().MakeAsync(client, (await client.WorkspaceAsync(stop)).Today);
            await DemoClaims.MakeAsync(client, app.Services, dns, ship.Administrator.Address.Split('@')[1]);
            await DemoApplications.MakeAsync(client, ship.Administrator.Address);
            await connected.MakeAsync(
                client,
                (await client.WorkspaceAsync(stop)).Today,
                "teodor@lantern-tide.example"
            );
            if (settings.Engine == Engine.Sqlite)
                await kept.KeepAsync(settings.OpenDatabase(), smtp.Inbox, token);
        }
        return (app, token);
    }

    private static Client.AboardClient ClientOf(ServiceSettings settings, DemoWorkspace ship, string token) =>
        new(settings.PublicUrl, ship.ShortName, token, "come-aboard-demo/0");

    private static ServiceSettings SettingsFor(int port, string directory, int smtpPort, IPEndPoint dns)
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
            ["Dns:Servers"] = dns.ToString(),
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

    private static void Introduce(
        ServiceSettings settings,
        InboxPages inbox,
        DemoConnected connected,
        string token
    )
    {
        var world = DemoWorld.Load();
        var ship = world.Workspaces[0];
        Console.WriteLine(
            $"""

              Come Aboard, with the demo world of {ship.Name}

              Console   {settings.Link("/w/" + ship.ShortName)}
              Sign in   {ship.Administrator.Address}   password: {world.Password}
                        (everybody in the demo has this password, e.g. teodor@lantern-tide.example,
                         ines.calloway@saltmarsh-university.example)
              Inbox     {inbox.Url}   every mail the demo sends
              DNS       {inbox.Url}dns   the stand-in name server, where records are put
              Provider  the stand-in of the crew's own sign-in: choose "Sign in by my organisation"
                        with kofi@lantern-tide.example
              Outside   {string.Join(
                  "\n                        ",
                  connected.Pages.Select(one => $"{one.Page}   {one.Name}: its accounts come and go")
              )}

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
}
