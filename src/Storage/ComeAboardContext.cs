using System.Linq.Expressions;
using System.Text;
using ComeAboard.Core.Access;
using ComeAboard.Core.Accounts;
using ComeAboard.Core.Connections;
using ComeAboard.Core.Invitations;
using ComeAboard.Storage.Access;
using ComeAboard.Storage.Accounts;
using ComeAboard.Storage.Applications;
using ComeAboard.Storage.Connections;
using ComeAboard.Storage.Departures;
using ComeAboard.Storage.Invitations;
using ComeAboard.Storage.Mail;
using ComeAboard.Storage.Record;
using ComeAboard.Storage.SignIn;
using ComeAboard.Storage.Workspaces;
using Microsoft.EntityFrameworkCore;
using Microsoft.EntityFrameworkCore.Metadata.Conventions;
using Microsoft.EntityFrameworkCore.Storage.ValueConversion;

namespace ComeAboard.Storage;

/// <summary>
/// The one model, on SQLite and on PostgreSQL. Tenant rows are invisible until a workspace is entered, and only rows of
/// the entered workspace can be saved.
/// </summary>
public abstract class ComeAboardContext(DbContextOptions options) : DbContext(options)
{
    /// <summary>The workspace whose rows can be seen; the empty id, which no row has, until one is entered.</summary>
    public Guid Workspace { get; private set; }

    /// <summary>What the rows saved so far made stale in the picture of who may do what.</summary>
    public HashSet<AccessSubject> Touched { get; } = [];

    /// <summary>Whether anything was written by it, in whatever way, since that was last said to be nothing.</summary>
    public bool HasWritten { get; set; }

    /// <summary>Whether the operator said themselves how long a statement is waited for.</summary>
    internal bool WaitsAsTold { get; set; }

    public DbSet<WorkspaceRow> Workspaces => Set<WorkspaceRow>();
    public DbSet<SetUpLinkRow> SetUpLinks => Set<SetUpLinkRow>();
    public DbSet<InvitationRow> Invitations => Set<InvitationRow>();
    public DbSet<InvitationCountRow> InvitationCounts => Set<InvitationCountRow>();
    public DbSet<BatchRow> Batches => Set<BatchRow>();
    public DbSet<BatchPartRow> BatchParts => Set<BatchPartRow>();
    public DbSet<BatchEntryRow> BatchEntries => Set<BatchEntryRow>();
    public DbSet<JoinLinkRow> JoinLinks => Set<JoinLinkRow>();
    public DbSet<PresetRow> Presets => Set<PresetRow>();
    public DbSet<WordingRow> Wordings => Set<WordingRow>();
    public DbSet<BouncedAddressRow> BouncedAddresses => Set<BouncedAddressRow>();
    public DbSet<OptOutRow> OptOuts => Set<OptOutRow>();
    public DbSet<AccountRow> Accounts => Set<AccountRow>();
    public DbSet<CredentialRow> Credentials => Set<CredentialRow>();
    public DbSet<HistoryRow> AccountHistory => Set<HistoryRow>();
    public DbSet<AccountSplitRow> AccountSplits => Set<AccountSplitRow>();
    public DbSet<AccountMergeRow> AccountMerges => Set<AccountMergeRow>();
    public DbSet<MemberMergeRow> MemberMerges => Set<MemberMergeRow>();
    public DbSet<AccountAddressRow> AccountAddresses => Set<AccountAddressRow>();
    public DbSet<SessionRow> Sessions => Set<SessionRow>();
    public DbSet<AccountLinkRow> AccountLinks => Set<AccountLinkRow>();
    public DbSet<CeremonyRow> Ceremonies => Set<CeremonyRow>();
    public DbSet<MailedCodeRow> MailedCodes => Set<MailedCodeRow>();
    public DbSet<BudgetRow> Budgets => Set<BudgetRow>();
    public DbSet<SecurityEventRow> SecurityEvents => Set<SecurityEventRow>();
    public DbSet<ApiTokenRow> ApiTokens => Set<ApiTokenRow>();
    public DbSet<MemberRow> Members => Set<MemberRow>();
    public DbSet<GrantRow> Grants => Set<GrantRow>();
    public DbSet<RoleRow> Roles => Set<RoleRow>();
    public DbSet<AreaRow> Areas => Set<AreaRow>();
    public DbSet<ResourceRow> Resources => Set<ResourceRow>();
    public DbSet<SwitchedOffRow> SwitchedOff => Set<SwitchedOffRow>();
    public DbSet<GroupRow> Groups => Set<GroupRow>();
    public DbSet<GroupMoveRow> GroupMoves => Set<GroupMoveRow>();
    public DbSet<GroupMemberRow> GroupMembers => Set<GroupMemberRow>();
    public DbSet<OrganisationRow> Organisations => Set<OrganisationRow>();
    public DbSet<ContactRow> Contacts => Set<ContactRow>();
    public DbSet<AccessChangeRow> AccessChanges => Set<AccessChangeRow>();
    public DbSet<SeatPoolRow> SeatPools => Set<SeatPoolRow>();
    public DbSet<SeatRow> Seats => Set<SeatRow>();
    public DbSet<SeatReservationRow> SeatReservations => Set<SeatReservationRow>();
    public DbSet<DepartureRow> Departures => Set<DepartureRow>();
    public DbSet<DeliveryRow> Deliveries => Set<DeliveryRow>();
    public DbSet<RecordRow> Record => Set<RecordRow>();
    public DbSet<IdempotencyRow> IdempotencyKeys => Set<IdempotencyRow>();
    public DbSet<DuplicateRow> Duplicates => Set<DuplicateRow>();
    public DbSet<ConnectionRow> Connections => Set<ConnectionRow>();
    public DbSet<ConnectionContentRow> ConnectionContents => Set<ConnectionContentRow>();
    public DbSet<SourceRecordRow> SourceRecords => Set<SourceRecordRow>();
    public DbSet<MappingRow> ConnectionMapping => Set<MappingRow>();
    public DbSet<LaneRow> Lanes => Set<LaneRow>();
    public DbSet<AccountThereRow> AccountsThere => Set<AccountThereRow>();
    public DbSet<LeftOverRow> LeftOvers => Set<LeftOverRow>();
    public DbSet<EventSentRow> EventsSent => Set<EventSentRow>();
    public DbSet<StepFileRow> StepFiles => Set<StepFileRow>();
    public DbSet<ReceiptKeyRow> ReceiptKeys => Set<ReceiptKeyRow>();
    public DbSet<ClaimRow> Claims => Set<ClaimRow>();
    public DbSet<DomainRow> Domains => Set<DomainRow>();
    public DbSet<ProviderRow> Providers => Set<ProviderRow>();
    public DbSet<ProposalRow> Proposals => Set<ProposalRow>();
    public DbSet<ApplicationRow> Applications => Set<ApplicationRow>();
    public DbSet<OAuthClientRow> OAuthClients => Set<OAuthClientRow>();
    public DbSet<OAuthSignOnRow> OAuthSignOns => Set<OAuthSignOnRow>();
    public DbSet<OAuthTokenRow> OAuthTokens => Set<OAuthTokenRow>();
    public DbSet<OAuthKeyRow> OAuthKeys => Set<OAuthKeyRow>();
    public DbSet<ProtectionKeyRow> ProtectionKeys => Set<ProtectionKeyRow>();

    /// <summary>Makes all tenant rows invisible again: contexts are used more than once.</summary>
    internal ComeAboardContext Leave()
    {
        Workspace = default;
        HasWritten = false;
        Touched.Clear();
        return this;
    }

    /// <summary>Makes the rows of one workspace visible, and only those.</summary>
    public ComeAboardContext Enter(Guid workspace)
    {
        if (Workspace != default && Workspace != workspace)
            throw new InvalidOperationException("A context enters one workspace only.");
        Workspace = workspace;
        return this;
    }

    /// <summary>
    /// Turns from one workspace to another, or to none, within one transaction. What was loaded before is forgotten, so
    /// that nothing of the one is taken for the other's.
    /// </summary>
    public ComeAboardContext Turn(Guid workspace = default)
    {
        ChangeTracker.Clear();
        Leave();
        Workspace = workspace;
        return this;
    }

    /// <inheritdoc/>
    public override Task<int> SaveChangesAsync(bool acceptAll, CancellationToken cancellation = default)
    {
        LookAtRows();
        return base.SaveChangesAsync(acceptAll, cancellation);
    }

    /// <inheritdoc/>
    public override int SaveChanges(bool acceptAll)
    {
        LookAtRows();
        return base.SaveChanges(acceptAll);
    }

    private void LookAtRows()
    {
        HasWritten = true;
        // What holds for a whole workspace is kept beside who may do what in it, and its time zone says on which days.
        if (ChangeTracker.Entries<WorkspaceRow>().Any(entry => entry.State == EntityState.Modified))
            Touched.Add(AccessSubject.Model);
        foreach (var entry in ChangeTracker.Entries<ITenantRow>())
        {
            if (
                entry.State is not (EntityState.Unchanged or EntityState.Detached)
                && entry.Entity.WorkspaceId != Workspace
            )
                throw new InvalidOperationException("A row of another workspace cannot be saved here.");
            if (
                entry.State is not (EntityState.Unchanged or EntityState.Detached)
                && entry.Entity is IAccessRow row
                // Seats come and go all the time; only the name of their pool is part of the picture.
                && !(
                    entry.Entity is SeatPoolRow
                    && entry.State == EntityState.Modified
                    && !entry.Property(nameof(SeatPoolRow.Name)).IsModified
                )
            )
                Touched.Add(row.Subject);
        }
    }

    private static readonly Type[] ByAttributes =
    [
        typeof(BackingFieldAttributeConvention),
        typeof(ComplexTypeAttributeConvention),
        typeof(ConcurrencyCheckAttributeConvention),
        typeof(DatabaseGeneratedAttributeConvention),
        typeof(DeleteBehaviorAttributeConvention),
        typeof(EntityTypeConfigurationAttributeConvention),
        typeof(ForeignKeyAttributeConvention),
        typeof(IndexAttributeConvention),
        typeof(InversePropertyAttributeConvention),
        typeof(KeyAttributeConvention),
        typeof(KeylessAttributeConvention),
        typeof(MaxLengthAttributeConvention),
        typeof(NavigationBackingFieldAttributeConvention),
        typeof(NotMappedMemberAttributeConvention),
        typeof(NotMappedTypeAttributeConvention),
        typeof(OwnedAttributeConvention),
        typeof(PrecisionAttributeConvention),
        typeof(RelationalColumnAttributeConvention),
        typeof(RelationalColumnCommentAttributeConvention),
        typeof(RelationalDbFunctionAttributeConvention),
        typeof(RelationalNavigationJsonPropertyNameAttributeConvention),
        typeof(RelationalPropertyJsonPropertyNameAttributeConvention),
        typeof(RelationalTableAttributeConvention),
        typeof(RelationalTableCommentAttributeConvention),
        typeof(RequiredNavigationAttributeConvention),
        typeof(RequiredPropertyAttributeConvention),
        typeof(StringLengthAttributeConvention),
        typeof(TimestampAttributeConvention),
        typeof(UnicodeAttributeConvention),
    ];

    /// <inheritdoc/>
    protected override void ConfigureConventions(ModelConfigurationBuilder conventions)
    {
        // No row says by attributes how it is kept, and looking for them takes time at every start.
        foreach (var convention in ByAttributes)
            conventions.Conventions.Remove(convention);
        // SQLite forgets that an instant is of UTC, and PostgreSQL takes no other.
        conventions.Properties<DateTime>().HaveConversion<UtcConverter>();
        conventions
            .Properties<InvitationState>()
            .HaveConversion<WordConverter<InvitationState>>()
            .HaveMaxLength(16);
        conventions.Properties<CodePurpose>().HaveConversion<WordConverter<CodePurpose>>().HaveMaxLength(16);
        conventions.Properties<ProofWay>().HaveConversion<WordConverter<ProofWay>>().HaveMaxLength(16);
        conventions
            .Properties<CredentialKind>()
            .HaveConversion<WordConverter<CredentialKind>>()
            .HaveMaxLength(16);
        conventions.Properties<ClaimState>().HaveConversion<WordConverter<ClaimState>>().HaveMaxLength(16);
        conventions.Properties<Silence>().HaveConversion<WordConverter<Silence>>().HaveMaxLength(16);
        conventions.Properties<DomainLook>().HaveConversion<WordConverter<DomainLook>>().HaveMaxLength(16);
        conventions.Properties<BatchState>().HaveConversion<WordConverter<BatchState>>().HaveMaxLength(16);
        conventions
            .Properties<ConnectionState>()
            .HaveConversion<WordConverter<ConnectionState>>()
            .HaveMaxLength(16);
        conventions.Properties<SourceState>().HaveConversion<WordConverter<SourceState>>().HaveMaxLength(16);
        conventions
            .Properties<SourceVerdict>()
            .HaveConversion<WordConverter<SourceVerdict>>()
            .HaveMaxLength(16);
        conventions
            .Properties<SourceDecision>()
            .HaveConversion<WordConverter<SourceDecision>>()
            .HaveMaxLength(16);
        conventions.Properties<Verdict>().HaveConversion<WordConverter<Verdict>>().HaveMaxLength(16);
        conventions.Properties<Level>().HaveConversion<WordConverter<Level>>().HaveMaxLength(16);
        conventions.Properties<HolderKind>().HaveConversion<WordConverter<HolderKind>>().HaveMaxLength(16);
        conventions
            .Properties<AccessSubjectKind>()
            .HaveConversion<WordConverter<AccessSubjectKind>>()
            .HaveMaxLength(16);
        conventions.Properties<Kind>().HaveConversion<WordConverter<Kind>>().HaveMaxLength(16);
        conventions
            .Properties<DeliveryState>()
            .HaveConversion<WordConverter<DeliveryState>>()
            .HaveMaxLength(16);
        conventions
            .Properties<AccountLinkPurpose>()
            .HaveConversion<WordConverter<AccountLinkPurpose>>()
            .HaveMaxLength(16);
        conventions
            .Properties<MappedSubject>()
            .HaveConversion<WordConverter<MappedSubject>>()
            .HaveMaxLength(16);
        conventions.Properties<LaneState>().HaveConversion<WordConverter<LaneState>>().HaveMaxLength(16);
        conventions.Properties<ThereState>().HaveConversion<WordConverter<ThereState>>().HaveMaxLength(16);
        conventions
            .Properties<AccountThere>()
            .HaveConversion<WordConverter<AccountThere>>()
            .HaveMaxLength(16);
        conventions
            .Properties<DepartureState>()
            .HaveConversion<WordConverter<DepartureState>>()
            .HaveMaxLength(16);
    }

    /// <inheritdoc/>
    protected override void OnModelCreating(ModelBuilder model)
    {
        model.UseOpenIddict<OAuthClientRow, OAuthSignOnRow, OAuthScopeRow, OAuthTokenRow, Guid>();
        model.Entity<OAuthClientRow>().ToTable("oauth_clients");
        model.Entity<OAuthScopeRow>().ToTable("oauth_scopes");
        model.Entity<OAuthSignOnRow>(OAuthSignOnRow.Map);
        model.Entity<OAuthTokenRow>(OAuthTokenRow.Map);
        model.ApplyConfigurationsFromAssembly(typeof(ComeAboardContext).Assembly);
        // What is generated from it is given its filters where it is made ready.
        if (EF.IsDesignTime)
            return;
        foreach (var type in model.Model.GetEntityTypes().Where(type => TenantFilters.IsFor(type.ClrType)))
            model
                .Entity(type.ClrType)
                .HasQueryFilter(TenantFilters.Of(type.ClrType, Expression.Constant(this)));
    }
}

/// <summary>Keeps an enumeration as its lower-case word.</summary>
internal sealed class WordConverter<T>()
    : ValueConverter<T, string>(value => WordOf(value), word => ValueOf(word))
    where T : struct, Enum
{
    private static readonly Dictionary<T, string> Words = Enum.GetValues<T>()
        .ToDictionary(value => value, value => value.ToString().ToLowerInvariant());

    private static readonly (string Word, byte[] Bytes, T Value)[] Values =
    [
        .. Words.Select(pair => (pair.Value, Encoding.UTF8.GetBytes(pair.Value), pair.Key)),
    ];

    /// <summary>What a word stands for.</summary>
    /// <exception cref="InvalidDataException">It stands for nothing.</exception>
    public static T ValueOf(string word)
    {
        foreach (var known in Values)
            if (known.Word.Equals(word, StringComparison.OrdinalIgnoreCase))
                return known.Value;
        throw new InvalidDataException($"There is no {typeof(T).Name} \"{word}\".");
    }

    /// <summary>The same of a word in UTF-8.</summary>
    public static T ValueOf(ReadOnlySpan<byte> word)
    {
        foreach (var known in Values)
            if (word.SequenceEqual(known.Bytes))
                return known.Value;
        return ValueOf(Encoding.UTF8.GetString(word));
    }

    private static string WordOf(T value) => Words[value];
}

/// <summary>Instants of the rows that are the library's.</summary>
internal sealed class UtcConverter()
    : ValueConverter<DateTime, DateTime>(at => at, at => DateTime.SpecifyKind(at, DateTimeKind.Utc));
