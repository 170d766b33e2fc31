using System.Globalization;
using Microsoft.Data.Sqlite;
using Microsoft.EntityFrameworkCore;
using NodaTime;
using WideKeel.Core.Matters;
using WideKeel.Core.Time;
using WideKeel.Store.Content;

namespace WideKeel.Store.Matters;

/// <summary>What is held, asked of the index of holds: by item, for all of them, or as a condition of SQL.</summary>
public static class Holds
{
    /// <summary>The condition of a reach that leaves nothing out.</summary>
    public const string Everywhere = "1";

    /// <summary>A condition over <c>i</c> (item); <c>$today</c> is bound by whoever uses it.</summary>
    public const string HeldSql =
        "EXISTS (SELECT 1 FROM hold_item h WHERE h.ItemId = i.Id AND (h.Until IS NULL OR h.Until >= $today))";

    /// <summary>Holds that protect on a day: in force, or released with the delay still running.</summary>
    public static IQueryable<HoldItem> On(this IQueryable<HoldItem> holds, LocalDate today) =>
        holds.Where(h => h.Until == null || h.Until >= today);

    public static IQueryable<Item> NotHeld(this IQueryable<Item> items, WideKeelDb db, LocalDate today) =>
        items.Where(i => !db.HoldItems.Any(h => h.ItemId == i.Id && (h.Until == null || h.Until >= today)));

    /// <summary>Which of these items are held.</summary>
    public static async Task<HashSet<long>> HeldAsync(WideKeelDb db, IReadOnlyCollection<long> ids, LocalDate today) =>
        [
            .. await db
                .HoldItems.AsNoTracking()
                .On(today)
                .Where(h => ids.Contains(h.ItemId))
                .Select(h => h.ItemId)
                .Distinct()
                .ToListAsync(),
        ];

    /// <summary>All items that are held.</summary>
    public static HashSet<long> All(SqliteConnection connection, LocalDate today)
    {
        using var command = connection.CreateCommand();
        command.CommandText = "SELECT ItemId FROM hold_item WHERE Until IS NULL OR Until >= $today";
        command.Parameters.AddWithValue("$today", today.ToDayNumber());
        using var reader = command.ExecuteReader();
        HashSet<long> held = [];
        while (reader.Read())
        {
            held.Add(reader.GetInt64(0));
        }

        return held;
    }

    /// <summary>
    /// Puts a portion of what an order keeps into the index: items of a range of ids that its condition finds. What is there already is left as it is, but for
    /// a release that had begun, which ends.
    /// </summary>
    /// <param name="ids">Selects them as <c>Id</c>, between <c>$after</c> and <c>$through</c>.</param>
    public static void Apply(
        WriteSession session,
        long order,
        string ids,
        Action<SqliteCommand> bind,
        long after,
        long through
    )
    {
        using var insert = session.Command(
            $"""
            INSERT INTO hold_item (ItemId, OrderId, Pinned) SELECT Id, $order, 0 FROM ({ids}) WHERE TRUE
            ON CONFLICT (ItemId, OrderId) DO UPDATE SET Until = NULL, ReleaseId = NULL WHERE Until IS NOT NULL
            """
        );
        insert.Parameters.AddWithValue("$order", order);
        insert.Parameters.AddWithValue("$after", after);
        insert.Parameters.AddWithValue("$through", through);
        bind(insert);
        insert.ExecuteNonQuery();
    }

    /// <summary>Puts one arriving item under the orders that keep it.</summary>
    public static void Hold(WriteSession session, long item, IReadOnlyList<long> orders)
    {
        foreach (var order in orders)
        {
            using var insert = session.Command(
                "INSERT INTO hold_item (ItemId, OrderId, Pinned) VALUES ($item, $order, 0) ON CONFLICT (ItemId, OrderId) DO UPDATE SET Until = NULL, ReleaseId = NULL WHERE Until IS NOT NULL"
            );
            insert.Parameters.AddWithValue("$item", item);
            insert.Parameters.AddWithValue("$order", order);
            insert.ExecuteNonQuery();
        }
    }

    /// <summary>A reach and its dates as a condition over <c>i</c>; the query is added by whoever has compiled it.</summary>
    /// <param name="containers">Null reaches everywhere.</param>
    /// <param name="names">Upper case.</param>
    public static string ReachSql(
        IReadOnlyCollection<long>? containers,
        IReadOnlyCollection<string> names,
        HoldDefinition definition,
        List<(string Name, object Value)> parameters
    )
    {
        List<string> parts = [];
        if (containers is not null)
        {
            parameters.Add(("$reach", System.Text.Json.JsonSerializer.Serialize(containers)));
            var places = "i.ContainerId IN (SELECT value FROM json_each($reach))";
            if (names.Count > 0)
            {
                parameters.Add(("$names", System.Text.Json.JsonSerializer.Serialize(names)));
                places =
                    $"({places} OR wk_upper(i.Author) IN (SELECT value FROM json_each($names)) OR wk_upper(i.Owner) IN (SELECT value FROM json_each($names)))";
            }

            parts.Add(places);
        }

        if (definition.From is { } from)
        {
            parts.Add(string.Create(CultureInfo.InvariantCulture, $"i.Modified >= {from.ToDayNumber()}"));
        }

        if (definition.To is { } to)
        {
            parts.Add(string.Create(CultureInfo.InvariantCulture, $"MIN(i.Created, i.Modified) <= {to.ToDayNumber()}"));
        }

        return parts.Count == 0 ? Everywhere : string.Join(" AND ", parts);
    }

    /// <summary>SQLite's own <c>upper</c> knows ASCII only.</summary>
    public static void BindFunctions(SqliteCommand command) =>
        command.Connection!.CreateFunction(
            "wk_upper",
            (string? text) => text?.ToUpperInvariant(),
            isDeterministic: true
        );
}
