using System.CommandLine;
using ComeAboard.Client;
using ComeAboard.Client.Invitations;

namespace ComeAboard.Cli.Invitations;

/// <summary><c>aboard invitations accept</c>: for the invitee, at a terminal.</summary>
public static class AcceptCommand
{
    private static readonly Argument<string> Link = new("LINK") { Description = "The link from the mail" };
    private static readonly Option<string?> Name = new("--name")
    {
        Description = "Your name, for a new account",
    };
    private static readonly Option<string?> Address = new("--address")
    {
        Description = "The address of an account you have already",
    };
    private static readonly Option<string?> Code = new("--code") { Description = "The code that was mailed" };
    private static readonly Option<string?> ComeAs = new("--come-as")
    {
        Description =
            "For a link that was handed over: the address of your new account, if not the invited one",
    };
    private static readonly Option<bool> SendCode = new("--send-code")
    {
        Description = "Have a code mailed that shows the mailbox is yours",
    };

    public static Command Make()
    {
        var accept = new Command("accept", "Accept an invitation you were sent")
        {
            Link,
            Name,
            Address,
            Code,
            ComeAs,
            SendCode,
            Passwords.FromStdin,
            CommonOptions.DryRun,
        };
        Session.On(accept, AcceptAsync);
        return accept;
    }

    private static async Task<int> AcceptAsync(
        Session session,
        ParseResult parsed,
        CancellationToken cancellation
    )
    {
        if (
            !Uri.TryCreate(parsed.GetValue(Link), UriKind.Absolute, out var link)
            || !link.AbsolutePath.StartsWith("/i/", StringComparison.Ordinal)
        )
            throw new UsageException("LINK must be the whole link from the mail, beginning with http.");
        var secret = link.AbsolutePath["/i/".Length..];
        using var client = Session.Anonymous(new Uri(link.GetLeftPart(UriPartial.Authority) + "/"));
        if (parsed.GetValue(CommonOptions.DryRun))
            return Tell(session, await client.ReadLinkAsync(secret, cancellation));

        var (address, comeAs) = (parsed.GetValue(Address), parsed.GetValue(ComeAs));
        if (parsed.GetValue(SendCode))
        {
            var held = address is null ? null : Passwords.Read(parsed, $"Password of {address}");
            await client.AskCodeAsync(new CodeRequest(secret, address, held, comeAs), cancellation);
            Session.Say(
                $"A code is on its way to {comeAs ?? "the invited address"}. Next: the same command with --code in place of --send-code."
            );
            return ExitStatus.Done;
        }
        if (address is null && parsed.GetValue(Name) is null)
            throw new UsageException("Give --name for a new account, or --address for one you have.");
        var password = Passwords.Read(
            parsed,
            address is null ? "Choose a password" : $"Password of {address}"
        );
        var joined = await client.AcceptAsync(
            new AcceptRequest(
                secret,
                password,
                parsed.GetValue(Name),
                address,
                parsed.GetValue(Code),
                comeAs
            ),
            cancellation
        );
        if (session.Json)
            Session.Print(joined, WireJson.Default.AcceptAnswer);
        else if (joined.MemberId is null)
            Console.WriteLine(
                $"Your answer is kept, {joined.Name}: somebody at {joined.Workspace} has to approve it before you are in. You get a mail as soon as that is done."
            );
        else
            Console.WriteLine(
                $"Welcome aboard, {joined.Name}: you are in {joined.Workspace} as {joined.Kind}, "
                    + $"{(joined.Until is { } day ? $"until {Texts.Plain(day)}" : "with no end date")}. {joined.Allows}"
            );
        return ExitStatus.Done;
    }

    private static int Tell(Session session, LandingView offer)
    {
        if (session.Json)
        {
            Session.Print(offer, WireJson.Default.LandingView);
            return ExitStatus.Done;
        }
        Console.WriteLine($"{offer.InvitedBy} invites {offer.Address} to {offer.Workspace} as {offer.Kind}.");
        Console.WriteLine($"  Allows     {offer.Allows}");
        Console.WriteLine($"  Until      {(offer.Until is { } day ? Texts.Plain(day) : "no end date")}");
        if (offer.NeedsApproval)
            Console.WriteLine("  Approval   an acceptance takes effect when somebody there has approved it");
        if (offer.HandedBy.Length > 0)
            Console.WriteLine(
                $"  Link       handed over by {offer.HandedBy}; accepting asks for a mailed code"
            );
        Console.WriteLine($"  Answer by  {Texts.Instant(offer.Deadline)} ({Texts.Zone.Id})");
        if (offer.Message.Length > 0)
            Console.WriteLine($"  Message    {offer.Message.ReplaceLineEndings("\n             ")}");
        return ExitStatus.Done;
    }
}
