namespace ComeAboard.Core.Connections;

/// <summary>What is known of a member's account in a connected system before it is looked at.</summary>
/// <param name="Member">Whose.</param>
/// <param name="Profile">How they are written here.</param>
/// <param name="Wanted">What it is to be.</param>
/// <param name="Key">Its key there; empty while that is not known.</param>
/// <param name="IsOurs">Whether we made it.</param>
public sealed record KnownThere(
    Guid Member,
    ProfileThere Profile,
    WantedThere Wanted,
    string Key,
    bool IsOurs
);

/// <summary>What would be done to one account.</summary>
/// <param name="Known">Whose, and what it is to be.</param>
/// <param name="Held">What is there; null for nothing.</param>
/// <param name="IsOurs">Whether we made it.</param>
/// <param name="Steps">What would be done, in order.</param>
public sealed record SurveyedChange(
    KnownThere Known,
    HeldThere? Held,
    bool IsOurs,
    IReadOnlyList<ThereStep> Steps
)
{
    /// <summary>Whether an account that was there before us is taken for theirs.</summary>
    public bool IsTakenOver => Held is not null && !IsOurs;
}

/// <summary>A connected system, read whole, beside what it ought to hold.</summary>
/// <param name="Changes">What is otherwise than it ought to be.</param>
/// <param name="LeftOver">Accounts that are on and belong to nobody who has or had one by us.</param>
public sealed record Survey(IReadOnlyList<SurveyedChange> Changes, IReadOnlyList<HeldThere> LeftOver)
{
    /// <summary>Lays what is there beside what ought to be.</summary>
    /// <param name="known">Everybody who is to have something there, and everybody who had.</param>
    /// <param name="held">Everything that is there.</param>
    /// <param name="managed">The groups there that are ours to give and take.</param>
    public static Survey Of(
        IEnumerable<KnownThere> known,
        IReadOnlyList<HeldThere> held,
        IReadOnlySet<string> managed
    )
    {
        var byKey = held.ToDictionary(one => one.Key, StringComparer.Ordinal);
        var byMark = new Dictionary<Guid, HeldThere>();
        var byAddress = new Dictionary<string, HeldThere>(StringComparer.OrdinalIgnoreCase);
        foreach (var one in held)
        {
            if (Guid.TryParse(one.OurMark, out var marked))
                byMark.TryAdd(marked, one);
            else
                foreach (var address in one.Addresses.Append(one.SignInName))
                    byAddress.TryAdd(address, one);
        }
        var (changes, owned) = (new List<SurveyedChange>(), new HashSet<string>(StringComparer.Ordinal));
        foreach (var one in known)
        {
            var there =
                byKey.GetValueOrDefault(one.Key)
                ?? byMark.GetValueOrDefault(one.Member)
                ?? (
                    one.Wanted.Account == AccountThere.On
                        ? byAddress.GetValueOrDefault(one.Profile.Address)
                        : null
                );
            var isOurs =
                there is not null
                && (there.Key == one.Key ? one.IsOurs : Pairing.IsMarked(there, one.Member));
            if (there is not null)
                owned.Add(there.Key);
            var steps = ThereDifference.Between(one.Wanted, one.Profile, there, managed, isOurs);
            if (steps.Count > 0)
                changes.Add(new SurveyedChange(one, there, isOurs, steps));
        }
        return new Survey(changes, [.. held.Where(one => one.IsOn && !owned.Contains(one.Key))]);
    }
}
