using System.Text.Json.Serialization;
using ComeAboard.Client;
using ComeAboard.Core;
using ComeAboard.Service.Access;
using ComeAboard.Service.Accounts;
using ComeAboard.Service.Departures;
using ComeAboard.Service.Http;
using ComeAboard.Service.Invitations;
using ComeAboard.Service.Jobs;
using ComeAboard.Service.Mail;
using ComeAboard.Service.Pages;
using ComeAboard.Service.Record;
using ComeAboard.Service.SignIn;
using ComeAboard.Service.Workspaces;
using ComeAboard.Storage.Accounts;
using Microsoft.AspNetCore.Authentication;
using Microsoft.AspNetCore.DataProtection;
using Microsoft.AspNetCore.DataProtection.KeyManagement;
using Microsoft.AspNetCore.Identity;
using Microsoft.EntityFrameworkCore;
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
    public static WebApplication Build(ServiceSettings settings, TimeProvider? clock = null)
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
        AddLogs(builder, settings);
        AddWork(builder.Services, settings, clock ?? TimeProvider.System);
        AddSignIn(builder.Services, settings);
        AddInterface(builder.Services);
        var app = builder.Build();
        Map(app, settings);
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
                .MinimumLevel.Override("Microsoft.AspNetCore.DataProtection", LogEventLevel.Error)
                .MinimumLevel.Override("Microsoft.AspNetCore.Antiforgery", LogEventLevel.Error)
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
        services.AddSingleton<WriteGate>().AddSingleton<WorkspaceWriter>();
        services.AddSingleton<AccessWorlds>().AddHostedService(all => all.GetRequiredService<AccessWorlds>());
        services.AddSingleton<OutboxBell>().AddSingleton<Outbox>();
        services
            .AddSingleton<Inviting>()
            .AddSingleton<InvitationSteps>()
            .AddSingleton<StepsTogether>()
            .AddSingleton<Approving>()
            .AddSingleton<Joining>()
            .AddSingleton<JoinLinks>()
            .AddSingleton<Batches>()
            .AddSingleton<DeliveryReports>()
            .AddSingleton<Answering>()
            .AddSingleton<AddressCodes>()
            .AddSingleton<Declining>();
        services.AddSingleton<Editing>().AddSingleton<ResourceAccess>().AddSingleton<PeopleSteps>();
        services.AddSingleton<Ending>().AddSingleton<SettingUp>().AddSingleton<ApiTokens>();
        services.AddSingleton<OutboxWorker>().AddHostedService(all => all.GetRequiredService<OutboxWorker>());
        services.AddSingleton<BatchRunner>().AddHostedService(all => all.GetRequiredService<BatchRunner>());
        services
            .AddSingleton<ReportMailbox>()
            .AddHostedService(all => all.GetRequiredService<ReportMailbox>());
        services.AddSingleton<Clockwork>().AddHostedService(all => all.GetRequiredService<Clockwork>());
        services.AddSingleton<IPasswordHasher<AccountRow>, PasswordHasher<AccountRow>>();
        services.AddSingleton<ProtectionKeys>().AddSingleton<KeyRotation>();
        services.AddDataProtection().SetApplicationName("come-aboard");
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
        services
            .AddIdentityCore<AccountRow>(identity =>
            {
                identity.Lockout.MaxFailedAccessAttempts = 5;
                identity.Lockout.DefaultLockoutTimeSpan = TimeSpan.FromMinutes(1);
            })
            .AddUserStore<AccountStore>();
        services.AddScoped<ILookupNormalizer, KeyNormalizer>().AddScoped<SignInDesk>();
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
        services.AddAntiforgery(antiforgery =>
        {
            antiforgery.HeaderName = "X-Antiforgery";
            antiforgery.Cookie.Name = settings.IsPlain ? "aboard_form" : "__Host-aboard_form";
            antiforgery.Cookie.SameSite = SameSiteMode.Lax;
            antiforgery.Cookie.SecurePolicy = settings.IsPlain
                ? CookieSecurePolicy.SameAsRequest
                : CookieSecurePolicy.Always;
        });
        services.AddLimits(settings.Limits);
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
                    .AddPrometheusExporter()
            );
    }

    private static void Map(WebApplication app, ServiceSettings settings)
    {
        app.UseSecurityHeaders(settings.IsPlain);
        app.UseRequestLog();
        app.UseFaults();
        app.UseRouting();
        app.UseStatusCodePages(context => PlainStatusAsync(context.HttpContext));
        app.UseAuthentication();
        app.UseRateLimiter();
        app.UseAntiforgery();
        app.UseAntiforgeryForSessions();
        app.UseVisitors();

        var api = app.MapGroup("/api/v1");
        api.MapSignIn().MapInvitationLinks().MapJoining();
        var workspace = api.MapGroup("/workspaces/{workspace}").ForMembers();
        workspace.MapWorkspace().MapRules().MapWordings();
        workspace.MapInvitations().MapFollowUp().MapFigures().MapBatches().MapPresets().MapJoinLinks();
        workspace.MapPeople().MapPersonPages().MapSuggestions().MapDepartures().MapRecord();
        workspace.MapRoles().MapAreas().MapResources().MapResourceAccess().MapGroups().MapOrganisations();
        workspace.MapGrants().MapSeats().MapReadiness().MapColleagues();
        api.MapFallback(() => CommonRefusals.NotFound.ToResult());

        app.MapDecisions();
        app.MapOpenApi("/openapi/{documentName}.json");
        app.MapPrometheusScrapingEndpoint("/metrics");
        app.MapGet("/health/live", () => Results.Text("live")).ExcludeFromDescription();
        app.MapGet("/health/ready", ReadyAsync).ExcludeFromDescription();
        app.MapPages();
        app.MapConsole(settings.ConsoleFiles);
    }

    /// <summary>Ready means: the database answers. Mail may wait without anybody being turned away.</summary>
    private static async Task<IResult> ReadyAsync(Storage.Database database, HttpContext http)
    {
        await using var rows = database.Open();
        await rows.Database.ExecuteSqlRawAsync("SELECT 1", http.RequestAborted);
        return Results.Text("ready");
    }

    /// <summary>Statuses that the framework sets by itself get a document too.</summary>
    private static Task PlainStatusAsync(HttpContext http) =>
        http.Response.StatusCode switch
        {
            StatusCodes.Status404NotFound => CommonRefusals.NotFound.WriteAsync(http),
            StatusCodes.Status405MethodNotAllowed => WithStatus(
                http,
                "method.not-allowed",
                "This path does not take that method."
            ),
            StatusCodes.Status415UnsupportedMediaType => WithStatus(
                http,
                "media-type.unsupported",
                "The body must be application/json."
            ),
            var status and >= 400 => WithStatus(
                http,
                "request.malformed",
                $"The request was refused with status {status}."
            ),
            _ => Task.CompletedTask,
        };

    private static Task WithStatus(HttpContext http, string code, string sentence)
    {
        var refusal = new Refusal(code, sentence, "Correct it as the interface's description says.");
        var problem = refusal.ToProblem() with { Status = http.Response.StatusCode };
        return Results
            .Json(problem, WireJson.Default.Problem, Problem.MediaType, problem.Status)
            .ExecuteAsync(http);
    }
}
