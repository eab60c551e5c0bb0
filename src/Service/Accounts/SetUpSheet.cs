using System.Net;
using ComeAboard.Service.Mail;
using QRCoder;

namespace ComeAboard.Service.Accounts;

/// <summary>The sheet by which somebody sets up an account that was made for them: to print, and to hand over.</summary>
public static class SetUpSheet
{
    /// <summary>Writes it as an HTML document that needs nothing else.</summary>
    public static string Write(
        Phrases phrases,
        string workspace,
        string name,
        string address,
        string link,
        string until
    )
    {
        using var code = QRCodeGenerator.GenerateQrCode(link, QRCodeGenerator.ECCLevel.M);
        var picture = new SvgQRCode(code).GetGraphic(
            8,
            "#000000",
            "#ffffff",
            true,
            SvgQRCode.SizingMode.ViewBoxAttribute
        );
        var words = phrases.Page;
        return $$"""
            <!doctype html>
            <html lang="{{phrases.Language}}">
            <meta charset="utf-8">
            <title>{{Text(string.Format(null, words.SheetTitle, name))}}</title>
            <style>
            body { font: 12pt/1.5 system-ui, sans-serif; max-width: 17cm; margin: 2cm auto; padding: 0 1cm; color: #000; }
            svg { width: 5cm; height: 5cm; } code { overflow-wrap: anywhere; } h1 { font-size: 18pt; }
            @page { size: A4; margin: 2cm; } @media print { body { margin: 0 auto; padding: 0; } }
            </style>
            <p>{{Text(workspace)}}</p>
            <h1>{{Text(string.Format(null, words.SheetTitle, name))}}</h1>
            <p>{{Text(string.Format(null, words.SheetHow, address))}}</p>
            {{picture}}
            <p><code>{{Text(link)}}</code></p>
            <p>{{Text(string.Format(null, words.SheetUntil, until))}}</p>
            </html>
            """;
    }

    private static string Text(string text) => WebUtility.HtmlEncode(text);
}
