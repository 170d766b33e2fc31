using System.Globalization;
using System.Net;
using System.Text.Json.Nodes;
using NodaTime;
using NodaTime.Text;
using WideKeel.Core.Query;

namespace WideKeel.Core.Activity;

/// <summary>Watches with what they go by, as a file gives them.</summary>
public sealed record WatchSet(
    NamedNetworks Networks,
    DateTimeZone Zone,
    IReadOnlyList<WatchPerson> People,
    IReadOnlyList<Watch> Watches
);

/// <summary>Reads watches and events from files, and writes alerts; the first mistake is named with its place.</summary>
public static class WatchFile
{
    private static readonly Dictionary<string, double> Sensitivities = new()
    {
        ["low"] = 6,
        ["medium"] = 4,
        ["high"] = 3,
    };

    /// <summary>Cumulative sums, in standard deviations.</summary>
    private static readonly Dictionary<string, double> DriftSensitivities = new()
    {
        ["low"] = 8,
        ["medium"] = 5,
        ["high"] = 4,
    };

    private static readonly EventColumn[] RhythmKeys =
    [
        EventColumn.Channel,
        EventColumn.Address,
        EventColumn.Application,
    ];

    private static readonly EventColumn[] Keys =
    [
        EventColumn.Actor,
        EventColumn.Address,
        EventColumn.Network,
        EventColumn.Object,
        EventColumn.Container,
        EventColumn.Application,
        EventColumn.Channel,
    ];

    private static readonly EventColumn[] Dimensions =
    [
        EventColumn.Country,
        EventColumn.Network,
        EventColumn.Device,
        EventColumn.Application,
        EventColumn.Action,
    ];

    /// <param name="today">What <c>today</c> means in conditions.</param>
    public static Outcome<WatchSet> Read(string json, LocalDate today) =>
        JsonPlace.Read(json, root => SetAt(root, today));

    private static WatchSet SetAt(JsonPlace root, LocalDate today)
    {
        var zone = root.Text("zone") is not { } name
            ? DateTimeZone.Utc
            : DateTimeZoneProviders.Tzdb.GetZoneOrNull(name)
                ?? throw root.Wrong("zone", $"there is no time zone “{name}”");
        var people = root.Each("people")
            .Select(p => new WatchPerson(p.Needed("id"), p.Text("unit"), p.Text("title")))
            .ToList();
        if (people.GroupBy(p => p.Id).FirstOrDefault(g => g.Count() > 1) is { } twice)
        {
            throw root.Wrong("people", $"“{twice.Key}” stands there more than once");
        }

        return new WatchSet(
            new([.. root.Each("networks").Select(Network)]),
            zone,
            people,
            [.. root.Each("watches").Select(w => WatchAt(w, today))]
        );
    }

    /// <summary>Reads one watch as it stands in a file of watches.</summary>
    public static Outcome<Watch> ReadOne(string json, LocalDate today) =>
        JsonPlace.Read(json, root => WatchAt(root, today));

    /// <summary>Reads events, one a line; blank lines are passed over.</summary>
    public static Outcome<IReadOnlyList<ActivityEvent>> ReadEvents(TextReader lines)
    {
        List<ActivityEvent> events = [];
        for (var number = 1; lines.ReadLine() is { } line; number++)
        {
            if (string.IsNullOrWhiteSpace(line))
            {
                continue;
            }

            var read = EventLine.Read(line.TrimStart('\uFEFF'));
            if (read.Refusal is { } refusal)
            {
                return refusal with
                {
                    Sentence = string.Create(CultureInfo.InvariantCulture, $"Line {number}, {refusal.Sentence}"),
                };
            }

            events.Add(read.Value);
        }

        return events;
    }

    /// <summary>An alert as a line of JSON.</summary>
    public static JsonObject Write(WatchAlert alert) =>
        new()
        {
            ["watch"] = alert.Watch.Name,
            ["kind"] = alert.Watch.Kind.ToString().ToLowerInvariant(),
            ["key"] = alert.Key,
            ["at"] = EventLine.Text(alert.At),
            ["event"] = alert.Event,
            ["measure"] = alert.Measure is { } measure ? JsonValue.Create(Plain(measure)) : null,
            ["first"] = alert.First,
            ["why"] = alert.Why,
        };

    /// <summary>A decimal without zeros at its end.</summary>
    private static decimal Plain(decimal number) => number / 1.0000000000000000000000000000m;

    private static NamedNetwork Network(JsonPlace at) =>
        new(
            at.Needed("name"),
            [
                .. at.Texts("ranges")
                    .Select(r => Cidr.Read(r) ?? throw at.Wrong("ranges", $"“{r}” is no network such as 192.0.2.0/24")),
            ],
            at.Flag("egress")
        );

    // Long because each kind is read by its own fields.
    private static Watch WatchAt(JsonPlace at, LocalDate today)
    {
        var name = at.Needed("name");
        at.Needed("kind");
        var (where, except) = (ConditionAt(at, "where", today), ConditionAt(at, "except", today));
        return at.Word("kind", WatchKind.Each) switch
        {
            WatchKind.Each => new Watch.Each(name, where, except),
            WatchKind.Count when at.Flag("usual") => at.Has("threshold")
                ? throw at.Wrong("threshold", "set either threshold or usual, not both")
                : new Watch.CountBeyondUsual(
                    name,
                    where,
                    except,
                    Per(at),
                    Measure(at),
                    Sensitivity(at, Sensitivities),
                    Positive(at, "least") ?? 5,
                    Length(at, "within") is var within && within <= UsualWindows.Longest
                        ? within
                        : throw at.Wrong("within", "usual needs a window of at most P7D")
                ),
            WatchKind.Count => new Watch.Count(
                name,
                where,
                except,
                Per(at),
                Measure(at),
                Positive(at, "threshold") ?? throw at.Wrong("threshold", "it is missing"),
                Length(at, "within")
            ),
            WatchKind.First => new Watch.First(
                name,
                where,
                except,
                ColumnAt(at, "dimension", at.Needed("dimension"), Dimensions),
                at.Word("scope", WatchScope.Organisation),
                at.Has("learn") ? Length(at, "learn", mayBeZero: true) : Duration.Zero
            ),
            WatchKind.Unusual => new Watch.Unusual(
                name,
                where,
                except,
                Per(at),
                Measure(at),
                Sensitivity(at, Sensitivities),
                Positive(at, "least") ?? 5
            ),
            WatchKind.Journey => new Watch.Journey(
                name,
                where,
                except,
                (double)(Positive(at, "maxKmh") ?? 900),
                (double)(at.Number("minKm") ?? 500)
            ),
            WatchKind.Silence => new Watch.Silence(name, where, except, Length(at, "for")),
            WatchKind.Sequence => new Watch.Sequence(
                name,
                where,
                except,
                ConditionAt(at, "first", today) ?? throw at.Wrong("first", "it is missing"),
                ConditionAt(at, "then", today) ?? throw at.Wrong("then", "it is missing"),
                Per(at),
                Length(at, "within", mayBeZero: true)
            ),
            WatchKind.Rhythm => new Watch.Rhythm(
                name,
                where,
                except,
                Per(at, RhythmKeys),
                Sensitivity(at, Sensitivities)
            ),
            WatchKind.Drift => new Watch.Drift(
                name,
                where,
                except,
                Per(at),
                Measure(at),
                at.Word("against", DriftAgainst.Self),
                Sensitivity(at, DriftSensitivities)
            ),
            WatchKind.Woken => new Watch.Woken(name, where, except, Per(at), Length(at, "quiet")),
            WatchKind.Elsewhere => new Watch.Elsewhere(
                name,
                where,
                except,
                Length(at, "within", mayBeZero: true),
                (double)(Positive(at, "minKm") ?? 300)
            ),
            _ => throw at.Wrong("kind", "it is unknown"),
        };
    }

    private static Condition? ConditionAt(JsonPlace at, string field, LocalDate today) =>
        at.Text(field) is { } query
            ? at.Take(QueryCompiler.Compile(query, today, EventColumn.Vocabulary), field).Condition
            : null;

    private static EventColumn? Per(JsonPlace at) => Per(at, Keys);

    private static EventColumn? Per(JsonPlace at, EventColumn[] known) =>
        at.Text("per") is not { } per || per == "none" ? null : ColumnAt(at, "per", per, known, "none");

    private static EventColumn ColumnAt(
        JsonPlace at,
        string field,
        string name,
        EventColumn[] known,
        params string[] besides
    ) =>
        known.FirstOrDefault(c => c.Name == name)
        ?? throw at.Wrong(
            field,
            $"“{name}” is none of {string.Join(", ", [.. known.Select(c => c.Name), .. besides])}"
        );

    private static WatchMeasure Measure(JsonPlace at)
    {
        var of = at.Text("of") ?? "events";
        return of switch
        {
            "events" => new(),
            "sum:amount" => new(Amount: true),
            _ when of.StartsWith("distinct:", StringComparison.Ordinal) && EventColumn.Find(of[9..]) is { } column =>
                new(column),
            _ => throw at.Wrong("of", $"“{of}” is none of events, distinct:FIELD, sum:amount"),
        };
    }

    private static decimal? Positive(JsonPlace at, string field) =>
        at.Number(field) is not { } number ? null
        : number > 0 ? number
        : throw at.Wrong(field, "a number above zero is expected");

    private static double Sensitivity(JsonPlace at, Dictionary<string, double> known)
    {
        var word = at.Text("sensitivity") ?? "medium";
        return known.TryGetValue(word, out var least)
            ? least
            : throw at.Wrong("sensitivity", $"“{word}” is none of {string.Join(", ", known.Keys)}");
    }

    /// <summary>A length of time of weeks, days, hours, minutes and seconds; a day has 24 hours.</summary>
    private static Duration Length(JsonPlace at, string field, bool mayBeZero = false)
    {
        var text = at.Needed(field);
        if (
            PeriodPattern.Roundtrip.Parse(text) is not { Success: true, Value: { Years: 0, Months: 0 } period }
            || period.ToDuration() is var length && (length < Duration.Zero || (length == Duration.Zero && !mayBeZero))
        )
        {
            throw at.Wrong(field, $"“{text}” is no length of time such as PT5M, PT2H or P14D");
        }

        return period.ToDuration();
    }
}
