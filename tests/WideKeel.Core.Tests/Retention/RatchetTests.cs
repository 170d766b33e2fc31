using CsCheck;
using WideKeel.Core.Content;
using WideKeel.Core.Retention;
using WideKeel.Core.Time;

namespace WideKeel.Core.Tests.Retention;

public class RatchetTests
{
    private static readonly Evaluator Engine = new(Any.Today, new FiscalYearEnd(9, 30));

    private static SeriesRule Rule(
        string clauses,
        ClauseJoin join = ClauseJoin.Later,
        Grade grade = Grade.Kept,
        EndAction atEnd = EndAction.SignOff
    ) =>
        new(
            "S",
            grade,
            atEnd,
            clauses.Length == 0,
            join,
            [
                .. clauses
                    .Split(';', StringSplitOptions.RemoveEmptyEntries)
                    .Select(c => c.Split(' '))
                    .Select(p => new Clause(
                        Trigger.Parse(p[0]).Value,
                        Enum.Parse<Cutoff>(p[1], true),
                        Period.Parse(p[2]).Value
                    )),
            ]
        );

    [Fact]
    public void What_the_ratchet_lets_through_keeps_no_item_for_a_shorter_time() =>
        Gen.Select(Any.Rule, Any.Rule, Any.Item.Array[1, 20])
            .Sample(
                (before, after, items) =>
                {
                    if (Ratchet.Loosens(before, after) is null)
                    {
                        items.ShouldAllBe(i => Engine.Until(after, i) >= Engine.Until(before, i));
                    }
                },
                iter: 3_000
            );

    [Fact]
    public void Longer_periods_and_added_cutoffs_pass_whatever_the_rule() =>
        Gen.Select(Any.Rule, Gen.Int[0, 30], Gen.Int[0, 400])
            .Sample(
                (rule, months, days) =>
                    Ratchet.Loosens(
                        rule,
                        rule with
                        {
                            Clauses =
                            [
                                .. rule.Clauses.Select(c =>
                                    c with
                                    {
                                        Cutoff = c.Cutoff == Cutoff.None ? Cutoff.Year : c.Cutoff,
                                        Period = new(c.Period.Years, c.Period.Months + months, 0, c.Period.Days + days),
                                    }
                                ),
                            ],
                        }
                    )
                        is null
            );

    [Theory]
    [InlineData("created none P7Y", "created none P7Y", false)]
    [InlineData("created none P7Y", "created none P84M", false)]
    [InlineData("created none P7Y", "created none P6Y", true)]
    [InlineData("created none P1M", "created none P31D", false)]
    [InlineData("created none P1M", "created none P30D", true)]
    [InlineData("created none P28D", "created none P1M", false)]
    [InlineData("created none P29D", "created none P1M", true)]
    [InlineData("created month P1Y", "created quarter P1Y", false)]
    [InlineData("created year P1Y", "created fiscal P1Y", true)]
    [InlineData("created none P1Y", "created fiscal P1Y", false)]
    [InlineData("created none P1Y", "modified none P9Y", true)]
    [InlineData("created none P1Y", "created none P1Y;event:left none P1Y", false)]
    [InlineData("created none P1Y;event:left none P1Y", "created none P1Y", true)]
    [InlineData("created none P1Y", "", false)]
    [InlineData("", "created none P99Y", true)]
    public void Later_of_clauses_is_loosened_by_shortening_dropping_or_moving_a_clock(
        string before,
        string after,
        bool loosens
    ) => (Ratchet.Loosens(Rule(before), Rule(after)) is not null).ShouldBe(loosens);

    [Theory]
    [InlineData("created none P1Y;field:closed none P1Y", "created none P1Y", false)]
    [InlineData("created none P1Y", "created none P1Y;field:closed none P1Y", true)]
    public void Earlier_of_clauses_is_loosened_by_adding_one(string before, string after, bool loosens) =>
        (Ratchet.Loosens(Rule(before, ClauseJoin.Earlier), Rule(after, ClauseJoin.Earlier)) is not null).ShouldBe(
            loosens
        );

    [Fact]
    public void A_lower_grade_and_destruction_without_sign_off_loosen()
    {
        Ratchet
            .Loosens(Rule("created none P1Y", grade: Grade.Declared), Rule("created none P1Y"))
            .ShouldBe("its grade is lowered");
        Ratchet
            .Loosens(Rule("created none P1Y"), Rule("created none P1Y", atEnd: EndAction.Destroy))
            .ShouldBe("items would be destroyed without sign-off");
        Ratchet.Loosens(Rule("created none P1Y"), Rule("created none P1Y", grade: Grade.Worm)).ShouldBeNull();
    }

    [Fact]
    public void An_end_without_sign_off_or_transfer_lets_the_grade_end_with_the_term() =>
        Ratchet
            .Loosens(Rule("created none P5Y"), Rule("created none P5Y", atEnd: EndAction.Nothing))
            .ShouldBe("its grade would end with its term, and anybody could delete what is signed for today");

    [Fact]
    public void What_is_kept_permanently_may_lose_its_end() =>
        Ratchet.Loosens(Rule("created none P5Y"), Rule("", atEnd: EndAction.Nothing)).ShouldBeNull();
}
