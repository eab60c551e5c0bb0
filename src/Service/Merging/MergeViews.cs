using ComeAboard.Client.Accounts;
using ComeAboard.Core.Merging;
using ComeAboard.Storage.Accounts;

namespace ComeAboard.Service.Merging;

/// <summary>Merges as they go over the wire.</summary>
public static class MergeViews
{
    /// <summary>One that was just planned or done.</summary>
    /// <param name="deal">What was merged.</param>
    /// <param name="done">What it came to.</param>
    /// <param name="because">Why the one stays that stays; empty where it was said.</param>
    /// <param name="at">When it was done; null where it was only planned.</param>
    public static MergeView Of(MergeDeal deal, MergeDone done, string because, DateTimeOffset? at)
    {
        var own = done.Own;
        return new MergeView(
            at is null ? null : deal.Id,
            own?.Kept ?? new MergedView(null, deal.Kept.Name, deal.Kept.Address),
            own?.Gone ?? new MergedView(null, deal.Gone.Name, deal.Gone.Address),
            because,
            FieldsOf(own?.Plan),
            StepsOf(own?.Plan?.Steps ?? []),
            own?.Plan?.Losses ?? [],
            deal.Stop?.Code == "merge.not-held" ? 0 : done.Places.Count,
            NotesOf(done),
            own?.TwoCapacities,
            done.No?.ToProblem(),
            at,
            at + AccountMerge.Grace,
            "",
            null
        )
        {
            CanBeUndone = at is not null,
        };
    }

    /// <summary>One that was done earlier, as it is kept.</summary>
    public static MergeView Of(MemberMergeRow row, DateTimeOffset now, IReadOnlyList<string>? notes = null) =>
        new(
            row.Id,
            new MergedView(row.KeptId, row.KeptName, row.KeptAddress),
            new MergedView(row.GoneId, row.GoneName, row.GoneAddress),
            "",
            [],
            StepsOf(MergeDeeds.Read(row.Steps)),
            [],
            0,
            notes ?? [],
            null,
            null,
            row.At,
            row.Merge.Until,
            row.ByName,
            row.UndoneAt
        )
        {
            CanBeUndone = row.IsOwn && row.Merge.ForbidsUndoing(now, default) is null,
        };

    /// <summary>The fields side by side.</summary>
    public static IReadOnlyList<MergeFieldView> FieldsOf(MergePlan? plan) =>
        [
            .. (plan?.Choices ?? []).Select(choice => new MergeFieldView(
                choice.Field.Word(),
                choice.Kept.Text,
                choice.Other.Text,
                choice.Chosen.Text,
                choice.Why,
                choice.Kept != choice.Other && MergeFields.Choosable.Contains(choice.Field)
            )),
        ];

    /// <summary>The steps.</summary>
    public static IReadOnlyList<MergeStepView> StepsOf(IReadOnlyList<MergeStep> steps) =>
        [
            .. steps.Select(step => new MergeStepView(
                step.Key,
                step.Deed.Word(),
                step.Sentence(),
                step.Gains,
                step.IsLeft
            )),
        ];

    /// <summary>What is to be known beside.</summary>
    private static List<string> NotesOf(MergeDone done)
    {
        var notes = new List<string>
        {
            "The ways in of the account that stays are those that count; those of the other rest.",
            "Its open sign-ins are closed. Both addresses lead to the one account.",
        };
        if (done.LosesSecondStep)
            notes.Add("The account that goes asks for a second step, the one that stays does not.");
        return notes;
    }
}
