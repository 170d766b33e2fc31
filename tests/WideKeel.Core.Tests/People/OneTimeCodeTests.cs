using System.Text;
using System.Text.RegularExpressions;
using NodaTime;
using WideKeel.Core.People;

namespace WideKeel.Core.Tests.People;

public sealed partial class OneTimeCodeTests
{
    /// <summary>The key of RFC 6238, appendix B, for HMAC-SHA-1.</summary>
    private static readonly byte[] Published = Encoding.ASCII.GetBytes("12345678901234567890");

    private static Instant At(long second) => Instant.FromUnixTimeSeconds(second);

    /// <summary>
    /// RFC 6238, appendix B: the rows for SHA-1. They have eight digits there; a code of six is their last six, because
    /// both are remainders of the same number (RFC 4226, section 5.3).
    /// </summary>
    [Theory]
    [InlineData(59, "287082")]
    [InlineData(1111111109, "081804")]
    [InlineData(1111111111, "050471")]
    [InlineData(1234567890, "005924")]
    [InlineData(2000000000, "279037")]
    [InlineData(20000000000, "353130")]
    public void A_code_is_the_published_one(long second, string code) =>
        OneTimeCode.At(Published, At(second)).ShouldBe(code);

    [Fact]
    public void The_step_of_a_code_counts_thirty_seconds_from_the_epoch() =>
        OneTimeCode.StepOf(Published, "287082", At(59), usedStep: null).ShouldBe(1);

    [Theory]
    [InlineData(-30)]
    [InlineData(30)]
    public void A_phone_that_is_one_step_off_signs_in(int seconds) =>
        OneTimeCode
            .StepOf(Published, OneTimeCode.At(Published, At(1_111_111_109 + seconds)), At(1_111_111_109), null)
            .ShouldNotBeNull();

    [Theory]
    [InlineData(-60)]
    [InlineData(60)]
    public void A_phone_that_is_two_steps_off_does_not(int seconds) =>
        OneTimeCode
            .StepOf(Published, OneTimeCode.At(Published, At(1_111_111_109 + seconds)), At(1_111_111_109), null)
            .ShouldBeNull();

    [Fact]
    public void A_code_that_was_used_is_not_taken_again() =>
        OneTimeCode.StepOf(Published, "287082", At(59), usedStep: 1).ShouldBeNull();

    [Fact]
    public void A_code_before_the_used_one_is_not_taken_afterwards() =>
        OneTimeCode.StepOf(Published, "287082", At(75), usedStep: 2).ShouldBeNull();

    [Theory]
    [InlineData(null)]
    [InlineData("")]
    [InlineData("28708")]
    [InlineData("2870820")]
    [InlineData("94287082")]
    [InlineData("28708x")]
    public void Another_text_is_no_code(string? typed) =>
        OneTimeCode.StepOf(Published, typed, At(59), null).ShouldBeNull();

    [Fact]
    public void Spaces_as_apps_show_them_do_not_count() =>
        OneTimeCode.StepOf(Published, " 287 082 ", At(59), null).ShouldBe(1);

    /// <summary>RFC 4648 gives base32; the text is its encoding of the key, computed by another program.</summary>
    [Fact]
    public void The_typed_key_is_base32_without_padding() =>
        OneTimeCode.Base32(Published).ShouldBe("GEZDGNBVGY3TQOJQGEZDGNBVGY3TQOJQ");

    [Fact]
    public void A_key_is_as_long_as_recommended() => OneTimeCode.NewKey().Length.ShouldBe(20);

    [Fact]
    public void The_address_names_issuer_and_account() =>
        Uri.UnescapeDataString(OneTimeCode.KeyAddress(Published, "Wide Keel, Tarn Lines", "ines@tarn.example"))
            .ShouldStartWith("otpauth://totp/Wide Keel, Tarn Lines:ines@tarn.example?");

    [Fact]
    public void The_address_carries_the_key() =>
        OneTimeCode
            .KeyAddress(Published, "Wide Keel", "ines@tarn.example")
            .ShouldContain("secret=GEZDGNBVGY3TQOJQGEZDGNBVGY3TQOJQ");

    [Fact]
    public void A_recovery_code_is_four_groups_of_four() =>
        OneTimeCode.NewRecoveryCode().ShouldMatch(Groups().ToString());

    [Fact]
    public void Two_recovery_codes_differ() => OneTimeCode.NewRecoveryCode().ShouldNotBe(OneTimeCode.NewRecoveryCode());

    [Theory]
    [InlineData("K3QD-X8MH-92TV-BWR7")]
    [InlineData(" k3qd x8mh 92tv bwr7 ")]
    [InlineData("k3qdx8mh92tvbwr7")]
    public void A_recovery_code_is_the_same_however_it_is_typed(string typed) =>
        OneTimeCode.RecoveryHash(typed).ShouldBe(OneTimeCode.RecoveryHash("k3qd-x8mh-92tv-bwr7"));

    [GeneratedRegex("^([a-z2-9]{4}-){3}[a-z2-9]{4}$")]
    private static partial Regex Groups();
}
