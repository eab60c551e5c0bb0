using ComeAboard.Core.Workspaces;

namespace ComeAboard.Core.Merging;

/// <summary>What sort of thing is done where two members of a workspace become one; in the order in which it is done.</summary>
public enum MergeDeed
{
    /// <summary>What is written down of the member who stays changes. Subject: that member. Name: the word of the field.</summary>
    Field,

    /// <summary>The member who stays is switched off for a resource, as the other was. Subject: the resource.</summary>
    SwitchOff,

    /// <summary>What was given to the other is given to the member who stays. Subject: the grant.</summary>
    Grant,

    /// <summary>The member who stays comes into a group of the other's. Subject: the group.</summary>
    Group,

    /// <summary>A seat of the other's passes to the member who stays. Subject: the pool.</summary>
    Seat,

    /// <summary>Both hold a seat of a pool: one of them is free. Subject: the pool.</summary>
    FreeSeat,

    /// <summary>The member who stays hosts whoever the other hosted. Subject: the guest's membership.</summary>
    Guest,

    /// <summary>The member who stays is the host of somebody who is invited. Subject: the invitation.</summary>
    HostedInvitation,

    /// <summary>An open invitation of the other's passes on. Subject: the invitation.</summary>
    Invitation,

    /// <summary>A join link of the other's passes on. Subject: the link.</summary>
    Link,

    /// <summary>A list that is sent in the other's name passes on. Subject: the list.</summary>
    List,

    /// <summary>A resource of the other's passes on. Subject: the resource.</summary>
    Resource,

    /// <summary>Somebody who was made one with the other before is one with the member who stays. Subject: that membership.</summary>
    Former,

    /// <summary>An API token of the other's does not count any more. Subject: the token.</summary>
    Token,

    /// <summary>A program that acts for the other stops. Subject: the application.</summary>
    Program,
}

/// <summary>What is written down in one place: words, and what they stand for.</summary>
/// <param name="Text">As it is read; empty for nothing.</param>
/// <param name="Id">What it stands for, where it is a thing; null otherwise.</param>
public sealed record FieldValue(string Text, Guid? Id = null)
{
    /// <summary>The stay, where it is one.</summary>
    public Stay? Stay { get; init; }

    /// <summary>Nothing.</summary>
    public static FieldValue Empty { get; } = new("");

    /// <summary>A stay.</summary>
    public static FieldValue Of(Stay stay) =>
        new(
            stay is { FirstDay: { } first, LastDay: { } last } ? $"{first:yyyy-MM-dd} to {last:yyyy-MM-dd}"
            : stay.FirstDay is { } from ? $"from {from:yyyy-MM-dd}"
            : stay.LastDay is { } until ? $"until {until:yyyy-MM-dd}"
            : "no end"
        )
        {
            Stay = stay,
        };
}

/// <summary>One step of a merge in a workspace: shown beforehand, done, kept, and undone, as the same value.</summary>
/// <param name="Deed">What is done.</param>
/// <param name="Subject">To what; see <see cref="MergeDeed"/>.</param>
/// <param name="Name">The name of it; of a grant, what it gives.</param>
public sealed record MergeStep(MergeDeed Deed, Guid Subject, string Name)
{
    /// <summary>Of a field: what stood there.</summary>
    public FieldValue? Before { get; init; }

    /// <summary>Of a field: what stands there then.</summary>
    public FieldValue? After { get; init; }

    /// <summary>Of a grant: the one that is made.</summary>
    public Guid? Made { get; init; }

    /// <summary>Of a grant: for how long it is given, never longer than it counted for the other.</summary>
    public Stay? Window { get; init; }

    /// <summary>Of a seat that is freed: since when the other held it.</summary>
    public DateTimeOffset? Since { get; init; }

    /// <summary>Of a seat that is freed: whether it was held because the workspace holds the account.</summary>
    public bool ForCustody { get; init; }

    /// <summary>What the member who stays could do by it that neither could before; nothing for no gain.</summary>
    public IReadOnlyList<string> Gains { get; init; } = [];

    /// <summary>Whether it is left undone, as it would give what neither could do, and nobody opted for that.</summary>
    public bool IsLeft { get; init; }

    /// <summary>By what it is opted for: <c>group:</c> and the subject, <c>field:</c> and the name.</summary>
    public string Key => $"{Deed.Word()}:{(Deed == MergeDeed.Field ? Name : Subject)}";
}

/// <summary>Merges in words.</summary>
public static class MergeWords
{
    /// <summary>The word of a deed: <c>free-seat</c>.</summary>
    public static string Word(this MergeDeed deed) =>
        deed switch
        {
            MergeDeed.SwitchOff => "switch-off",
            MergeDeed.FreeSeat => "free-seat",
            MergeDeed.HostedInvitation => "hosted-invitation",
            _ => deed.ToString().ToLowerInvariant(),
        };

    /// <summary>What is done, as a sentence.</summary>
    public static string Sentence(this MergeStep step) =>
        step.Deed switch
        {
            MergeDeed.Field when step.Name == MergeField.Lead.Word() => step.After!.Text.Length == 0
                ? "Not the lead of an organisation any more."
                : "Lead of the organisation, as the other is.",
            MergeDeed.Field => step.After!.Text.Length == 0
                ? $"The {step.Name} \"{step.Before!.Text}\" is left out."
                : $"The {step.Name} becomes \"{step.After.Text}\"{(step.Before!.Text.Length == 0 ? "" : $", instead of \"{step.Before.Text}\"")}.",
            MergeDeed.SwitchOff => $"Switched off for {step.Name}, as the other was.",
            MergeDeed.Grant => $"{step.Name}{Until(step.Window)}.",
            MergeDeed.Group => $"In the group {step.Name}.",
            MergeDeed.Seat => $"The other's seat of {step.Name}.",
            MergeDeed.FreeSeat => $"Both hold a seat of {step.Name}: one of them is free.",
            MergeDeed.Guest => $"Host of {step.Name}.",
            MergeDeed.HostedInvitation => $"Host of {step.Name}, who is invited.",
            MergeDeed.Invitation => $"The open invitation to {step.Name}.",
            MergeDeed.Link => $"The join link \"{step.Name}\".",
            MergeDeed.List => $"The list \"{step.Name}\" that is being sent.",
            MergeDeed.Resource => $"Owner of {step.Name}.",
            MergeDeed.Former => $"{step.Name}, who was made one with the other before.",
            MergeDeed.Token => $"The API token \"{step.Name}\" of the other does not count any more.",
            _ => $"The program {step.Name} acts for the other, and stops.",
        };

    private static string Until(Stay? window) =>
        window is { IsEndless: true, FirstDay: null } or null ? "" : ", " + FieldValue.Of(window.Value).Text;
}
