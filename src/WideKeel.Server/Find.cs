using Microsoft.EntityFrameworkCore;
using WideKeel.Core;
using WideKeel.Core.People;
using WideKeel.Server.Content;
using WideKeel.Server.SignIn;
using WideKeel.Store;

namespace WideKeel.Server;

/// <summary>One thing found by the search field in the masthead.</summary>
public sealed record FindHit(string Kind, string Title, string Note, string Link);

public static class FindEndpoints
{
    public static void MapFind(this IEndpointRouteBuilder api) => api.MapGet("/find", Find).RequiresSignIn();

    private static async Task<Reply<IReadOnlyList<FindHit>>> Find(string? q, Caller caller, WideKeelDb db, Calendar calendar, CancellationToken cancel)
    {
        var words = (q ?? "").Trim();
        List<FindHit> hits = [];
        if (words.Length is 0 or > 200)
        {
            return (Outcome<IReadOnlyList<FindHit>>)hits;
        }

        if (caller.May(Right.ReadSchedule))
        {
            var series = await db.Series.AsNoTracking().OrderBy(s => s.Code).ToListAsync(cancel);
            hits.AddRange(series
                .Where(s => caller.MaySee(Right.ReadSchedule, s.UnitId) && $"{s.Code} {s.Title}".Contains(words, StringComparison.OrdinalIgnoreCase)).Take(5)
                .Select(s => new FindHit("series", $"{s.Code} {s.Title}", "Record series", $"/schedule/{s.Id}")));
        }

        if (caller.May(Right.ReadContent))
        {
            var filter = new ItemQuery(Words: words).ToFilter(caller.Items());
            var page = await ItemEndpoints.PageAsync(filter, "-modified", null, 8, db, calendar);
            hits.AddRange(page.Value.Items.Select(i => new FindHit("item", i.Title, $"{i.Container} · {i.Path}", $"/content?item={i.Id}&words={Uri.EscapeDataString(words)}")));
            if (page.Value.Total > 8)
            {
                hits.Add(new("more", $"All {page.Value.Total:N0} items with “{words}”", "Content", $"/content?words={Uri.EscapeDataString(words)}"));
            }
        }

        if (caller.May(Right.ReadDocket))
        {
            var certificates = await (from c in db.Certificates.AsNoTracking() join s in db.Series on c.SeriesId equals s.Id where c.Number.Contains(words) select new { c, s.UnitId, s.Title }).Take(5).ToListAsync(cancel);
            hits.AddRange(certificates.Where(c => caller.May(Right.ReadDocket, c.UnitId)).Select(c => new FindHit("certificate", $"Certificate {c.c.Number}", c.Title, $"/schedule/certificates?certificate={c.c.Id}")));
        }

        return (Outcome<IReadOnlyList<FindHit>>)hits;
    }
}
