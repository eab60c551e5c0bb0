using ComeAboard.Core;
using ComeAboard.Core.Access;
using Microsoft.EntityFrameworkCore;
using Microsoft.EntityFrameworkCore.Metadata.Builders;

namespace ComeAboard.Storage.Applications;

/// <summary>
/// An application that a workspace has registered: one that people sign in to with us, or one that acts by itself. What the
/// protocol needs of it is the <see cref="OAuthClientRow"/> with the same id.
/// </summary>
public sealed class ApplicationRow : ITenantRow
{
    public required Guid WorkspaceId { get; init; }
    public required Guid Id { get; init; }

    /// <summary>What people know it by.</summary>
    public required string Name { get; set; }

    /// <summary>The name in lower case, of which there is one in a workspace.</summary>
    public required string NameKey { get; set; }

    /// <summary>The resource it is here: whoever has access above none there may sign in to it. Null for an application nobody signs in to.</summary>
    public Guid? ResourceId { get; set; }

    /// <summary>The duties it may ask for, as scopes.</summary>
    public required Duties Duties { get; set; }

    /// <summary>The member in whose name it acts by itself; null where it does not.</summary>
    public Guid? ActsForId { get; set; }

    /// <summary>Where it is told that somebody was signed out (OpenID Connect Back-Channel Logout 1.0); null for nowhere.</summary>
    public string? SignOutAddress { get; set; }
    public required DateTimeOffset AddedAt { get; init; }
    public required string AddedByName { get; init; }
    public int Version { get; set; } = 1;

    private sealed class Mapping : IEntityTypeConfiguration<ApplicationRow>
    {
        public void Configure(EntityTypeBuilder<ApplicationRow> row)
        {
            row.ToTable("applications").HasKey(a => new { a.WorkspaceId, a.Id });
            row.HasIndex(a => a.Id).IsUnique();
            row.HasIndex(a => new { a.WorkspaceId, a.NameKey }).IsUnique();
            row.Property(a => a.Name).HasMaxLength(PlainText.LongestName);
            row.Property(a => a.NameKey).HasMaxLength(PlainText.LongestName);
            row.Property(a => a.SignOutAddress).HasMaxLength(500);
            row.Property(a => a.AddedByName).HasMaxLength(PlainText.LongestName);
            row.Property(a => a.Version).IsConcurrencyToken();
        }
    }
}
