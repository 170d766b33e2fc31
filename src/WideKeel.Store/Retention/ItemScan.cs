using System.Globalization;
using System.Text.Json.Nodes;
using Microsoft.Data.Sqlite;
using NodaTime;
using WideKeel.Core.Content;
using WideKeel.Core.Retention;
using WideKeel.Core.Time;
using WideKeel.Store.Content;

namespace WideKeel.Store.Retention;

/// <summary>
/// One row of the streamed pass. Its clocks are those of the row that was read last: they are not to be kept.
/// </summary>
/// <param name="Held">A hold forbids its disposal; told only where it was asked for.</param>
public readonly record struct FactsRow(
    long Id,
    long ContainerId,
    long? SeriesId,
    ItemFacts Facts,
    long Bytes,
    bool Held
);

/// <summary>
/// Streams the columns that the rules need. Raw SQL because a million entities would cost a hundred times the
/// computation they feed.
/// </summary>
public static class ItemScan
{
    /// <param name="wanted">Which fields and events the rules look at: only those are read.</param>
    /// <param name="where">Condition over the alias <c>i</c>, of our own text; values are bound by
    /// <paramref name="bind"/>.</param>
    /// <param name="heldOn">The day for which holds are looked at; null tells nothing of them.</param>
    public static IEnumerable<FactsRow> Facts(
        SqliteConnection connection,
        Clocks wanted,
        string where,
        Action<SqliteCommand>? bind,
        LocalDate? heldOn = null
    )
    {
        var held = heldOn is { } day ? Holds.All(connection, day) : [];
        using var command = connection.CreateCommand();
        var fields = wanted
            .Fields.Select(
                (name, i) => (Name: name, Parameter: string.Create(CultureInfo.InvariantCulture, $"$clock{i}"))
            )
            .ToList();
        var subject = wanted.Events.Count > 0 ? "i.Subject" : "NULL";
        var (dates, join) = ("", "");
        if (fields.Count > 0)
        {
            var which = fields.Select(
                (f, i) => string.Create(CultureInfo.InvariantCulture, $"WHEN {f.Parameter} THEN {i}")
            );
            dates = $", CASE d.Name {string.Join(' ', which)} END, d.Date";
            var names = string.Join(", ", fields.Select(f => f.Parameter));
            join = $"LEFT JOIN item_date d ON d.ItemId = i.Id AND d.Name IN ({names})";
        }

        command.CommandText = $"""
            SELECT i.Id, i.ContainerId, i.SeriesId, i.Created, i.Modified, i.FiledOn, i.ExtendedUntil, i.Bytes,
                {subject}, i.Floor, i.DeclaredDates{dates}
            FROM item i {join}
            WHERE i.DestroyedAt IS NULL AND ({where})
            """;
        bind?.Invoke(command);
        fields.ForEach(f => command.Parameters.AddWithValue(f.Parameter, f.Name));
        using var reader = command.ExecuteReader();
        var clocks = wanted.NewRow();
        var more = reader.Read();
        while (more)
        {
            var id = reader.GetInt64(0);
            var (container, series) = (reader.GetInt64(1), reader.IsDBNull(2) ? (long?)null : reader.GetInt64(2));
            var facts = FactsAt(reader, clocks);
            var bytes = reader.GetInt64(7);
            clocks.Begin(reader.IsDBNull(8) ? null : reader.GetString(8));
            // An item with several of the fields is as many rows, one after the other: the join goes item by item.
            do
            {
                if (fields.Count > 0 && !reader.IsDBNull(11))
                {
                    clocks.Set(reader.GetInt32(11), DayNumber.ToDate(reader.GetInt32(12)));
                }

                more = reader.Read();
            } while (more && fields.Count > 0 && reader.GetInt64(0) == id);
            yield return new(id, container, series, facts, bytes, held.Count > 0 && held.Contains(id));
        }
    }

    /// <summary>
    /// Evaluates the items that match and writes the standings that differ, with the floors and the declared dates that
    /// go with them. Where a floor begins to keep an item longer than its rules would, the ledger has an entry with both
    /// dates. What comes to be destroyed without sign-off is noted with the persons of the change
    /// (<see cref="CustodyNotes"/>).
    /// </summary>
    /// <param name="also">Somebody without whom these items would not be due, beside those of the change.</param>
    /// <returns>How many were written.</returns>
    public static int WriteStandings(
        WriteSession session,
        Ruling ruling,
        string where,
        Action<SqliteCommand>? bind,
        long? also = null
    )
    {
        // Read whole before writing: SQLite leaves it open what a query sees of rows that change under it.
        List<(long Id, Grown Grown)> all = [];
        foreach (var row in Facts(session.Connection, ruling.Clocks, where, bind))
        {
            all.Add((row.Id, ruling.Grow(row)));
        }

        NoteFloors(session, all);
        using var writing = new StandingRow(session, ruling.Evaluator.Today);
        return all.Count(item => writing.Write(item.Id, item.Grown, also));
    }

    /// <summary>The entries for those items whose rules would keep them for a shorter time from now on.</summary>
    private static void NoteFloors(WriteSession session, List<(long Id, Grown Grown)> all)
    {
        using var before = session.Command(
            """
            SELECT u.Path, i.FlooredOn
            FROM item i JOIN container k ON k.Id = i.ContainerId JOIN unit u ON u.Id = k.UnitId WHERE i.Id = $id
            """
        );
        var id = before.Parameters.Add("$id", SqliteType.Integer);
        foreach (var (itemId, grown) in all.Where(a => a.Grown.Floored))
        {
            id.Value = itemId;
            using var reader = before.ExecuteReader();
            reader.Read();
            if (reader.IsDBNull(1))
            {
                session.Record(
                    "kept-by-its-floor",
                    new("item", itemId.ToString(CultureInfo.InvariantCulture), reader.GetString(0)),
                    new JsonObject { ["rulesSay"] = grown.RulesSay.Text },
                    new JsonObject { ["keptUntil"] = grown.Standing.KeepUntil.Text }
                );
            }
        }
    }

    private static ItemFacts FactsAt(SqliteDataReader reader, IClockDates clocks) =>
        new(
            DayNumber.ToDate(reader.GetInt32(3)),
            DayNumber.ToDate(reader.GetInt32(4)),
            DateAt(reader, 5),
            DateAt(reader, 6),
            clocks,
            KeepUntil.FromCode(reader.IsDBNull(9) ? null : reader.GetInt32(9)),
            reader.IsDBNull(10) ? null : DeclaredDates.Read(reader.GetString(10))
        );

    private static LocalDate? DateAt(SqliteDataReader reader, int column) =>
        reader.IsDBNull(column) ? null : DayNumber.ToDate(reader.GetInt32(column));
}
