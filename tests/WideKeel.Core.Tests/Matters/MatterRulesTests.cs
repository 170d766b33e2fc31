using NodaTime;
using Shouldly;
using WideKeel.Core.Content;
using WideKeel.Core.Matters;
using WideKeel.Core.Query;
using WideKeel.Core.Retention;

namespace WideKeel.Core.Tests.Matters;

public class MatterRulesTests
{
    private static readonly LocalDate Day = new(2026, 7, 16);

    [Theory]
    [InlineData(MatterState.Open, MatterState.Closing, 2, 1, 1, true)]
    [InlineData(MatterState.Closing, MatterState.Open, 2, 1, 1, true)]
    [InlineData(MatterState.Closed, MatterState.Open, 0, 0, 0, true)]
    [InlineData(MatterState.Closing, MatterState.Closed, 0, 0, 0, true)]
    [InlineData(MatterState.Closing, MatterState.Closed, 1, 0, 0, false)]
    [InlineData(MatterState.Closing, MatterState.Closed, 0, 1, 0, false)]
    [InlineData(MatterState.Closing, MatterState.Closed, 0, 0, 1, false)]
    [InlineData(MatterState.Open, MatterState.Closed, 0, 0, 0, false)]
    [InlineData(MatterState.Open, MatterState.Deleted, 0, 0, 0, false)]
    [InlineData(MatterState.Closing, MatterState.Deleted, 0, 0, 0, false)]
    [InlineData(MatterState.Closed, MatterState.Deleted, 0, 0, 0, true)]
    [InlineData(MatterState.Deleted, MatterState.Open, 0, 0, 0, false)]
    public void A_matter_moves_only_where_nothing_it_holds_is_lost_sight_of(
        MatterState from,
        MatterState to,
        int orders,
        int delays,
        int drafts,
        bool may
    ) => (MatterLife.MayNot(from, to, orders, delays, drafts) is null).ShouldBe(may);

    [Theory]
    [InlineData(true, "permanent", null, Released.StaysHeld)]
    [InlineData(true, null, "2020-01-01", Released.StaysHeld)]
    [InlineData(false, "permanent", null, Released.StaysKept)]
    [InlineData(false, "awaiting", null, Released.StaysKept)]
    [InlineData(false, "2026-07-15", "2026-07-16", Released.BecomesDue)]
    [InlineData(false, "2026-07-16", "2026-07-17", Released.StaysKept)]
    [InlineData(false, "2026-07-16", null, Released.StaysKept)]
    [InlineData(false, "2026-07-15", null, Released.Free)]
    [InlineData(false, null, null, Released.Free)]
    public void What_a_release_does_to_an_item_goes_by_the_first_day_on_which_the_hold_no_longer_protects(
        bool alsoHeld,
        string? keep,
        string? from,
        Released becomes
    )
    {
        var until = keep switch
        {
            null => KeepUntil.Nothing,
            "permanent" => KeepUntil.Permanent,
            "awaiting" => KeepUntil.AwaitingEvent,
            _ => KeepUntil.On(Date(keep)),
        };
        ReleaseCount.Of(alsoHeld, until, from is null ? null : Date(from), Day).ShouldBe(becomes);
    }

    [Fact]
    public void The_figures_of_a_release_add_up_to_all_of_its_items()
    {
        var count = new ReleaseCount(Day);
        count.Add(1, 10, false, KeepUntil.On(Date("2020-01-01")), Date("2020-01-02"));
        count.Add(1, 20, true, KeepUntil.On(Date("2020-01-01")), Date("2020-01-02"));
        count.Add(2, 30, false, KeepUntil.On(Date("2027-03-05")), Date("2027-03-06"));
        count.Add(2, 40, false, KeepUntil.Permanent, null);
        count.Add(2, 50, false, KeepUntil.Nothing, null);
        var figures = count.Figures();
        figures.All.ShouldBe(new Tally(5, 150));
        (figures.StayHeld.Items + figures.StayKept.Items + figures.BecomeDue.Items + figures.Free.Items).ShouldBe(5);
        figures.KeptLonger.ShouldBe(new Tally(1, 40));
        figures.ByMonth.ShouldBe([new MonthOfRelease(Date("2027-03-01"), 1)]);
        figures.ByContainer.ShouldBe([new ContainerOfRelease(1, 2, 1, 1), new ContainerOfRelease(2, 3, 0, 0)]);
    }

    [Theory]
    [InlineData(7, null, 6, false)]
    [InlineData(7, null, 7, true)]
    [InlineData(7, 7, 13, false)]
    [InlineData(7, 7, 14, true)]
    [InlineData(7, null, 60, true)]
    [InlineData(0, null, 60, false)]
    public void A_custodian_who_is_silent_is_reminded_every_so_many_days(
        int every,
        int? lastAfter,
        int days,
        bool reminds
    )
    {
        var sent = Date("2026-04-10");
        NoticeRules
            .Reminds(sent, every, lastAfter is { } after ? sent.PlusDays(after) : null, sent.PlusDays(days))
            .ShouldBe(reminds);
    }

    [Fact]
    public void The_manager_is_told_once_when_the_time_is_up()
    {
        var sent = Date("2026-04-10");
        NoticeRules.Escalates(sent, 21, false, sent.PlusDays(20)).ShouldBeFalse();
        NoticeRules.Escalates(sent, 21, false, sent.PlusDays(21)).ShouldBeTrue();
        NoticeRules.Escalates(sent, 21, true, sent.PlusDays(40)).ShouldBeFalse();
        NoticeRules.Escalates(sent, 0, false, sent.PlusDays(400)).ShouldBeFalse();
    }

    [Fact]
    public void A_notice_is_filled_in_and_names_the_field_that_it_does_not_know()
    {
        NoticeText
            .Fill(
                "Dear {name}, about {matter} ({number}).",
                new Dictionary<string, string>
                {
                    ["name"] = "Anna",
                    ["matter"] = "Pier 4",
                    ["number"] = "M-1",
                }
            )
            .ShouldBe("Dear Anna, about Pier 4 (M-1).");
        NoticeText.UnknownField("Dear {name}, {salary}").ShouldBe("{salary}");
        NoticeText.UnknownField("a { b {name} }").ShouldBe("{ b {name}");
        NoticeText.UnknownField("Dear {name}").ShouldBeNull();
    }

    [Fact]
    public void Control_numbers_run_on_with_leading_zeros_and_grow_when_they_must()
    {
        new ControlNumber("PIER-", 7).ToString().ShouldBe("PIER-000007");
        new ControlNumber("", 1_234_567).ToString().ShouldBe("1234567");
        ControlNumber.CheckPrefix("PIER_2-").ShouldBeNull();
        ControlNumber.CheckPrefix("../x").ShouldNotBeNull();
        ControlNumber.CheckPrefix(new string('A', 21)).ShouldNotBeNull();
    }

    [Fact]
    public void A_family_is_taken_apart_into_its_documents_each_with_its_own_text()
    {
        var text = $"From: a\n\nbody{Family.Heading("one.txt")}first{Family.Heading("two.pdf")}second";
        Family
            .Split(text, ["one.txt", "two.pdf"])
            .ShouldBe([
                new FamilyDocument(null, "From: a\n\nbody"),
                new FamilyDocument("one.txt", "first"),
                new FamilyDocument("two.pdf", "second"),
            ]);
        // Cut off at the limit of a text: the attachment is a document without text.
        Family
            .Split("body", ["one.txt"])
            .ShouldBe([new FamilyDocument(null, "body"), new FamilyDocument("one.txt", "")]);
        Condition Asked(string query) => QueryCompiler.Compile(query, Day).Value.Condition;
        var item = new QueryItem { Title = "Mail", Body = text };
        Family.Fitting(Asked("first or body"), item, ["one.txt", "two.pdf"]).ShouldBe(2);
        Family.Fitting(Asked("first and second"), item, ["one.txt", "two.pdf"]).ShouldBe(0);
        Family.Fitting(Asked("title = two"), item, ["one.txt", "two.pdf"]).ShouldBe(1);
    }

    [Theory]
    [InlineData("\"pier 4\" or dolphin", "\"pier 4\"|dolphin")]
    [InlineData("(bow or thruster) and merrow not fog", "bow|thruster|merrow")]
    [InlineData("pier prox/distance<=3 dolphin", "pier prox/distance<=3 dolphin")]
    [InlineData("type = eml and title = claim", "title = claim")]
    [InlineData("pier or pier", "pier")]
    [InlineData(null, "")]
    public void The_terms_of_a_query_are_the_words_it_wants(string? query, string terms) =>
        string.Join('|', QueryTerms.Of(query)).ShouldBe(terms);

    [Fact]
    public void What_a_hold_keeps_neither_becomes_due_nor_loses_protection_and_is_counted_by_itself()
    {
        var consequences = new Consequences(Day);
        var kept = new Standing(
            ItemState.InTerm,
            KeepUntil.On(Day.PlusDays(9)),
            Day.PlusDays(10),
            EndAction.SignOff,
            Grade.Kept,
            KeepUntil.Permanent
        );
        var due = kept with { State = ItemState.Due, KeepUntil = KeepUntil.On(Day.PlusDays(-1)), DisposableFrom = Day };
        var free = new Standing(
            ItemState.NoRule,
            KeepUntil.Nothing,
            null,
            EndAction.Nothing,
            Grade.None,
            KeepUntil.Nothing
        );
        consequences.Add(1, 5, kept, due, held: true);
        consequences.Add(1, 5, kept, due, held: false);
        consequences.Add(1, 5, kept, free, held: true);
        consequences.Add(1, 5, due, free, held: true);
        var figures = consequences.Figures();
        (
            figures.BecomeDue.Items,
            figures.HeldBack.Items,
            figures.LoseProtection.Items,
            figures.DueBefore.Items,
            figures.DueAfter.Items
        ).ShouldBe((1, 1, 0, 0, 1));
    }

    private static LocalDate Date(string iso) => NodaTime.Text.LocalDatePattern.Iso.Parse(iso).Value;
}
