using Microsoft.Data.Sqlite;
using Microsoft.EntityFrameworkCore;
using Microsoft.EntityFrameworkCore.Metadata;

namespace WideKeel.Store;

/// <summary>
/// Whether a database has the tables that this version reads. Its list of steps does not say so while the first step is
/// still written anew for each build: a database of an earlier build would start, and fail later.
/// </summary>
public static class SchemaCheck
{
    /// <summary>The first table or column that the database lacks, such as <c>column Key of table authenticator</c>.</summary>
    /// <returns>Null where it lacks none.</returns>
    public static string? FirstMissing(WideKeelDb db)
    {
        var there = ColumnsOf((SqliteConnection)db.Database.GetDbConnection());
        foreach (var type in db.Model.GetEntityTypes())
        {
            if (StoreObjectIdentifier.Create(type, StoreObjectType.Table) is not { } table)
            {
                continue;
            }

            if (!there.TryGetValue(table.Name, out var columns))
            {
                return $"table {table.Name}";
            }

            var missing = type.GetProperties()
                .Select(p => p.GetColumnName(table))
                .FirstOrDefault(c => c is not null && !columns.Contains(c));
            if (missing is not null)
            {
                return $"column {missing} of table {table.Name}";
            }
        }

        return null;
    }

    private static Dictionary<string, HashSet<string>> ColumnsOf(SqliteConnection connection)
    {
        using var command = connection.CreateCommand();
        // Computed columns are hidden from table_info.
        command.CommandText =
            "SELECT t.name, c.name FROM sqlite_master AS t, pragma_table_xinfo(t.name) AS c WHERE t.type = 'table'";
        using var reader = command.ExecuteReader();
        Dictionary<string, HashSet<string>> columns = [];
        while (reader.Read())
        {
            var table = reader.GetString(0);
            if (!columns.TryGetValue(table, out var its))
            {
                columns[table] = its = [];
            }

            its.Add(reader.GetString(1));
        }

        return columns;
    }
}
