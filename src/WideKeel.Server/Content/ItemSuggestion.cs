using Microsoft.EntityFrameworkCore;
using WideKeel.Core.People;
using WideKeel.Store;
using WideKeel.Store.Content;
using WideKeel.Store.Retention;

namespace WideKeel.Server.Content;

/// <summary>The series that was learnt to suit an item.</summary>
internal static class ItemSuggestion
{
    /// <summary>What is suggested for one item, for a caller who may file it there.</summary>
    internal static async Task<SuggestedSeries?> ForAsync(Item item, Caller caller, WideKeelDb db)
    {
        var found = await (
            from g in db.FilingSuggestions.AsNoTracking()
            join s in db.Series on g.SeriesId equals s.Id
            where g.ItemId == item.Id && s.State != SeriesState.Retired
            select new
            {
                g.Confidence,
                g.Words,
                s.Id,
                s.Code,
                s.Title,
                s.UnitId,
            }
        ).SingleOrDefaultAsync();
        return
            found is null
            || !caller.May(Right.FileContent, item.Container!.UnitId)
            || !caller.MaySee(Right.ReadSchedule, found.UnitId)
            ? null
            : new(
                new(found.Id, found.Code, found.Title),
                found.Confidence,
                found.Words.Split(' ', StringSplitOptions.RemoveEmptyEntries)
            );
    }
}
