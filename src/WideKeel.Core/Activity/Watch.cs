using System.Globalization;
using NodaTime;
using WideKeel.Core.Query;

namespace WideKeel.Core.Activity;

/// <summary>What a watch looks for; the exact meaning of each stands with <see cref="WatchRun"/>.</summary>
public enum WatchKind
{
    Each,
    Count,
    First,
    Unusual,
    Journey,
    Silence,
    Sequence,
}

/// <summary>Whose events are taken together.</summary>
public enum WatchScope
{
    Organisation,
    Actor,

    /// <summary>People of the same unit and title.</summary>
    Peers,
}

/// <summary>What is measured of a window.</summary>
/// <param name="Distinct">The number of values of this column.</param>
/// <param name="Amount">The sum of the amounts; with neither, the number of events.</param>
public sealed record WatchMeasure(EventColumn? Distinct = null, bool Amount = false)
{
    /// <summary>A measure of this kind, as a sentence begins with it.</summary>
    public string InWords(decimal measure) =>
        Distinct is not null
            ? string.Create(CultureInfo.InvariantCulture, $"{measure} different values of “{Distinct.Name}”")
        : Amount ? string.Create(CultureInfo.InvariantCulture, $"{measure:N0} in amount")
        : string.Create(CultureInfo.InvariantCulture, $"{measure} events");

    /// <summary>As a file names it.</summary>
    public string Code =>
        Distinct is not null ? $"distinct:{Distinct.Name}"
        : Amount ? "sum:amount"
        : "events";
}

/// <summary>A rule over activity that raises alerts.</summary>
/// <param name="Where">The events that count; null for all.</param>
/// <param name="Except">Those of them that do not.</param>
/// <param name="Per">The column whose values are looked at one by one; null for all together.</param>
public abstract record Watch(string Name, WatchKind Kind, Condition? Where, Condition? Except, EventColumn? Per)
{
    /// <summary>Whether an event counts for it.</summary>
    public bool Counts(ActivityEvent e) =>
        (Where is null || EventMatcher.Matches(Where, e)) && (Except is null || !EventMatcher.Matches(Except, e));

    public sealed record Each(string Name, Condition? Where, Condition? Except)
        : Watch(Name, WatchKind.Each, Where, Except, null);

    public sealed record Count(
        string Name,
        Condition? Where,
        Condition? Except,
        EventColumn? Per,
        WatchMeasure Of,
        decimal Threshold,
        Duration Within
    ) : Watch(Name, WatchKind.Count, Where, Except, Per);

    /// <param name="Learn">For so long after its first event a scope only learns.</param>
    public sealed record First(
        string Name,
        Condition? Where,
        Condition? Except,
        EventColumn Dimension,
        WatchScope Scope,
        Duration Learn
    ) : Watch(Name, WatchKind.First, Where, Except, null);

    /// <param name="Sensitivity">The least surprise (−log10 of the tail) that alerts.</param>
    /// <param name="Least">The least measure that alerts.</param>
    public sealed record Unusual(
        string Name,
        Condition? Where,
        Condition? Except,
        EventColumn? Per,
        WatchMeasure Of,
        double Sensitivity,
        decimal Least
    ) : Watch(Name, WatchKind.Unusual, Where, Except, Per);

    public sealed record Journey(string Name, Condition? Where, Condition? Except, double MaxKmh, double MinKm)
        : Watch(Name, WatchKind.Journey, Where, Except, EventColumn.Actor);

    public sealed record Silence(string Name, Condition? Where, Condition? Except, Duration For)
        : Watch(Name, WatchKind.Silence, Where, Except, null);

    public sealed record Sequence(
        string Name,
        Condition? Where,
        Condition? Except,
        Condition Former,
        Condition Then,
        EventColumn? Per,
        Duration Within
    ) : Watch(Name, WatchKind.Sequence, Where, Except, Per);
}

/// <summary>A person as watches know them: whose peers they are.</summary>
public sealed record WatchPerson(string Id, string? Unit, string? Title);

/// <summary>What a watch raised.</summary>
/// <param name="Key">Whose; null where the watch takes all together.</param>
/// <param name="Event">Id of the event at which it is raised; null for silence.</param>
/// <param name="Measure">What was compared; null where it is without bound.</param>
/// <param name="First">Id of the earliest event that it rests on.</param>
public sealed record WatchAlert(
    Watch Watch,
    string? Key,
    Instant At,
    string? Event,
    decimal? Measure,
    string? First,
    string Why
);
