namespace ComeAboard.Client;

/// <summary>Something with a name that is unique among its sort, as it is looked at.</summary>
public interface INamedView
{
    /// <summary>Its id.</summary>
    Guid Id { get; }

    /// <summary>Its name.</summary>
    string Name { get; }

    /// <summary>The version to give back when it is changed.</summary>
    int Version { get; }
}
