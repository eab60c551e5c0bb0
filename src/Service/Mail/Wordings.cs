using ComeAboard.Client.Invitations;
using ComeAboard.Client.Workspaces;
using ComeAboard.Core;
using ComeAboard.Core.Access;
using ComeAboard.Core.Invitations;
using ComeAboard.Core.Workspaces;
using ComeAboard.Service.Http;
using ComeAboard.Service.Invitations;
using ComeAboard.Service.Workspaces;
using ComeAboard.Storage;
using ComeAboard.Storage.Invitations;
using Microsoft.EntityFrameworkCore;

namespace ComeAboard.Service.Mail;

/// <summary>A workspace's own wordings of its mails: seen, tried out, changed, and taken back to what ships.</summary>
public static class Wordings
{
    public static RouteGroupBuilder MapWordings(this RouteGroupBuilder workspace)
    {
        var wordings = workspace.MapGroup("/wordings").ForMembers(Duties.Settings);
        wordings.MapGet("", ListAsync).WithName("listWordings").Produces<Page<WordingView>>();
        wordings
            .MapPut("/{letter}/{language}", ChangeAsync)
            .WithName("changeWording")
            .Produces<WordingView>();
        wordings.MapDelete("/{letter}/{language}", RemoveAsync).WithName("removeWording").Produces(204);
        wordings
            .MapPost("/{letter}/{language}/preview", PreviewAsync)
            .WithName("previewWording")
            .Produces<LetterView>();
        return workspace;
    }

    /// <summary>The workspace's own wording of a letter in a language; null where it has none.</summary>
    public static async Task<Wording?> FindAsync(ComeAboardContext rows, WordedLetter letter, string language)
    {
        var word = WordOf(letter);
        return await rows
            .Wordings.Where(w => w.Letter == word && w.Language == language)
            .Select(w => new Wording(w.Subject, w.Body))
            .FirstOrDefaultAsync();
    }

    /// <summary>A letter as it is shown.</summary>
    public static LetterView ViewOf(Letter letter, string to, ServiceSettings settings) =>
        new(
            $"{letter.FromName} <{settings.Mail.From}>",
            letter.ReplyTo,
            to,
            letter.Subject,
            letter.Text,
            letter.Html
        );

    private static async Task<Page<WordingView>> ListAsync(Visitor visitor, Database database)
    {
        await using var rows = database.Open(visitor.WorkspaceId);
        var own = await rows.Wordings.AsNoTracking().ToDictionaryAsync(w => (w.Letter, w.Language));
        return new Page<WordingView>(
            [
                .. from letter in Enum.GetValues<WordedLetter>()
                from language in Languages.All
                select own.TryGetValue((WordOf(letter), language), out var row)
                    ? ViewOf(letter, language, new Wording(row.Subject, row.Body), true)
                    : ViewOf(letter, language, Shipped(letter, language), false),
            ],
            null
        );
    }

    private static async Task<IResult> ChangeAsync(
        Visitor visitor,
        string letter,
        string language,
        WordingRequest request,
        WorkspaceWriter writer
    )
    {
        if (!Which(letter, language).Try(out var which, out var refusal))
            return refusal.ToResult();
        if (!Templates.Read(request.Subject, request.Body).Try(out var wording, out refusal))
            return refusal.ToResult();
        var word = WordOf(which.Letter);
        var changed = await writer.WriteAsync<WordingView>(
            visitor.WorkspaceId,
            visitor.Caller,
            async write =>
            {
                if (!(await write.RequireAsync(Duties.Settings)).Try(out _, out var no))
                    return no;
                var row = await write.Rows.Wordings.FirstOrDefaultAsync(w =>
                    w.Letter == word && w.Language == which.Language
                );
                write.Record(
                    "wording.changed",
                    write.Workspace.Id,
                    ("letter", word),
                    ("language", which.Language),
                    ("subject before", row?.Subject),
                    ("subject after", wording.Subject),
                    ("body before", row?.Body),
                    ("body after", wording.Body)
                );
                if (row is null)
                    write.Rows.Wordings.Add(
                        new WordingRow
                        {
                            WorkspaceId = write.Workspace.Id,
                            Letter = word,
                            Language = which.Language,
                            Subject = wording.Subject,
                            Body = wording.Body,
                        }
                    );
                else
                    (row.Subject, row.Body) = (wording.Subject, wording.Body);
                return ViewOf(which.Letter, which.Language, wording, true);
            }
        );
        return changed.ToResult();
    }

    private static async Task<IResult> RemoveAsync(
        Visitor visitor,
        string letter,
        string language,
        WorkspaceWriter writer
    )
    {
        if (!Which(letter, language).Try(out var which, out var refusal))
            return refusal.ToResult();
        var word = WordOf(which.Letter);
        var removed = await writer.WriteAsync<bool>(
            visitor.WorkspaceId,
            visitor.Caller,
            async write =>
            {
                if (!(await write.RequireAsync(Duties.Settings)).Try(out _, out var no))
                    return no;
                var row = await write.Rows.Wordings.FirstOrDefaultAsync(w =>
                    w.Letter == word && w.Language == which.Language
                );
                if (row is null)
                    return true;
                write.Rows.Wordings.Remove(row);
                write.Record(
                    "wording.removed",
                    write.Workspace.Id,
                    ("letter", word),
                    ("language", which.Language)
                );
                return true;
            }
        );
        return removed.ToResult(_ => Results.NoContent());
    }

    /// <summary>The mail as it would come to the one who looks, with the wording that is being tried out.</summary>
    private static IResult PreviewAsync(
        Visitor visitor,
        string letter,
        string language,
        WordingRequest request,
        ServiceSettings settings,
        TimeProvider clock
    )
    {
        if (!Which(letter, language).Try(out var which, out var refusal))
            return refusal.ToResult();
        if (!Templates.Read(request.Subject, request.Body).Try(out var wording, out refusal))
            return refusal.ToResult();
        var me = visitor.Member;
        var wish = new InvitationWish(
            me.Address,
            "guest",
            Role.View.Name,
            me.Name,
            null,
            Days.Of(clock.Now(), visitor.Workspace.Zone).AddDays(30),
            which.Language
        );
        var row = Offering
            .Read(wish, null, visitor.Workspace, visitor.World, clock.Now())
            .Value.ToRow(visitor.Workspace, me, me, clock.Now(), new string('0', 64));
        var link = settings.Link("/i/" + Inviting.SecretPlaceholder);
        return Results.Ok(
            ViewOf(
                Letters.Invitation(which.Letter, row, visitor.Workspace, visitor.World, wording, link),
                me.Address,
                settings
            )
        );
    }

    private static Wording Shipped(WordedLetter letter, string language) =>
        letter == WordedLetter.Reminder ? Phrases.Of(language).Reminder : Phrases.Of(language).Invitation;

    private static Outcome<(WordedLetter Letter, string Language)> Which(string letter, string language)
    {
        if (!Enum.TryParse<WordedLetter>(letter, true, out var which) || !Enum.IsDefined(which))
            return CommonRefusals.NotFound;
        return Languages.Read(language).Try(out var tag, out _) ? (which, tag) : CommonRefusals.NotFound;
    }

    private static string WordOf(WordedLetter letter) => letter.ToString().ToLowerInvariant();

    private static WordingView ViewOf(WordedLetter letter, string language, Wording wording, bool isOwn) =>
        new(WordOf(letter), language, wording.Subject, wording.Body, isOwn, Templates.Words);
}
