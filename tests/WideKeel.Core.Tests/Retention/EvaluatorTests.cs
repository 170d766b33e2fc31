using CsCheck;
using NodaTime;
using NodaTime.Text;
using WideKeel.Core.Content;
using WideKeel.Core.Retention;
using WideKeel.Core.Time;

namespace WideKeel.Core.Tests.Retention;

/// <summary>Random rules and items, for the properties of several tests.</summary>
internal static class Any
{
    public static readonly LocalDate Today = new(2026, 6, 15);
    public static readonly Gen<LocalDate> Date = Gen.Int[-20_000, 25_000].Select(DayNumber.ToDate);
    public static readonly Gen<Period> Period = Gen.Select(Gen.Int[0, 12], Gen.Int[0, 20], Gen.Int[1, 500])
        .Select((y, m, d) => new Period(y, m, 0, d));
    public static readonly Gen<Trigger> Trigger = Gen.OneOf(
        Gen.Const(Core.Retention.Trigger.Created),
        Gen.Const(Core.Retention.Trigger.Modified),
        Gen.Const(Core.Retention.Trigger.Field("closed")),
        Gen.Const(Core.Retention.Trigger.Event("left"))
    );
    public static readonly Gen<Clause> Clause = Gen.Select(Trigger, Gen.Enum<Cutoff>(), Period)
        .Select((t, c, p) => new Clause(t, c, p));
    public static readonly Gen<SeriesRule> Rule = Gen.Select(
            Clause.Array[1, 4],
            Gen.Enum<ClauseJoin>(),
            Gen.Enum<EndAction>()
        )
        .Select((c, j, e) => new SeriesRule("S", Grade.Kept, e, false, j, c));

    public static readonly Gen<ItemFacts> Item = Gen.Select(
            Gen.Select(Date, Date, Date),
            Date,
            Date,
            Gen.Bool,
            Gen.Bool,
            Gen.Int[0, 9]
        )
        .Select(
            (dates, field, fired, hasField, hasEvent, ten) =>
                new ItemFacts(
                    dates.Item1,
                    dates.Item2,
                    null,
                    ten == 0 ? dates.Item3 : null,
                    new Clocks(hasField ? field : null, hasEvent ? fired : null)
                )
        );

    public static ItemFacts On(LocalDate date) => new(date, date, date, null, null);

    public sealed record Clocks(LocalDate? Closed, LocalDate? Left) : IClockDates
    {
        public LocalDate? Field(string name) => name == "closed" ? Closed : null;

        public LocalDate? Event(string type) => type == "left" ? Left : null;
    }
}

public class EvaluatorTests
{
    private static readonly LocalDate Today = Any.Today;
    private static readonly Evaluator Engine = new(Today, new FiscalYearEnd(9, 30));

    private static SeriesRule Rule(EndAction atEnd, params Clause[] clauses) =>
        new("VES-010", Grade.Kept, atEnd, clauses.Length == 0, ClauseJoin.Later, clauses);

    private static Clause OneYear(Trigger trigger) => new(trigger, Cutoff.None, Period.OfYears(1));

    [Theory]
    // 29 CFR 1904.33(a): injury logs five years following the end of the calendar year that they cover.
    [InlineData("created", Cutoff.Year, "P5Y", "2020-03-14", "2025-12-31")]
    // 29 CFR 516.5: payroll at least three years from the last date of entry.
    [InlineData("created", Cutoff.None, "P3Y", "2023-06-14", "2026-06-14")]
    // 17 CFR 210.2-06: audit workpapers seven years after the audit or review is concluded.
    [InlineData("event:left", Cutoff.None, "P7Y", "2020-02-29", "2027-02-28")]
    // MARPOL Annex I, regulation 17.6: oil record book three years after the last entry.
    [InlineData("field:closed", Cutoff.None, "P3Y", "2024-02-29", "2027-02-28")]
    // 45 CFR 164.316(b)(2)(i): six years from creation.
    [InlineData("created", Cutoff.None, "P6Y", "2020-06-15", "2026-06-15")]
    // Common practice: seven fiscal years, year ending 30 September.
    [InlineData("created", Cutoff.Fiscal, "P7Y", "2018-10-01", "2026-09-30")]
    public void Published_periods_on_worked_dates(
        string trigger,
        Cutoff cutoff,
        string period,
        string start,
        string keepUntil
    )
    {
        var date = Day(start);
        var item = Any.On(date) with { Clocks = new Any.Clocks(date, date) };
        var standing = Engine.Evaluate(
            Rule(EndAction.SignOff, new Clause(Trigger.Parse(trigger).Value, cutoff, Period.Parse(period).Value)),
            [],
            item
        );
        standing.KeepUntil.Date.ShouldBe(Day(keepUntil));
        standing.DisposableFrom.ShouldBe(Day(keepUntil).PlusDays(1));
    }

    [Fact]
    public void An_item_is_kept_through_its_last_day_and_due_on_the_next()
    {
        var rule = Rule(EndAction.SignOff, OneYear(Trigger.Created));
        Engine.Evaluate(rule, [], Any.On(Today.PlusYears(-1))).State.ShouldBe(ItemState.InTerm);
        Engine.Evaluate(rule, [], Any.On(Today.PlusYears(-1).PlusDays(-1))).State.ShouldBe(ItemState.Due);
    }

    [Theory]
    [InlineData("1899-12-31")]
    [InlineData("2099-01-01")]
    [InlineData("1601-01-01")]
    [InlineData(null)]
    public void An_absurd_or_missing_field_date_waits_and_is_never_guessed(string? date)
    {
        var item = Any.On(Today) with { Clocks = new Any.Clocks(date is null ? null : Day(date), null) };
        var standing = Engine.Evaluate(Rule(EndAction.SignOff, OneYear(Trigger.Field("closed"))), [], item);
        standing.State.ShouldBe(ItemState.AwaitingEvent);
        standing.DisposableFrom.ShouldBeNull();
    }

    [Fact]
    public void Without_an_end_action_an_item_past_its_term_is_under_no_rule() =>
        Engine
            .Evaluate(Rule(EndAction.Nothing, OneYear(Trigger.Created)), [], Any.On(Today.PlusYears(-2)))
            .ShouldBe(
                new Standing(
                    ItemState.NoRule,
                    KeepUntil.On(Today.PlusYears(-1)),
                    null,
                    EndAction.Nothing,
                    Grade.Kept,
                    KeepUntil.On(Today.PlusYears(-1))
                )
            );

    [Fact]
    public void Permanent_is_never_due() =>
        Any.Item.Sample(item =>
            Engine.Evaluate(Rule(EndAction.SignOff), [], item) is { State: ItemState.Permanent, DisposableFrom: null }
        );

    [Fact]
    public void Keep_until_never_moves_earlier_when_a_period_grows() =>
        Gen.Select(Any.Rule, Any.Item, Any.Period)
            .Sample(
                (rule, item, more) =>
                {
                    var longer = rule with
                    {
                        Clauses =
                        [
                            .. rule.Clauses.Select(c =>
                                c with
                                {
                                    Period = new Period(
                                        c.Period.Years + more.Years,
                                        c.Period.Months + more.Months,
                                        0,
                                        c.Period.Days + more.Days
                                    ),
                                }
                            ),
                        ],
                    };
                    return Engine.Evaluate(longer, [], item).KeepUntil >= Engine.Evaluate(rule, [], item).KeepUntil;
                }
            );

    [Fact]
    public void Keep_until_never_moves_earlier_when_a_cutoff_is_added() =>
        Gen.Select(Any.Rule, Any.Item)
            .Sample(
                (rule, item) =>
                    Engine.Evaluate(rule, [], item).KeepUntil
                    >= Engine
                        .Evaluate(
                            rule with
                            {
                                Clauses = [.. rule.Clauses.Select(c => c with { Cutoff = Cutoff.None })],
                            },
                            [],
                            item
                        )
                        .KeepUntil
            );

    [Fact]
    public void An_extension_never_shortens() =>
        Gen.Select(Any.Rule, Any.Item, Any.Date)
            .Sample(
                (rule, item, until) =>
                    Engine.Evaluate(rule, [], item with { ExtendedUntil = until }).KeepUntil
                    >= Engine.Evaluate(rule, [], item with { ExtendedUntil = null }).KeepUntil
            );

    [Fact]
    public void Nothing_is_disposable_while_it_is_kept() =>
        Gen.Select(Any.Rule, Any.Item)
            .Sample(
                (rule, item) =>
                    Engine.Evaluate(rule, [], item) is var s
                    && (s.DisposableFrom is not { } from || KeepUntil.On(from) > s.KeepUntil)
            );

    [Fact]
    public void One_reason_wins_and_it_carries_the_standing_s_own_date() =>
        Gen.Select(Any.Rule, Any.Item)
            .Sample(
                (rule, item) =>
                {
                    var extension = item.ExtendedUntil is { } until ? new Extension(until, "Ines", "audit") : null;
                    BlanketRule[] blankets = [new("All mail", TriggerKind.Modified, Period.OfYears(3), false, null)];
                    var reasons = Reasons.Explain(
                        Engine,
                        new("VES-010", "Oil record books", rule),
                        blankets,
                        item,
                        extension
                    );
                    reasons
                        .Where(r => r.Won)
                        .ShouldHaveSingleItem()
                        .KeepUntil.ShouldBe(Engine.Evaluate(rule, blankets, item).KeepUntil);
                    Reasons.WinnerFirst(reasons)[0].Won.ShouldBeTrue();
                }
            );

    [Fact]
    public void An_item_under_a_series_without_a_rule_says_that_it_is_not_kept_yet()
    {
        var reasons = Reasons.Explain(Engine, new("VES-010", "Oil record books", null), [], Any.On(Today), null);
        reasons.ShouldHaveSingleItem().Won.ShouldBeFalse();
        reasons[0].Why.ShouldContain("not in force yet");
    }

    [Fact]
    public void Reasons_are_told_in_whole_sentences()
    {
        var later = new SeriesRule(
            "PPL-030",
            Grade.Kept,
            EndAction.SignOff,
            false,
            ClauseJoin.Later,
            [new(Trigger.Created, Cutoff.Fiscal, Period.OfYears(3)), OneYear(Trigger.Event("left"))]
        );
        var item = Any.On(new(2022, 3, 1)) with { Clocks = new Any.Clocks(null, new(2023, 1, 10)) };
        Reasons
            .Explain(Engine, new("PPL-030", "", later), [], item, null)[0]
            .Why.ShouldBe(
                "The later of: created 1 Mar 2022, fiscal year ends 30 Sep 2022, plus 3 years; left 10 Jan "
                    + "2023, plus 1 year: it was kept through 30 Sep 2025. The term is over; it may be destroyed "
                    + "after sign-off."
            );
        Reasons
            .Explain(Engine, new("PPL-030", "", later), [], Any.On(new(2022, 3, 1)), null)[0]
            .Why.ShouldBe(
                "The later of: created 1 Mar 2022, fiscal year ends 30 Sep 2022, plus 3 years; left: no such "
                    + "event of its subject yet. PPL-030 keeps it until there is each of them."
            );
        Reasons
            .Explain(
                Engine,
                null,
                [new BlanketRule("Scratch", TriggerKind.Created, null, true, Period.OfDays(90))],
                Any.On(new(2026, 6, 1)),
                null
            )[0]
            .Why.ShouldBe(
                "Created 1 Jun 2026, plus 90 days: the blanket keeps nothing. From 31 Aug 2026 it may be destroyed without sign-off."
            );
    }

    [Theory]
    [InlineData(Grade.Declared, EndAction.Nothing, 0, Grade.Declared)]
    [InlineData(Grade.Declared, EndAction.Nothing, 1, Grade.None)]
    [InlineData(Grade.Worm, EndAction.SignOff, 1, Grade.Worm)]
    public void A_grade_stands_until_the_term_is_over_or_beyond_it_until_disposal(
        Grade grade,
        EndAction atEnd,
        int daysPast,
        Grade stands
    )
    {
        var standing = Engine.Evaluate(
            Rule(atEnd, OneYear(Trigger.Created)) with
            {
                Grade = grade,
            },
            [],
            Any.On(Today.PlusDays(-daysPast).PlusYears(-1))
        );
        standing.GradeOn(Today).ShouldBe(stands);
    }

    [Fact]
    public void A_series_whose_grade_has_run_out_leaves_what_a_blanket_keeps_at_kept() =>
        Engine
            .Evaluate(
                Rule(EndAction.Nothing, OneYear(Trigger.Created)) with
                {
                    Grade = Grade.Declared,
                },
                [new("All", TriggerKind.Created, Period.OfYears(9), false, null)],
                Any.On(Today.PlusYears(-2))
            )
            .GradeOn(Today)
            .ShouldBe(Grade.Kept);

    private static LocalDate Day(string iso) => LocalDatePattern.Iso.Parse(iso).Value;
}
