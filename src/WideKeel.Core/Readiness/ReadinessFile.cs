using System.Text.Json.Nodes;

namespace WideKeel.Core.Readiness;

/// <summary>Reads frameworks and controls from a file, and writes figures; the first mistake is named with its place.</summary>
public static class ReadinessFile
{
    public static Outcome<ReadinessModel> Read(string json) => JsonPlace.Read(json, ModelAt);

    private static ReadinessModel ModelAt(JsonPlace root)
    {
        List<ReadinessUnit> units =
        [
            .. root.Each("units").Select(u => new ReadinessUnit(u.Needed("id"), Weight(u, "people"))),
        ];
        List<Framework> frameworks =
        [
            .. root.Each("frameworks")
                .Select(f => new Framework(
                    f.Needed("id"),
                    [.. f.Each("requirements").Select(r => new Requirement(r.Needed("id"), Weight(r, "weight")))]
                )),
        ];
        HashSet<string> knownUnits = [.. units.Select(u => u.Id)];
        HashSet<string> knownRequirements = [.. frameworks.SelectMany(f => f.Requirements).Select(r => r.Id)];
        List<Control> controls = [.. root.Each("controls").Select(c => ControlAt(c, knownUnits, knownRequirements))];
        CheckOnce(root, "units", units.Select(u => u.Id));
        CheckOnce(root, "frameworks", frameworks.Select(f => f.Id));
        CheckOnce(root, "controls", controls.Select(c => c.Id));
        foreach (var framework in frameworks)
        {
            CheckOnce(root, $"frameworks, {framework.Id}", framework.Requirements.Select(r => r.Id));
        }

        return new ReadinessModel(units, frameworks, controls);
    }

    public static JsonObject Write(ReadinessFigures figures, ReadinessFigures? forecast, IReadOnlyList<Fix> fixes)
    {
        var written = Write(figures);
        written["forecast"] = forecast is null ? null : Write(forecast);
        written["fixes"] = Each(
            fixes,
            f => new JsonObject
            {
                ["control"] = f.Control,
                ["hours"] = Number(f.Hours),
                ["gain"] = Number(f.Gain),
                ["readinessAfter"] = Number(f.ReadinessAfter),
            }
        );
        return written;
    }

    private static JsonObject Write(ReadinessFigures figures) =>
        new()
        {
            ["asOf"] = NodaTime.Text.LocalDatePattern.Iso.Format(figures.AsOf),
            ["controls"] = Each(figures.Controls, c => Figure(c.Id, c.Readiness, Word(c.State))),
            ["frameworks"] = Each(
                figures.Frameworks,
                f => new JsonObject
                {
                    ["id"] = f.Id,
                    ["readiness"] = Number(f.Readiness),
                    ["units"] = Each(f.Units, u => Figure(u.Id, u.Readiness, null)),
                    ["requirements"] = Each(f.Requirements, r => Figure(r.Id, r.Readiness, Word(r.State))),
                }
            ),
        };

    private static JsonObject Figure(string id, decimal? readiness, string? state)
    {
        var written = new JsonObject { ["id"] = id, ["readiness"] = Number(readiness) };
        if (state is not null)
        {
            written["state"] = state;
        }

        return written;
    }

    private static JsonArray Each<T>(IEnumerable<T> of, Func<T, JsonObject> write) =>
        new([.. of.Select(o => (JsonNode?)write(o))]);

    private static JsonValue? Number(decimal? number) =>
        number is not { } n ? null : JsonValue.Create((double)Math.Round(n, 6, MidpointRounding.ToEven));

    /// <summary>A word of an enumeration in lower case, its parts joined by hyphens.</summary>
    private static string Word<T>(T value)
        where T : struct, Enum =>
        string.Concat(value.ToString().Select((c, i) => i > 0 && char.IsUpper(c) ? $"-{c}" : $"{c}"))
            .ToLowerInvariant();

    private static Control ControlAt(JsonPlace at, HashSet<string> units, HashSet<string> requirements)
    {
        var maps = at.Texts("maps");
        if (maps.Find(m => !requirements.Contains(m)) is { } unmapped)
        {
            throw at.Wrong("maps", $"there is no requirement “{unmapped}”");
        }

        var where = at.Has("units") ? at.Texts("units") : null;
        if (where?.Find(u => !units.Contains(u)) is { } nowhere)
        {
            throw at.Wrong("units", $"there is no unit “{nowhere}”");
        }

        return new(
            at.Needed("id"),
            where?.ToHashSet(),
            maps.ToHashSet(),
            !at.Has("applicable") || at.Flag("applicable"),
            Weight(at, "weight"),
            at.Has("effort") ? Weight(at, "effort") : 0,
            [.. at.Each("parts").Select(PartAt)]
        );
    }

    private static ControlPart PartAt(JsonPlace at)
    {
        var weight = Weight(at, "weight");
        return at.Needed("kind") switch
        {
            "test" => new ControlPart.Test(weight, at.Flag("passed"), at.DateOrNone("ran"), PeriodAt(at, "period")),
            "routine" => new ControlPart.Routine(
                weight,
                at.DateOrNone("due"),
                at.DateOrNone("next"),
                at.DateOrNone("doneFor")
            ),
            "evidence" => new ControlPart.Evidence(weight, at.DateOrNone("taken"), PeriodAt(at, "fresh")),
            var kind => throw at.Wrong("kind", $"“{kind}” is none of test, routine, evidence"),
        };
    }

    private static Period PeriodAt(JsonPlace at, string field) =>
        at.Take(Period.Parse(at.Needed(field), mayBeZero: true), field);

    private static decimal Weight(JsonPlace at, string field) =>
        at.Number(field) is not { } weight ? 1
        : weight >= 0 ? weight
        : throw at.Wrong(field, "a number of 0 or more is expected");

    private static void CheckOnce(JsonPlace root, string field, IEnumerable<string> ids)
    {
        if (ids.GroupBy(i => i, StringComparer.Ordinal).FirstOrDefault(g => g.Count() > 1) is { } twice)
        {
            throw root.Wrong(field, $"“{twice.Key}” stands there more than once");
        }
    }
}
