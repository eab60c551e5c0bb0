using System.CommandLine;
using ComeAboard.Client;
using ComeAboard.Client.Invitations;

namespace ComeAboard.Cli.Invitations;

/// <summary><c>aboard presets …</c></summary>
public static class PresetCommands
{
    private static readonly Argument<string> Preset = new("PRESET") { Description = "Its name or id" };
    private static readonly Option<string?> Kind = new("--kind")
    {
        Description = "staff, guest, partner or client",
    };
    private static readonly Option<bool> NoEnd = new("--no-end")
    {
        Description =
            "Stays have no end; without it and --stay-days they are as long as is usual for the kind",
    };
    private static readonly Option<int?> StayDays = new("--stay-days")
    {
        Description = "How many days they may stay, the first and the last included",
    };
    private static readonly Option<string?> Organisation = new("--organisation")
    {
        Description = "Their organisation",
    };
    private static readonly Option<string?> Message = new("--message") { Description = "The message" };
    private static readonly Option<string?> Language = new("--language")
    {
        Description = "The language of the mail",
    };

    private static readonly Listing<PresetView> Table = new(
        new("Name", p => p.Name),
        new("Kind", p => p.Kind),
        new("Gives", p => p.Role),
        new("Stay", p => p.StayDays is { } days ? $"{days} days" : "no end", 1),
        new("Organisation", p => p.Organisation, 3),
        new("Message", p => p.Message.Length > 40 ? p.Message[..39] + "…" : p.Message, 2)
    );

    private static readonly NamedCommands<PresetRequest, PresetView, PresetView> Presets = new(
        "preset",
        Preset,
        client => client.Presets,
        WireJson.Default.PresetView,
        WireJson.Default.PresetView
    );

    public static Command Make() =>
        new("presets", "What invitations carry again and again, under a name")
        {
            Presets.List(
                Table,
                "There is no preset. Save one: aboard presets add \"visiting researcher\" --kind guest",
                "presets?format=csv"
            ),
            Presets.Show(Print),
            Presets.AddAndChange(
                [
                    Kind,
                    Giving.Role,
                    Giving.Resource,
                    Giving.Group,
                    Giving.Seat,
                    StayDays,
                    NoEnd,
                    Organisation,
                    Message,
                    Language,
                ],
                Read,
                (preset, parsed) =>
                {
                    Print(preset);
                    Commands.Said(
                        parsed,
                        $"The preset {preset.Name} is kept.",
                        $"aboard invitations send ADDRESS --preset \"{preset.Name}\""
                    );
                }
            ),
            Presets.Remove("invitations"),
        };

    private static PresetRequest Read(ParseResult parsed, string name, PresetView? before)
    {
        var isWithoutEnd = parsed.GetValue(NoEnd);
        var days = parsed.GetValue(StayDays) ?? (isWithoutEnd ? null : before?.StayDays);
        return new PresetRequest(
            name,
            parsed.GetValue(Kind) ?? before?.Kind ?? throw new UsageException("As what? Give --kind."),
            null,
            days,
            parsed.GetValue(Organisation) ?? before?.Organisation,
            parsed.GetValue(Message) ?? before?.Message,
            parsed.GetValue(Language) ?? before?.Language
        )
        {
            Gives = Giving.Read(parsed, before?.Gives),
            NoEnd = isWithoutEnd || days is null && before is { StayDays: null },
        };
    }

    private static void Print(PresetView preset) => Table.Print([preset]);
}
