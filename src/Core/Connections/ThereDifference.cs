using System.Collections.Immutable;

namespace ComeAboard.Core.Connections;

/// <summary>An account in a connected system, as that system says.</summary>
/// <param name="Key">By what the system tells it apart.</param>
/// <param name="IsOn">Whether it can be used.</param>
/// <param name="SignInName">The name it is signed in with.</param>
/// <param name="Name">The name of its owner; empty where it says none.</param>
/// <param name="Groups">The groups it is in, as far as they were asked for.</param>
public sealed record HeldThere(
    string Key,
    bool IsOn,
    string SignInName,
    string Name,
    ImmutableSortedSet<string> Groups
)
{
    /// <summary>What we left there to know it again by; empty for nothing.</summary>
    public string OurMark { get; init; } = "";

    /// <summary>Its other addresses.</summary>
    public ImmutableArray<string> Addresses { get; init; } = [];

    /// <summary>Whether the system keeps an instant from which on an account cannot be used.</summary>
    public bool KeepsEnds { get; init; }

    /// <summary>That instant, exclusive; null for none.</summary>
    public DateTimeOffset? Ends { get; init; }

    /// <summary>What being off comes to there, as a part of a sentence.</summary>
    public string OffSaid { get; init; } = "the account is off";
}

/// <summary>How somebody is written there.</summary>
/// <param name="Address">Their address, which they sign in with.</param>
/// <param name="Name">Their name.</param>
public sealed record ProfileThere(string Address, string Name)
{
    /// <summary>From which instant on they have nothing there, for systems that keep that; null for no end.</summary>
    public DateTimeOffset? Ends { get; init; }
}

/// <summary>What is done to an account in a connected system; what closes comes before what opens.</summary>
public enum ThereDeed
{
    /// <summary>It is switched off.</summary>
    SwitchOff,

    /// <summary>It is taken out of a group.</summary>
    LeaveGroup,

    /// <summary>It is removed.</summary>
    Remove,

    /// <summary>It is made.</summary>
    Make,

    /// <summary>It is written as it is written here.</summary>
    Rewrite,

    /// <summary>It is switched on.</summary>
    SwitchOn,

    /// <summary>It is put into a group.</summary>
    JoinGroup,
}

/// <summary>One thing that is done to an account in a connected system.</summary>
/// <param name="Deed">What.</param>
/// <param name="Group">The group, where there is one; else empty.</param>
public readonly record struct ThereStep(ThereDeed Deed, string Group = "");

/// <summary>What lies between what an account is to be and what it is.</summary>
public static class ThereDifference
{
    /// <summary>The steps from what is there to what is to be there, in order; none where both are one.</summary>
    /// <param name="wanted">What is to be.</param>
    /// <param name="profile">How its owner is written here.</param>
    /// <param name="held">What is there; null for no account.</param>
    /// <param name="managed">The groups there that are ours to give and take; others are not touched.</param>
    /// <param name="isOurs">Whether we made it: what was there before us is switched off, never removed or written anew.</param>
    /// <param name="isTriedAgain">
    /// Whether it was tried before in vain: what is to be removed is then switched off first, so that nobody gets in by it where
    /// removing comes to nothing.
    /// </param>
    public static IReadOnlyList<ThereStep> Between(
        WantedThere wanted,
        ProfileThere profile,
        HeldThere? held,
        IReadOnlySet<string> managed,
        bool isOurs,
        bool isTriedAgain = false
    )
    {
        var steps = new List<ThereStep>();
        var isOn = wanted.Account == AccountThere.On;
        var isRemoved = wanted.Account == AccountThere.Gone && held is not null && isOurs;
        if (!isOn && held is { IsOn: true } && (!isRemoved || isTriedAgain))
            steps.Add(new ThereStep(ThereDeed.SwitchOff));
        if (held is not null)
            steps.AddRange(
                held.Groups.Where(group => managed.Contains(group) && !wanted.Groups.Contains(group))
                    .Select(group => new ThereStep(ThereDeed.LeaveGroup, group))
            );
        if (isRemoved)
            steps.Add(new ThereStep(ThereDeed.Remove));
        if (!isOn)
            return steps;
        if (held is null)
            steps.Add(new ThereStep(ThereDeed.Make));
        else
        {
            if (isOurs && !IsWritten(held, profile))
                steps.Add(new ThereStep(ThereDeed.Rewrite));
            if (!held.IsOn)
                steps.Add(new ThereStep(ThereDeed.SwitchOn));
        }
        steps.AddRange(
            wanted
                .Groups.Where(group => held?.Groups.Contains(group) != true)
                .Select(group => new ThereStep(ThereDeed.JoinGroup, group))
        );
        return steps;
    }

    /// <summary>Whether nobody gets in by an account any more.</summary>
    /// <param name="held">What is there; null for no account.</param>
    /// <param name="managed">The groups there that are ours to give and take.</param>
    public static bool IsClosed(HeldThere? held, IReadOnlySet<string> managed) =>
        held is null || !held.IsOn && !held.Groups.Any(managed.Contains);

    /// <summary>What an account there is.</summary>
    public static AccountThere StateOf(HeldThere? held) =>
        held is null ? AccountThere.Gone
        : held.IsOn ? AccountThere.On
        : AccountThere.Off;

    private static bool IsWritten(HeldThere held, ProfileThere profile) =>
        held.SignInName.Equals(profile.Address, StringComparison.OrdinalIgnoreCase)
        && (held.Name.Length == 0 || held.Name == profile.Name)
        && (!held.KeepsEnds || held.Ends == profile.Ends);
}

/// <summary>Steps in connected systems, in words.</summary>
public static class ThereWords
{
    /// <summary>The word of a deed: <c>switch-off</c>.</summary>
    public static string Word(this ThereDeed deed) =>
        deed switch
        {
            ThereDeed.LeaveGroup => "leave-group",
            ThereDeed.SwitchOff => "switch-off",
            ThereDeed.Remove => "remove",
            ThereDeed.Make => "make",
            ThereDeed.Rewrite => "rewrite",
            ThereDeed.SwitchOn => "switch-on",
            _ => "join-group",
        };

    /// <summary>The word of what an account is to be: <c>gone</c>, <c>off</c> or <c>on</c>.</summary>
    public static string Word(this AccountThere account) =>
        account switch
        {
            AccountThere.Gone => "gone",
            AccountThere.Off => "off",
            _ => "on",
        };

    /// <summary>What is done, as a part of a sentence: "put into the group Register".</summary>
    public static string Said(this ThereStep step) =>
        step.Deed switch
        {
            ThereDeed.LeaveGroup => $"taken out of the group {step.Group}",
            ThereDeed.SwitchOff => "switched off",
            ThereDeed.Remove => "removed",
            ThereDeed.Make => "made",
            ThereDeed.Rewrite => "written as here",
            ThereDeed.SwitchOn => "switched on",
            _ => $"put into the group {step.Group}",
        };
}
