using System.Globalization;
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
                {subject}{dates}
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
            var facts = new ItemFacts(
                DayNumber.ToDate(reader.GetInt32(3)),
                DayNumber.ToDate(reader.GetInt32(4)),
                DateAt(reader, 5),
                DateAt(reader, 6),
                clocks
            );
            var bytes = reader.GetInt64(7);
            clocks.Begin(reader.IsDBNull(8) ? null : reader.GetString(8));
            // An item with several of the fields is as many rows, one after the other: the join goes item by item.
            do
            {
                if (fields.Count > 0 && !reader.IsDBNull(9))
                {
                    clocks.Set(reader.GetInt32(9), DayNumber.ToDate(reader.GetInt32(10)));
                }

                more = reader.Read();
            } while (more && fields.Count > 0 && reader.GetInt64(0) == id);
            yield return new(id, container, series, facts, bytes, held.Count > 0 && held.Contains(id));
        }
    }

    /// <summary>
    /// Evaluates the items that match and writes the standings that differ. Returns how many were written.
    /// </summary>
    public static int WriteStandings(WriteSession session, Ruling ruling, string where, Action<SqliteCommand>? bind)
    {
        // Read whole before writing: SQLite leaves it open what a query sees of rows that change under it.
        List<(long Id, Standing Standing)> standings = [];
        foreach (var row in Facts(session.Connection, ruling.Clocks, where, bind))
        {
            standings.Add((row.Id, ruling.Of(row)));
        }

        using var update = session.Command(
            """
            UPDATE item SET KeepUntil = $keep, DisposableFrom = $from, AtEnd = $end, OwnGrade = $grade,
                OwnGradeUntil = $until
            WHERE Id = $id AND (KeepUntil IS NOT $keep OR DisposableFrom IS NOT $from OR AtEnd <> $end
                OR OwnGrade <> $grade OR OwnGradeUntil IS NOT $until)
            """
        );
        var id = update.Parameters.Add("$id", SqliteType.Integer);
        var keep = update.Parameters.Add("$keep", SqliteType.Integer);
        var from = update.Parameters.Add("$from", SqliteType.Integer);
        var end = update.Parameters.Add("$end", SqliteType.Integer);
        var grade = update.Parameters.Add("$grade", SqliteType.Integer);
        var gradeUntil = update.Parameters.Add("$until", SqliteType.Integer);
        var written = 0;
        foreach (var (itemId, standing) in standings)
        {
            id.Value = itemId;
            keep.Value = (object?)standing.KeepUntil.Code ?? DBNull.Value;
            from.Value = (object?)standing.DisposableFrom?.ToDayNumber() ?? DBNull.Value;
            (end.Value, grade.Value) = ((int)standing.AtEnd, (int)standing.OwnGrade);
            gradeUntil.Value = (object?)standing.OwnGradeUntil.Code ?? DBNull.Value;
            written += update.ExecuteNonQuery();
        }

        return written;
    }

    private static LocalDate? DateAt(SqliteDataReader reader, int column) =>
        reader.IsDBNull(column) ? null : DayNumber.ToDate(reader.GetInt32(column));
}
