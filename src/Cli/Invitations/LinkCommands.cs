using System.CommandLine;
using ComeAboard.Client;
using ComeAboard.Client.Invitations;

namespace ComeAboard.Cli.Invitations;

/// <summary><c>aboard links …</c></summary>
public static class LinkCommands
{
    private static readonly Argument<string> Label = new("LABEL") { Description = "What the link is for" };
    private static readonly Argument<Guid> Id = new("LINK") { Description = "The link's id" };
    private static readonly Option<string> Kind = new("--kind")
    {
        Description = "staff, guest, partner or client",
        Required = true,
    };
    private static readonly Option<int> Cap = new("--cap")
    {
        Description = "How many people may come in by it",
        DefaultValueFactory = _ => 25,
    };
    private static readonly Option<string[]> Domains = new("--domain")
    {
        Description = "A mail domain it is for; may be given several times",
    };
    private static readonly Option<int?> Days = new("--days")
    {
        Description = "How many days it lets people in; 14 when absent",
    };
    private static readonly Option<bool> NoEnd = new("--no-end")
    {
        Description =
            "Stays have no end; without it, --until and --stay-days they are as long as is usual for the kind",
    };
    private static readonly Option<int?> StayDays = new("--stay-days")
    {
        Description = "How many days each may stay from joining",
    };
    private static readonly Option<string?> Until = new("--until")
    {
        Description = "The last day of everybody's stay",
    };
    private static readonly Option<bool> Approval = new("--approval")
    {
        Description = "Each waits for approval",
    };
    private static readonly Option<string?> Message = new("--message")
    {
        Description = "A message in plain words, without links",
    };
    private static readonly Option<string?> Language = new("--language")
    {
        Description = "The language of its page and mails",
    };
    private static readonly Option<string?> Qr = new("--qr")
    {
        Description = "Write the QR code to this file, .svg or .png",
    };

    private static readonly Listing<JoinLinkView> Table = new(
        new("For", l => l.Label),
        new("State", l => l.State),
        new("Kind", l => l.Kind),
        new("Came in", l => $"{l.Uses} of {l.Cap}", IsNumber: true),
        new("Open until", l => Texts.Day(Texts.DayOf(l.ExpiresAt), Texts.Today), 1),
        new("Domains", l => l.Domains.Count == 0 ? "any" : string.Join(", ", l.Domains), 2),
        new("Approval", l => l.NeedsApproval ? "yes" : "no", 3),
        new("Id", l => l.Id.ToString(), 4)
    );

    public static Command Make() =>
        new Command("links", "Links by which several people can come in")
        {
            List(),
            Show(),
            Add(),
            Renew(),
            Close(),
            End(),
        };

    private static Command List() =>
        Commands.List(
            "List join links, newest first",
            [],
            (session, _, cancellation) =>
                Commands.AllAsync(cursor => session.Client.LinksAsync(cursor, 200, cancellation)),
            Table,
            WireJson.Default.JoinLinkView,
            "There is no join link. Make one: aboard links add \"harbour day\" --kind guest",
            _ => "links?format=csv"
        );

    private static Command Show()
    {
        var show = new Command("show", "Show a link and who came in by it") { Id };
        Session.On(
            show,
            async (session, parsed, cancellation) =>
            {
                var link = await session.Client.LinkAsync(parsed.GetValue(Id), cancellation);
                if (session.Json)
                {
                    Session.Print(link, WireJson.Default.JoinLinkView);
                    return ExitStatus.Done;
                }
                Table.Print([link]);
                string? cursor = null;
                do
                {
                    var page = await session.Client.InvitationsAsync(
                        cursor: cursor,
                        limit: 200,
                        link: link.Id,
                        cancellation: cancellation
                    );
                    foreach (var invitation in page.Items)
                        Console.WriteLine($"  {invitation.Address}  {invitation.Name}  {invitation.State}");
                    cursor = page.Next;
                } while (cursor is not null);
                return ExitStatus.Done;
            }
        );
        return show;
    }

    private static Command Add()
    {
        var add = new Command("add", "Make a join link; its address is shown once")
        {
            Label,
            Kind,
            Giving.Role,
            Giving.Resource,
            Giving.Group,
            Cap,
            Domains,
            Days,
            StayDays,
            Until,
            NoEnd,
            Approval,
            Message,
            Language,
            Qr,
            CommonOptions.DryRun,
        };
        Session.On(
            add,
            async (session, parsed, cancellation) =>
            {
                CheckQr(parsed.GetValue(Qr));
                var made = await session.Client.AddLinkAsync(
                    new JoinLinkRequest(
                        parsed.GetValue(Label)!,
                        parsed.GetValue(Kind)!,
                        null,
                        Texts.ReadDay(parsed.GetValue(Until), "--until"),
                        parsed.GetValue(StayDays),
                        parsed.GetValue(Cap),
                        parsed.GetValue(Domains),
                        parsed.GetValue(Approval),
                        parsed.GetValue(Days),
                        parsed.GetValue(Message),
                        parsed.GetValue(Language)
                    )
                    {
                        Gives = Giving.Read(parsed),
                        NoEnd = parsed.GetValue(NoEnd),
                    },
                    parsed.GetValue(CommonOptions.DryRun),
                    cancellation
                );
                if (parsed.GetValue(CommonOptions.DryRun))
                    return Rehearse(session, made.Link, "It would be this link");
                return await HandOutAsync(session, made, parsed.GetValue(Qr), cancellation);
            }
        );
        return add;
    }

    private static Command Renew()
    {
        var renew = new Command("renew", "Give a link another address; the one handed out dies")
        {
            Id,
            Qr,
            CommonOptions.DryRun,
        };
        Session.On(
            renew,
            async (session, parsed, cancellation) =>
            {
                CheckQr(parsed.GetValue(Qr));
                if (parsed.GetValue(CommonOptions.DryRun))
                    return Rehearse(
                        session,
                        await session.Client.LinkAsync(parsed.GetValue(Id), cancellation),
                        "This link would get another address, and the one handed out would be dead"
                    );
                var made = await session.Client.RenewLinkAsync(parsed.GetValue(Id), cancellation);
                return await HandOutAsync(session, made, parsed.GetValue(Qr), cancellation);
            }
        );
        return renew;
    }

    private static Command Close()
    {
        var close = new Command("close", "Close a link: nobody comes in by it any more")
        {
            Id,
            CommonOptions.DryRun,
        };
        Session.On(
            close,
            async (session, parsed, cancellation) =>
            {
                var id = parsed.GetValue(Id);
                var isRehearsal = parsed.GetValue(CommonOptions.DryRun);
                var link = isRehearsal
                    ? await session.Client.LinkAsync(id, cancellation)
                    : await session.Client.CloseLinkAsync(id, cancellation);
                if (session.Json)
                    Session.Print(link, WireJson.Default.JoinLinkView);
                else
                    Console.WriteLine(
                        $"{(isRehearsal ? "Would be closed" : "Closed")}: {link.Label}, by which {link.Uses} came in"
                    );
                Commands.Said(
                    parsed,
                    $"{link.Label} closed.",
                    link.Uses > 0
                        ? $"aboard links end {id} ends the access of those who came in"
                        : "aboard links list"
                );
                return ExitStatus.Done;
            }
        );
        return close;
    }

    private static Command End()
    {
        var end = new Command("end", "End the access of everybody who came in by a link")
        {
            Id,
            CommonOptions.DryRun,
        };
        Session.On(
            end,
            async (session, parsed, cancellation) =>
            {
                var id = parsed.GetValue(Id);
                var isRehearsal = parsed.GetValue(CommonOptions.DryRun);
                var answer = await session.Client.EndLinkPeopleAsync(id, true, cancellation);
                if (!session.Json)
                    foreach (var person in answer.Ended)
                        Console.WriteLine($"  {person}");
                if (!isRehearsal)
                {
                    if (
                        answer.Ended.Count > 0
                        && !session.Confirm(
                            $"{Texts.Many(answer.Ended.Count, "person loses", "people lose")} their access now. Go on?"
                        )
                    )
                        return ExitStatus.Failed;
                    answer = await session.Client.EndLinkPeopleAsync(id, false, cancellation);
                }
                if (session.Json)
                    Session.Print(answer, WireJson.Default.LinkDeparture);
                foreach (var refused in answer.Refused)
                    Session.Say($"  {refused.Address}: {refused.Problem.Title}");
                Session.Say(
                    isRehearsal
                        ? $"{Texts.Many(answer.Ended.Count, "person", "people")} would lose their access."
                        : $"{Texts.Many(answer.Ended.Count, "person", "people")} lost their access. Next: aboard links close {id}"
                );
                return answer.Refused.Count == 0 ? ExitStatus.Done : ExitStatus.DoneInPart;
            }
        );
        return end;
    }

    private static async Task<int> HandOutAsync(
        Session session,
        NewJoinLink made,
        string? qr,
        CancellationToken cancellation
    )
    {
        if (qr is not null)
            await Files.WriteAsync(
                qr,
                qr.EndsWith(".svg", StringComparison.OrdinalIgnoreCase)
                    ? System.Text.Encoding.UTF8.GetBytes(made.QrSvg)
                    : Convert.FromBase64String(made.QrPng),
                cancellation
            );
        if (session.Json)
            Session.Print(made, WireJson.Default.NewJoinLink);
        else
            Console.WriteLine(made.Address);
        Session.Say(
            $"It is shown once. {made.Link.Cap} people may come in by it until {Texts.Instant(made.Link.ExpiresAt)} ({Texts.Zone.Id}); close it with aboard links close {made.Link.Id}"
        );
        return ExitStatus.Done;
    }

    private static int Rehearse(Session session, JoinLinkView link, string what)
    {
        if (session.Json)
            Session.Print(link, WireJson.Default.JoinLinkView);
        else
            Table.Print([link]);
        Session.Say($"Nothing was changed. {what}.");
        return ExitStatus.Done;
    }

    private static void CheckQr(string? file)
    {
        if (
            file is not null
            && !file.EndsWith(".svg", StringComparison.OrdinalIgnoreCase)
            && !file.EndsWith(".png", StringComparison.OrdinalIgnoreCase)
        )
            throw new UsageException("--qr: name a file that ends with .svg or .png.");
    }
}
