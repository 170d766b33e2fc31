using CsCheck;
using NodaTime;
using WideKeel.Core.Readiness;

namespace WideKeel.Core.Tests.Readiness;

/// <summary>Readiness by small cases worked out by hand, and the greedy choice against all choices.</summary>
public class ReadinessTests
{
    private static readonly LocalDate Day = new(2026, 6, 15);

    private static ReadinessFigures Of(string model) => ReadinessComputation.On(Day, ReadinessFile.Read(model).Value);

    private static string Model(string controls, string requirements = """{"id":"q1"},{"id":"q2","weight":3}""") =>
        $$"""
            { "units": [{"id":"u1","people":40},{"id":"u2","people":10}],
              "frameworks": [{"id":"f","requirements":[{{requirements}}]}],
              "controls": [{{controls}}] }
            """;

    [Fact]
    public void A_control_is_ready_by_the_weight_of_the_parts_that_count() =>
        Of(
            Model(
                """
                {"id":"c","maps":["q1"],"parts":[
                  {"kind":"test","weight":1,"passed":true,"ran":"2026-06-08","period":"P7D"},
                  {"kind":"routine","weight":2,"due":"2026-06-01","doneFor":"2026-05-01"},
                  {"kind":"evidence","weight":1,"taken":"2026-03-17","fresh":"P90D"}]}
                """
            )
        )
            .Controls.Single()
            .Readiness.ShouldBe(0.5m);

    [Fact]
    public void A_routine_counts_by_the_due_date_that_has_come() =>
        new ControlPart.Routine(1, new(2026, 5, 1), new(2026, 6, 15), new(2026, 5, 1)).CountsOn(Day).ShouldBeFalse();

    [Fact]
    public void A_routine_that_was_never_due_counts() =>
        new ControlPart.Routine(1, null, new(2026, 6, 16), null).CountsOn(Day).ShouldBeTrue();

    [Fact]
    public void A_control_without_parts_is_not_set_up() =>
        Of(Model("""{"id":"c","maps":["q1"]}""")).Controls.Single().State.ShouldBe(ControlState.NotSetUp);

    [Fact]
    public void A_requirement_whose_controls_are_all_not_applicable_leaves_the_denominator() =>
        Of(
            Model(
                """
                {"id":"a","maps":["q1"],"parts":[{"kind":"routine"}]},
                {"id":"b","maps":["q2"],"applicable":false,"parts":[]}
                """
            )
        )
            .Frameworks.Single()
            .Readiness.ShouldBe(1m);

    [Fact]
    public void A_requirement_that_is_answered_elsewhere_is_unanswered_in_a_unit() =>
        Of(Model("""{"id":"a","units":["u1"],"maps":["q1"],"parts":[{"kind":"routine"}]}""", """{"id":"q1"}"""))
            .Frameworks.Single()
            .Units.Select(u => u.Readiness)
            .ShouldBe([1m, 0m]);

    [Fact]
    public void A_framework_is_the_mean_of_its_units_by_people() =>
        Of(Model("""{"id":"a","units":["u1"],"maps":["q1"],"parts":[{"kind":"routine"}]}""", """{"id":"q1"}"""))
            .Frameworks.Single()
            .Readiness.ShouldBe(0.8m);

    [Fact]
    public void A_fix_that_does_not_fit_is_passed_over()
    {
        var model = ReadinessFile
            .Read(
                Model(
                    """
                    {"id":"big","maps":["q2"],"effort":50,"parts":[{"kind":"evidence","fresh":"P1D"}]},
                    {"id":"small","maps":["q1"],"effort":0,"parts":[{"kind":"evidence","fresh":"P1D"}]}
                    """
                )
            )
            .Value;
        ReadinessComputation.Fixes(Day, model, 40).ShouldBe([new Fix("small", 0.25m, 0.25m, 0.25m)]);
    }

    [Fact]
    public void No_single_fix_gains_more_an_hour_than_the_first_that_is_chosen() =>
        Gen.Select(Gen.Int[1, 8], Gen.Int[0, 5])
            .Array[2, 6]
            .Sample(efforts =>
            {
                var controls = efforts.Select(
                    (e, i) =>
                        $$"""
                            {"id":"c{{i}}","maps":["q{{1 + (i % 2)}}"],"weight":{{1 + e.Item2}},"effort":{{e.Item1}},
                             "parts":[{"kind":"evidence","fresh":"P1D"}]}
                            """
                );
                var model = ReadinessFile.Read(Model(string.Join(',', controls))).Value;
                var first = ReadinessComputation.Fixes(Day, model, 100)[0];
                var before = ReadinessComputation.On(Day, model).Mean!.Value;
                foreach (var control in model.Controls)
                {
                    var alone =
                        ReadinessComputation.On(Day, model, new HashSet<string> { control.Id }).Mean!.Value - before;
                    (alone / control.Effort).ShouldBeLessThanOrEqualTo((first.Gain / first.Hours) + 1e-12m);
                }
            });

    private static readonly Gen<ReadinessModel> AnyModel = Gen.Int[0, 1_000_000]
        .Select(seed =>
        {
            var random = new Random(seed);
            string[] units = ["u1", "u2", "u3"];
            var requirements = Enumerable.Range(0, 6).Select(r => $"q{r}").ToList();
            return new ReadinessModel(
                [.. units.Select(u => new ReadinessUnit(u, random.Next(4)))],
                [
                    new("f1", [.. requirements.Take(3).Select(r => new Requirement(r, random.Next(4)))]),
                    new("f2", [.. requirements.Skip(3).Select(r => new Requirement(r, random.Next(4)))]),
                ],
                [
                    .. Enumerable
                        .Range(0, 7)
                        .Select(c => new Control(
                            $"c{c}",
                            random.Next(3) == 0 ? units.Where(_ => random.Next(2) == 0).ToHashSet() : null,
                            requirements.Where(_ => random.Next(3) == 0).ToHashSet(),
                            random.Next(5) > 0,
                            random.Next(3),
                            random.Next(6),
                            [
                                .. Enumerable
                                    .Range(0, random.Next(4))
                                    .Select(_ => new ControlPart.Evidence(
                                        random.Next(3),
                                        random.Next(2) == 0 ? Day : null,
                                        Core.Time.Period.Parse("P30D", "fresh").Value
                                    )),
                            ]
                        )),
                ]
            );
        });

    /// <summary>The same greedy choice with everything computed anew for each control that is tried.</summary>
    private static List<string> FixesAnew(ReadinessModel model, decimal hours)
    {
        List<string> fixes = [];
        HashSet<string> mended = [];
        var now = ReadinessComputation.On(Day, model).Mean ?? 0;
        while (true)
        {
            var best = model
                .Controls.Where(c => c is { Applicable: true, Parts.Count: > 0 } && !mended.Contains(c.Id))
                .Select(c => (c.Id, Hours: c.Effort == 0 ? 0.25m : c.Effort))
                .Where(c => c.Hours <= hours)
                .OrderBy(c => c.Id, StringComparer.Ordinal)
                .Select(c =>
                    (
                        c.Id,
                        c.Hours,
                        Gain: (ReadinessComputation.On(Day, model, new HashSet<string>(mended) { c.Id }).Mean ?? 0)
                            - now
                    )
                )
                .Where(c => c.Gain > 1e-15m)
                .Aggregate(
                    ((string Id, decimal Hours, decimal Gain)?)null,
                    (a, c) => a is null || c.Gain / c.Hours > (a.Value.Gain / a.Value.Hours) + 1e-15m ? c : a
                );
            if (best is not { } pick)
            {
                return fixes;
            }

            mended.Add(pick.Id);
            hours -= pick.Hours;
            now += pick.Gain;
            fixes.Add(FormattableString.Invariant($"{pick.Id} {pick.Hours} {pick.Gain:F12} {now:F12}"));
        }
    }

    [Fact]
    public void The_next_fixes_are_those_of_computing_everything_anew() =>
        AnyModel.Sample(model =>
            ReadinessComputation
                .Fixes(Day, model, 12)
                .Select(f => FormattableString.Invariant($"{f.Control} {f.Hours} {f.Gain:F12} {f.ReadinessAfter:F12}"))
                .SequenceEqual(FixesAnew(model, 12))
        );

    [Fact]
    public void No_set_of_controls_within_the_hours_gains_more_than_the_bound() =>
        AnyModel.Sample(model =>
        {
            const decimal Hours = 7;
            var before = ReadinessComputation.On(Day, model).Mean ?? 0;
            var bound = ReadinessComputation.MostGain(Day, model, Hours);
            var fit = model.Controls.Where(c => c is { Applicable: true, Parts.Count: > 0 }).ToList();
            return Enumerable
                .Range(0, 1 << fit.Count)
                .Select(set => fit.Where((_, i) => (set >> i & 1) == 1).ToList())
                .Where(set => set.Sum(c => c.Effort == 0 ? 0.25m : c.Effort) <= Hours)
                .All(set =>
                    (ReadinessComputation.On(Day, model, set.Select(c => c.Id).ToHashSet()).Mean ?? 0) - before
                    <= bound + 1e-12m
                );
        });

    [Fact]
    public void The_bound_is_reached_where_all_of_it_fits() =>
        AnyModel.Sample(model =>
            Math.Abs(
                ReadinessComputation.MostGain(Day, model, 1_000)
                    - ReadinessComputation.Fixes(Day, model, 1_000).Sum(f => f.Gain)
            ) < 1e-12m
        );

    [Theory]
    [InlineData("""{"id":"a","maps":["q9"]}""", "controls[0].maps")]
    [InlineData("""{"id":"a","units":["u9"]}""", "controls[0].units")]
    [InlineData("""{"id":"a","parts":[{"kind":"wish"}]}""", "controls[0].parts[0].kind")]
    [InlineData("""{"id":"a","weight":-1}""", "controls[0].weight")]
    public void A_model_that_does_not_hold_together_is_refused_with_its_place(string control, string place) =>
        ReadinessFile.Read(Model(control)).Refusal!.Sentence.ShouldStartWith(place);
}
