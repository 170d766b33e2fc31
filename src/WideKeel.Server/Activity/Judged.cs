using NodaTime;
using WideKeel.Core.Activity;
using WideKeel.Store.Activity;

namespace WideKeel.Server.Activity;

/// <summary>What a watch says of the keys that were judged.</summary>
/// <param name="Keys">The keys that were judged; null for all.</param>
/// <param name="From">Alerts from this moment on that are no longer raised have lost their ground.</param>
/// <param name="Rows">The events that the alerts name, by their ids.</param>
internal sealed record Judged(
    Watch Watch,
    IReadOnlySet<string>? Keys,
    Instant From,
    IReadOnlyList<WatchAlert> Alerts,
    ILookup<string, StoredEvent> Rows
)
{
    private static readonly Duration Hour = Duration.FromHours(1);

    /// <summary>As long as a rhythm looks back from a quiet, and the week in which quiets are judged anew.</summary>
    private static readonly Duration RhythmReach = Duration.FromDays(8 * 7) + RhythmJudged;
    private static readonly Duration RhythmJudged = Duration.FromDays(7);

    /// <summary>Judges all that is at hand.</summary>
    public static Judged Whole(WatchEvents counted, WatchGround ground, Watch watch, Instant now)
    {
        var events = counted.All();
        return Of(ground, watch, null, events.Count > 0 ? events.Min(e => e.Event.Time) : now, events, now);
    }

    /// <summary>Judges what a span of rows touches; null where it touches nothing.</summary>
    /// <param name="span">The row after which the events are new, and the last one of them.</param>
    public static Judged? After(
        WatchEvents counted,
        WatchGround ground,
        Watch watch,
        (long After, long To) span,
        Instant now
    )
    {
        var fresh = counted.Arrived(span.After, span.To);
        if (watch is Watch.Silence)
        {
            return Silence(counted, ground, watch, fresh, now);
        }

        if (fresh.Count == 0)
        {
            return null;
        }

        var from = fresh.Min(e => e.Event.Time);
        if (watch is Watch.Each)
        {
            return Of(ground, watch, null, from, fresh, now) with { Keys = new HashSet<string>() };
        }

        var keys = KeysOf(ground, watch, fresh);
        return keys is { Count: 0 } ? null : Of(ground, watch, keys, from, counted.All(keys), now);
    }

    /// <summary>Silence looks from the event before what is new.</summary>
    private static Judged? Silence(
        WatchEvents counted,
        WatchGround ground,
        Watch watch,
        IReadOnlyList<StoredEvent> fresh,
        Instant now
    )
    {
        var from = fresh.Count > 0 ? fresh.Min(e => e.Event.Time) : now;
        var before = counted.LastBefore(from);
        IReadOnlyList<StoredEvent> events =
            fresh.Count > 0 ? counted.Since(before?.Event.Time ?? from)
            : before is null ? []
            : [before];
        return events.Count == 0 ? null : Of(ground, watch, null, from, events, now);
    }

    /// <summary>A rhythm is judged by figures of hours, not event by event.</summary>
    /// <param name="whole">All that is at hand; else the quiets of the last week.</param>
    public static Judged Rhythm(WatchEvents counted, WatchGround ground, Watch.Rhythm watch, bool whole, Instant now)
    {
        var hours = counted.BusyHours(whole ? null : now - RhythmReach);
        var from = whole && hours.Count > 0 ? hours.Min(h => h.First) : now - RhythmJudged;
        List<WatchAlert> alerts = [];
        List<StoredEvent> rows = [];
        foreach (var quiet in new LearntRhythm(watch, ground.Zone, now, hours).Quiets().Where(q => q.At >= from))
        {
            if (counted.LastBefore(quiet.Last + Duration.FromMilliseconds(1), quiet.Key) is not { } last)
            {
                // Its day was removed between the two readings.
                continue;
            }

            rows.Add(last);
            alerts.Add(quiet.Alert(watch, last.Event.Id));
        }

        return new(watch, null, from, alerts, rows.ToLookup(e => e.Event.Id));
    }

    private static Judged Of(
        WatchGround ground,
        Watch watch,
        IReadOnlySet<string>? keys,
        Instant from,
        IReadOnlyList<StoredEvent> events,
        Instant now
    )
    {
        var alerts = ground.Run(events.Select(e => e.Event), now).Alerts([watch]);
        var named = alerts.SelectMany(a => new[] { a.Event, a.First }).OfType<string>().ToHashSet();
        return new(
            watch,
            keys,
            Instant.FromUnixTimeTicks(from.ToUnixTimeTicks() / Hour.BclCompatibleTicks * Hour.BclCompatibleTicks),
            alerts,
            events.Where(e => named.Contains(e.Event.Id)).ToLookup(e => e.Event.Id)
        );
    }

    /// <summary>
    /// The event at which an alert was raised; null for a silence. Two channels may use one id, so it is the one of its
    /// moment.
    /// </summary>
    public StoredEvent? EventOf(WatchAlert alert) =>
        alert.Event is { } id ? Rows[id].FirstOrDefault(e => e.Event.Time == alert.At && IsOf(alert, e)) : null;

    /// <summary>The event at which it was raised, or the one before a silence.</summary>
    public StoredEvent? GroundOf(WatchAlert alert) =>
        EventOf(alert) ?? (alert.First is { } id ? Rows[id].FirstOrDefault(e => IsOf(alert, e)) : null);

    private bool IsOf(WatchAlert alert, StoredEvent e) =>
        alert.Key is null || Watch.HistoryOf is not { } key || key.ValueOf(e.Event) == alert.Key;

    /// <summary>Whose history the new events touch; null where it is everybody's.</summary>
    private static HashSet<string>? KeysOf(WatchGround ground, Watch watch, IReadOnlyList<StoredEvent> fresh)
    {
        if (watch.HistoryOf is not { } key)
        {
            return null;
        }

        var keys = fresh.Select(e => key.ValueOf(e.Event)).OfType<string>().ToHashSet(StringComparer.Ordinal);
        if (watch.LooksAtPeers && key == EventColumn.Actor)
        {
            // An event of one of them changes the comparison of all their peers.
            var touched = ground.People.Where(p => keys.Contains(p.Id)).Select(p => (p.Unit, p.Title)).ToHashSet();
            keys.UnionWith(ground.People.Where(p => touched.Contains((p.Unit, p.Title))).Select(p => p.Id));
        }

        return keys;
    }
}
