using System.CommandLine;
using ComeAboard.Client;
using ComeAboard.Client.Invitations;

namespace ComeAboard.Cli.Invitations;

/// <summary><c>aboard invitations …</c></summary>
public static class InvitationCommands
{
    private static readonly Argument<string> Id = new("ID")
    {
        Description = "The invitation's id, or the address it went to",
    };
    private static readonly Option<string?> Sort = new("--sort")
    {
        Description = "newest (when absent), oldest, deadline or last-step",
    };

    public static Command Make()
    {
        var invitations = new Command("invitations", "Ask people in, and follow up");
        invitations.Subcommands.Add(SendCommand.Make());
        invitations.Subcommands.Add(ImportCommand.Make());
        invitations.Subcommands.Add(ImportCommand.Template());
        invitations.Subcommands.Add(List());
        invitations.Subcommands.Add(Show());
        foreach (var step in StepCommands.Make())
            invitations.Subcommands.Add(step);
        invitations.Subcommands.Add(FiguresCommand.Make());
        invitations.Subcommands.Add(MailCommands.Report());
        invitations.Subcommands.Add(MailCommands.Bounced());
        invitations.Subcommands.Add(AcceptCommand.Make());
        return invitations;
    }

    private static Command List()
    {
        var list = new Command("list", "List invitations, newest first")
        {
            Selection.State,
            Selection.Kind,
            Selection.Search,
            Sort,
            Commands.Csv,
            CommonOptions.Limit,
        };
        Session.On(
            list,
            async (session, parsed, cancellation) =>
            {
                if (parsed.GetValue(Commands.Csv))
                {
                    var csv = await session.Client.ExportInvitationsAsync(
                        parsed.GetValue(Selection.State),
                        parsed.GetValue(Selection.Search),
                        parsed.GetValue(Sort),
                        parsed.GetValue(Selection.Kind),
                        cancellation
                    );
                    await Files.WriteAsync("-", csv, cancellation);
                    return ExitStatus.Done;
                }
                var (found, counts) = await FetchAsync(session.Client, parsed, cancellation);
                if (session.Json)
                {
                    foreach (var invitation in found)
                        Session.Print(invitation, WireJson.Default.InvitationView);
                    return ExitStatus.Done;
                }
                if (found.Count == 0)
                    Console.WriteLine(
                        "No invitation fits. Send one: aboard invitations send ADDRESS --kind guest"
                    );
                else
                    Table.Print(found);
                Console.WriteLine(
                    string.Join(" · ", counts.Where(c => c.Value > 0).Select(c => $"{c.Value} {c.Key}"))
                );
                return ExitStatus.Done;
            }
        );
        return list;
    }

    private static Command Show()
    {
        var show = new Command("show", "Show one invitation with its history") { Id };
        Session.On(
            show,
            async (session, parsed, cancellation) =>
            {
                var id = await Selection.FindAsync(session.Client, parsed.GetValue(Id)!, cancellation);
                var invitation = await session.Client.InvitationAsync(id, cancellation);
                if (session.Json)
                {
                    Session.Print(invitation, WireJson.Default.InvitationView);
                    return ExitStatus.Done;
                }
                Describe(invitation);
                Texts.PrintHistory((await session.Client.InvitationHistoryAsync(id, cancellation)).Items);
                return ExitStatus.Done;
            }
        );
        return show;
    }

    private static async Task<(
        IReadOnlyList<InvitationView> Found,
        IReadOnlyDictionary<string, long> Counts
    )> FetchAsync(AboardClient client, ParseResult parsed, CancellationToken cancellation)
    {
        var limit = parsed.GetValue(CommonOptions.Limit);
        var found = new List<InvitationView>();
        InvitationPage page;
        string? cursor = null;
        do
        {
            page = await client.InvitationsAsync(
                parsed.GetValue(Selection.State),
                parsed.GetValue(Selection.Search),
                cursor,
                Math.Clamp(limit - found.Count, 1, 200),
                parsed.GetValue(Sort),
                parsed.GetValue(Selection.Kind),
                cancellation: cancellation
            );
            found.AddRange(page.Items);
            cursor = page.Next;
        } while (cursor is not null && found.Count < limit);
        if (cursor is not null)
            Session.Say($"There are more; list them with --limit {limit * 10}.");
        return (found, page.Counts);
    }

    private static readonly Listing<InvitationView> Table = new(
        new("Address", i => i.Address),
        new("State", i => i.State),
        new("Name", i => i.Name, 3),
        new("Kind", i => i.Kind, 1),
        new("Role", i => i.Role, 5),
        new("Organisation", i => i.Organisation, 6),
        new("Until", i => i.Until is { } day ? Texts.Plain(day) : "no end", 4),
        new(
            "Answer by",
            i => i.State is "queued" or "sent" ? Texts.Day(Texts.DayOf(i.Deadline), Texts.Today) : "–",
            2
        ),
        new("Id", i => i.Id.ToString(), 7)
    );

    private static void Describe(InvitationView invitation)
    {
        Console.WriteLine($"{invitation.Address}  {invitation.Name}");
        var facts = new Beside();
        facts.Add("State", invitation.State);
        facts.Add("Mail", invitation.Delivery?.Sentence);
        facts.Add(
            "As",
            $"{invitation.Kind}, role {invitation.Role}, "
                + (invitation.From is { } first ? $"from {Texts.Day(first, Texts.Today)}, " : "")
                + (invitation.Until is { } day ? $"until {Texts.Day(day, Texts.Today)}" : "no end date")
        );
        facts.Add(
            "Known as",
            string.Join(
                ", ",
                new[]
                {
                    invitation.Title,
                    invitation.Department,
                    invitation.Organisation,
                    invitation.Country,
                }.Where(t => t.Length > 0)
            )
        );
        facts.Add("Host", invitation.Host);
        if (invitation.HandedBy.Length > 0)
            facts.Add("Link", $"handed over by {invitation.HandedBy}: it proves no mailbox");
        facts.Add("Came as", invitation.CameAs);
        facts.Add("Note", invitation.Note);
        facts.Add(
            "Invited",
            $"{Texts.Instant(invitation.CreatedAt)} by {invitation.InvitedBy}, sent again {invitation.Resends} times, reminded of {invitation.Reminders} times"
        );
        facts.Add("Seen", Texts.Instant(invitation.SeenAt));
        facts.Add("Answered", Texts.Instant(invitation.AnsweredAt));
        facts.Add("Answer by", $"{Texts.Instant(invitation.Deadline)} ({Texts.Zone.Id})");
        if (invitation.NextReminderAt is { } reminder)
            facts.Add("Reminder", Texts.Instant(reminder));
        facts.Add("Id", invitation.Id.ToString());
        facts.Add("Message", invitation.Message);
        facts.Print();
    }
}
