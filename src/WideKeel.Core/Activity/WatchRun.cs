using System.Globalization;
using NodaTime;

namespace WideKeel.Core.Activity;

/// <summary>
/// The alerts that watches raise over given events: one evaluation for the running product, a backtest and the command
/// line. Events are taken by (time, id); an id seen before in its channel is passed over.
/// </summary>
public sealed class WatchRun
{
    private readonly List<ActivityEvent> events;
    private readonly NamedNetworks networks;
    private readonly Dictionary<string, WatchPerson> people;
    private readonly DateTimeZone zone;
    private readonly Instant? until;

    /// <param name="events">In any order; the network of each is derived from <paramref name="networks"/>.</param>
    /// <param name="zone">The organisation's, for hours of the week.</param>
    /// <param name="until">Up to when silence is watched; the last event's moment where it is null.</param>
    public WatchRun(
        IEnumerable<ActivityEvent> events,
        NamedNetworks networks,
        IEnumerable<WatchPerson> people,
        DateTimeZone zone,
        Instant? until = null
    )
    {
        (this.networks, this.zone) = (networks, zone);
        this.people = people.ToDictionary(p => p.Id);
        HashSet<(string?, string)> seen = [];
        // An address comes again and again; its network is looked for once.
        Dictionary<string, string?> known = [];
        this.events =
        [
            .. InOrder([.. events])
                .Where(e => seen.Add((e.Channel, e.Id)))
                .Select(e => NetworkOf(e.Address) is var name && name == e.Network ? e : e with { Network = name }),
        ];
        this.until = until ?? (this.events.Count > 0 ? this.events[^1].Time : null);

        string? NetworkOf(string? address)
        {
            if (address is null)
            {
                return null;
            }

            if (!known.TryGetValue(address, out var name))
            {
                known[address] = name = networks.Of(address)?.Name;
            }

            return name;
        }
    }

    /// <summary>By time, then id. They mostly come so, and millions are not sorted for nothing.</summary>
    private static List<ActivityEvent> InOrder(List<ActivityEvent> events)
    {
        for (var i = 1; i < events.Count; i++)
        {
            if (Compare(events[i - 1], events[i]) > 0)
            {
                return [.. events.OrderBy(e => e.Time).ThenBy(e => e.Id, StringComparer.Ordinal)];
            }
        }

        return events;

        static int Compare(ActivityEvent a, ActivityEvent b) =>
            a.Time.CompareTo(b.Time) is var time and not 0 ? time : string.CompareOrdinal(a.Id, b.Id);
    }

    /// <summary>All alerts, by moment, then in the order of the watches, then by key.</summary>
    public IReadOnlyList<WatchAlert> Alerts(IReadOnlyList<Watch> watches) =>
        [
            .. watches
                .SelectMany((watch, place) => Of(watch).Select(alert => (alert, place)))
                .OrderBy(a => a.alert.At)
                .ThenBy(a => a.place)
                .ThenBy(a => a.alert.Key, StringComparer.Ordinal)
                .Select(a => a.alert),
        ];

    /// <summary>
    /// What a key did in the clock hour of a moment, and the baseline that this hour is held against: null where the
    /// history is too short.
    /// </summary>
    /// <returns>Null where the key did nothing in that hour.</returns>
    public (decimal Measure, Baseline? Baseline)? HourOf(Watch.Unusual watch, string? key, Instant at) =>
        new UnusualHours(watch, people, zone, ByKey(events.Where(watch.Counts), watch.Per)).At(key, at);

    private IEnumerable<WatchAlert> Of(Watch watch)
    {
        var counted = events.Where(watch.Counts);
        return watch switch
        {
            Watch.Each each => counted.Select(e => new WatchAlert(each, null, e.Time, e.Id, 1, null, "It happened.")),
            Watch.Count count => ByKey(counted, count.Per).SelectMany(k => Counts(count, k.Key, k.Events)),
            Watch.CountBeyondUsual usual => ByKey(counted, usual.Per)
                .SelectMany(k => new UsualWindows(usual, zone).AlertsOf(k.Key, k.Events)),
            Watch.First first => Firsts(first, counted),
            Watch.Unusual unusual => new UnusualHours(unusual, people, zone, ByKey(counted, unusual.Per)).Alerts(),
            Watch.Journey journey => ByKey(counted.Where(IsJourney), journey.Per)
                .SelectMany(k => Journeys(journey, k.Key!, k.Events)),
            Watch.Silence silence => Silences(silence, [.. counted]),
            Watch.Sequence sequence => ByKey(counted, sequence.Per)
                .SelectMany(k => Sequences(sequence, k.Key, k.Events)),
            Watch.Rhythm rhythm => Rhythms(rhythm, [.. ByKey(counted, rhythm.Per)]),
            Watch.Drift drift => new LastingRise(drift, people, zone, ByKey(counted, drift.Per)).Alerts(),
            Watch.Woken woken => ByKey(counted, woken.Per).SelectMany(k => Wakings(woken, k.Key, k.Events)),
            Watch.Elsewhere elsewhere => ByKey(counted.Where(HasPlace), elsewhere.Per)
                .SelectMany(k => Elsewheres(elsewhere, k.Key!, k.Events)),
            _ => throw new ArgumentOutOfRangeException(nameof(watch)),
        };
    }

    /// <summary>The events of each key in their order; an event without the key belongs to none.</summary>
    private static IEnumerable<(string? Key, IReadOnlyList<ActivityEvent> Events)> ByKey(
        IEnumerable<ActivityEvent> counted,
        EventColumn? per
    ) =>
        per is null
            ? [(null, [.. counted])]
            : counted
                .Select(e => (Key: per.ValueOf(e), Event: e))
                .Where(e => e.Key is not null)
                .GroupBy(e => e.Key, e => e.Event, StringComparer.Ordinal)
                .Select(g => (g.Key, (IReadOnlyList<ActivityEvent>)[.. g]));

    private static IEnumerable<WatchAlert> Counts(Watch.Count watch, string? key, IReadOnlyList<ActivityEvent> events)
    {
        var window = new MeasuredWindow(watch.Of);
        var start = 0;
        var alerting = false;
        for (var i = 0; i < events.Count; i++)
        {
            var e = events[i];
            window.Add(e);
            for (; events[start].Time <= e.Time - watch.Within; start++)
            {
                window.Remove(events[start]);
            }

            var measure = window.Measure;
            if (measure >= watch.Threshold && !alerting)
            {
                yield return new(
                    watch,
                    key,
                    e.Time,
                    e.Id,
                    measure,
                    events[start].Id,
                    string.Create(
                        CultureInfo.InvariantCulture,
                        $"{watch.Of.InWords(measure)} within {Durations.Words(watch.Within)}; the threshold is {watch.Threshold}."
                    )
                );
            }

            alerting = measure >= watch.Threshold;
        }
    }

    private IEnumerable<WatchAlert> Firsts(Watch.First watch, IEnumerable<ActivityEvent> counted)
    {
        Dictionary<(string?, string?), (Instant Start, HashSet<string> Seen)> scopes = [];
        foreach (var e in counted)
        {
            if (ScopeOf(watch.Scope, e) is not { } scope)
            {
                continue;
            }

            if (!scopes.TryGetValue(scope, out var known))
            {
                scopes[scope] = known = (e.Time, new(StringComparer.Ordinal));
            }

            if (watch.Dimension.ValueOf(e) is { } value && known.Seen.Add(value) && e.Time >= known.Start + watch.Learn)
            {
                yield return new(
                    watch,
                    watch.Scope == WatchScope.Organisation ? value : e.Actor,
                    e.Time,
                    e.Id,
                    1,
                    null,
                    $"The {watch.Dimension.Name} {value} was never seen before."
                );
            }
        }
    }

    /// <summary>Whose history the event belongs to; null where it is not judged.</summary>
    private (string?, string?)? ScopeOf(WatchScope scope, ActivityEvent e) =>
        scope switch
        {
            WatchScope.Organisation => (null, null),
            WatchScope.Actor => e.Actor is null ? null : (e.Actor, null),
            WatchScope.Peers => e.Actor is not null && people.TryGetValue(e.Actor, out var person)
                ? (person.Unit, person.Title)
                : null,
            _ => throw new ArgumentOutOfRangeException(nameof(scope)),
        };

    private bool IsJourney(ActivityEvent e) => e is { Action: "sign-in", Outcome: EventOutcome.Success } && HasPlace(e);

    /// <summary>Where everybody leaves through one exit, its place says nothing of theirs.</summary>
    private bool HasPlace(ActivityEvent e) =>
        e is { Place: { Latitude: not null, Longitude: not null } } && networks.Of(e.Address) is not { Egress: true };

    /// <summary>Kilometres between the places of two events that have them.</summary>
    private static double Apart(ActivityEvent a, ActivityEvent b) =>
        Sphere.DistanceKm(
            a.Place!.Latitude!.Value,
            a.Place.Longitude!.Value,
            b.Place!.Latitude!.Value,
            b.Place.Longitude!.Value
        );

    private IEnumerable<WatchAlert> Rhythms(
        Watch.Rhythm watch,
        List<(string? Key, IReadOnlyList<ActivityEvent> Events)> keys
    )
    {
        if (until is not { } end)
        {
            return [];
        }

        var hours = keys.SelectMany(k =>
            k.Events.GroupBy(e => HourOfWeek.Of(e.Time))
                .Select(h => new BusyHour(
                    k.Key,
                    h.Key,
                    Math.Max(1, h.Select(e => e.Actor).OfType<string>().Distinct(StringComparer.Ordinal).Count()),
                    h.First().Time,
                    h.Last().Time
                ))
        );
        var byKey = keys.ToDictionary(k => k.Key ?? "", k => k.Events, StringComparer.Ordinal);
        return new LearntRhythm(watch, zone, end, hours)
            .Quiets()
            .Select(q => q.Alert(watch, byKey[q.Key ?? ""].Last(e => e.Time <= q.Last).Id));
    }

    private static IEnumerable<WatchAlert> Wakings(Watch.Woken watch, string? key, IReadOnlyList<ActivityEvent> events)
    {
        for (var i = 1; i < events.Count; i++)
        {
            var quiet = events[i].Time - events[i - 1].Time;
            if (quiet >= watch.Quiet)
            {
                yield return new(
                    watch,
                    key,
                    events[i].Time,
                    events[i].Id,
                    (decimal)quiet.TotalMilliseconds / 1000,
                    events[i - 1].Id,
                    $"The first event after {Durations.Words(quiet)} without any."
                );
            }
        }
    }

    private static IEnumerable<WatchAlert> Elsewheres(
        Watch.Elsewhere watch,
        string actor,
        IReadOnlyList<ActivityEvent> events
    )
    {
        var start = 0;
        var alerting = false;
        for (var i = 0; i < events.Count; i++)
        {
            for (; events[i].Time - events[start].Time > watch.Within; start++) { }

            var (far, distance) = (-1, 0.0);
            for (var j = i - 1; j >= start && far < 0; j--)
            {
                distance = Apart(events[j], events[i]);
                far = distance >= watch.MinKm ? j : -1;
            }

            if (far >= 0 && !alerting)
            {
                yield return new(
                    watch,
                    actor,
                    events[i].Time,
                    events[i].Id,
                    (decimal)Math.Round(distance, 1),
                    events[far].Id,
                    string.Create(
                        CultureInfo.InvariantCulture,
                        $"Active at two places {distance:F0} km apart within "
                            + $"{Durations.Words(events[i].Time - events[far].Time)}."
                    )
                );
            }

            alerting = far >= 0;
        }
    }

    private static IEnumerable<WatchAlert> Journeys(
        Watch.Journey watch,
        string actor,
        IReadOnlyList<ActivityEvent> signIns
    )
    {
        for (var i = 1; i < signIns.Count; i++)
        {
            var (former, later) = (signIns[i - 1], signIns[i]);
            var distance = Apart(former, later);
            var hours = (later.Time - former.Time).TotalHours;
            if (distance >= watch.MinKm && (hours <= 0 || distance / hours > watch.MaxKmh))
            {
                yield return new(
                    watch,
                    actor,
                    later.Time,
                    later.Id,
                    hours <= 0 ? null : (decimal)Math.Round(distance / hours, 1),
                    former.Id,
                    string.Create(
                        CultureInfo.InvariantCulture,
                        $"{distance:F0} km in {Durations.Words(later.Time - former.Time)}; at most {watch.MaxKmh} km/h are believed."
                    )
                );
            }
        }
    }

    private IEnumerable<WatchAlert> Silences(Watch.Silence watch, List<ActivityEvent> counted)
    {
        for (var i = 0; i < counted.Count; i++)
        {
            var next = i + 1 < counted.Count ? counted[i + 1].Time : until!.Value;
            var gap = next - counted[i].Time;
            if (gap > watch.For)
            {
                yield return new(
                    watch,
                    null,
                    counted[i].Time + watch.For,
                    null,
                    (decimal)gap.TotalMilliseconds / 1000,
                    counted[i].Id,
                    $"Nothing for {Durations.Words(gap)}; {Durations.Words(watch.For)} are usual."
                );
            }
        }
    }

    private static IEnumerable<WatchAlert> Sequences(
        Watch.Sequence watch,
        string? key,
        IReadOnlyList<ActivityEvent> events
    )
    {
        List<ActivityEvent> waiting = [];
        foreach (var e in events)
        {
            if (EventMatcher.Matches(watch.Then, e))
            {
                waiting.RemoveAll(f => e.Time - f.Time > watch.Within);
                if (waiting.Count > 0)
                {
                    yield return new(
                        watch,
                        key,
                        e.Time,
                        e.Id,
                        waiting.Count,
                        waiting[0].Id,
                        $"It followed within {Durations.Words(e.Time - waiting[0].Time)}."
                    );
                    waiting.Clear();
                }
            }

            if (EventMatcher.Matches(watch.Former, e))
            {
                waiting.Add(e);
            }
        }
    }
}
