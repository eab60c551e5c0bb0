using ComeAboard.Core.Access;
using Microsoft.EntityFrameworkCore;
using Microsoft.EntityFrameworkCore.Metadata.Builders;

namespace ComeAboard.Storage.Access;

/// <summary>What a change of rows makes stale in the picture of who may do what.</summary>
public enum AccessSubjectKind
{
    /// <summary>Roles, areas, resources, dependencies, pools, what is switched off, the workspace's own row: all of them are read again.</summary>
    Model,

    /// <summary>One member.</summary>
    Member,

    /// <summary>One group.</summary>
    Group,

    /// <summary>One organisation.</summary>
    Organisation,

    /// <summary>The API tokens.</summary>
    Tokens,
}

/// <summary>One such thing; the empty id where there is only one.</summary>
public readonly record struct AccessSubject(AccessSubjectKind Kind, Guid Id)
{
    public static AccessSubject Model => new(AccessSubjectKind.Model, default);
    public static AccessSubject Tokens => new(AccessSubjectKind.Tokens, default);

    public static AccessSubject Member(Guid id) => new(AccessSubjectKind.Member, id);
}

/// <summary>A row that decides about access: saving or removing it makes its subject stale.</summary>
public interface IAccessRow : ITenantRow
{
    AccessSubject Subject { get; }
}

/// <summary>One change of who may do what, for the picture of it that other processes keep.</summary>
public sealed class AccessChangeRow : ITenantRow
{
    public required Guid WorkspaceId { get; init; }
    public required long Version { get; init; }
    public required AccessSubjectKind Kind { get; init; }
    public required Guid SubjectId { get; init; }

    private sealed class Mapping : IEntityTypeConfiguration<AccessChangeRow>
    {
        public void Configure(EntityTypeBuilder<AccessChangeRow> row) =>
            row.ToTable("access_changes")
                .HasKey(c => new
                {
                    c.WorkspaceId,
                    c.Version,
                    c.Kind,
                    c.SubjectId,
                });
    }
}
