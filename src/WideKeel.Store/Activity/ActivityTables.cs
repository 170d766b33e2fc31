using Microsoft.EntityFrameworkCore;
using WideKeel.Store.Activity;

namespace WideKeel.Store;

/// <content>The tables of activity.</content>
public sealed partial class WideKeelDb
{
    public DbSet<Channel> Channels => Set<Channel>();

    public DbSet<ChannelReader> ChannelReaders => Set<ChannelReader>();

    public DbSet<RejectedLine> RejectedLines => Set<RejectedLine>();

    public DbSet<WatchedFile> WatchedFiles => Set<WatchedFile>();

    public DbSet<NetworkRow> Networks => Set<NetworkRow>();

    public DbSet<PlaceRow> Places => Set<PlaceRow>();

    public DbSet<SignInCodeRow> SignInCodes => Set<SignInCodeRow>();

    public DbSet<EventValue> EventValues => Set<EventValue>();

    public DbSet<EventRow> Events => Set<EventRow>();

    public DbSet<EventOriginal> EventOriginals => Set<EventOriginal>();

    public DbSet<EventDayCount> EventDayCounts => Set<EventDayCount>();

    public DbSet<EventHourCount> EventHourCounts => Set<EventHourCount>();

    public DbSet<Segment> Segments => Set<Segment>();

    public DbSet<SavedStatement> Statements => Set<SavedStatement>();

    public DbSet<InvestigationLink> InvestigationLinks => Set<InvestigationLink>();

    public DbSet<Investigation> Investigations => Set<Investigation>();

    public DbSet<WatchRow> Watches => Set<WatchRow>();

    public DbSet<AlertRow> Alerts => Set<AlertRow>();

    public DbSet<AlertAct> AlertActs => Set<AlertAct>();

    public DbSet<RiskWeight> RiskWeights => Set<RiskWeight>();

    public DbSet<ActionSeverity> ActionSeverities => Set<ActionSeverity>();
}
