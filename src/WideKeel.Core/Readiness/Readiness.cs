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
        return new(
            day,
            [.. model.Controls.Select(c => figures[c.Id])],
            [.. model.Frameworks.Select(f => Of(f, model, figures))]
        );
    }

    /// <summary>
    /// Which controls to mend first: greedy by gain per hour, asked anew after each, until the hours are used up. The
    /// greedy choice is not always the best set; it is never far from it.
    /// </summary>
    public static IReadOnlyList<Fix> Fixes(LocalDate day, ReadinessModel model, decimal hours)
    {
        List<Fix> fixes = [];
        HashSet<string> mended = [];
        var now = On(day, model).Mean ?? 0;
        var open = model
            .Controls.Where(c => c is { Applicable: true, Parts.Count: > 0 } && Of(c, day, false).Readiness < 1)
            .OrderBy(c => c.Id, StringComparer.Ordinal)
            .ToList();
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

                var gain = (On(day, model, new HashSet<string>(mended) { control.Id }).Mean ?? 0) - now;
                if (gain > Same && (best is null || gain / needed > best.Value.Rate + Same))
                {
                    best = (control, needed, gain, gain / needed);
                }
            }

            if (best is not { } pick)
            {
                return fixes;
            }

            mended.Add(pick.Control.Id);
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
        Dictionary<string, ControlFigure> figures
    )
    {
        List<UnitFigure> units =
        [
            .. model.Units.Select(u => new UnitFigure(
                u.Id,
                Mean(
                    framework.Requirements.Select(r =>
                        (r.Weight, Of(r, model.Controls.Where(c => c.AppliesIn(u.Id)), figures).Readiness)
                    )
                )
            )),
        ];
        return new(
            framework.Id,
            Mean(model.Units.Zip(units, (u, figure) => (u.People, figure.Readiness))),
            units,
            [.. framework.Requirements.Select(r => Of(r, model.Controls, figures))]
        );
    }

    private static RequirementFigure Of(
        Requirement requirement,
        IEnumerable<Control> among,
        Dictionary<string, ControlFigure> figures
    )
    {
        var serving = among.Where(c => c.Maps.Contains(requirement.Id)).ToList();
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
}
