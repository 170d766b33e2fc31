using WideKeel.Core.Content;
using WideKeel.Core.Retention;

namespace WideKeel.Core.Tests.Retention;

public class GradeTableTests
{
    /// <summary>
    /// The table of grades, row by row: y allowed, c allowed with a copy, l allowed and in the ledger, 2 with a second
    /// person, n refused.
    /// </summary>
    [Theory]
    [InlineData(Operation.EditContent, "ycnn")]
    [InlineData(Operation.EditFields, "yyln")]
    [InlineData(Operation.MoveWithin, "yyyy")]
    [InlineData(Operation.MoveAcross, "yyyn")]
    [InlineData(Operation.MoveAway, "yynn")]
    [InlineData(Operation.Delete, "ycnn")]
    [InlineData(Operation.TakeOff, "yy2n")]
    [InlineData(Operation.Shorten, "yy2n")]
    public void Each_operation_is_decided_by_the_grade(Operation operation, string none_kept_declared_worm) =>
        string.Concat(Enum.GetValues<Grade>().Select(g => Letter(GradeTable.Decide(g, false, operation))))
            .ShouldBe(none_kept_declared_worm);

    [Fact]
    public void A_refusal_says_why_in_one_sentence_and_is_in_the_ledger()
    {
        var refused = (
            from g in Enum.GetValues<Grade>()
            from o in Enum.GetValues<Operation>()
            select GradeTable.Decide(g, false, o)
        )
            .Where(d => !d.Allowed)
            .ToList();
        refused.ShouldNotBeEmpty();
        refused.ShouldAllBe(d => d.InLedger && d.Sentence!.EndsWith('.'));
    }

    [Fact]
    public void Under_a_hold_edit_and_delete_behave_at_least_as_kept()
    {
        foreach (var operation in new[] { Operation.EditContent, Operation.Delete })
        {
            GradeTable.Decide(Grade.None, true, operation).CopiesFirst.ShouldBeTrue();
            GradeTable.Decide(Grade.Worm, true, operation).ShouldBe(GradeTable.Decide(Grade.Worm, false, operation));
        }

        GradeTable.Decide(Grade.None, true, Operation.MoveWithin).CopiesFirst.ShouldBeFalse();
    }

    private static char Letter(GradeDecision decision) =>
        decision switch
        {
            { Allowed: false } => 'n',
            { NeedsSecondPerson: true } => '2',
            { CopiesFirst: true } => 'c',
            { InLedger: true } => 'l',
            _ => 'y',
        };
}
