using System.Text;
using System.Text.Encodings.Web;
using ComeAboard.Storage.Workspaces;

namespace ComeAboard.Service.Mail;

/// <summary>What a mail says, before it is laid out as text and as HTML.</summary>
/// <param name="Subject">The subject, one line.</param>
/// <param name="Paragraphs">The body.</param>
/// <param name="Small">Why this came, until when it counts, how to stop it.</param>
public sealed record LetterWords(
    string Subject,
    IReadOnlyList<string> Paragraphs,
    IReadOnlyList<string> Small
)
{
    public string Quote { get; init; } = "";
    public string QuotedBy { get; init; } = "";
    public string Code { get; init; } = "";
    public string Action { get; init; } = "";
    public string Link { get; init; } = "";
}

/// <summary>A mail laid out.</summary>
/// <param name="FromName">The name it comes from.</param>
/// <param name="ReplyTo">Where answers go, if elsewhere.</param>
/// <param name="ToName">The recipient's name; empty for none.</param>
/// <param name="Subject">The subject.</param>
/// <param name="Text">The text part.</param>
/// <param name="Html">The HTML part, equal in content.</param>
public sealed record Letter(
    string FromName,
    string? ReplyTo,
    string ToName,
    string Subject,
    string Text,
    string Html
)
{
    /// <summary>Where a mail program can ask that no more come (RFC 2369, RFC 8058); null where that means nothing.</summary>
    public string? StopLink { get; init; }
}

/// <summary>Lays letters out as text and as HTML of equal content; every word is encoded on its way into the HTML.</summary>
public static class LetterLayout
{
    private const string Soft = "color:#4a5a63";

    private const string OwnColour = "#0b5563";

    /// <summary>Lays out one letter of a workspace.</summary>
    public static Letter LayOut(LetterWords words, WorkspaceRow workspace, string toName, string language) =>
        new(
            workspace.SenderName,
            workspace.ReplyTo,
            toName,
            words.Subject,
            TextOf(words, workspace.Name),
            HtmlOf(words, workspace.Name, language, workspace.Colour ?? OwnColour)
        );

    private static string TextOf(LetterWords words, string workspace)
    {
        var text = new StringBuilder();
        foreach (var paragraph in words.Paragraphs)
            text.Append(paragraph).Append("\n\n");
        if (words.Quote.Length > 0)
            text.Append(
                $"{words.QuotedBy}\n\n> {words.Quote.Replace("\n", "\n> ", StringComparison.Ordinal)}\n\n"
            );
        if (words.Code.Length > 0)
            text.Append($"    {words.Code}\n\n");
        if (words.Link.Length > 0)
            text.Append($"{words.Action}:\n{words.Link}\n\n");
        foreach (var line in words.Small)
            text.Append(line).Append("\n\n");
        return text.Append($"-- \n{workspace}\n").ToString();
    }

    private static string HtmlOf(LetterWords words, string workspace, string language, string colour)
    {
        var body = new StringBuilder();
        body.Append(
            $"<p style=\"margin:0 0 20px;font-size:14px;letter-spacing:.04em;{Soft}\">{Text(workspace)}</p>\n"
        );
        foreach (var paragraph in words.Paragraphs)
            body.Append($"<p style=\"margin:0 0 16px\">{Text(paragraph)}</p>\n");
        if (words.Quote.Length > 0)
            body.Append(
                $"<p style=\"margin:0 0 4px;{Soft}\">{Text(words.QuotedBy)}</p>\n"
                    + "<blockquote style=\"margin:0 0 20px;padding:4px 0 4px 14px;border-left:3px solid #b9892e\">"
                    + $"{string.Join("<br>", words.Quote.Split('\n').Select(Text))}</blockquote>\n"
            );
        if (words.Code.Length > 0)
            body.Append(
                $"<p style=\"margin:0 0 20px;font:600 26px/1.2 'Courier New',monospace;letter-spacing:.18em\">{Text(words.Code)}</p>\n"
            );
        if (words.Link.Length > 0)
            body.Append(
                $"<p style=\"margin:24px 0 12px\"><a href=\"{Text(words.Link)}\" style=\"display:inline-block;padding:12px 22px;"
                    + $"background:{colour};color:#ffffff;text-decoration:none;font-weight:600\">{Text(words.Action)}</a></p>\n"
                    + $"<p style=\"margin:0 0 20px;font-size:13px;{Soft};word-break:break-all\">{Text(words.Link)}</p>\n"
            );
        body.Append($"<div style=\"border-top:1px solid #d8d2c4;padding-top:12px;font-size:13px;{Soft}\">\n");
        foreach (var line in words.Small)
            body.Append($"<p style=\"margin:0 0 6px\">{Text(line)}</p>\n");
        return $"""
            <!doctype html>
            <html lang="{Text(language)}">
            <head><meta charset="utf-8"><meta name="viewport" content="width=device-width"><title>{Text(
                words.Subject
            )}</title></head>
            <body style="margin:0;padding:24px 12px;background:#f4f1ea;color:#1b2a33;font:16px/1.55 'Segoe UI',Helvetica,Arial,sans-serif">
            <div style="max-width:560px;margin:0 auto;padding:28px 28px 20px;background:#fffdf8;border:1px solid #d8d2c4;border-top:6px solid {colour}">
            {body}</div>
            </div>
            </body>
            </html>

            """;
    }

    private static string Text(string text) => HtmlEncoder.Default.Encode(text);
}
