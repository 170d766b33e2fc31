using System.Globalization;
using System.Runtime.InteropServices;
using System.Text;
using Microsoft.Data.Sqlite;
using Microsoft.EntityFrameworkCore;
using SQLitePCL;
using WideKeel.Core.Time;
using WideKeel.Store;
using WideKeel.Store.Content;

namespace WideKeel.Server.Content;

public sealed record FacetValue(string Value, string Label, long Count);

public sealed record Facet(string Name, IReadOnlyList<FacetValue> Values);

/// <summary>
/// How many items each choice would leave. A facet counts under the choices of all the others, so that a second value
/// of the same kind can be added; those of which nothing is chosen are counted together, in one pass over what matches.
/// Source, unit and year follow from what is read anyway.
/// </summary>
internal static class Facets
{
    private const int MostValues = 200;

    /// <param name="Without">The query without this facet's own choice.</param>
    /// <param name="Value">What is read of each item, in SQL over item <c>i</c>.</param>
    /// <param name="Of">The value of what was read, where it is not that itself: asked once for each that occurs, not
    /// for each item.</param>
    /// <param name="Labels">Reads the name of each value; null where the value is its name.</param>
    /// <param name="OfNone">Name of the items that have no value; null leaves them out.</param>
    private sealed record Kind(
        string Name,
        Func<ItemQuery, ItemQuery> Without,
        string Value,
        Of? Of = null,
        string? Labels = null,
        string? OfNone = null,
        string Join = ""
    );

    private enum Of
    {
        SourceOfContainer,
        UnitOfContainer,
        YearOfDay,
    }

    private static readonly Kind[] Kinds =
    [
        new("state", q => q with { State = null }, ItemFilter.StateSql),
        new(
            "series",
            q => q with { Series = null, Unfiled = null },
            "i.SeriesId",
            Labels: "SELECT Id, Code || ' ' || Title FROM series",
            OfNone: "Under no series"
        ),
        new(
            "source",
            q => q with { Source = null },
            "i.ContainerId",
            Of.SourceOfContainer,
            "SELECT Id, Name FROM source"
        ),
        new("container", q => q with { Container = null }, "i.ContainerId", Labels: "SELECT Id, Name FROM container"),
        new("unit", q => q with { Unit = null }, "i.ContainerId", Of.UnitOfContainer, "SELECT Id, Name FROM unit"),
        new("type", q => q with { Type = null }, "i.Type"),
        new("owner", q => q with { Owner = null }, "i.Owner"),
        new("year", q => q with { Year = null }, "i.Created", Of.YearOfDay),
        new("searchable", q => q with { Searchable = null }, "i.Searchable"),
        new("size", q => q with { Size = null }, ItemFilter.SizeBandSql),
    ];

    /// <summary>An item has several of these, so it is counted on its own.</summary>
    private static readonly Kind Sensitive = new(
        "kind",
        q => q with { Kind = null },
        "f.Kind",
        Join: "JOIN item_sensitive f ON f.ItemId = i.Id"
    );

    /// <param name="filter">What the query says, within what the caller may see.</param>
    /// <param name="sensitive">Where the caller may know of sensitive data; null: nowhere.</param>
    public static async Task<List<Facet>> CountAsync(
        ItemQuery query,
        ItemFilter filter,
        ItemFilter? sensitive,
        WideKeelDb db,
        OrganisationCalendar calendar
    )
    {
        await db.Database.OpenConnectionAsync();
        var connection = (SqliteConnection)db.Database.GetDbConnection();
        var today = calendar.Today.ToDayNumber();
        var own = Kinds.Where(k => k.Without(query) != query).ToList();
        var counts = Count(connection, [.. Kinds.Except(own)], filter, today);
        foreach (var kind in own)
        {
            counts[kind.Name] = Count(
                connection,
                [kind],
                kind.Without(query).ToFilter(new(filter.Units) { GoneUnits = filter.GoneUnits }, filter.Query),
                today
            )[kind.Name];
        }

        if (sensitive is not null)
        {
            counts[Sensitive.Name] = Count(
                connection,
                [Sensitive],
                Sensitive.Without(query).ToFilter(sensitive, filter.Query),
                today
            )[Sensitive.Name];
        }

        return
        [
            .. Kinds
                .Append(Sensitive)
                .Where(k => counts.ContainsKey(k.Name))
                .Select(k => new Facet(k.Name, ValuesOf(connection, k, counts[k.Name]))),
        ];
    }

    private static Dictionary<string, Dictionary<object, long>> Count(
        SqliteConnection connection,
        IReadOnlyList<Kind> kinds,
        ItemFilter filter,
        int today
    )
    {
        if (kinds.Count == 0)
        {
            return [];
        }

        // A column that several kinds go by is read once.
        var columns = kinds.Select(k => k.Value).Distinct().ToList();
        var counts = columns.Select(_ => new ColumnCount()).ToArray();
        using (var command = connection.CreateCommand())
        {
            command.CommandText =
                $"SELECT {string.Join(", ", columns)} FROM item i {string.Join(' ', kinds.Select(k => k.Join))} WHERE {filter.Where()}";
            filter.Bind(command, today);
            using var reader = command.ExecuteReader();
            while (reader.Read())
            {
                for (var i = 0; i < counts.Length; i++)
                {
                    counts[i].Add(reader.Handle!, i);
                }
            }
        }

        var places = kinds.Any(k => k.Of is Of.SourceOfContainer or Of.UnitOfContainer) ? Places(connection) : [];
        return kinds.ToDictionary(
            k => k.Name,
            k =>
            {
                var read = counts[columns.IndexOf(k.Value)].ByValue();
                return k.Of is not { } of
                    ? read
                    : read.GroupBy(c =>
                            of switch
                            {
                                Of.SourceOfContainer => places[(long)c.Key].Source,
                                Of.UnitOfContainer => places[(long)c.Key].Unit,
                                _ => DayNumber.ToDate((int)(long)c.Key).Year,
                            }
                        )
                        .ToDictionary(g => (object)g.Key, g => g.Sum(c => c.Value));
            }
        );
    }

    /// <summary>
    /// How often each value stands in a column. It is read from the statement itself: an object for each of a million
    /// values would take longer than the query.
    /// </summary>
    private sealed class ColumnCount
    {
        private readonly Dictionary<long, long> numbers = [];
        private readonly Dictionary<string, long> texts = [];
        private readonly Dictionary<string, long>.AlternateLookup<ReadOnlySpan<char>> lookup;
        private char[] letters = new char[256];
        private long none;

        public ColumnCount() => lookup = texts.GetAlternateLookup<ReadOnlySpan<char>>();

        public void Add(sqlite3_stmt row, int column)
        {
            switch (raw.sqlite3_column_type(row, column))
            {
                case raw.SQLITE_NULL:
                    none++;
                    break;
                case raw.SQLITE_INTEGER:
                    CollectionsMarshal.GetValueRefOrAddDefault(numbers, raw.sqlite3_column_int64(row, column), out _)++;
                    break;
                default:
                    CollectionsMarshal.GetValueRefOrAddDefault(lookup, Text(row, column), out _)++;
                    break;
            }
        }

        public Dictionary<object, long> ByValue()
        {
            Dictionary<object, long> all = [];
            foreach (var (number, count) in numbers)
            {
                all[number] = count;
            }

            foreach (var (text, count) in texts)
            {
                all[text] = count;
            }

            if (none > 0)
            {
                all[DBNull.Value] = none;
            }

            return all;
        }

        private ReadOnlySpan<char> Text(sqlite3_stmt row, int column)
        {
            // Asked as bytes it stays as it is stored: UTF-8.
            var bytes = raw.sqlite3_column_blob(row, column);
            if (letters.Length < bytes.Length)
            {
                letters = new char[bytes.Length];
            }

            return letters.AsSpan(0, Encoding.UTF8.GetChars(bytes, letters));
        }
    }

    private static Dictionary<long, (long Source, long Unit)> Places(SqliteConnection connection)
    {
        using var command = connection.CreateCommand();
        command.CommandText = "SELECT Id, SourceId, UnitId FROM container";
        using var reader = command.ExecuteReader();
        Dictionary<long, (long, long)> places = [];
        while (reader.Read())
        {
            places[reader.GetInt64(0)] = (reader.GetInt64(1), reader.GetInt64(2));
        }

        return places;
    }

    private static List<FacetValue> ValuesOf(SqliteConnection connection, Kind kind, Dictionary<object, long> counts)
    {
        Dictionary<long, string> labels = [];
        if (kind.Labels is not null && counts.Count > 0)
        {
            using var command = connection.CreateCommand();
            command.CommandText = kind.Labels;
            using var reader = command.ExecuteReader();
            while (reader.Read())
            {
                labels[reader.GetInt64(0)] = reader.GetString(1);
            }
        }

        return
        [
            .. counts
                .Where(c => c.Key is not DBNull || kind.OfNone is not null)
                .Select(c =>
                    c.Key is DBNull
                        ? new FacetValue("", kind.OfNone!, c.Value)
                        : new FacetValue(
                            TextOf(kind, c.Key),
                            c.Key is long id && labels.TryGetValue(id, out var label) ? label : TextOf(kind, c.Key),
                            c.Value
                        )
                )
                .OrderByDescending(v => v.Count)
                .ThenBy(v => v.Label, StringComparer.Ordinal)
                .Take(MostValues),
        ];
    }

    private static string TextOf(Kind kind, object value)
    {
        var text = Convert.ToString(value, CultureInfo.InvariantCulture)!;
        return kind.Name == "state" ? char.ToLowerInvariant(text[0]) + text[1..] : text;
    }
}
