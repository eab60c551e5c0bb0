using System.Collections.Concurrent;
using System.Globalization;
using ComeAboard.Core;
using ComeAboard.Core.Access;
using ComeAboard.Core.Invitations;
using ComeAboard.Core.Workspaces;
using DotLiquid;

namespace ComeAboard.Service.Mail;

/// <summary>
/// Fills in the wordings of mails. The language is Liquid, which can neither call code nor reach anything but the words
/// it is handed. The templates are written by users: of its tags and filters only a few are allowed, none of which loops or
/// matches patterns, and what they come to is bounded by its length – never by the clock, for a busy machine must not
/// change what is mailed.
/// </summary>
public static class Templates
{
    /// <summary>What a wording may put in.</summary>
    public static IReadOnlyList<string> Words { get; } =
    [
        "greeting",
        "name",
        "inviter",
        "workspace",
        "as_kind",
        "can",
        "stay",
        "deadline",
        "host",
        "organisation",
    ];

    // The record separator of ASCII, which no wording and no name can hold.
    private const char Between = '\u001e';
    private const int LongestSubject = 200;
    private const int LongestBody = 4000;
    private const int LongestOutput = 20_000;
    private const int MostKept = 1000;

    private static readonly ConcurrentDictionary<string, Template> Parsed = new(StringComparer.Ordinal);

    private static readonly HashSet<string> Tags = new(StringComparer.Ordinal)
    {
        "if",
        "elsif",
        "else",
        "endif",
        "unless",
        "endunless",
        "case",
        "when",
        "endcase",
        "comment",
        "endcomment",
    };

    private static readonly HashSet<string> Filters = new(StringComparer.Ordinal)
    {
        "upcase",
        "downcase",
        "capitalize",
        "append",
        "prepend",
        "default",
        "strip",
        "size",
    };

    // Anything that is not among the words would be silently empty; a wording that names one is refused instead. And since
    // a wording may say different things to different people, it is tried on every sort of them.
    private static readonly IReadOnlyList<Hash> Samples =
    [
        .. from language in Languages.All
        from kind in Enum.GetValues<Kind>()
        from has in Enumerable.Range(0, 16)
        select Sample(Phrases.Of(language), kind, has),
    ];

    private static Hash Sample(Phrases phrases, Kind kind, int has)
    {
        var (name, host, organisation) = ((has & 1) > 0, (has & 2) > 0, (has & 4) > 0);
        var last = (has & 8) > 0 ? new DateOnly(2027, 1, 31) : (DateOnly?)null;
        var words = new Dictionary<string, object>
        {
            ["greeting"] = phrases.Greeting(name ? "Ines Calloway" : ""),
            ["name"] = name ? "Ines Calloway" : "",
            ["inviter"] = "Mira Tollander",
            ["workspace"] = "The Lantern Tide",
            ["as_kind"] = phrases.AsKind(kind),
            ["can"] = phrases.RoleSentence(Role.View, kind),
            ["stay"] = phrases.StaySentence(new Core.Workspaces.Stay(last)),
            ["deadline"] = phrases.Instant(
                new DateTimeOffset(2027, 1, 1, 12, 0, 0, default),
                TimeZoneInfo.Utc
            ),
            ["host"] = host ? "Ilse Varga" : "",
            ["organisation"] = organisation ? "Saltmarsh University" : "",
        };
        return Hash.FromDictionary(words);
    }

    /// <summary>
    /// Reads a wording of a workspace's own; refuses with <c>wording.template</c>, <c>wording.too-long</c>,
    /// <c>wording.subject</c>, or as a message would be refused: it may hold no links.
    /// </summary>
    public static Outcome<Wording> Read(string? subject, string? body)
    {
        var wording = new Wording((subject ?? "").Trim(), (body ?? "").ReplaceLineEndings("\n").Trim());
        if (wording.Subject.Length is 0 or > LongestSubject)
            return Refuse("subject", $"The subject must have 1 to {LongestSubject} characters.", "subject");
        if (wording.Body.Length is 0 or > LongestBody)
            return Refuse("too-long", $"The body must have 1 to {LongestBody} characters.", "body");
        foreach (
            var (text, field) in ((string, string)[])[(wording.Subject, "subject"), (wording.Body, "body")]
        )
        {
            foreach (var sample in Samples)
            {
                string filled;
                try
                {
                    filled = Fill(text, sample, tolerant: false);
                }
                catch (Exception fault) when (fault is not OutOfMemoryException)
                {
                    return Refuse(
                        "template",
                        $"The template cannot be filled in: {fault.Message.TrimEnd('.')}.",
                        field
                    );
                }
                if (!PlainText.ReadMessage(filled).Try(out _, out var refusal))
                    return refusal with { Field = field };
                if (field == "subject" && filled.Contains('\n', StringComparison.Ordinal))
                    return Refuse("subject", "The subject must be one line.", "subject");
            }
        }
        return wording;
    }

    /// <summary>The paragraphs of a body, and a one-line subject, with the words put in.</summary>
    public static (string Subject, IReadOnlyList<string> Paragraphs) Fill(
        Wording wording,
        IReadOnlyDictionary<string, string> words
    )
    {
        var hash = Hash.FromDictionary(words.ToDictionary(word => word.Key, word => (object)word.Value));
        // Preparing to fill in costs more than filling in, so both are filled in at once.
        var filled = Fill(wording.Subject + Between + wording.Body, hash, true).ReplaceLineEndings("\n");
        var end = filled.IndexOf(Between, StringComparison.Ordinal);
        var subject = string.Join(' ', filled[..end].Split('\n', StringSplitOptions.TrimEntries));
        var paragraphs = filled[(end + 1)..]
            .Split("\n\n", StringSplitOptions.RemoveEmptyEntries | StringSplitOptions.TrimEntries);
        return (subject.Trim(), paragraphs);
    }

    private static string Fill(string text, Hash words, bool tolerant)
    {
        var template = Parsed.GetOrAdd(text, Parse);
        // Wordings are few; should somebody try out very many, the oldest need not be kept.
        if (Parsed.Count > MostKept)
            Parsed.Clear();
        using var output = new BoundedWriter(LongestOutput);
        template.Render(
            output,
            new RenderParameters(CultureInfo.InvariantCulture)
            {
                LocalVariables = words,
                ErrorsOutputMode = tolerant ? ErrorsOutputMode.Suppress : ErrorsOutputMode.Rethrow,
            }
        );
        return output.ToString();
    }

    private static Template Parse(string text)
    {
        if (Forbidden(text) is { } word)
            throw new FormatException($"\"{word}\" is not one of the words of templates here");
        var template = Template.Parse(text, SyntaxCompatibility.DotLiquid22a);
        template.MakeThreadSafe();
        return template;
    }

    /// <summary>The first tag or filter in a template that is not allowed; null when all are.</summary>
    private static string? Forbidden(string text)
    {
        for (var at = 0; (at = text.IndexOf('{', at)) >= 0 && at + 1 < text.Length; at++)
        {
            var isTag = text[at + 1] == '%';
            if (!isTag && text[at + 1] != '{')
                continue;
            var end = text.IndexOf(isTag ? "%}" : "}}", at + 2, StringComparison.Ordinal);
            var inside = text[(at + 2)..(end < 0 ? text.Length : end)];
            if (isTag && !Tags.Contains(WordAt(inside, 0)))
                return WordAt(inside, 0);
            var quote = '\0';
            for (var i = 0; i < inside.Length; i++)
            {
                if (quote != '\0')
                    quote = inside[i] == quote ? '\0' : quote;
                else if (inside[i] is '\'' or '"')
                    quote = inside[i];
                else if (inside[i] == '|' && !Filters.Contains(WordAt(inside, i + 1)))
                    return WordAt(inside, i + 1);
            }
        }
        return null;
    }

    private static string WordAt(string text, int from) =>
        new([
            .. text.Skip(from)
                .SkipWhile(c => char.IsWhiteSpace(c) || c == '-')
                .TakeWhile(c => char.IsLetterOrDigit(c) || c == '_'),
        ]);

    /// <summary>Takes so many characters and no more.</summary>
    private sealed class BoundedWriter(int most) : StringWriter(CultureInfo.InvariantCulture)
    {
        public override void Write(char value)
        {
            Check(1);
            base.Write(value);
        }

        public override void Write(string? value)
        {
            Check(value?.Length ?? 0);
            base.Write(value);
        }

        public override void Write(char[] buffer, int index, int count)
        {
            Check(count);
            base.Write(buffer, index, count);
        }

        private void Check(int more)
        {
            if (GetStringBuilder().Length + more > most)
                throw new FormatException($"it would be longer than {most} characters");
        }
    }

    private static Refusal Refuse(string code, string sentence, string field) =>
        new(
            "wording." + code,
            sentence,
            $"Write plain text with {{{{ … }}}} around these words: {string.Join(", ", Words)}.",
            Field: field
        );
}
