namespace ComeAboard.Client.Accounts;

/// <summary>Two accounts that are to become one.</summary>
/// <param name="Left">The address or id of the one.</param>
/// <param name="Right">The address or id of the other.</param>
/// <param name="Keep">The address or id of the one that stays; null for what is proposed.</param>
/// <param name="Take">The fields of which the other's value is taken: name, kind, organisation, stay, host, title, department, manager, country, note.</param>
/// <param name="WithGains">Whether everything is given that neither could do before.</param>
/// <param name="Gains">The keys of single steps that are done although they give what neither could do.</param>
public sealed record MergeRequest(
    string Left,
    string Right,
    string? Keep = null,
    IReadOnlyList<string>? Take = null,
    bool WithGains = false,
    IReadOnlyList<string>? Gains = null
);

/// <summary>A merge of two accounts: planned, done, or undone.</summary>
/// <param name="Id">Its id; null while it is only planned.</param>
/// <param name="Kept">The account that stays.</param>
/// <param name="Gone">The account that goes; its addresses lead to the one that stays.</param>
/// <param name="Because">Why that one stays, in words; empty where it was said.</param>
/// <param name="Fields">Every field of the two members here side by side; none where only one of them is a member.</param>
/// <param name="Steps">What is done here, step by step, and what is left undone as it would give what neither could do.</param>
/// <param name="Losses">What one of them could do here that the merged member cannot, in words.</param>
/// <param name="Elsewhere">In how many other workspaces the account that goes is a member: they are untouched, and told.</param>
/// <param name="Notes">What else is to be known, in sentences.</param>
/// <param name="TwoCapacities">That they may be two capacities of one person on purpose, in a sentence; null where they are not.</param>
/// <param name="Problem">Why it cannot be done; null where it can.</param>
/// <param name="At">When it was done.</param>
/// <param name="Until">The first instant at which it cannot be undone any more (exclusive end).</param>
/// <param name="By">Who did it; empty while it is only planned.</param>
/// <param name="UndoneAt">When it was undone; null while it stands.</param>
public sealed record MergeView(
    Guid? Id,
    MergedView Kept,
    MergedView Gone,
    string Because,
    IReadOnlyList<MergeFieldView> Fields,
    IReadOnlyList<MergeStepView> Steps,
    IReadOnlyList<string> Losses,
    int Elsewhere,
    IReadOnlyList<string> Notes,
    string? TwoCapacities,
    Problem? Problem,
    DateTimeOffset? At,
    DateTimeOffset? Until,
    string By,
    DateTimeOffset? UndoneAt
)
{
    /// <summary>Whether this workspace can undo it now.</summary>
    public bool CanBeUndone { get; init; }
}

/// <summary>One of two accounts that are merged.</summary>
/// <param name="Member">The member here; null where the account is held without being one.</param>
/// <param name="Name">The name.</param>
/// <param name="Address">The address.</param>
public sealed record MergedView(Guid? Member, string Name, string Address);

/// <summary>One field of two members side by side.</summary>
/// <param name="Field">name, kind, organisation, lead, stay, pause, host, title, department, manager, country or note.</param>
/// <param name="Kept">What stands there of the member who stays.</param>
/// <param name="Gone">What stands there of the other.</param>
/// <param name="Chosen">What stands there then.</param>
/// <param name="Why">Why, in words.</param>
/// <param name="CanBeTaken">Whether the other's value can be taken.</param>
public sealed record MergeFieldView(
    string Field,
    string Kept,
    string Gone,
    string Chosen,
    string Why,
    bool CanBeTaken
);

/// <summary>One step of a merge.</summary>
/// <param name="Key">By what it is opted for.</param>
/// <param name="Deed">field, switch-off, grant, group, seat, free-seat, guest, hosted-invitation, invitation, link, list, resource, former, token or program.</param>
/// <param name="Sentence">What is done, as a sentence.</param>
/// <param name="Gains">What the merged member could do by it that neither could before, in words.</param>
/// <param name="IsLeft">Whether it is left undone, as nobody opted for what it gives.</param>
public sealed record MergeStepView(
    string Key,
    string Deed,
    string Sentence,
    IReadOnlyList<string> Gains,
    bool IsLeft
);

/// <summary>To part two accounts again that were merged.</summary>
/// <param name="Account">An address of either, or the id of either member.</param>
public sealed record UnmergeRequest(string Account);
