using System.Text.RegularExpressions;
using NodaTime;
using WideKeel.Core.Content;
using WideKeel.Core.Time;

namespace WideKeel.Core.Retention;

public enum TriggerKind
{
    Created,
    Modified,
    Filed,

    /// <summary>A date field of the item.</summary>
    Field,

    /// <summary>The latest event of a type for the item's subject.</summary>
    Event,
}

/// <summary>Where the clock of a clause starts.</summary>
/// <param name="Name">Of the field or of the type of event; null for the dates that every item has.</param>
public readonly partial record struct Trigger(TriggerKind Kind, string? Name = null)
{
    public static Trigger Created { get; } = new(TriggerKind.Created);

    public static Trigger Modified { get; } = new(TriggerKind.Modified);

    public static Trigger Filed { get; } = new(TriggerKind.Filed);

    public static Trigger Field(string name) => new(TriggerKind.Field, name);

    public static Trigger Event(string type) => new(TriggerKind.Event, type);

    /// <summary><c>created</c>, <c>modified</c>, <c>filed</c>, <c>field:NAME</c> or <c>event:TYPE</c>.</summary>
    public string Code =>
        Kind switch
        {
            TriggerKind.Created => "created",
            TriggerKind.Modified => "modified",
            TriggerKind.Filed => "filed",
            TriggerKind.Field => $"field:{Name}",
            TriggerKind.Event => $"event:{Name}",
            _ => throw new InvalidOperationException($"No such trigger: {Kind}."),
        };

    public static Outcome<Trigger> Parse(string? code, string field = "trigger") =>
        code switch
        {
            "created" => Created,
            "modified" => Modified,
            "filed" => Filed,
            not null when NamedShape().Match(code) is { Success: true } match => match.Groups[1].Value == "field"
                ? Field(match.Groups[2].Value)
                : Event(match.Groups[2].Value),
            _ => new Refusal(
                "trigger-unknown",
                field,
                "The clock starts at created, modified, filed, field:NAME or event:TYPE; a name has small letters, digits and hyphens, at most 40."
            ),
        };

    public static bool IsName(string? text) => text is not null && NameShape().IsMatch(text);

    [GeneratedRegex(@"\A(field|event):([a-z][a-z0-9\-]{0,39})\z")]
    private static partial Regex NamedShape();

    [GeneratedRegex(@"\A[a-z][a-z0-9\-]{0,39}\z")]
    private static partial Regex NameShape();
}

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

/// <summary>Trigger → base date B; cutoff → C, the last day of the period that contains B; period → keep-until K = C + P.</summary>
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
);

/// <summary>The rule of a blanket. It keeps for a period, and perhaps destroys then; or it keeps nothing and destroys after a period.</summary>
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

/// <summary>What the rules look at in one item. Dates are calendar dates in the organisation's time zone; null is unknown.</summary>
/// <param name="ExtendedUntil">A reviewer's extension: the item is kept at least through this day.</param>
/// <param name="Clocks">Null where the item has neither fields nor events.</param>
public readonly record struct ItemFacts(
    LocalDate? Created,
    LocalDate? Modified,
    LocalDate? Filed,
    LocalDate? ExtendedUntil,
    IClockDates? Clocks
);

/// <summary>What the rules say of one item.</summary>
/// <param name="State">On the day of asking, holds aside.</param>
/// <param name="KeepUntil">The winner's, also when it has passed.</param>
/// <param name="DisposableFrom">The first day on which the end action may happen, holds aside; null while there is none.</param>
/// <param name="OwnGrade">That of the series; <see cref="Grade.None"/> without one.</param>
/// <param name="OwnGradeUntil">Through which day the series' grade stands; permanent where it stands until disposal.</param>
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

    /// <summary>The highest grade that applies on this day: the series' while it stands, else <see cref="Grade.Kept"/> while anything keeps.</summary>
    public Grade GradeOn(LocalDate today) =>
        OwnGradeUntil >= KeepUntil.On(today) ? OwnGrade
        : Keeps(today) ? Grade.Kept
        : Grade.None;
}
