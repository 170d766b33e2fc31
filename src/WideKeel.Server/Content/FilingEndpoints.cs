using System.Globalization;
using System.Text.Json.Nodes;
using Microsoft.Data.Sqlite;
using Microsoft.EntityFrameworkCore;
using WideKeel.Core;
using WideKeel.Core.Content;
using WideKeel.Core.People;
using WideKeel.Core.Retention;
using WideKeel.Core.Time;
using WideKeel.Server.Jobs;
using WideKeel.Server.Retention;
using WideKeel.Server.SignIn;
using WideKeel.Store;
using WideKeel.Store.Content;
using WideKeel.Store.Retention;

namespace WideKeel.Server.Content;

/// <summary>Filing a selection under a series; a null series takes it off.</summary>
/// <param name="Fingerprint">Of the consequences that were on screen; not needed to ask for them.</param>
public sealed record Filing(ItemQuery Selection, long? SeriesId, string? Fingerprint = null);

/// <summary>Filing by hand: one item or thousands, from any list.</summary>
public static class FilingEndpoints
{
    public static void MapFilings(this IEndpointRouteBuilder api)
    {
        api.MapPost("/filings/consequences", Preview).Requires(Right.FileContent);
        api.MapPost("/filings", File).Requires(Right.FileContent);
    }

    private static async Task<Reply<ConsequencesView>> Preview(Filing request, Caller caller, WideKeelDb db, Calendar calendar)
    {
        await db.Database.OpenConnectionAsync();
        return await PreviewAsync(request, caller, db, (SqliteConnection)db.Database.GetDbConnection(), calendar);
    }

    private static async Task<Outcome<ConsequencesView>> PreviewAsync(Filing request, Caller caller, WideKeelDb db, SqliteConnection connection, Calendar calendar)
    {
        var target = await TargetAsync(request, caller, db);
        if (target.Refused)
        {
            return target.Refusal!;
        }

        var selected = await request.Selection.ToFilterAsync(caller, db, calendar, Right.FileContent);
        if (selected.Refusal is { } mistake)
        {
            return mistake;
        }

        var filter = selected.Value;
        var today = calendar.Today.ToDayNumber();
        if (target.Value is { } series && OutsideSeries(connection, filter, today, caller.PathOf(series.UnitId)) is var outside and > 0)
        {
            return new Refusal("outside-the-series", "selection",
                string.Create(CultureInfo.InvariantCulture, $"{outside:N0} of these items belong to units that {series.Code} does not cover. Nothing was filed."));
        }

        var rules = await db.Series.AsNoTracking().Where(s => s.InForce != null).ToDictionaryAsync(s => s.Id, s => s.InForce!);
        var evaluator = calendar.Evaluator;
        var untouchable = Previews.CountUntouchable(connection, filter.Where(), c => filter.Bind(c, today));
        return await Previews.SummariseAsync(db, evaluator,
            Previews.OfFiling(connection, evaluator, filter, today, target.Value?.InForce?.Check().Value, id => rules.GetValueOrDefault(id)?.Check().Value), untouchable);
    }

    private static async Task<Reply<ConsequencesView>> File(Filing request, Caller caller, Writer writer, Calendar calendar, JobBoard queue, CancellationToken cancel)
    {
        var outcome = await writer.RunAsync<ConsequencesView>(caller.Actor, async session =>
        {
            var preview = await PreviewAsync(request, caller, session.Db, session.Connection, calendar);
            if (preview.Refused)
            {
                return preview.Refusal!;
            }

            if (preview.Value.Fingerprint != request.Fingerprint)
            {
                return new Refusal("consequences-changed", "fingerprint", "What this would do has changed since you looked. Nothing was filed; look again.");
            }

            var series = (await TargetAsync(request, caller, session.Db)).Value;
            await ApplyAsync(session, request, series, caller, calendar, cancel);
            return preview.Value;
        }, cancel);
        queue.Wake();
        return outcome;
    }

    private static async Task ApplyAsync(WriteSession session, Filing request, Series? series, Caller caller, Calendar calendar, CancellationToken cancel)
    {
        var filter = (await request.Selection.ToFilterAsync(caller, session.Db, calendar, Right.FileContent)).Value;
        var today = calendar.Today;

        // The ids are settled first: once filed, an item may no longer match the selection ("under no series").
        List<(long Id, long? Series, string Unit)> items = [];
        using (var select = session.Command($"""
            SELECT i.Id, i.SeriesId, u.Path FROM item i JOIN container c ON c.Id = i.ContainerId JOIN unit u ON u.Id = c.UnitId
            WHERE i.BatchId IS NULL AND i.DestroyedAt IS NULL AND i.SeriesId IS NOT $target AND {filter.Where()}
            """))
        {
            filter.Bind(select, today.ToDayNumber());
            select.Parameters.AddWithValue("$target", (object?)series?.Id ?? DBNull.Value);
            using var reader = select.ExecuteReader();
            while (reader.Read())
            {
                items.Add((reader.GetInt64(0), reader.IsDBNull(1) ? null : reader.GetInt64(1), reader.GetString(2)));
            }
        }

        var codes = await session.Db.Series.ToDictionaryAsync(s => s.Id, s => s.Code, cancel);
        using var update = session.Command("UPDATE item SET SeriesId = $series, FiledOn = $on, FiledBy = $by WHERE Id = $id");
        update.Parameters.AddWithValue("$series", (object?)series?.Id ?? DBNull.Value);
        update.Parameters.AddWithValue("$on", series is null ? DBNull.Value : today.ToDayNumber());
        update.Parameters.AddWithValue("$by", series is null ? DBNull.Value : caller.Name);
        var id = update.Parameters.Add("$id", SqliteType.Integer);
        foreach (var item in items)
        {
            id.Value = item.Id;
            update.ExecuteNonQuery();
            session.Record(series is null ? "taken-off-series" : "filed", new("item", item.Id.ToString(CultureInfo.InvariantCulture), item.Unit),
                item.Series is { } former ? new JsonObject { ["series"] = codes[former] } : null,
                series is null ? null : new JsonObject { ["series"] = series.Code });
        }

        foreach (var portion in items.Select(i => i.Id).Chunk(5_000))
        {
            var these = new ItemFilter(Units: null) { Ids = portion };
            ItemScan.WriteStandings(session, calendar.Evaluator, series?.InForce?.Check().Value, these.Where(), c => these.Bind(c, today.ToDayNumber()));
        }

        if (series?.InForce is not null)
        {
            await JobBoard.AddAsync(session, JobBoard.CaptureKind, series.Id, $"Copies for {series.Code}", caller.PathOf(series.UnitId).Value, caller.Name);
        }
    }

    private static async Task<Outcome<Series?>> TargetAsync(Filing request, Caller caller, WideKeelDb db)
    {
        if (request.SeriesId is null)
        {
            return caller.May(Right.WriteSchedule)
                ? (Series?)null
                : new Refusal("not-allowed", null, "Only those who write the schedule take items off a series.");
        }

        var series = await db.Series.AsNoTracking().SingleOrDefaultAsync(s => s.Id == request.SeriesId);
        return series is null || !caller.MaySee(Right.ReadSchedule, series.UnitId) ? Problems.NotFound("series") : series;
    }

    private static long OutsideSeries(SqliteConnection connection, ItemFilter filter, int today, UnitPath unit)
    {
        using var command = connection.CreateCommand();
        command.CommandText = $"""
            SELECT COUNT(*) FROM item i JOIN container c ON c.Id = i.ContainerId JOIN unit u ON u.Id = c.UnitId
            WHERE substr(u.Path, 1, length($unit)) <> $unit AND {filter.Where()}
            """;
        filter.Bind(command, today);
        command.Parameters.AddWithValue("$unit", unit.Value);
        return Convert.ToInt64(command.ExecuteScalar(), CultureInfo.InvariantCulture);
    }
}
