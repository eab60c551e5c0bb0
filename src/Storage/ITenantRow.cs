namespace ComeAboard.Storage;

/// <summary>A row that belongs to one workspace; its workspace is the first column of its key and of every index.</summary>
public interface ITenantRow
{
    Guid WorkspaceId { get; init; }
}

/// <summary>A row that is listed newest first: ids grow with time.</summary>
public interface IListedRow : ITenantRow
{
    Guid Id { get; init; }
}

/// <summary>A row whose version grows with every change, so that nobody overwrites what they have not seen.</summary>
public interface IVersionedRow : ITenantRow
{
    int Version { get; set; }
}

/// <summary>A row with a name that is unique among its sort; the key is the form in which names are compared.</summary>
public interface INamedRow : IListedRow, IVersionedRow
{
    string Name { get; set; }
    string NameKey { get; set; }
}
