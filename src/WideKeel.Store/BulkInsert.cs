using System.Collections.Concurrent;
using System.Linq.Expressions;
using Microsoft.EntityFrameworkCore;
using Microsoft.EntityFrameworkCore.Metadata;

namespace WideKeel.Store;

/// <summary>
/// Inserts many rows of one table by one prepared statement; tracking each would cost several times what SQLite takes
/// for it.
/// </summary>
public static class BulkInsert
{
    private static readonly ConcurrentDictionary<Type, (string Sql, Delegate Bind)> Tables = new();

    /// <summary>Inserts rows whose keys are set. Columns and conversions are those of the model.</summary>
    public static void Insert<T>(WriteSession session, IEnumerable<T> rows)
        where T : class
    {
        var (sql, binding) = Tables.GetOrAdd(typeof(T), (_, model) => Of<T>(model), session.Db.Model);
        var bind = (Action<Statement, T>)binding;
        using var insert = new Statement(session.Connection, sql);
        foreach (var row in rows)
        {
            bind(insert, row);
            insert.Run();
        }
    }

    /// <summary>
    /// The key that the next row of a table will get, for rows that point at each other and are written together. Good
    /// until the change ends.
    /// </summary>
    public static long NextId<T>(WriteSession session)
        where T : class
    {
        using var command = session.Command(
            "SELECT 1 + COALESCE((SELECT seq FROM sqlite_sequence WHERE name = $table), 0)"
        );
        command.Parameters.AddWithValue("$table", session.Db.Model.FindEntityType(typeof(T))!.GetTableName());
        return (long)command.ExecuteScalar()!;
    }

    /// <summary>
    /// The statement for a table, and what binds a row to it: one call for each column, each with its type, so that no
    /// value is boxed.
    /// </summary>
    private static (string Sql, Delegate Bind) Of<T>(IModel model)
        where T : class
    {
        var type = model.FindEntityType(typeof(T)) ?? throw new ArgumentException($"{typeof(T).Name} has no table.");
        var table = StoreObjectIdentifier.Table(type.GetTableName()!);
        var properties = type.GetProperties().ToList();
        var (statement, row) = (Expression.Parameter(typeof(Statement)), Expression.Parameter(typeof(T)));
        var calls = properties.Select(
            (p, at) =>
            {
                var value = Provided(
                    Expression.Property(row, p.PropertyInfo!),
                    p.GetTypeMapping().Converter?.ConvertToProviderExpression
                );
                var bound =
                    value.Type == typeof(string) || value.Type == typeof(byte[])
                        ? value
                        : Expression.Convert(value, typeof(long?));
                return Expression.Call(
                    statement,
                    typeof(Statement).GetMethod(nameof(Statement.Bind), [typeof(int), bound.Type])!,
                    Expression.Constant(at + 1),
                    bound
                );
            }
        );
        var sql =
            $"INSERT INTO {table.Name} "
            + $"({string.Join(", ", properties.Select(p => $"\"{p.GetColumnName(table)}\""))}) VALUES "
            + $"({string.Join(", ", properties.Select(_ => "?"))})";
        return (sql, Expression.Lambda<Action<Statement, T>>(Expression.Block(calls), statement, row).Compile());
    }

    /// <summary>What the database is given for a value of the model; nothing for nothing.</summary>
    private static Expression Provided(Expression value, LambdaExpression? converter)
    {
        if (converter is null)
        {
            return value.Type == typeof(bool)
                ? Expression.Condition(value, Expression.Constant(1L), Expression.Constant(0L))
                : value;
        }

        if (Nullable.GetUnderlyingType(value.Type) is null || converter.Parameters[0].Type == value.Type)
        {
            return Expression.Invoke(converter, value);
        }

        var provided = Expression.Invoke(converter, Expression.Property(value, "Value"));
        var wanted = provided.Type.IsValueType ? typeof(Nullable<>).MakeGenericType(provided.Type) : provided.Type;
        return Expression.Condition(
            Expression.Property(value, "HasValue"),
            Expression.Convert(provided, wanted),
            Expression.Constant(null, wanted)
        );
    }
}
