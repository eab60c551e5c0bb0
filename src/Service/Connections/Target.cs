using ComeAboard.Core;
using ComeAboard.Core.Connections;

namespace ComeAboard.Service.Connections;

/// <summary>An outside system that access is carried out to.</summary>
public interface ITarget : IConnectionType
{
    /// <summary>
    /// After what time it is looked at once more whether what was closed is closed, where being asked at once is no proof; null
    /// where it is.
    /// </summary>
    TimeSpan? LooksAgainAfter => null;

    /// <summary>Whether it is only told what is to be, and cannot be asked what is.</summary>
    bool IsOnlyTold => false;

    /// <summary>Opens a way to it; what it takes to learn what it can do is done by that.</summary>
    /// <param name="access">Where it is, and how it is asked.</param>
    /// <param name="groups">The groups there that are ours to give and take.</param>
    /// <param name="stop">Breaks off.</param>
    /// <exception cref="TargetException">It cannot be used.</exception>
    Task<ITargetSession> OpenAsync(SourceAccess access, IReadOnlySet<string> groups, CancellationToken stop);
}

/// <summary>A way to an outside system while things are carried out there; all of it throws <see cref="TargetException"/> where it cannot be done.</summary>
public interface ITargetSession : IAsyncDisposable
{
    /// <summary>How many accounts are worked on side by side.</summary>
    int AtOnce { get; }

    /// <summary>Groups that are ours to give and take, and that are not there.</summary>
    Task<IReadOnlyList<string>> MissingAsync(CancellationToken stop);

    /// <summary>All accounts; of a system that is only told, what it was told.</summary>
    Task<IReadOnlyList<HeldThere>> AllAsync(CancellationToken stop);
}

/// <summary>A way to a system that is only told what is to be, and cannot be asked what is.</summary>
public interface ITellingSession : ITargetSession
{
    /// <summary>Tells what is to be of somebody's account; told twice of one wish, it is told the same, by the same id.</summary>
    /// <param name="member">Whose.</param>
    /// <param name="version">Which wish.</param>
    /// <param name="profile">How they are written here.</param>
    /// <param name="wanted">What is to be.</param>
    /// <param name="stop">Breaks off.</param>
    Task TellAsync(
        Guid member,
        int version,
        ProfileThere profile,
        WantedThere wanted,
        CancellationToken stop
    );

    /// <summary>Tells something that means nothing, to see whether it is taken.</summary>
    Task TryAsync(string by, CancellationToken stop);
}

/// <summary>
/// A way to a system that is asked what there is. Everything but <see cref="MakeAsync"/> may be done twice with the outcome of
/// once.
/// </summary>
public interface IAskedSession : ITargetSession
{
    /// <summary>Whether it removes accounts at all, as far as is known; one that does not has them switched off.</summary>
    bool Removes { get; }

    /// <summary>An account by its key; null when there is none.</summary>
    Task<HeldThere?> ReadAsync(string key, CancellationToken stop);

    /// <summary>The account of somebody whose key is not known; null when there is none: every account was looked at by then.</summary>
    Task<HeldThere?> FindAsync(Guid member, ProfileThere profile, CancellationToken stop);

    /// <summary>Makes an account; its key.</summary>
    Task<string> MakeAsync(Guid member, ProfileThere profile, CancellationToken stop);

    /// <summary>Does one thing to an account that is there.</summary>
    Task ApplyAsync(string key, ProfileThere profile, ThereStep step, CancellationToken stop);

    /// <summary>Forgets what was read before, so that what is read next is what is there now.</summary>
    void Forget();
}

/// <summary>What is wrong with carrying something out.</summary>
public enum Trouble
{
    /// <summary>It does not answer, or not as it should: everything that is due waits.</summary>
    Away,

    /// <summary>It asks to be left alone for some time: everything that is due waits.</summary>
    Busy,

    /// <summary>It does not let us do this: everything that is due waits.</summary>
    Barred,

    /// <summary>It says no to this one account; others go on.</summary>
    ThisOne,
}

/// <summary>Why something could not be carried out in an outside system.</summary>
/// <param name="trouble">What is wrong.</param>
/// <param name="sentence">Why, as a sentence.</param>
/// <param name="wait">How long it asks to be left alone.</param>
public sealed class TargetException(Trouble trouble, string sentence, TimeSpan? wait = null)
    : Exception(sentence)
{
    /// <summary>What is wrong.</summary>
    public Trouble Trouble => trouble;

    /// <summary>How long it asks to be left alone; null where it does not say.</summary>
    public TimeSpan? Wait => wait;
}

/// <summary>The outside systems that access is carried out to, by their type.</summary>
public sealed class Targets(IEnumerable<ITarget> all)
{
    /// <summary>All of them.</summary>
    public IEnumerable<ITarget> All => all;

    /// <summary>The system of a type; null where nothing is carried out to it.</summary>
    public ITarget? Find(string type) => all.FirstOrDefault(one => one.Type == type);
}
