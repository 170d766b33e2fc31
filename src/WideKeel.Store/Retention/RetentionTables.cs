using Microsoft.EntityFrameworkCore;
using WideKeel.Store.Retention;

namespace WideKeel.Store;

/// <content>The tables of the schedule.</content>
public sealed partial class WideKeelDb
{
    public DbSet<Series> Series => Set<Series>();

    public DbSet<SeriesVersion> SeriesVersions => Set<SeriesVersion>();

    public DbSet<Blanket> Blankets => Set<Blanket>();

    public DbSet<DueAct> DueActs => Set<DueAct>();

    public DbSet<DueActPerson> DueActPersons => Set<DueActPerson>();

    public DbSet<Authority> Authorities => Set<Authority>();

    public DbSet<TriggerEventType> TriggerEventTypes => Set<TriggerEventType>();

    public DbSet<TriggerEvent> TriggerEvents => Set<TriggerEvent>();

    public DbSet<FilingDefault> FilingDefaults => Set<FilingDefault>();

    public DbSet<FilingRule> FilingRules => Set<FilingRule>();

    public DbSet<FilingMark> FilingMarks => Set<FilingMark>();

    public DbSet<FilingSuggestion> FilingSuggestions => Set<FilingSuggestion>();

    public DbSet<FilingLesson> FilingLessons => Set<FilingLesson>();

    public DbSet<Proposal> Proposals => Set<Proposal>();
}
