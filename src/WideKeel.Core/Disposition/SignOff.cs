using WideKeel.Core.People;
using WideKeel.Core.Retention;

namespace WideKeel.Core.Disposition;

/// <summary>Where a batch stands.</summary>
public enum BatchState
{
    /// <summary>Being looked through; lines can be marked.</summary>
    Open,

    /// <summary>At least one has signed; the marks are settled and wait for the next signature.</summary>
    Signing,

    /// <summary>All have signed; the job is destroying.</summary>
    Executing,

    Done,

    /// <summary>Taken back; its items are due again.</summary>
    Withdrawn,
}

/// <summary>What a reviewer decided for one item.</summary>
public enum Mark
{
    Destroy,
    Extend,
}

/// <summary>One signature: who, when they stand in the order.</summary>
public readonly record struct Signature(int Stage, long PersonId);

/// <summary>The rules of signing: stages in order, each person once, at least two people, and the right role for the stage.</summary>
public static class SignOffRules
{
    /// <summary>Null when the person may sign the next stage.</summary>
    /// <param name="unit">The unit of the batch's series.</param>
    public static Refusal? MaySign(BatchState state, IReadOnlyList<Stage> stages, IReadOnlyList<Signature> signatures, long personId, IReadOnlyCollection<Remit> remits, UnitPath unit)
    {
        if (state is not (BatchState.Open or BatchState.Signing))
        {
            return new("batch-closed", null, "This batch takes no more signatures.");
        }

        if (signatures.Any(s => s.PersonId == personId))
        {
            return new("second-person-needed", null, "You have signed this batch already; the next stage needs another person.");
        }

        var next = signatures.Count;
        if (next >= stages.Count)
        {
            return new("batch-complete", null, "Every stage of this batch is signed.");
        }

        var role = stages[next].Role;
        return remits.Any(r => r.Role == role && r.Unit.Covers(unit))
            ? null
            : new("stage-of-another", null, $"Stage {next + 1} is signed by a {Words(role)} whose remit covers this series.");
    }

    public static bool Complete(IReadOnlyList<Stage> stages, int signatures) => signatures >= stages.Count;

    private static string Words(Role role) => role switch
    {
        Role.RecordsManager => "records manager",
        Role.Steward => "steward",
        Role.Staff => "member of staff",
        Role.Administrator => "administrator",
        _ => throw new ArgumentOutOfRangeException(nameof(role)),
    };
}
