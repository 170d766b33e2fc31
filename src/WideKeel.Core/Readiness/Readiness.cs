using NodaTime;

namespace WideKeel.Core.Readiness;

/// <summary>
/// Readiness from parts up: control = weight of the parts that count ÷ weight of all; requirement = weighted mean of
/// the applicable controls that serve it; framework in a unit = weighted mean of its requirements over the controls of
/// that unit; framework = mean of its units, weighted by people.
/// </summary>
public static class ReadinessComputation
{
    /// <summary>Gains nearer to each other than this are one gain: the digits beyond are those of division.</summary>
    private const decimal Same = 1e-15m;

    /// <summary>What an effort of zero counts as, in hours.</summary>
    private const decimal LeastHours = 0.25m;

    /// <param name="mended">Controls of which all parts count.</param>
    public static ReadinessFigures On(LocalDate day, ReadinessModel model, IReadOnlySet<string>? mended = null)
    {
        var figures = model.Controls.ToDictionary(c => c.Id, c => Of(c, day, mended?.Contains(c.Id) == true));
        var serving = Serving(model);
        return new(
            day,
            [.. model.Controls.Select(c => figures[c.Id])],
            [.. model.Frameworks.Select(f => Of(f, model, serving, figures))]
        );
    }

    /// <summary>The controls that serve each requirement, by its id.</summary>
    private static ILookup<string, Control> Serving(ReadinessModel model) =>
        model.Controls.SelectMany(c => c.Maps.Select(m => (m, c))).ToLookup(x => x.m, x => x.c);

    /// <summary>
    /// Which controls to mend first: greedy by gain per hour, asked anew after each, until the hours are used up. The
    /// greedy choice is not always the best set; it is never far from it.
    /// </summary>
    public static IReadOnlyList<Fix> Fixes(LocalDate day, ReadinessModel model, decimal hours)
    {
        List<Fix> fixes = [];
        var standing = new FixStanding(day, model, Serving(model));
        var open = model
            .Controls.Where(c => c is { Applicable: true, Parts.Count: > 0 } && Of(c, day, false).Readiness < 1)
            .OrderBy(c => c.Id, StringComparer.Ordinal)
            .ToList();
        var now = standing.Mean;
        while (true)
        {
            (Control Control, decimal Hours, decimal Gain, decimal Rate)? best = null;
            foreach (var control in open)
            {
                var needed = control.Effort == 0 ? LeastHours : control.Effort;
                if (needed > hours)
                {
                    continue;
                }

                var gain = standing.With(control) - now;
                if (gain > Same && (best is null || gain / needed > best.Value.Rate + Same))
                {
                    best = (control, needed, gain, gain / needed);
                }
            }

            if (best is not { } pick)
            {
                return fixes;
            }

            standing.Mend(pick.Control);
            open.Remove(pick.Control);
            hours -= pick.Hours;
            now += pick.Gain;
            fixes.Add(new(pick.Control.Id, pick.Hours, pick.Gain, now));
        }
    }

    private static ControlFigure Of(Control control, LocalDate day, bool mended)
    {
        if (!control.Applicable)
        {
            return new(control.Id, null, ControlState.NotApplicable);
        }

        if (control.Parts.Count == 0)
        {
            return new(control.Id, 0, ControlState.NotSetUp);
        }

        var counted = control.Parts.Where(p => mended || p.CountsOn(day)).ToList();
        return new(
            control.Id,
            Divide(counted.Sum(p => p.Weight), control.Parts.Sum(p => p.Weight)),
            counted.Count == control.Parts.Count ? ControlState.Ready : ControlState.Partly
        );
    }

    private static FrameworkFigure Of(
        Framework framework,
        ReadinessModel model,
        ILookup<string, Control> serving,
        Dictionary<string, ControlFigure> figures
    )
    {
        List<UnitFigure> units =
        [
            .. model.Units.Select(u => new UnitFigure(
                u.Id,
                Mean(
                    framework.Requirements.Select(r =>
                        (r.Weight, Of(r, serving[r.Id].Where(c => c.AppliesIn(u.Id)), figures).Readiness)
                    )
                )
            )),
        ];
        return new(
            framework.Id,
            Mean(model.Units.Zip(units, (u, figure) => (u.People, figure.Readiness))),
            units,
            [.. framework.Requirements.Select(r => Of(r, serving[r.Id], figures))]
        );
    }

    private static RequirementFigure Of(
        Requirement requirement,
        IEnumerable<Control> among,
        Dictionary<string, ControlFigure> figures
    )
    {
        var serving = among.ToList();
        return serving.Count == 0 ? new(requirement.Id, 0, RequirementState.Unanswered)
            : !serving.Exists(c => c.Applicable) ? new(requirement.Id, null, RequirementState.NotApplicable)
            : new(
                requirement.Id,
                Mean(serving.Select(c => (c.Weight, figures[c.Id].Readiness))),
                RequirementState.Answered
            );
    }

    /// <summary>The weighted mean of those that have a figure; null where none has, or all weights are zero.</summary>
    private static decimal? Mean(IEnumerable<(decimal Weight, decimal? Figure)> of)
    {
        var there = of.Where(f => f.Figure is not null).ToList();
        return Divide(there.Sum(f => f.Weight * f.Figure!.Value), there.Sum(f => f.Weight));
    }

    private static decimal? Divide(decimal part, decimal whole) => whole == 0 ? null : part / whole;

    /// <summary>
    /// The sums from which the mean of all frameworks is made, so that the gain of one control is asked of what it serves
    /// alone. A mended control changes figures and never whether there is one, so that the weights stay as they are.
    /// </summary>
    private sealed class FixStanding
    {
        private readonly ReadinessModel model;
        private readonly Dictionary<string, decimal> readiness;
        private readonly Dictionary<string, List<(int Framework, int Unit, decimal Part)>> places = [];
        private readonly decimal[][] sums;
        private readonly decimal[][] weights;
        private readonly Dictionary<(int Framework, int Unit), decimal> changed = [];

        public FixStanding(LocalDate day, ReadinessModel model, ILookup<string, Control> serving)
        {
            this.model = model;
            readiness = model
                .Controls.Select(c => Of(c, day, false))
                .Where(f => f.Readiness is not null)
                .ToDictionary(f => f.Id, f => f.Readiness!.Value);
            sums = [.. model.Frameworks.Select(_ => new decimal[model.Units.Count])];
            weights = [.. model.Frameworks.Select(_ => new decimal[model.Units.Count])];
            for (var f = 0; f < model.Frameworks.Count; f++)
            {
                foreach (var requirement in model.Frameworks[f].Requirements)
                {
                    for (var u = 0; u < model.Units.Count; u++)
                    {
                        Add(f, u, requirement, [.. serving[requirement.Id].Where(c => c.AppliesIn(model.Units[u].Id))]);
                    }
                }
            }
        }

        private void Add(int framework, int unit, Requirement requirement, List<Control> serving)
        {
            // A control without a figure (not applicable, or with parts that weigh nothing) counts nowhere.
            var there = serving.FindAll(c => readiness.ContainsKey(c.Id));
            var whole = there.Sum(c => c.Weight);
            if (serving.Count > 0 && whole == 0)
            {
                return;
            }

            weights[framework][unit] += requirement.Weight;
            foreach (var control in there)
            {
                // What the control's own readiness of 1 adds to the sum of the framework in the unit.
                var part = requirement.Weight * control.Weight / whole;
                sums[framework][unit] += part * readiness[control.Id];
                if (!places.TryGetValue(control.Id, out var of))
                {
                    places.Add(control.Id, of = []);
                }

                of.Add((framework, unit, part));
            }
        }

        /// <summary>The mean of the frameworks that have a figure; zero where none has.</summary>
        public decimal Mean => MeanOf([]);

        /// <summary>The same once a control is mended besides.</summary>
        public decimal With(Control control)
        {
            changed.Clear();
            var rise = 1 - readiness[control.Id];
            foreach (var (framework, unit, part) in places.GetValueOrDefault(control.Id) ?? [])
            {
                changed[(framework, unit)] = changed.GetValueOrDefault((framework, unit)) + (part * rise);
            }

            return MeanOf(changed);
        }

        public void Mend(Control control)
        {
            var rise = 1 - readiness[control.Id];
            foreach (var (framework, unit, part) in places.GetValueOrDefault(control.Id) ?? [])
            {
                sums[framework][unit] += part * rise;
            }

            readiness[control.Id] = 1;
        }

        private decimal MeanOf(Dictionary<(int Framework, int Unit), decimal> more)
        {
            decimal sum = 0;
            var count = 0;
            for (var f = 0; f < sums.Length; f++)
            {
                decimal people = 0,
                    figure = 0;
                for (var u = 0; u < model.Units.Count; u++)
                {
                    if (Divide(sums[f][u] + more.GetValueOrDefault((f, u)), weights[f][u]) is { } known)
                    {
                        people += model.Units[u].People;
                        figure += model.Units[u].People * known;
                    }
                }

                if (Divide(figure, people) is { } framework)
                {
                    sum += framework;
                    count++;
                }
            }

            return count == 0 ? 0 : sum / count;
        }
    }
}
