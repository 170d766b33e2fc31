using WideKeel.Core.Retention;

namespace WideKeel.Core.Tests.Retention;

public class PrecisionTests
{
    [Theory]
    // SciPy 1.10.1 (BSD-3-Clause), binomtest(k, n).proportion_ci(method='wilson'). The first four are also those of R.
    // G. Newcombe, Statistics in Medicine 17 (1998), p. 857, table I, method 3: 0.2553 to 0.3662, 0.0624 to 0.1605, 0
    // to 0.1611, 0.0061 to 0.1718 (from memory).
    [InlineData(81, 182, 0.2552885198782742, 0.36620957698280004)]
    [InlineData(15, 133, 0.06238639953073629, 0.16048724172330803)]
    [InlineData(0, 20, 0.0, 0.16112515805281935)]
    [InlineData(1, 28, 0.006113214292762667, 0.17175521879320282)]
    [InlineData(20, 0, 0.8388748419471808, 1.0)]
    [InlineData(1, 0, 0.20654931437723745, 1.0)]
    [InlineData(1, 1, 0.09453120573423074, 0.9054687942657693)]
    [InlineData(37, 3, 0.8013576647568945, 0.9741639742254118)]
    [InlineData(999, 1, 0.9943574414020421, 0.9998234536293739)]
    public void The_interval_is_Wilson_s(int right, int wrong, double low, double high)
    {
        var precision = Precision.Of(right, wrong);
        precision.Share.ShouldBe((double)right / (right + wrong));
        precision.Low!.Value.ShouldBe(low, 1e-12);
        precision.High!.Value.ShouldBe(high, 1e-12);
    }

    [Fact]
    public void Nothing_judged_is_no_share() => Precision.Of(0, 0).Share.ShouldBeNull();
}
