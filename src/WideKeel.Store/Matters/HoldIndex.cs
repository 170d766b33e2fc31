using System.Globalization;
using Microsoft.Data.Sqlite;
using WideKeel.Core.Matters;
using WideKeel.Core.Time;
using WideKeel.Store.Ledger;

namespace WideKeel.Store.Matters;

/// <summary>Puts items under hold orders, and says what an order reaches.</summary>
public static class HoldIndex
{
    /// <summary>The condition of a reach that leaves nothing out.</summary>
    public const string Everywhere = "1";

    /// <summary>
    /// Puts a portion of what an order keeps into the index: items of a range of ids that its condition finds. What is
    /// there already is left as it is, but for a release that had begun, which ends.
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
                "INSERT INTO hold_item (ItemId, OrderId, Pinned) VALUES ($item, $order, 0) ON CONFLICT "
                    + "(ItemId, OrderId) DO UPDATE SET Until = NULL, ReleaseId = NULL WHERE Until IS NOT NULL"
            );
            insert.Parameters.AddWithValue("$item", item);
            insert.Parameters.AddWithValue("$order", order);
            insert.ExecuteNonQuery();
        }
    }

    /// <summary>
    /// A reach and its dates as a condition over <c>i</c>; the query is added by whoever has compiled it.
    /// </summary>
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
                    $"({places} OR wk_upper(i.Author) IN (SELECT value FROM json_each($names)) OR "
                    + $"wk_upper(i.Owner) IN (SELECT value FROM json_each($names)))";
            }

            parts.Add(places);
        }

        if (definition.Items is { } items)
        {
            parameters.Add(("$listed", System.Text.Json.JsonSerializer.Serialize(items)));
            parts.Add("i.Id IN (SELECT value FROM json_each($listed))");
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
