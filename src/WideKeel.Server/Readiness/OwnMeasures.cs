using System.Text.Json;
using Microsoft.Data.Sqlite;
using Microsoft.EntityFrameworkCore;
using WideKeel.Core;
using WideKeel.Core.People;
using WideKeel.Core.Time;
using WideKeel.Server.Activity;
using WideKeel.Server.Content;
using WideKeel.Store.Readiness;

namespace WideKeel.Server.Readiness;

/// <summary>
/// Measures that people write: in SQL, where each row is a subject, with columns <c>id</c>, <c>ok</c>, and where wanted
/// <c>name</c>, <c>unit</c>, <c>why</c> and <c>link</c>; or as a query in CQL that must find so many items or events. A
/// measure sees what the person who wrote it may read.
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
                await caller.LoadAsync(row.PersonId, asked.Db, asked.Calendar.Today);
                var answer = await AskAsync(
                    new(row.Over, row.Question, row.Least, row.Most),
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
                            $"The question has no answer. {answer.Refusal!.Sentence}",
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

    /// <summary>What a question is answered with; a refusal where it has no answer.</summary>
    public static Task<Outcome<IReadOnlyList<MeasuredSubject>>> AskAsync(
        OwnQuestion question,
        StatementEngine engine,
        StatementGround ground
    ) =>
        question.Over == MeasureOver.Statement
            ? RowsAsync(question.Question, engine, ground)
            : CountAsync(question, ground);

    /// <summary>How many a query finds, as one subject that opens into them.</summary>
    private static async Task<Outcome<IReadOnlyList<MeasuredSubject>>> CountAsync(
        OwnQuestion question,
        StatementGround ground
    )
    {
        var isItems = question.Over == MeasureOver.Items;
        if (Check(question, isItems, ground.Caller) is { } refusal)
        {
            return refusal;
        }

        var counted = await (isItems ? ItemsAsync(question.Question, ground) : EventsAsync(question.Question, ground));
        if (counted.Refused)
        {
            return counted.Refusal!;
        }

        var found = Wording.Plural(counted.Value, isItems ? "item" : "event");
        return new MeasuredSubject[]
        {
            new(
                "count",
                found,
                "",
                counted.Value >= (question.Least ?? 0) && counted.Value <= (question.Most ?? long.MaxValue),
                $"{found}; {BoundsInWords(question)} expected",
                $"{(isItems ? "/content" : "/activity/search")}?cql={Uri.EscapeDataString(question.Question)}"
                    + (isItems ? "" : "&days=all")
            ),
        };
    }

    private static Refusal? Check(OwnQuestion question, bool isItems, Caller caller)
    {
        if (string.IsNullOrWhiteSpace(question.Question))
        {
            return new Refusal("query-missing", "question", "Write what is counted as a query.");
        }

        if (
            (question.Least, question.Most) is (null, null)
            || question.Least < 0
            || question.Most < (question.Least ?? 0)
        )
        {
            return new Refusal(
                "bounds-malformed",
                "most",
                "Say how many there must be at least, or may be at most; the most is not below the least."
            );
        }

        // Nothing is found by those who may read nothing, which must not look like a number.
        if (!caller.May(isItems ? Right.ReadContent : Right.ReadActivity))
        {
            return Refusal.Forbidden(
                "not-allowed",
                "over",
                $"Whoever writes it may not read {(isItems ? "content" : "activity")}."
            );
        }

        return null;
    }

    private static string BoundsInWords(OwnQuestion question) =>
        (question.Least, question.Most) switch
        {
            (null, { } most) => $"at most {Wording.Number(most)}",
            ({ } least, null) => $"at least {Wording.Number(least)}",
            var (least, most) => $"{Wording.Number(least ?? 0)} to {Wording.Number(most ?? 0)}",
        };

    private static async Task<Outcome<long>> ItemsAsync(string query, StatementGround ground)
    {
        var filter = await new ItemQuery { Cql = query }.ToFilterAsync(ground.Caller, ground.Db, ground.Calendar);
        if (filter.Refused)
        {
            return filter.Refusal!;
        }

        await ground.Db.Database.OpenConnectionAsync(ground.Cancel);
        return ItemEndpoints
            .Count(
                filter.Value,
                (SqliteConnection)ground.Db.Database.GetDbConnection(),
                ground.Calendar.Today.ToDayNumber()
            )
            .Items;
    }

    private static async Task<Outcome<long>> EventsAsync(string query, StatementGround ground)
    {
        var asked = await EventQuestion.ReadAsync(query, null, null, ground);
        return asked.Refused ? asked.Refusal! : new EventTally(asked.Value).Total();
    }

    private static async Task<Outcome<IReadOnlyList<MeasuredSubject>>> RowsAsync(
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
            async answer => malformed = await ReadAsync(answer, subjects)
        );
        return (refusal ?? malformed) is { } why ? why : subjects;
    }

    private static async Task<Refusal?> ReadAsync(StatementRows answer, List<MeasuredSubject> subjects)
    {
        var columns = answer.Columns.Index().ToLookup(c => c.Item.Name, c => c.Index, StringComparer.OrdinalIgnoreCase);
        if (!columns.Contains("id") || !columns.Contains("ok"))
        {
            return new(
                "columns-missing",
                "question",
                "The answer needs a column “id”, which tells each row from the others, and “ok”, which is true or false."
            );
        }

        HashSet<string> ids = new(StringComparer.Ordinal);
        await foreach (var row in answer.ReadAsync())
        {
            if (Text(row, "id") is not { Length: > 0 } id || !ids.Add(id))
            {
                return new("id-repeated", "question", $"Row {ids.Count + 1} has no id, or one that another row has.");
            }

            var ok = row[columns["ok"].First()]?.ValueKind;
            if (ok is not (JsonValueKind.True or JsonValueKind.False))
            {
                return new("ok-malformed", "question", $"In the row of “{id}”, ok is neither true nor false.");
            }

            if (subjects.Count == MostSubjects)
            {
                return new("too-many-rows", "question", "A measure has at most 10,000 rows; count coarser things.");
            }

            var link = Text(row, "link") is { } path && path.StartsWith('/') ? path : "";
            subjects.Add(
                new(
                    id,
                    Text(row, "name") ?? id,
                    Text(row, "unit") ?? "",
                    ok == JsonValueKind.True,
                    Text(row, "why") ?? "",
                    link
                )
            );
        }

        return null;

        string? Text(JsonElement?[] row, string column) =>
            columns.Contains(column) ? row[columns[column].First()]?.ToString() : null;
    }
}
