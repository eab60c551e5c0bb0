using System.Net;
using System.Text;
using ComeAboard.Standins.Dns;
using Microsoft.AspNetCore.Builder;
using Microsoft.AspNetCore.Hosting;
using Microsoft.AspNetCore.Hosting.Server;
using Microsoft.AspNetCore.Hosting.Server.Features;
using Microsoft.AspNetCore.Http;
using Microsoft.Extensions.DependencyInjection;
using Microsoft.Extensions.Logging;

namespace ComeAboard.Standins.Mail;

/// <summary>The stand-in inbox over HTTP: a page for people, and <c>GET /messages?to=ADDRESS</c> as JSON for programs.</summary>
public sealed class InboxPages : IAsyncDisposable
{
    private const string Style =
        "body{font:16px/1.5 system-ui,sans-serif;max-width:60rem;margin:2rem auto;padding:0 1rem;color:#1b2a33;background:#f6f3ec}"
        + "table{border-collapse:collapse;width:100%}td,th{text-align:left;padding:.4rem .6rem;border-bottom:1px solid #cfc8b8;vertical-align:top}"
        + "iframe{width:100%;height:34rem;border:1px solid #cfc8b8;background:#fff}pre{white-space:pre-wrap;background:#fff;padding:1rem;border:1px solid #cfc8b8}"
        + "a{color:#0b5563}input{font:inherit;padding:.3rem .5rem;width:20rem}";

    private readonly WebApplication _app;

    private InboxPages(WebApplication app, Uri url)
    {
        _app = app;
        Url = url;
    }

    /// <summary>Where the inbox answers.</summary>
    public Uri Url { get; }

    /// <summary>Starts serving an inbox on loopback.</summary>
    /// <param name="inbox">What to show.</param>
    /// <param name="port">The port, or 0 for any free one.</param>
    /// <param name="dns">A stand-in name server to show beside it; null for none.</param>
    public static async Task<InboxPages> StartAsync(Inbox inbox, int port = 0, DnsStandin? dns = null)
    {
        // Looks for no settings of its own: the directory it is started in may be large, and would be watched.
        var builder = WebApplication.CreateEmptyBuilder(new WebApplicationOptions());
        builder.WebHost.UseKestrelCore();
        builder.Services.AddRoutingCore();
        builder.Logging.ClearProviders();
        builder.WebHost.ConfigureKestrel(kestrel => kestrel.Listen(IPAddress.Loopback, port));
        var app = builder.Build();
        app.MapGet("/messages", (string? to) => Results.Json(inbox.To(to).Select(ToJson)));
        app.MapGet("/", (string? to) => Results.Content(List(inbox.To(to), to), "text/html; charset=utf-8"));
        app.MapGet("/mail/{number:int}", (int number) => Find(inbox, number, One));
        app.MapGet(
            "/mail/{number:int}/html",
            (int number) => Find(inbox, number, mail => mail.Message.HtmlBody ?? "")
        );
        if (dns is not null)
            MapDns(app, dns);
        await app.StartAsync();
        var address = app
            .Services.GetRequiredService<IServer>()
            .Features.Get<IServerAddressesFeature>()!
            .Addresses.First();
        return new InboxPages(app, new Uri(address));
    }

    /// <inheritdoc/>
    public async ValueTask DisposeAsync()
    {
        await _app.StopAsync();
        await _app.DisposeAsync();
    }

    private static void MapDns(WebApplication app, DnsStandin dns)
    {
        app.MapGet("/dns", () => Results.Content(Records(dns), "text/html; charset=utf-8"));
        app.MapPost(
            "/dns",
            async (HttpRequest request) =>
            {
                var form = await request.ReadFormAsync();
                try
                {
                    if (form["remove"].ToString() is { Length: > 0 } gone)
                        dns.Remove(gone);
                    else
                        dns.Put(form["name"].ToString().Trim(), form["text"].ToString().Trim().Trim('"'));
                }
                catch (ArgumentException fault)
                {
                    return Results.Text(fault.Message, statusCode: 400);
                }
                return Results.Redirect("/dns");
            }
        );
    }

    private static string Records(DnsStandin dns)
    {
        var page = new StringBuilder("<p><a href=\"/\">Inbox</a></p><h1>Stand-in name server</h1>");
        page.Append("<p>The TXT records of the demo. Nothing is asked outside this machine.</p>");
        page.Append("<table><tr><th>Name</th><th>Text</th><th></th></tr>");
        foreach (var (name, text) in dns.Records)
            page.Append(
                $"<tr><td>{Text(name)}</td><td>{Text(text)}</td><td><form method=post><button name=remove value=\"{Text(name)}\">Remove</button></form></td></tr>"
            );
        page.Append(
            "</table><h2>Put a record in</h2><form method=post><p><label>Name <input name=name required></label> <label>Text <input name=text required></label> <button>Put in</button></p></form>"
        );
        return Page("Stand-in name server", page.ToString());
    }

    private static object ToJson(ReceivedMail mail) =>
        new
        {
            at = mail.At,
            subject = mail.Message.Subject,
            from = mail.Message.From.ToString(),
            to = string.Join(", ", mail.Recipients),
            text = mail.Message.TextBody,
            html = mail.Message.HtmlBody,
            headers = mail
                .Message.Headers.GroupBy(header => header.Field)
                .ToDictionary(
                    same => same.Key,
                    same => string.Join("\n", same.Select(header => header.Value))
                ),
        };

    private static IResult Find(Inbox inbox, int number, Func<ReceivedMail, string> show) =>
        inbox.To().FirstOrDefault(mail => mail.Number == number) is { } found
            ? Results.Content(show(found), "text/html; charset=utf-8")
            : Results.NotFound();

    private static string List(IReadOnlyList<ReceivedMail> mails, string? to)
    {
        var page = new StringBuilder();
        page.Append(
            $"<h1>Stand-in inbox</h1><p>Every mail the demo has sent, newest first. Nothing leaves this machine.</p>"
        );
        page.Append(
            $"<form><label>Sent to <input name=to value=\"{Text(to)}\" placeholder=\"any address\"></label></form>"
        );
        page.Append("<table><tr><th>Arrived</th><th>To</th><th>Subject</th></tr>");
        foreach (var mail in mails.Take(200))
        {
            page.Append(
                $"<tr><td style=\"white-space:nowrap\">{mail.At:HH:mm:ss} UTC</td><td>{Text(string.Join(", ", mail.Recipients))}</td>"
                    + $"<td><a href=\"/mail/{mail.Number}\">{Text(mail.Message.Subject)}</a></td></tr>"
            );
        }
        page.Append(mails.Count == 0 ? "</table><p>Nothing has arrived yet.</p>" : "</table>");
        return Page("Stand-in inbox", page.ToString());
    }

    private static string One(ReceivedMail mail) =>
        Page(
            mail.Message.Subject ?? "",
            $"<p><a href=\"/\">All mails</a></p><h1>{Text(mail.Message.Subject)}</h1>"
                + $"<p>From {Text(mail.Message.From.ToString())}<br>To {Text(string.Join(", ", mail.Recipients))}</p>"
                + $"<iframe sandbox=\"allow-popups allow-top-navigation-by-user-activation\" src=\"/mail/{mail.Number}/html\" title=\"HTML part\"></iframe>"
                + $"<h2>Text part</h2><pre>{Text(mail.Message.TextBody)}</pre>"
        );

    private static string Page(string title, string body) =>
        $"<!doctype html><html lang=en><meta charset=utf-8><meta name=viewport content=\"width=device-width\"><title>{Text(title)}</title><style>{Style}</style>{body}";

    private static string Text(string? text) => WebUtility.HtmlEncode(text ?? "");
}
