using System.Text.Json;
using System.Text.RegularExpressions;
using ComeAboard.Client.Invitations;
using ComeAboard.Core;
using ComeAboard.Core.Workspaces;
using ComeAboard.Service.Access;
using ComeAboard.Service.Accounts;
using ComeAboard.Service.Departures;
using ComeAboard.Service.Invitations;
using ComeAboard.Service.Jobs;
using ComeAboard.Service.Mail;
using ComeAboard.Service.SignIn;
using ComeAboard.Service.Workspaces;
using ComeAboard.Standins.Mail;
using ComeAboard.Storage;
using Microsoft.AspNetCore.Identity;
using Microsoft.EntityFrameworkCore;

namespace ComeAboard.Service.Demo;

/// <summary>What happens to one invited person in the demo world; days are counted from today.</summary>
public sealed record DemoPerson(
    int Day,
    string Name,
    string Address,
    string Kind,
    string Role,
    int? LastDay,
    string? By,
    string? Message,
    int? AnswerDays,
    string Answer,
    int? AnswerDay,
    int? EndDay
);

/// <summary>Somebody who sets a demo workspace up.</summary>
public sealed record DemoAdministrator(string Name, string Address);

/// <summary>One workspace of the demo world.</summary>
public sealed record DemoWorkspace(
    string Name,
    string ShortName,
    string TimeZone,
    int MadeDay,
    DemoAdministrator Administrator,
    IReadOnlyList<DemoPerson> People
);

/// <summary>The demo world: the museum ship Lantern Tide and a port museum it works with. Everyone in it is invented.</summary>
/// <param name="Password">The password of every account in it.</param>
/// <param name="Workspaces">Its workspaces, the ship first.</param>
public sealed partial record DemoWorld(string Password, IReadOnlyList<DemoWorkspace> Workspaces)
{
    /// <summary>Reads the world that ships with the product.</summary>
    public static DemoWorld Load()
    {
        using var stream = typeof(DemoWorld).Assembly.GetManifestResourceStream("lantern-tide.json")!;
        return JsonSerializer.Deserialize<DemoWorld>(stream, JsonSerializerOptions.Web)!;
    }

    /// <summary>
    /// Lets the world happen, day after day, by the same handlers and over the same mail server as in real life, with
    /// a clock that starts in the past and ends now.
    /// </summary>
    public async Task HappenAsync(ServiceSettings settings, SmtpStandin smtp)
    {
        var inbox = smtp.Inbox;
        var clock = new DemoClock();
        await using var services = new ServiceCollection()
            .AddLogging()
            .AddWork(settings, clock)
            // Everybody's password is printed on the screen; hashing it slowly would protect nobody.
            .Configure<PasswordHasherOptions>(hashing => hashing.IterationCount = 1000)
            .BuildServiceProvider();
        smtp.OnReturn = report => services.GetRequiredService<DeliveryReports>().TakeAsync(report);
        var events = Workspaces
            .SelectMany(workspace => EventsOf(workspace, inbox))
            .OrderBy(happening => happening.Day)
            .ToList();
        var today = DateTimeOffset.UtcNow;
        foreach (var (happening, index) in events.Select((happening, index) => (happening, index)))
        {
            clock.MoveTo(today.AddDays(happening.Day).AddMinutes(-events.Count + index));
            await services.GetRequiredService<Clockwork>().CatchUpAsync();
            await happening.DoAsync(services);
            while (await services.GetRequiredService<OutboxWorker>().SendDueAsync() > 0) { }
        }
        clock.MoveTo(today.AddDays(-1));
        var ship = Workspaces[0];
        await DemoExtras.AddAsync(
            services,
            await VisitorAsync(services, ship.ShortName, ship.Administrator.Address),
            DateOnly.FromDateTime(today.UtcDateTime),
            async (address, name) =>
                Expect(
                    await services
                        .GetRequiredService<Answering>()
                        .AcceptAsNewAsync(SecretIn(inbox, address), new Newcomer(name, Password), "page")
                )
        );
        await DemoDirectory.AddAsync(
            services,
            await VisitorAsync(services, ship.ShortName, ship.Administrator.Address)
        );
        clock.MoveTo(today);
        await services.GetRequiredService<Clockwork>().CatchUpAsync();
        await services.GetRequiredService<Duplicates>().CatchUpAsync();
        while (await services.GetRequiredService<OutboxWorker>().SendDueAsync() > 0) { }
    }

    /// <summary>A new API token for the first administrator of the first workspace.</summary>
    public async Task<string> NewTokenAsync(IServiceProvider services)
    {
        var visitor = await VisitorAsync(
            services,
            Workspaces[0].ShortName,
            Workspaces[0].Administrator.Address
        );
        var tokens = services.GetRequiredService<ApiTokens>();
        return (
            await tokens.AddAsync(
                visitor.WorkspaceId,
                visitor.Workspace.ShortName,
                visitor.Member,
                "demo",
                null,
                visitor.Caller
            )
        )
            .Value
            .Token;
    }

    private IEnumerable<DemoEvent> EventsOf(DemoWorkspace workspace, Inbox inbox)
    {
        yield return new DemoEvent(workspace.MadeDay, services => MakeAsync(services, workspace, inbox));
        foreach (var person in workspace.People)
        {
            yield return new DemoEvent(person.Day, services => InviteAsync(services, workspace, person));
            if (person.AnswerDay is { } answerDay)
                yield return new DemoEvent(
                    answerDay,
                    services => AnswerAsync(services, workspace, person, inbox)
                );
            if (person.EndDay is { } endDay)
                yield return new DemoEvent(endDay, services => EndAsync(services, workspace, person));
        }
    }

    private async Task MakeAsync(IServiceProvider services, DemoWorkspace workspace, Inbox inbox)
    {
        var settingUp = services.GetRequiredService<SettingUp>();
        var wish = WorkspaceSettings
            .Read(workspace.Name, workspace.ShortName, workspace.TimeZone, null)
            .Value;
        var (_, secret) = (await settingUp.MakeAsync(wish)).Value;
        var administrator = workspace.Administrator;
        Expect(
            await settingUp.TakeAsync(
                secret.Reveal(),
                administrator.Name,
                administrator.Address,
                Password,
                "page"
            )
        );
        while (await services.GetRequiredService<OutboxWorker>().SendDueAsync() > 0) { }
        var link = ProofLink().Match(inbox.To(administrator.Address)[0].Message.TextBody!).Groups[1].Value;
        Expect(await services.GetRequiredService<SignIn.Passwords>().ProveAsync(link, "page"));
    }

    [GeneratedRegex("/prove/([A-Za-z0-9_-]{43})")]
    private static partial Regex ProofLink();

    private static async Task InviteAsync(
        IServiceProvider services,
        DemoWorkspace workspace,
        DemoPerson person
    )
    {
        var inviter = person.By is { } by
            ? workspace.People.First(p => p.Address.StartsWith(by + "@", StringComparison.Ordinal)).Address
            : workspace.Administrator.Address;
        var visitor = await VisitorAsync(services, workspace.ShortName, inviter);
        // A stay that is over by now was still to come on the day of the invitation.
        DateOnly? lastDay = person.LastDay is { } days
            ? DateOnly.FromDateTime(DateTime.UtcNow).AddDays(days)
            : null;
        var request = new InvitationRequest(
            person.Address,
            person.Kind,
            person.Role,
            person.Name,
            person.Message,
            lastDay,
            null,
            person.AnswerDays
        );
        Expect(await services.GetRequiredService<Inviting>().SendAsync(visitor, request, null));
    }

    private async Task AnswerAsync(
        IServiceProvider services,
        DemoWorkspace workspace,
        DemoPerson person,
        Inbox inbox
    )
    {
        var answering = services.GetRequiredService<Answering>();
        var secret = SecretIn(inbox, person.Address);
        switch (person.Answer)
        {
            case "accept":
                await AcceptAsync(services, answering, secret, person);
                break;
            case "decline" or "stop":
                Expect(
                    await services
                        .GetRequiredService<Declining>()
                        .DeclineAsync(secret, new No(false, person.Answer == "stop"), "page")
                );
                break;
            case "revoke":
                var visitor = await VisitorAsync(
                    services,
                    workspace.ShortName,
                    workspace.Administrator.Address
                );
                var found = (await answering.FindAsync(secret)).Value;
                Expect(
                    await services
                        .GetRequiredService<InvitationSteps>()
                        .TakeAsync(visitor, found.Invitation.Id, "revoke", null)
                );
                break;
        }
    }

    private async Task AcceptAsync(
        IServiceProvider services,
        Answering answering,
        string secret,
        DemoPerson person
    )
    {
        await using var rows = services.GetRequiredService<Database>().Open();
        var account = await rows
            .Accounts.AsNoTracking()
            .FirstOrDefaultAsync(a => a.Address == person.Address);
        Expect(
            account is null
                ? await answering.AcceptAsNewAsync(secret, new Newcomer(person.Name, Password), "page")
                : await answering.AcceptAsHeldAsync(secret, account, null, "page")
        );
    }

    private static async Task EndAsync(IServiceProvider services, DemoWorkspace workspace, DemoPerson person)
    {
        var visitor = await VisitorAsync(services, workspace.ShortName, workspace.Administrator.Address);
        Expect(await services.GetRequiredService<Ending>().EndAsync(visitor, person.Address, new()));
    }

    private static async Task<Visitor> VisitorAsync(
        IServiceProvider services,
        string shortName,
        string address
    )
    {
        await using var rows = services.GetRequiredService<Database>().Open();
        var workspace = await rows.Workspaces.AsNoTracking().FirstAsync(w => w.ShortName == shortName);
        var member = (await People.FindAsync(rows.Enter(workspace.Id), address))!;
        var world = await services.GetRequiredService<AccessWorlds>().OfAsync(workspace);
        var today = Days.Of(services.GetRequiredService<TimeProvider>().Now(), workspace.Zone);
        return new Visitor(workspace, member, Caller.Member(member.Id, member.Name, "console"), world, today);
    }

    private static string SecretIn(Inbox inbox, string address) =>
        inbox
            .To(address)
            .Select(mail => LinkPattern().Match(mail.Message.TextBody ?? ""))
            .First(match => match.Success)
            .Groups[1]
            .Value;

    internal static void Expect<T>(Outcome<T> outcome)
        where T : notnull
    {
        if (!outcome.Try(out _, out var refusal))
            throw new InvalidOperationException(
                $"The demo world went wrong: {refusal.Code}: {refusal.Sentence}"
            );
    }

    [GeneratedRegex("/i/([A-Za-z0-9_-]{43})")]
    private static partial Regex LinkPattern();

    private sealed record DemoEvent(int Day, Func<IServiceProvider, Task> DoAsync);
}
