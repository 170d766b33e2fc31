using CsCheck;
using NodaTime;
using WideKeel.Core.Access;
using WideKeel.Core.People;

namespace WideKeel.Core.Tests.Access;

/// <summary>Some things of a directory as they are now, laid over what was computed before.</summary>
public sealed class AccessModelPartTests
{
    private static readonly LocalDate Today = new(2026, 6, 15);

    /// <summary>A model, and a part of another model of the same ids; its places lie where they lay.</summary>
    private static readonly Gen<(AccessModel Model, AccessModel Part)> Any = Gen.Select(
        AccessChangeTests.Any,
        AccessChangeTests.Any,
        Gen.Int[0, 1_000_000],
        (model, other, seed) =>
        {
            var random = new Random(seed);
            var places = other
                .Resources.Where(_ => random.Next(2) == 0)
                .Select(r => model.Resources.Single(x => x.Id == r.Id) with { Links = r.Links })
                .ToList();
            return (
                model,
                new AccessModel(
                    [.. other.People.Where(_ => random.Next(2) == 0)],
                    [.. other.Groups.Where(_ => random.Next(2) == 0)],
                    places,
                    [.. other.Grants.Where(g => places.Any(p => p.Id == g.Resource))]
                )
            );
        }
    );

    private static IEnumerable<string> Told(EffectiveAccess access) =>
        access
            .All()
            .Select(r => $"{r.Person} {r.Resource} {string.Join(',', r.Roles)} {string.Join('>', r.Path)}")
            .Order(StringComparer.Ordinal);

    [Fact]
    public void A_part_laid_over_is_the_same_as_computing_anew() =>
        Any.Sample(x =>
            Told(new EffectiveAccess(x.Model, Today).With(x.Part)!)
                .SequenceEqual(Told(new EffectiveAccess(x.Model.With(x.Part)!, Today)))
        );

    [Fact]
    public void A_model_with_a_part_holds_what_the_part_says() =>
        Any.Sample(x =>
        {
            var after = x.Model.With(x.Part)!;
            var places = x.Part.Resources.Select(r => r.Id).ToHashSet();
            return x.Part.People.All(after.People.Contains)
                && x.Part.Groups.All(after.Groups.Contains)
                && x.Part.Resources.All(after.Resources.Contains)
                && after.Grants.Where(g => places.Contains(g.Resource)).SequenceEqual(x.Part.Grants);
        });

    [Fact]
    public void A_part_laid_over_leaves_what_is_beneath_as_it_was() =>
        Any.Sample(x =>
        {
            var access = new EffectiveAccess(x.Model, Today);
            var was = Told(access).ToList();
            access.With(x.Part);
            return Told(access).SequenceEqual(was);
        });

    [Fact]
    public void Who_reaches_a_place_follows_a_part_too() =>
        Any.Sample(x =>
        {
            var over = new EffectiveAccess(x.Model, Today).With(x.Part)!;
            var anew = new EffectiveAccess(x.Model.With(x.Part)!, Today);
            return x.Model.Resources.All(r => over.Audience(r.Id).SetEquals(anew.Audience(r.Id)));
        });

    private static readonly AccessModel Small = new(
        [new("ann", AccountKind.Person, null)],
        [new("crew", ["ann"])],
        [new("lib", null, true, []), new("lib/plans", "lib", true, [])],
        [new("crew", "lib", "reader")]
    );

    public static TheoryData<AccessModel> Others =>
        [
            new AccessModel([new("eva", AccountKind.Person, null)], [], [], []),
            new AccessModel([], [new("deck", [])], [], []),
            new AccessModel([], [], [new("other", null, true, [])], []),
        ];

    [Theory]
    [MemberData(nameof(Others))]
    public void A_part_of_what_is_not_known_is_not_laid_over(AccessModel part) =>
        new EffectiveAccess(Small, Today).With(part).ShouldBeNull();

    [Theory]
    [MemberData(nameof(Others))]
    public void A_model_does_not_take_what_it_does_not_know(AccessModel part) => Small.With(part).ShouldBeNull();

    [Fact]
    public void A_place_that_inherits_no_more_is_computed_anew() =>
        new EffectiveAccess(Small, Today)
            .With(new AccessModel([], [], [new("lib/plans", "lib", false, [])], []))
            .ShouldBeNull();
}
