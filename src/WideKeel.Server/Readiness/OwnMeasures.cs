using DuckDB.NET.Data;
using Microsoft.EntityFrameworkCore;
using WideKeel.Core;
using WideKeel.Server.Activity;
using WideKeel.Store.Readiness;

namespace WideKeel.Server.Readiness;

/// <summary>
/// Measures that people write in SQL: each row is a subject, with columns <c>id</c>, <c>ok</c>, and where wanted
/// <c>name</c>, <c>unit</c>, <c>why</c> and <c>link</c>. A measure sees what the person who wrote it may read.
/// </summary>
internal static class OwnMeasures
{
    private const string Prefix = "own-";
    private const int MostSubjects = 10_000;

    public static string NameOf(OwnMeasureRow row) =>
        string.Create(System.Globalization.CultureInfo.InvariantCulture, $"{Prefix}{row.Id}");

    /// <summary>The number in a measure's name; null where it is one of the product's own.</summary>
    public static long? IdOf(string name) =>
        name.StartsWith(Prefix, StringComparison.Ordinal)
        && long.TryParse(name.AsSpan(Prefix.Length), System.Globalization.CultureInfo.InvariantCulture, out var id)
            ? id
            : null;

    /// <summary>
    /// As a measure among the product's own. One that fails is wrong, and says why: it must not look as if there were
    /// nothing to look at.
    /// </summary>
    public static Measure Of(OwnMeasureRow row) =>
        new(
            NameOf(row),
            row.Title,
            row.Says,
            row.Area,
            async asked =>
            {
                var caller = new Caller();
                await caller.LoadAsync(row.PersonId, asked.Db);
                var answer = await AskAsync(
                    row.Sql,
                    asked.Services.GetRequiredService<StatementEngine>(),
                    new(caller, asked.Db, asked.Calendar, asked.Cancel)
                );
                return answer.Refused
                    ?
                    [
                        new(
                            "statement",
                            row.Title,
                            "",
                            false,
                            $"The statement has no answer. {answer.Refusal!.Sentence}",
                            ""
                        ),
                    ]
                    : answer.Value;
            }
        )
        {
            IsCostly = true,
            Revision = row.Version,
        };

    /// <summary>The subjects that a statement gives; a refusal where it does not run, or gives something else.</summary>
    public static async Task<Outcome<IReadOnlyList<MeasuredSubject>>> AskAsync(
        string sql,
        StatementEngine engine,
        StatementGround ground
    )
    {
        List<MeasuredSubject> subjects = [];
        Refusal? malformed = null;
        var refusal = await engine.RunAsync(
            new(sql),
            ground,
            reader =>
            {
                malformed = Read(reader, subjects);
                return Task.CompletedTask;
            }
        );
        return (refusal ?? malformed) is { } why ? why : subjects;
    }

    private static Refusal? Read(DuckDBDataReader reader, List<MeasuredSubject> subjects)
    {
        var columns = Enumerable
            .Range(0, reader.FieldCount)
            .ToLookup(reader.GetName, i => i, StringComparer.OrdinalIgnoreCase);
        if (!columns.Contains("id") || !columns.Contains("ok"))
        {
            return new(
                "columns-missing",
                "sql",
                "The answer needs a column “id”, which tells each row from the others, and “ok”, which is true or false."
            );
        }

        HashSet<string> ids = new(StringComparer.Ordinal);
        while (reader.Read())
        {
            if (Text("id") is not { Length: > 0 } id || !ids.Add(id))
            {
                return new("id-repeated", "sql", $"Row {ids.Count + 1} has no id, or one that another row has.");
            }

            if (reader.GetValue(columns["ok"].First()) is not bool ok)
            {
                return new("ok-malformed", "sql", $"In the row of “{id}”, ok is neither true nor false.");
            }

            if (subjects.Count == MostSubjects)
            {
                return new("too-many-rows", "sql", "A measure has at most 10,000 rows; count coarser things.");
            }

            var link = Text("link") is { } path && path.StartsWith('/') ? path : "";
            subjects.Add(new(id, Text("name") ?? id, Text("unit") ?? "", ok, Text("why") ?? "", link));
        }

        return null;

        string? Text(string column) =>
            columns.Contains(column) && columns[column].First() is var at && !reader.IsDBNull(at)
                ? Convert.ToString(reader.GetValue(at), System.Globalization.CultureInfo.InvariantCulture)
                : null;
    }
}
