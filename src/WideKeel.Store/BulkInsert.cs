using Microsoft.EntityFrameworkCore;
using Microsoft.EntityFrameworkCore.Metadata;

namespace WideKeel.Store;

/// <summary>Inserts many rows of one table by one prepared statement; tracking each would cost several times what SQLite takes for it.</summary>
public static class BulkInsert
{
    /// <summary>Inserts rows whose keys are set. Columns and conversions are those of the model.</summary>
    public static void Insert<T>(WriteSession session, IEnumerable<T> rows)
        where T : class
    {
        var type = session.Db.Model.FindEntityType(typeof(T)) ?? throw new ArgumentException($"{typeof(T).Name} has no table.", nameof(rows));
        var table = StoreObjectIdentifier.Table(type.GetTableName()!);
        var columns = type.GetProperties().Select(p => (Property: p.PropertyInfo!, Name: p.GetColumnName(table)!, p.GetTypeMapping().Converter)).ToArray();
        using var insert = new Statement(session.Connection, $"INSERT INTO {table.Name} ({string.Join(", ", columns.Select(c => $"\"{c.Name}\""))}) VALUES ({string.Join(", ", columns.Select(_ => "?"))})");
        foreach (var row in rows)
        {
            foreach (var (at, (property, _, converter)) in columns.Index())
            {
                var value = property.GetValue(row);
                insert.Bind(at + 1, value is null || converter is null ? value : converter.ConvertToProvider(value));
            }

            insert.Run();
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
