using ComeAboard.Core;
using ComeAboard.Core.Access;
using ComeAboard.Core.Invitations;
using ComeAboard.Core.Workspaces;
using ComeAboard.Storage.Access;
using Microsoft.EntityFrameworkCore;
using Microsoft.EntityFrameworkCore.Metadata.Builders;

namespace ComeAboard.Storage.Invitations;

/// <summary>One address, asked in.</summary>
public sealed class InvitationRow : IVersionedRow, IListedRow
{
    private InvitationState _state;

    public required Guid WorkspaceId { get; init; }
    public required Guid Id { get; init; }
    public required string Address { get; set; }
    public required string AddressKey { get; set; }
    public required string Name { get; set; }
    public required Kind Kind { get; set; }

    /// <summary>The roles, groups and seats it gives, as <see cref="BundleText"/> writes them.</summary>
    public required string Gives { get; set; }
    public DateOnly? FirstDay { get; set; }
    public required DateOnly? LastDay { get; set; }
    public required string Message { get; set; }
    public required string Language { get; set; }
    public string GivenName { get; set; } = "";
    public string FamilyName { get; set; } = "";
    public string Organisation { get; set; } = "";
    public Guid? OrganisationId { get; set; }
    public string Title { get; set; } = "";
    public string Department { get; set; } = "";
    public string Manager { get; set; } = "";
    public string Country { get; set; } = "";
    public string Note { get; set; } = "";
    public Guid? HostId { get; set; }
    public string HostName { get; set; } = "";
    public Guid? BatchId { get; init; }
    public Guid? LinkId { get; init; }

    /// <summary>Whether whoever made the join link it came by wants it approved; the rules of the house may want it besides.</summary>
    public bool NeedsApproval { get; set; }

    /// <summary>The account that accepted and waits for approval.</summary>
    public Guid? AccountId { get; set; }

    /// <summary>The proved address somebody came with who did not prove the invited one; empty otherwise.</summary>
    public string CameAs { get; set; } = "";
    public DateTimeOffset? NextReminderAt { get; set; }
    public int Reminders { get; set; }
    public required InvitationState State
    {
        get => _state;
        set
        {
            _state = value;
            IsPending = value.IsPending();
        }
    }

    /// <summary>Whether it is under way; kept so that an index can hold just those.</summary>
    public bool IsPending { get; private set; }

    /// <summary>Of the link in the last mail; null while nothing was sent.</summary>
    public required string? SecretHash { get; set; }

    /// <summary>Of a link mailed since by a reminder; both links count.</summary>
    public string? ExtraSecretHash { get; set; }

    /// <summary>Of a link handed over by another way than mail, which proves no mailbox; it counts beside the others.</summary>
    public string? HandedSecretHash { get; set; }

    /// <summary>Who handed that link over; empty for nobody.</summary>
    public string HandedByName { get; set; } = "";
    public required DateTimeOffset Deadline { get; set; }
    public required long AnswerSeconds { get; set; }
    public required Guid InvitedBy { get; set; }
    public required string InvitedByName { get; set; }
    public required DateTimeOffset CreatedAt { get; init; }
    public required DateTimeOffset LastStepAt { get; set; }
    public DateTimeOffset? SentAt { get; set; }
    public DateTimeOffset? SeenAt { get; set; }
    public DateTimeOffset? AnsweredAt { get; set; }
    public int Resends { get; set; }
    public Guid? MemberId { get; set; }
    public int Version { get; set; } = 1;

    /// <summary>Name, address and organisation in lower case, for searching in any part of them.</summary>
    public string SearchText { get; private set; } = "";

    public Stay Stay => new(LastDay, FirstDay);
    public Bundle Bundle => BundleText.Of(Gives);

    /// <summary>The address of whoever has answered.</summary>
    public string Answerer => CameAs.Length > 0 ? CameAs : Address;

    /// <summary>What it offers, to whom.</summary>
    public InvitationOffer Offer =>
        new(
            EmailAddress.Read(Address).Value,
            Kind,
            Bundle,
            Stay,
            Name,
            Details,
            Message,
            Language,
            HostId?.ToString()
        )
        {
            OrganisationId = OrganisationId,
            AnswerTime = TimeSpan.FromSeconds(AnswerSeconds),
        };

    /// <summary>How it stands, for deciding about its next step.</summary>
    public InvitationStanding Standing =>
        new(Id, Offer, State, Deadline, InvitedBy)
        {
            SentAt = SentAt,
            NextReminderAt = NextReminderAt,
            CameByLink = LinkId is not null,
            WantsApproval = LinkId is not null && NeedsApproval,
        };

    public PersonDetails Details =>
        new(GivenName, FamilyName, Organisation, Title, Department, Manager, Country, Note);

    public static string SearchTextOf(string name, string address, string organisation = "") =>
        $"{name} {address} {organisation}".TrimEnd().ToLowerInvariant();

    public InvitationRow WithSearchText()
    {
        SearchText = SearchTextOf(Name, Address, Organisation);
        return this;
    }

    /// <summary>Puts in what is known of the person.</summary>
    public InvitationRow WithDetails(PersonDetails details)
    {
        (GivenName, FamilyName, Organisation) = (details.GivenName, details.FamilyName, details.Organisation);
        (Title, Department, Manager) = (details.Title, details.Department, details.Manager);
        (Country, Note) = (details.Country, details.Note);
        return WithSearchText();
    }

    private sealed class Mapping : IEntityTypeConfiguration<InvitationRow>
    {
        public void Configure(EntityTypeBuilder<InvitationRow> row)
        {
            row.ToTable("invitations").HasKey(i => new { i.WorkspaceId, i.Id });
            row.Ignore(i => i.Stay).Ignore(i => i.Details).Ignore(i => i.Bundle);
            row.Ignore(i => i.Offer).Ignore(i => i.Standing).Ignore(i => i.Answerer);
            row.HasIndex(i => i.HandedSecretHash)
                .IsUnique()
                .HasDatabaseName("ix_invitations_handed_secret_hash")
                .HasFilter("handed_secret_hash IS NOT NULL");
            row.HasIndex(i => i.SecretHash).IsUnique();
            row.HasIndex(i => i.ExtraSecretHash)
                .IsUnique()
                .HasDatabaseName("ix_invitations_extra_secret_hash")
                .HasFilter("extra_secret_hash IS NOT NULL");
            row.HasIndex(i => new { i.WorkspaceId, i.AddressKey }, "ix_invitations_address")
                .HasDatabaseName("ix_invitations_address");
            row.HasIndex(i => new { i.WorkspaceId, i.AddressKey }, "ix_invitations_one_pending_per_address")
                .HasDatabaseName("ix_invitations_one_pending_per_address")
                .IsUnique()
                .HasFilter("state IN ('queued', 'sent', 'waiting')");
            row.HasIndex(i => new
            {
                i.WorkspaceId,
                i.State,
                i.Id,
            });
            row.HasIndex(i => new
            {
                i.WorkspaceId,
                i.InvitedBy,
                i.State,
            });
            row.HasIndex(i => i.Deadline)
                .HasDatabaseName("ix_invitations_expiring")
                .HasFilter("state IN ('queued', 'sent')");
            row.HasIndex(i => i.NextReminderAt)
                .HasDatabaseName("ix_invitations_reminding")
                .HasFilter("next_reminder_at IS NOT NULL");
            row.HasIndex(i => new
                {
                    i.WorkspaceId,
                    i.Deadline,
                    i.Id,
                })
                .HasDatabaseName("ix_invitations_by_deadline");
            row.HasIndex(i => new { i.WorkspaceId, i.Id })
                .HasDatabaseName("ix_invitations_pending")
                .HasFilter("is_pending");
            row.HasIndex(i => new
                {
                    i.WorkspaceId,
                    i.LastStepAt,
                    i.Id,
                })
                .HasDatabaseName("ix_invitations_by_last_step");
            row.HasIndex(i => new { i.WorkspaceId, i.BatchId })
                .HasDatabaseName("ix_invitations_batch")
                .HasFilter("batch_id IS NOT NULL");
            row.HasIndex(i => new { i.WorkspaceId, i.LinkId })
                .HasDatabaseName("ix_invitations_link")
                .HasFilter("link_id IS NOT NULL");
            row.HasIndex(i => new { i.WorkspaceId, i.OrganisationId })
                .HasDatabaseName("ix_invitations_organisation")
                .HasFilter("organisation_id IS NOT NULL AND is_pending");
            row.Property(i => i.Version).IsConcurrencyToken();
            row.Property(i => i.AddressKey).HasMaxLength(400);
            row.Property(i => i.Address).HasMaxLength(400);
            row.Property(i => i.Name).HasMaxLength(PlainText.LongestName);
            row.Property(i => i.Message).HasMaxLength(PlainText.LongestMessage);
            row.Property(i => i.SecretHash).HasMaxLength(64);
            row.Property(i => i.ExtraSecretHash).HasMaxLength(64);
            row.Property(i => i.HandedSecretHash).HasMaxLength(64);
            row.Property(i => i.CameAs).HasMaxLength(400);
        }
    }
}

/// <summary>How many invitations of a workspace are in a state; kept in the transaction that moves them.</summary>
public sealed class InvitationCountRow : ITenantRow
{
    public required Guid WorkspaceId { get; init; }
    public required InvitationState State { get; init; }
    public long Count { get; set; }

    private sealed class Mapping : IEntityTypeConfiguration<InvitationCountRow>
    {
        public void Configure(EntityTypeBuilder<InvitationCountRow> row) =>
            row.ToTable("invitation_counts").HasKey(c => new { c.WorkspaceId, c.State });
    }
}
