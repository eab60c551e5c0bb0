using ComeAboard.Client.Invitations;
using ComeAboard.Client.Workspaces;
using ComeAboard.Core;
using ComeAboard.Core.Access;
using ComeAboard.Core.Invitations;
using ComeAboard.Core.Workspaces;
using ComeAboard.Service.Invitations;
using ComeAboard.Service.Workspaces;
using ComeAboard.Storage;
using ComeAboard.Storage.Mail;
using Microsoft.EntityFrameworkCore;

namespace ComeAboard.Service.Mail;

/// <summary>A workspace's own wordings of its mails: seen, tried out, changed, and taken back to what ships.</summary>
public sealed class Wordings(
    Database database,
    WorkspaceWriter writer,
    ServiceSettings settings,
    TimeProvider clock
)
{
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

    /// <summary>The wording of each letter in each language: the workspace's own, or what ships.</summary>
    public async Task<Page<WordingView>> ListAsync(Visitor visitor)
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

    /// <summary>Replaces a wording that was looked at.</summary>
    public async Task<Outcome<WordingView>> ChangeAsync(
        Visitor visitor,
        string letter,
        string language,
        WordingRequest request,
        int? expected
    )
    {
        if (!Which(letter, language).Try(out var which, out var refusal))
            return refusal;
        if (!Templates.Read(request.Subject, request.Body).Try(out var wording, out refusal))
            return refusal;
        var word = WordOf(which.Letter);
        return await writer.WriteAsync<WordingView>(
            visitor.WorkspaceId,
            visitor.Caller,
            async write =>
            {
                if (!(await write.RequireAsync(Duties.Settings)).Try(out _, out var no))
                    return no;
                var row = await write.Rows.Wordings.FirstOrDefaultAsync(w =>
                    w.Letter == word && w.Language == which.Language
                );
                var before = row is null
                    ? Shipped(which.Letter, which.Language)
                    : new Wording(row.Subject, row.Body);
                if (expected is { } seen && seen != VersionOf(before))
                    return CommonRefusals.Stale;
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
    }

    /// <summary>Takes a wording back to what ships.</summary>
    public async Task<Outcome<bool>> RemoveAsync(Visitor visitor, string letter, string language)
    {
        if (!Which(letter, language).Try(out var which, out var refusal))
            return refusal;
        var word = WordOf(which.Letter);
        return await writer.WriteAsync<bool>(
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
    }

    /// <summary>The mail as it would come to the one who looks, with the wording that is being tried out.</summary>
    public Outcome<LetterView> Preview(
        Visitor visitor,
        string letter,
        string language,
        WordingRequest request
    )
    {
        if (!Which(letter, language).Try(out var which, out var refusal))
            return refusal;
        if (!Templates.Read(request.Subject, request.Body).Try(out var wording, out refusal))
            return refusal;
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
        var row = Offers
            .Read(wish, visitor.Workspace, visitor.World, clock.Now())
            .Value.ToRow(visitor.Workspace, me, me, clock.Now());
        var link = settings.Link("/i/" + Inviting.SecretPlaceholder);
        return ViewOf(
            Letters.Invitation(which.Letter, row, visitor.Workspace, visitor.World, wording, link),
            me.Address,
            settings
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
        new(
            WordOf(letter),
            language,
            wording.Subject,
            wording.Body,
            isOwn,
            Templates.Words,
            VersionOf(wording)
        );

    private static int VersionOf(Wording wording) => Versions.Of(wording.Subject, wording.Body);
}
