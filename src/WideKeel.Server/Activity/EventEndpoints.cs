using System.Globalization;
using System.Text;
using System.Text.Json;
using System.Text.Json.Nodes;
using Microsoft.Data.Sqlite;
using Microsoft.EntityFrameworkCore;
using NodaTime;
using WideKeel.Core;
using WideKeel.Core.Activity;
using WideKeel.Core.Ledger;
using WideKeel.Core.People;
using WideKeel.Store;
using WideKeel.Store.Activity;

namespace WideKeel.Server.Activity;

/// <summary>A line of the list.</summary>
/// <param name="EventId">The id that its source gave it.</param>
public sealed record EventView(
    long Id,
    string EventId,
    Instant Time,
    string Channel,
    string? Actor,
    string? Action,
    string? Object,
    string? Container,
    string? Target,
    string? Address,
    string? Network,
    string? Country,
    string? Place,
    string? Device,
    string? Application,
    EventOutcome? Outcome,
    string? Code,
    decimal? Amount,
    string? Unit,
    string? Title
);

public sealed record EventPage(IReadOnlyList<EventView> Events, string? Next, long Total);

public sealed record FacetValue(string Value, long Count);

/// <param name="Header">As the screen names it.</param>
public sealed record EventFacet(string Name, string Header, IReadOnlyList<FacetValue> Values);

/// <param name="Start">The bucket's first moment.</param>
public sealed record TimeBucket(Instant Start, long Success, long Failure, long Other);

public sealed record TimeHistogram(
    Instant From,
    Instant Before,
    long BucketMilliseconds,
    IReadOnlyList<TimeBucket> Buckets
);

/// <summary>The whole of one event.</summary>
/// <param name="Received">When it arrived.</param>
/// <param name="Sealed">The file that holds it; null while its day is open.</param>
/// <param name="SealedBy">The ledger's entry that carries the file's root.</param>
/// <param name="Around">Counts of what else there is, each with the query that finds it.</param>
public sealed record EventDetail(
    EventView Event,
    Instant Received,
    ActorKind ActorKind,
    string? Category,
    JsonElement? Details,
    string? Original,
    string Leaf,
    string? Sealed,
    long? SealedBy,
    IReadOnlyList<AroundEvent> Around
);

/// <param name="Query">CQL.</param>
public sealed record AroundEvent(string Words, string Query, long Count);

/// <summary>Search over the events at hand.</summary>
public static class EventEndpoints
{
    private const int MostExported = 1_000_000;
    private const int FacetValues = 12;
    private const int MostBuckets = 240;

    private static readonly string[] Columns = [.. EventColumn.All.Select(c => SegmentFile.NameOf(c))];

    public static void MapEvents(this IEndpointRouteBuilder api)
    {
        api.MapGet("/events", List).Requires(Right.ReadActivity);
        api.MapGet("/events/facets", FacetsOf).Requires(Right.ReadActivity);
        api.MapGet("/events/histogram", Histogram).Requires(Right.ReadActivity);
        api.MapGet("/events/{id:long}", One).Requires(Right.ReadActivity);
        api.MapGet("/events/{id:long}/proof", Proof).Requires(Right.ReadActivity);
        api.MapGet("/events.csv", Csv).Requires(Right.ReadActivity);
        api.MapGet("/events.xlsx", Xlsx).Requires(Right.ReadActivity);
        api.MapGet("/events.jsonl", JsonLines).Requires(Right.ReadActivity);
    }

    private static async Task<Reply<EventPage>> List(
        string? query,
        DateTimeOffset? from,
        DateTimeOffset? before,
        string? cursor,
        int? limit,
        [AsParameters] ApiContext context
    )
    {
        var asked = await EventQuestion.ReadAsync(query, from, before, context);
        if (asked.Refusal is { } refusal)
        {
            return refusal;
        }

        var at = cursor is null ? null : Cursor.Read(cursor);
        if (cursor is not null && at is not { Value: long })
        {
            return new Refusal("cursor-malformed", "cursor", "This cursor is not one that the list gave out.");
        }

        var most = Math.Clamp(limit ?? 100, 1, 500);
        var question = asked.Value;
        var total = new EventTally(question).Total();
        var page = Page(question, at is { } a ? ((long)a.Value, a.Id) : null, most + 1, total);
        return new EventPage(
            [.. page.Take(most).Select(View)],
            page.Count > most
                ? Cursor.Write(page[most - 1].Event.Time.ToUnixTimeMilliseconds(), page[most - 1].Id)
                : null,
            total
        );
    }

    internal const string NewestFirst = "ORDER BY e.Time DESC, e.Id DESC";

    /// <summary>Sorting as many events as this is no matter; where more fit, they are met in the order of time.</summary>
    private const long FewEnoughToSort = 20_000;

    /// <summary>The newest first, from a place on.</summary>
    /// <param name="total">How many fit.</param>
    internal static List<StoredEvent> Page(EventQuestion question, (long Time, long Id)? at, int most, long total)
    {
        var where = at is null ? "" : "AND (e.Time, e.Id) < ($time, $id)";
        var by = total > FewEnoughToSort ? $"INDEXED BY {EventSql.ByTime}" : "";
        return
        [
            .. EventStore.Read(
                question.Connection,
                $"""
                e.Id IN (SELECT e.Id FROM activity_event e {by} WHERE {question.Where} {where} {NewestFirst} LIMIT $most) {NewestFirst}
                """,
                command =>
                {
                    question.Bind(command);
                    command.Parameters.AddWithValue("$most", most);
                    if (at is var (time, id))
                    {
                        command.Parameters.AddWithValue("$time", time);
                        command.Parameters.AddWithValue("$id", id);
                    }
                }
            ),
        ];
    }

    internal static EventView View(StoredEvent stored)
    {
        var e = stored.Event;
        return new(
            stored.Id,
            e.Id,
            e.Time,
            e.Channel ?? "",
            e.Actor,
            e.Action,
            e.Object,
            e.Container,
            e.Target,
            e.Address,
            e.Network,
            e.Place?.Country,
            e.Place?.Name,
            e.Device,
            e.Application,
            e.Outcome,
            e.Code,
            e.Amount,
            e.Unit,
            e.Title
        );
    }

    private static async Task<Reply<IReadOnlyList<EventFacet>>> FacetsOf(
        string? query,
        DateTimeOffset? from,
        DateTimeOffset? before,
        [AsParameters] ApiContext context
    )
    {
        var asked = await EventQuestion.ReadAsync(query, from, before, context);
        return asked.Refusal is { } refusal
            ? refusal
            : (Outcome<IReadOnlyList<EventFacet>>)
                new EventTally(asked.Value)
                    .Values(EventCounts.Columns, FacetValues)
                    .Zip(EventCounts.Columns, (values, c) => new EventFacet(c.Name, c.Header, values))
                    .ToList();
    }

    private static async Task<Reply<TimeHistogram>> Histogram(
        string? query,
        DateTimeOffset? from,
        DateTimeOffset? before,
        [AsParameters] ApiContext context
    )
    {
        var asked = await EventQuestion.ReadAsync(query, from, before, context);
        if (asked.Refusal is { } refusal)
        {
            return refusal;
        }

        var bounds = Bounds(asked.Value);
        var first = from?.ToUnixTimeMilliseconds() ?? bounds?.First ?? 0;
        var last = before?.ToUnixTimeMilliseconds() ?? (bounds?.Last ?? 0) + 1;
        var width = Width(last - first);
        var counts = bounds is null ? [] : new EventTally(asked.Value).ByTime(width);
        var (firstBucket, lastBucket) = (EventCounts.Floor(first, width), EventCounts.Floor(last - 1, width));
        return new TimeHistogram(
            Instant.FromUnixTimeMilliseconds(first),
            Instant.FromUnixTimeMilliseconds(last),
            width,
            bounds is null
                ? []
                :
                [
                    .. Enumerable
                        .Range(0, (int)(lastBucket - firstBucket) + 1)
                        .Select(i => firstBucket + i)
                        .Select(at =>
                        {
                            var b = counts.GetValueOrDefault(at);
                            return new TimeBucket(
                                Instant.FromUnixTimeMilliseconds(at * width),
                                b.Success,
                                b.Failure,
                                b.All - b.Success - b.Failure
                            );
                        }),
                ]
        );
    }

    /// <summary>The first and the last moment of what is asked for; null where there is nothing.</summary>
    private static (long First, long Last)? Bounds(EventQuestion question)
    {
        // One by one: SQLite takes the end of an index for a single MIN or MAX only.
        var (first, last) = (End("MIN"), End("MAX"));
        return first is null ? null : (first.Value, last!.Value);

        long? End(string which) =>
            question.Rows($"SELECT {which}(e.Time)", "", r => r.IsDBNull(0) ? (long?)null : r.GetInt64(0))[0];
    }

    /// <summary>The width of a bucket, in milliseconds: the finest usual one that gives few enough.</summary>
    private static long Width(long span)
    {
        long[] usual = [60_000, 300_000, 900_000, 3_600_000, 3 * 3_600_000, 6 * 3_600_000, 86_400_000, 7 * 86_400_000];
        return usual.FirstOrDefault(w => span / w < MostBuckets, 28L * 86_400_000);
    }

    private static async Task<Reply<EventDetail>> One(long id, [AsParameters] ApiContext context)
    {
        if (await FindAsync(id, context) is not { } found)
        {
            return Problems.NotFound("event");
        }

        var e = found.Event;
        var segment = found.SegmentId is { } s
            ? await context.Db.Segments.AsNoTracking().SingleOrDefaultAsync(x => x.Id == s, context.Cancel)
            : null;
        var channel = await context
            .Db.Channels.AsNoTracking()
            .SingleAsync(c => c.Id == found.ChannelId, context.Cancel);
        var described = segment is null ? null : SealJob.Described(channel, segment);
        return new EventDetail(
            View(found),
            e.Received!.Value,
            e.ActorKind,
            e.Category,
            e.Details is null ? null : JsonSerializer.Deserialize<JsonElement>(e.Details),
            e.Original,
            Convert.ToHexStringLower(EventLine.LeafOf(e)),
            described?.Name,
            described is null ? null : await EntryOfAsync(described, context),
            await AroundAsync(e, context)
        );
    }

    /// <summary>An event that the caller may read; null where there is none.</summary>
    internal static async Task<StoredEvent?> FindAsync(long id, ApiContext context) =>
        (await FindAsync([id], context)).SingleOrDefault();

    /// <summary>Those of some events that the caller may read, in the order of time.</summary>
    internal static async Task<IReadOnlyList<StoredEvent>> FindAsync(IReadOnlyCollection<long> ids, ApiContext context)
    {
        var access = await ChannelAccess.OfAsync(context.Caller, context.Db, context.Cancel);
        await context.Db.Database.OpenConnectionAsync(context.Cancel);
        return
        [
            .. EventStore.Read(
                (SqliteConnection)context.Db.Database.GetDbConnection(),
                $"e.Id IN (SELECT value FROM json_each($ids)) AND {access.Where} ORDER BY e.Time, e.Id",
                command =>
                {
                    access.Bind(command);
                    command.Parameters.AddWithValue("$ids", System.Text.Json.JsonSerializer.Serialize(ids));
                }
            ),
        ];
    }

    /// <summary>What else there is of the same person, address, device, object and code, within an hour and at all.</summary>
    private static async Task<IReadOnlyList<AroundEvent>> AroundAsync(ActivityEvent e, ApiContext context)
    {
        List<(string Words, string Query)> asked = [];
        foreach (
            var (words, column) in new[]
            {
                ("by this person", EventColumn.Actor),
                ("from this address", EventColumn.Address),
                ("on this device", EventColumn.Device),
                ("on this object", EventColumn.Object),
                ("given to the same", EventColumn.Target),
                ("with this code", EventColumn.Code),
            }
        )
        {
            if (column.ValueOf(e) is { } value)
            {
                asked.Add((words, $"{column.Name} == {Quoted(value)}"));
            }
        }

        var hour = Duration.FromHours(1);
        var within = $"time within \"{EventLine.Text(e.Time - hour)} {EventLine.Text(e.Time + hour)}\"";
        List<AroundEvent> around = [];
        foreach (var (words, query) in asked)
        {
            around.Add(new(words, query, await CountAsync(query, context)));
            var near = $"{query} and {within}";
            around.Add(new($"{words}, ± 1 hour", near, await CountAsync(near, context)));
        }

        return around;
    }

    /// <summary>How many events a query finds.</summary>
    internal static async Task<long> CountAsync(string query, ApiContext context)
    {
        var question = (await EventQuestion.ReadAsync(query, null, null, context)).Value;
        return new EventTally(question).Total();
    }

    /// <summary>A value as a term of CQL that means itself, whatever characters it has.</summary>
    internal static string Quoted(string value)
    {
        var quoted = new StringBuilder("\"");
        foreach (var c in value)
        {
            quoted.Append(c is '"' or '\\' or '*' or '?' or '^' ? $"\\{c}" : $"{c}");
        }

        return quoted.Append('"').ToString();
    }

    internal static async Task<long?> EntryOfAsync(SealedSegment segment, ApiContext context)
    {
        var hash = segment.FileHash;
        return await context
            .Db.Ledger.AsNoTracking()
            .Where(l => l.Verb == SealedSegment.Verb && l.Body.Contains(hash))
            .Select(l => (long?)l.Sequence)
            .FirstOrDefaultAsync(context.Cancel);
    }

    /// <summary>
    /// The event with its proof of inclusion (RFC 6962 §2.1.1) in its segment, and the number of the segment's entry.
    /// </summary>
    private static async Task<IResult> Proof(long id, ArchiveFiles archive, [AsParameters] ApiContext context)
    {
        if (await FindAsync(id, context) is not { } found)
        {
            return (Reply<Done>)Problems.NotFound("event");
        }

        var leaf = Convert.ToHexStringLower(EventLine.LeafOf(found.Event));
        if (
            await new SegmentProofs(archive, context).OfAsync(found.Event.Channel!, found.Event.Time, leaf)
            is not { } proof
        )
        {
            return (Reply<Done>)
                Refusal.Conflict("not-sealed", null, "Its day is not sealed yet; a proof can be had afterwards.");
        }

        proof.Insert(0, "event", EventLine.Write(found.Event));
        proof.Insert(1, "leaf", leaf);
        return Results.Text(proof.ToJsonString(), "application/json");
    }

    private static Task<IResult> Csv(
        string? query,
        DateTimeOffset? from,
        DateTimeOffset? before,
        [AsParameters] ApiContext context
    ) =>
        ExportAsync(
            query,
            from,
            before,
            context,
            events => CsvAnswer.WriteAsync(context.Http, "events.csv", Columns, Cells(events), context.Cancel)
        );

    private static Task<IResult> Xlsx(
        string? query,
        DateTimeOffset? from,
        DateTimeOffset? before,
        [AsParameters] ApiContext context
    ) =>
        ExportAsync(
            query,
            from,
            before,
            context,
            events => XlsxAnswer.WriteAsync(context.Http, "events.xlsx", Columns, Cells(events), context.Cancel)
        );

    /// <param name="shape">“ocsf” for the shape of that schema; ours where it is missing.</param>
    private static Task<IResult> JsonLines(
        string? query,
        DateTimeOffset? from,
        DateTimeOffset? before,
        string? shape,
        [AsParameters] ApiContext context
    ) =>
        shape is not (null or "" or "ocsf")
            ? Task.FromResult<IResult>(
                (Reply<Done>)new Refusal("shape-unknown", "shape", $"There is no shape “{shape}”; “ocsf” is one.")
            )
            : ExportAsync(
                query,
                from,
                before,
                context,
                async events =>
                {
                    context.Http.Response.ContentType = "application/x-ndjson";
                    context.Http.Response.Headers.ContentDisposition = "attachment; filename=\"events.jsonl\"";
                    await using var text = new StreamWriter(context.Http.Response.Body, new UTF8Encoding(false));
                    foreach (var e in events)
                    {
                        var line = shape == "ocsf" ? OcsfLine.Write(e.Event) : EventLine.Write(e.Event);
                        await text.WriteAsync(line.ToJsonString().AsMemory(), context.Cancel);
                        await text.WriteAsync('\n');
                    }

                    return Results.Empty;
                }
            );

    private static async Task<IResult> ExportAsync(
        string? query,
        DateTimeOffset? from,
        DateTimeOffset? before,
        ApiContext context,
        Func<IEnumerable<StoredEvent>, Task<IResult>> write
    )
    {
        var asked = await EventQuestion.ReadAsync(query, from, before, context);
        if (asked.Refusal is { } refusal)
        {
            return (Reply<Done>)refusal;
        }

        var question = asked.Value;
        return await write(
            EventStore.Read(
                question.Connection,
                string.Create(CultureInfo.InvariantCulture, $"{question.Where} {NewestFirst} LIMIT {MostExported}"),
                question.Bind
            )
        );
    }

    private static IAsyncEnumerable<object?[]> Cells(IEnumerable<StoredEvent> events) =>
        events.Select(e => EventColumn.All.Select(c => (object?)c.ValueOf(e.Event)).ToArray()).ToAsyncEnumerable();
}
