using WideKeel.Core.Sensitive;

namespace WideKeel.Core.Tests.Sensitive;

public class OwnKindTests
{
    private static OwnKindDefinition Kind(
        string pattern = @"\bT[0-9]{4}\b",
        Checksum checksum = Checksum.None,
        string name = "crew-number"
    ) => new(name, "Crew number", pattern, checksum, ["Crew number", "muster"]);

    [Fact]
    public void Without_a_check_digit_words_nearby_make_a_possible_find_likely()
    {
        var kind = Kind().Check().Value;
        kind.FindIn("T1004").Single().Confidence.ShouldBe(Confidence.Possible);
        kind.FindIn("On the MUSTER: T1004").Single().Confidence.ShouldBe(Confidence.Likely);
        kind.FindIn("mustered T1004").Single().Confidence.ShouldBe(Confidence.Possible);
        kind.FindIn("muster" + new string('.', 80) + "T1004").Single().Confidence.ShouldBe(Confidence.Possible);
    }

    [Theory]
    [InlineData(Checksum.Luhn, "79927398713", "79927398710")]
    [InlineData(Checksum.Mod97, "79444", "79445")]
    [InlineData(Checksum.Mod11Radix2, "07940", "07943")]
    [InlineData(Checksum.Mod11Hybrid10, "07945", "07946")]
    [InlineData(Checksum.Verhoeff, "2363", "2364")]
    public void With_a_check_digit_only_what_passes_is_found(Checksum checksum, string right, string wrong)
    {
        // The examples of ISO/IEC 7064 (0794 with each of its systems) and the usual ones of Luhn and Verhoeff, from
        // memory.
        var kind = Kind("[0-9]+X?", checksum).Check().Value;
        kind.FindIn(right).Single().Confidence.ShouldBe(Confidence.Likely);
        kind.FindIn(wrong).ShouldBeEmpty();
    }

    [Theory]
    [InlineData("", "kind-pattern")]
    [InlineData("x*", "kind-pattern")]
    [InlineData("(a", "kind-pattern")]
    [InlineData("(?<=a)b", "kind-pattern")]
    [InlineData(@"(a)\1", "kind-pattern")]
    public void A_pattern_that_cannot_be_used_is_refused_with_the_reason(string pattern, string code) =>
        Kind(pattern).Check().Refusal.ShouldNotBeNull().Code.ShouldBe(code);

    [Theory]
    [InlineData("iban", "kind-name-taken")]
    [InlineData("Crew", "kind-name")]
    [InlineData("x", "kind-name")]
    [InlineData("crew number", "kind-name")]
    public void A_name_is_one_that_queries_can_say_and_that_nobody_has(string name, string code) =>
        Kind(name: name).Check().Refusal.ShouldNotBeNull().Code.ShouldBe(code);

    [Fact]
    public void A_pattern_that_would_take_for_ever_elsewhere_does_not_here() =>
        Kind("(a+)+b").Check().Value.FindIn(new string('a', 50_000)).ShouldBeEmpty();
}
