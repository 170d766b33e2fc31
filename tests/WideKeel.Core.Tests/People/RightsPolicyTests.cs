using WideKeel.Core.People;

namespace WideKeel.Core.Tests.People;

public class RightsPolicyTests
{
    private static readonly UnitPath Root = new("/1/");
    private static readonly UnitPath Fleet = new("/1/2/");
    private static readonly UnitPath Island = new("/1/2/3/");

    [Fact]
    public void A_remit_covers_its_unit_and_what_lies_beneath_and_nothing_beside()
    {
        Remit[] steward = [new(Role.Steward, Fleet)];
        RightsPolicy.Allows(steward, Right.ReadContent, Root, Island).ShouldBeTrue();
        RightsPolicy.Allows(steward, Right.ReadContent, Root, Root).ShouldBeFalse();
        RightsPolicy.Allows(steward, Right.ReadContent, Root, new UnitPath("/1/22/")).ShouldBeFalse();
    }

    [Fact]
    public void Rights_over_the_whole_need_a_remit_over_the_whole()
    {
        RightsPolicy.Allows([new(Role.Administrator, Root)], Right.ManagePeople, Root).ShouldBeTrue();
        RightsPolicy.Allows([new(Role.Administrator, Fleet)], Right.ManagePeople, Root).ShouldBeFalse();
        RightsPolicy.Allows([new(Role.RecordsManager, Fleet)], Right.VerifyLedger, Root).ShouldBeFalse();
    }

    [Fact]
    public void An_administrator_reads_no_content_and_signs_nothing()
    {
        RightsPolicy.Grant(Role.Administrator, Right.ReadContent).ShouldBeFalse();
        RightsPolicy.Grant(Role.Administrator, Right.SignDisposition).ShouldBeFalse();
    }

    [Theory]
    [InlineData("1/2/")]
    [InlineData("/1/2")]
    [InlineData("")]
    public void A_path_that_could_match_half_a_unit_is_no_path(string path) =>
        Should.Throw<ArgumentException>(() => new UnitPath(path));
}
