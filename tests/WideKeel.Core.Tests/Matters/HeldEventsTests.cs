using NodaTime;
using WideKeel.Core.Matters;

namespace WideKeel.Core.Tests.Matters;

/// <summary>Which events a hold order keeps.</summary>
public class HeldEventsTests
{
    private static HoldDefinition Of(string[]? channels, LocalDate? from = null, LocalDate? to = null) =>
        HoldDefinition.Everything with
        {
            Channels = channels,
            From = from,
            To = to,
        };

    [Fact]
    public void The_days_of_its_range_are_kept_the_first_and_the_last_included()
    {
        var order = Of(["gateway"], new(2026, 2, 14), new(2026, 2, 16));
        Enumerable.Range(13, 5).Where(d => order.KeepsEvents("gateway", new(2026, 2, d))).ShouldBe([14, 15, 16]);
    }

    [Fact]
    public void A_channel_that_is_not_named_is_not_kept() =>
        Of(["gateway"]).KeepsEvents("mail", new(2026, 2, 14)).ShouldBeFalse();

    [Fact]
    public void An_order_without_channels_keeps_no_events() =>
        Of(null).KeepsEvents("gateway", new(2026, 2, 14)).ShouldBeFalse();

    [Fact]
    public void Leaving_a_channel_out_keeps_less() => Of(["a", "b"]).KeepsEventsBeyond(Of(["a"])).ShouldBeTrue();

    [Fact]
    public void A_later_first_day_keeps_less() =>
        Of(["a"]).KeepsEventsBeyond(Of(["a"], new LocalDate(2026, 1, 1))).ShouldBeTrue();

    [Fact]
    public void A_wider_range_keeps_no_less() =>
        Of(["a"], new LocalDate(2026, 1, 1)).KeepsEventsBeyond(Of(["b", "a"])).ShouldBeFalse();
}
