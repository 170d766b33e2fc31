using WideKeel.Core.Content;

namespace WideKeel.Core.Retention;

/// <summary>What somebody wants to do with an item, or with the rule over it.</summary>
public enum Operation
{
    EditContent,
    EditFields,
    MoveWithin,

    /// <summary>To another container of the same source.</summary>
    MoveAcross,

    /// <summary>To another source.</summary>
    MoveAway,
    Delete,
    TakeOff,
    Shorten,
}

/// <summary>Whether and how an operation may be done.</summary>
/// <param name="CopiesFirst">The former state goes to safekeeping before anything changes.</param>
/// <param name="InLedger">The ledger notes it even where it would not otherwise.</param>
/// <param name="NeedsSecondPerson">Asked for with a reason by a records manager, and approved by another
/// person.</param>
/// <param name="Sentence">Why not, or under what condition; null when it is simply allowed.</param>
public sealed record GradeDecision(
    bool Allowed,
    bool CopiesFirst,
    bool InLedger,
    bool NeedsSecondPerson,
    string? Sentence
);

/// <summary>The one table that says what each grade lets be done.</summary>
public static class GradeTable
{
    private static readonly GradeDecision Yes = new(true, false, false, false, null);
    private static readonly GradeDecision Noted = Yes with { InLedger = true };

    /// <param name="grade">That applies to the item today.</param>
    /// <param name="held">A hold is in force over it: edit and delete behave at least as under
    /// <see cref="Grade.Kept"/>.</param>
    /// <remarks>Long because it is the table itself, a line for each of its cells.</remarks>
    public static GradeDecision Decide(Grade grade, bool held, Operation operation) =>
        (grade, operation) switch
        {
            (Grade.None, Operation.EditContent or Operation.Delete) when held => CopyOf(
                "It is kept for another reason"
            ),
            (Grade.None, _) => Yes,
            (Grade.Kept, Operation.EditContent) => CopyOf("Its former version is kept"),
            (Grade.Kept, Operation.Delete) => CopyOf("It disappears here and is kept in safekeeping"),
            (Grade.Kept, _) => Yes,
            (Grade.Declared, Operation.EditContent) => No(
                "It is declared a record: its content stays as it is. A new version becomes a new item, linked to this one."
            ),
            (Grade.Declared, Operation.EditFields) => Noted,
            (Grade.Declared, Operation.MoveWithin or Operation.MoveAcross) => Yes,
            (Grade.Declared, Operation.MoveAway) => No(
                "It is declared a record: it may be moved within its source only."
            ),
            (Grade.Declared, Operation.Delete) => No(
                "It is declared a record: it is not deleted before its disposition."
            ),
            (Grade.Declared, Operation.TakeOff) => Second(
                "It is declared a record: a records manager takes it off its series with a reason, and a second person agrees."
            ),
            (Grade.Declared, Operation.Shorten) => Second(
                "Its items are declared records: to keep them for a shorter time, a second person agrees."
            ),
            (Grade.Worm, Operation.MoveWithin) => Yes,
            (Grade.Worm, Operation.EditContent) => No("It is WORM: nobody changes its content while its term runs."),
            (Grade.Worm, Operation.EditFields) => No("It is WORM: its name and fields stay as they are."),
            (Grade.Worm, Operation.MoveAcross or Operation.MoveAway) => No("It is WORM: it stays in its container."),
            (Grade.Worm, Operation.Delete) => No("It is WORM: nobody deletes it while its term runs, whoever asks."),
            (Grade.Worm, Operation.TakeOff) => No("It is WORM: it is never taken off its series."),
            (Grade.Worm, Operation.Shorten) => No("Its items are WORM: their term can be lengthened, never shortened."),
            _ => throw new ArgumentOutOfRangeException(nameof(operation)),
        };

    private static GradeDecision CopyOf(string sentence) => new(true, true, false, false, $"{sentence}.");

    private static GradeDecision No(string sentence) => new(false, false, true, false, sentence);

    private static GradeDecision Second(string sentence) => new(true, false, true, true, sentence);
}
