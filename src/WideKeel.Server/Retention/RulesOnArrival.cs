using Microsoft.EntityFrameworkCore;
using WideKeel.Core.Content;
using WideKeel.Server.Content;
using WideKeel.Server.Jobs;
using WideKeel.Store;
using WideKeel.Store.Content;
using WideKeel.Store.Retention;

namespace WideKeel.Server.Retention;

/// <summary>
/// Brings items that arrive under the rules: their standing, and the filing by the default of their place or by filing
/// rules.
/// </summary>
internal sealed class RulesOnArrival : IItemArrival
{
    public async Task ArrivedAsync(ArrivingItems arriving)
    {
        var (session, items, calendar, cancel) = arriving;
        await ReevaluateAsync(session, items, calendar);
        await FileAsync(session, [.. items.Where(i => i.SeriesId is null)], calendar, cancel);
    }

    private static async Task ReevaluateAsync(
        WriteSession session,
        IReadOnlyList<Item> changed,
        OrganisationCalendar calendar
    )
    {
        var ruling = await Ruling.LoadForAsync(session.Db, calendar.Evaluator, changed);
        var ids = new ItemFilter(Units: null) { Ids = [.. changed.Select(i => i.Id)] };
        ItemScan.WriteStandings(session, ruling, ids.Where(), c => ids.Bind(c, 0));
        if (changed.Any(i => ruling.RuleOf(i.SeriesId) is not null || ruling.BlanketsOf(i.ContainerId).Length > 0))
        {
            await JobBoard.AddAsync(session, CaptureJob.JobKind, 0, "Copies into safekeeping", null, "scan");
        }
    }

    /// <returns>What no default files.</returns>
    private static async Task<List<Item>> FileByPlaceAsync(
        WriteSession session,
        List<Item> unfiled,
        List<FilingDefault> defaults,
        OrganisationCalendar calendar,
        CancellationToken cancel
    )
    {
        var places = defaults.Select(d => d.ContainerId).Distinct().ToList();
        var ruling = await Ruling.LoadForAsync(
            session.Db,
            calendar.Evaluator,
            unfiled,
            defaults.Select(d => d.SeriesId)
        );
        var units = await session
            .Db.Containers.Where(c => places.Contains(c.Id))
            .Join(session.Db.Units, c => c.UnitId, u => u.Id, (c, u) => new { c.Id, u.Path })
            .ToDictionaryAsync(c => c.Id, c => c.Path, cancel);
        var placed = unfiled
            .Select(i => (Item: i, Default: FilingDefaultEndpoints.Of(defaults, i)))
            .Where(i => i.Default is not null)
            .ToList();
        foreach (var group in placed.GroupBy(i => i.Default!))
        {
            await FilingEndpoints.ApplyAsync(
                session,
                [
                    .. group.Select(i => new FilingEndpoints.FiledItem(
                        i.Item.Id,
                        null,
                        units[i.Item.ContainerId],
                        Grade.None
                    )),
                ],
                group.Key.Series!,
                new("default of its place", FiledHow.Default, group.Key.SetById),
                ruling,
                cancel
            );
        }

        return [.. unfiled.Except(placed.Select(i => i.Item))];
    }

    /// <summary>
    /// Files what arrived: by the default of its folder or container, else by the rules that are in force.
    /// </summary>
    private static async Task FileAsync(
        WriteSession session,
        List<Item> unfiled,
        OrganisationCalendar calendar,
        CancellationToken cancel
    )
    {
        var places = unfiled.Select(i => i.ContainerId).Distinct().ToList();
        var defaults = await session
            .Db.FilingDefaults.Include(d => d.Series)
            .Where(d => places.Contains(d.ContainerId) && d.Series!.State != SeriesState.Retired)
            .ToListAsync(cancel);
        if (defaults.Count > 0)
        {
            unfiled = await FileByPlaceAsync(session, unfiled, defaults, calendar, cancel);
        }

        var rules = await session
            .Db.FilingRules.Include(r => r.Series)
            .Where(r => r.State == FilingRuleState.Active)
            .OrderByDescending(r => r.Priority)
            .ThenBy(r => r.Id)
            .ToListAsync(cancel);
        if (rules.Count > 0 && unfiled.Count > 0)
        {
            await FilingRuleJob.FileAsync(
                session,
                rules,
                [.. unfiled.Select(i => i.Id)],
                unfiled.Count,
                calendar,
                cancel
            );
        }
    }
}
