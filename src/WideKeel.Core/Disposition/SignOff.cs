using NodaTime;
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

    /// <summary>Kept longer, until a day or for a period.</summary>
    Extend,

    /// <summary>It was under the wrong series.</summary>
    Refile,

    /// <summary>Handed over to an archive as part of a bundle, then removed here.</summary>
    Transfer,

    /// <summary>Somebody else is asked first; nobody signs while an answer is outstanding.</summary>
    Ask,
}

/// <summary>Who would sign.</summary>
/// <param name="Mail">As stages name people.</param>
public sealed record Signer(long PersonId, string Mail, IReadOnlyCollection<Remit> Remits)
{
    /// <summary>Ids of all who count as this one person: one of them may have acted with another's password.</summary>
    public IReadOnlyCollection<long> Selves { get; init; } = [PersonId];
}

/// <summary>One signature: who, when they stand in the order.</summary>
public readonly record struct Signature(int Stage, long PersonId);

/// <summary>
/// The rules of signing: stages in order, each person once, at least two people, and the right role for the stage.
/// </summary>
public static class SignOffRules
{
    private static Refusal? HasSigned(IReadOnlyList<Signature> signatures, Signer signer) =>
        signatures.Any(s => s.PersonId == signer.PersonId)
            ? Refusal.Forbidden(
                "second-person-needed",
                null,
                "You have signed this batch already; the next stage needs another person."
            )
        : signatures.Any(s => signer.Selves.Contains(s.PersonId))
            ? Refusal.Forbidden(
                "second-person-needed",
                null,
                "One of you set the other's password within 30 days; the next stage needs somebody else."
            )
        : null;

    /// <summary>Null when the person may sign the next stage.</summary>
    /// <param name="unit">The unit of the batch's series.</param>
    /// <param name="overdue">Whether the next stage has waited longer than its days, so that a deputy may sign.</param>
    /// <param name="questions">How many lines wait for somebody's answer.</param>
    public static Refusal? MaySign(
        BatchState state,
        IReadOnlyList<Stage> stages,
        IReadOnlyList<Signature> signatures,
        Signer signer,
        UnitPath unit,
        bool overdue = false,
        int questions = 0
    )
    {
        if (state is not (BatchState.Open or BatchState.Signing))
        {
            return Refusal.Conflict("batch-closed", null, "This batch takes no more signatures.");
        }

        if (HasSigned(signatures, signer) is { } twice)
        {
            return twice;
        }

        var next = signatures.Count;
        if (next >= stages.Count)
        {
            return Refusal.Conflict("batch-complete", null, "Every stage of this batch is signed.");
        }

        var stage = stages[next];
        if (!signer.Remits.Any(r => r.Role == stage.Role && r.Unit.Covers(unit)))
        {
            return Refusal.Forbidden(
                "stage-of-another",
                null,
                $"Stage {next + 1} is signed by a {RightsPolicy.WordsOf(stage.Role)} whose remit covers this series."
            );
        }

        if (stage.Person.Length > 0 && !Is(stage.Person) && !(Is(stage.Deputy) && overdue))
        {
            return Refusal.Forbidden(
                "stage-of-another",
                null,
                Is(stage.Deputy)
                    ? $"Stage {next + 1} is signed by {stage.Person}; you may sign instead once it is overdue."
                    : $"Stage {next + 1} is signed by "
                        + $"{stage.Person}{(stage.Deputy.Length > 0 && overdue ? $", or by {stage.Deputy}, because it is overdue" : "")}."
            );
        }

        return questions > 0
            ? Refusal.Conflict(
                "question-open",
                null,
                $"{(questions == 1 ? "One item waits" : $"{questions} items wait")} for somebody's answer. Mark "
                    + $"{(questions == 1 ? "it" : "them")} once the answer is there; then it can be signed."
            )
            : null;

        bool Is(string mail) => string.Equals(mail, signer.Mail, StringComparison.OrdinalIgnoreCase);
    }

    /// <summary>The first day on which the stage is overdue.</summary>
    /// <param name="since">The day on which the stage began to wait.</param>
    public static LocalDate OverdueFrom(Stage stage, LocalDate since) => since.PlusDays(stage.Days + 1);

    /// <summary>
    /// Whether this is a day to remind: half-way through the stage's days, its last day, and once a week from the day
    /// it is overdue.
    /// </summary>
    public static bool Reminds(Stage stage, LocalDate since, LocalDate today)
    {
        var waited = NodaTime.Period.DaysBetween(since, today);
        return waited > 0
            && (
                waited == stage.Days
                || (stage.Days >= 4 && waited == stage.Days / 2)
                || (waited > stage.Days && (waited - stage.Days - 1) % 7 == 0)
            );
    }

    public static bool Complete(IReadOnlyList<Stage> stages, int signatures) => signatures >= stages.Count;
}
