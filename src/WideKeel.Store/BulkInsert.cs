using Microsoft.Data.Sqlite;
using Microsoft.EntityFrameworkCore;
using Microsoft.EntityFrameworkCore.Metadata;

namespace WideKeel.Store;

/// <summary>Inserts many rows of one table by one prepared command; tracking each would cost several times what SQLite takes for it.</summary>
public static class BulkInsert
{
    /// <summary>Inserts rows whose keys are set. Columns and conversions are those of the model.</summary>
    public static void Insert<T>(WriteSession session, IEnumerable<T> rows)
        where T : class
    {
        var type = session.Db.Model.FindEntityType(typeof(T)) ?? throw new ArgumentException($"{typeof(T).Name} has no table.", nameof(rows));
        var table = StoreObjectIdentifier.Table(type.GetTableName()!);
        var columns = type.GetProperties().Select((p, i) => (Property: p, Name: p.GetColumnName(table)!, Parameter: FormattableString.Invariant($"$p{i}"), p.GetTypeMapping().Converter)).ToArray();
        using var command = session.Command($"INSERT INTO {table.Name} ({string.Join(", ", columns.Select(c => $"\"{c.Name}\""))}) VALUES ({string.Join(", ", columns.Select(c => c.Parameter))})");
        var parameters = columns.Select(c => command.Parameters.Add(new SqliteParameter(c.Parameter, null))).ToArray();
        foreach (var row in rows)
        {
            for (var i = 0; i < columns.Length; i++)
            {
                var value = columns[i].Property.PropertyInfo!.GetValue(row);
                parameters[i].Value = (value is null || columns[i].Converter is not { } converter ? value : converter.ConvertToProvider(value)) ?? DBNull.Value;
            }

            command.ExecuteNonQuery();
        }
    }

    /// <summary>The key that the next row of a table will get, for rows that point at each other and are written together. Good until the change ends.</summary>
    public static long NextId<T>(WriteSession session)
        where T : class
    {
        using var command = session.Command("SELECT 1 + COALESCE((SELECT seq FROM sqlite_sequence WHERE name = $table), 0)");
        command.Parameters.AddWithValue("$table", session.Db.Model.FindEntityType(typeof(T))!.GetTableName());
        return (long)command.ExecuteScalar()!;
    }
}
