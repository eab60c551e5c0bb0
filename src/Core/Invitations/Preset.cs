using ComeAboard.Core.Access;
using ComeAboard.Core.Workspaces;

namespace ComeAboard.Core.Invitations;

/// <summary>What invitations carry again and again, saved under a name ("visiting researcher").</summary>
/// <param name="Name">Its name.</param>
/// <param name="Kind">As what people are invited.</param>
/// <param name="Gives">What they are given.</param>
/// <param name="StayDays">How many days they may stay, the first and the last included; null for no end.</param>
/// <param name="Organisation">Their organisation; empty for none.</param>
/// <param name="Message">The message; empty for none.</param>
/// <param name="Language">The language of the mail; null for the workspace's.</param>
public sealed record Preset(
    string Name,
    Kind Kind,
    Bundle Gives,
    int? StayDays,
    string Organisation,
    string Message,
    string? Language
) : INamed
{
    /// <summary>Whether no end is meant where no number of days is said.</summary>
    public bool NoEnd { get; init; }

    /// <summary>Reads a preset; the first fault found is the refusal.</summary>
    public static Outcome<Preset> Read(
        string? name,
        string? kind,
        BundleWish gives,
        int? stayDays,
        string? organisation,
        string? message,
        string? language,
        bool noEnd,
        AccessWorld world
    )
    {
        if (!PlainText.ReadName(name).Try(out var goodName, out var refusal))
            return refusal;
        if (goodName.Length == 0)
            return new Refusal("preset.name", "The preset has no name.", "Give it one.", Field: "name");
        if (!Kinds.Read(kind).Try(out var goodKind, out refusal))
            return refusal;
        if (!Bundle.Read(gives, world).Try(out var bundle, out refusal))
            return refusal;
        if (bundle.IsEmpty)
            return new Refusal(
                "preset.nothing",
                "The preset gives nothing.",
                "Choose a role or a group.",
                Field: "role"
            );
        if (stayDays is < 1 or > 18_250)
            return new Refusal(
                "preset.stay",
                "The stay must be 1 to 18250 days.",
                "Correct the number, or leave it out for no end.",
                Field: "stayDays"
            );
        if (!PlainText.ReadName(organisation).Try(out var goodOrganisation, out refusal))
            return refusal with { Field = "organisation" };
        if (
            !OrganisationRules.Find(world, goodOrganisation, asWritten: false).Try(out var found, out refusal)
        )
            return refusal;
        if (!PlainText.ReadMessage(message).Try(out var goodMessage, out refusal))
            return refusal;
        string? goodLanguage = null;
        if (!string.IsNullOrEmpty(language) && !Languages.Read(language).Try(out goodLanguage, out refusal))
            return refusal;
        return new Preset(goodName, goodKind, bundle, stayDays, found.Written, goodMessage, goodLanguage)
        {
            NoEnd = noEnd,
        };
    }

    /// <summary>Fills in what a wish does not say; what it says itself stays, and what it gives is given besides.</summary>
    /// <param name="wish">The wish.</param>
    /// <param name="today">Today in the workspace's time zone: where a stay of so many days begins, unless the wish says.</param>
    public InvitationWish Fill(InvitationWish wish, DateOnly today) =>
        wish with
        {
            Kind = wish.Kind ?? Kind.Word(),
            // What is chosen singly comes on top of what the preset gives.
            More = new BundleWish(
                [.. wish.More.Roles, .. Gives.ToWish().Roles],
                [.. wish.More.Groups, .. Gives.ToWish().Groups],
                [.. wish.More.Seats, .. Gives.ToWish().Seats]
            ),
            Until =
                wish.Until
                ?? (StayDays is { } days && !wish.NoEnd ? (wish.From ?? today).AddDays(days - 1) : null),
            NoEnd = wish.NoEnd || wish.Until is null && StayDays is null,
            Organisation = Said(wish.Organisation) ?? Said(Organisation),
            Message = Said(wish.Message) ?? Said(Message),
            Language = wish.Language ?? Language,
        };

    private static string? Said(string? text) => string.IsNullOrWhiteSpace(text) ? null : text;
}
