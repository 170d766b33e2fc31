using Microsoft.Data.Sqlite;
using NodaTime;
using WideKeel.Core.Content;
using WideKeel.Core.Retention;
using WideKeel.Core.Time;

namespace WideKeel.Store.Content;

/// <summary>One row of the streamed pass.</summary>
/// <param name="BeforeDate">The date field that the rule before looks at.</param>
/// <param name="AfterDate">The date field that the rule after looks at.</param>
public readonly record struct FactsRow(long Id, long ContainerId, long? SeriesId, LocalDate Created, LocalDate Modified, LocalDate? ExtendedUntil, long Bytes, LocalDate? BeforeDate, LocalDate? AfterDate)
{
    public ItemFacts Before => new(Id, Created, Modified, BeforeDate, ExtendedUntil, Bytes);

    public ItemFacts After => new(Id, Created, Modified, AfterDate, ExtendedUntil, Bytes);
}

/// <summary>
/// Streams the columns that the rules need. Raw SQL because a million entities would cost a hundred times the computation they feed.
/// </summary>
public static class ItemScan
{
    /// <param name="where">Condition over the alias <c>i</c>, of our own text; values are bound by <paramref name="bind"/>.</param>
    public static IEnumerable<FactsRow> Facts(SqliteConnection connection, string where, Action<SqliteCommand>? bind, string? beforeField, string? afterField)
    {
        using var command = connection.CreateCommand();
        command.CommandText = $"""
            SELECT i.Id, i.ContainerId, i.SeriesId, i.Created, i.Modified, i.ExtendedUntil, i.Bytes, {FieldColumn(beforeField, "b")}, {FieldColumn(afterField, "a")}
            FROM item i {FieldJoin(beforeField, "b", "$beforeField")} {FieldJoin(afterField, "a", "$afterField")}
            WHERE i.DestroyedAt IS NULL AND ({where})
            """;
        bind?.Invoke(command);
        AddField(command, "$beforeField", beforeField);
        AddField(command, "$afterField", afterField);
        using var reader = command.ExecuteReader();
        while (reader.Read())
        {
            yield return new(
                reader.GetInt64(0),
                reader.GetInt64(1),
                reader.IsDBNull(2) ? null : reader.GetInt64(2),
                DayNumber.ToDate(reader.GetInt32(3)),
                DayNumber.ToDate(reader.GetInt32(4)),
                DateAt(reader, 5),
                reader.GetInt64(6),
                DateAt(reader, 7),
                DateAt(reader, 8));
        }
    }

    /// <summary>Evaluates the items that match under one rule and writes the standings that differ. Returns how many were written.</summary>
    public static int WriteStandings(WriteSession session, Evaluator evaluator, Rule? rule, string where, Action<SqliteCommand>? bind)
    {
        // Read whole before writing: SQLite leaves it open what a query sees of rows that change under it.
        List<(long Id, int? KeepUntil, int? From)> standings = [];
        foreach (var row in Facts(session.Connection, where, bind, null, rule?.DateFieldName))
        {
            var standing = evaluator.Evaluate(rule, row.After);
            standings.Add((row.Id, standing.KeepUntil.Code, standing.DisposableFrom?.ToDayNumber()));
        }

        using var update = session.Command("UPDATE item SET KeepUntil = $keep, DisposableFrom = $from WHERE Id = $id AND (KeepUntil IS NOT $keep OR DisposableFrom IS NOT $from)");
        var id = update.Parameters.Add("$id", SqliteType.Integer);
        var keep = update.Parameters.Add("$keep", SqliteType.Integer);
        var from = update.Parameters.Add("$from", SqliteType.Integer);
        var written = 0;
        foreach (var standing in standings)
        {
            (id.Value, keep.Value, from.Value) = (standing.Id, (object?)standing.KeepUntil ?? DBNull.Value, (object?)standing.From ?? DBNull.Value);
            written += update.ExecuteNonQuery();
        }

        return written;
    }

    private static LocalDate? DateAt(SqliteDataReader reader, int column) => reader.IsDBNull(column) ? null : DayNumber.ToDate(reader.GetInt32(column));

    private static string FieldColumn(string? field, string alias) => field is null ? "NULL" : $"{alias}.Date";

    private static string FieldJoin(string? field, string alias, string parameter) =>
        field is null ? "" : $"LEFT JOIN item_date {alias} ON {alias}.ItemId = i.Id AND {alias}.Name = {parameter}";

    private static void AddField(SqliteCommand command, string parameter, string? field)
    {
        if (field is not null)
        {
            command.Parameters.AddWithValue(parameter, field);
        }
    }
}
