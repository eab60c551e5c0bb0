namespace ComeAboard.Core.Access;

/// <summary>
/// What an outside system asks: may this person do this with this resource now. The actions are the words of the levels,
/// so that asking <c>edit</c> asks whether they hold <see cref="Level.Edit"/> or more there; about the whole workspace the
/// words of the duties can be asked too.
/// </summary>
public static class Decision
{
    /// <summary>Decides about one entry of a resource, or about the resource itself.</summary>
    /// <param name="held">The level the person holds at the resource.</param>
    /// <param name="asked">The level the action stands for; not <see cref="Level.None"/>.</param>
    /// <param name="madeByThem">Whether the entry was made by the person; null when no entry is asked about.</param>
    /// <param name="isPrivate">Whether the area keeps entries private to those who made them, below <see cref="Level.Edit"/>.</param>
    public static bool Allows(Level held, Level asked, bool? madeByThem, bool isPrivate)
    {
        if (held == Level.None)
            return false;
        return madeByThem switch
        {
            null => held >= asked,
            // Whoever contributes changes what they made; seeing what others made is barred in private areas.
            true => held >= asked || held >= Level.Contribute && asked <= Level.Edit,
            false => held >= asked
                && (held >= Level.Edit || !isPrivate)
                && (held >= Level.Edit || asked != Level.Contribute),
        };
    }
}
