using System.CommandLine;
using ComeAboard.Core;
using ComeAboard.Core.Workspaces;
using ComeAboard.Service.Demo;
using ComeAboard.Service.Keys;
using ComeAboard.Service.Workspaces;

namespace ComeAboard.Service;

/// <summary>The commands of <c>come-aboard</c>.</summary>
public static class Commands
{
    private static readonly Option<string?> Config = new("--config")
    {
        Description = "The settings file; come-aboard.json in this directory when it exists",
    };

    public static RootCommand Root()
    {
        var root = new RootCommand(
            "Come Aboard: brings people into a workspace, and gets them out again when their time ends."
        );
        root.Subcommands.Add(Serve());
        root.Subcommands.Add(Init());
        root.Subcommands.Add(Recover());
        root.Subcommands.Add(RenewKeys());
        foreach (var command in Upkeep.UpkeepCommands.All(Config))
            root.Subcommands.Add(command);
        root.Subcommands.Add(DemoCommand.Make());
        root.Subcommands.Add(Describe());
        return root;
    }

    private static Command Serve()
    {
        var serve = new Command("serve", "Run the service") { Config };
        serve.SetAction(
            (parsed, stop) =>
                GuardAsync(() => ServeAsync(ServiceSettings.Load(parsed.GetValue(Config)), stop))
        );
        return serve;
    }

    private static async Task<int> ServeAsync(ServiceSettings settings, CancellationToken stop)
    {
        // The model and the host are built side by side; nothing is answered before the schema is there.
        var migrating = Task.Run(() => PrepareAsync(settings, stop, makes: false), stop);
        await using var app = ServiceHost.Build(settings);
        await migrating;
        await app.StartAsync(stop);
        if (settings.KeyCertificate is null && settings.KeyFile is null)
            await Console.Error.WriteLineAsync(
                "The protection keys stand in the database unencrypted: who reads it can open sealed mails. Keys:Certificate or Keys:File changes that."
            );
        await Console.Error.WriteLineAsync($"Come Aboard serves {settings.PublicUrl} (Ctrl-C stops it).");
        await app.WaitForShutdownAsync(stop);
        return 0;
    }

    private static Command Init()
    {
        var name = new Option<string>("--name") { Description = "The workspace's name", Required = true };
        var shortName = new Option<string?>("--short-name")
        {
            Description = "Its name in links; made from the name when absent",
        };
        var zone = new Option<string?>("--time-zone")
        {
            Description = "Its time zone, such as Europe/Lisbon; UTC when absent",
        };
        var language = new Option<string?>("--language")
        {
            Description = "The language of its mails; en when absent",
        };
        var init = new Command(
            "init",
            "Make an empty workspace and print the set-up link of its first administrator"
        )
        {
            Config,
            name,
            shortName,
            zone,
            language,
        };
        init.SetAction(
            (parsed, stop) =>
                GuardAsync(async () =>
                {
                    var settings = ServiceSettings.Load(parsed.GetValue(Config));
                    if (
                        !WorkspaceSettings
                            .Read(
                                parsed.GetValue(name),
                                parsed.GetValue(shortName),
                                parsed.GetValue(zone),
                                parsed.GetValue(language)
                            )
                            .Try(out var wish, out var refusal)
                    )
                        return Refuse(refusal);
                    await PrepareAsync(settings, stop);
                    await using var services = new ServiceCollection()
                        .AddLogging()
                        .AddWork(settings, TimeProvider.System)
                        .BuildServiceProvider();
                    if (
                        !(await services.GetRequiredService<SettingUp>().MakeAsync(wish)).Try(
                            out var made,
                            out refusal
                        )
                    )
                        return Refuse(refusal);
                    Console.WriteLine(settings.Link("/set-up/" + made.Secret.Reveal()));
                    await Console.Error.WriteLineAsync(
                        $"{wish.Name} is made, as {wish.ShortName}. The link above makes its first administrator; it counts once, for two days.\n"
                            + "Next: come-aboard serve, then open the link."
                    );
                    return 0;
                })
        );
        return init;
    }

    /// <summary>For an administrator who has lost their password, and perhaps their mailbox.</summary>
    private static Command Recover()
    {
        var address = new Argument<string>("ADDRESS")
        {
            Description = "The address with which the administrator signs in",
        };
        var recover = new Command(
            "recover",
            "Print a one-time link by which an administrator chooses a new password; the record says so"
        )
        {
            Config,
            address,
        };
        recover.SetAction(
            (parsed, stop) =>
                GuardAsync(async () =>
                {
                    var settings = ServiceSettings.Load(parsed.GetValue(Config));
                    await PrepareAsync(settings, stop, makes: false);
                    await using var services = new ServiceCollection()
                        .AddLogging()
                        .AddWork(settings, TimeProvider.System)
                        .BuildServiceProvider();
                    var passwords = services.GetRequiredService<SignIn.Passwords>();
                    if (
                        !(await passwords.RecoverAsync(parsed.GetValue(address))).Try(
                            out var link,
                            out var refusal
                        )
                    )
                        return Refuse(refusal);
                    Console.WriteLine(link);
                    await Console.Error.WriteLineAsync(
                        "The link above counts once, for half an hour. The record of the workspace says that it was made."
                    );
                    return 0;
                })
        );
        return recover;
    }

    private static Command RenewKeys()
    {
        var forget = new Option<bool>("--forget-old")
        {
            Description =
                "Forget the old keys at once, as when somebody may know one: all programs sign in anew",
        };
        var renew = new Command(
            "renew-keys",
            "Make new keys of tokens before it is their time; running processes take them within seconds"
        )
        {
            Config,
            forget,
        };
        renew.SetAction(
            (parsed, stop) =>
                GuardAsync(async () =>
                {
                    var settings = ServiceSettings.Load(parsed.GetValue(Config));
                    await PrepareAsync(settings, stop, makes: false);
                    await using var services = new ServiceCollection()
                        .AddLogging()
                        .AddWork(settings, TimeProvider.System)
                        .BuildServiceProvider();
                    services.GetRequiredService<Keys.KeyRotation>().Ensure();
                    await services
                        .GetRequiredService<Applications.OAuthKeys>()
                        .RenewAsync(parsed.GetValue(forget));
                    Console.WriteLine(
                        parsed.GetValue(forget)
                            ? "New keys are made, and the old ones forgotten: all programs sign in anew."
                            : "New keys are made. What the old ones signed or sealed counts on."
                    );
                    return 0;
                })
        );
        return renew;
    }

    private static Command Describe()
    {
        var describe = new Command("describe", "Print the OpenAPI description of the HTTP interface");
        describe.SetAction(
            async (_, stop) =>
            {
                var directory = Directory.CreateTempSubdirectory("come-aboard-");
                try
                {
                    var settings = ServiceSettings.Read(
                        new ConfigurationBuilder()
                            .AddInMemoryCollection(
                                new Dictionary<string, string?>
                                {
                                    ["Database:Path"] = Path.Combine(directory.FullName, "none.db"),
                                    ["Listen"] = "http://127.0.0.1:0",
                                    ["Log"] = "Fatal",
                                }
                            )
                            .Build()
                    );
                    await PrepareAsync(settings, stop);
                    await using var app = ServiceHost.Build(settings);
                    await app.StartAsync(stop);
                    using var http = new HttpClient { BaseAddress = new Uri(app.Urls.First()) };
                    Console.WriteLine(
                        await http.GetStringAsync(new Uri("/openapi/v1.json", UriKind.Relative), stop)
                    );
                    await app.StopAsync(stop);
                    return 0;
                }
                finally
                {
                    directory.Delete(true);
                }
            }
        );
        return describe;
    }

    /// <summary>Brings the database up to date; who waits for another process says so.</summary>
    public static Task PrepareAsync(ServiceSettings settings, CancellationToken stop, bool makes = true) =>
        settings.OpenDatabase().MigrateAsync(makes, Console.Error.WriteLine, stop);

    /// <summary>Says what is wrong in one sentence where that is known, and exits.</summary>
    public static async Task<int> GuardAsync(Func<Task<int>> work)
    {
        try
        {
            return await work();
        }
        catch (WrongSettingException wrong)
        {
            await Console.Error.WriteLineAsync(wrong.Message);
            return 2;
        }
        catch (Storage.UnusableDatabaseException unusable)
        {
            await Console.Error.WriteLineAsync($"Setting Database: {unusable.Message}");
            return 2;
        }
        catch (IOException fault)
            when (fault.InnerException is Microsoft.AspNetCore.Connections.AddressInUseException)
        {
            await Console.Error.WriteLineAsync($"Setting Listen: {fault.Message}");
            return 1;
        }
        catch (Exception fault) when (StorageFaults.Explain(fault) is { } refusal)
        {
            await Console.Error.WriteLineAsync(
                $"Setting Database: {refusal.Sentence} {refusal.Remedy} ({fault.GetBaseException().Message})"
            );
            return 1;
        }
    }

    /// <summary>Says why not, and what to do.</summary>
    public static int Refuse(Core.Refusal refusal)
    {
        Console.Error.WriteLine($"{refusal.Sentence} {refusal.Remedy} [{refusal.Code}]");
        return 5;
    }
}
