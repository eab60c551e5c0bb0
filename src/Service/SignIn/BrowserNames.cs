using ComeAboard.Core;

namespace ComeAboard.Service.SignIn;

/// <summary>Which browser somebody uses, for themselves to recognise it by; never for deciding anything.</summary>
public static class BrowserNames
{
    // Most browsers name others, too, so that the more particular name comes first.
    private static readonly (string Product, string Name)[] Browsers =
    [
        ("Edg/", "Edge"),
        ("OPR/", "Opera"),
        ("Firefox/", "Firefox"),
        ("FxiOS/", "Firefox"),
        ("CriOS/", "Chrome"),
        ("Chromium/", "Chromium"),
        ("Chrome/", "Chrome"),
        ("Safari/", "Safari"),
        ("curl/", "curl"),
    ];

    private static readonly (string Mark, string Name)[] Systems =
    [
        ("Android", "Android"),
        ("iPhone", "iPhone"),
        ("iPad", "iPad"),
        ("Windows", "Windows"),
        ("Macintosh", "macOS"),
        ("CrOS", "ChromeOS"),
        ("Linux", "Linux"),
    ];

    /// <summary>The browser in words: "Firefox, Linux"; the first product it names where it is none of the usual; empty when it says nothing.</summary>
    /// <param name="userAgent">What it says of itself (RFC 9110 section 10.1.5).</param>
    public static string Of(string userAgent)
    {
        var browser = Browsers.FirstOrDefault(b => userAgent.Contains(b.Product, StringComparison.Ordinal));
        var system = Systems.FirstOrDefault(s => userAgent.Contains(s.Mark, StringComparison.Ordinal));
        var name = browser.Name ?? Words.Short(userAgent.Split('/', ' ')[0]);
        return system.Name is null ? name : $"{name}, {system.Name}";
    }
}
