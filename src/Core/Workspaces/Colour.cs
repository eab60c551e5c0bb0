using System.Globalization;

namespace ComeAboard.Core.Workspaces;

/// <summary>A colour that white letters can be read on: a contrast of at least 4.5 to 1 (WCAG 2.2, success criterion 1.4.3).</summary>
public sealed record Colour
{
    private const double LeastContrast = 4.5;

    private Colour(string text) => Text = text;

    /// <summary>The colour as #rrggbb in lower case.</summary>
    public string Text { get; }

    /// <summary>Reads #rrggbb; refuses with <c>colour.malformed</c> or <c>colour.too-light</c>.</summary>
    public static Outcome<Colour> Read(string? text)
    {
        var written = (text ?? "").Trim().ToLowerInvariant();
        if (
            written.Length != 7
            || written[0] != '#'
            || !int.TryParse(
                written.AsSpan(1),
                NumberStyles.AllowHexSpecifier,
                CultureInfo.InvariantCulture,
                out var rgb
            )
        )
            return new Refusal(
                "colour.malformed",
                $"\"{Words.Short(text)}\" is not a colour.",
                "Write it as #0b5563.",
                Field: "colour"
            );
        var contrast = 1.05 / (LuminanceOf(rgb) + 0.05);
        return contrast >= LeastContrast
            ? new Colour(written)
            : new Refusal(
                "colour.too-light",
                $"White letters cannot be read on {written}: the contrast is {contrast.ToString("0.0", CultureInfo.InvariantCulture)} to 1.",
                "Take a darker one, with at least 4.5 to 1.",
                Field: "colour"
            );
    }

    private static double LuminanceOf(int rgb) =>
        0.2126 * Linear(rgb >> 16) + 0.7152 * Linear((rgb >> 8) & 255) + 0.0722 * Linear(rgb & 255);

    private static double Linear(int channel)
    {
        var share = channel / 255.0;
        return share <= 0.04045 ? share / 12.92 : Math.Pow((share + 0.055) / 1.055, 2.4);
    }
}
