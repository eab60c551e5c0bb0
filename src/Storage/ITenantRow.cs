namespace ComeAboard.Storage;

/// <summary>A row that belongs to one workspace; its workspace is the first column of its key and of every index.</summary>
public interface ITenantRow
{
    Guid WorkspaceId { get; }
}
