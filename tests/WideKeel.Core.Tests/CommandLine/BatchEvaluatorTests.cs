using CsCheck;
using NodaTime;
using NodaTime.Text;
using WideKeel.Core.CommandLine;
using WideKeel.Core.Content;
using WideKeel.Core.Query;
using WideKeel.Core.Retention;
using WideKeel.Core.Time;

namespace WideKeel.Core.Tests.CommandLine;

public class BatchEvaluatorTests
{
    private static readonly LocalDate Today = new(2026, 6, 15);

    private static LocalDate? D(string? iso) => iso is null ? null : LocalDatePattern.Iso.Parse(iso).Value;

    private static Clause Clause(string trigger, Cutoff cutoff, string period) =>
        new(Trigger.Parse(trigger).Value, cutoff, WideKeel.Core.Time.Period.Parse(period).Value);

    private static SeriesRule Series(EndAction atEnd, ClauseJoin join, params Clause[] clauses) =>
        new("S", Grade.Kept, atEnd, clauses.Length == 0, join, clauses);

    private static BatchBlanket Blanket(
        string name,
        string? keep,
        bool destroys,
        string? destroyAfter = null,
        params string[] except
    ) =>
        new(
            new(
                name,
                TriggerKind.Created,
                keep is null ? null : WideKeel.Core.Time.Period.Parse(keep).Value,
                destroys,
                destroyAfter is null ? null : WideKeel.Core.Time.Period.Parse(destroyAfter).Value
            ),
            new(["fs/*"], except)
        );

    private static BatchItem Item(
        string? series = "S",
        string? created = "2020-01-31",
        string? subject = null,
        params (string Name, string Value)[] fields
    ) =>
        new("i")
        {
            Container = "fs/yard",
            Series = series,
            Created = D(created),
            Modified = D(created),
            Filed = D(created),
            Subject = subject,
            Fields = fields.ToDictionary(f => f.Name, f => f.Value),
        };

    private static BatchOutcome Evaluate(
        BatchItem item,
        SeriesRule? series = null,
        BatchBlanket[]? blankets = null,
        BatchHold[]? holds = null,
        TriggerEvent[]? events = null,
        string fiscal = "12-31",
        LocalDate? today = null
    ) =>
        new BatchEvaluator(
            new(FiscalYearEnd.Parse(fiscal).Value, series is null ? [] : [series], blankets ?? [], holds ?? []),
            events ?? [],
            today ?? Today
        ).Evaluate(item, () => new());

    [Theory]
    // 29 CFR 1904.33(a): injury records, five years following the end of the calendar year that they cover.
    [InlineData("created", Cutoff.Year, "P5Y", "2021-03-04", "12-31", "2026-12-31")]
    // 29 CFR 516.5: payroll records, three years from the last date of entry.
    [InlineData("created", Cutoff.None, "P3Y", "2023-06-14", "12-31", "2026-06-14")]
    // 29 CFR 1910.1020(d)(1)(i): exposure records, the duration of employment plus thirty years.
    [InlineData("field:left", Cutoff.None, "P30Y", "1996-02-29", "12-31", "2026-02-28")]
    // HMRC, PAYE record keeping: three years from the end of the tax year, which ends on 5 April.
    [InlineData("created", Cutoff.Fiscal, "P3Y", "2023-04-05", "04-05", "2026-04-05")]
    [InlineData("created", Cutoff.Fiscal, "P3Y", "2023-04-06", "04-05", "2027-04-05")]
    // MARPOL Annex I, regulation 17.6: three years after the last entry has been made.
    [InlineData("field:last-entry", Cutoff.None, "P3Y", "2024-02-29", "12-31", "2027-02-28")]
    // Common practice: a quarter's and a month's end, clamped.
    [InlineData("modified", Cutoff.Quarter, "P1M", "2025-12-31", "12-31", "2026-01-31")]
    [InlineData("filed", Cutoff.Month, "P1Y1M", "2024-01-15", "12-31", "2025-02-28")]
    public void Published_periods_come_out_on_worked_dates(
        string trigger,
        Cutoff cutoff,
        string period,
        string start,
        string fiscal,
        string keepUntil
    )
    {
        var item = trigger.StartsWith("field:", StringComparison.Ordinal)
            ? Item(created: "2020-01-01", fields: (trigger[6..], start))
            : Item(created: start);
        var outcome = Evaluate(
            item,
            Series(EndAction.SignOff, ClauseJoin.Later, Clause(trigger, cutoff, period)),
            fiscal: fiscal
        );
        outcome.Standing.KeepUntil.Date.ShouldBe(D(keepUntil));
        outcome.Standing.DisposableFrom.ShouldBe(D(keepUntil)!.Value.PlusDays(1));
        outcome.Standing.State.ShouldBe(D(keepUntil) < Today ? ItemState.Due : ItemState.InTerm);
    }

    [Theory]
    // 8 CFR 274a.2(b)(2)(i)(A): three years after hire or one year after employment ends, whichever is later.
    [InlineData("2022-03-01", "2023-01-10", "2025-03-01")]
    [InlineData("2015-03-01", "2026-01-10", "2027-01-10")]
    [InlineData("2015-03-01", null, null)]
    public void Work_eligibility_forms_are_kept_until_the_later_of_two_dates_and_wait_while_one_is_missing(
        string hired,
        string? left,
        string? keepUntil
    )
    {
        var rule = Series(
            EndAction.Destroy,
            ClauseJoin.Later,
            Clause("created", Cutoff.None, "P3Y"),
            Clause("event:left", Cutoff.None, "P1Y")
        );
        var outcome = Evaluate(
            Item(created: hired, subject: "E1"),
            rule,
            events: left is null ? [] : [new("left", "E1", D(left)!.Value, false)]
        );
        outcome.Standing.KeepUntil.ShouldBe(
            keepUntil is null ? KeepUntil.AwaitingEvent : KeepUntil.On(D(keepUntil)!.Value)
        );
        outcome.Standing.State.ShouldBe(
            keepUntil is null ? ItemState.AwaitingEvent
            : D(keepUntil) < Today ? ItemState.Due
            : ItemState.InTerm
        );
        outcome.Standing.DisposableFrom.ShouldBe(D(keepUntil)?.PlusDays(1));
    }

    [Fact]
    public void The_earlier_of_two_clauses_goes_by_those_that_have_a_date()
    {
        var rule = Series(
            EndAction.SignOff,
            ClauseJoin.Earlier,
            Clause("created", Cutoff.None, "P10Y"),
            Clause("field:closed", Cutoff.None, "P1Y")
        );
        Evaluate(Item(fields: ("closed", "2025-01-01")), rule)
            .Standing.KeepUntil.Date.ShouldBe(new LocalDate(2026, 1, 1));
        Evaluate(Item(), rule).Standing.KeepUntil.Date.ShouldBe(new LocalDate(2030, 1, 31));
        Evaluate(Item(created: null), rule).Standing.KeepUntil.IsAwaiting.ShouldBeTrue();
    }

    [Fact]
    public void Of_several_events_the_latest_that_is_not_revoked_and_of_the_same_subject_counts()
    {
        var rule = Series(EndAction.SignOff, ClauseJoin.Later, Clause("event:ended", Cutoff.None, "P1Y"));
        TriggerEvent[] events =
        [
            new("ended", "A", new(2024, 1, 1), false),
            new("ended", "A", new(2024, 5, 1), false),
            new("ended", "A", new(2025, 1, 1), true),
            new("ended", "B", new(2026, 1, 1), false),
            new("other", "A", new(2026, 1, 1), false),
        ];
        Evaluate(Item(subject: "A"), rule, events: events).Standing.KeepUntil.Date.ShouldBe(new LocalDate(2025, 5, 1));
        Evaluate(Item(subject: null), rule, events: events).Standing.KeepUntil.IsAwaiting.ShouldBeTrue();
        Evaluate(Item(subject: "A"), rule, events: [.. events.Select(e => e with { Revoked = true })])
            .Standing.KeepUntil.IsAwaiting.ShouldBeTrue();
    }

    [Theory]
    [InlineData("1899-12-31", true)]
    [InlineData("1900-01-01", false)]
    [InlineData("2076-06-15", false)]
    [InlineData("2076-06-16", true)]
    [InlineData("soon", true)]
    public void A_date_that_cannot_be_counted_from_makes_the_clause_wait(string date, bool waits) =>
        Evaluate(
            Item(fields: ("closed", date)),
            Series(EndAction.SignOff, ClauseJoin.Later, Clause("field:closed", Cutoff.None, "P1Y"))
        )
            .Standing.KeepUntil.IsAwaiting.ShouldBe(waits);

    [Fact]
    public void Keeping_beats_destroying_and_the_longest_keep_wins()
    {
        // Without a series: the earliest destroy date of the blankets, but never before the winning keep has passed.
        var outcome = Evaluate(
            Item(series: null),
            blankets: [Blanket("keep", "P10Y", false), Blanket("scratch", null, true, "P90D")]
        );
        (
            outcome.Standing.KeepUntil.Date,
            outcome.Standing.DisposableFrom,
            outcome.Standing.AtEnd,
            outcome.Standing.State
        ).ShouldBe((new LocalDate(2030, 1, 31), new LocalDate(2030, 2, 1), EndAction.Destroy, ItemState.InTerm));
        outcome.Reasons.Select(r => (r.Rule, r.Won)).ShouldBe([("keep", true), ("scratch", false)]);

        // With a series its end governs, also when it is nothing.
        var free = Evaluate(
            Item(),
            Series(EndAction.Nothing, ClauseJoin.Later, Clause("created", Cutoff.None, "P1Y")),
            [Blanket("scratch", null, true, "P90D")]
        );
        (
            free.Standing.State,
            free.Standing.DisposableFrom,
            free.Standing.AtEnd,
            free.Standing.KeepUntil.Date,
            free.Grade
        ).ShouldBe((ItemState.NoRule, null, EndAction.Nothing, new LocalDate(2021, 1, 31), Grade.None));

        // A blanket that keeps longer postpones what the series would do.
        var later = Evaluate(
            Item(),
            Series(EndAction.SignOff, ClauseJoin.Later, Clause("created", Cutoff.None, "P1Y")),
            [Blanket("keep", "P7Y", true)]
        );
        (later.Standing.DisposableFrom, later.Standing.AtEnd, later.Standing.State, later.Grade).ShouldBe(
            (new LocalDate(2027, 2, 1), EndAction.SignOff, ItemState.InTerm, Grade.Kept)
        );
        later
            .Reasons[0]
            .Why.ShouldBe(
                "Created 31 Jan 2020, plus 1 year: it was kept through 31 Jan 2021. The term is over; it may "
                    + "be destroyed after sign-off. keep keeps longer."
            );
    }

    [Fact]
    public void A_blanket_that_only_destroys_keeps_nothing_while_its_term_runs()
    {
        var running = Evaluate(
            Item(series: null, created: "2026-06-01"),
            blankets: [Blanket("scratch", null, true, "P90D")]
        );
        (
            running.Standing.KeepUntil.IsNothing,
            running.Standing.State,
            running.Standing.DisposableFrom,
            running.Grade
        ).ShouldBe((true, ItemState.InTerm, new LocalDate(2026, 8, 31), Grade.None));
        Evaluate(Item(series: null), blankets: [Blanket("scratch", null, true, "P90D")])
            .Standing.State.ShouldBe(ItemState.Due);
        Evaluate(Item(series: null, created: null), blankets: [Blanket("scratch", null, true, "P90D")])
            .Standing.DisposableFrom.ShouldBeNull();
    }

    [Theory]
    [InlineData("mail/*", "mail", true)]
    [InlineData("mail/*", "mail/claims/2024", true)]
    [InlineData("mail/*", "mailbox", false)]
    [InlineData("mail", "mail/claims", false)]
    [InlineData("mail", "mail", true)]
    [InlineData("mail/*", null, false)]
    public void A_pattern_with_a_star_covers_the_container_and_all_beneath(
        string pattern,
        string? container,
        bool covers
    )
    {
        new Reach([pattern], []).Covers(container).ShouldBe(covers);
        new Reach([pattern], [pattern]).Covers(container).ShouldBeFalse();
    }

    [Fact]
    public void A_hold_covers_the_union_of_containers_items_and_query_and_shows_what_lies_beneath()
    {
        var query = QueryCompiler.Compile("dolphin", Today).Value;
        BatchHold[] holds = [new("M-7/1", new(["mail"], []), new HashSet<string> { "i" }, null)];
        var held = Evaluate(Item(series: null), holds: holds);
        (held.Held, held.Standing.State, held.Grade).ShouldBe((true, ItemState.NoRule, Grade.Kept));
        var asked = new BatchEvaluator(
            new(FiscalYearEnd.CalendarYear, [], [], [new("M-7/2", new([], []), new HashSet<string>(), query)]),
            [],
            Today
        );
        asked.Evaluate(Item(series: null), () => new() { Body = "a dolphin" }).Held.ShouldBeTrue();
        asked.Evaluate(Item(series: null), () => new() { Body = "a pier" }).Held.ShouldBeFalse();
        var worm = Series(EndAction.SignOff, ClauseJoin.Later) with { Grade = Grade.Worm };
        Evaluate(Item(), worm, holds: holds).Grade.ShouldBe(Grade.Worm);
    }

    [Theory]
    [InlineData(EndAction.Nothing, "2026-06-15", ItemState.InTerm, Grade.Declared)]
    [InlineData(EndAction.Nothing, "2026-06-14", ItemState.NoRule, Grade.None)]
    [InlineData(EndAction.Transfer, "2026-06-15", ItemState.InTerm, Grade.Declared)]
    [InlineData(EndAction.Transfer, "2026-06-14", ItemState.Due, Grade.Declared)]
    public void An_item_is_kept_through_its_last_day_and_protected_until_disposal(
        EndAction atEnd,
        string last,
        ItemState state,
        Grade grade
    )
    {
        var rule = Series(atEnd, ClauseJoin.Later, Clause("created", Cutoff.None, "P1Y")) with
        {
            Grade = Grade.Declared,
        };
        var outcome = Evaluate(Item(created: LocalDatePattern.Iso.Format(D(last)!.Value.PlusYears(-1))), rule);
        (outcome.Standing.State, outcome.Grade).ShouldBe((state, grade));
    }

    private static readonly Gen<Clause> AnyClause = Gen.Select(
            Gen.OneOf("created", "field:a", "field:b", "event:e"),
            Gen.Enum<Cutoff>(),
            Gen.Int[0, 12],
            Gen.Int[1, 40]
        )
        .Select((t, c, y, m) => Clause(t, c, $"P{y}Y{m}M"));
    private static readonly Gen<SeriesRule> AnySeries = Gen.Select(
            AnyClause.Array[1, 4],
            Gen.Enum<ClauseJoin>(),
            Gen.Enum<EndAction>()
        )
        .Select((c, j, e) => Series(e, j, c));
    private static readonly Gen<BatchBlanket> AnyBlanket = Gen.Select(
            Gen.Int[0, 2],
            Gen.Int[1, 200],
            Gen.Bool,
            Gen.String[Gen.Char['a', 'f'], 1, 3]
        )
        .Select(
            (kind, months, destroys, name) =>
                kind == 0 ? Blanket(name, null, true, $"P{months}M") : Blanket(name, $"P{months}M", destroys)
        );
    private static readonly Gen<BatchItem> AnyItem = Gen.Select(
            Gen.Int[-9000, 2000],
            Gen.Int[-9000, 2000],
            Gen.Bool,
            Gen.Bool
        )
        .Select(
            (a, b, hasA, filed) =>
                Item(
                    filed ? "S" : null,
                    LocalDatePattern.Iso.Format(Today.PlusDays(a)),
                    "X",
                    hasA ? [("a", LocalDatePattern.Iso.Format(Today.PlusDays(b)))] : []
                )
        );

    [Fact]
    public void The_order_of_the_rules_decides_nothing() =>
        Gen.Select(AnyItem, AnySeries, AnyBlanket.Array[0, 4])
            .Sample(
                (item, series, blankets) =>
                {
                    var one = Evaluate(item, series, blankets);
                    var other = Evaluate(
                        item,
                        series with
                        {
                            Clauses = [.. series.Clauses.Reverse()],
                        },
                        [.. blankets.Reverse()]
                    );
                    (
                        one.Standing.KeepUntil,
                        one.Standing.DisposableFrom,
                        one.Standing.State,
                        one.Grade,
                        one.Standing.AtEnd
                    ).ShouldBe(
                        (
                            other.Standing.KeepUntil,
                            other.Standing.DisposableFrom,
                            other.Standing.State,
                            other.Grade,
                            other.Standing.AtEnd
                        )
                    );
                }
            );

    [Fact]
    public void An_item_is_never_kept_shorter_by_one_more_keeping_rule_a_longer_period_or_a_cutoff() =>
        Gen.Select(AnyItem, AnySeries, AnyBlanket.Array[0, 3], AnyBlanket)
            .Sample(
                (item, series, blankets, more) =>
                {
                    var before = Evaluate(item, series, blankets).Standing.KeepUntil;
                    Evaluate(item, series, [.. blankets, more])
                        .Standing.KeepUntil.CompareTo(before)
                        .ShouldBeGreaterThanOrEqualTo(0);
                    SeriesRule With(Func<Clause, Clause> change) =>
                        series with
                        {
                            Clauses = [.. series.Clauses.Select(change)],
                        };
                    Evaluate(
                        item,
                        With(c => c with { Period = c.Period with { Months = c.Period.Months + 5 } }),
                        blankets
                    )
                        .Standing.KeepUntil.CompareTo(before)
                        .ShouldBeGreaterThanOrEqualTo(0);
                    Evaluate(item, With(c => c.Cutoff == Cutoff.None ? c with { Cutoff = Cutoff.Year } : c), blankets)
                        .Standing.KeepUntil.CompareTo(before)
                        .ShouldBeGreaterThanOrEqualTo(0);
                }
            );

    [Fact]
    public void Nothing_is_disposable_before_the_winning_keep_has_passed_and_exactly_one_rule_wins_where_one_keeps() =>
        Gen.Select(AnyItem, AnySeries, AnyBlanket.Array[0, 4])
            .Sample(
                (item, series, blankets) =>
                {
                    var outcome = Evaluate(item, series, blankets);
                    (
                        outcome.Standing.DisposableFrom is { } from
                        && outcome.Standing.KeepUntil.Date is { } last
                        && from <= last
                    ).ShouldBeFalse();
                    outcome.Reasons.Count(r => r.Won).ShouldBe(outcome.Standing.KeepUntil.IsNothing ? 0 : 1);
                    (outcome.Standing.State == ItemState.Due).ShouldBe(
                        outcome.Standing.DisposableFrom <= Today && outcome.Standing.AtEnd != EndAction.Nothing
                    );
                }
            );
}
