using CsCheck;
using NodaTime;
using NodaTime.Text;
using WideKeel.Core.Content;
using WideKeel.Core.Retention;
using WideKeel.Core.Time;

namespace WideKeel.Core.Tests.Retention;

public class EvaluatorTests
{
    private static readonly LocalDate Today = new(2026, 6, 15);
    private static readonly Evaluator Engine = new(Today, new FiscalYearEnd(9, 30));
    private static readonly Gen<LocalDate> AnyDate = Gen.Int[-20_000, 25_000].Select(DayNumber.ToDate);
    private static readonly Gen<Period> AnyPeriod = Gen.Select(Gen.Int[0, 12], Gen.Int[0, 20], Gen.Int[1, 500]).Select((y, m, d) => new Period(y, m, 0, d));

    private static readonly Gen<Rule> AnyRule = Gen.Select(
        Gen.OneOf<Trigger>(new Trigger.Created(), new Trigger.Modified(), new Trigger.DateField("closed")), Gen.Enum<Cutoff>(), AnyPeriod, Gen.Enum<EndAction>())
        .Select((t, c, p, e) => (Rule)new Rule.Timed(t, c, p, e));

    private static readonly Gen<ItemFacts> AnyItem = Gen.Select(AnyDate, AnyDate, AnyDate, Gen.Bool, AnyDate, Gen.Int[0, 9])
        .Select((created, modified, field, has, extended, ten) => new ItemFacts(1, created, modified, has ? field : null, ten == 0 ? extended : null, 10));

    [Theory]
    // 29 CFR 1904.33(a): injury logs five years following the end of the calendar year that they cover.
    [InlineData("created", Cutoff.Year, "P5Y", "2020-03-14", "2025-12-31")]
    // 29 CFR 516.5: payroll at least three years from the last date of entry.
    [InlineData("created", Cutoff.None, "P3Y", "2023-06-14", "2026-06-14")]
    // 17 CFR 210.2-06: audit workpapers seven years after the audit or review is concluded.
    [InlineData("field:closed", Cutoff.None, "P7Y", "2020-02-29", "2027-02-28")]
    // MARPOL Annex I, regulation 17.6: oil record book three years after the last entry.
    [InlineData("field:closed", Cutoff.None, "P3Y", "2024-02-29", "2027-02-28")]
    // 45 CFR 164.316(b)(2)(i): six years from creation.
    [InlineData("created", Cutoff.None, "P6Y", "2020-06-15", "2026-06-15")]
    // Common practice: seven fiscal years, year ending 30 September.
    [InlineData("created", Cutoff.Fiscal, "P7Y", "2018-10-01", "2026-09-30")]
    public void Published_periods_on_worked_dates(string trigger, Cutoff cutoff, string period, string start, string keepUntil)
    {
        var rule = new Rule.Timed(Trigger.Parse(trigger).Value, cutoff, Period.Parse(period).Value, EndAction.SignOff);
        var date = Day(start);
        var standing = Engine.Evaluate(rule, new ItemFacts(1, date, date, date, null, 0));
        standing.KeepUntil.Date.ShouldBe(Day(keepUntil));
        standing.DisposableFrom.ShouldBe(Day(keepUntil).PlusDays(1));
    }

    [Fact]
    public void An_item_is_kept_through_its_last_day_and_due_on_the_next()
    {
        var rule = new Rule.Timed(new Trigger.Created(), Cutoff.None, Period.OfYears(1), EndAction.SignOff);
        Engine.Evaluate(rule, Created(Today.PlusYears(-1))).State.ShouldBe(ItemState.InTerm);
        Engine.Evaluate(rule, Created(Today.PlusYears(-1).PlusDays(-1))).State.ShouldBe(ItemState.Due);
    }

    [Theory]
    [InlineData("1899-12-31")]
    [InlineData("2099-01-01")]
    [InlineData("1601-01-01")]
    [InlineData(null)]
    public void An_absurd_or_missing_field_date_waits_and_is_never_guessed(string? date)
    {
        var rule = new Rule.Timed(new Trigger.DateField("closed"), Cutoff.None, Period.OfYears(1), EndAction.SignOff);
        var standing = Engine.Evaluate(rule, new ItemFacts(1, Today, Today, date is null ? null : Day(date), null, 0));
        standing.State.ShouldBe(ItemState.AwaitingEvent);
        standing.DisposableFrom.ShouldBeNull();
    }

    [Fact]
    public void Without_an_end_action_an_item_past_its_term_is_under_no_rule()
    {
        var rule = new Rule.Timed(new Trigger.Created(), Cutoff.None, Period.OfYears(1), EndAction.Nothing);
        Engine.Evaluate(rule, Created(Today.PlusYears(-2))).ShouldBe(new Standing(ItemState.NoRule, KeepUntil.On(Today.PlusYears(-1)), null, Grade.None));
    }

    [Fact]
    public void Permanent_is_never_due() =>
        AnyItem.Sample(item => Engine.Evaluate(new Rule.Permanent(), item) is { State: ItemState.Permanent, DisposableFrom: null });

    [Fact]
    public void Keep_until_never_moves_earlier_when_the_period_grows() =>
        Gen.Select(AnyRule, AnyItem, AnyPeriod).Sample((rule, item, more) =>
        {
            var timed = (Rule.Timed)rule;
            var longer = timed with { Period = new Period(timed.Period.Years + more.Years, timed.Period.Months + more.Months, 0, timed.Period.Days + more.Days) };
            return Engine.Evaluate(longer, item).KeepUntil >= Engine.Evaluate(timed, item).KeepUntil;
        });

    [Fact]
    public void Keep_until_never_moves_earlier_when_a_cutoff_is_added() =>
        Gen.Select(AnyRule, AnyItem).Sample((rule, item) =>
            Engine.Evaluate(rule, item).KeepUntil >= Engine.Evaluate((Rule.Timed)rule with { Cutoff = Cutoff.None }, item).KeepUntil);

    [Fact]
    public void An_extension_never_shortens() =>
        Gen.Select(AnyRule, AnyItem, AnyDate).Sample((rule, item, until) =>
            Engine.Evaluate(rule, item with { ExtendedUntil = until }).KeepUntil >= Engine.Evaluate(rule, item with { ExtendedUntil = null }).KeepUntil);

    [Fact]
    public void Nothing_is_disposable_while_it_is_kept() =>
        Gen.Select(AnyRule, AnyItem).Sample((rule, item) =>
            Engine.Evaluate(rule, item) is var s && (s.DisposableFrom is not { } from || KeepUntil.On(from) > s.KeepUntil));

    [Fact]
    public void The_reasons_name_the_winner_first_with_the_standing_s_own_date() =>
        Gen.Select(AnyRule, AnyItem).Sample((rule, item) =>
        {
            var series = new RuleInForce(SeriesCode.Parse("VES-010").Value, "Oil record books", 1, rule);
            var extension = item.ExtendedUntil is { } until ? new Extension(until, "Ines", "audit") : null;
            var reasons = Reasons.Explain(Engine, series, item, extension);
            reasons[0].Won.ShouldBeTrue();
            reasons[0].KeepUntil.ShouldBe(Engine.Evaluate(rule, item).KeepUntil);
            reasons.Skip(1).ShouldAllBe(r => !r.Won);
        });

    [Fact]
    public void An_item_under_a_series_without_a_rule_says_that_it_is_not_kept_yet()
    {
        var reasons = Reasons.Explain(Engine, new RuleInForce(SeriesCode.Parse("VES-010").Value, "Oil record books", 0, null), Created(Today), null);
        reasons.ShouldHaveSingleItem().Won.ShouldBeFalse();
        reasons[0].Why.ShouldContain("not in force yet");
    }

    private static ItemFacts Created(LocalDate date) => new(1, date, date, null, null, 10);

    private static LocalDate Day(string iso) => LocalDatePattern.Iso.Parse(iso).Value;
}
