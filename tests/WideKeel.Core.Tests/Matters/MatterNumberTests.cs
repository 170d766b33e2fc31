using WideKeel.Core.Matters;

namespace WideKeel.Core.Tests.Matters;

public sealed class MatterNumberTests
{
    [Fact]
    public void A_number_names_the_year_and_four_signs_that_nobody_takes_for_others()
    {
        MatterNumber.Draw(2026).ShouldMatch("^M-2026-[2346789BCDFGHJKMNPQRTVWXYZ]{4}$");
    }

    [Fact]
    public void Two_numbers_do_not_follow_one_another()
    {
        var drawn = Enumerable.Range(0, 200).Select(_ => MatterNumber.Draw(2026)).ToList();
        drawn.SequenceEqual(drawn.Order(StringComparer.Ordinal)).ShouldBeFalse();
    }

    [Fact]
    public void Ids_grow_in_the_order_of_opening()
    {
        var ids = Enumerable
            .Range(0, 200)
            .Aggregate(new List<long> { 0 }, (all, _) => [.. all, MatterNumber.IdAfter(all[^1])]);
        ids.ShouldBeInOrder(SortDirection.Ascending);
    }

    [Fact]
    public void What_lies_between_two_ids_counts_nothing()
    {
        var steps = Enumerable.Range(0, 200).Select(_ => MatterNumber.IdAfter(0)).ToList();
        steps.Distinct().Count().ShouldBeGreaterThan(150);
    }
}
