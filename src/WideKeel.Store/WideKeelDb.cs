using Microsoft.AspNetCore.Identity.EntityFrameworkCore;
using Microsoft.EntityFrameworkCore;
using Microsoft.EntityFrameworkCore.Storage.ValueConversion;
using NodaTime;
using WideKeel.Core.Time;
using WideKeel.Store.Content;
using WideKeel.Store.Disposition;
using WideKeel.Store.Jobs;
using WideKeel.Store.Ledger;
using WideKeel.Store.Matters;
using WideKeel.Store.Notifications;
using WideKeel.Store.People;
using WideKeel.Store.Retention;

namespace WideKeel.Store;

/// <summary>The one database. Instants are stored as milliseconds since 1970 (UTC), dates as day numbers: both sort and compare as integers.</summary>
public sealed class WideKeelDb(DbContextOptions<WideKeelDb> options) : IdentityUserContext<Person, long>(options)
{
    public DbSet<Organisation> Organisations => Set<Organisation>();

    public DbSet<Unit> Units => Set<Unit>();

    public DbSet<PersonRemit> Remits => Set<PersonRemit>();

    public DbSet<ApiKey> ApiKeys => Set<ApiKey>();

    public DbSet<Source> Sources => Set<Source>();

    public DbSet<Container> Containers => Set<Container>();

    public DbSet<Item> Items => Set<Item>();

    public DbSet<ItemText> ItemTexts => Set<ItemText>();

    public DbSet<ItemDate> ItemDates => Set<ItemDate>();

    public DbSet<ItemField> ItemFields => Set<ItemField>();

    public DbSet<WorkspaceFile> WorkspaceFiles => Set<WorkspaceFile>();

    public DbSet<WorkspaceVersion> WorkspaceVersions => Set<WorkspaceVersion>();

    public DbSet<DirectoryPerson> DirectoryPeople => Set<DirectoryPerson>();

    public DbSet<DirectoryGroup> DirectoryGroups => Set<DirectoryGroup>();

    public DbSet<DirectoryMembership> DirectoryMemberships => Set<DirectoryMembership>();

    public DbSet<Matter> Matters => Set<Matter>();

    public DbSet<MatterMember> MatterMembers => Set<MatterMember>();

    public DbSet<Custodian> Custodians => Set<Custodian>();

    public DbSet<Notice> Notices => Set<Notice>();

    public DbSet<NoticeCopy> NoticeCopies => Set<NoticeCopy>();

    public DbSet<Sweep> Sweeps => Set<Sweep>();

    public DbSet<SweepRun> SweepRuns => Set<SweepRun>();

    public DbSet<SweepHit> SweepHits => Set<SweepHit>();

    public DbSet<HoldOrder> HoldOrders => Set<HoldOrder>();

    public DbSet<HoldItem> HoldItems => Set<HoldItem>();

    public DbSet<HoldRelease> HoldReleases => Set<HoldRelease>();

    public DbSet<MatterBundle> MatterBundles => Set<MatterBundle>();

    public DbSet<BundleItem> BundleItems => Set<BundleItem>();

    public DbSet<ItemCopy> ItemCopies => Set<ItemCopy>();

    public DbSet<BrokenCopy> BrokenCopies => Set<BrokenCopy>();

    public DbSet<ItemSensitive> ItemSensitives => Set<ItemSensitive>();

    public DbSet<OwnKind> OwnKinds => Set<OwnKind>();

    public DbSet<SavedView> SavedViews => Set<SavedView>();

    public DbSet<Unreadable> Unreadables => Set<Unreadable>();

    public DbSet<Series> Series => Set<Series>();

    public DbSet<SeriesVersion> SeriesVersions => Set<SeriesVersion>();

    public DbSet<Blanket> Blankets => Set<Blanket>();

    public DbSet<Authority> Authorities => Set<Authority>();

    public DbSet<EventType> EventTypes => Set<EventType>();

    public DbSet<Event> Events => Set<Event>();

    public DbSet<FilingDefault> FilingDefaults => Set<FilingDefault>();

    public DbSet<FilingRule> FilingRules => Set<FilingRule>();

    public DbSet<FilingMark> FilingMarks => Set<FilingMark>();

    public DbSet<FilingSuggestion> FilingSuggestions => Set<FilingSuggestion>();

    public DbSet<FilingLesson> FilingLessons => Set<FilingLesson>();

    public DbSet<Proposal> Proposals => Set<Proposal>();

    public DbSet<Batch> Batches => Set<Batch>();

    public DbSet<BatchLine> BatchLines => Set<BatchLine>();

    public DbSet<SignOff> SignOffs => Set<SignOff>();

    public DbSet<Question> Questions => Set<Question>();

    public DbSet<Bundle> Bundles => Set<Bundle>();

    public DbSet<Certificate> Certificates => Set<Certificate>();

    public DbSet<Message> Messages => Set<Message>();

    public DbSet<Webhook> Webhooks => Set<Webhook>();

    public DbSet<Delivery> Deliveries => Set<Delivery>();

    public DbSet<Job> Jobs => Set<Job>();

    public DbSet<LedgerRow> Ledger => Set<LedgerRow>();

    protected override void OnModelCreating(ModelBuilder builder)
    {
        base.OnModelCreating(builder);
        builder.ApplyConfigurationsFromAssembly(typeof(WideKeelDb).Assembly);
    }

    protected override void ConfigureConventions(ModelConfigurationBuilder configurationBuilder)
    {
        configurationBuilder.Properties<Instant>().HaveConversion<InstantConverter>();
        configurationBuilder.Properties<LocalDate>().HaveConversion<DateConverter>();
        configurationBuilder.Properties<Enum>().HaveConversion<string>();
    }

    private sealed class InstantConverter()
        : ValueConverter<Instant, long>(i => i.ToUnixTimeMilliseconds(), ms => Instant.FromUnixTimeMilliseconds(ms));

    private sealed class DateConverter()
        : ValueConverter<LocalDate, int>(d => d.ToDayNumber(), n => DayNumber.ToDate(n));
}
