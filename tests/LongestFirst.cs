using Xunit.Sdk;
using Xunit.v3;

namespace ComeAboard.Scenes;

/// <summary>Classes of scenes that take longest begin first, so that no core is left waiting for the last of them.</summary>
public abstract class LongestFirst(params string[] longest) : ITestCollectionOrderer
{
    public IReadOnlyCollection<TTestCollection> OrderTestCollections<TTestCollection>(
        IReadOnlyCollection<TTestCollection> testCollections
    )
        where TTestCollection : ITestCollection => [.. testCollections.OrderBy(one => Place(one))];

    /// <summary>A class's collection is named after it.</summary>
    private int Place(ITestCollection collection)
    {
        var place = Array.FindIndex(
            longest,
            name => collection.TestCollectionDisplayName.Contains($".{name} ", StringComparison.Ordinal)
        );
        return place < 0 ? longest.Length : place;
    }
}
