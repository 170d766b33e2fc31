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
    /// Which controls to mend first: greedy by gain per hour until the hours are used up; a control that does not fit is
    /// passed over. What one gains does not depend on the others, because every step from parts to the mean of all
    /// frameworks is a weighted mean.
    /// </summary>
    public static IReadOnlyList<Fix> Fixes(LocalDate day, ReadinessModel model, decimal hours)
    {
        List<Fix> fixes = [];
        var now = On(day, model).Mean ?? 0;
        var open = Gains(day, model);
        while (true)
        {
            (string Control, decimal Hours, decimal Gain)? best = null;
            foreach (var fix in open.Where(f => f.Hours <= hours))
            {
                if (best is not { } known || fix.Gain / fix.Hours > (known.Gain / known.Hours) + Same)
                {
                    best = fix;
                }
            }

            if (best is not { } pick)
            {
                return fixes;
            }

            open.Remove(pick);
            hours -= pick.Hours;
            now += pick.Gain;
            fixes.Add(new(pick.Control, pick.Hours, pick.Gain, now));
        }
    }

    /// <summary>
    /// What no choice of controls within the hours can gain more than: those of the best rate are taken whole, and of the
    /// first that does not fit the part that does (Dantzig, “Discrete-variable extremum problems”, Operations Research 5,
    /// 1957).
    /// </summary>
    public static decimal MostGain(LocalDate day, ReadinessModel model, decimal hours)
    {
        decimal gain = 0;
        foreach (var fix in Gains(day, model).OrderByDescending(f => f.Gain / f.Hours))
        {
            if (fix.Hours >= hours)
            {
                return gain + (fix.Gain * hours / fix.Hours);
            }

            gain += fix.Gain;
            hours -= fix.Hours;
        }

        return gain;
    }

    /// <summary>What each control that can be mended would add to the mean of all frameworks, by id.</summary>
    private static List<(string Control, decimal Hours, decimal Gain)> Gains(LocalDate day, ReadinessModel model)
    {
        var serving = Serving(model);
        // A control without a figure (not applicable, or with parts that weigh nothing) counts nowhere.
        var readiness = model
            .Controls.Select(c => Of(c, day, false))
            .Where(f => f.Readiness is not null)
            .ToDictionary(f => f.Id, f => f.Readiness!.Value);
        Dictionary<string, decimal> shares = [];
        var frameworks = model
            .Frameworks.Select(f => SharesIn(f, model, serving, readiness))
            .OfType<Dictionary<string, decimal>>()
            .ToList();
        foreach (var (control, share) in frameworks.SelectMany(f => f))
        {
            shares[control] = shares.GetValueOrDefault(control) + (share / frameworks.Count);
        }

        return
        [
            .. model
                .Controls.Where(c => c.Parts.Count > 0 && shares.ContainsKey(c.Id))
                .Select(c =>
                    (c.Id, Hours: c.Effort == 0 ? LeastHours : c.Effort, Gain: shares[c.Id] * (1 - readiness[c.Id]))
                )
                .Where(f => f.Gain > Same)
                .OrderBy(f => f.Id, StringComparer.Ordinal),
        ];
    }

    /// <summary>How much of a framework's figure hangs on each control; null where the framework has none.</summary>
    private static Dictionary<string, decimal>? SharesIn(
        Framework framework,
        ReadinessModel model,
        ILookup<string, Control> serving,
        Dictionary<string, decimal> readiness
    )
    {
        Dictionary<string, decimal> shares = [];
        decimal people = 0;
        foreach (var unit in model.Units)
        {
            var there = framework
                .Requirements.Select(r =>
                    (Requirement: r, Controls: serving[r.Id].Where(c => c.AppliesIn(unit.Id)).ToList())
                )
                .Select(r => (r.Requirement, r.Controls, With: r.Controls.FindAll(c => readiness.ContainsKey(c.Id))))
                // What nothing serves counts with zero; what has no figure counts not at all.
                .Where(r => r.Controls.Count == 0 || r.With.Sum(c => c.Weight) > 0)
                .ToList();
            var weight = there.Sum(r => r.Requirement.Weight);
            if (weight == 0)
            {
                continue;
            }

            people += unit.People;
            foreach (var (requirement, _, with) in there)
            {
                var whole = with.Sum(c => c.Weight);
                foreach (var control in with)
                {
                    shares[control.Id] =
                        shares.GetValueOrDefault(control.Id)
                        + (unit.People * requirement.Weight / weight * control.Weight / whole);
                }
            }
        }

        return people == 0 ? null : shares.ToDictionary(s => s.Key, s => s.Value / people);
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
}
