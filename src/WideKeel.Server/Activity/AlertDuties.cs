using Microsoft.EntityFrameworkCore;
using NodaTime;
using WideKeel.Core.Activity;
using WideKeel.Core.People;
using WideKeel.Store.Activity;

namespace WideKeel.Server.Activity;

/// <summary>Open alerts by severity and age, watches that never fire, watches that drown.</summary>
internal sealed class AlertDuties(IClock clock) : IDutySource
{
    /// <summary>More than this in a week is noise to whoever reads it.</summary>
    private const int Drowning = 20;
    private static readonly Duration Never = Duration.FromDays(60);

    public async Task<IReadOnlyList<Duty>> OfAsync(DutyQuestion asked)
    {
        if (!asked.Caller.May(Right.ManageWatches))
        {
            return [];
        }

        var now = clock.GetCurrentInstant();
        var access = await ChannelAccess.OfAsync(asked.Caller, asked.Db, asked.Cancel);
        var visible = access.Of(asked.Db.Alerts.AsNoTracking());
        var open = await visible
            .Where(a =>
                a.FoldedInto == null
                && !a.Withdrawn
                && (a.State == AlertState.New || (a.State == AlertState.LookedAt && a.OwnerId == asked.Caller.PersonId))
            )
            .ToListAsync(asked.Cancel);
        List<Duty> duties = [];
        foreach (var group in open.GroupBy(a => a.Severity).OrderByDescending(g => g.Key))
        {
            var oldest = group.Min(a => a.At);
            duties.Add(
                new(
                    "alert",
                    $"alerts-{group.Key}",
                    group.Key switch
                    {
                        AlertSeverity.High => $"{Wording.Plural(group.Count(), "alert")} of high severity",
                        AlertSeverity.Medium => $"{Wording.Plural(group.Count(), "alert")} of medium severity",
                        _ => $"{Wording.Plural(group.Count(), "alert")} of low severity",
                    },
                    $"The oldest is of {Wording.Day(oldest.InUtc().Date)}; "
                        + $"the highest risk is {Wording.Number(group.Max(a => a.Risk))} of 100.",
                    null,
                    group.Key == AlertSeverity.High ? "today" : "this week",
                    "Look at the alerts",
                    "/activity/alerts",
                    group.Key == AlertSeverity.High
                )
            );
        }

        return [.. duties, .. await OfActsAsync(asked, visible), .. await OfWatchesAsync(asked, visible, now)];
    }

    /// <summary>Acts for which the caller can be the second person.</summary>
    private static async Task<IEnumerable<Duty>> OfActsAsync(DutyQuestion asked, IQueryable<AlertRow> alerts)
    {
        var waiting = await asked
            .Db.AlertActs.AsNoTracking()
            .Where(a => a.Waits && alerts.Any(x => x.Id == a.AlertId))
            .OrderBy(a => a.At)
            .ToListAsync(asked.Cancel);
        return waiting
            .Where(a => AlertActEndpoints.View(a, asked.Caller).MayNotDecide is null)
            .Select(a => new Duty(
                "act",
                $"act-{Wording.Id(a.Id)}",
                $"{a.By} asks for your agreement: {a.Words}",
                "About an alert; it is done in the directory when you agree.",
                null,
                "today",
                "Open the alert",
                $"/activity/alerts?alert={Wording.Id(a.AlertId)}",
                true
            ));
    }

    private static async Task<IEnumerable<Duty>> OfWatchesAsync(
        DutyQuestion asked,
        IQueryable<AlertRow> alerts,
        Instant now
    )
    {
        var (week, since) = (now - Duration.FromDays(7), now - Never);
        var watches = await asked
            .Db.Watches.AsNoTracking()
            .Where(w => w.On)
            .Select(w => new
            {
                w.Id,
                w.Name,
                w.Since,
                Week = alerts.Count(a => a.WatchId == w.Id && !a.Withdrawn && a.At >= week),
                Ever = alerts.Any(a => a.WatchId == w.Id && a.At >= since),
            })
            .ToListAsync(asked.Cancel);
        return watches
            .Where(w => w.Week > Drowning || (!w.Ever && w.Since < since))
            .Select(w => new Duty(
                "watch",
                $"watch-{Wording.Id(w.Id)}",
                w.Week > Drowning ? $"{w.Name} drowns you" : $"{w.Name} never fires",
                w.Week > Drowning
                    ? $"It raised {Wording.Number(w.Week)} alerts in a week; try another threshold."
                    : "It raised nothing for two months; try whether it still finds what it was made for.",
                null,
                "no hurry",
                "Try it on what was",
                $"/activity/watches?watch={Wording.Id(w.Id)}",
                false
            ));
    }
}
