using Microsoft.Data.Sqlite;
using Microsoft.EntityFrameworkCore;
using WideKeel.Core;
using WideKeel.Core.Content;
using WideKeel.Core.People;
using WideKeel.Core.Query;
using WideKeel.Core.Time;
using WideKeel.Server.People;
using WideKeel.Store;
using WideKeel.Store.Content;

namespace WideKeel.Server.Content;

public sealed record QueryText(string Text);

/// <summary>What is wrong with a query, and with which of its characters (UTF-16 units from 0).</summary>
public sealed record QueryMistake(string Sentence, int At, int Length);

/// <summary>A query as it is understood.</summary>
/// <param name="Text">The query that is asked; of plain words, the query that they stand for.</param>
/// <param name="Form">The same as rows; null where the text is no query.</param>
/// <param name="SortBy">The sort keys as text, without the word before them.</param>
/// <param name="Mistake">Of syntax or of meaning; null where the query can be asked.</param>
public sealed record QueryReading(string Text, QueryForm? Form, string SortBy, QueryMistake? Mistake);

public sealed record QueryWriting(QueryForm Form, string SortBy = "");

/// <param name="Kind"><c>words</c>, <c>names</c>, <c>dates</c>, <c>sizes</c> or <c>kinds</c>.</param>
public sealed record IndexView(string Name, string Kind, IReadOnlyList<string> Relations);

/// <param name="At">Where the caret stands, in UTF-16 units from 0.</param>
public sealed record CompletionRequest(string Text, int At);

/// <param name="Text">What is put in place of the characters named.</param>
/// <param name="Items">How many items have this value; null where that is not counted.</param>
public sealed record Completion(string Text, string Label, long? Items);

public sealed record Completions(CompletionKind Kind, int Start, int Length, IReadOnlyList<Completion> Offers);

/// <summary>The query language for the builder: text to rows and back, and what may stand in them.</summary>
public static class QueryEndpoints
{
    private const int MostValues = 20;
    private static readonly string[] WordRelations = ["=", "all", "any", "adj", "==", "<>"];
    private static readonly string[] OrderRelations = ["=", "<", "<=", ">", ">=", "within", "<>"];
    private static readonly string[] NameRelations = ["=", "any", "==", "<>"];

    public static void MapQueries(this IEndpointRouteBuilder api)
    {
        api.MapPost("/query/reading", Read).RequiresSignIn();
        api.MapPost("/query/writing", Write).RequiresSignIn();
        api.MapGet("/query/indexes", Indexes).Requires(Right.ReadContent);
        api.MapPost("/query/completions", Complete).Requires(Right.ReadContent);
    }

    private static Reply<QueryReading> Read(QueryText request, OrganisationCalendar calendar)
    {
        var text = PlainWords.ToQuery(request.Text);
        if (string.IsNullOrWhiteSpace(text))
        {
            return new QueryReading("", new(false, []), "", null);
        }

        var query = CqlParser.Parse(text);
        if (query.Refusal is { } malformed)
        {
            return new QueryReading(text, null, "", MistakeOf(malformed));
        }

        var compiled = QueryCompiler.Compile(query.Value, calendar.Today);
        var sortBy = CqlForms.ToText(query.Value.SortBy);
        return new QueryReading(
            text,
            QueryForms.Read(query.Value),
            sortBy,
            compiled.Refusal is { } meaningless ? MistakeOf(meaningless) : null
        );
    }

    private static Reply<QueryReading> Write(QueryWriting request, OrganisationCalendar calendar)
    {
        if (HasGap(request.Form))
        {
            return new Refusal("form-malformed", "form", "A row of the query is empty.");
        }

        if (Depth(request.Form) > CqlLimits.Nesting)
        {
            return new Refusal("query-too-deep", "form", "The groups of this query lie too deep within one another.");
        }

        var text = QueryForms.Write(request.Form);
        return Read(
            new(request.SortBy.Length == 0 || text.Length == 0 ? text : $"{text} sortby {request.SortBy}"),
            calendar
        );
    }

    /// <summary>Whether JSON's null stands where a group or a row must.</summary>
    private static bool HasGap(QueryForm? form) =>
        form?.Rows is null || form.Rows.Any(r => r is null || (r.Group is not null && HasGap(r.Group)));

    private static int Depth(QueryForm form) =>
        1 + form.Rows.Max(r => r.Group is null ? 0 : (int?)Depth(r.Group)).GetValueOrDefault();

    private static QueryMistake MistakeOf(Refusal refusal) =>
        new(refusal.Sentence, refusal.Span?.Start ?? 0, refusal.Span?.Length ?? 0);

    private static async Task<Reply<IReadOnlyList<IndexView>>> Indexes(
        Caller caller,
        WideKeelDb db,
        CancellationToken cancel
    ) => (Outcome<IReadOnlyList<IndexView>>)await IndexListAsync(caller, db, cancel);

    private static async Task<List<IndexView>> IndexListAsync(Caller caller, WideKeelDb db, CancellationToken cancel)
    {
        // Only names that items within the remit have: another unit's fields are none of the caller's business.
        var units = caller.Units(Right.ReadContent);
        var fields = await (
            from d in db.ItemDates
            join i in db.Items on d.ItemId equals i.Id
            join c in db.Containers on i.ContainerId equals c.Id
            where units == null || units.Contains(c.UnitId)
            select d.Name
        )
            .Distinct()
            .OrderBy(n => n)
            .Take(200)
            .ToListAsync(cancel);
        var texts = await (
            from f in db.ItemFields
            join i in db.Items on f.ItemId equals i.Id
            join c in db.Containers on i.ContainerId equals c.Id
            where units == null || units.Contains(c.UnitId)
            select f.Name
        )
            .Distinct()
            .OrderBy(n => n)
            .Take(200)
            .ToListAsync(cancel);
        List<IndexView> indexes = [];
        foreach (var index in QueryIndex.All)
        {
            if (index == QueryIndex.Field)
            {
                indexes.AddRange(
                    fields.Select(f => new IndexView(f == "docdate" ? f : $"field.{f}", "dates", OrderRelations))
                );
                indexes.AddRange(
                    texts.Except(fields).Select(f => new IndexView($"field.{f}", "names", OrderRelations))
                );
            }
            else if (index != QueryIndex.Sensitive)
            {
                indexes.Add(new(index.Name, index.Kind.ToString().ToLowerInvariant(), RelationsOf(index.Name)));
            }
            else if (caller.May(Right.ReadSensitive))
            {
                indexes.Add(new(index.Name, "kinds", NameRelations));
            }
        }

        return indexes;
    }

    private static async Task<Reply<Completions>> Complete(
        CompletionRequest request,
        Caller caller,
        WideKeelDb db,
        OrganisationCalendar calendar,
        CancellationToken cancel
    )
    {
        if (request.Text.Length > CqlLimits.Length)
        {
            return new Refusal("query-too-long", "text", "This query is longer than any that can be asked.");
        }

        var place = QueryCompletion.At(request.Text, request.At);
        var offers = place.Kind switch
        {
            CompletionKind.Index when place.Begun.Length == 0 => [],
            CompletionKind.Index => await IndexNamesAsync(place.Begun, caller, db, cancel),
            CompletionKind.Relation => Offer(RelationsOf(place.Index!), place.Begun),
            CompletionKind.Operator => Offer(["and", "or", "not", "prox", "sortby"], place.Begun),
            CompletionKind.Value =>
            [
                .. (await ValuesAsync(place.Index!, place.Begun, caller, db, calendar, cancel)).Select(
                    v => new Completion(CqlForms.Quoted(v.Value), v.Value, v.Items)
                ),
            ],
            _ => throw new ArgumentOutOfRangeException(nameof(request)),
        };
        return new Completions(place.Kind, place.Span.Start, place.Span.Length, offers);
    }

    private static IReadOnlyList<Completion> Offer(IEnumerable<string> words, string begun) =>
        [
            .. words
                .Where(w => w.StartsWith(begun, StringComparison.OrdinalIgnoreCase) && w.Length > begun.Length)
                .Select(w => new Completion(w, w, null)),
        ];

    private static async Task<IReadOnlyList<Completion>> IndexNamesAsync(
        string begun,
        Caller caller,
        WideKeelDb db,
        CancellationToken cancel
    ) =>
        [
            .. (await IndexListAsync(caller, db, cancel))
                .Where(i => i.Name.StartsWith(begun, StringComparison.OrdinalIgnoreCase))
                .Select(i => new Completion(i.Name, i.Name, null)),
        ];

    private static string[] RelationsOf(string name) =>
        QueryIndex.All.FirstOrDefault(i => i.Name == name)?.Kind switch
        {
            IndexKind.Words => WordRelations,
            IndexKind.Names => NameRelations,
            _ => OrderRelations,
        };

    /// <summary>Values that items within one's remit have, most frequent first.</summary>
    /// <param name="begins">Only values in which a word begins so, without case.</param>
    private static async Task<IReadOnlyList<(string Value, long Items)>> ValuesAsync(
        string index,
        string begins,
        Caller caller,
        WideKeelDb db,
        OrganisationCalendar calendar,
        CancellationToken cancel
    )
    {
        var (value, join) = index switch
        {
            "author" => ("i.Author", ""),
            "owner" => ("i.Owner", ""),
            "type" => ("i.Type", ""),
            "source" => ("s.Name", "JOIN source s ON s.Id = c.SourceId"),
            "container" => ("s.Name || '/' || c.Name", "JOIN source s ON s.Id = c.SourceId"),
            "unit" => ("u.Name", "JOIN unit u ON u.Id = c.UnitId"),
            "series" => ("s.Code", "JOIN series s ON s.Id = i.SeriesId"),
            "state" => ($"({ItemFilter.StateSql})", ""),
            "searchable" => ("i.Searchable", ""),
            "grade" => ($"lower({ItemFilter.GradeSql})", ""),
            "sensitive" when caller.May(Right.ReadSensitive) => ("f.Kind", "JOIN item_sensitive f ON f.ItemId = i.Id"),
            _ => ("NULL", ""),
        };
        await db.Database.OpenConnectionAsync(cancel);
        var connection = (SqliteConnection)db.Database.GetDbConnection();
        var visible = index == "sensitive" ? caller.Items(Right.ReadContent, Right.ReadSensitive) : caller.Items();
        using var command = connection.CreateCommand();
        command.CommandText = $"""
            SELECT x.Value, x.Count FROM (
                SELECT {value} AS Value, COUNT(*) AS Count
                FROM item i JOIN container c ON c.Id = i.ContainerId {join} WHERE {visible.Where()} GROUP BY 1) x
            WHERE x.Value IS NOT NULL AND (x.Value LIKE $begins ESCAPE '\'
                OR x.Value LIKE '% ' || $begins ESCAPE '\' OR x.Value LIKE '%/' || $begins ESCAPE '\')
            ORDER BY x.Count DESC, x.Value LIMIT $limit
            """;
        visible.Bind(command, calendar.Today.ToDayNumber());
        command.Parameters.AddWithValue("$begins", Like.BeginningWith(begins));
        command.Parameters.AddWithValue("$limit", MostValues);
        using var reader = await command.ExecuteReaderAsync(cancel);
        List<(string Value, long Items)> values = [];
        while (reader.Read())
        {
            var text = reader.GetString(0);
            values.Add((index == "state" ? Enum.Parse<ItemState>(text).Word() : text, reader.GetInt64(1)));
        }

        return values;
    }
}
