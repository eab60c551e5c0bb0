using System.CommandLine;
using ComeAboard.Client;
using ComeAboard.Client.Invitations;

namespace ComeAboard.Cli.Invitations;

/// <summary><c>aboard invitations send</c></summary>
public static class SendCommand
{
    private static readonly Argument<string[]> Addresses = new("ADDRESS")
    {
        Description = "Whom to invite",
        Arity = ArgumentArity.OneOrMore,
    };

    private static readonly Option<string?> Kind = new("--kind")
    {
        Description = "staff, guest, partner or client; needed unless a preset says it",
    };
    private static readonly Option<string?> Preset = new("--preset")
    {
        Description = "A preset that says what is not said here",
    };
    private static readonly Option<bool> Draft = new("--draft")
    {
        Description = "Keep as a draft; nothing is sent",
    };
    private static readonly Option<bool> Test = new("--test")
    {
        Description = "Send the exact mail to yourself; its link opens nothing",
    };
    private static readonly Option<string?> From = new("--from")
    {
        Description = "The first day of their stay, such as 2027-01-01",
    };
    private static readonly Option<string?> Host = new("--host")
    {
        Description = "The address of the member of the staff who answers for them",
    };
    private static readonly Option<string?> Organisation = new("--organisation")
    {
        Description = "The firm or body they belong to",
    };
    private static readonly Option<bool> OrganisationAsWritten = new("--organisation-as-written")
    {
        Description = "Keep the organisation as it is written, though nobody here knows it",
    };
    private static readonly Option<string?> GivenName = new("--given-name")
    {
        Description = "Their given name",
    };
    private static readonly Option<string?> FamilyName = new("--family-name")
    {
        Description = "Their family name",
    };
    private static readonly Option<string?> Department = new("--department")
    {
        Description = "Their department",
    };
    private static readonly Option<string?> Manager = new("--manager")
    {
        Description = "Whom they report to",
    };
    private static readonly Option<string?> Country = new("--country") { Description = "Their country" };
    private static readonly Option<bool> NoEnd = new("--no-end")
    {
        Description = "Their stay has no end; without it and --until it is as long as is usual for the kind",
    };
    private static readonly Option<string?> Title = new("--title") { Description = "Their job title" };
    private static readonly Option<string?> Note = new("--note")
    {
        Description = "A line to tell them apart, not shown to them",
    };
    private static readonly Option<string?> Name = new("--name") { Description = "Their name" };
    private static readonly Option<string?> Until = new("--until")
    {
        Description = "The last day of their stay, such as 2027-01-31",
    };
    private static readonly Option<string?> Message = new("--message")
    {
        Description = "A message in plain words, without links",
    };
    private static readonly Option<string?> Language = new("--language")
    {
        Description = "The language of the mail, such as en",
    };
    private static readonly Option<int?> AnswerDays = new("--answer-days")
    {
        Description = "How many days they have to answer, 1 to 365",
    };

    public static Command Make()
    {
        var send = new Command("send", "Invite people by mail")
        {
            Addresses,
            Kind,
            Name,
            Giving.Role,
            Giving.Resource,
            Giving.Group,
            Giving.Seat,
            Until,
            Message,
            Language,
            AnswerDays,
            Preset,
            From,
            Host,
            NoEnd,
            GivenName,
            FamilyName,
            Organisation,
            OrganisationAsWritten,
            Title,
            Department,
            Manager,
            Country,
            Note,
            Draft,
            Test,
            CommonOptions.DryRun,
        };
        Session.On(send, SendAsync);
        return send;
    }

    private static async Task<int> SendAsync(
        Session session,
        ParseResult parsed,
        CancellationToken cancellation
    )
    {
        var addresses = parsed.GetValue(Addresses)!;
        foreach (var personal in (Option<string?>[])[Name, GivenName, FamilyName])
            if (addresses.Length > 1 && parsed.GetValue(personal) is not null)
                throw new UsageException(
                    $"{personal.Name} is for one address; leave it out when inviting several."
                );
        if (parsed.GetValue(Kind) is null && parsed.GetValue(Preset) is null)
            throw new UsageException("As what? Give --kind staff, guest, partner or client, or --preset.");
        var outcomes = new List<int>();
        foreach (var address in addresses)
        {
            var request = new InvitationRequest(
                address,
                parsed.GetValue(Kind),
                Name: parsed.GetValue(Name),
                Message: parsed.GetValue(Message),
                Until: Texts.ReadDay(parsed.GetValue(Until), "--until"),
                Language: parsed.GetValue(Language),
                AnswerDays: parsed.GetValue(AnswerDays)
            )
            {
                Preset = parsed.GetValue(Preset),
                Gives = Giving.Read(parsed),
                Draft = parsed.GetValue(Draft),
                From = Texts.ReadDay(parsed.GetValue(From), "--from"),
                Host = parsed.GetValue(Host),
                NoEnd = parsed.GetValue(NoEnd),
                GivenName = parsed.GetValue(GivenName),
                FamilyName = parsed.GetValue(FamilyName),
                Organisation = parsed.GetValue(Organisation),
                OrganisationAsWritten = parsed.GetValue(OrganisationAsWritten),
                Department = parsed.GetValue(Department),
                Manager = parsed.GetValue(Manager),
                Country = parsed.GetValue(Country),
                Title = parsed.GetValue(Title),
                Note = parsed.GetValue(Note),
            };
            try
            {
                outcomes.Add(
                    parsed.GetValue(Test) ? await TestAsync(session, request, cancellation)
                    : parsed.GetValue(CommonOptions.DryRun)
                        ? await PreviewAsync(session, request, cancellation)
                    : await SendOneAsync(session, request, cancellation)
                );
            }
            catch (RefusedException refused) when (refused.Problem.Status is 409 or 422)
            {
                outcomes.Add(session.Refuse(refused.Problem, address));
                SuggestInstead(refused.Problem, address);
            }
        }
        var sent = outcomes.Count(status => status == ExitStatus.Done);
        if (parsed.GetValue(Draft))
            Session.Say(
                $"{sent} of {addresses.Length} kept as drafts. Next: aboard invitations list --state draft"
            );
        else if (!parsed.GetValue(CommonOptions.DryRun) && !parsed.GetValue(Test))
            Session.Say(
                $"{sent} of {addresses.Length} invited. Next: aboard invitations list --state pending"
            );
        return ExitStatus.Of(outcomes);
    }

    private static void SuggestInstead(Problem problem, string address)
    {
        if (problem.Code == "address.invited")
            Session.Say($"Instead: aboard invitations resend {address}");
        if (problem.Code == "address.bounced")
            Session.Say("Instead: aboard invitations correct ID --address RIGHT-ADDRESS");
        if (problem.Code == "organisation.unknown")
            Session.Say(
                "Instead: aboard organisations list, or --organisation-as-written if it is none of them"
            );
        if (problem.Code == "address.member")
            Session.Say($"Instead: aboard people show {address}");
    }

    private static async Task<int> SendOneAsync(
        Session session,
        InvitationRequest request,
        CancellationToken cancellation
    )
    {
        var invitation = await session.Client.SendInvitationAsync(
            request,
            Guid.NewGuid().ToString("N"),
            cancellation
        );
        if (session.Json)
            Session.Print(invitation, WireJson.Default.InvitationView);
        else
            Console.WriteLine(
                $"{(invitation.State == "draft" ? "Drafted" : "Invited")} {invitation.Address} as {invitation.Kind}, giving {invitation.Role}, "
                    + $"{(invitation.Until is { } day ? $"until {Texts.Plain(day)}" : "no end date")}; id {invitation.Id}"
            );
        return ExitStatus.Done;
    }

    private static async Task<int> TestAsync(
        Session session,
        InvitationRequest request,
        CancellationToken cancellation
    )
    {
        await session.Client.TestInvitationAsync(request, cancellation);
        Session.Say($"The mail for {request.Address} is on its way to you; {request.Address} gets nothing.");
        return ExitStatus.Done;
    }

    private static async Task<int> PreviewAsync(
        Session session,
        InvitationRequest request,
        CancellationToken cancellation
    )
    {
        var preview = await session.Client.PreviewInvitationAsync(request, cancellation);
        if (session.Json)
            Session.Print(preview, WireJson.Default.InvitationPreview);
        else if (preview.Letter is { } letter)
        {
            Console.WriteLine(
                preview.Ready
                    ? $"{request.Address}: {preview.Verdict}. This mail would go out:"
                    : $"{request.Address}: {preview.Verdict}. Nothing would go out; the mail would be:"
            );
            Console.WriteLine();
            Console.WriteLine($"  From     {letter.From}");
            Console.WriteLine($"  To       {letter.To}");
            Console.WriteLine($"  Subject  {letter.Subject}");
            Console.WriteLine();
            foreach (var line in letter.Text.TrimEnd().Split('\n'))
                Console.WriteLine("  " + line);
        }
        foreach (var note in preview.Notes)
            Session.Say($"{request.Address}: {note.Sentence}");
        if (preview.Suggestion is { } suggestion)
            Session.Say($"Was {suggestion} meant?");
        if (preview.Problem is not { } problem)
            return ExitStatus.Done;
        Session.Say($"{request.Address}: {problem.Title} {problem.Detail} [{problem.Code}]");
        return ExitStatus.Of(problem);
    }
}
