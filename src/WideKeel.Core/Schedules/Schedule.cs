using NodaTime;
using WideKeel.Core.Content;
using WideKeel.Core.Query;
using WideKeel.Core.Retention;
using WideKeel.Core.Time;

namespace WideKeel.Core.Schedules;

/// <summary>How strongly a rule protects, from weakest to strongest.</summary>
public enum Protection
{
    None,
    Kept,
    Declared,
    Worm,
}

/// <summary>What happens when nothing keeps an item any more.</summary>
public enum AtEnd
{
    Nothing,
    Destroy,
    Signoff,
    Transfer,
}

public enum ClauseJoin
{
    Later,
    Earlier,
}

/// <summary>Where the clock of a clause starts.</summary>
/// <param name="Name">Of the field or of the type of event; null for the dates that every item has.</param>
public readonly record struct ClockStart(ClockStartKind Kind, string? Name);

public enum ClockStartKind
{
    Created,
    Modified,
    Filed,
    Field,
    Event,
}

/// <summary>Trigger → base date B; cutoff → C, the last day of the period that contains B; period → keep-until K = C + P.</summary>
public sealed record RuleClause(ClockStart Start, Cutoff Cutoff, Time.Period Period);

/// <summary>The rule of one record series.</summary>
/// <param name="Clauses">At least one unless permanent.</param>
public sealed record SeriesRule(string Code, Protection Protection, AtEnd AtEnd, bool Permanent, ClauseJoin Join, IReadOnlyList<RuleClause> Clauses);

/// <summary>A rule over whole containers. It keeps for a period, and perhaps destroys then; or it keeps nothing and destroys after a period.</summary>
/// <param name="Keep">Null: it keeps nothing.</param>
/// <param name="DestroyAfter">Only where it keeps nothing.</param>
public sealed record BlanketRule(string Name, Reach Reach, ClockStartKind From, Time.Period? Keep, bool Destroys, Time.Period? DestroyAfter);

/// <summary>A hold order: what it covers may not be disposed of.</summary>
/// <param name="Query">Null: no query.</param>
public sealed record HoldRule(string Name, Reach Reach, IReadOnlySet<string> Items, CompiledQuery? Query);

/// <summary>Containers by pattern: a name, or a name with <c>/*</c>, which is that container and everything beneath it, at any depth.</summary>
public sealed record Reach(IReadOnlyList<string> Containers, IReadOnlyList<string> Except)
{
    public bool Covers(string? container) => container is not null && Containers.Any(p => Fits(p, container)) && !Except.Any(p => Fits(p, container));

    private static bool Fits(string pattern, string container) => pattern.EndsWith("/*", StringComparison.Ordinal)
        ? container.StartsWith(pattern.AsSpan(0, pattern.Length - 1), StringComparison.Ordinal) || container.AsSpan().SequenceEqual(pattern.AsSpan(0, pattern.Length - 2))
        : pattern == container;
}

/// <summary>A trigger event: an outside fact that starts clocks.</summary>
public readonly record struct TriggerEvent(string Type, string Subject, LocalDate Date, bool Revoked);

/// <summary>Everything that rules.</summary>
public sealed record RetentionSchedule(FiscalYearEnd FiscalYearEnd, IReadOnlyList<SeriesRule> Series, IReadOnlyList<BlanketRule> Blankets, IReadOnlyList<HoldRule> Holds);

/// <summary>What the rules look at in one item. Null is unknown.</summary>
/// <param name="Fields">Values by name in lower case; those that are dates can start clocks.</param>
/// <param name="Subject">What events of an outside system refer to.</param>
public sealed record RuledItem(
    string Id,
    string? Container,
    string? Series,
    LocalDate? Created,
    LocalDate? Modified,
    LocalDate? Filed,
    string? Subject,
    IReadOnlyDictionary<string, string> Fields);

/// <summary>The dates of one clause; all null while it waits.</summary>
public readonly record struct RuleDates(LocalDate? Base, LocalDate? Cutoff, LocalDate? Until);

/// <param name="Kind"><c>series</c> or <c>blanket</c>.</param>
/// <param name="Won">It decides until when the item is kept.</param>
/// <param name="Why">One sentence.</param>
public sealed record RuleReason(string Rule, string Kind, bool Won, KeepUntil KeepUntil, IReadOnlyList<RuleDates> Clauses, string Why);

/// <summary>Where an item stands under a whole schedule.</summary>
/// <param name="Beneath">The state without regard to holds.</param>
/// <param name="KeepUntil">The winner's, also when it has passed.</param>
/// <param name="DisposableFrom">The first day on which the end action may happen, holds aside.</param>
public sealed record ItemOutcome(
    bool Held,
    ItemState Beneath,
    KeepUntil KeepUntil,
    LocalDate? DisposableFrom,
    AtEnd AtEnd,
    Protection Protection,
    IReadOnlyList<RuleReason> Reasons);
