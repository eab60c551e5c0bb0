using System.Text.Json.Serialization;
using ComeAboard.Client;
using ComeAboard.Core;
using ComeAboard.Service.Access;
using ComeAboard.Service.Accounts;
using ComeAboard.Service.Applications;
using ComeAboard.Service.Connections;
using ComeAboard.Service.Departures;
using ComeAboard.Service.Http;
using ComeAboard.Service.Invitations;
using ComeAboard.Service.Jobs;
using ComeAboard.Service.Keys;
using ComeAboard.Service.Mail;
using ComeAboard.Service.Merging;
using ComeAboard.Service.Pages;
using ComeAboard.Service.Record;
using ComeAboard.Service.SignIn;
using ComeAboard.Service.Workspaces;
using ComeAboard.Storage.Accounts;
using Microsoft.AspNetCore.Authentication;
using Microsoft.AspNetCore.Authentication.OpenIdConnect;
using Microsoft.AspNetCore.DataProtection;
using Microsoft.AspNetCore.DataProtection.KeyManagement;
using Microsoft.AspNetCore.Identity;
using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.Options;
using OpenTelemetry.Metrics;
using Serilog;
using Serilog.Events;
using Serilog.Formatting.Compact;

namespace ComeAboard.Service;

/// <summary>Puts the service together.</summary>
public static class ServiceHost
{
    private const LogEventLevel Never = LogEventLevel.Fatal + 1;
    private const int LargestBody = 256 * 1024;

    /// <summary>The service, not yet started. The database is expected to be migrated.</summary>
    /// <param name="settings">What the operator decided.</param>
    /// <param name="clock">The clock; the system's when null.</param>
    /// <param name="settings">What the operator decided.</param>
    /// <param name="clock">The clock; the system's when left out.</param>
    /// <param name="adjust">Changes what the service is made of, for those who compose it otherwise.</param>
    public static WebApplication Build(
        ServiceSettings settings,
        TimeProvider? clock = null,
        Action<IServiceCollection>? adjust = null
    )
    {
        var builder = WebApplication.CreateSlimBuilder(
            new WebApplicationOptions
            {
                ContentRootPath = AppContext.BaseDirectory,
                ApplicationName = "come-aboard",
            }
        );
        builder.Configuration.Sources.Clear();
        builder.Configuration.AddInMemoryCollection();
        builder.WebHost.UseUrls(settings.Listen.ToString());
        if (settings.Listen.Scheme == Uri.UriSchemeHttps)
            builder.WebHost.UseKestrelHttpsConfiguration();
        builder.WebHost.ConfigureKestrel(kestrel =>
        {
            kestrel.AddServerHeader = false;
            kestrel.Limits.MaxRequestBodySize = LargestBody;
        });
        // Told to stop, it takes nothing new and finishes what it is at.
        builder.Services.Configure<HostOptions>(host => host.ShutdownTimeout = settings.StopTime);
        AddLogs(builder, settings);
        AddWork(builder.Services, settings, clock ?? TimeProvider.System);
        AddSignIn(builder.Services, settings);
        AddInterface(builder.Services);
        adjust?.Invoke(builder.Services);
        var app = builder.Build();
        Map(app, settings);
        MakeEndpoints(app);
        return app;
    }

    private static void AddLogs(WebApplicationBuilder builder, ServiceSettings settings)
    {
        var level = Enum.TryParse<LogEventLevel>(settings.LogLevel, true, out var known)
            ? known
            : throw new WrongSettingException(
                "Log",
                $"\"{settings.LogLevel}\" is not one of {string.Join(", ", Enum.GetNames<LogEventLevel>())}."
            );
        builder.Logging.ClearProviders();
        builder.Services.AddSerilog(
            new LoggerConfiguration()
                .MinimumLevel.Is(level)
                .MinimumLevel.Override("Microsoft", LogEventLevel.Warning)
                .MinimumLevel.Override("Microsoft.EntityFrameworkCore", LogEventLevel.Fatal)
                // It would tell of every request and answer what stands in them.
                .MinimumLevel.Override("OpenIddict", LogEventLevel.Warning)
                .MinimumLevel.Override("Microsoft.AspNetCore.DataProtection", LogEventLevel.Error)
                .MinimumLevel.Override("Microsoft.AspNetCore.Antiforgery", LogEventLevel.Error)
                // Whatever anybody sends as a provider's answer is said once, by us.
                .MinimumLevel.Override("Microsoft.AspNetCore.Authentication.OpenIdConnect", Never)
                // Its scope would put the path of the request, which can hold a secret, on every line.
                .MinimumLevel.Override("Microsoft.AspNetCore.Hosting.Diagnostics", Never)
                .Enrich.FromLogContext()
                .WriteTo.Console(new CompactJsonFormatter(), standardErrorFromLevel: LogEventLevel.Verbose)
                .CreateLogger(),
            dispose: true
        );
    }

    /// <summary>What does the work, without any interface; also used without one, by <c>init</c> and the demo.</summary>
    public static IServiceCollection AddWork(
        this IServiceCollection services,
        ServiceSettings settings,
        TimeProvider clock
    )
    {
        services.AddSingleton(settings).AddSingleton(clock).AddSingleton(settings.OpenDatabase());
        services.AddSingleton(new FirstAnswer(TimeSpan.FromSeconds(1)));
        services.AddSingleton<WriteGate>().AddSingleton<WorkspaceWriter>().AddSingleton<Together>();
        services.AddSingleton<AccountWriter>().AddSingleton<SessionMarks>().AddSingleton<YourAccount>();
        services
            .AddSingleton<StoredAbout>()
            .AddSingleton<FreshProofs>()
            .AddSingleton<SecondSteps>()
            .AddSingleton<Passkeys>();
        services.AddPasskeys(settings);
        services.AddSingleton<AccessWorlds>().AddHostedService(all => all.GetRequiredService<AccessWorlds>());
        services.AddHostedService<ReadingAhead>();
        services.AddSingleton<OutboxBell>().AddSingleton<BatchBell>();
        services.AddSingleton<Outbox>().AddSingleton<MailQueues>();
        services
            .AddSingleton<Inviting>()
            .AddSingleton<InvitationSteps>()
            .AddSingleton<Consequences>()
            .AddSingleton<DeliverySteps>()
            .AddSingleton<Joining>()
            .AddSingleton<JoinLinks>()
            .AddSingleton<HeldLinks>()
            .AddSingleton<Drafts>()
            .AddSingleton<MailsByInviter>()
            .AddSingleton<Batches>()
            .AddSingleton<BatchLists>()
            .AddSingleton<BatchQueue>()
            .AddSingleton<BatchLots>()
            .AddSingleton<DeliveryReports>()
            .AddSingleton<Answering>()
            .AddSingleton<Landing>()
            .AddSingleton<AddressCodes>()
            .AddSingleton<MailedCodes>()
            .AddSingleton<CodeDesk>()
            .AddSingleton<Declining>();
        services.AddSingleton<Editing>().AddSingleton<ResourceAccess>().AddSingleton<MemberSteps>();
        services.AddSingleton<PeopleLists>().AddSingleton<PersonAccessViews>();
        services
            .AddSingleton<Roles>()
            .AddSingleton<Areas>()
            .AddSingleton<Resources>()
            .AddSingleton<Groups>()
            .AddSingleton<MoveIns>();
        services.AddSingleton<Organisations>().AddSingleton<SeatPools>().AddSingleton<Seats>();
        services.AddSingleton<Presets>().AddSingleton<GrantEdits>().AddSingleton<Handover>();
        services.AddSingleton<Switching>().AddSingleton<AccessLists>().AddSingleton<Colleagues>();
        services.AddSingleton<Suggestions>().AddSingleton<OnePerson>().AddSingleton<RecordLists>();
        services
            .AddSingleton<SearchedTexts>()
            .AddSingleton<InvitationLists>()
            .AddSingleton<BouncedAddresses>()
            .AddSingleton<Figures>();
        services
            .AddSingleton<Wordings>()
            .AddSingleton<HouseSettings>()
            .AddSingleton<ReadinessCheck>()
            .AddSingleton<MailReach>();
        services
            .AddSingleton<YourAddresses>()
            .AddSingleton<HeldAccounts>()
            .AddSingleton<Corrections>()
            .AddSingleton<Readdresses>()
            .AddSingleton<YourProposals>()
            .AddSingleton<Resets>()
            .AddSingleton<HeldSteps>()
            .AddSingleton<Splits>()
            .AddSingleton<Claims>()
            .AddSingleton<Duplicates>()
            .AddSingleton<HolderNews>()
            .AddSingleton<HolderCodes>()
            .AddSingleton<MergeNews>()
            .AddSingleton<MergePlace>()
            .AddSingleton<MergeDesk>()
            .AddSingleton<Merges>()
            .AddSingleton<PartingDesk>()
            .AddSingleton<Partings>()
            .AddSingleton<RestingAccounts>()
            .AddSingleton<YourMerges>()
            .AddSingleton<ClaimAnswers>()
            .AddSingleton<ClaimDeeds>();
        services
            .AddSingleton<Providers>()
            .AddSingleton<OutsideProviders>()
            .AddSingleton<OutsideNetwork>()
            .AddSingleton<OutsideSignIn>()
            .AddSingleton<ToldChanges>();
        services.AddSingleton<DomainResolver>().AddSingleton<DomainNews>().AddSingleton<Domains>();
        services
            .AddSingleton<Reach>()
            .AddSingleton<ISource, FileSource>()
            .AddSingleton<ISource, LdapSource>()
            .AddSingleton<ISource, ScimSource>()
            .AddSingleton<Sources>()
            .AddSingleton<ConnectionBell>()
            .AddSingleton<ConnectionQueue>()
            .AddSingleton<SourceReading>()
            .AddSingleton<SourceDoing>()
            .AddSingleton<SourceRecords>()
            .AddSingleton<Connections.Connections>()
            .AddSingleton<ConnectionRunner>()
            .AddHostedService(all => all.GetRequiredService<ConnectionRunner>());
        services
            .AddSingleton<ITarget, ScimTarget>()
            .AddSingleton<ITarget, LdapTarget>()
            .AddSingleton<ITarget, PostgresTarget>()
            .AddSingleton<ITarget, WebhookTarget>()
            .AddSingleton<Targets>()
            .AddSingleton<CarryBell>()
            .AddSingleton<LaneBell>()
            .AddSingleton<LaneQueue>()
            .AddSingleton<LaneWork>()
            .AddSingleton<Mappings>()
            .AddSingleton<CarryingOut>()
            .AddSingleton<Trials>()
            .AddSingleton<Sweeps>()
            .AddSingleton<LeftOvers>()
            .AddSingleton<EventsSent>()
            .AddSingleton<Elsewhere>()
            .AddSingleton<Sweeper>()
            .AddSingleton<Carrier>()
            .AddSingleton<LaneRunner>()
            .AddHostedService(all => all.GetRequiredService<Carrier>())
            .AddHostedService(all => all.GetRequiredService<Sweeper>())
            .AddHostedService(all => all.GetRequiredService<LaneRunner>());
        services
            .AddSingleton<Receipts>()
            .AddSingleton<Confirmations>()
            .AddSingleton<Reinstating>()
            .AddSingleton<Erasing>()
            .AddSingleton<ManyEndings>()
            .AddSingleton<Departures.Departures>();
        services
            .AddSingleton<DuplicateWatch>()
            .AddHostedService(all => all.GetRequiredService<DuplicateWatch>());
        services.AddSingleton<DomainWatch>().AddHostedService(all => all.GetRequiredService<DomainWatch>());
        services.AddSingleton<Overview>().AddSingleton<WhoIsHere>();
        services.AddSingleton<Ending>().AddSingleton<SettingUp>().AddSingleton<ApiTokens>();
        services.AddSingleton<Settlement>();
        services.AddSingleton<OutboxWorker>().AddHostedService(all => all.GetRequiredService<OutboxWorker>());
        services.AddSingleton<BatchRunner>().AddHostedService(all => all.GetRequiredService<BatchRunner>());
        services
            .AddSingleton<ReportMailbox>()
            .AddHostedService(all => all.GetRequiredService<ReportMailbox>());
        services.AddSingleton<SeenMarks>().AddHostedService(all => all.GetRequiredService<SeenMarks>());
        services.AddSingleton<Clockwork>().AddHostedService(all => all.GetRequiredService<Clockwork>());
        services.AddSingleton<IPasswordHasher<AccountRow>, PasswordHasher<AccountRow>>();
        services.AddSingleton<KnownBrowsers>().AddSingleton<SignInDesk>();
        services
            .AddSingleton<Budgets>()
            .AddSingleton<SecurityEvents>()
            .AddSingleton<Passwords>()
            .AddSingleton<AccountLinks>();
        services.AddSingleton<ProtectionKeys>().AddSingleton<KeyRotation>().AddSingleton<OAuthKeys>();
        services.AddSingleton<SignOns>().AddSingleton<DeviceSignIn>().AddSingleton<ProgramTokens>();
        services.AddSingleton<StayingPrograms>();
        services.AddSingleton<LookedAtTokens>().AddSingleton<Applications.Applications>();
        services.AddSingleton<SignOutBell>().AddSingleton<SignOutNews>();
        services.AddHostedService(all => all.GetRequiredService<SignOutNews>());
        var protection = services.AddDataProtection().SetApplicationName("come-aboard");
        if (settings.KeyCertificate is { } path)
            protection.ProtectKeysWithCertificate(KeyCertificates.Load(path));
        if (settings.KeyFile is { } file)
        {
            var secret = KeyFile.Load(file);
            services.AddSingleton(secret);
            if (settings.KeyCertificate is null)
                services.Configure<KeyManagementOptions>(keys =>
                    keys.XmlEncryptor = new KeyFile.Sealing(secret)
                );
        }
        services
            .AddOptions<KeyManagementOptions>()
            .Configure<ProtectionKeys>(
                (options, keys) =>
                {
                    options.XmlRepository = keys;
                    options.AutoGenerateKeys = false;
                }
            );
        return services;
    }

    private static void AddSignIn(IServiceCollection services, ServiceSettings settings)
    {
        services.AddHttpContextAccessor().AddSingleton<IAuthenticationSchemeProvider, OAuthPaths>();
        services
            .AddAuthentication("either")
            .AddPolicyScheme(
                "either",
                null,
                policy =>
                    policy.ForwardDefaultSelector = http =>
                        http.GetEndpoint()?.Metadata.GetMetadata<NoSignIn.Marked>() is not null
                            ? NoSignIn.SchemeName
                        : TokenSignIn.IsCarriedBy(http.Request) ? TokenSignIn.SchemeName
                        : SessionSignIn.Scheme
            )
            .AddCookie(SessionSignIn.Scheme, cookie => SessionSignIn.Configure(cookie, settings.IsPlain))
            .AddScheme<AuthenticationSchemeOptions, TokenSignIn>(TokenSignIn.SchemeName, null)
            .AddScheme<AuthenticationSchemeOptions, NoSignIn>(NoSignIn.SchemeName, null);
        services
            .AddSingleton<OutsideOptions>()
            .AddSingleton<IConfigureOptions<OpenIdConnectOptions>>(all =>
                all.GetRequiredService<OutsideOptions>()
            )
            .AddSingleton<IPostConfigureOptions<OpenIdConnectOptions>, OpenIdConnectPostConfigureOptions>()
            .AddSingleton<OutsideEvents>();
        services.AddOAuth(settings);
        services.AddAntiforgery(antiforgery =>
        {
            antiforgery.HeaderName = "X-Antiforgery";
            antiforgery.Cookie.Name = settings.IsPlain ? "aboard_form" : "__Host-aboard_form";
            antiforgery.Cookie.SameSite = SameSiteMode.Lax;
            antiforgery.Cookie.SecurePolicy = settings.IsPlain
                ? CookieSecurePolicy.SameAsRequest
                : CookieSecurePolicy.Always;
        });
    }

    private static void AddInterface(IServiceCollection services)
    {
        services.ConfigureHttpJsonOptions(json =>
        {
            json.SerializerOptions.NumberHandling = JsonNumberHandling.Strict;
            json.SerializerOptions.TypeInfoResolverChain.Insert(0, WireJson.Default);
        });
        services.Configure<RouteHandlerOptions>(routes => routes.ThrowOnBadRequest = true);
        services.AddRazorComponents();
        services.AddResponseCompression(compression => compression.EnableForHttps = true);
        services.AddOpenApi("v1", InterfaceDescription.Configure);
        services
            .AddOpenTelemetry()
            .WithMetrics(metrics =>
                metrics
                    .AddMeter(
                        "Microsoft.AspNetCore.Hosting",
                        "Microsoft.AspNetCore.Server.Kestrel",
                        "System.Runtime"
                    )
                    // Room for all their series is made beforehand. Only requests have many: by path, method and status.
                    .AddView(instrument =>
                        instrument.Name == "http.server.request.duration"
                            ? null
                            : new MetricStreamConfiguration { CardinalityLimit = 100 }
                    )
                    .AddPrometheusExporter()
            );
    }

    private static void Map(WebApplication app, ServiceSettings settings)
    {
        FirstAnswer.Watch(app);
        app.UseProxies(settings.Limits);
        app.UseSecurityHeaders(settings.IsPlain);
        app.UseRequestLog();
        app.UseFaults();
        app.UseRouting();
        app.UsePlainStatuses();
        app.UseOAuthLine(settings.Limits);
        app.UseAuthentication();
        app.UseLimits(settings.Limits);
        app.UseAntiforgery();
        app.UseAntiforgeryForSessions();
        app.UseVisitors();
        app.UsePreconditions();

        var api = app.MapGroup("/api/v1");
        api.MapSignIn().MapClaimLinks().MapInvitationLinks().MapJoining();
        var workspace = api.MapGroup("/workspaces/{workspace}").ForMembers();
        workspace.MapWorkspace().MapRules().MapTokens().MapWordings();
        workspace.MapInvitations().MapFollowUp().MapBatches().MapPresets().MapJoinLinks();
        workspace.MapPeople().MapPerson().MapDepartures().MapRecord();
        workspace.MapRoles().MapAreas().MapResources().MapResourceAccess().MapGroups().MapOrganisations();
        workspace
            .MapGrants()
            .MapSeats()
            .MapDomains()
            .MapProviders()
            .MapApplications()
            .MapClaims()
            .MapDuplicates()
            .MapMerges()
            .MapConnections()
            .MapHeldAccounts()
            .MapColleagues();

        app.MapDecisions();
        app.MapReceiptKeys();
        app.MapOAuth();
        app.MapOpenApi("/openapi/{documentName}.json");
        app.MapPrometheusScrapingEndpoint("/metrics");
        app.MapGet("/health/live", () => Results.Text("live")).ExcludeFromDescription();
        app.MapGet("/health/ready", ReadyAsync).ExcludeFromDescription();
        app.MapPages();
        app.MapInterfacePage(settings.ConsoleFiles);
        app.MapConsole(settings.ConsoleFiles);
    }

    /// <summary>Makes what answers now, and not when the first request waits for it.</summary>
    private static void MakeEndpoints(IEndpointRouteBuilder routes)
    {
        var made = routes.DataSources.SelectMany(source => source.Endpoints).ToList();
        routes.DataSources.Clear();
        routes.DataSources.Add(new DefaultEndpointDataSource(made));
    }

    /// <summary>Ready means: the database answers. Mail may wait without anybody being turned away.</summary>
    private static async Task<IResult> ReadyAsync(Storage.Database database, HttpContext http)
    {
        await using var rows = database.Open();
        await rows.Database.ExecuteSqlRawAsync("SELECT 1", http.RequestAborted);
        return Results.Text("ready");
    }
}
