using System.Globalization;
using Microsoft.Data.Sqlite;
using Microsoft.EntityFrameworkCore;
using NodaTime;
using WideKeel.Core.People;
using WideKeel.Core.Time;
using WideKeel.Store;
using WideKeel.Store.Content;

namespace WideKeel.Server.Today;

/// <param name="Trend">Twelve months, oldest first, the last being today; computed from the dates of the items by the
/// rules of today.</param>
/// <param name="Link">The rows behind the number.</param>
public sealed record Figure(
    string Name,
    string Value,
    string Label,
    string Note,
    IReadOnlyList<double> Trend,
    string Colour,
    string Link
);

public sealed record TodayView(LocalDate Date, IReadOnlyList<Duty> Duties, IReadOnlyList<Figure> Figures);

public sealed record DutyCount(int Duties);

public static class TodayEndpoints
{
    private const int Months = 12;

    public static void MapToday(this IEndpointRouteBuilder api)
    {
        api.MapGet("/today", Show).RequiresSignIn();
        api.MapGet("/duties/count", CountDuties).RequiresSignIn();
    }

    private static async Task<Reply<TodayView>> Show(
        Caller caller,
        WideKeelDb db,
        OrganisationCalendar calendar,
        IEnumerable<IDutySource> sources,
        CancellationToken cancel
    )
    {
        var figures = caller.May(Right.ReadContent) ? await FiguresAsync(caller, db, calendar, cancel) : [];
        return new TodayView(calendar.Today, await DutiesAsync(sources, new(caller, db, calendar, cancel)), figures);
    }

    /// <summary>How many duties wait; without the figures, because every page shows it.</summary>
    private static async Task<Reply<DutyCount>> CountDuties(
        Caller caller,
        WideKeelDb db,
        OrganisationCalendar calendar,
        IEnumerable<IDutySource> sources,
        CancellationToken cancel
    ) => new DutyCount((await DutiesAsync(sources, new(caller, db, calendar, cancel))).Count);

    /// <summary>
    /// What all parts bring, the most urgent first; what has no day follows in the order of the parts.
    /// </summary>
    private static async Task<IReadOnlyList<Duty>> DutiesAsync(IEnumerable<IDutySource> sources, DutyQuestion asked)
    {
        List<Duty> duties = [];
        foreach (var source in sources)
        {
            duties.AddRange(await source.OfAsync(asked));
        }

        return [.. duties.OrderBy(d => d.By ?? LocalDate.MaxIsoValue)];
    }

    private static async Task<List<Figure>> FiguresAsync(
        Caller caller,
        WideKeelDb db,
        OrganisationCalendar calendar,
        CancellationToken cancel
    )
    {
        var rows = await CountsAsync(caller, db, calendar, cancel);
        var now = rows[^1];
        return
        [
            new(
                "covered",
                now[0] == 0 ? "–" : $"{(100.0 * now[1] / now[0]).ToString("0.0", CultureInfo.InvariantCulture)} %",
                "of content under a rule",
                $"{(now[0] - now[1]).ToString("N0", CultureInfo.InvariantCulture)} items under none",
                [.. rows.Select(r => r[0] == 0 ? 0 : 100.0 * r[1] / r[0])],
                "sea",
                "/content?state=noRule"
            ),
            new(
                "due",
                now[2].ToString("N0", CultureInfo.InvariantCulture),
                "items due",
                $"{now[5].ToString("N0", CultureInfo.InvariantCulture)} past grace",
                [.. rows.Select(r => (double)r[2])],
                "copper",
                "/content?state=due&state=onDocket"
            ),
            new(
                "destroyed",
                now[3].ToString("N0", CultureInfo.InvariantCulture),
                "items destroyed",
                "each with a certificate",
                [.. rows.Select(r => (double)r[3])],
                "sea",
                "/content?state=destroyed"
            ),
            new(
                "unfiled",
                now[4].ToString("N0", CultureInfo.InvariantCulture),
                "items under no series",
                $"{now[0].ToString("N0", CultureInfo.InvariantCulture)} items in all",
                [.. rows.Select(r => (double)r[4])],
                "copper",
                "/content?unfiled=true"
            ),
        ];
    }

    /// <summary>
    /// By month, the latest last: items, of these under a rule, due, destroyed, unfiled, past their grace, and bytes.
    /// </summary>
    private static async Task<List<long[]>> CountsAsync(
        Caller caller,
        WideKeelDb db,
        OrganisationCalendar calendar,
        CancellationToken cancel
    )
    {
        await db.Database.OpenConnectionAsync(cancel);
        var today = calendar.Today;
        var days = Enumerable
            .Range(0, Months)
            .Select(back => today.PlusMonths(-back))
            .Reverse()
            .Select(d => d.ToDayNumber())
            .ToList();
        var filter = caller.Items();
        using var command = ((SqliteConnection)db.Database.GetDbConnection()).CreateCommand();
        command.CommandText = $"""
            SELECT d.value,
                SUM(alive), SUM(alive AND i.KeepUntil IS NOT NULL), SUM(alive AND i.DisposableFrom <= d.value AND NOT i.Held),
                SUM(i.DestroyedAt IS NOT NULL AND i.DestroyedAt / 86400000 <= d.value), SUM(alive AND i.SeriesId IS NULL),
                SUM(alive AND past), SUM(CASE WHEN alive THEN i.Bytes ELSE 0 END)
            FROM json_each($days) d
            JOIN (SELECT i.*, COALESCE(json_extract(s.InForce, '$.graceDays'), 0) AS Grace, $holds AS Held
                FROM item i LEFT JOIN series s ON s.Id = i.SeriesId) i
            JOIN container c ON c.Id = i.ContainerId
            WHERE i.Created <= d.value AND {filter.Where()} GROUP BY d.value ORDER BY d.value
            """.Replace(
            "alive",
            "(i.DestroyedAt IS NULL OR i.DestroyedAt / 86400000 > d.value)",
            StringComparison.Ordinal
        ).Replace("past", "i.DisposableFrom + i.Grace < d.value AND NOT i.Held", StringComparison.Ordinal).Replace(
            "$holds",
            Holds.HeldSql,
            StringComparison.Ordinal
        );
        filter.Bind(command, today.ToDayNumber());
        command.Parameters.AddWithValue("$days", System.Text.Json.JsonSerializer.Serialize(days));
        Dictionary<int, long[]> byDay = [];
        using (var reader = await command.ExecuteReaderAsync(cancel))
        {
            while (reader.Read())
            {
                byDay[reader.GetInt32(0)] =
                [
                    .. Enumerable.Range(1, 7).Select(i => reader.IsDBNull(i) ? 0 : reader.GetInt64(i)),
                ];
            }
        }

        return [.. days.Select(d => byDay.GetValueOrDefault(d, new long[7]))];
    }
}
