using NodaTime;
using WideKeel.Core.Matters;

namespace WideKeel.Core.Tests.Matters;

/// <summary>Whether a hold order keeps whatever another keeps, today and on every day to come.</summary>
public class OrderWidthTests
{
    private static readonly LocalDate Today = new(2026, 6, 15);

    private static HoldDefinition Of(
        string? query = null,
        long[]? containers = null,
        long[]? custodians = null,
        LocalDate? from = null,
        LocalDate? to = null,
        string[]? channels = null
    ) => new(containers ?? [], custodians ?? [], query, from, to) { Channels = channels };

    private static bool Covers(HoldDefinition wide, HoldDefinition narrow) => wide.Covers(narrow, Today);

    [Fact]
    public void An_order_covers_itself() => Covers(Of("pier", [1], [2]), Of("pier", [1], [2])).ShouldBeTrue();

    [Fact]
    public void An_order_over_everything_covers_any_places() => Covers(Of(), Of(containers: [1, 2])).ShouldBeTrue();

    [Fact]
    public void No_places_cover_an_order_over_everything() => Covers(Of(containers: [1, 2]), Of()).ShouldBeFalse();

    private static HoldDefinition Events { get; } = Of() with { Channels = ["mail-server"] };

    [Fact]
    public void An_order_that_names_a_channel_alone_reaches_no_unit() => Events.ReachesTheUnit.ShouldBeFalse();

    [Fact]
    public void An_order_of_events_alone_does_not_cover_the_whole_unit() => Covers(Events, Of()).ShouldBeFalse();

    [Fact]
    public void Containers_beside_the_same_channel_cover_an_order_of_events_alone() =>
        Covers(Of(containers: [1]) with { Channels = ["mail-server"] }, Events).ShouldBeTrue();

    [Fact]
    public void A_channel_with_a_query_reaches_the_items_that_it_finds() =>
        (Of("pier") with { Channels = ["mail-server"] }).ReachesTheUnit.ShouldBeTrue();

    [Fact]
    public void One_place_more_covers() => Covers(Of(containers: [1, 2]), Of(containers: [2])).ShouldBeTrue();

    [Fact]
    public void One_place_less_does_not_cover() => Covers(Of(containers: [1]), Of(containers: [1, 2])).ShouldBeFalse();

    [Fact]
    public void A_custodian_less_does_not_cover() =>
        Covers(Of(containers: [1]), Of(containers: [1], custodians: [7])).ShouldBeFalse();

    [Fact]
    public void A_custodian_is_no_container_of_the_same_number() =>
        Covers(Of(containers: [7]), Of(custodians: [7])).ShouldBeFalse();

    [Fact]
    public void No_query_covers_any_query() => Covers(Of(), Of("pier")).ShouldBeTrue();

    [Fact]
    public void No_query_is_covered_by_none_but_no_query() => Covers(Of("pier"), Of()).ShouldBeFalse();

    [Fact]
    public void An_earlier_first_day_covers() =>
        Covers(Of(from: new(2015, 1, 1)), Of(from: new(2016, 1, 1))).ShouldBeTrue();

    [Fact]
    public void A_later_first_day_does_not_cover() =>
        Covers(Of(from: new(2016, 1, 1)), Of(from: new(2015, 1, 1))).ShouldBeFalse();

    [Fact]
    public void An_earlier_last_day_does_not_cover() =>
        Covers(Of(to: new(2016, 1, 1)), Of(to: new(2017, 1, 1))).ShouldBeFalse();

    [Fact]
    public void A_last_day_does_not_cover_an_open_end() => Covers(Of(to: new(2099, 1, 1)), Of()).ShouldBeFalse();

    [Fact]
    public void A_channel_less_does_not_cover() => Covers(Of(), Of(channels: ["mail"])).ShouldBeFalse();

    [Fact]
    public void A_channel_more_covers() =>
        Covers(Of(channels: ["gateway", "mail"]), Of(channels: ["mail"])).ShouldBeTrue();

    /// <summary>Equal today, and narrower from tomorrow on.</summary>
    [Fact]
    public void A_date_that_moves_with_the_day_does_not_cover_the_same_date_that_stays() =>
        Covers(Of("created >= \"today-P30D\""), Of("created >= 2026-05-16")).ShouldBeFalse();

    [Fact]
    public void A_date_that_stays_covers_the_same_date_that_moves_with_the_day() =>
        Covers(Of("created >= 2026-05-16"), Of("created >= \"today-P30D\"")).ShouldBeTrue();

    /// <summary>Thirty-one days today; twenty-eight in March.</summary>
    [Fact]
    public void A_month_does_not_cover_thirty_days() =>
        Covers(Of("created >= \"today-P1M\""), Of("created >= \"today-P30D\"")).ShouldBeFalse();

    [Fact]
    public void A_year_covers_thirty_days() =>
        Covers(Of("created >= \"today-P1Y\""), Of("created >= \"today-P30D\"")).ShouldBeTrue();

    [Fact]
    public void A_word_more_covers_beside_a_date_that_moves() =>
        Covers(Of("created >= \"today-P30D\" or fog"), Of("created >= \"today-P30D\"")).ShouldBeTrue();

    [Fact]
    public void A_query_with_a_mistake_covers_nothing() => Covers(Of("pier ("), Of("pier")).ShouldBeFalse();
}
