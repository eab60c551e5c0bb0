using System.Net;
using System.Net.Http.Json;
using System.Text.RegularExpressions;
using ComeAboard.Client;
using ComeAboard.Client.Accounts;
using ComeAboard.Client.Invitations;
using ComeAboard.Client.SignIn;
using Xunit;

namespace ComeAboard.Service.Tests.World;

/// <summary>A workspace seen through its administrator's client.</summary>
public sealed partial class Ship
{
    public const string Password = "a lantern at high tide";

    private Ship(Harbour harbour, Guid id, string name, string administrator, string token)
    {
        (Harbour, Id, Name, Administrator, Token) = (harbour, id, name, administrator, token);
        Client = Harbour.ClientAt(harbour.Node, name, token);
        OtherNode = Harbour.ClientAt(harbour.OtherNode, name, token);
    }

    public Harbour Harbour { get; }
    public Guid Id { get; }
    public string Name { get; }
    public string Administrator { get; }
    public string Token { get; }

    /// <summary>The administrator's client at the first node.</summary>
    public AboardClient Client { get; }

    /// <summary>The administrator's client at the second node.</summary>
    public AboardClient OtherNode { get; }

    public static async Task<Ship> BoardAsync(Harbour harbour, Guid id, string name, string administrator)
    {
        using var anonymous = new AboardClient(Harbour.UrlOf(harbour.Node));
        var token = await anonymous.SignInAsync(new ProgramSignInRequest(administrator, Password, name));
        return new Ship(harbour, id, name, administrator, token.Token);
    }

    /// <summary>Proves a domain by its record; looked at until it is answered for.</summary>
    public async Task ProveAsync(string domain, NameServer dns)
    {
        var added = await Client.AddDomainAsync(new DomainRequest(domain));
        await dns.PutAsync(added.RecordName, added.RecordValue);
        var shown = await Patience.UntilAsync(
            () => Client.CheckDomainAsync(domain),
            one => one.State == "proved",
            20
        );
        Assert.Equal(("proved", "shown"), (shown.State, shown.LastLook));
    }

    /// <summary>An address that nobody else in the tests has.</summary>
    public string Address(string local) => $"{local}@{Name}-guests.example";

    public Task<InvitationView> InviteAsync(
        string address,
        string kind = "guest",
        string role = "view",
        DateOnly? until = null,
        string? message = null
    ) =>
        Client.SendInvitationAsync(
            new InvitationRequest(address, kind, role, "", message, until),
            Guid.NewGuid().ToString()
        );

    /// <summary>The secret in the newest invitation mail to an address, once it has arrived.</summary>
    public async Task<string> SecretAsync(string address, int mails = 1)
    {
        for (var tries = 0; tries < 1_200; tries++)
        {
            var found = Harbour
                .Inbox.To(address)
                .Select(mail => LinkPattern().Match(mail.Message.TextBody ?? ""))
                .Where(match => match.Success)
                .ToList();
            if (found.Count >= mails)
                return found[0].Groups[1].Value;
            await Task.Delay(50);
        }
        throw new TimeoutException($"No invitation arrived at {address}.");
    }

    /// <summary>The newest mail to an address whose subject holds some words, once it has arrived.</summary>
    public async Task<string> MailAsync(string address, string subject)
    {
        for (var tries = 0; tries < 1_200; tries++)
        {
            if (
                Harbour
                    .Inbox.To(address)
                    .FirstOrDefault(m => m.Message.Subject!.Contains(subject, StringComparison.Ordinal)) is
                { } mail
            )
                return mail.Message.TextBody!;
            await Task.Delay(50);
        }
        throw new TimeoutException($"No mail \"{subject}\" arrived at {address}.");
    }

    public Task<AcceptAnswer> AcceptAsync(string secret, string name) =>
        Client.AcceptAsync(new AcceptRequest(secret, Password, name));

    /// <summary>Invites somebody and has them accept with a new account.</summary>
    public async Task<AcceptAnswer> BringAboardAsync(
        string address,
        string kind = "guest",
        string role = "view",
        DateOnly? until = null
    )
    {
        await InviteAsync(address, kind, role, until);
        return await AcceptAsync(await SecretAsync(address), "Somebody " + address.Split('@')[0]);
    }

    /// <summary>A member's own client, with a token of theirs.</summary>
    public async Task<AboardClient> ClientOfAsync(string address)
    {
        var token = await Client.SignInAsync(new ProgramSignInRequest(address, Password, Name));
        return Harbour.ClientAt(Harbour.Node, Name, token.Token);
    }

    /// <summary>A browser that has signed in, at either node.</summary>
    public async Task<HttpClient> BrowserOfAsync(string address, bool atOtherNode = false)
    {
        var handler = new HttpClientHandler
        {
            CookieContainer = new CookieContainer(),
            AllowAutoRedirect = false,
        };
        var browser = new HttpClient(handler)
        {
            BaseAddress = Harbour.UrlOf(atOtherNode ? Harbour.OtherNode : Harbour.Node),
        };
        var answer = await browser.PostAsJsonAsync("/api/v1/sessions", new SignInRequest(address, Password));
        Assert.Equal(HttpStatusCode.NoContent, answer.StatusCode);
        return browser;
    }

    /// <summary>Has the workspace have proved domains, without asking DNS.</summary>
    public async Task ProveAsync(params IEnumerable<string> domains)
    {
        await using var rows = Harbour.Database.Open(Id);
        var now = Harbour.Clock.GetUtcNow();
        foreach (var domain in domains)
            rows.Domains.Add(
                new Storage.Accounts.DomainRow
                {
                    WorkspaceId = Id,
                    Id = Guid.NewGuid(),
                    Domain = domain,
                    Token = "",
                    AddedAt = now,
                    ProvedAt = now,
                    ShownAt = now,
                    Holds = domain,
                    NextLookAt = now.AddYears(1),
                }
            );
        await rows.SaveChangesAsync();
    }

    public string Path(string path) => $"/api/v1/workspaces/{Name}{path}";

    [GeneratedRegex("/i/([A-Za-z0-9_-]{43})")]
    private static partial Regex LinkPattern();
}

/// <summary>Refusals as tests speak of them.</summary>
public static class Refusing
{
    /// <summary>The code a call was refused with.</summary>
    public static async Task<string> CodeOf(Task call) =>
        (await Assert.ThrowsAsync<RefusedException>(() => call)).Problem.Code;
}
