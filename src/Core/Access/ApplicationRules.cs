namespace ComeAboard.Core.Access;

/// <summary>Applications that a workspace registers, to sign people in with us or to act by themselves (OAuth 2.0 calls them clients).</summary>
public static class ApplicationRules
{
    /// <summary>How many addresses an application may have of each sort.</summary>
    public const int MostAddresses = 10;

    private const int LongestAddress = 500;

    /// <summary>
    /// Reads an address to which people come back from signing in, or by which an application is told something. It is compared
    /// character by character later (RFC 9700 section 2.1), so that it has no parts that may vary. Refuses with
    /// <c>application.address-malformed</c> what is not of https, has a fragment (RFC 6749 section 3.1.2), a user or a
    /// star; http is taken on this machine only, for applications that listen there (RFC 8252 section 7.3).
    /// </summary>
    /// <param name="text">The address.</param>
    /// <param name="field">What it is given as, for the refusal.</param>
    public static Outcome<string> ReadAddress(string? text, string field)
    {
        var address = text?.Trim() ?? "";
        if (
            address.Length is > 0 and <= LongestAddress
            && address.All(c => c is > ' ' and < '\u007f' and not ('*' or '\\' or '#' or '"' or '<' or '>'))
            && Uri.TryCreate(address, UriKind.Absolute, out var read)
            && read.UserInfo.Length == 0
            && (read.Scheme == Uri.UriSchemeHttps || read.Scheme == Uri.UriSchemeHttp && read.IsLoopback)
        )
            return address;
        return new Refusal(
            "application.address-malformed",
            $"\"{Words.Short(address)}\" is not an address people can be sent to.",
            "Give the whole https address, without #, a user or a star; http only on this machine.",
            Field: field
        );
    }

    /// <summary>Whether a member may sign in to an application: with access above none to the resource it is; else <c>application.no-access</c>.</summary>
    /// <param name="world">Who may do what.</param>
    /// <param name="member">Who signs in.</param>
    /// <param name="resource">The resource that the application is.</param>
    /// <param name="day">The day, in the workspace's time zone.</param>
    /// <returns>Their level there.</returns>
    public static Outcome<Level> Admit(AccessWorld world, Guid member, Guid resource, DateOnly day)
    {
        if (EntryRules.Forbids(world, member, day) is { } cut)
            return cut;
        var level = world.Resources.TryGetValue(resource, out var found)
            ? world.LevelOf(member, Place.At(found), day)
            : Level.None;
        return level > Level.None
            ? level
            : new Refusal(
                "application.no-access",
                $"You have no access to {found?.Name ?? "it"}.",
                "Ask your host, or an administrator of the workspace.",
                RefusalSort.NotAllowed
            );
    }

    /// <summary>Refuses what would be no application: one that people cannot sign in to and that does nothing by itself, and halves of either.</summary>
    /// <param name="redirects">How many addresses people come back to.</param>
    /// <param name="isResource">Whether it is a resource of the workspace.</param>
    /// <param name="duties">The duties it may ask for.</param>
    /// <param name="actsFor">For whom it acts by itself; null for nobody.</param>
    public static Refusal? ForbidsShape(int redirects, bool isResource, Duties duties, Guid? actsFor)
    {
        if (redirects == 0 && actsFor is null)
            return new Refusal(
                "application.no-use",
                "Nobody could sign in to this application, and it would do nothing by itself.",
                "Give the address people come back to, or the member it acts for.",
                Field: "redirects"
            );
        if (redirects > 0 && !isResource)
            return new Refusal(
                "application.no-resource",
                "It is not said who may sign in to this application.",
                "Name the resource it is here: whoever has access there gets in.",
                Field: "resource"
            );
        return actsFor is not null && duties == Duties.None
            ? new Refusal(
                "application.no-duties",
                "An application that acts by itself needs duties to act with.",
                $"Give some of: {string.Join(", ", Duties.All.List())}.",
                Field: "duties"
            )
            : null;
    }

    /// <summary>
    /// Refuses to let an application have duties: <c>right.beyond-own</c> those that whoever registers it does not hold, and
    /// <c>right.acting-on</c> to let it act for somebody who holds more.
    /// </summary>
    /// <param name="world">Who may do what.</param>
    /// <param name="actor">Who registers it.</param>
    /// <param name="duties">The duties.</param>
    /// <param name="actsFor">For whom it acts by itself; null for nobody.</param>
    /// <param name="day">The day, in the workspace's time zone.</param>
    public static Refusal? Forbids(AccessWorld world, Guid actor, Duties duties, Guid? actsFor, DateOnly day)
    {
        if ((duties & ~world.DutiesOf(actor, day)) is var beyond and not Duties.None)
            return new Refusal(
                "right.beyond-own",
                $"An application would get duties you do not hold yourself: {string.Join(", ", beyond.List())}.",
                "Ask somebody who holds them.",
                RefusalSort.NotAllowed,
                "duties"
            );
        if (actsFor is not { } other)
            return null;
        if (GivingRules.ForbidsActingOn(world, actor, other, day) is { } more)
            return more;
        return (duties & ~world.DutiesHeldBy(other, day)) is var missing and not Duties.None
            ? new Refusal(
                "application.acts-beyond",
                $"The one it would act for does not hold these duties: {string.Join(", ", missing.List())}.",
                "Leave them out, or let it act for somebody who holds them.",
                RefusalSort.Conflict,
                "actsFor"
            )
            : null;
    }
}
