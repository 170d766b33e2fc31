using NodaTime;
using WideKeel.Core.Content;
using WideKeel.Core.Time;

namespace WideKeel.Core.Retention;

/// <summary>What happens when nothing keeps an item any more.</summary>
public enum EndAction
{
    /// <summary>Nothing: the item is no longer kept, and nobody is asked to remove it.</summary>
    Nothing,

    /// <summary>Destroyed at once, without anybody signing.</summary>
    Destroy,

    /// <summary>Destroyed after sign-off on the docket.</summary>
    SignOff,

    /// <summary>Handed over to an archive.</summary>
    Transfer,
}

/// <summary>Which of several clauses decides.</summary>
public enum ClauseJoin
{
    /// <summary>The latest; while one waits, the rule waits.</summary>
    Later,

    /// <summary>The earliest of those that have a date.</summary>
    Earlier,
}

/// <summary>
/// Trigger → base date B; cutoff → C, the last day of the period that contains B; period → keep-until K = C + P.
/// </summary>
public sealed record Clause(Trigger Trigger, Cutoff Cutoff, Period Period);

/// <summary>The rule of a record series.</summary>
/// <param name="Code">Of the series.</param>
/// <param name="Clauses">At least one unless permanent.</param>
public sealed record SeriesRule(
    string Code,
    Grade Grade,
    EndAction AtEnd,
    bool Permanent,
    ClauseJoin Join,
    IReadOnlyList<Clause> Clauses
)
{
    /// <summary>It can be tightened, never loosened.</summary>
    public bool Ratchet { get; init; }

    /// <summary>What it keeps an item until never moves earlier again.</summary>
    public bool OnlyGrows => Ratchet || Grade == Grade.Worm;

    /// <summary>The dates that start its clocks are those that an item had when it came under it.</summary>
    public bool FixesDates => Grade >= Grade.Declared;
}

/// <summary>
/// The rule of a blanket. It keeps for a period, and perhaps destroys then; or it keeps nothing and destroys after a
/// period.
/// </summary>
/// <param name="From">Created or modified.</param>
/// <param name="Keep">Null: it keeps nothing.</param>
/// <param name="Destroys">What follows <paramref name="Keep"/>; true where it keeps nothing.</param>
/// <param name="DestroyAfter">Only where it keeps nothing.</param>
public sealed record BlanketRule(string Name, TriggerKind From, Period? Keep, bool Destroys, Period? DestroyAfter);

/// <summary>The dates of one clause, for the reasons and the tideline; all null while it waits.</summary>
public readonly record struct ClauseDates(LocalDate? Base, LocalDate? Cutoff, LocalDate? Until);

/// <summary>The dates that only some items have.</summary>
public interface IClockDates
{
    /// <summary>The value of a date field, or null.</summary>
    LocalDate? Field(string name);

    /// <summary>The latest event of this type for the item's subject that was not revoked, or null.</summary>
    LocalDate? Event(string type);
}

/// <summary>
/// What the rules look at in one item. Dates are calendar dates in the organisation's time zone; null is unknown.
/// </summary>
/// <param name="ExtendedUntil">A reviewer's extension: the item is kept at least through this day.</param>
/// <param name="Clocks">Null where the item has neither fields nor events.</param>
/// <param name="Floor">Until when it has been kept by a rule that only grows, or by a place that it was moved from:
/// nothing brings that forward before its disposal.</param>
/// <param name="Declared">Null unless it came under a rule that fixes dates.</param>
public readonly record struct ItemFacts(
    LocalDate? Created,
    LocalDate? Modified,
    LocalDate? Filed,
    LocalDate? ExtendedUntil,
    IClockDates? Clocks,
    KeepUntil Floor = default,
    DeclaredDates? Declared = null
)
{
    /// <summary>The item as a rule sees it: with its declared dates only where the rule fixes dates.</summary>
    public ItemFacts Under(SeriesRule? rule) =>
        Declared is null || rule is { FixesDates: true } ? this : this with { Declared = null };

    /// <summary>The date of a trigger: the declared one before the item's own.</summary>
    public LocalDate? DateOf(Trigger trigger) => Declared?.Of(trigger) ?? trigger.Kind.DateOf(this, trigger.Name);
}

/// <summary>What the rules say of one item.</summary>
/// <param name="State">On the day of asking, holds aside.</param>
/// <param name="KeepUntil">The winner's, also when it has passed.</param>
/// <param name="DisposableFrom">The first day on which the end action may happen, holds aside; null while there is
/// none.</param>
/// <param name="OwnGrade">That of the series; <see cref="Grade.None"/> without one.</param>
/// <param name="OwnGradeUntil">Through which day the series' grade stands; permanent where it stands until
/// disposal.</param>
public readonly record struct Standing(
    ItemState State,
    KeepUntil KeepUntil,
    LocalDate? DisposableFrom,
    EndAction AtEnd,
    Grade OwnGrade,
    KeepUntil OwnGradeUntil
)
{
    /// <summary>Something keeps the item on this day.</summary>
    public bool Keeps(LocalDate today) => KeepUntil >= KeepUntil.On(today);

    /// <summary>
    /// The highest grade that applies on this day: the series' while it stands, else <see cref="Grade.Kept"/> while
    /// anything keeps.
    /// </summary>
    public Grade GradeOn(LocalDate today) =>
        OwnGradeUntil >= KeepUntil.On(today) ? OwnGrade
        : Keeps(today) ? Grade.Kept
        : Grade.None;
}
