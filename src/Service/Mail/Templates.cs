using System.Collections.Concurrent;
using System.Globalization;
using ComeAboard.Core;
using ComeAboard.Core.Invitations;
using DotLiquid;

namespace ComeAboard.Service.Mail;

/// <summary>
/// Fills in the wordings of mails. The language is Liquid, which can neither call code nor reach anything but the words
/// it is handed; loops, length and time are bounded, since the templates are written by users.
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
    private const int MostSteps = 200;
    private const int LongestTime = 250;
    private const int MostKept = 1000;

    private static readonly ConcurrentDictionary<string, Template> Parsed = new(StringComparer.Ordinal);

    // Anything that is not among the words would be silently empty; a wording that names one is refused instead.
    private static readonly Hash Sample = Hash.FromDictionary(
        Words.ToDictionary(word => word, word => (object)$"({word})")
    );

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
            string filled;
            try
            {
                filled = Fill(text, Sample, tolerant: false);
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
        return template.Render(
            new RenderParameters(CultureInfo.InvariantCulture)
            {
                LocalVariables = words,
                MaxIterations = MostSteps,
                Timeout = LongestTime,
                ErrorsOutputMode = tolerant ? ErrorsOutputMode.Suppress : ErrorsOutputMode.Rethrow,
            }
        );
    }

    private static Template Parse(string text)
    {
        var template = Template.Parse(text, SyntaxCompatibility.DotLiquid22a);
        template.MakeThreadSafe();
        return template;
    }

    private static Refusal Refuse(string code, string sentence, string field) =>
        new(
            "wording." + code,
            sentence,
            $"Write plain text with {{{{ … }}}} around these words: {string.Join(", ", Words)}.",
            Field: field
        );
}
