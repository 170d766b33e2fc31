using Microsoft.Data.Sqlite;
using Microsoft.EntityFrameworkCore;
using NodaTime;
using WideKeel.Core.Activity;
using WideKeel.Core.Ledger;
using WideKeel.Core.Query;
using WideKeel.Server.Jobs;
using WideKeel.Store;
using WideKeel.Store.Activity;

namespace WideKeel.Server.Activity;

/// <summary>
/// Judges what arrives by the watches that are on. For each watch and each value that the new events touch, the whole
/// history at hand is judged anew, so that a late event raises what it would have raised in time. Alerts and the place up
/// to which a watch has judged are one change: a kill leaves both or neither.
/// </summary>
public sealed class WatchEvaluator(
    IDbContextFactory<WideKeelDb> databases,
    Writer writer,
    OrganisationCalendar calendar,
    IClock clock,
    Troubles troubles,
    ILogger<WatchEvaluator> log
) : BackgroundService
{
    private const string TroubleKey = "watches";

    private static readonly int Portion = Portions.Or(5_000);
    private static readonly TimeSpan Look = TimeSpan.FromSeconds(1);
    private readonly SemaphoreSlim turn = new(1, 1);

    /// <summary>Up to which hour a watch was judged that goes by whole hours.</summary>
    private readonly Dictionary<long, long> hours = [];

    protected override async Task ExecuteAsync(CancellationToken stoppingToken)
    {
        using var timer = new PeriodicTimer(Look);
        do
        {
            try
            {
                await JudgeAsync(stoppingToken);
                troubles.Clear(TroubleKey);
            }
            catch (Exception e) when (e is not OperationCanceledException)
            {
                log.LogError(e, "Watches could not be judged");
                troubles.Report(TroubleKey, "Watches are not judged", e.Message, "/activity/watches");
            }
        } while (await timer.WaitForNextTickAsync(stoppingToken));
    }

    /// <summary>Judges all that arrived and was not judged yet.</summary>
    public async Task JudgeAsync(CancellationToken cancel)
    {
        await turn.WaitAsync(cancel);
        try
        {
            await using var db = await databases.CreateDbContextAsync(cancel);
            var watches = await db.Watches.AsNoTracking().Where(w => w.On).OrderBy(w => w.Id).ToListAsync(cancel);
            if (watches.Count == 0)
            {
                return;
            }

            var last = await db.Events.MaxAsync(e => (long?)e.Id, cancel) ?? 0;
            var read = watches.Select(w => (Row: w, Watch: WatchFile.ReadOne(w.Definition, calendar.Today))).ToList();
            read.RemoveAll(w => w.Watch.Refused || (!w.Row.JudgeWhole && !IsDue(w.Row, w.Watch.Value, last)));
            if (read.Count == 0)
            {
                return;
            }

            await db.Database.OpenConnectionAsync(cancel);
            var connection = (SqliteConnection)db.Database.GetDbConnection();
            var ground = await WatchGround.LoadAsync(db, calendar, cancel);
            foreach (var (row, watch) in read)
            {
                await JudgeOneAsync(connection, ground, row, watch.Value, last, cancel);
            }
        }
        finally
        {
            turn.Release();
        }
    }

    /// <summary>Whether judging can find something that it did not find before.</summary>
    private bool IsDue(WatchRow row, Watch watch, long last)
    {
        if (!watch.ByWholeHours)
        {
            return row.JudgedTo != last || watch.TakesTime;
        }

        var hour = HourOfWeek.Of(clock.GetCurrentInstant());
        if (hours.TryGetValue(row.Id, out var judged) && judged == hour)
        {
            return false;
        }

        hours[row.Id] = hour;
        return true;
    }

    private async Task JudgeOneAsync(
        SqliteConnection connection,
        WatchGround ground,
        WatchRow row,
        Watch watch,
        long last,
        CancellationToken cancel
    )
    {
        var now = clock.GetCurrentInstant();
        if (watch is Watch.Rhythm rhythm)
        {
            await WriteAsync(
                row.Id,
                ground,
                Judged.Rhythm(connection, ground, rhythm, row.JudgeWhole, now),
                last,
                cancel
            );
            return;
        }

        var whole = row.JudgeWhole || last - row.JudgedTo > Portion * 4L;
        var from = row.JudgedTo;
        while (whole || from < last || watch.TakesTime)
        {
            var to = whole ? last : Math.Min(last, from + Portion);
            var judged = whole
                ? Judged.Whole(connection, ground, watch, now)
                : Judged.After(connection, ground, watch, (from, to), now);
            await WriteAsync(row.Id, ground, judged, to, cancel);
            from = to;
            if (whole || from >= last)
            {
                return;
            }
        }
    }

    private async Task WriteAsync(long watchId, WatchGround ground, Judged? judged, long to, CancellationToken cancel)
    {
        await using var db = await databases.CreateDbContextAsync(cancel);
        var before = await db.Watches.AsNoTracking().SingleAsync(w => w.Id == watchId, cancel);
        if (judged is null && before.JudgedTo == to && !before.JudgeWhole)
        {
            return;
        }

        if (judged is not null && before.JudgedTo == to && !before.JudgeWhole)
        {
            // A silence that was looked at again: most often it is raised already, and nothing need be written.
            var known = await db.Alerts.AsNoTracking().Where(a => a.WatchId == watchId).ToListAsync(cancel);
            if (judged.Alerts.All(a => a.At < before.Since || known.Any(k => Same(k, a))))
            {
                return;
            }
        }

        await writer.RunAsync(
            LedgerActor.Job("watch", null),
            async session =>
            {
                var row = await session.Db.Watches.SingleAsync(w => w.Id == watchId, cancel);
                if (!row.On)
                {
                    return;
                }

                (row.JudgedTo, row.JudgeWhole) = (to, false);
                if (judged is not null)
                {
                    await new AlertBook(session, row, ground).ReconcileAsync(judged, cancel);
                }
            },
            cancel
        );
    }

    /// <summary>Whether a stored alert is the one that was computed.</summary>
    internal static bool Same(AlertRow stored, WatchAlert computed) =>
        stored.Key == computed.Key && stored.At == computed.At && stored.EventId == computed.Event;
}

/// <summary>What all watches go by.</summary>
/// <param name="Left">Who has left, with the day.</param>
internal sealed record WatchGround(
    NamedNetworks Networks,
    IReadOnlyList<WatchPerson> People,
    DateTimeZone Zone,
    IReadOnlyDictionary<string, LocalDate> Left
)
{
    public static async Task<WatchGround> LoadAsync(
        WideKeelDb db,
        OrganisationCalendar calendar,
        CancellationToken cancel
    )
    {
        var networks = await db.Networks.AsNoTracking().OrderBy(n => n.Id).ToListAsync(cancel);
        var people = await db.DirectoryPeople.AsNoTracking().ToListAsync(cancel);
        return new(
            new([.. networks.Select(NetworkEndpoints.Named)]),
            [
                .. people
                    .DistinctBy(p => p.Mail.ToLowerInvariant())
                    .Select(p => new WatchPerson(p.Mail.ToLowerInvariant(), p.Unit, p.Title)),
            ],
            calendar.Zone,
            people
                .Where(p => p.LeavesOn is not null)
                .DistinctBy(p => p.Mail.ToLowerInvariant())
                .ToDictionary(p => p.Mail.ToLowerInvariant(), p => p.LeavesOn!.Value)
        );
    }

    public WatchRun Run(IEnumerable<ActivityEvent> events, Instant until) => new(events, Networks, People, Zone, until);
}

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
    public static Judged Whole(SqliteConnection connection, WatchGround ground, Watch watch, Instant now)
    {
        var events = Read(connection, watch, null, null, null);
        return Of(ground, watch, null, events.Count > 0 ? events.Min(e => e.Event.Time) : now, events, now);
    }

    /// <summary>Judges what a span of rows touches; null where it touches nothing.</summary>
    /// <param name="span">The row after which the events are new, and the last one of them.</param>
    public static Judged? After(
        SqliteConnection connection,
        WatchGround ground,
        Watch watch,
        (long After, long To) span,
        Instant now
    )
    {
        var fresh = span.After < span.To ? Read(connection, watch, null, null, span) : [];
        if (watch is Watch.Silence)
        {
            return Silence(connection, ground, watch, fresh, now);
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
        return keys is { Count: 0 }
            ? null
            : Of(ground, watch, keys, from, Read(connection, watch, keys, null, null), now);
    }

    /// <summary>Silence looks from the event before what is new.</summary>
    private static Judged? Silence(
        SqliteConnection connection,
        WatchGround ground,
        Watch watch,
        List<StoredEvent> fresh,
        Instant now
    )
    {
        var from = fresh.Count > 0 ? fresh.Min(e => e.Event.Time) : now;
        var before = Read(connection, watch, null, from, null, "ORDER BY e.Time DESC LIMIT 1");
        var since = before.Count > 0 ? before[0].Event.Time : from;
        var events =
            fresh.Count == 0
                ? before
                : Read(connection, watch, null, null, null, $"AND e.Time >= {since.ToUnixTimeMilliseconds()}");
        return events.Count == 0 ? null : Of(ground, watch, null, from, events, now);
    }

    /// <summary>A rhythm is judged by figures of hours, not event by event.</summary>
    /// <param name="whole">All that is at hand; else the quiets of the last week.</param>
    public static Judged Rhythm(
        SqliteConnection connection,
        WatchGround ground,
        Watch.Rhythm watch,
        bool whole,
        Instant now
    )
    {
        var sql = EventSql.Translate(connection, ConditionOf(watch, null)).Value;
        var reach = whole ? "" : $" AND e.Time >= {(now - RhythmReach).ToUnixTimeMilliseconds()}";
        var hours = EventStore.BusyHours(connection, $"({sql.Where}){reach}", sql.Bind, watch.Per);
        var from = whole && hours.Count > 0 ? hours.Min(h => h.First) : now - RhythmJudged;
        List<WatchAlert> alerts = [];
        List<StoredEvent> rows = [];
        foreach (var quiet in new LearntRhythm(watch, ground.Zone, now, hours).Quiets().Where(q => q.At >= from))
        {
            var keys = quiet.Key is { } key ? new HashSet<string> { key } : null;
            var before = quiet.Last + Duration.FromMilliseconds(1);
            if (
                Read(connection, watch, keys, before, null, "ORDER BY e.Time DESC, e.SourceId DESC LIMIT 1")
                is not [var last]
            )
            {
                // It left with its day between the two readings.
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
        List<StoredEvent> events,
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
    private static HashSet<string>? KeysOf(WatchGround ground, Watch watch, List<StoredEvent> fresh)
    {
        if (watch.HistoryOf is not { } key)
        {
            return null;
        }

        var keys = fresh.Select(e => key.ValueOf(e.Event)).OfType<string>().ToHashSet(StringComparer.Ordinal);
        if (watch.LooksAtPeers && key == EventColumn.Actor)
        {
            // What one of them does touches all that are held against them.
            var touched = ground.People.Where(p => keys.Contains(p.Id)).Select(p => (p.Unit, p.Title)).ToHashSet();
            keys.UnionWith(ground.People.Where(p => touched.Contains((p.Unit, p.Title))).Select(p => p.Id));
        }

        return keys;
    }

    /// <summary>Which events count for a watch, before a moment where one is given.</summary>
    private static Condition.All ConditionOf(Watch watch, Instant? before)
    {
        List<Condition> conditions = [watch.Where ?? new Condition.Everything()];
        if (watch.Except is not null)
        {
            conditions.Add(new Condition.Not(watch.Except));
        }

        if (watch.Besides is { } besides)
        {
            conditions.Add(besides);
        }

        if (before is not null)
        {
            conditions.Add(new Condition.InstantIn(EventColumn.Time.Index, null, before));
        }

        return new(conditions);
    }

    /// <summary>The events at hand that count for a watch.</summary>
    /// <param name="keys">Only those of these keys.</param>
    /// <param name="before">Only those before a moment.</param>
    /// <param name="span">Only those of these rows.</param>
    internal static List<StoredEvent> Read(
        SqliteConnection connection,
        Watch watch,
        IReadOnlySet<string>? keys,
        Instant? before,
        (long After, long To)? span,
        string rest = ""
    )
    {
        var sql = EventSql.Translate(connection, ConditionOf(watch, before)).Value;
        var where = $"({sql.Where})";
        if (watch.NeedsPlace)
        {
            where += " AND e.Latitude IS NOT NULL";
        }

        if (keys is not null)
        {
            where +=
                $" AND {EventSql.ColumnOf(watch.HistoryOf!)} IN (SELECT Id FROM activity_value WHERE \"Column\" = $keyColumn "
                + "AND Value IN (SELECT value FROM json_each($keys)))";
        }

        if (span is not null)
        {
            where += " AND e.Id > $after AND e.Id <= $to";
        }

        return
        [
            .. EventStore.Read(
                connection,
                $"{where} {rest}",
                command =>
                {
                    sql.Bind(command);
                    if (keys is not null)
                    {
                        command.Parameters.AddWithValue("$keyColumn", watch.HistoryOf!.Name);
                        command.Parameters.AddWithValue("$keys", System.Text.Json.JsonSerializer.Serialize(keys));
                    }

                    if (span is var (after, to))
                    {
                        command.Parameters.AddWithValue("$after", after);
                        command.Parameters.AddWithValue("$to", to);
                    }
                },
                original: false
            ),
        ];
    }
}
