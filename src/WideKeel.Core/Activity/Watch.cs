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
    Rhythm,
    Drift,
    Woken,
    Elsewhere,
}

/// <summary>What a rise is compared with.</summary>
public enum DriftAgainst
{
    Self,
    Peers,

    /// <summary>Both: the rise must exceed both.</summary>
    Both,
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
    /// <summary>The column whose values have histories apart from each other; null where there is one history.</summary>
    public virtual EventColumn? HistoryOf => Per;

    /// <summary>It compares people with others of the same unit and title.</summary>
    public virtual bool LooksAtPeers => false;

    /// <summary>It can raise because time passes and nothing comes.</summary>
    public virtual bool TakesTime => false;

    /// <summary>It is judged by whole clock hours that are over, so that looking more often finds nothing.</summary>
    public virtual bool ByWholeHours => false;

    /// <summary>It counts events whose place is known alone.</summary>
    public virtual bool NeedsPlace => false;

    /// <summary>What it asks of events besides <see cref="Where"/> and <see cref="Except"/>; null for nothing.</summary>
    public virtual Condition? Besides => null;

    /// <summary>The events that an alert is based on: those after the first moment, through the second; null if the
    /// alert names all of them.</summary>
    /// <param name="first">The moment of the event that the alert names first; null if it names none.</param>
    public virtual (Instant After, Instant Through)? SpanOf(Instant at, Instant? first) => null;

    /// <summary>Where it stands among the thresholds that it could have; null where it has none.</summary>
    public virtual double? Mark => null;

    /// <summary>The same watch at a mark; asked where there is one.</summary>
    public virtual Watch At(double mark) => this;

    /// <summary>Marks to compare with its own, about as many below as above, in order; empty where it has
    /// none.</summary>
    public virtual IReadOnlyList<double> OtherMarks => [];

    /// <summary>Its alerts measure a surprise: −log10 of the chance of as much or more.</summary>
    public virtual bool MeasuresSurprise => false;

    /// <summary>What an event has to be to count, as one condition.</summary>
    public Condition Counted
    {
        get
        {
            List<Condition> conditions = [Where ?? new Condition.Everything()];
            if (Except is not null)
            {
                conditions.Add(new Condition.Not(Except));
            }

            if (Besides is { } besides)
            {
                conditions.Add(besides);
            }

            return new Condition.All(conditions);
        }
    }

    /// <summary>Whether an event counts for it.</summary>
    public bool Counts(ActivityEvent e) =>
        (Where is null || EventMatcher.Matches(Where, e)) && (Except is null || !EventMatcher.Matches(Except, e));

    /// <summary>A watch that learns what is usual and alerts from a sensitivity on.</summary>
    /// <param name="Sensitivity">The least surprise that alerts, or what its kind has in place of one.</param>
    public abstract record Sensitive(
        string Name,
        WatchKind Kind,
        Condition? Where,
        Condition? Except,
        EventColumn? Per,
        double Sensitivity
    ) : Watch(Name, Kind, Where, Except, Per)
    {
        private static readonly double[] Surprises = [.. Enumerable.Range(0, 13).Select(i => 2 + (i * 0.5))];

        public override double? Mark => Sensitivity;

        public override Watch At(double mark) => this with { Sensitivity = mark };

        public override IReadOnlyList<double> OtherMarks => Surprises;
    }

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
    ) : Watch(Name, WatchKind.Count, Where, Except, Per)
    {
        public override (Instant After, Instant Through)? SpanOf(Instant at, Instant? first) => (at - Within, at);

        public override double? Mark => (double)Threshold;

        public override Watch At(double mark) => this with { Threshold = (decimal)mark };

        public override IReadOnlyList<double> OtherMarks =>
            [
                .. Enumerable
                    .Range(0, 24)
                    .Select(i => Math.Max(1, Math.Round((double)Threshold * Math.Pow(10, (i - 12) / 12.0))))
                    .Append((double)Threshold)
                    .Distinct()
                    .Order(),
            ];
    }

    /// <summary>Far more in a window than the key's own windows of that length.</summary>
    /// <param name="Sensitivity">The least surprise (−log10 of the tail) that alerts.</param>
    /// <param name="Least">The least measure that alerts.</param>
    public sealed record CountBeyondUsual(
        string Name,
        Condition? Where,
        Condition? Except,
        EventColumn? Per,
        WatchMeasure Of,
        double Sensitivity,
        decimal Least,
        Duration Within
    ) : Sensitive(Name, WatchKind.Count, Where, Except, Per, Sensitivity)
    {
        public override bool MeasuresSurprise => true;

        public override (Instant After, Instant Through)? SpanOf(Instant at, Instant? first) => (at - Within, at);
    }

    /// <param name="Learn">For so long after its first event a scope only learns.</param>
    public sealed record First(
        string Name,
        Condition? Where,
        Condition? Except,
        EventColumn Dimension,
        WatchScope Scope,
        Duration Learn
    ) : Watch(Name, WatchKind.First, Where, Except, null)
    {
        public override EventColumn? HistoryOf => Scope == WatchScope.Organisation ? null : EventColumn.Actor;

        public override bool LooksAtPeers => Scope == WatchScope.Peers;
    }

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
    ) : Sensitive(Name, WatchKind.Unusual, Where, Except, Per, Sensitivity)
    {
        public override bool MeasuresSurprise => true;

        // A person with little history is compared with peers, so an event of one changes the result of all.
        public override bool LooksAtPeers => Per == EventColumn.Actor;

        public override (Instant After, Instant Through)? SpanOf(Instant at, Instant? first) =>
            (at - Duration.Epsilon, at + Duration.FromHours(1) - Duration.Epsilon);
    }

    public sealed record Journey(string Name, Condition? Where, Condition? Except, double MaxKmh, double MinKm)
        : Watch(Name, WatchKind.Journey, Where, Except, EventColumn.Actor)
    {
        private static readonly Condition SignIns = QueryCompiler
            .Compile("action = sign-in and outcome = success", LocalDate.MinIsoValue, EventColumn.Vocabulary)
            .Value.Condition;

        public override bool NeedsPlace => true;

        public override Condition? Besides => SignIns;

        public override double? Mark => MaxKmh;

        public override Watch At(double mark) => this with { MaxKmh = mark };

        public override IReadOnlyList<double> OtherMarks => [.. Enumerable.Range(1, 15).Select(i => i * 100.0)];
    }

    public sealed record Silence(string Name, Condition? Where, Condition? Except, Duration For)
        : Watch(Name, WatchKind.Silence, Where, Except, null)
    {
        public override bool TakesTime => true;
    }

    public sealed record Sequence(
        string Name,
        Condition? Where,
        Condition? Except,
        Condition Former,
        Condition Then,
        EventColumn? Per,
        Duration Within
    ) : Watch(Name, WatchKind.Sequence, Where, Except, Per)
    {
        public override Condition? Besides => new Condition.Any([Former, Then]);

        public override (Instant After, Instant Through)? SpanOf(Instant at, Instant? first) =>
            (at - Within - Duration.Epsilon, at);
    }

    /// <summary>Quiet for longer than the key's own hours of the week make likely.</summary>
    /// <param name="Sensitivity">The least surprise (−log10 of the chance of so long a quiet) that alerts.</param>
    public sealed record Rhythm(string Name, Condition? Where, Condition? Except, EventColumn? Per, double Sensitivity)
        : Sensitive(Name, WatchKind.Rhythm, Where, Except, Per, Sensitivity)
    {
        public override bool TakesTime => true;

        public override bool ByWholeHours => true;
    }

    /// <summary>A rise that lasts for days or weeks.</summary>
    /// <param name="Sensitivity">The least cumulative sum that alerts, in standard deviations.</param>
    public sealed record Drift(
        string Name,
        Condition? Where,
        Condition? Except,
        EventColumn? Per,
        WatchMeasure Of,
        DriftAgainst Against,
        double Sensitivity
    ) : Sensitive(Name, WatchKind.Drift, Where, Except, Per, Sensitivity)
    {
        public override (Instant After, Instant Through)? SpanOf(Instant at, Instant? first) =>
            first is { } begun ? (begun - Duration.Epsilon, at) : null;

        public override bool LooksAtPeers => Against != DriftAgainst.Self;

        public override IReadOnlyList<double> OtherMarks => [3, 4, 5, 6, 7, 8, 10, 12];
    }

    /// <summary>The first event after a long quiet.</summary>
    public sealed record Woken(string Name, Condition? Where, Condition? Except, EventColumn? Per, Duration Quiet)
        : Watch(Name, WatchKind.Woken, Where, Except, Per);

    /// <summary>One actor active at two places within a short time, whatever is done there.</summary>
    public sealed record Elsewhere(string Name, Condition? Where, Condition? Except, Duration Within, double MinKm)
        : Watch(Name, WatchKind.Elsewhere, Where, Except, EventColumn.Actor)
    {
        public override bool NeedsPlace => true;

        public override (Instant After, Instant Through)? SpanOf(Instant at, Instant? first) =>
            (at - Within - Duration.Epsilon, at);

        public override double? Mark => MinKm;

        public override Watch At(double mark) => this with { MinKm = mark };

        public override IReadOnlyList<double> OtherMarks => [.. Enumerable.Range(1, 15).Select(i => i * 100.0)];
    }
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
