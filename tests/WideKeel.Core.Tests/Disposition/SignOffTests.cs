using WideKeel.Core.Content;
using WideKeel.Core.Disposition;
using WideKeel.Core.People;
using WideKeel.Core.Retention;

namespace WideKeel.Core.Tests.Disposition;

public class SignOffTests
{
    private static readonly UnitPath Root = new("/1/");
    private static readonly UnitPath Island = new("/1/2/");
    private static readonly Stage[] TwoManagers = [new(Role.RecordsManager), new(Role.RecordsManager)];
    private static readonly Remit[] Manager = [new(Role.RecordsManager, Root)];

    [Fact]
    public void Nobody_signs_what_they_signed_before()
    {
        SignOffRules.MaySign(BatchState.Open, TwoManagers, [], new(7, "a@b.example", Manager), Island).ShouldBeNull();
        SignOffRules
            .MaySign(BatchState.Signing, TwoManagers, [new(0, 7)], new(7, "a@b.example", Manager), Island)!
            .Code.ShouldBe("second-person-needed");
        SignOffRules
            .MaySign(BatchState.Signing, TwoManagers, [new(0, 7)], new(8, "c@b.example", Manager), Island)
            .ShouldBeNull();
    }

    [Fact]
    public void Two_of_whom_one_set_the_others_password_are_not_two() =>
        SignOffRules
            .MaySign(
                BatchState.Signing,
                TwoManagers,
                [new(0, 7)],
                new(8, "c@b.example", Manager) { Selves = [8, 7] },
                Island
            )!
            .Code.ShouldBe("second-person-needed");

    [Fact]
    public void A_stage_is_signed_by_its_role_within_the_remit_only()
    {
        Stage[] stages = [new(Role.Steward), new(Role.RecordsManager)];
        SignOffRules
            .MaySign(BatchState.Open, stages, [], new(1, "", Manager), Island)!
            .Code.ShouldBe("stage-of-another");
        SignOffRules
            .MaySign(BatchState.Open, stages, [], new(1, "", [new(Role.Steward, new UnitPath("/1/3/"))]), Island)!
            .Code.ShouldBe("stage-of-another");
        SignOffRules
            .MaySign(BatchState.Open, stages, [], new(1, "", [new(Role.Steward, Island)]), Island)
            .ShouldBeNull();
    }

    [Theory]
    [InlineData(BatchState.Executing)]
    [InlineData(BatchState.Done)]
    [InlineData(BatchState.Withdrawn)]
    public void A_batch_that_is_closed_takes_no_signature(BatchState state) =>
        SignOffRules.MaySign(state, TwoManagers, [], new(1, "", Manager), Island)!.Code.ShouldBe("batch-closed");

    [Fact]
    public void A_batch_is_complete_when_every_stage_is_signed()
    {
        SignOffRules.Complete(TwoManagers, 1).ShouldBeFalse();
        SignOffRules.Complete(TwoManagers, 2).ShouldBeTrue();
    }

    [Fact]
    public void What_changed_since_it_was_signed_for_drops_out_with_its_reason()
    {
        var line = new SignedLine(1, 10, "abc");
        var due = new Standing(ItemState.Due, default, default, default, Grade.Kept, default);
        Recheck.DropReason(line, new(10, due, "abc", false)).ShouldBeNull();
        Recheck.DropReason(line, new(11, due, "abc", false))!.ShouldContain("another series");
        Recheck
            .DropReason(line, new(10, due with { State = ItemState.InTerm }, "abc", false))!
            .ShouldContain("no longer due");
        Recheck.DropReason(line, new(10, due, "abd", false))!.ShouldContain("content changed");
        Recheck.DropReason(line, new(10, due, null, false))!.ShouldContain("no longer at its place");
        Recheck.DropReason(line, new(10, due, null, true)).ShouldBeNull();
    }
}
