namespace ComeAboard.Core.Access;

/// <summary>The refusal for whoever lacks a duty.</summary>
public static class Rights
{
    /// <summary>Refuses with <c>right.missing</c>.</summary>
    public static Refusal Missing(Duties duty) =>
        new(
            "right.missing",
            $"Your role here does not include the duty \"{duty.ToString().ToLowerInvariant()}\".",
            "Ask an administrator of the workspace.",
            RefusalSort.NotAllowed
        );
}
