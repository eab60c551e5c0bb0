using ComeAboard.Core;
using ComeAboard.Core.Access;
using ComeAboard.Core.Workspaces;
using Microsoft.EntityFrameworkCore;
using Microsoft.EntityFrameworkCore.Metadata.Builders;

namespace ComeAboard.Storage.Access;

/// <summary>A firm or body that outsiders belong to.</summary>
public sealed class OrganisationRow : IAccessRow, INamedRow
{
    public Guid WorkspaceId { get; init; }
    public Guid Id { get; init; }
    public string Name { get; set; } = "";
    public string NameKey { get; set; } = "";
    public Kind Kind { get; set; }
    public string Colour { get; set; } = "";
    public string Code { get; set; } = "";
    public string Reference { get; set; } = "";

    /// <summary>Its mail domains, one a line.</summary>
    public string Domains { get; set; } = "";
    public DateOnly? AgreementEnds { get; set; }
    public int? Cap { get; set; }
    public int Version { get; set; } = 1;

    public AccessSubject Subject => new(AccessSubjectKind.Organisation, Id);
    public IReadOnlyList<string> DomainList => Domains.Split('\n', StringSplitOptions.RemoveEmptyEntries);

    private sealed class Mapping : IEntityTypeConfiguration<OrganisationRow>
    {
        public void Configure(EntityTypeBuilder<OrganisationRow> row)
        {
            row.ToTable("organisations").HasKey(o => new { o.WorkspaceId, o.Id });
            row.Ignore(o => o.Subject).Ignore(o => o.DomainList);
            row.HasIndex(o => new { o.WorkspaceId, o.NameKey }).IsUnique();
            row.Property(o => o.Version).IsConcurrencyToken();
            row.Property(o => o.Colour).HasMaxLength(7);
            row.Property(o => o.Code).HasMaxLength(8);
        }
    }
}

/// <summary>Somebody to turn to in an organisation; not a member.</summary>
public sealed class ContactRow : ITenantRow
{
    public required Guid WorkspaceId { get; init; }
    public required Guid Id { get; init; }
    public required Guid OrganisationId { get; init; }
    public required string Name { get; init; }
    public required string Address { get; init; }
    public string Title { get; init; } = "";
    public string SearchText { get; init; } = "";

    private sealed class Mapping : IEntityTypeConfiguration<ContactRow>
    {
        public void Configure(EntityTypeBuilder<ContactRow> row)
        {
            row.ToTable("contacts").HasKey(c => new { c.WorkspaceId, c.Id });
            row.HasIndex(c => new { c.WorkspaceId, c.OrganisationId });
            row.Property(c => c.Name).HasMaxLength(PlainText.LongestName);
            row.Property(c => c.Address).HasMaxLength(400);
        }
    }
}
