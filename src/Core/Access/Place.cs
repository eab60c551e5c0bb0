namespace ComeAboard.Core.Access;

/// <summary>A part of the workspace's work.</summary>
/// <param name="Id">Its id.</param>
/// <param name="Name">Its name, unique in the workspace.</param>
/// <param name="HasPrivateEntries">Whether people below <see cref="Level.Edit"/> see only what they made themselves.</param>
public sealed record Area(Guid Id, string Name, bool HasPrivateEntries = false);

/// <summary>One thing in an area that people get access to.</summary>
/// <param name="Id">Its id.</param>
/// <param name="AreaId">The area it belongs to.</param>
/// <param name="Name">Its name, unique in the workspace.</param>
/// <param name="Owner">The member who owns it; null for nobody. Owning gives no access by itself.</param>
public sealed record Resource(Guid Id, Guid AreaId, string Name, Guid? Owner = null);

/// <summary>Where access is asked about: one resource, a whole area, or all areas that nothing names.</summary>
/// <param name="Area">The area; <see cref="Guid.Empty"/> for all that nothing names.</param>
/// <param name="Resource">The resource; null for what is given in the whole area.</param>
public readonly record struct Place(Guid Area, Guid? Resource)
{
    /// <summary>Every area that no role names, areas still to come included.</summary>
    public static Place Elsewhere => new(Guid.Empty, null);

    /// <summary>A resource.</summary>
    public static Place At(Resource resource) => new(resource.AreaId, resource.Id);

    /// <summary>A whole area.</summary>
    public static Place In(Area area) => new(area.Id, null);
}
