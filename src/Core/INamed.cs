namespace ComeAboard.Core;

/// <summary>Something with a name that is unique among its sort in a workspace, as <see cref="Names.KeyOf"/> compares names.</summary>
public interface INamed
{
    /// <summary>The name, as it is shown.</summary>
    string Name { get; }
}
