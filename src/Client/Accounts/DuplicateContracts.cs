namespace ComeAboard.Client.Accounts;

/// <summary>Two people here who may be one human, or of whom somebody said that they are two.</summary>
/// <param name="Left">The one who joined first.</param>
/// <param name="Right">The other.</param>
/// <param name="Verdict">same, likely or unlikely.</param>
/// <param name="Score">The probability that they are one, 0 to 1.</param>
/// <param name="Reasons">Why, in words, the strongest first.</param>
/// <param name="FoundAt">Since when it is written down.</param>
/// <param name="Distinct">Who said that they are two, or one on purpose; null for nobody.</param>
public sealed record DuplicateView(
    TwinView Left,
    TwinView Right,
    string Verdict,
    double Score,
    IReadOnlyList<string> Reasons,
    DateTimeOffset FoundAt,
    DistinctView? Distinct
);

/// <summary>One of two people who may be one human.</summary>
/// <param name="Id">Their id.</param>
/// <param name="Address">Their address here.</param>
/// <param name="Name">Their name here.</param>
/// <param name="Kind">staff, guest, partner or client.</param>
/// <param name="Organisation">Their organisation; empty for none.</param>
/// <param name="Title">Their job title; empty for none.</param>
/// <param name="JoinedAt">When they joined.</param>
/// <param name="LastSeenAt">When they were last here, give or take a few minutes; null for never.</param>
/// <param name="IsHeld">Whether the workspace holds their account.</param>
public sealed record TwinView(
    Guid Id,
    string Address,
    string Name,
    string Kind,
    string Organisation,
    string Title,
    DateTimeOffset JoinedAt,
    DateTimeOffset? LastSeenAt,
    bool IsHeld
);

/// <summary>That somebody said of two that they are two, or one in two capacities on purpose.</summary>
/// <param name="By">Who.</param>
/// <param name="At">When.</param>
/// <param name="Reason">Why; empty for no reason.</param>
/// <param name="OnPurpose">Whether they are one human after all, who is here in two capacities on purpose.</param>
public sealed record DistinctView(string By, DateTimeOffset At, string Reason, bool OnPurpose = false);

/// <summary>To say of two people that they are two, or to take that back.</summary>
/// <param name="Left">The address or id of the one.</param>
/// <param name="Right">The address or id of the other.</param>
/// <param name="Reason">Why; null for no reason.</param>
/// <param name="TakesBack">Whether it is not to hold any more.</param>
/// <param name="OnPurpose">Whether they are one human, who is here in two capacities on purpose: both stay as they are.</param>
public sealed record DistinctRequest(
    string Left,
    string Right,
    string? Reason = null,
    bool TakesBack = false,
    bool OnPurpose = false
);
