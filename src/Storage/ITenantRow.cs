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

/// <summary>Work that one process at a time does in the background, and another goes on with where that one dies.</summary>
public interface ILeasedRow : IListedRow
{
    /// <summary>Under which lease it is worked on.</summary>
    Guid? Lease { get; set; }

    /// <summary>Until when, by the database's clock; before that nobody else takes it up.</summary>
    DateTimeOffset? LeasedUntil { get; set; }

    /// <summary>When it was taken up last.</summary>
    DateTimeOffset? StartedAt { get; set; }

    /// <summary>How far it has come.</summary>
    int Position { get; set; }

    /// <summary>How far it had come when it was taken up last.</summary>
    int DoneAtStart { get; set; }

    /// <summary>How many times working on it failed since it last went on.</summary>
    int Tries { get; set; }
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
