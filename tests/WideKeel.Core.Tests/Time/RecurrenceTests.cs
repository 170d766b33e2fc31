using WideKeel.Core.Time;

namespace WideKeel.Core.Tests.Time;

/// <summary>Rules of RFC 5545 as words.</summary>
public class RecurrenceTests
{
    [Theory]
    [InlineData("FREQ=MONTHLY", "every month")]
    [InlineData("FREQ=MONTHLY;INTERVAL=3", "every 3 months")]
    [InlineData("FREQ=WEEKLY;INTERVAL=2", "every 2 weeks")]
    [InlineData("FREQ=YEARLY", "every year")]
    [InlineData("FREQ=MONTHLY;BYDAY=1MO", "FREQ=MONTHLY;BYDAY=1MO")]
    public void A_rule_is_given_in_words(string rule, string words) => Recurrence.InWords(rule).ShouldBe(words);
}
