using Microsoft.Data.Sqlite;
using NodaTime;
using WideKeel.Core.Activity;
using WideKeel.Core.Query;

namespace WideKeel.Store.Activity;

/// <summary>Figures over the events that a query matches, in the database alone.</summary>
public sealed class EventFigures(SqliteConnection connection)
{
    /// <param name="cql">A query over events that compiles.</param>
    /// <param name="from">Inclusive; null for all.</param>
    /// <param name="before">Exclusive; null for all.</param>
    public long Count(string cql, Instant? from, Instant? before) => One(cql, from, before, "COUNT(*)") ?? 0;

    /// <summary>How many of the events name a country.</summary>
    public long CountWithCountry(string cql, Instant? from, Instant? before) =>
        One(cql, from, before, "COUNT(e.Country)") ?? 0;

    /// <summary>The moment of the first event; null if there is none.</summary>
    public Instant? First(string cql) => Moment(One(cql, null, null, "MIN(e.Time)"));

    /// <summary>The moment of the last event before another; null if there is none.</summary>
    public Instant? LastBefore(string cql, Instant before) => Moment(One(cql, null, before, "MAX(e.Time)"));

    private static Instant? Moment(long? milliseconds) =>
        milliseconds is { } number ? Instant.FromUnixTimeMilliseconds(number) : null;

    private long? One(string cql, Instant? from, Instant? before, string select)
    {
        var condition = QueryCompiler.Compile(cql, LocalDate.MinIsoValue, EventColumn.Vocabulary).Value.Condition;
        var sql = EventSql
            .Translate(
                connection,
                from is null && before is null
                    ? condition
                    : new Condition.All([new Condition.InstantIn(EventColumn.Time.Index, from, before), condition])
            )
            .Value;
        using var command = connection.CreateCommand();
        command.CommandText = $"SELECT {select} FROM activity_event e WHERE {sql.Where}";
        sql.Bind(command);
        return command.ExecuteScalar() is long number ? number : null;
    }
}
