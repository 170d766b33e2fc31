using Microsoft.EntityFrameworkCore;
using WideKeel.Store.Matters;

namespace WideKeel.Store;

/// <content>The tables of matters.</content>
public sealed partial class WideKeelDb
{
    public DbSet<Matter> Matters => Set<Matter>();

    public DbSet<MatterMember> MatterMembers => Set<MatterMember>();

    public DbSet<Custodian> Custodians => Set<Custodian>();

    public DbSet<FoundPlace> FoundPlaces => Set<FoundPlace>();

    public DbSet<Notice> Notices => Set<Notice>();

    public DbSet<NoticeCopy> NoticeCopies => Set<NoticeCopy>();

    public DbSet<Sweep> Sweeps => Set<Sweep>();

    public DbSet<SweepRun> SweepRuns => Set<SweepRun>();

    public DbSet<SweepHit> SweepHits => Set<SweepHit>();

    public DbSet<SweepVersionHit> SweepVersionHits => Set<SweepVersionHit>();

    public DbSet<HoldOrder> HoldOrders => Set<HoldOrder>();

    public DbSet<HoldRelease> HoldReleases => Set<HoldRelease>();

    public DbSet<MatterTag> MatterTags => Set<MatterTag>();

    public DbSet<ItemTag> ItemTags => Set<ItemTag>();

    public DbSet<MatterBundle> MatterBundles => Set<MatterBundle>();

    public DbSet<BundleItem> BundleItems => Set<BundleItem>();
}
