using System.Globalization;

namespace WideKeel.Core.Readiness;

/// <summary>One cause of a change of a framework's readiness.</summary>
/// <param name="Says">A sentence.</param>
/// <param name="By">How far the readiness moved by it, −1 to 1.</param>
public sealed record Movement(string Says, decimal By)
{
    /// <summary>The sentence with the points of a hundred that it moved.</summary>
    public override string ToString() =>
        string.Create(CultureInfo.InvariantCulture, $"{Says} ({100 * By:+0.0#;−0.0#} points)");
}

/// <summary>
/// What moved the readiness of a framework between two days. The causes are applied one after the other (units,
/// requirements, controls with what they serve, their parts), each with what the figure moves by it: their sum is what the
/// figure moved in all. What moves nothing is no cause.
/// </summary>
public static class ReadinessMovement
{
    /// <summary>What digits of division are, and no movement.</summary>
    private const decimal Nothing = 1e-12m;

    public static IReadOnlyList<Movement> Between(ReadinessGround before, ReadinessGround after, string framework)
    {
        var (ground, target) = (before.Of(framework), after.Of(framework));
        var figure = ground.Figure(framework);
        List<Movement> movements = [];
        foreach (var (says, apply) in Steps(ground, target, framework))
        {
            ground = apply(ground);
            var now = ground.Figure(framework);
            if (Math.Abs(now - figure) > Nothing)
            {
                movements.Add(new(says, now - figure));
                figure = now;
            }
        }

        return movements;
    }

    private static IEnumerable<(string Says, Func<ReadinessGround, ReadinessGround> Apply)> Steps(
        ReadinessGround before,
        ReadinessGround after,
        string framework
    ) =>
        [
            .. OfUnits(before, after),
            .. OfRequirements(before, after, framework),
            .. OfControls(before, after, framework),
        ];

    private static IEnumerable<(string, Func<ReadinessGround, ReadinessGround>)> OfUnits(
        ReadinessGround before,
        ReadinessGround after
    )
    {
        foreach (var (old, now) in Pairs(before.Units, after.Units, u => u.Id).Where(p => p.Old != p.New))
        {
            var says = (old, now) switch
            {
                (null, { } u) => $"{u.Name} is in scope, with {People(u)}.",
                ({ } u, null) => $"{u.Name} is out of scope, with {People(u)}.",
                _ => $"{now!.Name} has {People(now)} in scope, {old!.People:0} before.",
            };
            yield return (says, g => g with { Units = Replaced(g.Units, now, u => u.Id == (old ?? now)!.Id) });
        }
    }

    private static string People(GroundUnit unit) => unit.People == 1 ? "1 person" : $"{unit.People:0} people";

    private static IEnumerable<(string, Func<ReadinessGround, ReadinessGround>)> OfRequirements(
        ReadinessGround before,
        ReadinessGround after,
        string framework
    )
    {
        var pairs = Pairs(
            before.Requirements.GetValueOrDefault(framework, []),
            after.Requirements.GetValueOrDefault(framework, []),
            r => r.Id
        );
        foreach (var (old, now) in pairs.Where(p => p.Old != p.New))
        {
            var code = (old ?? now)!.Id[(framework.Length + 1)..];
            yield return (
                old is null ? $"Requirement {code} is new."
                : now is null ? $"Requirement {code} is gone."
                : $"Requirement {code} weighs {now.Weight:0.##}, {old.Weight:0.##} before.",
                g =>
                    g with
                    {
                        Requirements = new Dictionary<string, IReadOnlyList<GroundRequirement>>(g.Requirements)
                        {
                            [framework] = Replaced(
                                g.Requirements.GetValueOrDefault(framework, []),
                                now,
                                r => r.Id == (old ?? now)!.Id
                            ),
                        },
                    }
            );
        }
    }

    private static IEnumerable<(string, Func<ReadinessGround, ReadinessGround>)> OfControls(
        ReadinessGround before,
        ReadinessGround after,
        string framework
    )
    {
        foreach (var (old, now) in Pairs(before.Controls, after.Controls, c => c.Code))
        {
            if (old is null || now is null)
            {
                var code = (old ?? now)!.Code;
                yield return (
                    old is null ? $"{code} is new here." : $"{code} serves no requirement here any more.",
                    g => g with { Controls = Replaced(g.Controls, now, c => c.Code == code) }
                );
                continue;
            }

            foreach (var (says, apply) in OfControl(old, now, framework))
            {
                yield return (
                    says,
                    g => g with { Controls = [.. g.Controls.Select(c => c.Code == now.Code ? apply(c) : c)] }
                );
            }
        }
    }

    private static IEnumerable<(string, Func<GroundControl, GroundControl>)> OfControl(
        GroundControl old,
        GroundControl now,
        string framework
    )
    {
        var here = $"{framework}/";
        foreach (var (was, added) in Pairs(old.Maps, now.Maps, m => m).Where(p => p.Old is null || p.New is null))
        {
            var map = (was ?? added)!;
            var code = map.StartsWith(here, StringComparison.Ordinal) ? map[here.Length..] : map;
            yield return (
                $"{now.Code} {(was is null ? "answers" : "no longer answers")} {code}.",
                c => c with { Maps = Replaced(c.Maps, added, m => m == map) }
            );
        }

        if (old.Applicable != now.Applicable)
        {
            yield return (
                $"{now.Code} is {(now.Applicable ? "applicable again" : "not applicable")}.",
                c => c with { Applicable = now.Applicable }
            );
        }

        if (old.Weight != now.Weight)
        {
            yield return (
                $"{now.Code} weighs {now.Weight:0.##}, {old.Weight:0.##} before.",
                c => c with { Weight = now.Weight }
            );
        }

        if ((old.Units is null) != (now.Units is null) || !(old.Units ?? []).ToHashSet().SetEquals(now.Units ?? []))
        {
            yield return ($"{now.Code} applies in other units.", c => c with { Units = now.Units });
        }

        foreach (var (was, part) in Pairs(old.Parts, now.Parts, p => p.Id).Where(p => p.Old != p.New))
        {
            var id = (was ?? part)!.Id;
            yield return (
                $"{now.Code} {(part ?? was)!.Title}: {Of(was, part)}.",
                c => c with { Parts = Replaced(c.Parts, part, p => p.Id == id) }
            );
        }
    }

    private static string Of(GroundPart? was, GroundPart? now) =>
        (was, now) switch
        {
            (null, { Counts: true }) => "is new and counts",
            (null, _) => "is new and does not count yet",
            (_, null) => "was retired",
            _ when was.Counts != now.Counts => (now.Counts ? "counts again" : "no longer counts")
                + (was.Terms == now.Terms ? "" : $", because it is {now.Terms} (before: {was.Terms})"),
            _ => $"weighs {now.Weight:0.##}, {was.Weight:0.##} before",
        };

    /// <summary>What stood before and what stands after, side by side; null where one is missing.</summary>
    private static IEnumerable<(T? Old, T? New)> Pairs<T, TKey>(
        IReadOnlyList<T> before,
        IReadOnlyList<T> after,
        Func<T, TKey> key
    )
        where T : class
        where TKey : notnull
    {
        var old = before.ToDictionary(key);
        var now = after.ToDictionary(key);
        return before
            .Select(key)
            .Union(after.Select(key))
            .Select(k => (old.GetValueOrDefault(k), now.GetValueOrDefault(k)));
    }

    /// <summary>The list without what stood there, with what stands there now at its place.</summary>
    private static List<T> Replaced<T>(IReadOnlyList<T> list, T? now, Func<T, bool> there)
        where T : class
    {
        List<T> replaced = [.. list];
        var place = replaced.FindIndex(x => there(x));
        if (place >= 0)
        {
            replaced.RemoveAt(place);
        }

        if (now is not null)
        {
            replaced.Insert(place >= 0 ? place : replaced.Count, now);
        }

        return replaced;
    }
}
