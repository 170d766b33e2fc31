using System.Globalization;
using System.Text.Json.Nodes;
using Microsoft.Data.Sqlite;
using Microsoft.EntityFrameworkCore;
using NodaTime;
using WideKeel.Core;
using WideKeel.Core.Content;
using WideKeel.Core.People;
using WideKeel.Core.Retention;
using WideKeel.Core.Time;
using WideKeel.Store;
using WideKeel.Store.Content;
using WideKeel.Store.Retention;

namespace WideKeel.Server.Retention;

/// <summary>Why an item stands in the list of what is to be mended.</summary>
public enum ToMend
{
    /// <summary>It is kept longer than its dates say, because what only grows does not shrink.</summary>
    Floor,

    /// <summary>A date field that its rule counts from is missing, or no date to count from.</summary>
    Field,

    /// <summary>A declared record was changed, moved or deleted on its source.</summary>
    Altered,
}

/// <param name="Since">Null where a field has never had a date.</param>
/// <param name="Says">What is wrong, with the dates.</param>
public sealed record ToMendRow(long ItemId, string Title, string Path, ToMend Kind, LocalDate? Since, string Says);

/// <param name="Total">Of this kind, within what the caller may read.</param>
public sealed record ToMendPage(
    IReadOnlyList<ToMendRow> Rows,
    string? Next,
    long Total,
    IReadOnlyDictionary<ToMend, long> Counts
);

/// <param name="Items">1 to 1,000 ids from the list.</param>
public sealed record Settlement(ToMend Kind, long[] Items, string Why);

public sealed record Settled(int Items);

/// <summary>
/// Dates to mend, and records altered at the source: each with the act that settles it. A field is mended where it
/// stands; the others are settled by a reason.
/// </summary>
public static class ToMendEndpoints
{
    private const int PageRows = 100;
    private const int MostAtOnce = 1_000;

    public static void MapToMend(this IEndpointRouteBuilder api)
    {
        api.MapGet("/schedule/to-mend", List).Requires(Right.WriteSchedule);
        api.MapPost("/schedule/to-mend/settlements", Settle).Requires(Right.WriteSchedule);
    }

    /// <summary>How many there are of each kind within what the caller may read.</summary>
    /// <param name="pressing">Leaves out fields that may yet get their date: a contract that has not ended.</param>
    internal static async Task<Dictionary<ToMend, long>> CountAsync(
        Caller caller,
        WideKeelDb db,
        OrganisationCalendar calendar,
        bool pressing = false
    )
    {
        await db.Database.OpenConnectionAsync();
        var connection = (SqliteConnection)db.Database.GetDbConnection();
        var fields = await FieldsAsync(db);
        return Enum.GetValues<ToMend>()
            .ToDictionary(
                k => k,
                k =>
                {
                    using var command = Command(
                        connection,
                        k,
                        fields,
                        caller,
                        calendar.Today,
                        "COUNT(DISTINCT i.Id)",
                        pressing && k == ToMend.Field ? "AND d.Date IS NOT NULL" : ""
                    );
                    return (long)command.ExecuteScalar()!;
                }
            );
    }

    /// <summary>What is wrong in one kind, as a title; and what it means, in a sentence.</summary>
    internal static (string Title, string Meaning, string Fix) WordsOf(ToMend kind) =>
        kind switch
        {
            ToMend.Floor => (
                "Kept longer than its dates say",
                "A date moved earlier, an event was revoked or a rule changed; what only grows does not shrink.",
                "Settle it with the reason, or mend the date."
            ),
            ToMend.Field => (
                "Without a date to count from",
                "A field that the rule counts from is missing or absurd, so the item is kept without end.",
                "Mend the field in the file, then scan; in the workspace it is read at once."
            ),
            ToMend.Altered => (
                "Altered at the source",
                "A declared record was changed, moved or deleted on a source that can only be observed.",
                "Ask who did it, put the copy back from safekeeping, and settle it with the reason."
            ),
            _ => throw new ArgumentOutOfRangeException(nameof(kind), kind, "There is no such kind."),
        };

    private static async Task<Reply<ToMendPage>> List(string? kind, string? cursor, [AsParameters] ApiContext context)
    {
        if (QueryWord.Read<ToMend>(kind, "kind", out var asked) is { } refusal)
        {
            return refusal;
        }

        var (caller, db, calendar) = (context.Caller, context.Db, context.Calendar);
        var counts = await CountAsync(caller, db, calendar);
        var shown = asked ?? counts.OrderBy(c => c.Value == 0).ThenBy(c => c.Key).First().Key;
        var connection = (SqliteConnection)db.Database.GetDbConnection();
        var found = Read(
            connection,
            shown,
            await FieldsAsync(db),
            context,
            cursor is null ? 0 : Cursor.Read(cursor)?.Id ?? 0
        );
        var rows = shown == ToMend.Floor ? await WithDatesAsync(found, db, calendar, connection) : found;
        return new ToMendPage(
            [.. rows.Take(PageRows)],
            rows.Count > PageRows ? Cursor.Write(0L, rows[PageRows - 1].ItemId) : null,
            counts[shown],
            counts
        );
    }

    private static async Task<Reply<Settled>> Settle(Settlement request, [AsParameters] ApiContext context) =>
        await context.Writer.RunAsync<Settled>(
            context.Caller.Actor,
            async session =>
            {
                if (Check(request) is { } wrong)
                {
                    return wrong;
                }

                var units = context.Caller.Items().Units;
                var items = await session
                    .Db.Items.Include(i => i.Container)
                    .Where(i => request.Items.Contains(i.Id) && i.DestroyedAt == null)
                    .ToListAsync(context.Cancel);
                var open = items.Count(i =>
                    (units is null || units.Contains(i.Container!.UnitId)) && IsOpen(i, request.Kind)
                );
                if (open < request.Items.Distinct().Count())
                {
                    return Refusal.Conflict(
                        "not-in-the-list",
                        "items",
                        "Some of these are no longer in the list: somebody settled them, or what was wrong is gone. "
                            + "Nothing was settled; look again."
                    );
                }

                foreach (var item in items)
                {
                    SettleOne(session, item, request, context);
                }

                return new Settled(items.Count);
            },
            context.Cancel
        );

    private static Refusal? Check(Settlement request) =>
        Problems.CheckWhy(request.Why)
        ?? (
            request.Kind == ToMend.Field
                ? new Refusal(
                    "mended-where-it-stands",
                    "kind",
                    "A date field is mended in the file or in its fields; it leaves the list by itself."
                )
            : request.Items is not { Length: > 0 and <= MostAtOnce }
                ? new Refusal("items-missing", "items", "Give 1 to 1,000 items of the list.")
            : null
        );

    private static void SettleOne(WriteSession session, Item item, Settlement request, ApiContext context)
    {
        session.Record(
            "settled",
            new(
                "item",
                item.Id.ToString(CultureInfo.InvariantCulture),
                context.Caller.PathOf(item.Container!.UnitId).Value
            ),
            request.Kind == ToMend.Floor
                ? new JsonObject { ["keptUntil"] = KeepUntil.FromCode(item.KeepUntil).Text }
                : new JsonObject { ["altered"] = item.AlteredHow },
            reason: request.Why.Trim()
        );
        if (request.Kind == ToMend.Floor)
        {
            item.FloorSettledOn = context.Calendar.Today;
        }
        else
        {
            (item.AlteredOn, item.AlteredHow) = (null, null);
        }
    }

    private static bool IsOpen(Item item, ToMend kind) =>
        kind == ToMend.Floor ? item is { FlooredOn: not null, FloorSettledOn: null } : item.AlteredOn is not null;

    /// <summary>The date fields that rules in force count from, by series.</summary>
    private static async Task<List<(long Series, string Field)>> FieldsAsync(WideKeelDb db)
    {
        var series = await db
            .Series.AsNoTracking()
            .Where(s => s.InForce != null)
            .Select(s => new
            {
                s.Id,
                s.Code,
                s.InForce,
            })
            .ToListAsync();
        return
        [
            .. from s in series
            from field in s.InForce!.Check(s.Code)
                .Value.Clauses.Where(c => c.Trigger.Kind == TriggerKind.Field)
                .Select(c => c.Trigger.Name!)
                .Distinct()
            select (s.Id, field),
        ];
    }

    private static SqliteCommand Command(
        SqliteConnection connection,
        ToMend kind,
        List<(long Series, string Field)> fields,
        Caller caller,
        LocalDate today,
        string select,
        string rest = ""
    )
    {
        var filter = caller.Items();
        var command = connection.CreateCommand();
        var from = "item i";
        var which = kind switch
        {
            ToMend.Floor => "i.FlooredOn IS NOT NULL AND i.FloorSettledOn IS NULL",
            ToMend.Altered => "i.AlteredOn IS NOT NULL",
            _ => "",
        };
        if (kind == ToMend.Field)
        {
            // The last day that counts is fifty years ahead, as PlausibleDate has it.
            // One parameter, however many clauses: SQLite takes 500 terms of a compound SELECT.
            from =
                "(SELECT json_extract(value, '$[0]') AS Series, json_extract(value, '$[1]') AS Name FROM json_each($fields)) f "
                + "JOIN item i ON i.SeriesId = f.Series LEFT JOIN item_date d ON d.ItemId = i.Id AND d.Name = f.Name";
            which = "(d.Date IS NULL OR d.Date < $first OR d.Date > $last)";
            command.Parameters.AddWithValue("$first", PlausibleDate.Earliest.ToDayNumber());
            command.Parameters.AddWithValue("$last", PlausibleDate.Latest(today).ToDayNumber());
            command.Parameters.AddWithValue(
                "$fields",
                System.Text.Json.JsonSerializer.Serialize(fields.Select(f => new object[] { f.Series, f.Field }))
            );
        }

        command.CommandText =
            $"SELECT {select} FROM {from} WHERE i.DestroyedAt IS NULL AND {which} AND {filter.Where()} {rest}";
        filter.Bind(command, today.ToDayNumber());
        return command;
    }

    private static List<ToMendRow> Read(
        SqliteConnection connection,
        ToMend kind,
        List<(long Series, string Field)> fields,
        ApiContext context,
        long after
    )
    {
        var columns = kind switch
        {
            ToMend.Floor => "i.FlooredOn, NULL, NULL",
            ToMend.Altered => "i.AlteredOn, i.AlteredHow, NULL",
            _ => "NULL, f.Name, d.Date",
        };
        using var command = Command(
            connection,
            kind,
            fields,
            context.Caller,
            context.Calendar.Today,
            $"i.Id, i.Title, i.Path, {columns}",
            $"AND i.Id > $after GROUP BY i.Id ORDER BY i.Id LIMIT {(PageRows + 1).ToString(CultureInfo.InvariantCulture)}"
        );
        command.Parameters.AddWithValue("$after", after);
        using var reader = command.ExecuteReader();
        List<ToMendRow> rows = [];
        while (reader.Read())
        {
            LocalDate? At(int column) => reader.IsDBNull(column) ? null : DayNumber.ToDate(reader.GetInt32(column));
            rows.Add(
                new(
                    reader.GetInt64(0),
                    reader.GetString(1),
                    reader.GetString(2),
                    kind,
                    At(3),
                    kind == ToMend.Field ? OfField(reader.GetString(4), At(5))
                        : reader.IsDBNull(4) ? ""
                        : reader.GetString(4)
                )
            );
        }

        return rows;
    }

    private static string OfField(string name, LocalDate? date) =>
        date is { } absurd
            ? $"Its field “{name}” says {Wording.Day(absurd)}, from which no clock can start."
            : $"It has no date in its field “{name}”, from which its rule counts.";

    private static async Task<List<ToMendRow>> WithDatesAsync(
        List<ToMendRow> rows,
        WideKeelDb db,
        OrganisationCalendar calendar,
        SqliteConnection connection
    )
    {
        var ruling = await Ruling.LoadAsync(db, calendar.Evaluator);
        var filter = new ItemFilter(Units: null) { Ids = [.. rows.Select(r => r.ItemId)] };
        Dictionary<long, string> says = [];
        foreach (
            var facts in ItemScan.Facts(
                connection,
                ruling.Clocks,
                filter.Where(),
                c => filter.Bind(c, calendar.Today.ToDayNumber())
            )
        )
        {
            var grown = ruling.Grow(facts);
            says[facts.Id] =
                $"Its rules would {(grown.RulesSay.IsNothing ? "not keep it any more" : $"keep it {Until(grown.RulesSay)}")}; "
                + $"it stays kept {Until(grown.Standing.KeepUntil)}.";
        }

        return [.. rows.Select(r => r with { Says = says.GetValueOrDefault(r.ItemId, "") })];
    }

    private static string Until(KeepUntil until) =>
        until.Date is { } date ? $"through {Wording.Day(date)}"
        : until.IsPermanent ? "permanently"
        : "until an event";
}
