using WideKeel.Store;

namespace WideKeel.Server.Kernel;

/// <summary>One thing found by the search field in the masthead.</summary>
public sealed record FindHit(string Kind, string Title, string Note, string Link);

/// <summary>What was typed, by whom, and where to look.</summary>
public sealed record FindQuestion(
    string Words,
    Caller Caller,
    WideKeelDb Db,
    OrganisationCalendar Calendar,
    CancellationToken Cancel
)
{
    /// <summary>Whether a name holds what was typed, in whatever case.</summary>
    public bool Fits(string name) => name.Contains(Words, StringComparison.OrdinalIgnoreCase);
}

/// <summary>What the search field finds in one part.</summary>
public interface IFindSource : IContribution
{
    /// <summary>The best few, within what the caller may see.</summary>
    Task<IReadOnlyList<FindHit>> FindAsync(FindQuestion asked);
}
