using WideKeel.Store;

namespace WideKeel.Server.Kernel;

/// <summary>One thing that a measure looked at.</summary>
/// <param name="Id">Tells it from the others of its measure, the same each time; exclusions name it.</param>
/// <param name="Unit">Name of the unit that it belongs to; empty where it belongs to none.</param>
/// <param name="Right">It is as it should be.</param>
/// <param name="Why">What is wrong, or what was seen, as a sentence.</param>
/// <param name="Link">Path of the screen that shows it; empty where there is none.</param>
public sealed record MeasuredSubject(string Id, string Name, string Unit, bool Right, string Why, string Link);

/// <summary>Who asks for a measure, and where facts are read.</summary>
public sealed record MeasureQuestion(
    WideKeelDb Db,
    IServiceProvider Services,
    OrganisationCalendar Calendar,
    CancellationToken Cancel
);

/// <summary>
/// A share that is computed from facts of the product: so many of so many things are as they should be. Gauges show it,
/// and tests of controls expect it to be whole.
/// </summary>
/// <param name="Name">Lower case with hyphens; it never changes.</param>
/// <param name="Says">What it counts, as a sentence.</param>
/// <param name="Area">access, people, content, operations, suppliers, change, training or risk.</param>
public sealed record Measure(
    string Name,
    string Title,
    string Says,
    string Area,
    Func<MeasureQuestion, Task<IReadOnlyList<MeasuredSubject>>> Ask
)
{
    /// <summary>Where there is nothing to look at, nothing is wrong; else a test of it fails, because a fact is missing.</summary>
    public bool NothingIsRight { get; init; }

    /// <summary>It reads so much that its answer is shown for an hour; a test asks anew.</summary>
    public bool IsCostly { get; init; }

    /// <summary>Another one whenever it asks something else; what was shown under a former one is not shown again.</summary>
    public long Revision { get; init; }
}

/// <summary>What a part can measure of itself.</summary>
public interface IMeasureSource : IContribution
{
    IReadOnlyList<Measure> Measures { get; }
}
