using System.CommandLine;
using ComeAboard.Client;
using ComeAboard.Client.Invitations;

namespace ComeAboard.Cli.Invitations;

/// <summary><c>aboard presets …</c></summary>
public static class PresetCommands
{
    private static readonly Argument<string> Preset = new("PRESET") { Description = "Its name or id" };
    private static readonly Option<string?> Name = new("--name") { Description = "Another name" };
    private static readonly Option<string?> Kind = new("--kind")
    {
        Description = "staff, guest, partner or client",
    };
    private static readonly Option<int?> StayDays = new("--stay-days")
    {
        Description = "How many days they may stay; 0 for no end",
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

    public static Command Make() =>
        new Command("presets", "What invitations carry again and again, under a name")
        {
            List(),
            Show(),
            Save("add", "Save a preset"),
            Save("change", "Change a preset; what is not said stays"),
            Remove(),
        };

    private static Command List()
    {
        var list = new Command("list", "List presets by name");
        Session.On(
            list,
            async (session, _, cancellation) =>
            {
                var found = (await session.Client.PresetsAsync(cancellation)).Items;
                if (session.Json)
                    foreach (var preset in found)
                        Session.Print(preset, WireJson.Default.PresetView);
                else if (found.Count == 0)
                    Console.WriteLine(
                        "There is no preset. Save one: aboard presets add \"visiting researcher\" --kind guest"
                    );
                else
                    Table.Print(found);
                return ExitStatus.Done;
            }
        );
        return list;
    }

    private static Command Show()
    {
        var show = new Command("show", "Show a preset") { Preset };
        Session.On(
            show,
            async (session, parsed, cancellation) =>
            {
                Print(session, await session.Client.PresetAsync(parsed.GetValue(Preset)!, cancellation));
                return ExitStatus.Done;
            }
        );
        return show;
    }

    private static Command Save(string verb, string description)
    {
        var isNew = verb == "add";
        var save = new Command(verb, description)
        {
            Preset,
            Kind,
            Giving.Role,
            Giving.Resource,
            Giving.Group,
            Giving.Seat,
            StayDays,
            Organisation,
            Message,
            Language,
            CommonOptions.DryRun,
        };
        if (!isNew)
            save.Options.Add(Name);
        Session.On(
            save,
            async (session, parsed, cancellation) =>
            {
                var name = parsed.GetValue(Preset)!;
                var before = isNew ? null : await session.Client.PresetAsync(name, cancellation);
                var days = parsed.GetValue(StayDays) ?? before?.StayDays;
                var request = new PresetRequest(
                    (isNew ? name : parsed.GetValue(Name)) ?? before!.Name,
                    parsed.GetValue(Kind)
                        ?? before?.Kind
                        ?? throw new UsageException("As what? Give --kind."),
                    null,
                    days == 0 ? null : days,
                    parsed.GetValue(Organisation) ?? before?.Organisation,
                    parsed.GetValue(Message) ?? before?.Message,
                    parsed.GetValue(Language) ?? before?.Language
                )
                {
                    Gives = Giving.Read(parsed, before?.Gives),
                };
                if (parsed.GetValue(CommonOptions.DryRun))
                {
                    Console.WriteLine(
                        $"Would be saved: {request.Name}: {request.Kind}, gives {Texts.Gives(request.Gives)}, {(request.StayDays is { } d ? $"{d} days" : "no end")}"
                    );
                    return ExitStatus.Done;
                }
                var saved = isNew
                    ? await session.Client.AddPresetAsync(request, cancellation)
                    : await session.Client.ChangePresetAsync(before!.Id.ToString(), request, cancellation);
                Print(session, saved);
                Session.Say($"Saved. Next: aboard invitations send ADDRESS --preset \"{saved.Name}\"");
                return ExitStatus.Done;
            }
        );
        return save;
    }

    private static Command Remove()
    {
        var remove = new Command("remove", "Remove a preset; invitations made with it stay")
        {
            Preset,
            CommonOptions.DryRun,
        };
        Session.On(
            remove,
            async (session, parsed, cancellation) =>
            {
                var preset = await session.Client.PresetAsync(parsed.GetValue(Preset)!, cancellation);
                if (parsed.GetValue(CommonOptions.DryRun))
                {
                    Console.WriteLine($"Would be removed: {preset.Name}");
                    return ExitStatus.Done;
                }
                await session.Client.RemovePresetAsync(preset.Id.ToString(), cancellation);
                Session.Say($"Removed: {preset.Name}");
                return ExitStatus.Done;
            }
        );
        return remove;
    }

    private static void Print(Session session, PresetView preset)
    {
        if (session.Json)
            Session.Print(preset, WireJson.Default.PresetView);
        else
            Table.Print([preset]);
    }
}
