using NodaTime;

namespace WideKeel.Core.Readiness;

/// <summary>Something that shows that a control works: a test, a routine or a piece of evidence.</summary>
/// <param name="Weight">0 or more.</param>
public abstract record ControlPart(decimal Weight)
{
    /// <summary>Whether it counts on a day, if nobody does anything until then.</summary>
    public abstract bool CountsOn(LocalDate day);

    /// <param name="Ran">The day of its last run; null before the first.</param>
    /// <param name="Period">For how long a run speaks.</param>
    public sealed record Test(decimal Weight, bool Passed, LocalDate? Ran, Period Period) : ControlPart(Weight)
    {
        public override bool CountsOn(LocalDate day) => Passed && Ran is { } ran && Period.AddTo(ran) >= day;
    }

    /// <param name="Due">Its latest due date.</param>
    /// <param name="Next">The one after it.</param>
    /// <param name="DoneFor">The due date that the last proof was for.</param>
    public sealed record Routine(decimal Weight, LocalDate? Due, LocalDate? Next, LocalDate? DoneFor)
        : ControlPart(Weight)
    {
        public override bool CountsOn(LocalDate day)
        {
            LocalDate? wanted = null;
            foreach (var due in new[] { Due, Next })
            {
                wanted = due <= day && !(due <= wanted) ? due : wanted;
            }

            return wanted is null || DoneFor >= wanted;
        }
    }

    /// <param name="Fresh">For how long it speaks after it was taken.</param>
    public sealed record Evidence(decimal Weight, LocalDate? Taken, Period Fresh) : ControlPart(Weight)
    {
        public override bool CountsOn(LocalDate day) => Taken is { } taken && Fresh.AddTo(taken) >= day;
    }
}

/// <param name="Units">Where it applies; null for everywhere.</param>
/// <param name="Maps">Ids of the requirements that it serves.</param>
/// <param name="Applicable">False where it was declared not applicable, with approval.</param>
/// <param name="Effort">Hours to mend it.</param>
public sealed record Control(
    string Id,
    IReadOnlySet<string>? Units,
    IReadOnlySet<string> Maps,
    bool Applicable,
    decimal Weight,
    decimal Effort,
    IReadOnlyList<ControlPart> Parts
)
{
    public bool AppliesIn(string unit) => Units is null || Units.Contains(unit);
}

/// <param name="People">How many are in scope; the unit's weight.</param>
public sealed record ReadinessUnit(string Id, decimal People);

public sealed record Requirement(string Id, decimal Weight);

public sealed record Framework(string Id, IReadOnlyList<Requirement> Requirements);

public sealed record ReadinessModel(
    IReadOnlyList<ReadinessUnit> Units,
    IReadOnlyList<Framework> Frameworks,
    IReadOnlyList<Control> Controls
);

public enum ControlState
{
    Ready,
    Partly,
    NotSetUp,
    NotApplicable,
}

public enum RequirementState
{
    Answered,

    /// <summary>No control serves it.</summary>
    Unanswered,

    /// <summary>All controls that serve it were declared not applicable.</summary>
    NotApplicable,
}

/// <param name="Readiness">0 to 1; null where there is nothing to divide by.</param>
public sealed record ControlFigure(string Id, decimal? Readiness, ControlState State);

public sealed record RequirementFigure(string Id, decimal? Readiness, RequirementState State);

public sealed record UnitFigure(string Id, decimal? Readiness);

public sealed record FrameworkFigure(
    string Id,
    decimal? Readiness,
    IReadOnlyList<UnitFigure> Units,
    IReadOnlyList<RequirementFigure> Requirements
);

public sealed record ReadinessFigures(
    LocalDate AsOf,
    IReadOnlyList<ControlFigure> Controls,
    IReadOnlyList<FrameworkFigure> Frameworks
)
{
    /// <summary>The mean of the frameworks that have a figure; null where none has.</summary>
    public decimal? Mean =>
        Frameworks.Select(f => f.Readiness).OfType<decimal>().ToList() is { Count: > 0 } all ? all.Average() : null;
}

/// <param name="Gain">How far the mean of all frameworks rises.</param>
/// <param name="ReadinessAfter">That mean once this fix and those before it are done.</param>
public sealed record Fix(string Control, decimal Hours, decimal Gain, decimal ReadinessAfter);
