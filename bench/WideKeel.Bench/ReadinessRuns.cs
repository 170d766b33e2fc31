using System.Diagnostics;
using System.Globalization;
using NodaTime;
using WideKeel.Core.Readiness;

/// <summary>1,000 controls, 20 frameworks, 10 units: readiness of all, the forecast of a quarter and the next fixes.</summary>
internal static class ReadinessRun
{
    private const int Controls = 1_000;
    private const int Frameworks = 20;
    private const int Requirements = 100;
    private const int Units = 10;

    public static void Run()
    {
        var day = new LocalDate(2026, 6, 15);
        var model = Model(new Random(3), day);
        ReadinessComputation.On(day, model);
        var all = Best(() => ReadinessComputation.On(day, model).Mean ?? 0);
        var bare = Best(() => BareSum(model, day));
        var quarter = Best(
            () => Enumerable.Range(0, 90).Sum(d => ReadinessComputation.On(day.PlusDays(d), model).Mean ?? 0),
            runs: 1
        );
        var fixes = Best(() => ReadinessComputation.Fixes(day, model, 40).Count, runs: 1);
        Console.WriteLine(
            string.Create(
                CultureInfo.InvariantCulture,
                $"""
                readiness of {Controls} controls × {Frameworks} frameworks × {Units} units
                  all of it                 {all.TotalMilliseconds, 10:0.0} ms (goal 200)
                  bare walk over the parts  {bare.TotalMilliseconds, 10:0.0} ms ({all / bare:0.0}×)
                  90 days of forecast       {quarter.TotalMilliseconds, 10:0.0} ms
                  next fixes, 40 hours      {fixes.TotalMilliseconds, 10:0.0} ms
                """
            )
        );
    }

    private static TimeSpan Best(Func<decimal> work, int runs = 5)
    {
        var best = TimeSpan.MaxValue;
        for (var i = 0; i < runs; i++)
        {
            var watch = Stopwatch.StartNew();
            work();
            best = watch.Elapsed < best ? watch.Elapsed : best;
        }

        return best;
    }

    private static ReadinessModel Model(Random random, LocalDate day)
    {
        var units = Enumerable.Range(0, Units).Select(u => new ReadinessUnit($"u{u}", 10 + random.Next(200))).ToList();
        var frameworks = Enumerable
            .Range(0, Frameworks)
            .Select(f => new Framework(
                $"f{f}",
                [
                    .. Enumerable
                        .Range(0, Requirements)
                        .Select(r => new WideKeel.Core.Readiness.Requirement($"f{f}r{r}", 1)),
                ]
            ))
            .ToList();
        return new(
            units,
            frameworks,
            [
                .. Enumerable
                    .Range(0, Controls)
                    .Select(c => new Control(
                        $"c{c:0000}",
                        random.Next(3) == 0
                            ? units.Where(_ => random.Next(2) == 0).Select(u => u.Id).ToHashSet()
                            : null,
                        Enumerable
                            .Range(0, Frameworks)
                            .Select(f => $"f{f}r{random.Next(Requirements)}")
                            .Where(_ => random.Next(2) == 0)
                            .ToHashSet(),
                        random.Next(40) > 0,
                        1,
                        1 + random.Next(20),
                        [
                            .. Enumerable
                                .Range(0, 3)
                                .Select(_ => new ControlPart.Evidence(
                                    1,
                                    day.PlusDays(-random.Next(300)),
                                    WideKeel.Core.Time.Period.Parse("P200D", "fresh").Value
                                )),
                        ]
                    )),
            ]
        );
    }

    /// <summary>One look at every part, mapping and unit: what no way of computing it can leave out.</summary>
    private static decimal BareSum(ReadinessModel model, LocalDate day)
    {
        decimal sum = 0;
        foreach (var control in model.Controls)
        {
            decimal counted = control.Parts.Count(p => p.CountsOn(day));
            foreach (var unit in model.Units)
            {
                if (control.AppliesIn(unit.Id))
                {
                    sum += counted * control.Maps.Count;
                }
            }
        }

        return sum;
    }
}
