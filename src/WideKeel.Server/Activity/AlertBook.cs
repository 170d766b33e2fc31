using System.Globalization;
using System.Text.Json;
using System.Text.Json.Nodes;
using Microsoft.EntityFrameworkCore;
using NodaTime;
using WideKeel.Core.Activity;
using WideKeel.Core.Ledger;
using WideKeel.Core.People;
using WideKeel.Core.Query;
using WideKeel.Server.Notifications;
using WideKeel.Server.People;
using WideKeel.Store;
using WideKeel.Store.Activity;
using WideKeel.Store.People;

namespace WideKeel.Server.Activity;

/// <summary>
/// Writes what a watch raised: what is new is added with its risk, its case and its message; what moved because an event
/// came late moves; what lost its ground is withdrawn and stays in the log.
/// </summary>
internal sealed class AlertBook(WriteSession session, WatchRow watch, WatchGround ground)
{
    private static readonly Duration Repeats = Duration.FromHours(24);
    private static readonly Duration CaseReach = Duration.FromDays(3);

    /// <summary>A message about what happened longer ago helps nobody; the alert stands in the list.</summary>
    private static readonly Duration Fresh = Duration.FromDays(2);

    private Dictionary<string, double> weights = [];
    private Dictionary<string, AlertSeverity> severities = [];

    public async Task ReconcileAsync(Judged judged, CancellationToken cancel)
    {
        var computed = judged.Alerts.Where(a => a.At >= watch.Since).ToList();
        var stored = await StoredAsync(judged, cancel);
        var known = stored.Select(s => (s.Key, s.At, s.EventId)).ToHashSet();
        var raised = computed.Select(a => (a.Key, a.At, a.Event)).ToHashSet();
        var fresh = computed.Where(a => !known.Contains((a.Key, a.At, a.Event))).ToList();
        var groundless = stored
            .Where(s =>
                !s.Withdrawn
                && s.At >= judged.From
                && (judged.Keys is null || (s.Key is not null && judged.Keys.Contains(s.Key)))
                && !raised.Contains((s.Key, s.At, s.EventId))
            )
            .ToList();
        foreach (var back in stored.Where(s => s.Withdrawn && raised.Contains((s.Key, s.At, s.EventId))))
        {
            back.Withdrawn = false;
        }

        if (fresh.Count == 0 && groundless.Count == 0)
        {
            return;
        }

        weights = await session.Db.RiskWeights.ToDictionaryAsync(w => w.Factor, w => w.Weight, cancel);
        severities = await session.Db.ActionSeverities.ToDictionaryAsync(s => s.Action, s => s.Severity, cancel);
        foreach (var alert in fresh.OrderBy(a => a.At))
        {
            var moved = groundless
                .Where(g => g.Key == alert.Key)
                .OrderBy(g => Math.Abs((g.At - alert.At).TotalMilliseconds))
                .FirstOrDefault();
            if (moved is not null)
            {
                groundless.Remove(moved);
                Put(moved, alert, judged);
                moved.Version++;
                continue;
            }

            await AddAsync(alert, judged, cancel);
        }

        foreach (var gone in groundless)
        {
            gone.Withdrawn = true;
            gone.Version++;
        }
    }

    /// <summary>The watch's alerts that the judged events can change.</summary>
    private Task<List<AlertRow>> StoredAsync(Judged judged, CancellationToken cancel)
    {
        var ofWatch = session.Db.Alerts.Where(a => a.WatchId == watch.Id);
        if (judged.Keys is { Count: > 0 })
        {
            var keys = judged.Keys.ToList();
            ofWatch = ofWatch.Where(a => a.Key == null || keys.Contains(a.Key));
        }
        else if (judged.Keys is not null)
        {
            // Each event is an alert of its own: those before the new ones are no concern.
            ofWatch = ofWatch.Where(a => a.At >= judged.From);
        }

        return ofWatch.ToListAsync(cancel);
    }

    private static void Put(AlertRow row, WatchAlert alert, Judged judged)
    {
        var e = judged.GroundOf(alert);
        (row.At, row.EventId, row.First, row.Measure, row.Why) = (
            alert.At,
            alert.Event,
            alert.First,
            (double?)alert.Measure,
            alert.Why
        );
        // The last actor before a silence did not cause it.
        var done = judged.Watch.TakesTime ? null : e?.Event;
        (row.ChannelId, row.UnitId, row.Actor, row.Address, row.Object) = (
            e?.ChannelId,
            e?.UnitId,
            judged.Watch.Per == EventColumn.Address ? null : done?.Actor,
            judged.Watch.Per == EventColumn.Address ? alert.Key : done?.Address,
            done?.Object
        );
    }

    private async Task AddAsync(WatchAlert alert, Judged judged, CancellationToken cancel)
    {
        var row = new AlertRow
        {
            WatchId = watch.Id,
            Key = alert.Key,
            Why = alert.Why,
            RaisedAt = session.Now,
        };
        Put(row, alert, judged);
        var factors = judged.EventOf(alert) is { } e ? AlertRisk.Factors(FactsOf(e, alert), weights) : [];
        row.Risk = AlertRisk.Of(factors);
        row.Factors = JsonSerializer.Serialize(factors, Json.Options);
        row.Severity = (AlertSeverity)Math.Max((int)watch.Severity, (int)AlertRisk.BandOf(row.Risk));
        row.FoldedInto = await RepeatedAsync(row, cancel);
        session.Db.Alerts.Add(row);
        await session.Db.SaveChangesAsync(cancel);
        row.CaseId = await CaseOfAsync(row, cancel) ?? row.Id;
        if (row.FoldedInto is null)
        {
            await InformAsync(row, cancel);
            await ActAsync(row, cancel);
        }

        session.Record(
            "raised",
            LedgerSubject.Of("alert", row.Id),
            after: new JsonObject
            {
                ["watch"] = watch.Name,
                ["who"] = row.Actor ?? row.Key,
                ["risk"] = row.Risk,
                ["why"] = row.Why,
            }
        );
    }

    /// <summary>The open alert of the last day that this one repeats.</summary>
    private async Task<long?> RepeatedAsync(AlertRow row, CancellationToken cancel)
    {
        var since = row.At - Repeats;
        return await session
            .Db.Alerts.Where(a =>
                a.WatchId == watch.Id
                && a.FoldedInto == null
                && !a.Withdrawn
                && a.At >= since
                && a.At <= row.At
                && a.Key == row.Key
                && a.Actor == row.Actor
                && (a.State == AlertState.New || a.State == AlertState.LookedAt)
            )
            .OrderByDescending(a => a.At)
            .Select(a => (long?)a.Id)
            .FirstOrDefaultAsync(cancel);
    }

    private async Task<long?> CaseOfAsync(AlertRow row, CancellationToken cancel)
    {
        var (from, to) = (row.At - CaseReach, row.At + CaseReach);
        return await session
            .Db.Alerts.Where(a =>
                a.Id != row.Id
                && a.At >= from
                && a.At <= to
                && !a.Withdrawn
                && (
                    (a.Actor != null && a.Actor == row.Actor)
                    || (a.Address != null && a.Address == row.Address)
                    || (a.Object != null && a.Object == row.Object)
                )
            )
            .OrderBy(a => a.Id)
            .Select(a => (long?)a.CaseId)
            .FirstOrDefaultAsync(cancel);
    }

    private async Task InformAsync(AlertRow row, CancellationToken cancel)
    {
        var mails = watch.Recipients.Split(' ', StringSplitOptions.RemoveEmptyEntries);
        Outbox.Tell(
            session,
            "alert.raised",
            new JsonObject
            {
                ["alert"] = row.Id,
                ["watch"] = watch.Name,
                ["who"] = row.Actor ?? row.Key,
                ["at"] = EventLine.Text(row.At),
                ["risk"] = row.Risk,
                ["why"] = row.Why,
            }
        );
        if (mails.Length == 0 || row.At < session.Now - Fresh)
        {
            return;
        }

        var readers = await ReadersAsync(row, mails, cancel);
        if (readers.Count == 0)
        {
            return;
        }

        var day = session.Now - Duration.FromDays(1);
        var sent = await session.Db.Alerts.CountAsync(
            a => a.WatchId == watch.Id && a.Informed && a.RaisedAt > day,
            cancel
        );
        if (sent >= watch.DailyCap)
        {
            row.Capped = true;
            return;
        }

        row.Informed = true;
        foreach (var person in readers)
        {
            Outbox.Add(
                session,
                person,
                new(
                    "alert",
                    $"{watch.Name}: {row.Actor ?? row.Key ?? "the whole organisation"}",
                    string.Join(
                        "\n\n",
                        new[] { watch.Words, $"{row.Why} Its risk is {row.Risk} of 100." }.Where(t => t.Length > 0)
                    ),
                    $"the watch “{watch.Name}” informs you"
                ),
                string.Create(CultureInfo.InvariantCulture, $"/activity/alerts?alert={row.Id}")
            );
        }
    }

    /// <summary>
    /// The recipients who may read the event that an alert rests on: a message says who did what, and goes to nobody
    /// else.
    /// </summary>
    private async Task<List<Person>> ReadersAsync(AlertRow row, string[] mails, CancellationToken cancel)
    {
        var upper = mails.Select(m => m.ToUpperInvariant()).ToList();
        List<Person> readers = [];
        foreach (
            var person in await session.Db.Users.Where(u => upper.Contains(u.NormalizedEmail!)).ToListAsync(cancel)
        )
        {
            if (await MayReadAsync(row, person.Id, cancel))
            {
                readers.Add(person);
            }
        }

        return readers;
    }

    private async Task<bool> MayReadAsync(AlertRow row, long person, CancellationToken cancel)
    {
        var caller = new Caller();
        await caller.LoadAsync(person, session.Db, session.Services.GetRequiredService<OrganisationCalendar>().Today);
        var access = await ChannelAccess.OfAsync(caller, session.Db, cancel);
        return await access.Of(session.Db.Alerts).AnyAsync(a => a.Id == row.Id, cancel);
    }

    /// <summary>Does in the directory what the watch was told to do by itself.</summary>
    private async Task ActAsync(AlertRow row, CancellationToken cancel)
    {
        if (
            watch.Act is { Length: > 0 } act
            && row.At >= session.Now - Fresh
            && AlertActs.ChangeOf(act, row, session.Services.GetRequiredService<OrganisationDirectory>().State)
                is { } change
        )
        {
            await AlertActs.AskAsync(session, row, change, $"The watch “{watch.Name}”", watch.PersonId, cancel);
        }
    }

    /// <summary>What is known of the event's circumstances when the alert is raised.</summary>
    // Long because each circumstance is asked in its own way.
    private AlertFacts FactsOf(StoredEvent stored, WatchAlert alert)
    {
        var e = stored.Event;
        var at = e.Time;
        var severity =
            e.Action is not null && severities.TryGetValue(e.Action, out var own)
                ? own
                : EventActions.SeverityOf(e.Action);
        var who = e.Actor is { } actor ? $"actor == {EventEndpoints.Quoted(actor)}" : null;
        var figures = new EventFigures(session.Connection);
        return new(
            severity,
            e.Place?.Country is { } country ? ShareOf(figures, country, at) : null,
            e.Address is null ? null : ground.Networks.Of(e.Address) is not null,
            at.InZone(ground.Zone).LocalDateTime,
            alert.Watch.MeasuresSurprise ? (double?)alert.Measure : null,
            e.Category is "admin" or "permission" or "configuration" or "logging",
            who is null ? null : at - (figures.First(who) ?? at),
            who is null
                ? 0
                : (int)
                    figures.Count($"{who} and action = sign-in and outcome = failure", at - Duration.FromHours(1), at),
            who is null ? null : at - figures.LastBefore(who, at),
            who is not null
                && e.Device is { } device
                && figures.Count($"{who} and device == {EventEndpoints.Quoted(device)}", null, at) == 0,
            e.Actor is not null && ground.Left.TryGetValue(e.Actor, out var left) && left < at.InZone(ground.Zone).Date
        );
    }

    private static double ShareOf(EventFigures figures, string country, Instant at)
    {
        const string signIns = "action = sign-in and outcome = success";
        var since = at - Duration.FromDays(90);
        var all = figures.CountWithCountry(signIns, since, at);
        var here = figures.Count($"{signIns} and country == {EventEndpoints.Quoted(country)}", since, at);
        return all == 0 ? 0 : (double)here / all;
    }
}
