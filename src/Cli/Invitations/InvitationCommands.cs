using System.CommandLine;
using ComeAboard.Client;
using ComeAboard.Client.Invitations;

namespace ComeAboard.Cli.Invitations;

/// <summary><c>aboard invitations …</c></summary>
public static class InvitationCommands
{
    private static readonly Option<string?> State = new("--state")
    {
        Description = "pending, or one of queued, sent, accepted, declined, expired, revoked, bounced",
    };

    private static readonly Option<string?> Search = new("--search")
    {
        Description = "Any part of a name or address",
    };
    private static readonly Argument<string> Id = new("ID")
    {
        Description = "The invitation's id, or the address it went to",
    };
    private static readonly Argument<string[]> Ids = new("ID")
    {
        Description = "Ids of invitations, or the addresses they went to",
        Arity = ArgumentArity.OneOrMore,
    };

    public static Command Make()
    {
        var invitations = new Command("invitations", "Ask people in, and follow up");
        invitations.Subcommands.Add(SendCommand.Make());
        invitations.Subcommands.Add(List());
        invitations.Subcommands.Add(Show());
        invitations.Subcommands.Add(
            Step(
                "resend",
                "Send again with a new link; the old one dies",
                "Sent again to",
                "resent",
                client => client.ResendInvitationAsync
            )
        );
        invitations.Subcommands.Add(
            Step(
                "revoke",
                "Take back; the link dies",
                "Taken back:",
                "revoked",
                client => client.RevokeInvitationAsync
            )
        );
        invitations.Subcommands.Add(AcceptCommand.Make());
        return invitations;
    }

    private static Command List()
    {
        var list = new Command("list", "List invitations, newest first")
        {
            State,
            Search,
            CommonOptions.Limit,
        };
        Session.On(
            list,
            async (session, parsed, cancellation) =>
            {
                var (found, counts) = await FetchAsync(
                    session.Client,
                    parsed.GetValue(State),
                    parsed.GetValue(Search),
                    parsed.GetValue(CommonOptions.Limit),
                    cancellation
                );
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
                var id = await FindAsync(session.Client, parsed.GetValue(Id)!, cancellation);
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

    private static Command Step(
        string verb,
        string description,
        string done,
        string would,
        Func<AboardClient, Func<Guid, CancellationToken, Task<InvitationView>>> step
    )
    {
        var command = new Command(verb, description) { Ids, CommonOptions.DryRun };
        Session.On(
            command,
            async (session, parsed, cancellation) =>
            {
                var outcomes = new List<int>();
                foreach (var name in parsed.GetValue(Ids)!)
                {
                    try
                    {
                        var id = await FindAsync(session.Client, name, cancellation);
                        var isRehearsal = parsed.GetValue(CommonOptions.DryRun);
                        var invitation = isRehearsal
                            ? await session.Client.InvitationAsync(id, cancellation)
                            : await step(session.Client)(id, cancellation);
                        if (session.Json)
                            Session.Print(invitation, WireJson.Default.InvitationView);
                        else
                            Console.WriteLine(
                                isRehearsal
                                    ? $"Would be {would}: {invitation.Address}, which is {invitation.State} now"
                                    : $"{done} {invitation.Address} ({invitation.State})"
                            );
                        outcomes.Add(ExitStatus.Done);
                    }
                    catch (RefusedException refused)
                    {
                        outcomes.Add(session.Refuse(refused.Problem, name));
                    }
                }
                return ExitStatus.Of(outcomes);
            }
        );
        return command;
    }

    /// <summary>The id of an invitation named by its id, or by the address it last went to.</summary>
    private static async Task<Guid> FindAsync(
        AboardClient client,
        string name,
        CancellationToken cancellation
    )
    {
        if (Guid.TryParse(name, out var id))
            return id;
        var page = await client.InvitationsAsync(search: name, limit: 200, cancellation: cancellation);
        return page.Items.FirstOrDefault(i =>
                string.Equals(i.Address, name, StringComparison.OrdinalIgnoreCase)
            )?.Id
            ?? throw new RefusedException(
                new Problem
                {
                    Title = $"There is no invitation \"{name}\".",
                    Detail = "Look it up with aboard invitations list.",
                    Code = "not-found",
                    Status = 404,
                }
            );
    }

    private static async Task<(
        IReadOnlyList<InvitationView> Found,
        IReadOnlyDictionary<string, long> Counts
    )> FetchAsync(
        AboardClient client,
        string? state,
        string? search,
        int limit,
        CancellationToken cancellation
    )
    {
        var found = new List<InvitationView>();
        InvitationPage page;
        string? cursor = null;
        do
        {
            page = await client.InvitationsAsync(
                state,
                search,
                cursor,
                Math.Clamp(limit - found.Count, 1, 200),
                cancellation
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
        new("Role", i => i.Role, 4),
        new("Until", i => i.Until is { } day ? Texts.Plain(day) : "no end", 5),
        new("Answer by", i => Texts.Day(DateOnly.FromDateTime(i.Deadline.UtcDateTime), Texts.Today), 2),
        new("Id", i => i.Id.ToString(), 6)
    );

    private static void Describe(InvitationView invitation)
    {
        Console.WriteLine($"{invitation.Address}  {invitation.Name}");
        Console.WriteLine($"  State      {invitation.State}");
        if (invitation.Delivery is { } delivery)
            Console.WriteLine($"  Mail       {delivery.Sentence}");
        Console.WriteLine(
            $"  As         {invitation.Kind}, role {invitation.Role}, {(invitation.Until is { } day ? $"until {Texts.Day(day, Texts.Today)}" : "no end date")}"
        );
        Console.WriteLine(
            $"  Invited    {Texts.Instant(invitation.CreatedAt)} UTC by {invitation.InvitedBy}, sent again {invitation.Resends} times"
        );
        Console.WriteLine($"  Seen       {Texts.Instant(invitation.SeenAt)}");
        Console.WriteLine($"  Answered   {Texts.Instant(invitation.AnsweredAt)}");
        Console.WriteLine($"  Answer by  {Texts.Instant(invitation.Deadline)} UTC");
        Console.WriteLine($"  Id         {invitation.Id}");
        if (invitation.Message.Length > 0)
            Console.WriteLine($"  Message    {invitation.Message.ReplaceLineEndings("\n             ")}");
    }
}
